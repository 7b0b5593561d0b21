"""Machines: what is made in them must fit into their volume."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.facets import Step as Step
from aimtrue.core.model.readings import Anchor as Anchor
from aimtrue.core.model.readings import Gauge as Gauge
from aimtrue.core.model.readings import Reading as Reading
from aimtrue.core.model.value import AXES as AXES
from aimtrue.core.model.value import Axis as Axis
from aimtrue.core.model.value import Value as Value
from aimtrue.core.model.value import Vec3 as Vec3


class Machine(Value):
    """A build volume. Its origin is the front left corner of the plate.

    Example: the default machine is a box 250 wide, 210 deep and 220 high, in mm.
    """

    name: str = "Garden bench M"
    shape: Literal["box"] = "box"
    volume: Vec3 = (250.0, 210.0, 220.0)
    bead: float = 0.4
