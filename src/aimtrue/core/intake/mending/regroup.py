"""Separate a body into its shells; join bodies, or take them as one."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.formats.contents import FileObject
from aimtrue.core.gauges.division_gauges import carried_over
from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.bodies.separate import count_voids, separate
from aimtrue.core.intake.mending.remedies import as_one, joined
from aimtrue.core.intake.mending.results import MendingResult, done_to
from aimtrue.core.intake.successors import with_decisions
from aimtrue.core.intake.taken_bodies import FoundBody, body_of, kept
from aimtrue.core.intake.tasks import JoinTask, SeparateTask, TakeAsOneTask
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body, recipe_of
from aimtrue.core.model.job import Job, Kit
from aimtrue.core.model.recipe import AsOneRecipe as OneOf
from aimtrue.core.model.recipe import JoinRecipe, ShellRecipe
from aimtrue.core.progress import Progress


def separate_body(key: str, job: Job, task: SeparateTask, store: GeometryStore) -> MendingResult:
    """Divide a body into its shells, each with the voids within it."""
    old = job.body(task.body)
    parts = separate(store.mesh(old.geometry))
    if len(parts) < 2:
        raise Refused("one-shell", f"{old.name} hangs together, so it is one body already")
    # The kit stays; a lone body's pieces become one, so that they keep their common origin.
    kit = None
    if old.kit is None:
        kit = Kit(id=f"k{key}", name=old.name, shared=old.own, home=old.home)
    come, blobs = [], {}
    for number, separated_body in enumerate(parts, 1):
        name = f"{old.name} {number}"
        part = FileObject(name, separated_body.mesh, colour=old.colour, material=old.material)
        body = body_of(
            f"{key}-{number}",
            old.source,
            FoundBody(name, separated_body.mesh, separated_body.voids, False, part),
        )
        recipe = ShellRecipe(whole=recipe_of(old), number=number - 1)
        body = body.model_copy(update={"remade": old.remade, "recipe": recipe})
        body, named = kept(with_decisions(body, old), separated_body.mesh)
        come.append(body if kit is None else body.model_copy(update={"kit": kit.id}))
        blobs.update(named)
    pieces = {body.id: old.id for body in come}
    action = Remake(says=f"separate {old.name}", gone=(old.id,), come=tuple(come), kit=kit, pieces=pieces)
    return MendingResult(action, blobs)


def join(key: str, job: Job, task: JoinTask, store: GeometryStore, progress: Progress) -> MendingResult:
    """Join touching or overlapping bodies into one closed solid."""
    olds = [job.body(name) for name in task.bodies]
    _refuse_apart(job, olds)
    progress(0.2, "joining")
    traced_solids = joined([store.mesh(old.geometry) for old in olds])
    progress(0.7, "looking it over")
    recipe = JoinRecipe(wholes=tuple(map(recipe_of, olds)))
    remade = _merged_into(key, olds, traced_solids.mesh, recipe, f"join {len(olds)} bodies", ("join",))
    anchored = {
        reading.id: anchors
        for reading in job.readings
        if (anchors := carried_over(job, reading, task.bodies, traced_solids)) is not None
    }
    assert isinstance(remade.action, Remake)
    return MendingResult(remade.action.model_copy(update={"anchored": anchored}), remade.blobs)


def take_as_one(key: str, job: Job, task: TakeAsOneTask, store: GeometryStore) -> MendingResult:
    """Take several bodies as one, their surfaces as they are."""
    olds = [job.body(name) for name in task.bodies]
    _refuse_apart(job, olds)
    mesh = as_one([store.mesh(old.geometry) for old in olds])
    recipe = OneOf(wholes=tuple(map(recipe_of, olds)))
    return _merged_into(key, olds, mesh, recipe, f"take {len(olds)} bodies as one")


def _refuse_apart(job: Job, olds: list[Body]) -> None:
    first = olds[0]
    for old in olds[1:]:
        if old.source != first.source or job.correction_of(old) != job.correction_of(first):
            raise Refused(
                "no-common-origin",
                f"{first.name} and {old.name} come from different files or have different corrections",
                remedy="only bodies of one file with one correction can become one",
            )


def _merged_into(
    key: str,
    olds: list[Body],
    mesh: Mesh,
    recipe: JoinRecipe | OneOf,
    says: str,
    done: tuple[str, ...] = (),
) -> MendingResult:
    first = olds[0]
    part = FileObject(first.name, mesh, colour=first.colour, material=first.material)
    body = body_of(f"{key}-1", first.source, FoundBody(first.name, mesh, count_voids(mesh), False, part))
    update = {
        "recipe": recipe,
        "remade": done_to(olds, done),
        "made_of": tuple(span for old in olds for span in (old.made_of or ((old.low, old.high),))),
        "mended": tuple(step for old in olds for step in old.mended),
    }
    body, blobs = kept(with_decisions(body.model_copy(update=update), first), mesh)
    gone = tuple(old.id for old in olds)
    return MendingResult(Remake(says=says, gone=gone, come=(body,), follows={body.id: first.id}), blobs)
