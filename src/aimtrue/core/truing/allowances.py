"""Materials, shrinkage and clearance: what actions on them do."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.decisions import Clearance, Shrinkage
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.model.materials import Material
from aimtrue.core.truing.actions import ChooseMaterial, SetAllowance, SetLeastWall

_DENSEST = 25.0
_THICKEST_MM = 10.0


def set_least_wall(job: Job, action: SetLeastWall, shelf: Shelf) -> Job:
    least = parse_length(action.typed) if action.typed.strip() else None
    return job.model_copy(update={"least_wall_mm": least})


def choose_material(job: Job, action: ChooseMaterial, shelf: Shelf) -> Job:
    material = action.material
    if action.shrinkage is not None:
        material = material.model_copy(update={"shrinkage": _shares(action.shrinkage)})
    if action.density is not None:
        material = material.model_copy(update={"density": _density(action.density)})
    if action.strand is not None:
        strand = parse_length(action.strand) if action.strand.strip() not in ("", "0") else 0.0
        if strand > _THICKEST_MM:
            raise Refused("strand", f"{action.strand.strip()} is too thick for a strand", remedy="type 1.75")
        material = material.model_copy(update={"strand_mm": strand})
    job = job.model_copy(update={"material": material})
    for body in job.bodies:
        if job.shrinkage_of(body).of_material and job.shrinkage_of(body) != _of_material(material):
            job = job.with_decisions(body, shrinkage=_of_material(material))
    return job


def _density(typed: str) -> float:
    try:
        density = float(typed.strip().replace(",", "."))
    except ValueError:
        raise Refused(
            "density", f"“{typed}” is not a number", remedy="type g/cm³, for example 1.24"
        ) from None
    if not 0 < density <= _DENSEST:
        raise Refused("density", f"{typed.strip()} g/cm³ is beyond any material", remedy="type g/cm³")
    return density


def _of_material(material: Material) -> Shrinkage:
    return Shrinkage(shares=material.shrinkage, of_material=True, says=f"usual of {material.name}")


def set_allowance(job: Job, action: SetAllowance, shelf: Shelf) -> Job:
    """Shrinkage is the material's and so the kit's; clearance is a body's own, typed for one or for all."""
    bodies = job.corrected_with(action.body)
    job.settled_unit(bodies[0])
    shrunk = _shrunk(job.material, job.shrinkage_of(bodies[0]), action)
    for body in bodies:
        if job.shrinkage_of(body) != shrunk:
            job = job.with_decisions(job.body(body.id), shrinkage=shrunk)
        asked = len(bodies) == 1 or action.body in (body.id, body.kit)
        if asked and action.clearance is not None:
            clearance = Clearance(mm=_offsets(action.clearance), typed=action.clearance)
            job = job.with_body(job.body(body.id).model_copy(update={"clearance": clearance}))
    return job


def _shrunk(material: Material, old: Shrinkage, action: SetAllowance) -> Shrinkage:
    """The shrinkage that is asked for: the material's, one that is typed, or none."""
    if action.of_material:
        return _of_material(material)
    if action.shrinkage is not None:
        # A calibration brings its own words; its numbers were not typed.
        typed = ("", "", "") if action.says else action.shrinkage
        return Shrinkage(shares=_shares(action.shrinkage), typed=typed, says=action.says)
    if action.of_material is False:
        return Shrinkage()
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
