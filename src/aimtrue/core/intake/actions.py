"""This module says what a user can do on sheet 1, and what a file that was read or made anew does to a job,
as values.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue, count_of_bodies
from aimtrue.core.model.body import Body, Health
from aimtrue.core.model.ids import BodyId, ReadingId, SourceId
from aimtrue.core.model.job import Kit
from aimtrue.core.model.lengths import UNIT_NAMES, Unit
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.replacement import Replacement
from aimtrue.core.model.source import BodyOverlap, Source, Up


class TakeIn(ActionValue):
    """Files were read: their sources, bodies and kits join the job."""

    adds: ClassVar[bool] = True
    do: Literal["take-in"] = "take-in"
    sources: tuple[Source, ...]
    bodies: tuple[Body, ...]
    kits: tuple[Kit, ...] = ()

    @override
    def words(self) -> str:
        return f"take in {self.sources[0].packed_in or self.sources[0].name}"


class Remake(ActionValue):
    """Bodies were made anew by a remedy: some go, others come, decisions go with them.

    ``follows`` tells, per new body, which old one's decisions it takes over. ``overlaps`` are those of the
    new bodies with others of their file; of a ``source`` that is read anew they are in it.
    ``anchored`` are the places of readings that are known to be on the same faces as before.
    ``kit`` is one that the new bodies become; ``pieces`` tells, per new body that is a part of an old one,
    which. ``scale`` is how many times larger the numbers of a new revision are for the same part, where its
    file is in another unit.
    """

    do: Literal["remake"] = "remake"
    says: str
    gone: tuple[BodyId, ...]
    come: tuple[Body, ...]
    follows: dict[BodyId, BodyId] = Field(default_factory=dict)
    source: Source | None = None
    missing: tuple[str, ...] = ()
    overlaps: tuple[BodyOverlap, ...] = ()
    kit: Kit | None = None
    pieces: dict[BodyId, BodyId] = Field(default_factory=dict)
    anchored: dict[ReadingId, tuple[Anchor, ...]] = Field(default_factory=dict)
    scale: float = Field(1.0, gt=0)

    @override
    def brings(self) -> tuple[str, ...]:
        return tuple(body.id for body in self.come)

    @override
    def replacements(self) -> tuple[Replacement, ...]:
        return (
            Replacement(
                gone=self.gone,
                follows=self.follows,
                pieces=self.pieces,
                kit=self.kit.id if self.kit else None,
                anchored=self.anchored,
                onto=self.come[0].id if self.anchored else None,
                scale=self.scale,
            ),
        )

    @override
    def words(self) -> str:
        return self.says


class LookOver(ActionValue):
    """Geometry was looked over: its health, faces that cut through each other among it, by its hash.

    ``features`` are the hashes of its flat and round faces as listed, by its own hash; ``overlaps`` those of
    bodies of the same file with each other, by source, when they were looked for.
    """

    finds: ClassVar[bool] = True
    adds: ClassVar[bool] = True
    do: Literal["look-over"] = "look-over"
    found: dict[str, Health] = Field(default_factory=dict)
    features: dict[str, str] = Field(default_factory=dict)
    overlaps: dict[str, tuple[BodyOverlap, ...]] = Field(default_factory=dict)

    @override
    def words(self) -> str:
        return f"look over {count_of_bodies(tuple({**self.found, **self.features}))}"


class SettleUnit(ActionValue):
    """The user says which unit a source is in; None means all sources whose unit is open.

    ``remember`` makes it the unit of further files of the job that do not say theirs.
    """

    do: Literal["settle-unit"] = "settle-unit"
    source: SourceId | None
    unit: Unit
    remember: bool = False

    @override
    def of_all(self) -> bool:
        return self.source is None

    @override
    def words(self) -> str:
        return f"settle unit: {UNIT_NAMES[self.unit]}"


class SetUp(ActionValue):
    """The user says which axis of a source points up; None means all, and those to come."""

    do: Literal["set-up"] = "set-up"
    source: SourceId | None
    up: Up

    @override
    def words(self) -> str:
        return f"up is {self.up.upper()}"


class BringHome(ActionValue):
    """A lost model is moved to the origin, or (not ``home``) left where its file has it."""

    do: Literal["bring-home"] = "bring-home"
    source: SourceId
    home: bool = True

    @override
    def words(self) -> str:
        return "bring home" if self.home else "leave where the file has it"


class Paint(ActionValue):
    """Bodies get a colour, or (None) the colour of none."""

    do: Literal["paint"] = "paint"
    history: ClassVar[str] = "colour"
    bodies: tuple[BodyId, ...]
    colour: str | None = Field(pattern=r"^#[0-9a-f]{6}$")


class Delete(ActionValue):
    """Bodies leave the job; their sources stay."""

    do: Literal["delete"] = "delete"
    bodies: tuple[BodyId, ...] = Field(min_length=1)

    @override
    def words(self) -> str:
        return f"remove {count_of_bodies(self.bodies)}"


class Duplicate(ActionValue):
    """Bodies are there once more, under names of their own."""

    do: Literal["duplicate"] = "duplicate"
    bodies: tuple[BodyId, ...] = Field(min_length=1)

    @override
    def words(self) -> str:
        return f"duplicate {count_of_bodies(self.bodies)}"


class MakeKit(ActionValue):
    """Bodies share one correction, seat and origin from now on: those of the first."""

    do: Literal["make-kit"] = "make-kit"
    bodies: tuple[BodyId, ...] = Field(min_length=2)
    name: str

    @override
    def words(self) -> str:
        return f"make kit {self.name}"


class LeaveKit(ActionValue):
    """Bodies go their own way; each keeps the correction and seat it has."""

    do: Literal["leave-kit"] = "leave-kit"
    history: ClassVar[str] = "leave the kit"
    bodies: tuple[BodyId, ...] = Field(min_length=1)


class Rename(ActionValue):
    """A body gets a name, which becomes its file name."""

    do: Literal["rename"] = "rename"
    body: BodyId
    name: str

    @override
    def words(self) -> str:
        return f"rename to {self.name}"


class RenameAll(ActionValue):
    """Several bodies get names of one pattern: ``{n}`` is the number of each, ``{name}`` what it was called.

    A pattern without either gets a number after it.
    """

    do: Literal["rename-all"] = "rename-all"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    pattern: str = Field(max_length=200)

    @override
    def words(self) -> str:
        return f"rename {len(self.bodies)} bodies to {' '.join(self.pattern.split())}"


class RenameJob(ActionValue):
    """The job gets a name; releases that are made later are named by it."""

    do: Literal["rename-job"] = "rename-job"
    name: str = Field(max_length=200)

    @override
    def words(self) -> str:
        return f"call the job {' '.join(self.name.split())}"


class Accept(ActionValue):
    """A finding is accepted on purpose, or no longer; for a body, for several, or (both empty) for every
    body. One that would make a bad part is accepted for a reason, which is kept.
    """

    do: Literal["accept"] = "accept"
    body: BodyId | None = None
    bodies: tuple[BodyId, ...] = ()
    code: str
    accepted: bool = True
    reason: str = Field("", max_length=300)

    @override
    def words(self) -> str:
        return f"{'accept' if self.accepted else 'no longer accept'} {self.code}"


FileAction = TakeIn | Remake | LookOver
"""What the system itself puts into a job."""
