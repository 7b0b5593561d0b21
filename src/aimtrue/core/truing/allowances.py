"""Materials, shrinkage and clearance: what actions on them do."""

from __future__ import annotations

from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Clearance, Shrinkage
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length, parse_offset, written
from aimtrue.core.model.materials import Material
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.ownership import corrected_with
from aimtrue.core.model.value import AXES, Vec3
from aimtrue.core.truing.actions import ChooseMaterial, PerAxis, SetAllowance, SetLeastWall, TakeCalibration
from aimtrue.core.truing.confirmations import USUAL_CLEARANCE_MM, ask_first

_DENSEST = 25.0
_THICKEST_MM = 10.0
_MOST_SHRINKAGE = 0.2
_USUAL_SHRINKAGE = 0.03
"""What shrinks by more, or grows, is asked about: a calibration that was measured may, a typed one rarely
does.
"""


def set_least_wall(job: Job, action: SetLeastWall, store: GeometryStore) -> Job:
    """Set the thinnest wall that will do; empty takes it back."""
    least = parse_length(action.typed) if action.typed.strip() else None
    return job.model_copy(update={"least_wall_mm": least})


def choose_material(job: Job, action: ChooseMaterial, store: GeometryStore) -> Job:
    """Choose what the job, or a body, is made of, with the values that were typed over its usual ones."""
    material = action.material
    if action.shrinkage is not None:
        shares = _shares(action.shrinkage, material.shrinkage, sure=action.sure)
        material = material.model_copy(update={"shrinkage": shares})
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
    density = parse_number(typed)
    if not 0 < density <= _DENSEST:
        raise Refused("density", f"{typed.strip()} g/cm³ is beyond any material", remedy="type g/cm³")
    return density


def _of_material(material: Material) -> Shrinkage:
    return Shrinkage(shares=material.shrinkage, of_material=True, says=f"usual of {material.name}")


def set_allowance(job: Job, action: SetAllowance, store: GeometryStore) -> Job:
    """Shrinkage is the material's and so the kit's; clearance is a body's own, typed for one or for all."""
    bodies = corrected_with(job, action.body)
    job.settled_unit(bodies[0])
    shrunk = _shrunk(job.material, job.shrinkage_of(bodies[0]), action)
    for body in bodies:
        if job.shrinkage_of(body) != shrunk:
            job = job.with_decisions(job.body(body.id), shrinkage=shrunk)
        asked = len(bodies) == 1 or action.body in (body.id, body.kit)
        if asked and action.clearance is not None:
            clearance = _cleared(job, job.body(body.id), action.clearance, action.sure)
            job = job.with_body(job.body(body.id).model_copy(update={"clearance": clearance}))
    return job


def take_calibration(job: Job, action: TakeCalibration, store: GeometryStore) -> Job:
    """Let bodies have the shrinkage that was measured, with how sure it is and what else is known."""
    calibration = action.found
    shrinkage = Shrinkage(
        shares=calibration.shrinkage,
        uncertainty=calibration.uncertainty,
        lines=calibration.lines,
        says=f"calibrated by {action.says}"
        if action.says
        else f"calibrated: {calibration.machine}, {calibration.material}",
    )
    # Bodies to check against are real things, which shrink no more.
    all_bodies = tuple(body for body in job.bodies if not body.for_checking)
    bodies = all_bodies if action.body is None else corrected_with(job, action.body)
    if action.body is not None:
        job.settled_unit(bodies[0])
    for body in bodies:
        if job.settled((body,)) and job.shrinkage_of(body) != shrinkage:
            job = job.with_decisions(job.body(body.id), shrinkage=shrinkage)
    return job


def _shrunk(material: Material, old: Shrinkage, action: SetAllowance) -> Shrinkage:
    """The shrinkage that is asked for: the material's, one that is typed, or none."""
    if action.of_material:
        return _of_material(material)
    if action.shrinkage is not None:
        shares = _shares(action.shrinkage, old.shares, sure=action.sure or bool(action.says))
        # A calibration brings its own words; its numbers were not typed.
        typed = ("", "", "") if action.says else _texts(action.shrinkage, old.typed)
        return Shrinkage(shares=shares, typed=typed, says=action.says)
    if action.of_material is False:
        return Shrinkage()
    return old.model_copy(update={"says": action.says or old.says})


def _texts(typed: PerAxis, old: tuple[str, str, str]) -> tuple[str, str, str]:
    """What was typed per axis, and what it was before where nothing was."""
    x, y, z = (before if text is None else text for text, before in zip(typed, old, strict=True))
    return (x, y, z)


def _shares(typed: PerAxis, old: Vec3, *, sure: bool) -> Vec3:
    x, y, z = (
        before if text is None else _share(text, sure=sure) for text, before in zip(typed, old, strict=True)
    )
    return (x, y, z)


def _share(typed: str, *, sure: bool) -> float:
    """Read ``0.4`` or ``0.4 %`` as a share; a part may also grow, which is asked about first."""
    text = typed.strip().removesuffix("%").strip()
    share = (parse_number(text) if text else 0.0) / 100
    if not -_MOST_SHRINKAGE <= share <= _MOST_SHRINKAGE:
        raise Refused("share-absurd", f"{typed} is over 20 %", remedy="plastics shrink by 0.2 to 1.5 %")
    if not sure and not 0 <= share <= _USUAL_SHRINKAGE:
        raise ask_first(
            f"a shrinkage of {written(100 * share, 2)} % is unusual: plastics shrink by 0.2 to 1.5 %"
        )
    return share


def _cleared(job: Job, body: Body, typed: PerAxis, sure: bool) -> Clearance:
    """The clearance of a body as typed per axis; one that is larger than any fit needs is asked about."""
    old = body.clearance
    x, y, z = (
        before if text is None else parse_offset(text.strip() or "0")
        for text, before in zip(typed, old.mm, strict=True)
    )
    for axis, text, mm, size in zip(AXES, typed, (x, y, z), true_sizes(job, body), strict=True):
        if text is not None and not sure and (abs(mm) > USUAL_CLEARANCE_MM or mm < -size / 2):
            raise ask_first(
                f"a clearance of {mm:+.6g} mm along {axis.upper()}, on {written(size)} mm, is far from "
                "the 0.3 to 0.5 mm of a usual fit"
            )
    return Clearance(mm=(x, y, z), typed=_texts(typed, old.typed))
