"""This module does what is done in the background, by what the rooms say."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.room import Room, TaskInputs, TaskResult
from aimtrue.core.rooms import ROOMS, tasks_of, told_apart

_HANDLERS = tasks_of(ROOMS)
if TYPE_CHECKING:
    Task = Value
    UserTask = Value
else:
    Task = told_apart([*_HANDLERS])
    UserTask = told_apart([kind for kind, handler in _HANDLERS.items() if handler.by_user])
    """What the interface may ask for; a new revision comes with its file."""


def refuse_unclear(job: Job, task: Task) -> None:
    """Raise :class:`Refused` when something typed for a task makes no sense, before it is begun."""
    _HANDLERS[type(task)].refuse_unclear(job, task)


def do(inputs: TaskInputs, task: Task, rooms: Sequence[Room] = ROOMS) -> TaskResult:
    """Do a task.

    Args:
        inputs: what it works with.
        task: what to do.
        rooms: whose tasks are known.

    Raises:
        Refused: it cannot be done, or there is nothing to do.
        UnreadableFile: the file of a revision cannot be read.
    """
    handlers = _HANDLERS if rooms is ROOMS else tasks_of(rooms)
    return handlers[type(task)].run(inputs, task)
