"""Read a source again: with other facets, or in a new revision."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.formats import CAD_ENDINGS, ending_of
from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.mending.results import MendingResult
from aimtrue.core.intake.revise import matched, weighed_anew
from aimtrue.core.intake.successors import in_other_numbers, with_decisions
from aimtrue.core.intake.take_in import FINE, TakenFile, all_kept, take_in
from aimtrue.core.intake.tasks import RefineTask, ReviseTask, fineness_asked
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import SourceId
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.model.source import Source
from aimtrue.core.progress import Progress


def refine(
    key: str, job: Job, task: RefineTask, data: bytes, store: GeometryStore, progress: Progress
) -> MendingResult:
    """Cut a CAD source into facets anew; its bodies keep what was decided of them."""
    source = job.source(task.source)
    if ending_of(source.name) not in CAD_ENDINGS:
        raise Refused("not-cad", f"{source.name} is a mesh; its facets are what they are")
    fineness = fineness_asked(source, task)
    beside = {file.name: store.original(file.sha256) for file in source.beside}
    taken = take_in(key, source.name, data, fineness=fineness, sew=task.sew, beside=beside, progress=progress)
    fresh = taken.sources[0].model_copy(
        update={
            "id": source.id,
            "unit": source.unit,
            "how": source.how,
            "up": source.up,
            "packed_in": source.packed_in,
            "replaced": source.replaced,
            "sewn": task.sew,
            "made": source.made,
        }
    )
    says = f"fineness {fineness.chord_mm:g} mm, {fineness.angle_deg:g}°"
    return _swapped(job, source.id, taken, fresh, "sew the surfaces" if task.sew else says)


def revise(key: str, job: Job, task: ReviseTask, data: bytes, progress: Progress) -> MendingResult:
    """Read a new revision of a file, and match its bodies with those of the one before."""
    source = job.source(task.source)
    taken = take_in(
        key, task.name, data, fineness=source.fineness or FINE, sew=source.sewn, progress=progress
    )
    if len(taken.sources) > 1:
        raise Refused(
            "several-files", "the archive holds several files", remedy="give the one that replaces this file"
        )
    new = taken.sources[0].model_copy(update={"id": source.id, "up": source.up})
    settled = weighed_anew(job, source, new, taken.bodies)
    fresh = new.model_copy(
        update={
            "unit": settled.unit,
            "how": settled.how,
            "before_mm": settled.before_mm,
            "replaced": (*source.replaced, source.sha256),
        }
    )
    says = f"new revision of {source.name}"
    return _swapped(job, source.id, taken, fresh, says, settled.doubts, settled.scale)


def _swapped(  # noqa: PLR0913 - told apart by their names
    job: Job,
    key: SourceId,
    taken: TakenFile,
    fresh: Source,
    says: str,
    doubts: tuple[str, ...] = (),
    scale: float = 1.0,
) -> MendingResult:
    """Put freshly read bodies in the place of those of a source that are the same parts.

    Args:
        job: as it stands.
        key: id of the source.
        taken: the file as it was read.
        fresh: the source as it is to be.
        says: for history and the undo button.
        doubts: what is to be told of it besides.
        scale: numbers of the new file for one of the old.
    """
    olds = [body for body in bodies_of(job, key) if not body.copied]
    bodies, blobs = all_kept(taken)
    bodies = tuple(body.model_copy(update={"source": key, "kit": None}) for body in bodies)
    pairs = matched([in_other_numbers(old, scale) for old in olds], list(bodies))
    follows = {bodies[new].id: olds[old].id for new, old in pairs.items()}
    # A body that is new in the file belongs to what the others belong to.
    kit = next((old.kit for old in olds if old.kit), None)
    like = olds[0] if olds else None
    come = tuple(
        body
        if body.id in follows or like is None
        else with_decisions(body, in_other_numbers(like, scale)).model_copy(
            update={"kit": kit, "as_drawn": False, "alone": False}
        )
        for body in bodies
    )
    lost = [old for number, old in enumerate(olds) if number not in pairs.values()]
    missing = tuple(f"{old.name} is no longer in the file" for old in lost)
    missing += tuple(
        f"{old.name} was mended before; mend it again" for old in olds if old.mended and old not in lost
    )
    missing += doubts
    action = Remake(
        says=says,
        gone=tuple(old.id for old in olds),
        come=come,
        follows=follows,
        source=fresh,
        missing=missing,
        scale=scale,
    )
    return MendingResult(action, blobs)
