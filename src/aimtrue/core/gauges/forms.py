"""This module says how the length of a gauge depends on the factors.

Write ``s`` for the three factors and ``S`` for the diagonal matrix of them. A gauge between two points
with the vector ``v`` is ``|S v|`` long, so its *square* is linear in the squares of the factors:

    L² = a · q   with   q = s²,  a = v².

Every other kind is brought to that shape at given factors, exactly there and in its slope
(so that repeating it is Newton's method):

- two parallel planes, ``v`` from one to the other along their normal: ``L = |v|² / |S⁻¹ v|``, whose
  row is ``a = (S⁻¹ w)²`` with ``w`` the stretched gap (derived in docs/truing.md);
- a circle with the conjugate radii ``u`` and ``v`` becomes an ellipse; its diameters are twice the
  singular values of ``S [u v]``, and both must be good: two rows;
- a perimeter of runs ``r`` is ``Σ |S r|``, its row ``L Σ r² / |S r|``.

All vectors are in mm and in the axes of the job, at factors of 1.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from aimtrue.core.mesh.mesh import Floats


class Form(Protocol):
    """The length of one gauge as a function of the factors."""

    def lengths(self, factors: Floats) -> tuple[float, ...]:
        """Return the length in mm; of a circle the greatest and the least diameter."""
        ...

    def rows(self, factors: Floats) -> Floats:
        """Return (k, 3): per length the row ``a`` with ``L² = a · s²`` at these factors, and its slope."""
        ...


@dataclass(frozen=True, eq=False)
class SpanForm:
    """Between two points; ``vector`` is (3,)."""

    vector: Floats

    def lengths(self, factors: Floats) -> tuple[float, ...]:
        """Return the length."""
        return (float(np.linalg.norm(self.vector * factors)),)

    def rows(self, factors: Floats) -> Floats:
        """Return (1, 3); the same at all factors."""
        return np.square(self.vector)[None]


@dataclass(frozen=True, eq=False)
class GapForm:
    """Between two parallel planes; ``vector`` is (3,), from one to the other along their normal."""

    vector: Floats

    def _stretched(self, factors: Floats) -> Floats:
        """The vector between the stretched planes along their new normal: normals go by the inverse."""
        normal = self.vector / factors
        return np.asarray(normal * (self.vector @ self.vector) / (normal @ normal))

    def lengths(self, factors: Floats) -> tuple[float, ...]:
        """Return the distance."""
        return (float(np.linalg.norm(self._stretched(factors))),)

    def rows(self, factors: Floats) -> Floats:
        """Return (1, 3)."""
        return np.square(self._stretched(factors) / factors)[None]


@dataclass(frozen=True, eq=False)
class CircleForm:
    """Across a circle; ``radii`` is (2, 3), two square to each other; ``times`` is 2, or 1 for a radius."""

    radii: Floats
    times: float = 2.0

    def _axes(self, factors: Floats) -> tuple[Floats, Floats]:
        """Return the lengths across, greatest first, and (2, 3) the radii that they come from."""
        _, sizes, turn = np.linalg.svd((self.radii * factors).T, full_matrices=False)
        return self.times * sizes, turn @ self.radii

    def lengths(self, factors: Floats) -> tuple[float, ...]:
        """Return the greatest and the least length across."""
        greatest, least = self._axes(factors)[0].tolist()
        return (greatest, least)

    def rows(self, factors: Floats) -> Floats:
        """Return (2, 3)."""
        return np.square(self.times * self._axes(factors)[1])


@dataclass(frozen=True, eq=False)
class GirthForm:
    """Around a section; ``runs`` is (m, 3), ``stretch`` makes up for corners that were left out."""

    runs: Floats
    stretch: float = 1.0

    def lengths(self, factors: Floats) -> tuple[float, ...]:
        """Return the perimeter."""
        return (self.stretch * float(np.linalg.norm(self.runs * factors, axis=1).sum()),)

    def rows(self, factors: Floats) -> Floats:
        """Return (1, 3)."""
        sizes = np.linalg.norm(self.runs * factors, axis=1)
        some = sizes > 0
        row = (np.square(self.runs[some]) / sizes[some, None]).sum(axis=0)
        return np.asarray(self.stretch**2 * sizes.sum() * row)[None]
