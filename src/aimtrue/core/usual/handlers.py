"""Usual settings are taken into a job, all in one step."""

from __future__ import annotations

from typing import Literal

from typing_extensions import override

from aimtrue.core.cost.actions import UsePrintSettings
from aimtrue.core.cost.handlers import use_settings
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.decisions import Clearance, Shrinkage
from aimtrue.core.model.job import Job
from aimtrue.core.room import ActionHandler
from aimtrue.core.seating.actions import SetMachine
from aimtrue.core.seating.placement.plates import set_machine
from aimtrue.core.truing.actions import ChooseMaterial, SetAllowance
from aimtrue.core.truing.allowances import choose_material, set_allowance
from aimtrue.core.usual.settings import UsualSettings

_MOST_SHRINKAGE = 0.2


class TakeUsual(ActionValue):
    """All that a set of usual settings says holds for the job, its plates and every body that is printed."""

    do: Literal["take-usual"] = "take-usual"
    settings: UsualSettings

    @override
    def words(self) -> str:
        return f"usual settings {self.settings.name}"


def take_usual(job: Job, action: TakeUsual, store: GeometryStore) -> Job:
    """Take a set of usual settings over, by what each part of it is when it is chosen by itself."""
    usual = action.settings
    job = set_machine(job, SetMachine(machine=usual.machine), store)
    job = choose_material(job, ChooseMaterial(material=usual.material), store)
    job = job.model_copy(update={"least_wall_mm": usual.least_wall_mm})
    x, y, z = (f"{mm:.9g}" for mm in usual.clearance.mm)
    cleared = any(usual.clearance.mm)
    # Pieces and trials follow their whole: widened each by itself, they would add up to more than it.
    for key in [body.id for body in job.bodies if not body.for_checking and body.division is None]:
        job = job.with_decisions(job.body(key), shrinkage=_checked(usual.shrinkage))
        job = job.with_body(job.body(key).model_copy(update={"clearance": Clearance()}))
        if cleared:  # Held against the size of this very body, as if it had been typed here.
            job = set_allowance(job, SetAllowance(body=key, clearance=(x, y, z)), store)
    return use_settings(job, UsePrintSettings(settings=usual.printing), store)


def _checked(shrinkage: Shrinkage) -> Shrinkage:
    if any(abs(share) > _MOST_SHRINKAGE for share in shrinkage.shares):
        raise Refused(
            "share-absurd", "a shrinkage of over 20 % is none", remedy="plastics shrink by 0.2 to 1.5 %"
        )
    return shrinkage


ACTIONS = (ActionHandler(TakeUsual, take_usual),)
