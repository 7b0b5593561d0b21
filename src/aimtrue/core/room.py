"""This module says what a room is: one value, in which each room describes all that others ask of it.

A room is a folder of the core that owns one sheet's rules. What spans the rooms reads these values, gathered
in :mod:`aimtrue.core.rooms`, and names no room. So a new room is a folder with such a value, and one line in
the list of rooms.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from aimtrue.core.command import Command
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.job import Job
from aimtrue.core.model.remedy import Remedy
from aimtrue.core.model.replacement import Replacement
from aimtrue.core.model.value import Value
from aimtrue.core.progress import Progress

ActionT = TypeVar("ActionT", bound=ActionValue)
TaskT = TypeVar("TaskT", bound=Value)
ResultT = TypeVar("ResultT")


@dataclass(frozen=True)
class ActionHandler(Generic[ActionT]):
    """An action with the function that does it; mypy holds one against the other.

    Attributes:
        action: the kind of action.
        handle: returns the job after it, from the job, the action and the meshes.
        by_user: whether the interface may send it; others come of files and tasks alone.
    """

    action: type[ActionT]
    handle: Callable[[Job, ActionT, GeometryStore], Job]
    by_user: bool = True


@dataclass(frozen=True, eq=False)
class TaskInputs:
    """What a background task works with.

    Attributes:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        store: gives the meshes.
        data: the bytes of the source, for a task that reads it again; else empty.
        progress: told how far it is.
        stopped: asked whether to stop with the best so far.
    """

    key: str
    job: Job
    store: GeometryStore
    data: bytes
    progress: Progress
    stopped: Callable[[], bool] = lambda: False


@dataclass(frozen=True, eq=False)
class TaskResult:
    """What is to be done to the job, and the blobs that this names, by their hash."""

    action: ActionValue
    blobs: dict[str, bytes]


def nothing_unclear(job: Job, task: Value) -> None:
    """Find nothing unclear in a task."""


@dataclass(frozen=True)
class TaskHandler(Generic[TaskT]):
    """A background task with the function that does it.

    Attributes:
        task: the kind of task.
        run: does it.
        refuse_unclear: raises ``Refused`` when something typed for it makes no sense, before it is begun.
        by_user: whether the interface may ask for it.
    """

    task: type[TaskT]
    run: Callable[[TaskInputs, TaskT], TaskResult]
    refuse_unclear: Callable[[Job, TaskT], None] = nothing_unclear
    by_user: bool = True


class Inquiry:
    """One look at a job, for everything that is told of it; what several rooms need is worked out once.

    Args:
        job: the job.
        store: gives meshes and features.
    """

    def __init__(self, job: Job, store: GeometryStore) -> None:
        self.job = job
        self.store = store
        self._known: dict[Callable[..., Any], Any] = {}

    def of(self, work_out: Callable[[Job, GeometryStore], ResultT]) -> ResultT:
        """Return what a function makes of the job; the second time it is not called again."""
        if work_out not in self._known:
            self._known[work_out] = work_out(self.job, self.store)
        result_t: ResultT = self._known[work_out]
        return result_t


@dataclass(frozen=True)
class BodyChange:
    """A body in two states of a job, to say what differs: at one release and at another."""

    before: Job
    old: Body
    after: Job
    new: Body


@dataclass(frozen=True, eq=False)
class Succession:
    """Bodies took the place of others, and what a room keeps of the old ones is to be carried to the new.

    Attributes:
        before: the job while the old bodies were in it.
        replacement: which of the new ones follows which.
        store: gives the meshes of both.
    """

    before: Job
    replacement: Replacement
    store: GeometryStore


def _as_it_is(job: Job, succession: Succession) -> Job:
    """Carry nothing."""
    return job


def _held(before: Job, after: Job, store: GeometryStore) -> Job:
    """Leave a job as an action made it."""
    return after


Difference = tuple[str, str, str]
"""What is not as it was, and how it was and is, in words."""


@dataclass(frozen=True)
class Room:
    """All that others ask of a room.

    Attributes:
        name: of its sheet, where it has one of its own.
        on: the sheet that it is on, where it has none of its own.
        actions: what is done to a job in it.
        tasks: what it does in the background.
        kinds: the kinds of its findings.
        findings: finds what would make a bad part.
        remedies: what can be done about a finding; nothing where it is another room's.
        survey: what it adds to what is told of a job, by name.
        differences: what of a body is not as it was at another release.
        sheet: what a proof sheet says of a body, each with a label.
        carry: returns a job in which bodies that took the place of others have what was the old ones'.
        uphold: returns a job, as it was before an action and is after it, whose claims are such as hold;
            told what gives its meshes, too.
        done: what its sheet says in the strip of a job when nothing is wrong there.
        commands: what it answers on the command line.
    """

    name: str
    actions: Sequence[ActionHandler[Any]] = ()
    tasks: Sequence[TaskHandler[Any]] = ()
    kinds: Sequence[FindingKind] = ()
    findings: Callable[[Inquiry], Iterable[Finding]] = lambda inquiry: ()
    remedies: Callable[[Finding], Sequence[Remedy]] = lambda finding: ()
    survey: dict[str, Callable[[Inquiry], Value]] = field(default_factory=dict)
    differences: Callable[[BodyChange], Iterable[Difference]] = lambda change: ()
    sheet: Callable[[Job, Body], Iterable[tuple[str, str]]] = lambda job, body: ()
    carry: Callable[[Job, Succession], Job] = _as_it_is
    uphold: Callable[[Job, Job, GeometryStore], Job] = _held
    done: Callable[[Inquiry], str] = lambda inquiry: ""
    commands: Sequence[Command[Any]] = ()
    on: str = ""
