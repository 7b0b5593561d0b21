"""Machines: what is made in them must fit into their volume.

A machine is a volume and, apart from it, how it makes things. Another kind of volume is another class here
with the same three answers; nothing else has to know of it.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from aimtrue.core.model.value import Value, Vec3

_Ends = NDArray[np.float64]


class BoxVolume(Value):
    """A box; ``size`` is its width, depth and height in mm. The origin is its front left corner, below."""

    shape: Literal["box"] = "box"
    size: Vec3 = (250.0, 210.0, 220.0)

    @property
    def room(self) -> Vec3:
        """The greatest extents, in mm, that something upright in it may have."""
        return self.size

    def over(self, ends: _Ends) -> _Ends:
        """Return (3,): how far (2, 3) bounds reach beyond it along each axis, in mm; 0 or less inside."""
        return np.asarray(np.maximum(ends[1] - np.asarray(self.size), -ends[0]))

    def left(self, ends: _Ends) -> float:
        """Return what is left at the tightest side, in mm; the plate, on which things stand, is none."""
        beside = np.minimum(ends[0, :2], np.asarray(self.size[:2]) - ends[1, :2])
        return float(min(beside.min(), self.size[2] - ends[1, 2]))


class Process(Value):
    """How a machine makes things: ``bead`` is the width of a line of plastic in mm."""

    bead: float = Field(0.4, gt=0)


class Machine(Value):
    """A build volume, and the process it works by.

    Example: the default machine is a box 250 wide, 210 deep and 220 high, in mm.
    """

    name: str = "Garden bench M"
    volume: BoxVolume = BoxVolume()
    process: Process = Process()
