"""Tool paths read back: what a file of G-code lays, where, and in which layers.

It knows the few words that the file may have by their text alone, and nothing of how paths are made.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from itertools import pairwise

from aimtrue.core.model.value import Vec3
from aimtrue.core.proof.values import Check, judged, same

_WORD = re.compile(r"([GMXYZEF])(-?\d+(?:\.\d+)?)")
_READ_MM = 5e-4
"""Coordinates are written to a thousandth of a mm."""


@dataclass(eq=False)
class ReadPaths:
    """What a file of G-code comes to, in mm.

    Attributes:
        low, high: bounds of what is laid.
        tops: heights at which something is laid, in their order.
        strand_mm: of strand used; travel_mm of moves without.
        odd: the first line that is none of the known ones, with its number; empty where all are.
    """

    low: list[float] = field(default_factory=lambda: [math.inf] * 3)
    high: list[float] = field(default_factory=lambda: [-math.inf] * 3)
    tops: list[float] = field(default_factory=list)
    strand_mm: float = 0.0
    travel_mm: float = 0.0
    odd: str = ""


def read_paths(lines: Iterable[str]) -> ReadPaths:
    """Follow the moves of a file, line by line."""
    read = ReadPaths()
    at = [0.0, 0.0, 0.0]
    for number, line in enumerate(lines, start=1):
        text = line.split(";", 1)[0].strip()
        if not text or text in ("G21", "G90", "M82"):
            continue
        words = dict(_WORD.findall(text))
        if words.get("G") not in ("0", "1") or "M" in words or _WORD.sub("", text).strip():
            read.odd = read.odd or f"line {number}: {text}"
            continue
        ends = [float(words.get(axis, before)) for axis, before in zip("XYZ", at, strict=True)]
        if "E" in words:
            _lay(read, at, ends, float(words["E"]), number)
        else:
            read.travel_mm += math.dist(at, ends)
        at = ends
    return read


def _lay(read: ReadPaths, start: list[float], end: list[float], strand_mm: float, number: int) -> None:
    if strand_mm < read.strand_mm - 1e-9:
        read.odd = read.odd or f"line {number}: the strand runs back"
    read.strand_mm = max(read.strand_mm, strand_mm)
    if not read.tops or abs(read.tops[-1] - end[2]) > _READ_MM:
        read.tops.append(end[2])
    for place in (start, end):
        for axis in range(3):
            read.low[axis] = min(read.low[axis], place[axis])
            read.high[axis] = max(read.high[axis], place[axis])


@dataclass(frozen=True)
class PathClaim:
    """What the paths of a plate are said to be.

    Attributes:
        low, high: bounds of the bodies on the plate, with what is drawn around and held; nothing is laid
            outside.
        room: extents of the machine's volume.
        layer_mm, layers: how high each is, and how many at most.
        strand_diameter_mm, volume_mm3: of the strand, and what is laid.
    """

    low: Vec3
    high: Vec3
    room: Vec3
    layer_mm: float
    layers: int
    strand_diameter_mm: float
    volume_mm3: float


def path_checks(read: ReadPaths, claim: PathClaim) -> Iterator[Check]:
    """Hold paths that were read back to what is said of them."""
    yield same("paths", "every line is known", "yes", read.odd or "yes")
    if not read.tops:
        yield same("paths", "something is laid", "yes", "no")
        return
    yield from _bound_checks(read, claim)
    yield from _layer_checks(read, claim)
    laid = read.strand_mm * math.pi * claim.strand_diameter_mm**2 / 4
    limit = 1e-3 * claim.volume_mm3 + 1e-2
    off = abs(laid - claim.volume_mm3)
    yield judged("paths", "volume laid", f"{claim.volume_mm3:.2f} mm³", f"{laid:.2f} mm³", off, limit)


def _bound_checks(read: ReadPaths, claim: PathClaim) -> Iterator[Check]:
    limit = 2 * _READ_MM
    low = max(said - place for said, place in zip(claim.low, read.low, strict=True))
    high = max(place - said for said, place in zip(claim.high, read.high, strict=True))
    out = max(low, high, 0.0)
    says = "laid within what stands on the plate"
    yield judged("paths", says, _size(claim.low, claim.high), _size(read.low, read.high), out, limit)
    beyond = max(place - room for place, room in zip(read.high, claim.room, strict=True))
    beyond = max(beyond, -min(read.low), 0.0)
    where = f"{beyond:.3f} mm outside" if beyond > limit else "inside"
    yield judged("paths", "laid within the machine", "inside", where, beyond, limit)


def _size(low: Iterable[float], high: Iterable[float]) -> str:
    return " × ".join(f"{b - a:.3f}" for a, b in zip(low, high, strict=True)) + " mm"


def _layer_checks(read: ReadPaths, claim: PathClaim) -> Iterator[Check]:
    off = max(abs(top - round(top / claim.layer_mm) * claim.layer_mm) for top in read.tops)
    says = "layers lie at their heights"
    yield judged("paths", says, f"every {claim.layer_mm:g} mm", f"{off:.2g} mm off", off, 2 * _READ_MM)
    more = float(max(0, len(read.tops) - claim.layers))
    yield judged("paths", "number of layers", f"{claim.layers} at most", str(len(read.tops)), more, 0.0)
    rising = all(low < high for low, high in pairwise(read.tops))
    yield same("paths", "layers rise", "yes", "yes" if rising else "no")
