"""Machines: what is made in them must fit into their volume.

A machine is a volume, margins to keep free in it, and, apart from these, how it makes things. Another kind of
volume is another class here with the same answers; nothing else has to know of it.
"""

from __future__ import annotations

from itertools import permutations
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from aimtrue.core.model.printing import Curing, Motion, PrintRecord, PrintSettings
from aimtrue.core.model.value import Value, Vec3

SLACK_MM = 1e-6
"""A body exactly as large as the machine fits; float rounding must not say otherwise."""
_Ends = NDArray[np.float64]
_ROUND_CORNERS = 180
"""The polygon that stands for a round plate has this many corners, and lies within it by less than 0.02 %
of its width.
"""


class Margins(Value):
    """Room to keep free at each side of a plate, in mm, besides what is drawn around the first layer."""

    left: float = Field(0.0, ge=0)
    right: float = Field(0.0, ge=0)
    front: float = Field(0.0, ge=0)
    back: float = Field(0.0, ge=0)
    top: float = Field(0.0, ge=0)


NO_MARGINS = Margins()


class BoxVolume(Value):
    """A box; ``size`` is its width, depth and height in mm. The origin is its front left corner, below."""

    shape: Literal["box"] = "box"
    size: Vec3 = (250.0, 210.0, 220.0)

    @property
    def room(self) -> Vec3:
        """The greatest extents, in mm, that something upright in it may have."""
        return self.size

    def free(self, margins: Margins) -> Vec3:
        """Return the extents that are left within margins."""
        x, y, z = self.size
        return x - margins.left - margins.right, y - margins.front - margins.back, z - margins.top

    def plate(self, margins: Margins) -> _Ends:
        """Return (k, 2): the corners of the plate within margins, counter-clockwise."""
        x, y, _ = self.size
        left, right = margins.left, x - margins.right
        front, back = margins.front, y - margins.back
        return np.array([[left, front], [right, front], [right, back], [left, back]])

    def over(self, ends: _Ends, plan: _Ends | None = None, margins: Margins = NO_MARGINS) -> Vec3:
        """Return how far something reaches beyond it along each axis, in mm; 0 or less inside.

        Args:
            ends: (2, 3) bounds.
            plan: (k, 2) its corners seen from above; a box needs none.
            margins: to keep free.
        """
        # In plain numbers: it is asked of every body at every action, and three of them are no array.
        (x0, y0, z0), (x1, y1, z1) = ends.tolist()
        x, y, z = self.size
        return (
            max(x1 - x + margins.right, margins.left - x0),
            max(y1 - y + margins.back, margins.front - y0),
            max(z1 - z + margins.top, -z0),
        )

    def left(self, ends: _Ends) -> float:
        """Return what is left at the tightest side, in mm; the plate, on which things stand, is none."""
        (x0, y0, _), (x1, y1, z1) = ends.tolist()
        x, y, z = self.size
        return float(min(x0, y0, x - x1, y - y1, z - z1))


class RoundVolume(Value):
    """An upright cylinder, in mm. The origin is the front left corner of the square around its plate."""

    shape: Literal["round"] = "round"
    diameter: float
    height: float

    @property
    def room(self) -> Vec3:
        """The greatest extents, in mm, that something upright in it may have along one axis."""
        return self.diameter, self.diameter, self.height

    def free(self, margins: Margins) -> Vec3:
        """Return the extents that are left within margins; the widest margin holds all around."""
        across = self.diameter - 2 * _widest(margins)
        return across, across, self.height - margins.top

    def plate(self, margins: Margins) -> _Ends:
        """Return (k, 2): the corners of the plate within margins, counter-clockwise."""
        turn = np.arange(_ROUND_CORNERS) * (2 * np.pi / _ROUND_CORNERS)
        radius = self.diameter / 2 - _widest(margins)
        return np.asarray(self.diameter / 2 + radius * np.stack([np.cos(turn), np.sin(turn)], axis=1))

    def over(self, ends: _Ends, plan: _Ends | None = None, margins: Margins = NO_MARGINS) -> Vec3:
        """Return how far something reaches beyond it along each axis, in mm; 0 or less inside.

        Args:
            ends: (2, 3) bounds.
            plan: (k, 2) its corners seen from above; without them those of the bounds are taken.
            margins: to keep free.
        """
        plan = np.array([[x, y] for x in ends[:, 0] for y in ends[:, 1]]) if plan is None else plan
        away = plan - self.diameter / 2
        far = np.hypot(*away.T)
        worst = int(far.argmax())
        beyond = float(far[worst]) - self.diameter / 2 + _widest(margins)
        way = abs(away[worst]) / max(float(far[worst]), 1e-300)
        top = float(ends[1, 2]) - self.height + margins.top
        x, y = (way * beyond).tolist() if beyond > 0 else (beyond, beyond)
        return x, y, max(top, -float(ends[0, 2]))

    def left(self, ends: _Ends) -> float:
        """Return what is left at the tightest side, in mm, around the corners of the bounds."""
        corners = np.array([[x, y] for x in ends[:, 0] for y in ends[:, 1]]) - self.diameter / 2
        return float(min(self.diameter / 2 - np.hypot(*corners.T).max(), self.height - ends[1, 2]))


