"""This module lists the rooms of the core, and gathers from them what spans all.

A new room is one line in :data:`ROOMS`; what a room describes of itself is in :mod:`aimtrue.core.room`.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import reduce
from operator import or_
from typing import Annotated, Any

from pydantic import Field

from aimtrue.core.cost.room import COST
from aimtrue.core.division.room import DIVISION
from aimtrue.core.fit.room import FIT
from aimtrue.core.intake.room import INTAKE
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import FindingKind
from aimtrue.core.model.value import Value
from aimtrue.core.room import ActionHandler, Room, TaskHandler
from aimtrue.core.seating.room import SEATING
from aimtrue.core.stock.room import STOCK
from aimtrue.core.truing.room import TRUING
from aimtrue.core.usual.room import USUAL

ROOMS: tuple[Room, ...] = (
    INTAKE,
    TRUING,
    FIT,
    DIVISION,
    SEATING,
    COST,
    STOCK,
    USUAL,
)


def actions_of(rooms: Iterable[Room]) -> dict[type[ActionValue], ActionHandler[Any]]:
    """Return what is done to a job in some rooms, by the kind of action."""
    return {handler.action: handler for room in rooms for handler in room.actions}


def tasks_of(rooms: Iterable[Room]) -> dict[type[Value], TaskHandler[Any]]:
    """Return what some rooms do in the background, by the kind of task."""
    return {handler.task: handler for room in rooms for handler in room.tasks}


def kinds_of(rooms: Iterable[Room]) -> dict[str, FindingKind]:
    """Return the kinds of findings of some rooms, by their codes."""
    return {kind.code: kind for room in rooms for kind in room.kinds}


def told_apart(kinds: Sequence[type[Value]]) -> Any:  # noqa: ANN401 - of any type, or of none that is known
    """Return a type that holds a value of any of some kinds, told apart by their ``do``."""
    return Annotated[reduce(or_, kinds), Field(discriminator="do")]
