"""This module lists thread sizes and gives the profile of a thread: metric and unified inch.

Sizes: ISO 261:1998 (metric, general plan), ASME B1.1-2019 (UNC and UNF). Profile: ISO 68-1:1998 and
ISO 724:1993; the root of an external thread: ISO 965-1:2013, d3 = d - 1.22687 P.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from aimtrue.core.errors import Refused

INCH = 25.4
METRIC = "ISO 261:1998"
UNIFIED = "ASME B1.1-2019"


@dataclass(frozen=True)
class ThreadSize:
    """A size of thread.

    Attributes:
        name: as it is written: ``M5`` or ``#10``, of a fine one with its pitch.
        size: the name of the diameter alone.
        diameter: nominal, in mm.
        pitch: in mm.
        coarse: whether it is the coarse pitch, which a size has when none is named.
        table: the standard.
    """

    name: str
    size: str
    diameter: float
    pitch: float
    coarse: bool
    table: str

    @property
    def minor(self) -> float:
        """The basic minor diameter D1 of an internal thread: D - 1.082532 P."""
        return self.diameter - 2 * 5 / 8 * HEIGHT * self.pitch

    @property
    def root(self) -> float:
        """The root diameter d3 of an external thread: d - 1.226869 P."""
        return self.diameter - 2 * 17 / 24 * HEIGHT * self.pitch

    @property
    def effective(self) -> float:
        """The basic pitch diameter d2: d - 0.649519 P."""
        return self.diameter - 2 * 3 / 8 * HEIGHT * self.pitch


HEIGHT = math.sqrt(3) / 2
"""Height of the fundamental triangle of a 60° thread, as a share of its pitch."""

_METRIC_PITCHES: dict[float, tuple[float, ...]] = {
    1.6: (0.35, 0.2),
    2.0: (0.4, 0.25),
    2.5: (0.45, 0.35),
    3.0: (0.5, 0.35),
    4.0: (0.7, 0.5),
    5.0: (0.8, 0.5),
    6.0: (1.0, 0.75),
    8.0: (1.25, 1.0, 0.75),
    10.0: (1.5, 1.25, 1.0, 0.75),
    12.0: (1.75, 1.5, 1.25, 1.0),
    14.0: (2.0, 1.5, 1.25, 1.0),
    16.0: (2.0, 1.5, 1.0),
    18.0: (2.5, 2.0, 1.5, 1.0),
    20.0: (2.5, 2.0, 1.5, 1.0),
    22.0: (2.5, 2.0, 1.5, 1.0),
    24.0: (3.0, 2.0, 1.5, 1.0),
}
"""Pitches of each nominal diameter, the coarse one first; ISO 261, table 2."""

_UNIFIED_TURNS: tuple[tuple[str, float, int, int], ...] = (
    ("#2", 0.086, 56, 64),
    ("#3", 0.099, 48, 56),
    ("#4", 0.112, 40, 48),
    ("#5", 0.125, 40, 44),
    ("#6", 0.138, 32, 40),
    ("#8", 0.164, 32, 36),
    ("#10", 0.190, 24, 32),
    ("#12", 0.216, 24, 28),
    ("1/4", 0.250, 20, 28),
    ("5/16", 0.3125, 18, 24),
    ("3/8", 0.375, 16, 24),
    ("7/16", 0.4375, 14, 20),
    ("1/2", 0.500, 13, 20),
)
"""Name, diameter in inches, turns an inch coarse (UNC) and fine (UNF); ASME B1.1, table 1."""


def _metric() -> tuple[ThreadSize, ...]:
    rows = []
    for diameter, pitches in _METRIC_PITCHES.items():
        size = f"M{diameter:g}"
        rows.append(ThreadSize(size, size, diameter, pitches[0], True, METRIC))
        rows += [
            ThreadSize(f"{size}x{pitch:g}", size, diameter, pitch, False, METRIC) for pitch in pitches[1:]
        ]
    return tuple(rows)


def _unified() -> tuple[ThreadSize, ...]:
    rows = []
    for size, inches, coarse, fine in _UNIFIED_TURNS:
        for turns in (coarse, fine):
            name = size if turns == coarse else f"{size}-{turns}"
            rows.append(ThreadSize(name, size, inches * INCH, INCH / turns, turns == coarse, UNIFIED))
    return tuple(rows)


METRIC_THREADS = _metric()
UNIFIED_THREADS = _unified()
THREADS = (*METRIC_THREADS, *UNIFIED_THREADS)


def named_thread(text: str) -> ThreadSize:
    """Return a thread by its name as people write it: ``M5``, ``m8 x 1``, ``#10``, ``1/4-28``.

    Raises:
        Refused: there is none of that name; the nearest names are told.
    """
    wanted = text.strip().lower().replace(" ", "").replace("×", "x").removesuffix("in")
    for thread in THREADS:
        names = {thread.name.lower()}
        if thread.coarse:
            names |= {
                f"{thread.size.lower()}x{thread.pitch:g}",
                f"{thread.size.lower()}-{INCH / thread.pitch:.0f}",
            }
        if wanted in names:
            return thread
    alike = [thread.name for thread in THREADS if thread.name.lower().startswith(wanted[:2])]
    raise Refused(
        "thread-unknown",
        f"no standard here has a thread “{text.strip()}”",
        remedy=f"there are {', '.join(alike[:6])}" if alike else "write M5, M8x1, #10 or 1/4-28",
    )


@dataclass(frozen=True)
class ProfilePiece:
    """A straight piece of a thread's profile in a half-plane through its axis.

    Attributes:
        radii: at its start and its end, in mm.
        heights: of both along the axis, in mm; the pieces of a profile follow each other over one pitch.
    """

    radii: tuple[float, float]
    heights: tuple[float, float]


def profile_of(
    diameter: float, pitch: float, *, internal: bool, play: float = 0.0
) -> tuple[ProfilePiece, ...]:
    """Return the profile of a 60° thread over one pitch: crest (or major), flank, root, flank.

    Args:
        diameter: nominal, in mm.
        pitch: in mm.
        internal: of a nut, or of a bolt.
        play: by how much it is wider (internal) or thinner (external) in diameter, in mm, at all places.

    Returns:
        Four pieces. Of a nut ``radii`` bound the space that is cut away.
    """
    triangle = HEIGHT * pitch
    grown = play / 2 if internal else -play / 2
    outer = diameter / 2 + grown
    depth = (5 / 8 if internal else 17 / 24) * triangle
    inner = outer - depth
    half_flat = pitch / 16
    half_root = half_flat + depth * math.tan(math.radians(30))
    return (
        ProfilePiece((outer, outer), (-half_flat, half_flat)),
        ProfilePiece((outer, inner), (half_flat, half_root)),
        ProfilePiece((inner, inner), (half_root, pitch - half_root)),
        ProfilePiece((inner, outer), (pitch - half_root, pitch - half_flat)),
    )
