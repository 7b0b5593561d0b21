"""The job: one piece of work as an immutable value.

A job holds decisions and the facts of its files, never geometry itself: bodies name
their geometry by hash. Every change makes a new value (see ``actions``), so undo,
history and crash safety need nothing more than keeping the values.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from aimtrue.core.errors import Refused, Unsettled
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Material
from aimtrue.core.model.facets import Step as Step
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.readings import Anchor as Anchor
from aimtrue.core.model.readings import Gauge as Gauge
from aimtrue.core.model.readings import Reading as Reading
from aimtrue.core.model.source import Source, Up
from aimtrue.core.model.value import AXES as AXES
from aimtrue.core.model.value import Axis as Axis
from aimtrue.core.model.value import Value as Value
from aimtrue.core.model.value import Vec3 as Vec3


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

    def with_each(self, keys: tuple[str, ...], change: Callable[[Body], dict[str, object]]) -> Job:
        """Return the job with fields of several bodies changed; ``change`` gives the new values of each."""
        job = self
        for key in keys:
            body = job.body(key)
            job = job.with_body(body.model_copy(update=change(body)))
        return job

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
