"""A simulated digital caliper: what its data button would type, as a keyboard does.

Real ones read a little differently each time the jaws are closed, and show no more than their resolution.
"""

from __future__ import annotations

import random
from dataclasses import dataclass

from aimtrue.core.errors import Refused

LONGEST_MM = 1000.0


@dataclass(frozen=True)
class Caliper:
    """A simulated caliper.

    Attributes:
        resolution_mm: the step of its display.
        noise_mm: standard deviation of a reading.
    """

    resolution_mm: float = 0.01
    noise_mm: float = 0.015

    def press(self, jaws_mm: float, chance: random.Random | None = None) -> str:
        """Return what the data button sends while the jaws are on a length: the number, no unit.

        Args:
            jaws_mm: what is really between the jaws.
            chance: where the noise comes from.

        Raises:
            Refused: longer than the caliper opens.
        """
        if not 0 < jaws_mm <= LONGEST_MM:
            raise Refused(
                "caliper-range",
                f"the simulated caliper opens from 0 to {LONGEST_MM:g} mm",
                remedy="set the jaws within that",
            )
        shown = jaws_mm + (chance or random).gauss(0.0, self.noise_mm)
        steps = max(1, round(shown / self.resolution_mm))
        digits = max(0, len(f"{self.resolution_mm:.6f}".rstrip("0").split(".")[1]))
        return f"{steps * self.resolution_mm:.{digits}f}"
