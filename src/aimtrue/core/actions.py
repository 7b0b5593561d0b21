"""This module does to a job whatever a user or a task asks for, by what the rooms say.

An action is a small value; :func:`apply` returns the new job or raises
:class:`~aimtrue.core.errors.Refused`, and never changes anything in place. The rooms bring the actions and
what they do (:mod:`aimtrue.core.rooms`).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import reduce
from typing import TYPE_CHECKING

from pydantic import TypeAdapter

from aimtrue.core.chain.sizes import restretched
from aimtrue.core.intake.actions import Accept
from aimtrue.core.intake.handlers import refuse_unacceptable
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.job import Job
from aimtrue.core.room import Room, Succession
from aimtrue.core.rooms import ROOMS, actions_of, kinds_of, told_apart

_HANDLERS = actions_of(ROOMS)
if TYPE_CHECKING:
    Action = ActionValue
    UserAction = ActionValue
else:
    Action = told_apart([*_HANDLERS])
    UserAction = told_apart([kind for kind, handler in _HANDLERS.items() if handler.by_user])
    """What the interface may send."""
ACTION: TypeAdapter[Action] = TypeAdapter(Action)

_SHEETS = {handler.action: room.on or room.name for room in ROOMS for handler in room.actions}
_KINDS = {kind.model_fields["do"].default: kind for kind in _HANDLERS}


def holds_after(since: Iterable[str], *, of_all: bool) -> bool:
    """Tell whether what was asked of a state holds as well after what was done to it since.

    Args:
        since: kinds of actions, as their ``do``.
        of_all: whether all that there is was meant, see :meth:`ActionValue.of_all`.
    """
    kinds = [_KINDS.get(kind) for kind in since]
    return all(kind is not None and kind.adds and (kind.finds or not of_all) for kind in kinds)


def sheet_of(action: Action) -> str:
    """Return the name of the sheet that an action is on."""
    accepted = kinds_of(ROOMS).get(action.code) if isinstance(action, Accept) else None
    return accepted.sheet if accepted else _SHEETS[type(action)]


def apply(job: Job, action: Action, store: GeometryStore, rooms: Sequence[Room] = ROOMS) -> Job:
    """Return the job after an action.

    Args:
        job: the job as it is.
        action: what to do.
        store: gives meshes by hash; only picked places need one.
        rooms: whose actions are known.

    Raises:
        Refused: the action cannot be done; the text says why and what to do.
    """
    handlers = _HANDLERS if rooms is ROOMS else actions_of(rooms)
    if isinstance(action, Accept):
        refuse_unacceptable(action, kinds_of(rooms).get(action.code))
    after = handlers[type(action)].handle(job, action, store)
    for replacement in action.replacements():
        succession = Succession(job, replacement, store)
        after = reduce(lambda carried, room: room.carry(carried, succession), rooms, after)
    after = reduce(lambda upheld, room: room.uphold(job, upheld, store), rooms, after)
    for body in after.bodies:
        known = restretched(after, body, store)
        if known is not body:
            after = after.with_body(known)
    return after
