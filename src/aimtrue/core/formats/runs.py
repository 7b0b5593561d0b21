"""This module says what a section of CAD goes along: straight and round runs. Known without the kernel."""

from __future__ import annotations

from dataclasses import dataclass

from aimtrue.core.mesh.mesh import Floats


@dataclass(frozen=True, eq=False)
class OutlineRun:
    """From a corner of a section to the next: straight, or round through the middle ``via``; (3,) each."""

    start: Floats
    end: Floats
    via: Floats | None = None

    def turned(self) -> OutlineRun:
        """Return it the other way round."""
        return OutlineRun(self.end, self.start, self.via)
