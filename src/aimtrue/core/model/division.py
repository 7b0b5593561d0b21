"""A division: bodies made of others, as it was asked for and as it was made.

The whole stays in the job, its original untouched. When its correction, clearance or geometry changes, what
was made of it is *stale*, and is made again as it was asked for.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.ids import BodyId, DivisionId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.shaping import Frame, Pin, Shaping
from aimtrue.core.model.value import Axis, Value, Vec3


class AskPins(Value):
    """Pins as they were typed; ``count`` on each face of a cut, None by its size.

    Where they are placed ``by_hand``, ``places`` are all that there are; else more are added to them on
    faces that have none.
    """

    kind: Literal["dowel", "fixed"] = "dowel"
    diameter: str = "3"
    depth: str = "8"
    clearance: str = "0.2"
    wall: str = "1.2"
    count: int | None = None
    keyed: bool = False
    places: tuple[Pin, ...] = ()
    by_hand: bool = False


class AskPieces(Value):
    """Pieces by planes, typed as ``z=96`` or ``0,0.5,1 @ 40``, or by what a machine has room for.

    ``turned`` holds pieces against the machine in the quarter turn of each that asks for fewest of them;
    ``sure`` is said of more pieces than anybody would ask for by a slip, ``open`` of a body that is not
    closed: it is cut all the same, and what is open stays so.
    """

    by: Literal["planes"] = "planes"
    planes: tuple[str, ...] = ()
    fit: Machine | None = None
    turned: bool = False
    seams: bool = False
    sure: bool = False
    open: bool = False
    keep: Literal["all", "above", "below"] = "all"
    slivers: Literal["keep", "drop", "give"] = "keep"
    pins: AskPins | None = None


class AskSlice(Value):
    """A trial: what lies between two planes, thinned from inside if a wall is typed."""

    by: Literal["slice"] = "slice"
    axis: Axis = "z"
    low: str
    high: str
    wall: str = ""


class AskAbove(Value):
    """Two bodies of one, by height."""

    by: Literal["height"] = "height"
    axis: Axis = "z"
    at: str
    depth: str = ""


class AskInside(Value):
    """Two bodies of one, by the outlines of a drawing: the text of an SVG or DXF file.

    ``unit`` is told for a drawing that names none; ``size`` is how wide it is to be, if that is typed.
    """

    by: Literal["outline"] = "outline"
    axis: Axis = "z"
    drawing: str = Field(max_length=4_000_000)
    name: str
    unit: Unit | None = None
    size: str = ""
    move: tuple[str, str] = ("0", "0")
    depth: str = ""


class AskFaces(Value):
    """Two bodies of one, by faces that are raised or sunk: all alike in their plane, or those picked alone.

    ``depth`` is how far under them it goes; what is sunk needs one. ``geometry`` is that which they were
    picked on: on another they are found again by their places.
    """

    by: Literal["faces"] = "faces"
    picks: tuple[PickedFace, ...] = Field(min_length=1)
    alike: bool = False
    depth: str = ""
    geometry: str = ""


class AskHollow(Value):
    """A hollow with a wall, and the diameters of its drains.

    A drain has its mouth at the place of its number in ``places``, in mm, if there is one; else it is at the
    lowest place there is towards ``down``.
    """

    by: Literal["hollow"] = "hollow"
    wall: str
    drains: tuple[str, ...] = ()
    places: tuple[Vec3 | None, ...] = ()
    down: Vec3 = (0.0, 0.0, -1.0)


class AskCombination(Value):
    """Two bodies joined, the second cut from the first, what they have in common, or the first split by the
    second.
    """

    by: Literal["solids"] = "solids"
    how: Literal["join", "cut", "common", "split"]


class AskSurface(Value):
    """Faces moved along their normals by an amount, for a clearance: those picked, or all where none is.

    ``geometry`` is that which they were picked on: on another they are found again by their places.
    """

    by: Literal["surface"] = "surface"
    picks: tuple[PickedFace, ...] = ()
    amount: str
    geometry: str = ""


class AskThread(Value):
    """A thread on the wall of a bore or a boss, which is picked.

    ``size`` is as it is written, ``M5`` or ``M8x1``; empty for that which suits the wall. ``length`` is
    from the
    end that is farther along its axis, empty for all of it. ``clearance`` is in diameter, on this body alone.
    ``geometry`` is that which it was picked on: on another it is found again by its place.
    """

    by: Literal["thread"] = "thread"
    picks: tuple[PickedFace, ...] = Field(min_length=1, max_length=1)
    size: str = Field("", max_length=40)
    length: str = Field("", max_length=40)
    clearance: str = Field("", max_length=40)
    add: bool = False
    left: bool = False
    geometry: str = ""


Asked = Annotated[
    AskPieces
    | AskSlice
    | AskAbove
    | AskInside
    | AskFaces
    | AskHollow
    | AskCombination
    | AskSurface
    | AskThread,
    Field(discriminator="by"),
]


OnPickedFaces = AskFaces | AskSurface | AskThread
"""What is asked for on faces that were picked."""


class Division(Value):
    """What was made of bodies, and of what.

    ``made`` are the bodies it made, by number; one that was taken out of the job is left in it. ``wholes``
    are the bodies it was made of; where it ``replaces`` them they are neither seated nor released.
    ``frames`` and ``geometries`` are those of the wholes when it was made: while they are the same, it is not
    stale. What it made stands on a plate as one where it is ``together``, as two colours of one body do,
    else each by itself.
    """

    id: DivisionId
    asked: Asked
    shaping: Shaping
    wholes: tuple[BodyId, ...]
    frames: tuple[Frame, ...]
    geometries: tuple[str, ...]
    made: tuple[BodyId, ...]
    places: tuple[str, ...] = ()
    replaces: bool = True
    together: bool = False
    difference: float = 0.0
    says: str = ""
    without: tuple[str, ...] = ()
    stays_open: tuple[str, ...] = ()
    clearance_mm: tuple[float, float] | None = None
    wall_mm: tuple[float, float, float] | None = None
    moved_mm: tuple[float, float, float] | None = None
