"""The job: one piece of work as an immutable value.

A job holds decisions and the facts of its files, never geometry itself: bodies name
their geometry by hash. Every change makes a new value (see ``actions``), so undo,
history and crash safety need nothing more than keeping the values.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import cached_property
from typing import Any, TypeVar

from pydantic import Field

from aimtrue.core.errors import Refused, UnitUnsettled
from aimtrue.core.model.body import Body
from aimtrue.core.model.budget import Budget
from aimtrue.core.model.decisions import Correction, Decisions, Shrinkage
from aimtrue.core.model.division import Division
from aimtrue.core.model.estimate import KeptEstimate
from aimtrue.core.model.ids import BodyId, DivisionId, KitId, PairId, PlateId, ReadingId, SourceId, Subject
from aimtrue.core.model.inspection import Inspection
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.materials import Material, named
from aimtrue.core.model.pairs import FitPair
from aimtrue.core.model.printing import PrintSettings, Rates
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.model.source import Source, Up
from aimtrue.core.model.value import Value, Vec3


class Kit(Value):
    """Bodies that share one correction and one origin, so that they still fit together.

    What they share is ``shared``, and ``home``: a move, in numbers and axes of the file, that brings a
    model that was lost far away to the origin. Of one that is ``free`` each body stands on a plate by itself.
    """

    id: KitId
    name: str
    shared: Decisions = Decisions()
    home: Vec3 = (0.0, 0.0, 0.0)
    free: bool = False


class Habits(Value):
    """What the user said holds for the further files of a job."""

    unit: Unit | None = None
    up: Up | None = None


class LostItem(Value):
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
    plates: tuple[Plate, ...] = Field((Plate(),), min_length=1)
    seats: tuple[Seat, ...] = ()
    material: Material = Material()
    least_wall_mm: float | None = None
    habits: Habits = Habits()
    missing: tuple[LostItem, ...] = ()
    divisions: tuple[Division, ...] = ()
    pairs: tuple[FitPair, ...] = ()
    inspection: Inspection = Inspection()
    printing: PrintSettings = PrintSettings()
    rates: Rates = Rates()
    budgets: tuple[Budget, ...] = ()
    estimates: tuple[KeptEstimate, ...] = ()
    counter: int = 0

    # By id; worked out when first asked for, and left behind by copies.
    @cached_property
    def _sources(self) -> dict[str, Source]:
        return _by_id(self.sources)

    @cached_property
    def _bodies(self) -> dict[str, Body]:
        return _by_id(self.bodies)

    @cached_property
    def kits_by_id(self) -> dict[str, Kit]:
        """The kits by their ids."""
        return _by_id(self.kits)

    @cached_property
    def _readings(self) -> dict[str, Reading]:
        return _by_id(self.readings)

    @cached_property
    def divisions_by_id(self) -> dict[str, Division]:
        """The divisions by their ids."""
        return _by_id(self.divisions)

    @cached_property
    def _plates(self) -> dict[str, Plate]:
        return _by_id(self.plates)

    @cached_property
    def _seats(self) -> dict[str, tuple[Seat, ...]]:
        seats: dict[str, tuple[Seat, ...]] = {}
        for seat in self.seats:
            seats[seat.subject] = (*seats.get(seat.subject, ()), seat)
        return seats

    @cached_property
    def divisions_by_whole(self) -> dict[str, Division]:
        """By the id of a body that its pieces stand for, the division that made them."""
        return {key: division for division in self.divisions if division.replaces for key in division.wholes}

    @cached_property
    def _in_force(self) -> dict[str, tuple[Body, Decisions, Source, Vec3]]:
        kits = self.kits_by_id
        return {
            body.id: (
                body,
                body.own if body.kit is None or body.alone else kits[body.kit].shared,
                self._sources[body.source],
                body.home if body.kit is None else kits[body.kit].home,
            )
            for body in self.bodies
        }

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Job:
        """Return the job with fields changed."""
        job = super().model_copy(update=update, deep=deep)
        for name in _WORKED_OUT:
            job.__dict__.pop(name, None)
        return job

    def source(self, key: SourceId) -> Source:
        """Return a source by id, or raise :class:`Refused`."""
        return _one_of(self._sources, key, "file")

    def body(self, key: BodyId) -> Body:
        """Return a body by id, or raise :class:`Refused`."""
        return _one_of(self._bodies, key, "body")

    def reading(self, key: ReadingId) -> Reading:
        """Return a reading by id, or raise :class:`Refused`."""
        return _one_of(self._readings, key, "reading")

    def kit(self, key: KitId) -> Kit:
        """Return a kit by id, or raise :class:`Refused`."""
        return _one_of(self.kits_by_id, key, "kit")

    @property
    def machine(self) -> Machine:
        """The machine of the first plate."""
        return self.plates[0].machine

    def kit_of(self, body: Body) -> Kit | None:
        """Return the kit that a body is in, if it is in one."""
        return None if body.kit is None else self.kit(body.kit)

    def decisions_of(self, body: Body) -> Decisions:
        """Return what is in force for a body: its kit's, or its own where it is in none or corrected
        alone.
        """
        return self.in_force(body)[1]

    def correction_of(self, body: Body) -> Correction:
        """Return the correction in force for a body."""
        return self.decisions_of(body).correction

    def shrinkage_of(self, body: Body) -> Shrinkage:
        """Return the shrinkage that a body makes up for."""
        return self.decisions_of(body).shrinkage

    def home_of(self, body: Body) -> Vec3:
        """Return the move, in numbers and axes of the file, that brings a body home with its kit."""
        return self.in_force(body)[3]

    def material_of(self, body: Body) -> Material:
        """Return what a body is made of: what its file names, where that is known; else the job's
        material.
        """
        return named(body.material, self.material)

    def allowed(self, body: Body) -> bool:
        """Whether anything is added to a body on purpose."""
        return any(self.shrinkage_of(body).shares) or any(body.clearance.mm)

    def seats_of(self, subject: Subject) -> tuple[Seat, ...]:
        """Return how the copies of a kit or lone body stand; one that nobody has touched stands as it
        came.
        """
        return self._seats.get(subject) or (Seat(subject=subject, plate=self.plates[0].id),)

    def plate(self, key: PlateId) -> Plate:
        """Return a plate by id, or raise :class:`Refused`."""
        return _one_of(self._plates, key, "plate")

    def in_force(self, body: Body) -> tuple[Body, Decisions, Source, Vec3]:
        """Return all that what is worked out of a body comes from, besides its readings and its seat.

        The very same objects while nothing of it changed, so that results can be kept by them.
        """
        known = self._in_force.get(body.id)
        # Nearly always it is known, and this is asked dozens of times for each body.
        if known is not None and known[0] is body:
            return known
        kit, source = self.kit_of(body), self.source(body.source)
        own = kit is None or body.alone
        return (
            body,
            body.own if kit is None or own else kit.shared,
            source,
            body.home if kit is None else kit.home,
        )

    def pair(self, key: PairId) -> FitPair:
        """Return a pair by id, or raise :class:`Refused`."""
        return _one_of(_by_id(self.pairs), key, "pair")

    def division(self, key: DivisionId) -> Division:
        """Return a division by id, or raise :class:`Refused`."""
        return _one_of(self.divisions_by_id, key, "division")

    def source_of(self, body: Body) -> Source:
        """Return the source a body came from."""
        return self.in_force(body)[2]

    def settled_unit(self, body: Body) -> Unit:
        """Return the unit of a body's source.

        Raises:
            Unsettled: nobody has said it yet, so no size may be worked with.
        """
        source = self.source_of(body)
        if source.unit is None:
            raise UnitUnsettled(
                "unit-unsettled",
                f"the unit of {source.name} is not settled",
                remedy="settle it on sheet 1, Intake",
            )
        return source.unit

    def settled(self, bodies: Iterable[Body]) -> bool:
        """Whether the units of the sources of several bodies are settled."""
        source_ids = {source.id for source in self.sources if source.unit is not None}
        return all(body.source in source_ids for body in bodies)

    def with_source(self, source: Source) -> Job:
        """Return the job with the source of the same id replaced."""
        return self.model_copy(update={"sources": _replaced(self.sources, source)})

    def with_body(self, body: Body) -> Job:
        """Return the job with the body of the same id replaced."""
        return self.model_copy(update={"bodies": _replaced(self.bodies, body)})

    def with_decisions(self, body: Body, **changes: object) -> Job:
        """Return the job with what is in force for a body changed: for its whole kit, unless it is alone."""
        decisions = self.decisions_of(body).model_copy(update=changes)
        kit = self.kit_of(body)
        if kit is None or body.alone:
            return self.with_body(body.model_copy(update={"own": decisions}))
        return self.with_kit(kit.model_copy(update={"shared": decisions}))

    def with_home(self, body: Body, home: Vec3) -> Job:
        """Return the job with a body, and the kit that it is in, moved home."""
        kit = self.kit_of(body)
        if kit is None:
            return self.with_body(body.model_copy(update={"home": home}))
        return self.with_kit(kit.model_copy(update={"home": home}))

    def with_seats(self, subject: Subject, seats: tuple[Seat, ...]) -> Job:
        """Return the job with the seats of a kit or lone body replaced."""
        others = tuple(seat for seat in self.seats if seat.subject != subject)
        return self.model_copy(update={"seats": (*others, *seats)})

    def with_division(self, division: Division) -> Job:
        """Return the job with the division of the same id replaced."""
        return self.model_copy(update={"divisions": _replaced(self.divisions, division)})

    def with_kit(self, kit: Kit) -> Job:
        """Return the job with the kit of the same id replaced."""
        return self.model_copy(update={"kits": _replaced(self.kits, kit)})

    def with_each(self, keys: Iterable[BodyId], change: Callable[[Body], dict[str, object]]) -> Job:
        """Return the job with fields of several bodies changed; ``change`` gives the new values of each."""
        bodies = {body.id: body.model_copy(update=change(body)) for body in map(self.body, keys)}
        return self.model_copy(update={"bodies": tuple(bodies.get(body.id, body) for body in self.bodies)})

    def with_reading(self, reading: Reading) -> Job:
        """Return the job with the reading of the same id replaced."""
        return self.model_copy(update={"readings": _replaced(self.readings, reading)})


_WORKED_OUT = (
    "_sources",
    "_bodies",
    "kits_by_id",
    "_readings",
    "_plates",
    "_seats",
    "divisions_by_whole",
    "_in_force",
    "divisions_by_id",
)
_Item = TypeVar("_Item", Source, Body, Reading, Kit, Plate, Division, FitPair)


def _by_id(items: tuple[_Item, ...]) -> dict[str, _Item]:
    return {item.id: item for item in items}


def _one_of(items: dict[str, _Item], key: str, what: str) -> _Item:
    item = items.get(key)
    if item is not None:
        return item
    raise Refused(f"{what}-unknown", f"there is no {what} {key} in this job", remedy="reload the page")


def _replaced(items: tuple[_Item, ...], new: _Item) -> tuple[_Item, ...]:
    return tuple(new if item.id == new.id else item for item in items)
