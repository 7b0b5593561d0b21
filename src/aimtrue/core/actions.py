"""Everything a user can do to a job, gathered from the rooms, and ``apply``, which does it.

An action is a small value; ``apply(job, action, store)`` returns the new job or raises
:class:`~aimtrue.core.errors.Refused`, and never changes anything in place. A room brings its actions, their
words and what they do; nothing else has to know of a new one.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from pydantic import Field, TypeAdapter

from aimtrue.core.chain.sizes import restretched
from aimtrue.core.division.actions import DivisionAction, MadeAction
from aimtrue.core.division.handlers import HANDLERS as _DIVISION
from aimtrue.core.intake.actions import FileAction, IntakeAction
from aimtrue.core.intake.handlers import HANDLERS as _INTAKE
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import Handlers
from aimtrue.core.model.job import Job
from aimtrue.core.seating.actions import SeatingAction
from aimtrue.core.seating.handlers import HANDLERS as _SEATING
from aimtrue.core.truing.actions import TruingAction
from aimtrue.core.truing.correction_upkeep import restated
from aimtrue.core.truing.handlers import HANDLERS as _TRUING

UserAction = Annotated[
    IntakeAction | TruingAction | DivisionAction | SeatingAction, Field(discriminator="do")
]
"""What the interface may send."""

Action = Annotated[FileAction | MadeAction | UserAction, Field(discriminator="do")]
ACTION: TypeAdapter[Action] = TypeAdapter(Action)

_DOING: Handlers = {**_INTAKE, **_TRUING, **_DIVISION, **_SEATING}
_KINDS = {kind.model_fields["do"].default: kind for kind in _DOING}


def holds_after(since: Iterable[str], *, of_all: bool) -> bool:
    """Tell whether what was asked of a state holds as well after what was done to it since.

    Args:
        since: kinds of actions, as their ``do``.
        of_all: whether all that there is was meant, see :meth:`ActionValue.of_all`.
    """
    kinds = [_KINDS.get(kind) for kind in since]
    return all(kind is not None and kind.adds and (kind.finds or not of_all) for kind in kinds)


def apply(job: Job, action: Action, store: GeometryStore) -> Job:
    """Return the job after an action.

    Args:
        job: the job as it is.
        action: what to do.
        store: gives meshes by hash; only picked places need one.

    Raises:
        Refused: the action cannot be done; the text says why and what to do.
    """
    after = restated(job, _DOING[type(action)](job, action, store))
    for body in after.bodies:
        known = restretched(after, body, store)
        if known is not body:
            after = after.with_body(known)
    return after
