"""The job: one piece of work as an immutable value.

A job holds decisions and the facts of its files, never geometry itself: bodies name
their geometry by hash. Every change makes a new value (see ``actions``), so undo,
history and crash safety need nothing more than keeping the values.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, model_validator

from aimtrue.core.errors import Refused, Unsettled
from aimtrue.core.formats.contents import Facets, Fineness, Remark
from aimtrue.core.formats.contents import Step as Step
from aimtrue.core.lengths import Unit
from aimtrue.core.readings import Anchor as Anchor
from aimtrue.core.readings import Gauge as Gauge
from aimtrue.core.readings import Reading as Reading
from aimtrue.core.value import AXES as AXES
from aimtrue.core.value import Axis as Axis
from aimtrue.core.value import Value as Value
from aimtrue.core.value import Vec3 as Vec3

Up = Literal["x", "y", "z"]
How = Literal["declared", "told", "inferred", "sibling"]


class Evidence(Value):
    """What of a file's geometry may tell its unit, all in numbers of the file.

    Attributes:
        lengths: distances between parallel flat faces, sizes included, each once.
        diameters: of round edges, each once.
        walls: distances between facing flat faces with material between them.
        looked: how it was looked: ``exact`` from all faces, ``sizes`` when the mesh is too fine.
    """

    lengths: tuple[float, ...] = ()
    diameters: tuple[float, ...] = ()
    walls: tuple[float, ...] = ()
    looked: Literal["exact", "sizes"] = "exact"


class UpGuess(Value):
    """Which axis of a file seems to point up, and why."""

    up: Up
    reason: str


class Overlap(Value):
    """Two bodies of a file that fill the same place; ``volume`` in cubed numbers of the file."""

    a: str
    b: str
    volume: float
    place: Vec3


class Beside(Value):
    """A file that a CAD assembly names parts in, kept byte for byte like its source."""

    name: str
    sha256: str


class Source(Value):
    """A file taken in, kept byte for byte.

    ``how`` tells where the unit comes from: declared by the file, told by the user, inferred from
    clear evidence, taken over from a sibling, or None while it is not settled. ``home`` is a move, in
    numbers and axes of the file, that brings a lost model to the origin. ``pairs_passed`` counts the pairs
    of bodies too large to be looked over for ``overlaps``. ``replaced`` are the hashes of earlier revisions
    of the file, the oldest first. ``triangles`` counts those that its bodies had when it was read (None for
    CAD, and in jobs kept before this was noted), ``set_aside`` those that bound nothing or were there twice.
    ``beside`` are files that an assembly has parts in.
    """

    id: str
    name: str
    sha256: str
    bytes: int
    format: str
    declared: Unit | None = None
    unit: Unit | None = None
    how: How | None = None
    up: Up = "z"
    up_guess: UpGuess | None = None
    words: str = ""
    packed_in: str = ""
    evidence: Evidence = Evidence()
    remarks: tuple[Remark, ...] = ()
    home: Vec3 = (0.0, 0.0, 0.0)
    fineness: Fineness | None = None
    steps: tuple[Step, ...] = ()
    sewn: bool = False
    overlaps: tuple[Overlap, ...] = ()
    pairs_passed: int = 0
    replaced: tuple[str, ...] = ()
    triangles: int | None = None
    set_aside: int = 0
    beside: tuple[Beside, ...] = ()


class Health(Value):
    """Counts that tell whether a body is a closed solid.

    ``places`` names, per finding, up to a few dozen points in numbers of the file. ``crossings`` is
    None where the mesh was too large to look for faces that cut through each other.
    """

    closed: bool
    open_edges: int = 0
    holes: int = 0
    crowded_edges: int = 0
    turned_edges: int = 0
    zero_area: int = 0
    duplicates: int = 0
    seams: int = 0
    crossings: int | None = None
    shells: int = 1
    places: dict[str, tuple[Vec3, ...]] = Field(default_factory=dict)


class Along(Value):
    """A stretch in one direction, a unit vector in the axes of the job, before the factors."""

    direction: Vec3
    factor: float


class Stretched(Value):
    """The bounds of a body under a stretch, in numbers of the file and axes of the job; kept because
    only its whole mesh tells them. ``of`` and ``geometry`` say what they were worked out for.
    """

    of: Along
    up: Up
    geometry: str
    low: Vec3
    high: Vec3


class Typed(Value):
    """A size or a factor as it was typed, while it is in force: the proof holds the file to it.

    ``axis`` is the one it was typed for; None for a factor of all linked axes. ``bodies`` are those whose
    overall size it is; none for a factor.
    """

    axis: Axis | None
    text: str
    bodies: tuple[str, ...] = ()


class Correction(Value):
    """The factors that bring a body true, one per axis.

    Axes are linked unless they are ``free``: a linked axis follows the others, a free one
    is set alone. A ``held`` axis keeps its factor whatever the readings say. ``set_by`` says in words
    what the factors come from, ``readings`` which readings they meet or come nearest to. ``absolute``
    tells that they come from a real size, which stays when the unit is settled anew; a typed factor
    stays a factor. ``along`` is a stretch in one direction, before the factors. ``typed`` are the sizes and
    factors that were typed and still hold.
    """

    factors: Vec3 = (1.0, 1.0, 1.0)
    free: tuple[bool, bool, bool] = (False, False, False)
    held: tuple[bool, bool, bool] = (False, False, False)
    set_by: str = ""
    readings: tuple[str, ...] = ()
    absolute: bool = False
    along: Along | None = None
    typed: tuple[Typed, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_one_reading(cls, told: Any) -> Any:
        """Jobs kept before readings were solved together name one reading."""
        if isinstance(told, dict) and "reading" in told:
            told = dict(told)
            one = told.pop("reading")
            told["readings"] = (one,) if one else ()
        return told


class Turn(Value):
    """A rotation of a seat about an axis of the plate, counter-clockwise seen from its tip."""

    axis: Axis
    degrees: float


class Seat(Value):
    """How a body stands: turned in order, put down on the plate and centred."""

    turns: tuple[Turn, ...] = ()


class Facts(Value):
    """What is compared before and after a body is mended; in numbers of the file."""

    triangles: int
    volume: float
    size: Vec3
    findings: int


class Mended(Value):
    """One remedy that changed a body, with what it did.

    ``moved`` is how far the surface went from where it was, at most, in numbers of the file.
    """

    remedy: str
    before: Facts
    after: Facts
    moved: float = 0.0
    geometry: str
    """The geometry before."""


class Kept(Value):
    """A bore that keeps the diameter it has in the file, in the unit of the file, whatever the correction.

    Where it is (middle of its axis, axis, diameter and depth) is in numbers and axes of the file.
    """

    point: Vec3
    direction: Vec3
    diameter: float
    depth: float

    @model_validator(mode="before")
    @classmethod
    def _in_numbers_alone(cls, told: Any) -> Any:
        """Jobs kept before have the diameter in mm as well, which was wrong once the unit was settled
        anew.
        """
        if isinstance(told, dict) and "diameter_mm" in told:
            return {name: value for name, value in told.items() if name != "diameter_mm"}
        return told


_Shrinkage = Annotated[float, Field(ge=-0.2, le=0.2)]


class Allowance(Value):
    """What is added on purpose after the correction, per axis of the job.

    ``shrinkage`` is the share by which the material shrinks, so a body is made larger by as much;
    ``clearance_mm`` is added to the size (negative: taken off) about the body's own middle. The shrinkage
    is that of the job's material, and follows it, where ``of_material`` says so. What was typed stands
    beside it.
    """

    shrinkage: Vec3 = (0.0, 0.0, 0.0)
    clearance_mm: Vec3 = (0.0, 0.0, 0.0)
    shrinkage_typed: tuple[str, str, str] = ("", "", "")
    clearance_typed: tuple[str, str, str] = ("", "", "")
    of_material: bool = False
    says: str = ""

    @property
    def none(self) -> bool:
        """Whether nothing is added."""
        return not any(self.shrinkage) and not any(self.clearance_mm)


class Material(Value):
    """What a body is made of: density in g/cm³, the strand it comes as (0 for resin), usual shrinkage.

    ``shrinkage`` is a share of the length per axis; bodies take it into their allowance when asked to.
    """

    name: str = Field("PLA", max_length=60)
    density: float = Field(1.24, gt=0, le=25)
    strand_mm: float = Field(1.75, ge=0, le=10)
    shrinkage: tuple[_Shrinkage, _Shrinkage, _Shrinkage] = (0.003, 0.003, 0.003)


class Body(Value):
    """One body: its geometry by hash, its facts in numbers of the file, its decisions.

    ``low`` and ``high`` bound it in file axes; ``volume`` and ``area`` are in cubed and
    squared numbers of the file. Bodies of one ``kit`` share correction, seat and origin. Bodies with
    the same ``alike`` have the same shape up to position and rotation. A ``stray`` is tiny against
    the rest of its file. ``drawn`` is the name that the file gives it, if it does. ``features`` names
    the list of its flat and round faces. One that is ``as_drawn`` mates with a real part and refuses
    corrections; one that is ``alone`` does not follow its kit's. ``remade`` names what was done to its
    geometry since it was taken in; None in jobs kept before that was noted. One that
    is ``copied`` lies where its twin is; ``made_of`` are the bounds of the bodies that it was made anew of,
    in numbers of the file.
    """

    id: str
    name: str
    drawn: str = ""
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
    colour: str | None = None
    material: str = ""
    voids: int = 0
    kit: str | None = None
    alike: str | None = None
    stray: bool = False
    facets: Facets | None = None
    remade: tuple[str, ...] | None = None
    made_of: tuple[tuple[Vec3, Vec3], ...] = ()
    mended: tuple[Mended, ...] = ()
    correction: Correction = Correction()
    allowance: Allowance = Allowance()
    stretched: Stretched | None = None
    kept: tuple[Kept, ...] = ()
    copied: bool = False
    as_drawn: bool = False
    alone: bool = False
    features: str = ""
    seat: Seat = Seat()
    accepted: tuple[str, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _copied_by_name(cls, told: Any) -> Any:
        """Jobs kept before tell a copy by its id alone."""
        if isinstance(told, dict) and "copied" not in told and str(told.get("id", "")).startswith("d"):
            return {**told, "copied": True}
        return told


class Machine(Value):
    """A build volume. Its origin is the front left corner of the plate.

    Example: the default machine is a box 250 wide, 210 deep and 220 high, in mm.
    """

    name: str = "Garden bench M"
    shape: Literal["box"] = "box"
    volume: Vec3 = (250.0, 210.0, 220.0)
    bead: float = 0.4


class Kit(Value):
    """Bodies that share one correction, one seat and one origin, so that they still fit together."""

    id: str
    name: str


class Habits(Value):
    """What the user said holds for the further files of a job."""

    unit: Unit | None = None
    up: Up | None = None


class Missing(Value):
    """Something that a new revision of a file no longer has."""

    source: str
    says: str


class Job(Value):
    """Sources, bodies, readings and the machine."""

    name: str
    sources: tuple[Source, ...] = ()
    bodies: tuple[Body, ...] = ()
    kits: tuple[Kit, ...] = ()
    readings: tuple[Reading, ...] = ()
    machine: Machine = Machine()
    material: Material = Material()
    least_wall_mm: float | None = None
    habits: Habits = Habits()
    missing: tuple[Missing, ...] = ()
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

    def kit(self, key: str) -> Kit:
        """Return a kit by id, or raise :class:`Refused`."""
        return _one_of(self.kits, key, "kit")

    def bodies_of(self, key: str) -> tuple[Body, ...]:
        """Return the bodies of a source."""
        return tuple(body for body in self.bodies if body.source == key)

    def group(self, key: str) -> tuple[Body, ...]:
        """Return the bodies that a change of size or seat concerns.

        Args:
            key: id of a kit or of a body; a body of a kit stands for the whole kit.

        Raises:
            Refused: there is no such kit or body.
        """
        kit = key if any(one.id == key for one in self.kits) else self.body(key).kit
        if kit is None:
            return (self.body(key),)
        return tuple(body for body in self.bodies if body.kit == kit)

    def corrected_with(self, key: str) -> tuple[Body, ...]:
        """Return the bodies that share a correction: a kit's but those corrected alone, or one body.

        Args:
            key: id of a kit or of a body.
        """
        bodies = self.group(key)
        if len(bodies) > 1:
            mine = next((body for body in bodies if body.id == key), None)
            if mine is not None and mine.alone:
                return (mine,)
            together = tuple(body for body in bodies if not body.alone)
            return together or bodies
        return bodies

    def file_axis(self, body: Body, axis: Axis) -> Axis:
        """Return which axis of a body's file an axis of the job is."""
        up = self.source_of(body).up
        return {"z": "xyz", "y": "xzy", "x": "yzx"}[up]["xyz".index(axis)]  # type: ignore[return-value]

    def groups(self) -> tuple[tuple[Body, ...], ...]:
        """Return all bodies by kit, a body of no kit alone, in the order of their first."""
        found: dict[str, list[Body]] = {}
        for body in self.bodies:
            found.setdefault(body.kit or f"body {body.id}", []).append(body)
        return tuple(tuple(bodies) for bodies in found.values())

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

    def framed_with(self, key: str) -> tuple[Source, ...]:
        """Return the sources that share an origin with one through kits, itself included, in order."""
        found, more = {key}, True
        while more:
            kits = {body.kit for body in self.bodies if body.source in found and body.kit is not None}
            wider = found | {body.source for body in self.bodies if body.kit in kits}
            more, found = wider != found, wider
        return tuple(source for source in self.sources if source.id in found)

    def with_source(self, source: Source) -> Job:
        """Return the job with the source of the same id replaced."""
        return self.model_copy(update={"sources": _replaced(self.sources, source)})

    def with_body(self, body: Body) -> Job:
        """Return the job with the body of the same id replaced."""
        return self.model_copy(update={"bodies": _replaced(self.bodies, body)})

    def with_reading(self, reading: Reading) -> Job:
        """Return the job with the reading of the same id replaced."""
        return self.model_copy(update={"readings": _replaced(self.readings, reading)})


_Item = TypeVar("_Item", Source, Body, Reading, Kit)


def _one_of(items: tuple[_Item, ...], key: str, what: str) -> _Item:
    for item in items:
        if item.id == key:
            return item
    raise Refused(f"{what}-unknown", f"there is no {what} {key} in this job", remedy="reload the page")


def _replaced(items: tuple[_Item, ...], new: _Item) -> tuple[_Item, ...]:
    return tuple(new if item.id == new.id else item for item in items)