def _widest(margins: Margins) -> float:
    return max(margins.left, margins.right, margins.front, margins.back)


Volume = Annotated[BoxVolume | RoundVolume, Field(discriminator="shape")]


class FirstLayerOutline(Value):
    """What a machine draws around the first layer, and how far it reaches out from a part, in mm."""

    kind: Literal["nothing", "line", "brim", "raft"] = "nothing"
    reach: float = Field(0.0, ge=0)


class Process(Value):
    """How a machine makes things.

    Attributes:
        kind: what it makes them of.
        bead: width of a line of plastic, or of a dot of light, in mm.
        layer: height of a layer in use, in mm; ``layers`` are those that it can make.
        around: what it draws around the first layer.
        overhang: angle from upright, in degrees, from which surface needs support.
        motion, curing: how fast it works; None where nobody has told.
        prints: what it took for some prints, which corrects what is estimated.
        sets: print settings that its user keeps for it, each with a name.
    """

    bead: float = Field(0.4, gt=0)
    kind: Literal["filament", "resin"] = "filament"
    layer: float = Field(0.2, gt=0)
    layers: tuple[float, ...] = (0.1, 0.15, 0.2, 0.3)
    around: FirstLayerOutline = FirstLayerOutline()
    overhang: float = Field(45.0, gt=0, lt=90)
    motion: Motion | None = None
    curing: Curing | None = None
    prints: tuple[PrintRecord, ...] = Field((), max_length=100)
    sets: tuple[PrintSettings, ...] = Field((), max_length=100)


class Machine(Value):
    """A build volume, margins in it, and the process it works by.

    ``start`` is the corner where its first line begins; ``display`` how many characters of a file's name it
    shows, None for all.

    Example: the default machine is a box 250 wide, 210 deep and 220 high, in mm.
    """

    name: str = "Garden bench M"
    volume: Volume = BoxVolume()
    process: Process = Process()
    margins: Margins = Margins()
    start: Literal["front left", "front right", "back left", "back right"] = "front left"
    display: int | None = None

    @property
    def kept_free(self) -> Margins:
        """The margins, with the room for what is drawn around the first layer."""
        more = self.process.around.reach if self.process.around.kind != "nothing" else 0.0
        if not more:
            return self.margins
        sides = ("left", "right", "front", "back")
        return self.margins.model_copy(update={side: getattr(self.margins, side) + more for side in sides})

    def takes(self, sizes: Vec3) -> bool:
        """Tell whether a body of these sizes, in mm, goes into the volume, upright on any of its sides."""
        x, y, _ = self.volume.room
        for a, b, c in permutations(sizes):
            ends = np.array([[(x - a) / 2, (y - b) / 2, 0.0], [(x + a) / 2, (y + b) / 2, c]])
            if max(self.volume.over(ends)) <= SLACK_MM:
                return True
        return False

    @property
    def free(self) -> Vec3:
        """The extents, in mm, that a part may have."""
        return self.volume.free(self.kept_free)


SHIPPED = (
    Machine(process=Process(motion=Motion())),
    Machine(
        name="Garden bench S",
        volume=BoxVolume(size=(120.0, 120.0, 120.0)),
        process=Process(
            around=FirstLayerOutline(kind="line", reach=4.0),
            motion=Motion(
                outline=30, shell=40, solid=40, infill=50, support=40, travel=120, acceleration=800
            ),
        ),
        display=24,
    ),
    Machine(
        name="Tower round",
        volume=RoundVolume(diameter=180.0, height=400.0),
        process=Process(
            bead=0.6,
            layer=0.3,
            layers=(0.2, 0.3, 0.4),
            around=FirstLayerOutline(kind="brim", reach=5.0),
            motion=Motion(outline=40, infill=60, acceleration=1000, heating_s=300, watts=280),
        ),
        margins=Margins(left=2.0, right=2.0, front=2.0, back=2.0),
        display=16,
    ),
    Machine(
        name="Vat 7",
        volume=BoxVolume(size=(130.0, 80.0, 160.0)),
        process=Process(
            bead=0.05,
            kind="resin",
            layer=0.05,
            layers=(0.025, 0.05, 0.1),
            overhang=60.0,
            curing=Curing(),
        ),
        margins=Margins(left=1.5, right=1.5, front=1.5, back=1.5),
    ),
)
"""Made-up machines that the app comes with."""
