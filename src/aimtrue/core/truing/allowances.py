"""Materials, shrinkage and clearance: what actions on them do."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.decisions import Allowance
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.truing.actions import ChooseMaterial, SetAllowance, SetLeastWall


def set_least_wall(job: Job, action: SetLeastWall, shelf: Shelf) -> Job:
    least = parse_length(action.typed) if action.typed.strip() else None
    return job.model_copy(update={"least_wall_mm": least})


def choose_material(job: Job, action: ChooseMaterial, shelf: Shelf) -> Job:
    material = action.material
    if action.shrinkage is not None:
        material = material.model_copy(update={"shrinkage": _shares(action.shrinkage)})
    job = job.model_copy(update={"material": material})
    for body in job.bodies:
        if body.allowance.of_material:
            job = job.with_body(body.model_copy(update={"allowance": _of_material(job, body.allowance)}))
    return job


def _of_material(job: Job, allowance: Allowance) -> Allowance:
    says = f"usual of {job.material.name}"
    return allowance.model_copy(
        update={
            "shrinkage": job.material.shrinkage,
            "shrinkage_typed": ("", "", ""),
            "of_material": True,
            "says": says,
        }
    )


def set_allowance(job: Job, action: SetAllowance, shelf: Shelf) -> Job:
    bodies = job.corrected_with(action.body)
    job.settled_unit(bodies[0])
    for body in bodies:
        old = body.allowance
        # Shrinkage is the material's and so the kit's; clearance is a body's own.
        mine = action.clearance is not None and (
            len(bodies) == 1 or action.body == body.id or action.body == body.kit
        )
        clearance, typed = old.clearance_mm, old.clearance_typed
        if mine and action.clearance:
            clearance, typed = _offsets(action.clearance), action.clearance
        update = {"clearance_mm": clearance, "clearance_typed": typed}
        made = _shrunk(job, old, action).model_copy(update=update)
        job = job.with_body(body.model_copy(update={"allowance": made}))
    return job


def _shrunk(job: Job, old: Allowance, action: SetAllowance) -> Allowance:
    """The allowance with the shrinkage that is asked for: the material's, one that is typed, or none."""
    if action.of_material:
        return _of_material(job, old)
    if action.shrinkage is not None:
        # A calibration brings its own words; its numbers were not typed.
        typed = ("", "", "") if action.says else action.shrinkage
        return Allowance(shrinkage=_shares(action.shrinkage), shrinkage_typed=typed, says=action.says)
    if action.of_material is False:
        return Allowance()
    return old.model_copy(update={"says": action.says or old.says})


def _shares(typed: tuple[str, str, str]) -> Vec3:
    x, y, z = (_share(one) for one in typed)
    return (x, y, z)


def _share(typed: str) -> float:
    """Read ``0.4`` or ``0.4 %`` as a share; a part may also grow."""
    text = typed.strip().removesuffix("%").strip().replace("−", "-").replace(",", ".")
    try:
        share = float(text or 0) / 100
    except ValueError:
        raise Refused("share", f"“{typed}” is not a percentage", remedy="type for example 0.4") from None
    if not -0.2 <= share <= 0.2:
        raise Refused("share-absurd", f"{typed} is over 20 %", remedy="plastics shrink by 0.2 to 1.5 %")
    return share


def _offsets(typed: tuple[str, str, str]) -> Vec3:
    x, y, z = (parse_offset(one) for one in typed)
    return (x, y, z)
