"""This module says how a CAD body is cut into facets, and what a reader remarks."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field

from aimtrue.core.model.value import Value, Vec3


class Bore(Value):
    """A round edge of a CAD body and what its facets make of it, in numbers of the file.

    Attributes:
        diameter: of the true circle.
        loss: how much less the facets leave free across flats, 0 or more.
        place: its centre.
    """

    diameter: float
    loss: float
    place: Vec3

    @property
    def sides(self) -> int:
        """How many facets go around it, or would if it went around: loss = D (1 - cos(pi / sides))."""
        return round(math.pi / math.acos(1 - self.loss / self.diameter)) if self.loss > 0 else 0


class Facets(Value):
    """How far facets are from the true surface of a CAD body, in numbers of the file.

    Attributes:
        deviation: greatest distance measured between a facet and the surface.
        bores: the round edges, the worst loss first, at most 12.
        curved: how many facets are on curved faces.
        twice: how many are on faces that may be curved both ways.
        radius: of the round faces, the middle one by the number of their facets; 0 without any.
        missing: faces that could not be cut rightly, in words, and ``places`` on them.
        volume_off: share by which they enclose another volume than the solid has, when that is too much.
    """

    deviation: float
    bores: tuple[Bore, ...] = ()
    curved: int = 0
    twice: int = 0
    radius: float = 0.0
    missing: tuple[str, ...] = ()
    places: tuple[Vec3, ...] = ()
    volume_off: float = 0.0


CHORD_MM = (0.0005, 10.0)


ANGLE_DEG = (0.5, 60.0)
"""Between what a fineness may be."""


class Fineness(Value):
    """How finely CAD surfaces become facets.

    Attributes:
        chord_mm: how far a facet may be from the surface, in mm.
        angle_deg: how far neighbouring facets may turn, in degrees.
    """

    chord_mm: float = Field(0.01, ge=CHORD_MM[0], le=CHORD_MM[1])
    angle_deg: float = Field(6.0, ge=ANGLE_DEG[0], le=ANGLE_DEG[1])


class FinenessStep(Value):
    """What one fineness of a CAD source comes to; lengths in numbers of the file.

    Attributes:
        fineness: chord and angle asked for.
        triangles: of all bodies.
        deviation: the greatest measured between facets and the true surface.
        loss: of the bore that loses most of its diameter to its facets.
        widest: diameter of the widest bore, by which finenesses are compared; 0 without one.
        sides: how many facets go around that bore.
        estimated: whether this is worked out from another fineness, not made.
    """

    fineness: Fineness
    triangles: int
    deviation: float
    loss: float
    widest: float = 0.0
    sides: int = 0
    estimated: bool = False


class Remark(Value):
    """Something a reader noticed; becomes a finding."""

    code: str
    severity: Literal["look", "note"]
    says: str
    remedy: str = ""
