"""The proof as a file: what was measured on released bytes, and the same files held against it anywhere.

A record needs neither job nor database. It is made of the released bytes as the second readers read them,
after the proof held; whoever has it reads a file anew and compares every number. JSON, with a schema that is
published (docs/proof-record.schema.json).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.readings import Anchor, Gauge, GaugeKind
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.proof.bodies.point_transform import MM
from aimtrue.core.proof.bodies.readings import lengths
from aimtrue.core.proof.released import ReadBackFile, read_back, reader_of
from aimtrue.core.proof.surface import Points, Surface, area, bounds, bounds_a_volume, volume

SAME_SHARE = 2e-4
"""Three sizes are off by one scale when the shares that they are off by differ by less than this."""
_FITTED = ("diameter", "radius")


class ReadingRecord(Value):
    """A length on a released body: where it is, by faces of the file, and how long it was found."""

    name: str
    kind: GaugeKind
    places: tuple[Anchor, ...]
    stretch: float = 1.0
    typed: str = ""
    found_mm: tuple[float, ...]


class BodyRecord(Value):
    """A body as it was read back, in mm."""

    name: str
    triangles: int
    low_mm: Vec3
    high_mm: Vec3
    volume_mm3: float
    area_mm2: float
    closed: bool
    readings: tuple[ReadingRecord, ...] = ()


class SourceRecord(Value):
    """The file that a body came from, and how its unit was settled."""

    name: str
    sha256: str
    format: str
    unit: Unit
    how: str


class FileRecord(Value):
    """A released file.

    ``objects`` is how many the file holds where bodies are one in it, None where it is one each. ``chain``
    says how numbers of the sources became its sizes, ``checks`` how many comparisons its proof held in,
    ``accepted`` what was let pass on purpose.
    """

    name: str
    format: str
    unit: Unit
    bytes: int
    sha256: str
    bodies: tuple[BodyRecord, ...]
    objects: int | None = None
    sources: tuple[SourceRecord, ...]
    chain: str
    checks: int
    worst_mm: float
    accepted: tuple[str, ...] = ()


class Record(Value):
    """The files of a release, and what was measured on them."""

    record: Literal["Aim True proof record"] = "Aim True proof record"
    version: Literal[1] = 1
    job: str
    files: tuple[FileRecord, ...] = Field(min_length=1)


def as_json(record: Record) -> bytes:
    """Return a record as the file that goes beside what it tells of."""
    return record.model_dump_json(indent=1).encode()


ENDINGS = {"3mf": ".3mf", "stl": ".stl", "stl-ascii": ".stl", "obj": ".obj", "ply": ".ply", "step": ".step"}


@dataclass(frozen=True)
class HeldNumber:
    """One number of a file held against its record."""

    file: str
    what: str
    asked: str
    found: str
    off: float
    holds: bool


@dataclass(frozen=True)
class ReadingToRecord:
    """A reading that is to be recorded: of which body of the file, by number."""

    body: int
    name: str
    gauge: Gauge
    typed: str


def measured(
    kind: str,
    unit: Unit,
    data: bytes,
    names: Sequence[str],
    counts: Sequence[int],
    readings: Sequence[ReadingToRecord],
) -> tuple[tuple[BodyRecord, ...], int]:
    """Measure the bodies of a released file; return them, and how many objects the file has.

    Args:
        kind, unit, data: the file as it was written.
        names: of its bodies, in their order.
        counts: their triangles, by which files without objects are divided.
        readings: lengths on them.

    Raises:
        AimTrueError: the second reader cannot read it.
    """
    objects = read_back(kind, data).objects
    surfaces = divided_into_objects(objects, counts, mm_per(kind, unit))
    bodies = tuple(
        body_record(name, surface, [reading for reading in readings if reading.body == number])
        for number, (name, surface) in enumerate(zip(names, surfaces, strict=True))
    )
    return bodies, len(objects)


def mm_per(kind: str, unit: Unit) -> float:
    """Return mm per number as it is read back: the kernel brings STEP of any unit to mm itself."""
    return 1.0 if kind == "step" else MM[unit]


def divided_into_objects(objects: list[Surface], counts: Sequence[int], per: float) -> list[Surface]:
    """Return the objects of a file in mm; where it holds all as one, divided by the triangles of each."""
    surfaces = [surface.moved(surface.points * per) for surface in objects]
    if len(surfaces) == len(counts):
        return surfaces
    ends = np.cumsum(counts)
    whole = surfaces[0]
    return [
        Surface(whole.points, whole.faces[end - count : end]) for end, count in zip(ends, counts, strict=True)
    ]


def body_record(name: str, surface: Surface, readings: Sequence[ReadingToRecord]) -> BodyRecord:
    """Return what a record tells of a body as it was read back."""
    corners = surface.corners
    low, high = bounds(corners).tolist()
    reading_records = []
    for reading in readings:
        places = reading.gauge.anchors
        record = ReadingRecord(
            name=reading.name,
            kind=reading.gauge.kind,
            places=places,
            stretch=reading.gauge.stretch,
            typed=reading.typed,
            found_mm=(),
        )
        length = reading_length(record, surface)
        if length is not None:
            reading_records.append(record.model_copy(update={"found_mm": length}))
    return BodyRecord(
        name=name,
        triangles=len(surface.faces),
        low_mm=(low[0], low[1], low[2]),
        high_mm=(high[0], high[1], high[2]),
        volume_mm3=volume(corners),
        area_mm2=area(corners),
        closed=bounds_a_volume(corners),
        readings=tuple(reading_records),
    )


def reading_length(reading: ReadingRecord, surface: Surface) -> tuple[float, ...] | None:
    """Return a reading measured at its places on what was read; None of one that has none, or too few."""
    places = reading.places
    if len(places) < 2 or any(place.face >= len(surface.faces) for place in places):
        return None
    corners = surface.corners[[place.face for place in places]]
    points = np.einsum("ij,ijk->ik", np.array([place.weights for place in places]), corners)
    if reading.kind in _FITTED:
        radius = _radius(points)
        return None if radius is None else ((2.0 if reading.kind == "diameter" else 1.0) * radius,)
    gauge = Gauge(kind=reading.kind, stretch=reading.stretch)
    needed = {"points": 2, "wall": 2, "depth": 2, "faces": 6, "angle": 6, "perimeter": 3}.get(reading.kind)
    if needed is None or len(points) < needed:
        return None
    return lengths(gauge, points)


def _radius(points: Points) -> float | None:
    """The radius of the circle that fits (n, 3) places in a plane best, by least squares (Kåsa 1976)."""
    if len(points) < 3:
        return None
    away = points - points.mean(axis=0)
    flat = away @ np.linalg.svd(away, full_matrices=False)[2][:2].T
    rows = np.column_stack([2 * flat, np.ones(len(flat))])
    (x, y, rest), *_ = np.linalg.lstsq(rows, (flat**2).sum(axis=1), rcond=None)
    square = rest + x * x + y * y
    return math.sqrt(square) if square > 0 else None


def read_released(kind: str, data: bytes) -> ReadBackFile:
    """Read a file that somebody gave, who may have saved it anew by another program."""
    try:
        return read_back(kind, data)
    except AimTrueError as error:
        why = f": {error.__cause__}" if error.__cause__ else ", or it holds nothing"
        raise AimTrueError(
            "not-readable",
            f"{reader_of(kind)} cannot read this {kind.upper()}{why}",
            remedy="it is not as it was released; release it again, or save it anew",
        ) from error
