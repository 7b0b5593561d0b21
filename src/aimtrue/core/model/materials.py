"""Materials to start from: their figures are usual ones and can all be changed.

Density in g/cm³ and shrinkage as share of the length are in the middle of what makers' data sheets give
for unfilled grades; a calibration of one's own machine and material is always better.
"""

from __future__ import annotations

from math import pi
from typing import Annotated

from pydantic import Field

from aimtrue.core.model.value import Value

_Share = Annotated[float, Field(ge=-0.2, le=0.2)]


class Material(Value):
    """What a body is made of: density in g/cm³, the strand it comes as (0 for resin), usual shrinkage.

    ``shrinkage`` is a share of the length per axis; bodies take it into their allowance when asked to.
    ``price`` is that of a kg, in the user's own money; None where nobody has told.
    """

    name: str = Field("PLA", max_length=60)
    density: float = Field(1.24, gt=0, le=25)
    strand_mm: float = Field(1.75, ge=0, le=10)
    shrinkage: tuple[_Share, _Share, _Share] = (0.003, 0.003, 0.003)
    price: float | None = Field(None, ge=0, le=1e6)


def _usual(name: str, density: float, percent: float, strand_mm: float = 1.75) -> Material:
    share = percent / 100
    return Material(name=name, density=density, strand_mm=strand_mm, shrinkage=(share, share, share))


MATERIALS = (
    _usual("PLA", 1.24, 0.3),
    _usual("PETG", 1.27, 0.4),
    _usual("ABS", 1.04, 0.8),
    _usual("ASA", 1.07, 0.6),
    _usual("PA", 1.13, 1.2),
    _usual("PC", 1.20, 0.7),
    _usual("TPU", 1.21, 0.8),
    _usual("resin", 1.18, 0.5, strand_mm=0.0),
)


def named(name: str, own: Material) -> Material:
    """Return the material that a name stands for: one of those known here, else the job's own.

    A file may name what a body is made of, by the trade's word or by one that nobody knows.
    """
    materials = {material.name.lower(): material for material in (*MATERIALS, own)}
    return materials.get(name.strip().lower(), own)


def mass_g(volume_mm3: float, material: Material) -> float:
    """Return what a solid weighs, in grams."""
    return volume_mm3 / 1000 * material.density


def strand_m(volume_mm3: float, material: Material) -> float | None:
    """Return how many metres of strand a solid takes; None for resin, which comes as none."""
    return volume_mm3 / (pi * material.strand_mm**2 / 4) / 1000 if material.strand_mm else None
