"""Everything a user can do to a job, and ``apply``, which does it.

An action is a small value; ``apply(job, action, shelf)`` returns the new job or raises
:class:`~aimtrue.core.errors.Refused`, and never changes anything in place. Typed text
travels in the action as typed, so history shows what the user wrote.
"""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.actions import intake, readings, seating, truing
from aimtrue.core.actions.models import ACTION as ACTION
from aimtrue.core.actions.models import Accept as Accept
from aimtrue.core.actions.models import Action as Action
from aimtrue.core.actions.models import AddReading as AddReading
from aimtrue.core.actions.models import AdjustReading as AdjustReading
from aimtrue.core.actions.models import BringHome as BringHome
from aimtrue.core.actions.models import ChooseMaterial as ChooseMaterial
from aimtrue.core.actions.models import CorrectAlone as CorrectAlone
from aimtrue.core.actions.models import Delete as Delete
from aimtrue.core.actions.models import Duplicate as Duplicate
from aimtrue.core.actions.models import FitMachine as FitMachine
from aimtrue.core.actions.models import FreeAxis as FreeAxis
from aimtrue.core.actions.models import HoldAxis as HoldAxis
from aimtrue.core.actions.models import ImportReadings as ImportReadings
from aimtrue.core.actions.models import KeepAsDrawn as KeepAsDrawn
from aimtrue.core.actions.models import KeepBores as KeepBores
from aimtrue.core.actions.models import LeaveKit as LeaveKit
from aimtrue.core.actions.models import LookOver as LookOver
from aimtrue.core.actions.models import MakeKit as MakeKit
from aimtrue.core.actions.models import MoveReading as MoveReading
from aimtrue.core.actions.models import NameReading as NameReading
from aimtrue.core.actions.models import Paint as Paint
from aimtrue.core.actions.models import RelaxReading as RelaxReading
from aimtrue.core.actions.models import Remake as Remake
from aimtrue.core.actions.models import RemoveReading as RemoveReading
from aimtrue.core.actions.models import Rename as Rename
from aimtrue.core.actions.models import ResetCorrection as ResetCorrection
from aimtrue.core.actions.models import ResetSeat as ResetSeat
from aimtrue.core.actions.models import ScaleTogether as ScaleTogether
from aimtrue.core.actions.models import SetAllowance as SetAllowance
from aimtrue.core.actions.models import SetFactor as SetFactor
from aimtrue.core.actions.models import SetLeastWall as SetLeastWall
from aimtrue.core.actions.models import SetReading as SetReading
from aimtrue.core.actions.models import SettleUnit as SettleUnit
from aimtrue.core.actions.models import SetUp as SetUp
from aimtrue.core.actions.models import SizeAxis as SizeAxis
from aimtrue.core.actions.models import SizeLongest as SizeLongest
from aimtrue.core.actions.models import SolveReadings as SolveReadings
from aimtrue.core.actions.models import StretchAlong as StretchAlong
from aimtrue.core.actions.models import TakeIn as TakeIn
from aimtrue.core.actions.models import TakeProposal as TakeProposal
from aimtrue.core.actions.models import TurnSeat as TurnSeat
from aimtrue.core.actions.models import UserAction as UserAction
from aimtrue.core.actions.said import describe as describe
from aimtrue.core.findings import ACCEPTABLE as ACCEPTABLE
from aimtrue.core.frames import restretched
from aimtrue.core.job import Job, Value
from aimtrue.core.shelf import Shelf


def apply(job: Job, action: Action, shelf: Shelf) -> Job:
    """Return the job after an action.

    Args:
        job: the job as it is.
        action: what to do.
        shelf: gives meshes by hash; only picked places need one.

    Raises:
        Refused: the action cannot be done; the text says why and what to do.
    """
    after: Job = _DOING[type(action)](job, action, shelf)
    for body in after.bodies:
        known = restretched(body, after.source_of(body), shelf)
        if known is not body:
            after = after.with_body(known)
    return after


_DOING: dict[type[Value], Callable[..., Job]] = {
    **intake.DOING,
    **truing.DOING,
    **readings.DOING,
    **seating.DOING,
}
