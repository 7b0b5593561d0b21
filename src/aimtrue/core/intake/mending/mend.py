"""Apply a remedy to bodies."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.bodies.separate import count_voids
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.mending.remedies import REMEDY_NAMES, mended
from aimtrue.core.intake.mending.results import MendingResult, facts
from aimtrue.core.intake.taken_bodies import kept
from aimtrue.core.intake.tasks import MendTask, tolerance_asked
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model import recipe as recipes
from aimtrue.core.model.body import Body, MendingStep, recipe_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.progress import Progress


def mend(key: str, job: Job, task: MendTask, store: GeometryStore, progress: Progress) -> MendingResult:
    """Apply a remedy to bodies; those that it does not help stay as they are, unless it helps none."""
    come: list[Body] = []
    blobs: dict[str, bytes] = {}
    follows = {}
    reasons: list[Refused] = []
    for number, name in enumerate(task.bodies, 1):
        progress((number - 1) / len(task.bodies), f"{REMEDY_NAMES[task.remedy]}: {job.body(name).name}")
        old = job.body(name)
        mesh = store.mesh(old.geometry)
        tolerance = _in_numbers(job, old, tolerance_asked(task))
        try:
            after = mended(mesh, task.remedy, tolerance)
        except Refused as error:
            reasons.append(error)
            continue
        if after is mesh:
            continue
        recipe = recipes.RemedyRecipe(whole=recipe_of(old), remedy=task.remedy, tolerance=tolerance)
        body, named = _mended_body(f"{key}-{number}", old, mesh, after, recipe)
        come.append(body)
        blobs.update(named)
        follows[body.id] = old.id
    if not come:
        raise (
            reasons[0]
            if reasons
            else Refused(
                "nothing-to-mend",
                f"there is nothing to {REMEDY_NAMES[task.remedy]}; the body was not changed by one bit",
                remedy="choose another remedy, or leave it",
            )
        )
    gone = tuple(follows.values())
    return MendingResult(
        Remake(says=REMEDY_NAMES[task.remedy], gone=gone, come=tuple(come), follows=follows), blobs
    )


def _in_numbers(job: Job, body: Body, mm: float | None) -> float | None:
    """Bring a typed distance into numbers of the file, correction taken off."""
    if mm is None:
        return None
    return mm / MM_PER[job.settled_unit(body)] / max(job.correction_of(body).factors)


def _mended_body(
    key: str, old: Body, before: Mesh, after: Mesh, recipe: recipes.RemedyRecipe
) -> tuple[Body, dict[str, bytes]]:
    from aimtrue.core.intake.mending.rebuild import greatest_distance

    remedy = recipe.remedy
    thorough = remedy in ("resolve-crossings", "rebuild")
    health = health_of(after, thorough=thorough and after.triangles < 1_000_000)
    low, high = after.bounds()
    moved = max(greatest_distance(after, before), greatest_distance(before, after))
    if remedy in ("close-holes", "face-outward"):
        moved = 0.0  # What is there stays where it is; a patch has no old surface to be measured from.
    body = old.model_copy(
        update={
            "id": key,
            "triangles": after.triangles,
            "vertices": len(after.vertices),
            "low": as_vec3(low),
            "high": as_vec3(high),
            "volume": after.volume(),
            "area": after.area(),
            "health": health,
            "voids": count_voids(after),
            "alike": None,
            "facets": None,
            "recipe": recipe,
            "remade": (*(old.remade or ()), remedy),
            "made_of": old.made_of or ((old.low, old.high),),
        }
    )
    record = MendingStep(
        remedy=remedy, before=facts(old), after=facts(body), moved=moved, geometry=old.geometry
    )
    return kept(body.model_copy(update={"mended": (*old.mended, record)}), after)
