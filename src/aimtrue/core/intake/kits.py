"""Kits: made, left, and gone when one body is left."""

from __future__ import annotations

from aimtrue.core.chain.correction import corrected
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import (
    LeaveKit,
    MakeKit,
)
from aimtrue.core.intake.naming import a_name
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.job import Job, Kit


def without_idle_kits(job: Job) -> Job:
    """A kit of one body is no kit."""
    counts = [body.kit for body in job.bodies]
    kits = tuple(kit for kit in job.kits if counts.count(kit.id) > 1)
    known = {kit.id for kit in kits}
    bodies = tuple(
        body if body.kit in known or body.kit is None else body.model_copy(update={"kit": None})
        for body in job.bodies
    )
    return job.model_copy(update={"kits": kits, "bodies": bodies})


def make_kit(job: Job, action: MakeKit, shelf: Shelf) -> Job:
    name = a_name(action.name)
    first = job.body(action.bodies[0])
    frame = job.source_of(first)
    number = job.counter + 1
    for key in action.bodies[1:]:
        source = job.source_of(job.body(key))
        if (source.unit, source.up, source.home) != (frame.unit, frame.up, frame.home):
            raise Refused(
                "kit-mixed",
                f"{frame.name} and {source.name} differ in unit, up axis or origin and have no common origin",
                remedy="settle both alike first",
            )
    kit = Kit(id=f"k{number}", name=name)
    job = corrected(job, tuple(job.body(key) for key in action.bodies), first.correction)
    job = job.with_each(action.bodies, lambda _: {"kit": kit.id, "seat": first.seat})
    return without_idle_kits(job.model_copy(update={"kits": (*job.kits, kit), "counter": number}))


def leave_kit(job: Job, action: LeaveKit, shelf: Shelf) -> Job:
    return without_idle_kits(job.with_each(action.bodies, lambda _: {"kit": None}))
