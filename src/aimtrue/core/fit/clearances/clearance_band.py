"""This module holds a band of clearances."""

from __future__ import annotations

from math import inf

from aimtrue.core.errors import Refused
from aimtrue.core.model.value import Value


class ClearanceBand(Value):
    """The clearance that is wanted, in diameter or width, in mm; what is negative is too much material."""

    low_mm: float
    high_mm: float

    @property
    def says(self) -> str:
        """The band in words."""
        if self.high_mm == inf:
            return f"at least {self.low_mm:.4g} mm"
        return f"{self.low_mm:.4g} to {self.high_mm:.4g} mm"


def banded(low_mm: float, high_mm: float) -> ClearanceBand:
    """Return a band that was typed.

    Raises:
        Refused: its ends are exchanged.
    """
    if low_mm > high_mm:
        raise Refused(
            "band-exchanged",
            f"the band runs from {low_mm:.4g} down to {high_mm:.4g} mm",
            remedy=f"write {high_mm:.4g} .. {low_mm:.4g}",
        )
    return ClearanceBand(low_mm=low_mm, high_mm=high_mm)
