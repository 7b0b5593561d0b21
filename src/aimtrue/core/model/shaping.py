"""This module says how bodies are made of others: cut, split, hollowed, joined. Always in mm of the
corrected body, Z up.

Values alone. What they do is in :mod:`aimtrue.core.division`; the proof holds released bodies to these words
by a way of its own.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from aimtrue.core.model.decisions import KeptBore
from aimtrue.core.model.value import Axis, Value, Vec3

Vec2 = tuple[float, float]


class Frame(Value):
    """How numbers of a file become mm of the corrected body, with its clearance and its kept bores.

    A point ``p`` becomes ``stretch * (linear p + shift) + move``; then the walls of bores that are kept move
    to the diameter that they have in the file, ``per`` mm a number. What is made goes back by ``linear`` and
    ``shift`` alone: the clearance is in its geometry then, and it has none of its own.
    """

    linear: tuple[Vec3, Vec3, Vec3]
    shift: Vec3
    stretch: Vec3 = (1.0, 1.0, 1.0)
    move: Vec3 = (0.0, 0.0, 0.0)
    kept: tuple[KeptBore, ...] = ()
    per: float = 1.0


class PlaneSide(Value):
    """One side of a plane, which is told by its number."""

    plane: int
    above: bool


class Plane(Value):
    """A cutting plane: the points ``at`` mm from the origin along a unit vector, its ``normal``.

    What is farther along the normal is above it, the rest below. It cuts only what is on the sides that
    ``only`` names, all of planes before it; everything, where that is empty.
    """

    normal: Vec3
    at: float
    only: tuple[PlaneSide, ...] = ()


class Pin(Value):
    """Where two pieces are lined up: a place on a plane, which is told by its number."""

    plane: int
    point: Vec3


class Pins(Value):
    """How pieces are lined up at their cuts.

    ``dowel``: loose, in a hole on both sides, and listed as bodies. ``fixed``: on the piece below, with a
    hole in the piece above. A pin goes ``depth`` into either; its hole is deeper by the clearance, and its
    diameter is larger by it. One that is ``keyed`` has a flat, so that it goes in one way only.
    """

    kind: Literal["dowel", "fixed"] = "dowel"
    diameter: float
    depth: float
    clearance: float
    keyed: bool = False
    places: tuple[Pin, ...] = ()


class PieceCut(Value):
    """Cut by planes; ``keep`` leaves out what is not on the side asked for of every plane.

    Slivers are kept, dropped, or given to the piece that they touch most. A whole that is ``open`` is cut as
    a surface: sections that close are filled, and what was open stays so.
    """

    by: Literal["planes"] = "planes"
    planes: tuple[Plane, ...] = Field(min_length=1)
    keep: Literal["all", "above", "below"] = "all"
    slivers: Literal["keep", "drop", "give"] = "keep"
    pins: Pins | None = None
    open: bool = False


class Slice(Value):
    """What lies between two planes square to an axis; thinned from inside to ``wall`` mm, if told."""

    by: Literal["slice"] = "slice"
    axis: Axis
    low: float
    high: float
    wall: float | None = None


class HeightSplit(Value):
    """Split by a plane square to an axis: what is above it, for ``depth`` mm if told, and the rest."""

    by: Literal["height"] = "height"
    axis: Axis
    at: float
    depth: float | None = None


class OutlineSplit(Value):
    """Split by outlines along an axis: what is inside them, and the rest.

    ``rings`` are closed, outer ones counter-clockwise and holes clockwise: X and Y along Z, Y and Z along X,
    Z and X along Y. They reach through, or ``depth`` mm down from the highest place of the body on the axis.
    """

    by: Literal["outline"] = "outline"
    axis: Axis
    rings: tuple[tuple[Vec2, ...], ...] = Field(min_length=1)
    depth: float | None = None


class Prism(Value):
    """What closed rings in a plane sweep square to it, between two heights along its unit ``normal``.

    The rings are places in the plane at ``low``; what is within one more of them changes sides.
    """

    normal: Vec3
    low: float
    high: float
    rings: tuple[tuple[Vec3, ...], ...]


class FaceSplit(Value):
    """Split by picked faces, raised or sunk: what is in one of some prisms, and the rest."""

    by: Literal["faces"] = "faces"
    prisms: tuple[Prism, ...] = Field(min_length=1)


class Drain(Value):
    """A round hole from a place on the outside along a unit vector into the hollow."""

    point: Vec3
    direction: Vec3
    diameter: float
    depth: float


class Hollowing(Value):
    """A hollow ``wall`` mm inside the surface, with drains into it.

    ``spacing`` is that of the grid of distances it was found on, in mm.
    """

    by: Literal["hollow"] = "hollow"
    wall: float
    drains: tuple[Drain, ...] = ()
    spacing: float


class Combination(Value):
    """Two solids: joined, the second cut from the first, what they have in common, or the first split by the
    second: what of it is outside, and what is within.
    """

    by: Literal["solids"] = "solids"
    how: Literal["join", "cut", "common", "split"]


class DowelMaking(Value):
    """A loose pin for a division: lying along Z, its middle at the origin."""

    by: Literal["dowel"] = "dowel"
    pins: Pins


class DescribedFace(Value):
    """A flat or round face, told so that it is found on any mesh of its body.

    Attributes:
        kind: what it is.
        point: the middle of a flat one, or of the axis of a round one; ``way`` its outward normal, or axis.
        diameter: of a round one; ``hollow`` whether its material is outside.
        low, high: its bounds.
    """

    kind: Literal["flat", "round"]
    point: Vec3
    way: Vec3
    diameter: float = 0.0
    hollow: bool = False
    low: Vec3
    high: Vec3


class SurfaceMove(Value):
    """Faces moved along their normals by ``amount`` mm, outward where positive; all if none is told."""

    by: Literal["surface"] = "surface"
    faces: tuple[DescribedFace, ...] = ()
    amount: float


class ThreadCut(Value):
    """A 60° thread on the wall of a bore or a boss: cut into it, or added to it.

    Attributes:
        point, way: of the axis; ``way`` is of length 1.
        start: the direction across the axis in which the middle of the crest is at ``point``; of length 1.
        low, high: ends of the thread along ``way``, from ``point``.
        wall: diameter of the bore or the boss.
        diameter, pitch: of the thread, nominal.
        internal: whether it is on the wall of a bore.
        add: whether ridges are added to the wall, not grooves cut into it.
        play: by how much it is wider (internal) or thinner in diameter.
        left: whether it is left-hand.
    """

    by: Literal["thread"] = "thread"
    point: Vec3
    way: Vec3
    start: Vec3
    low: float
    high: float
    wall: float
    diameter: float
    pitch: float
    internal: bool
    add: bool = False
    play: float = 0.0
    left: bool = False


Shaping = Annotated[
    PieceCut
    | Slice
    | HeightSplit
    | OutlineSplit
    | FaceSplit
    | Hollowing
    | Combination
    | DowelMaking
    | SurfaceMove
    | ThreadCut,
    Field(discriminator="by"),
]
