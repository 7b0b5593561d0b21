"""The job: one piece of work as an immutable value.

A job holds decisions and the facts of its files, never geometry itself: bodies name
their geometry by hash. Every change makes a new value (see ``actions``), so undo,
history and crash safety need nothing more than keeping the values.
"""

from __future__ import annotations

from typing import Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from aimtrue.core.errors import Refused, Unsettled
from aimtrue.core.lengths import Unit

Vec3 = tuple[float, float, float]
Axis = Literal["x", "y", "z"]
Up = Literal["z", "y"]
AXES: tuple[Axis, Axis, Axis] = ("x", "y", "z")


class Value(BaseModel):
    """Base of everything in a job: frozen, and strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Source(Value):
    """A file taken in, kept byte for byte.

    ``how`` tells where the unit comes from: declared by the file, told by the user, or None
    while it is not settled.
    """

    id: str
    name: str
    sha256: str
    bytes: int
    format: str
    declared: Unit | None = None
    unit: Unit | None = None
    how: Literal["declared", "told"] | None = None
    up: Up = "z"
    words: str = ""


class Health(Value):
    """Counts that tell whether a body is a closed solid."""

    closed: bool
    open_edges: int = 0
    crowded_edges: int = 0
    turned_edges: int = 0
    zero_area: int = 0
    shells: int = 1


class Correction(Value):
    """The factors that bring a body true, one per axis.

    Axes are linked unless they are ``free``: a linked axis follows the others, a free one
    is set alone. ``set_by`` says in words what the factors come from. ``absolute`` tells that they
    come from a real size, which stays when the unit is settled anew; a typed factor stays a factor.
    """

    factors: Vec3 = (1.0, 1.0, 1.0)
    free: tuple[bool, bool, bool] = (False, False, False)
    set_by: str = ""
    reading: str | None = None
    absolute: bool = False


class Turn(Value):
    """A rotation of a seat about an axis of the plate, counter-clockwise seen from its tip."""

    axis: Axis
    degrees: float


class Seat(Value):
    """How a body stands: turned in order, put down on the plate and centred."""

    turns: tuple[Turn, ...] = ()


class Body(Value):
    """One body: its geometry by hash, its facts in numbers of the file, its decisions.

    ``low`` and ``high`` bound it in file axes; ``volume`` and ``area`` are in cubed and
    squared numbers of the file.
    """

    id: str
    name: str
    source: str
    geometry: str
    bench: str
    triangles: int
    vertices: int
    low: Vec3
    high: Vec3
    volume: float
    area: float
    health: Health
    parts: tuple[str, ...] = ()
    correction: Correction = Correction()
    seat: Seat = Seat()
    accepted: tuple[str, ...] = ()


class Anchor(Value):
    """A place on a body: a face and where on it.

    ``weights`` are barycentric for the three corners of the face, so a place stays on the
    body through every transform and can be found again in the released file.
    """

    face: int = Field(ge=0)
    weights: Vec3
    on: Literal["vertex", "edge", "surface"] = "surface"


class Reading(Value):
    """A gauge between two places, and the real length it should have.

    ``a_point`` and ``b_point`` are in numbers and axes of the file. ``real_mm`` is None while
    only the distance on the model is looked at.
    """

    id: str
    name: str
    body: str
    a: Anchor
    b: Anchor
    a_point: Vec3
    b_point: Vec3
    real_mm: float | None = None
    typed: str = ""


class Machine(Value):
    """A build volume. Its origin is the front left corner of the plate.

    Example: the default machine is a box 250 wide, 210 deep and 220 high, in mm.
    """

    name: str = "Garden bench M"
    shape: Literal["box"] = "box"
    volume: Vec3 = (250.0, 210.0, 220.0)


class Job(Value):
    """Sources, bodies, readings and the machine."""

    name: str
    sources: tuple[Source, ...] = ()
    bodies: tuple[Body, ...] = ()
    readings: tuple[Reading, ...] = ()
    machine: Machine = Machine()
    counter: int = 0

    def source(self, key: str) -> Source:
        """Return a source by id, or raise :class:`Refused`."""
        return _one_of(self.sources, key, "file")

    def body(self, key: str) -> Body:
        """Return a body by id, or raise :class:`Refused`."""
        return _one_of(self.bodies, key, "body")

    def reading(self, key: str) -> Reading:
        """Return a reading by id, or raise :class:`Refused`."""
        return _one_of(self.readings, key, "reading")

    def source_of(self, body: Body) -> Source:
        """Return the source a body came from."""
        return self.source(body.source)

    def settled_unit(self, body: Body) -> Unit:
        """Return the unit of a body's source.

        Raises:
            Unsettled: nobody has said it yet, so no size may be worked with.
        """
        source = self.source_of(body)
        if source.unit is None:
            raise Unsettled(
                "unit-unsettled",
                f"the unit of {source.name} is not settled",
                remedy="settle it on sheet 1, Intake",
            )
        return source.unit

    def with_source(self, source: Source) -> Job:
        """Return the job with the source of the same id replaced."""
        return self.model_copy(update={"sources": _replaced(self.sources, source)})

    def with_body(self, body: Body) -> Job:
        """Return the job with the body of the same id replaced."""
        return self.model_copy(update={"bodies": _replaced(self.bodies, body)})

    def with_reading(self, reading: Reading) -> Job:
        """Return the job with the reading of the same id replaced."""
        return self.model_copy(update={"readings": _replaced(self.readings, reading)})


_Item = TypeVar("_Item", Source, Body, Reading)


def _one_of(items: tuple[_Item, ...], key: str, what: str) -> _Item:
    for item in items:
        if item.id == key:
            return item
    raise Refused(f"{what}-unknown", f"there is no {what} {key} in this job", remedy="reload the page")


def _replaced(items: tuple[_Item, ...], new: _Item) -> tuple[_Item, ...]:
    return tuple(new if item.id == new.id else item for item in items)
