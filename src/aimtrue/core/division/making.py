"""Make bodies of others, as asked for, or again: what comes of it for the job, and the geometry it names."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aimtrue.core.division.actions import PutDivision, RedoneDivision
from aimtrue.core.division.cutting.pieces import Piece
from aimtrue.core.division.cutting.planes import as_typed, those_that_meet
from aimtrue.core.division.cutting.steps import Tell
from aimtrue.core.division.frames import frame_of, in_mm, in_numbers, moved_with
from aimtrue.core.division.pins import dowel
from aimtrue.core.division.requests import DivisionDraft, answered, planes_of
from aimtrue.core.division.tasks import DivideTask, RedoDivisionTask
from aimtrue.core.errors import Refused
from aimtrue.core.formats.contents import FileObject
from aimtrue.core.intake.bodies.separate import count_voids
from aimtrue.core.intake.successors import picked_again
from aimtrue.core.intake.taken_bodies import FoundBody, body_of, kept
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body, recipe_of
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    Asked,
    AskFaces,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
    AskSurface,
    AskThread,
    Division,
    OnPickedFaces,
)
from aimtrue.core.model.ids import NO_BODY, BodyId
from aimtrue.core.model.job import Job, Kit
from aimtrue.core.model.ownership import division_of
from aimtrue.core.model.recipe import DivisionRecipe
from aimtrue.core.model.shaping import DowelMaking, Frame, PieceCut
from aimtrue.core.model.vectors import as_vec3

_SECOND_COLOUR = "#8A6A2F"
"""The colour of the first of two bodies that were one, unless it has its own, so that the two are told apart.
"""
_SPLIT = {"height": ("above", "below"), "outline": ("inside", "rest"), "faces": ("marks", "rest")}


@dataclass(frozen=True, eq=False)
class DivisionResult:
    """What is to be done to the job, the blobs that this names, and what it came to."""

    action: PutDivision
    blobs: dict[str, bytes]
    answer: DivisionDraft


def shape(
    key: str, job: Job, task: DivideTask | RedoDivisionTask, store: GeometryStore, tell: Tell
) -> DivisionResult:
    """Make bodies of others.

    Args:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        task: what to make, or what to make again.
        store: gives the meshes.
        tell: told how far it is.

    Raises:
        Refused: it cannot be done to these bodies.
        Unsettled: a unit is open, so nothing is in mm.
    """
    old: Division | None = None
    if isinstance(task, RedoDivisionTask):
        old = job.division(task.division)
        wholes, asked = [job.body(whole) for whole in old.wholes], old.asked
    else:
        wholes, asked = [job.body(body) for body in task.bodies], task.asked
        old = job.division(task.instead) if task.instead else None
        refuse_unfit(job, task)
    frames = tuple(frame_of(job, whole) for whole in wholes)
    meshes = [in_mm(frame, store.mesh(whole.geometry)) for frame, whole in zip(frames, wholes, strict=True)]
    if isinstance(task, RedoDivisionTask) and old is not None:
        asked = _moved_with(asked, old.frames[0], frames[0])
    if isinstance(asked, OnPickedFaces):
        asked = _picked_on(asked, wholes[0], store)
    answer = answered(asked, meshes, [whole.name for whole in wholes], tell)
    tell(0.92, "describing what was made")
    division = _division(old.id if old else f"v{key}", job, asked, answer, wholes, frames)
    come, blobs, dowels = _bodies(key, division, answer, wholes, frames)
    gone = tuple(body for body in job.bodies if old is not None and body.division == old.id)
    kind = RedoneDivision if isinstance(task, RedoDivisionTask) else PutDivision
    action = kind(
        division=division.model_copy(update={"made": tuple(body.id for body in come)}),
        come=come,
        gone=tuple(body.id for body in gone),
        follows=_follows(come, gone, division, old),
        kit=_kit(key, wholes[0]),
        dowels=dowels,
    )
    if action.kit is not None:
        mine = tuple(body.model_copy(update={"kit": action.kit.id}) for body in action.come)
        action = action.model_copy(update={"come": mine})
    return DivisionResult(action, blobs, answer)


def _moved_with(asked: Asked, before: Frame, after: Frame) -> Asked:
    """What was placed by hand stays where it is on the body, whatever size that has become."""
    match asked:
        case AskPieces(pins=AskPins() as pins) if pins.places:
            places = tuple(
                place.model_copy(update={"point": moved_with(before, after, place.point)})
                for place in pins.places
            )
            return asked.model_copy(update={"pins": pins.model_copy(update={"places": places})})
        case AskHollow() if any(asked.places):
            mouths = tuple(place and moved_with(before, after, place) for place in asked.places)
            return asked.model_copy(update={"places": mouths})
    return asked


def _picked_on(asked: OnPickedFaces, whole: Body, store: GeometryStore) -> OnPickedFaces:
    """The picks on the geometry that a whole has now, with their places; found again where it is other."""
    mesh = store.mesh(whole.geometry)
    if asked.geometry not in ("", whole.geometry):
        picks = picked_again(asked.picks, mesh)
        if len(picks) < len(asked.picks):
            raise Refused(
                "faces-lost", f"picked faces of {whole.name} are not there any more", remedy="pick them again"
            )
    else:
        if any(not 0 <= pick.face < mesh.triangles for pick in asked.picks):
            raise Refused("face-unknown", f"{whole.name} has no such face", remedy="pick it again")
        faces = [pick.face for pick in asked.picks]
        picks = tuple(
            PickedFace(face=face, point=as_vec3(mesh.vertices[mesh.faces[face]].mean(axis=0)))
            for face in faces
        )
    return asked.model_copy(update={"picks": picks, "geometry": whole.geometry})


def shape_all(key: str, job: Job, task: DivideTask, store: GeometryStore, tell: Tell) -> list[DivisionResult]:
    """Cut several bodies by the same planes, each into pieces of its own; what no plane meets stays whole.

    Args:
        key, job, task, store, tell: as for :func:`shape`. Ends and middles that planes are typed from, and
            what a machine has room for, are those of all bodies together.

    Returns:
        What it comes to for each body that is cut; they do not depend on each other.

    Raises:
        Refused: something else than planes is asked for, or no plane meets any of the bodies.
    """
    if not isinstance(task.asked, AskPieces) or task.instead:
        raise Refused("bodies", "choose one body for this", remedy="choose again")
    bodies = [job.body(body) for body in task.bodies]
    meshes = [in_mm(frame_of(job, body), store.mesh(body.geometry)) for body in bodies]
    together = Mesh(np.concatenate([mesh.vertices for mesh in meshes]), meshes[0].faces).knowing(
        all_vertices_used=True
    )
    planes = planes_of(task.asked, together)
    done = []
    for number, (body, mesh) in enumerate(zip(bodies, meshes, strict=True)):
        mine = those_that_meet(planes, mesh.vertices)
        tell(number / len(bodies), f"cutting {body.name}")
        if not mine:
            continue
        asked = task.asked.model_copy(update={"planes": tuple(map(as_typed, mine)), "fit": None})
        done.append(shape(f"{key}{number}", job, DivideTask(bodies=(body.id,), asked=asked), store, _quietly))
    if not done:
        raise Refused("plane-misses", "none of the planes meets any of these bodies", remedy="move one")
    return done


def _quietly(share: float, says: str) -> None:
    """Tell nothing: how far all of them are is told."""


def refuse_unfit(job: Job, task: DivideTask) -> None:
    """Refuse work on too few or too many bodies, on one that is divided already, or in an open unit."""
    wholes = [job.body(key) for key in task.bodies]
    for whole in wholes:
        job.settled_unit(whole)
    needed = 2 if isinstance(task.asked, AskCombination) else 1
    if isinstance(task.asked, AskPieces) and not task.instead:
        needed = len(wholes)
    if len({whole.id for whole in wholes}) != needed:
        many = "two bodies" if needed == 2 else "one body"
        raise Refused("bodies", f"choose {many} for this", remedy="choose again")
    if isinstance(task.asked, AskSurface | AskThread) and wholes[0].division is not None:
        raise Refused(
            "faces-of-made",
            f"{wholes[0].name} was made of another body, and faces are changed before that",
            remedy="put it back together, change them, and divide it again",
        )
    for whole in wholes:
        division = division_of(job, whole)
        if division is not None and division.id != task.instead:
            raise Refused(
                "divided",
                f"{whole.name} is divided already",
                remedy="change that division, or divide one of its pieces",
            )


def _division(
    key: str, job: Job, asked: Asked, answer: DivisionDraft, wholes: list[Body], frames: tuple[Frame, ...]
) -> Division:
    return Division(
        id=key,
        asked=asked,
        shaping=answer.shaping,
        wholes=tuple(whole.id for whole in wholes),
        frames=frames,
        geometries=tuple(whole.geometry for whole in wholes),
        made=(),
        places=tuple(piece.place for piece in answer.pieces),
        replaces=not isinstance(asked, AskSlice),
        together=_is_split(asked),
        difference=answer.difference,
        says=_says(asked, answer, wholes),
        without=answer.without,
        stays_open=answer.stays_open,
        clearance_mm=answer.clearance_mm,
        wall_mm=answer.wall_mm,
        moved_mm=answer.moved_mm,
    )


def _is_split(asked: Asked) -> bool:
    """Whether one body becomes two that belong on each other, as two colours do."""
    return isinstance(asked, AskAbove | AskInside | AskFaces) or (
        isinstance(asked, AskCombination) and asked.how == "split"
    )


def _says(asked: Asked, answer: DivisionDraft, wholes: list[Body]) -> str:
    name = wholes[0].name
    match asked:
        case AskPieces():
            return f"divide {name} into {len(answer.pieces)} pieces"
        case AskSlice():
            return f"make a trial of {name}"
        case AskAbove() | AskInside() | AskFaces():
            return f"split {name} in two"
        case AskHollow():
            return f"hollow {name}"
        case AskThread():
            return f"thread on {name}"
        case AskSurface():
            return f"move {'faces' if asked.picks else 'all faces'} of {name}"
        case AskCombination():
            words = {
                "join": "join {} and {}",
                "cut": "cut {1} from {0}",
                "common": "what {} and {} share",
                "split": "split {} by {}",
            }
            return words[asked.how].format(name, wholes[1].name)


def _bodies(
    key: str, division: Division, answer: DivisionDraft, wholes: list[Body], frames: tuple[Frame, ...]
) -> tuple[tuple[Body, ...], dict[str, bytes], dict[str, int]]:
    come: list[Body] = []
    blobs: dict[str, bytes] = {}
    recipes = tuple(map(recipe_of, wholes))
    for number, piece in enumerate(answer.pieces):
        recipe = DivisionRecipe(wholes=recipes, frames=frames, shaping=answer.shaping, number=number)
        name, colour = _name(division, piece, number, wholes), _colour(division, number, wholes[0])
        body, named = _body(f"{key}-{number + 1}", piece, name, colour, wholes[0], frames[0], recipe)
        come.append(body.model_copy(update={"division": division.id}))
        blobs |= named
    pins = answer.shaping.pins if isinstance(answer.shaping, PieceCut) else None
    if pins is None or pins.kind != "dowel" or not pins.places:
        return tuple(come), blobs, {}
    # Of its places none is needed to make one, so that it stays the same while they move.
    bare = DowelMaking(pins=pins.model_copy(update={"places": ()}))
    recipe = DivisionRecipe(wholes=(), frames=frames[:1], shaping=bare, number=0)
    loose = Piece(dowel(pins), ())
    named_so = f"{wholes[0].name} dowel"
    body, named = _body(f"{key}-d", loose, named_so, wholes[0].colour, wholes[0], frames[0], recipe)
    come.append(body.model_copy(update={"division": division.id}))
    return tuple(come), blobs | named, {body.id: len(pins.places)}


def _body(  # noqa: PLR0913 - told apart by their names
    key: str, piece: Piece, name: str, colour: str | None, whole: Body, frame: Frame, recipe: DivisionRecipe
) -> tuple[Body, dict[str, bytes]]:
    mesh = in_numbers(frame, piece.mesh)
    part = FileObject(name, mesh, colour=colour, material=whole.material)
    body = body_of(key, whole.source, FoundBody(name, mesh, count_voids(mesh), False, part))
    # What is decided is the whole's; the clearance and the bores that it keeps are in the geometry.
    own = {
        "recipe": recipe,
        "remade": (recipe.shaping.by,),
        "kit": whole.kit,
        "own": whole.own,
        "alone": whole.alone,
        "for_checking": whole.for_checking,
        "home": whole.home,
    }
    return kept(body.model_copy(update=own), mesh)


def _name(division: Division, piece: Piece, number: int, wholes: list[Body]) -> str:
    name, asked = wholes[0].name[:40], division.asked
    match asked:
        case AskPieces():
            return f"{name} {number + 1}, {piece.place}" if piece.place else f"{name} {number + 1}"
        case AskSlice():
            return f"{name} trial"
        case AskAbove() | AskInside() | AskFaces():
            return f"{name} {_SPLIT[asked.by][number]}"
        case AskHollow():
            return f"{name} hollow"
        case AskThread():
            return f"{name} threaded"
        case AskSurface():
            return f"{name} moved"
        case AskCombination():
            words = {
                "join": ("{} with {}",),
                "cut": ("{} without {}",),
                "common": ("{} and {} in common",),
                "split": ("{} outside {}", "{} within {}"),
            }
            return words[asked.how][number].format(name, wholes[1].name[:30])


def _colour(division: Division, number: int, whole: Body) -> str | None:
    asked, first = division.asked, 0
    split = isinstance(asked, AskAbove | AskInside | AskFaces)
    if isinstance(asked, AskCombination) and asked.how == "split":
        split, first = True, 1
    return _SECOND_COLOUR if split and number == first and whole.colour != _SECOND_COLOUR else whole.colour


def _follows(
    come: Sequence[Body], gone: Sequence[Body], division: Division, old: Division | None
) -> dict[BodyId, BodyId]:
    """Which new body goes on being which old one: that of the same place, else of the same number."""
    if old is None:
        return {}
    left = {body.id: body for body in gone}
    by_place = {place: key for place, key in zip(old.places, old.made, strict=False) if place}
    body_ids: dict[BodyId, BodyId] = {}
    for number, body in enumerate(come):
        place = division.places[number] if number < len(division.places) else ""
        if _is_dowel(body):
            key = next((body.id for body in gone if _is_dowel(body)), NO_BODY)
        elif place:
            key = by_place.get(place, NO_BODY)
        else:
            key = old.made[number] if number < len(old.made) and len(come) == len(old.made) else NO_BODY
        if key in left:
            body_ids[body.id] = key
            del left[key]
    return body_ids


def _is_dowel(body: Body) -> bool:
    return isinstance(body.recipe, DivisionRecipe) and isinstance(body.recipe.shaping, DowelMaking)


def _kit(key: str, whole: Body) -> Kit | None:
    """One that a whole in none becomes with its pieces, so that they share what is decided of it."""
    if whole.kit is not None:
        return None
    return Kit(id=f"k{key}", name=whole.name, shared=whole.own, home=whole.home)
