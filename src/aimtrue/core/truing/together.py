"""One decision for several bodies or kits at once: a factor, a shrinkage, a clearance."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import corrected_with
from aimtrue.core.truing.actions import SetAllowance, SetFactor
from aimtrue.core.truing.allowances import set_allowance
from aimtrue.core.truing.sizes import set_factor


class SetTogether(ActionValue):
    """Several bodies get a factor, a shrinkage or a clearance, each by what it is when typed for one alone.

    What shares a correction gets it once, and all of it; pieces and trials follow their whole.
    ``factor``, ``shrinkage`` (in percent) and ``clearance`` (a length with a sign) are as typed, and empty
    where they stay.
    ``sure`` takes what is far from anything usual.
    """

    do: Literal["set-together"] = "set-together"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    factor: str = Field("", max_length=200)
    shrinkage: str = Field("", max_length=200)
    clearance: str = Field("", max_length=200)
    sure: bool = False

    @override
    def words(self) -> str:
        asked = {"factor": self.factor, "shrinkage": self.shrinkage, "clearance": self.clearance}
        said = ", ".join(f"{name} {text.strip()}" for name, text in asked.items() if text.strip())
        return f"{said} for {len(self.bodies)} bodies"


def set_together(job: Job, action: SetTogether, store: GeometryStore) -> Job:
    """Decide for several bodies at once; where one of them refuses, none is changed."""
    chosen = [job.body(key) for key in action.bodies]
    wholes = [body for body in chosen if body.division is None and not body.for_checking]
    if not wholes:
        raise Refused(
            "none-to-size",
            "all of these follow their whole, or are only to check against",
            remedy="choose bodies to print",
        )
    for body in _each_correction(job, wholes):
        if action.factor.strip():
            job = set_factor(job, SetFactor(body=body.id, typed=action.factor), store)
        if action.shrinkage.strip():
            shares = (action.shrinkage,) * 3
            job = set_allowance(job, SetAllowance(body=body.id, shrinkage=shares, sure=action.sure), store)
    if action.clearance.strip():
        for body in wholes:
            added = (action.clearance,) * 3
            job = set_allowance(job, SetAllowance(body=body.id, clearance=added, sure=action.sure), store)
    return job


def _each_correction(job: Job, bodies: list[Body]) -> list[Body]:
    """Return one body of each correction that bodies have."""
    seen: set[BodyId] = set()
    firsts = []
    for body in bodies:
        if body.id not in seen:
            firsts.append(body)
        seen |= {one.id for one in corrected_with(job, body.id)}
    return firsts
