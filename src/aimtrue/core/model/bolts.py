"""Standard bolts and the holes that suit them.

Clearance holes: ISO 273 (fine to coarse) and ASME B18.2.8 (close to loose); tapping holes: the usual drills
for coarse threads (ISO 2306; for inch threads about 75 % engagement).
"""

from __future__ import annotations

from dataclasses import dataclass

_INCH = 25.4
_NEAR = 0.03
"""How far, in mm, a hole may be from a standard one and still be meant as one."""
_JUST = 0.005


@dataclass(frozen=True)
class Bolt:
    """A bolt: its name, and in mm the usual clearance holes, the closest first, and the tapping hole."""

    name: str
    clearance: tuple[float, ...]
    tap: float

    @property
    def least(self) -> float:
        """The closest hole it passes."""
        return self.clearance[0]

    @property
    def greatest(self) -> float:
        """The loosest hole that is meant for it."""
        return self.clearance[-1]


def _inch(name: str, clearance: tuple[float, ...], tap: float) -> Bolt:
    return Bolt(name, tuple(hole * _INCH for hole in clearance), tap * _INCH)


_METRIC = (
    Bolt("M2", (2.2, 2.4, 2.6), 1.6),
    Bolt("M2.5", (2.7, 2.9, 3.1), 2.05),
    Bolt("M3", (3.2, 3.4, 3.6), 2.5),
    Bolt("M4", (4.3, 4.5, 4.8), 3.3),
    Bolt("M5", (5.3, 5.5, 5.8), 4.2),
    Bolt("M6", (6.4, 6.6, 7.0), 5.0),
    Bolt("M8", (8.4, 9.0, 10.0), 6.8),
    Bolt("M10", (10.5, 11.0, 12.0), 8.5),
    Bolt("M12", (13.0, 13.5, 14.5), 10.2),
)
_INCHES = (
    _inch("#4", (0.116, 0.1285, 0.144), 0.0890),
    _inch("#6", (0.144, 0.1495, 0.170), 0.1065),
    _inch("#8", (0.170, 0.177, 0.194), 0.1360),
    _inch("#10", (0.196, 0.201, 0.221), 0.1495),
    _inch("1/4 in", (0.257, 0.266, 0.295), 0.2010),
    _inch("5/16 in", (0.323, 0.332, 0.358), 0.2570),
    _inch("3/8 in", (0.386, 0.397, 0.421), 0.3125),
    _inch("1/2 in", (0.516, 0.531, 0.578), 0.4219),
)
BOLTS = (*_METRIC, *_INCHES)


def _holes(bolts: tuple[Bolt, ...]) -> tuple[float, ...]:
    return tuple(sorted({hole for bolt in bolts for hole in (*bolt.clearance, bolt.tap)}))


HOLES_METRIC = _holes(_METRIC)
HOLES_INCH = _holes(_INCHES)
"""All of their holes, in mm."""


@dataclass(frozen=True)
class BoltSuitability:
    """That a hole suits a bolt: as a clearance hole, or (``tapped``) to cut its thread in."""

    bolt: Bolt
    tapped: bool

    def still(self, diameter: float) -> bool:
        """Whether a hole of another diameter, in mm, still does."""
        if self.tapped:
            return abs(diameter - self.bolt.tap) <= 2 * _NEAR
        return self.bolt.least - _NEAR <= diameter <= self.bolt.greatest + _NEAR

    @property
    def says(self) -> str:
        """The bolt, and how the hole suits it."""
        return f"{self.bolt.name} tapping" if self.tapped else self.bolt.name


def suits(diameter: float) -> BoltSuitability | None:
    """Return the bolt that a hole of a diameter in mm is meant for, or None.

    A hole that is just a tapping hole is one, though a thinner bolt would pass it. Where metric and inch
    holes overlap, the metric one is told.
    """
    for bolts in (_METRIC, _INCHES):
        for bolt in bolts:
            if abs(diameter - bolt.tap) <= _JUST:
                return BoltSuitability(bolt, tapped=True)
        for bolt in bolts:
            if bolt.least - _NEAR <= diameter <= bolt.greatest + _NEAR:
                return BoltSuitability(bolt, tapped=False)
    return next(
        (BoltSuitability(bolt, tapped=True) for bolt in BOLTS if abs(diameter - bolt.tap) <= _NEAR), None
    )
