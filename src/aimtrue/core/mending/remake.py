"""Make bodies of a job anew: mend, separate, join, take as one, re-tessellate, or swap in a revision.

Each function returns a :class:`Remade`: the action that puts the new bodies in the place of the old
ones (or tells what was found by looking them over), and the geometry they name. Nothing here changes a job.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from aimtrue.core import geometry
from aimtrue.core.actions import LookOver, Remake
from aimtrue.core.bodies.overlaps import overlaps_of
from aimtrue.core.bodies.separate import count_voids, separate
from aimtrue.core.errors import Refused
from aimtrue.core.formats import CAD_ENDINGS, ending_of
from aimtrue.core.formats.contents import ANGLE_DEG, CHORD_MM, Fineness, Part
from aimtrue.core.frames import as_vec3
from aimtrue.core.inherit import with_decisions
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.revise import matched
from aimtrue.core.intake.take_in import FINE, Found, Taken, all_kept, body_of, kept, take_in
from aimtrue.core.job import Body, Facts, Health, Job, Kit, Mended, Overlap, Source, Value
from aimtrue.core.lengths import MM_PER, parse_length
from aimtrue.core.mending.remedies import REMEDY_NAMES, Remedy, as_one, joined, mended
from aimtrue.core.mesh import Mesh
from aimtrue.core.progress import Progress
from aimtrue.core.seating.angles import parse_degrees
from aimtrue.core.shelf import Shelf

_MOST_TOLERANCE_MM = 100.0


class Mend(Value):
    """Apply a remedy to bodies. ``tolerance`` is a distance or a spacing as typed; empty chooses by size."""

    do: Literal["mend"] = "mend"
    bodies: tuple[str, ...] = Field(min_length=1)
    remedy: Remedy
    tolerance: str = ""


class Separate(Value):
    """Divide a body into its shells."""

    do: Literal["separate"] = "separate"
    body: str


class Join(Value):
    """Join touching or overlapping bodies into one closed solid."""

    do: Literal["join"] = "join"
    bodies: tuple[str, ...] = Field(min_length=2)


class TakeAsOne(Value):
    """Take several bodies as one, their surfaces as they are."""

    do: Literal["take-as-one"] = "take-as-one"
    bodies: tuple[str, ...] = Field(min_length=2)


class Look(Value):
    """Look for faces that cut through each other within bodies, or for bodies of a file that overlap.

    However large they are: what is passed over at intake is looked at here.
    """

    do: Literal["look"] = "look"
    bodies: tuple[str, ...] = ()
    source: str | None = None


class Refine(Value):
    """Cut a CAD source into facets anew, finer or coarser, its loose surfaces sewn or not.

    ``fineness`` None stays as it is; ``chord`` and ``angle`` are typed over it, empty ones stay.
    """

    do: Literal["refine"] = "refine"
    source: str
    fineness: Fineness | None = None
    chord: str = ""
    angle: str = ""
    sew: bool = False


class Revise(Value):
    """Swap in a new revision of a file; ``name`` and ``sha256`` are those of the new one."""

    do: Literal["revise"] = "revise"
    source: str
    name: str
    sha256: str


Work = Annotated[Mend | Look | Separate | Join | TakeAsOne | Refine | Revise, Field(discriminator="do")]


@dataclass(frozen=True, eq=False)
class Remade:
    """What is to be done to the job, and the blobs that this names."""

    action: Remake | LookOver
    blobs: dict[str, bytes]


def refuse_unclear(job: Job, work: Work) -> None:
    """Raise :class:`Refused` when something typed for some work makes no sense, before it is begun."""
    match work:
        case Mend():
            _tolerance(work)
        case Refine():
            _fineness(job.source(work.source), work)


def _tolerance(work: Mend) -> float | None:
    if not work.tolerance.strip():
        return None
    mm = parse_length(work.tolerance)
    if mm > _MOST_TOLERANCE_MM:
        raise Refused(
            "distance",
            f"{work.tolerance.strip()} is over {_MOST_TOLERANCE_MM:g} mm",
            remedy="type a smaller distance, or none to choose by size",
        )
    return mm


def _fineness(source: Source, work: Refine) -> Fineness:
    now = work.fineness or source.fineness or FINE
    chord = parse_length(work.chord) if work.chord.strip() else now.chord_mm
    angle = parse_degrees(work.angle) if work.angle.strip() else now.angle_deg
    for value, (low, high), typed, unit in (
        (chord, CHORD_MM, work.chord, " mm"),
        (angle, ANGLE_DEG, work.angle, "°"),
    ):
        if not low <= value <= high:
            raise Refused(
                "fineness",
                f"{typed.strip()} is not between {low:g} and {high:g}{unit}",
                remedy="type another value",
            )
    return Fineness(chord_mm=chord, angle_deg=angle)


def remake(key: str, job: Job, work: Work, shelf: Shelf, data: bytes, progress: Progress) -> Remade:
    """Do the work.

    Args:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        work: what to do.
        shelf: gives the meshes.
        data: the bytes of the source, for work that reads it again; else empty.
        progress: told how far it is.

    Raises:
        Refused: it cannot be done, or there is nothing to do.
        UnreadableFile: the file of a revision cannot be read.
    """
    match work:
        case Mend():
            return _with_overlaps(job, _mend(key, job, work, shelf, progress), shelf)
        case Look():
            return _look(job, work, shelf, progress)
        case Separate():
            return _with_overlaps(job, _separate(key, job, work, shelf), shelf)
        case Join():
            return _with_overlaps(job, _join(key, job, work, shelf, progress), shelf)
        case TakeAsOne():
            return _with_overlaps(job, _take_as_one(key, job, work, shelf), shelf)
        case Refine():
            return _refine(key, job, work, data, shelf, progress)
        case Revise():
            return _revise(key, job, work, data, progress)


def _mend(key: str, job: Job, work: Mend, shelf: Shelf, progress: Progress) -> Remade:
    come: list[Body] = []
    blobs: dict[str, bytes] = {}
    follows = {}
    reasons: list[Refused] = []
    for number, name in enumerate(work.bodies, 1):
        progress((number - 1) / len(work.bodies), f"{REMEDY_NAMES[work.remedy]}: {job.body(name).name}")
        old = job.body(name)
        mesh = shelf.mesh(old.geometry)
        try:
            after = mended(mesh, work.remedy, _in_numbers(job, old, _tolerance(work)))
        except Refused as error:
            reasons.append(error)
            continue
        if after is mesh:
            continue
        body, named = _mended_body(f"{key}-{number}", old, mesh, after, work.remedy)
        come.append(body)
        blobs.update(named)
        follows[body.id] = old.id
    if not come:
        raise (
            reasons[0]
            if reasons
            else Refused(
                "nothing-to-mend",
                f"there is nothing to {REMEDY_NAMES[work.remedy]}; the body was not changed by one bit",
                remedy="choose another remedy, or leave it",
            )
        )
    gone = tuple(follows.values())
    return Remade(Remake(says=REMEDY_NAMES[work.remedy], gone=gone, come=tuple(come), follows=follows), blobs)


def _look(job: Job, work: Look, shelf: Shelf, progress: Progress) -> Remade:
    found = {}
    for number, key in enumerate(work.bodies):
        body = job.body(key)
        progress(number / len(work.bodies), f"looking over {body.name}")
        found[body.geometry] = health_of(shelf.mesh(body.geometry), thorough=True)
    if work.source is None:
        return Remade(LookOver(found=found), {})
    progress(0.1, "looking for overlaps")
    closed = [body for body in job.bodies_of(work.source) if _stands(body)]
    meshes = [(body.id, shelf.mesh(body.geometry)) for body in closed]
    overlaps, _ = overlaps_of(meshes, thorough=True)
    return Remade(LookOver(found=found, overlaps={work.source: overlaps}), {})


def _with_overlaps(job: Job, remade: Remade, shelf: Shelf) -> Remade:
    """Look for overlaps of new bodies with each other and with the others of their file."""
    action = remade.action
    assert isinstance(action, Remake)
    overlaps: list[Overlap] = []
    for source in {body.source for body in action.come}:
        come = [body for body in action.come if body.source == source and _stands(body)]
        rest = [body for body in job.bodies_of(source) if body.id not in action.gone and _stands(body)]
        meshes = [(body.id, geometry.from_bytes(remade.blobs[body.geometry])) for body in come]
        meshes += [(body.id, shelf.mesh(body.geometry)) for body in rest]
        found, _ = overlaps_of(meshes, {body.id for body in come})
        overlaps += found
    return Remade(action.model_copy(update={"overlaps": tuple(overlaps)}), remade.blobs)


def _stands(body: Body) -> bool:
    """Whether a body is a solid that fills its place in the file; a copy lies where its twin is."""
    return body.health.closed and not body.copied


def _in_numbers(job: Job, body: Body, mm: float | None) -> float | None:
    """Bring a typed distance into numbers of the file, correction taken off."""
    if mm is None:
        return None
    return mm / MM_PER[job.settled_unit(body)] / max(body.correction.factors)


def _mended_body(
    key: str, old: Body, before: Mesh, after: Mesh, remedy: str
) -> tuple[Body, dict[str, bytes]]:
    from aimtrue.core.mending.rebuild import greatest_distance

    thorough = remedy in ("resolve-crossings", "rebuild")
    health = health_of(after, thorough=thorough and after.triangles < 1_000_000)
    low, high = after.bounds()
    moved = max(greatest_distance(after, before), greatest_distance(before, after))
    if remedy in ("close-holes", "face-outward"):
        moved = 0.0  # what is there stays where it is; a patch has no old surface to be measured from
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
            "remade": (*(old.remade or ()), remedy),
            "made_of": old.made_of or ((old.low, old.high),),
        }
    )
    record = Mended(remedy=remedy, before=_facts(old), after=_facts(body), moved=moved, geometry=old.geometry)
    return kept(body.model_copy(update={"mended": (*old.mended, record)}), after)


def _facts(body: Body) -> Facts:
    size = as_vec3(np.subtract(body.high, body.low))
    return Facts(triangles=body.triangles, volume=body.volume, size=size, findings=faults(body.health))


def faults(health: Health) -> int:
    """Return how many single faults a body has."""
    return (
        health.open_edges
        + health.crowded_edges
        + health.turned_edges
        + health.zero_area
        + health.duplicates
        + (health.crossings or 0)
    )


def _separate(key: str, job: Job, work: Separate, shelf: Shelf) -> Remade:
    old = job.body(work.body)
    parts = separate(shelf.mesh(old.geometry))
    if len(parts) < 2:
        raise Refused("one-shell", f"{old.name} hangs together, so it is one body already")
    # The kit stays; a lone body's pieces become one, so that they keep their common origin.
    kit = None if old.kit else Kit(id=f"k{key}", name=old.name)
    come, blobs = [], {}
    for number, one in enumerate(parts, 1):
        name = f"{old.name} {number}"
        part = Part(name, one.mesh, colour=old.colour, material=old.material)
        body = body_of(f"{key}-{number}", old.source, Found(name, one.mesh, one.voids, False, part))
        body = body.model_copy(update={"remade": old.remade})
        body, named = kept(with_decisions(body, old), one.mesh)
        come.append(body if kit is None else body.model_copy(update={"kit": kit.id}))
        blobs.update(named)
    pieces = {body.id: old.id for body in come}
    action = Remake(says=f"separate {old.name}", gone=(old.id,), come=tuple(come), kit=kit, pieces=pieces)
    return Remade(action, blobs)


def _join(key: str, job: Job, work: Join, shelf: Shelf, progress: Progress) -> Remade:
    olds = [job.body(name) for name in work.bodies]
    _refuse_apart(job, olds)
    progress(0.2, "joining")
    mesh = joined([shelf.mesh(old.geometry) for old in olds])
    progress(0.7, "looking it over")
    return _merged_into(key, olds, mesh, f"join {len(olds)} bodies", ("join",))


def _take_as_one(key: str, job: Job, work: TakeAsOne, shelf: Shelf) -> Remade:
    olds = [job.body(name) for name in work.bodies]
    _refuse_apart(job, olds)
    return _merged_into(
        key, olds, as_one([shelf.mesh(old.geometry) for old in olds]), f"take {len(olds)} bodies as one"
    )


def _refuse_apart(job: Job, olds: list[Body]) -> None:
    first = olds[0]
    for old in olds[1:]:
        if old.source != first.source or old.correction != first.correction:
            raise Refused(
                "no-common-origin",
                f"{first.name} and {old.name} come from different files or have different corrections",
                remedy="only bodies of one file with one correction can become one",
            )


def _merged_into(key: str, olds: list[Body], mesh: Mesh, says: str, done: tuple[str, ...] = ()) -> Remade:
    first = olds[0]
    part = Part(first.name, mesh, colour=first.colour, material=first.material)
    body = body_of(f"{key}-1", first.source, Found(first.name, mesh, count_voids(mesh), False, part))
    update = {
        "remade": _done_to(olds, done),
        "made_of": tuple(span for old in olds for span in (old.made_of or ((old.low, old.high),))),
        "mended": tuple(one for old in olds for one in old.mended),
    }
    body, blobs = kept(with_decisions(body.model_copy(update=update), first), mesh)
    gone = tuple(old.id for old in olds)
    return Remade(Remake(says=says, gone=gone, come=(body,), follows={body.id: first.id}), blobs)


def _done_to(olds: list[Body], done: tuple[str, ...]) -> tuple[str, ...] | None:
    """What was done to the geometry of bodies that became one; not known of those kept before it was
    noted.
    """
    if any(old.remade is None for old in olds) and not done:
        return None
    return tuple(dict.fromkeys([*(name for old in olds for name in old.remade or ()), *done]))


def _refine(key: str, job: Job, work: Refine, data: bytes, shelf: Shelf, progress: Progress) -> Remade:
    source = job.source(work.source)
    if ending_of(source.name) not in CAD_ENDINGS:
        raise Refused("not-cad", f"{source.name} is a mesh; its facets are what they are")
    fineness = _fineness(source, work)
    beside = {one.name: shelf.original(one.sha256) for one in source.beside}
    taken = take_in(key, source.name, data, fineness=fineness, sew=work.sew, beside=beside, progress=progress)
    fresh = taken.sources[0].model_copy(
        update={
            "id": source.id,
            "unit": source.unit,
            "how": source.how,
            "up": source.up,
            "home": source.home,
            "packed_in": source.packed_in,
            "replaced": source.replaced,
            "sewn": work.sew,
        }
    )
    says = f"fineness {fineness.chord_mm:g} mm, {fineness.angle_deg:g}°"
    return _swapped(job, source.id, taken, fresh, "sew the surfaces" if work.sew else says)


def _revise(key: str, job: Job, work: Revise, data: bytes, progress: Progress) -> Remade:
    source = job.source(work.source)
    taken = take_in(
        key, work.name, data, fineness=source.fineness or FINE, sew=source.sewn, progress=progress
    )
    if len(taken.sources) > 1:
        raise Refused(
            "several-files", "the archive holds several files", remedy="give the one that replaces this file"
        )
    new = taken.sources[0]
    told = new.unit is None or source.how == "told"
    fresh = new.model_copy(
        update={
            "id": source.id,
            "unit": source.unit if told else new.unit,
            "how": source.how if told else new.how,
            "up": source.up,
            "home": source.home,
            "replaced": (*source.replaced, source.sha256),
        }
    )
    other = new.unit is not None and new.unit != source.unit
    says = f"{new.name} now declares another unit than its last revision; check the size"
    return _swapped(job, source.id, taken, fresh, f"new revision of {source.name}", (says,) if other else ())


def _swapped(
    job: Job, key: str, taken: Taken, fresh: Source, says: str, doubts: tuple[str, ...] = ()
) -> Remade:
    """Put freshly read bodies in the place of those of a source that are the same parts."""
    olds = [body for body in job.bodies_of(key) if not body.copied]
    bodies, blobs = all_kept(taken)
    bodies = tuple(body.model_copy(update={"source": key, "kit": None}) for body in bodies)
    pairs = matched(olds, list(bodies))
    follows = {bodies[new].id: olds[old].id for new, old in pairs.items()}
    # A body that is new in the file belongs to what the others belong to.
    kit = next((old.kit for old in olds if old.kit), None)
    like = olds[0] if olds else None
    come = tuple(
        body
        if body.id in follows or like is None
        else with_decisions(body, like).model_copy(update={"kit": kit, "as_drawn": False, "alone": False})
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
    )
    return Remade(action, blobs)
