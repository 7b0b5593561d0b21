"""This module says how two bodies go together where they lie, or where the second is tried."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.fit.clearances.intents import band_of, intent_met, verdict
from aimtrue.core.fit.distance import LeastDistance, least_distance
from aimtrue.core.fit.faces import FitFace, faces_of, mesh_in
from aimtrue.core.fit.pairs.pair_search import best_aligned, pairs_between, pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.placing import RelativePlace, RigidMove, onto_axis, onto_face, parse_place
from aimtrue.core.fit.standard_limits import limits_words
from aimtrue.core.fit.walls.least import narrowest_gap
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.pairs import Intent
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3


class PairAnswer(Value):
    """A pair: what it is, on which bodies, and whether it does what it is meant to."""

    kind: str
    a: str
    b: str
    diameter_mm: tuple[float, ...]
    clearance_mm: float
    per_side_mm: float
    engaged_mm: float
    offset_mm: float
    angle_deg: float
    at: Vec3
    verdict: str
    suits: Intent | None
    says: str


class FitAnswer(Value):
    """How two bodies go together: how near they are, what they share, and their pairs."""

    least_mm: float
    overlap_mm3: float
    nearest: tuple[Vec3, Vec3]
    place: str
    pairs: tuple[PairAnswer, ...]


@dataclass(frozen=True, eq=False)
class PlacedBodies:
    """Two bodies as they are released, the second where it is tried.

    Attributes:
        place: as it was typed.
        meshes: of both, in mm.
        move: that brought the second there.
        pairs: between them, and within each where it lies in its file.
        own_gap: where both are the same body, the narrowest gap between its own faces.
    """

    place: str
    meshes: tuple[Mesh, Mesh]
    move: RigidMove
    pairs: tuple[FoundPair, ...]
    own_gap: LeastDistance | None = None

    @cached_property
    def nearest(self) -> LeastDistance:
        """How near they are, or how near faces of the one body are that look at each other."""
        return self.own_gap or least_distance(*self.meshes)


def placed_bodies(job: Job, one: Body, other: Body, typed: str, store: GeometryStore) -> PlacedBodies:
    """Return two bodies with the second where it is tried; neither seat changes.

    Args:
        job, one, other: two bodies of a settled unit.
        typed: the place, see :func:`parse_place`.
        store: gives meshes and features.

    Raises:
        Refused: there is no such place, or the bodies have nothing to be brought there by.
    """
    if one.id == other.id:
        return _alone(job, one, store)
    place = parse_place(typed)
    faces = faces_of("released", job, one, store), faces_of("released", job, other, store)
    move, known = _brought(job, place, (one, other), faces, store)
    move = move.then(place.offset_mm)
    moved = tuple(move.face(face) for face in faces[1])
    pairs = pairs_between(faces[0], moved)
    if not any(place.offset_mm):
        pairs += known
    if move == RigidMove():
        pairs += [pair for face in faces for pair in pairs_within(face)]
    second = mesh_in("released", job, other, store)
    meshes = mesh_in("released", job, one, store), Mesh(move.points(second.vertices), second.faces)
    return PlacedBodies(typed.strip() or "file", meshes, move, _without_doubles(pairs))


def _alone(job: Job, body: Body, store: GeometryStore) -> PlacedBodies:
    """Return one body beside itself: its own pairs, and the narrowest gap between its faces.

    Raises:
        Refused: no two faces of it look at each other.
    """
    mesh = mesh_in("released", job, body, store)
    gap = narrowest_gap(mesh, store.features(body), job.machine.process.bead)
    if gap is None:
        raise Refused(
            "fit-no-gap", f"no two faces of {body.name} look at each other", remedy="choose two bodies"
        )
    half = gap.mm / 2 * np.asarray(gap.through)
    near = LeastDistance(gap.mm, np.asarray(gap.at) - half, np.asarray(gap.at) + half, 0.0)
    pairs = tuple(pairs_within(faces_of("released", job, body, store)))
    return PlacedBodies("file", (mesh, mesh), RigidMove(), pairs, near)


def _brought(
    job: Job,
    place: RelativePlace,
    bodies: tuple[Body, Body],
    faces: tuple[tuple[FitFace, ...], tuple[FitFace, ...]],
    store: GeometryStore,
) -> tuple[RigidMove, list[FoundPair]]:
    """Return the move before any offset, and the pair that it was chosen by."""
    if place.kind == "axis":
        return _on_axis(*faces, bodies[1])
    if place.kind == "face":
        to, come = (
            _flat(body, face, rank, store)
            for body, face, rank in zip(bodies, faces, place.ranks, strict=True)
        )
        return onto_face(come, to), []
    return RigidMove(), []


def _on_axis(
    one: tuple[FitFace, ...], other: tuple[FitFace, ...], comes: Body
) -> tuple[RigidMove, list[FoundPair]]:
    pair = best_aligned(one, other)
    if pair is None:
        raise Refused(
            "fit-no-axis",
            "no bore of the one body is about as wide as a shaft of the other",
            remedy="choose another place, or look at them as they lie in their files",
        )
    mine, yours = (pair.a, pair.b) if pair.b.body == comes.id else (pair.b, pair.a)
    to = next(face for face in one if face.feature == mine.features[0])
    come = next(face for face in other if face.feature == yours.features[0])
    return onto_axis(come, to), [pair]


def _flat(body: Body, faces: tuple[FitFace, ...], rank: int, store: GeometryStore) -> FitFace:
    """Return the how many-th largest flat face of a body.

    Raises:
        Refused: it has not so many.
    """
    area = {feature.id: feature.area for feature in store.features(body).listed}
    flats = sorted((face for face in faces if face.kind == "flat"), key=lambda face: -area[face.feature])
    if not 1 <= rank <= len(flats):
        raise Refused(
            "fit-no-face",
            f"{body.name} has {len(flats)} flat faces, and no {rank}. of them",
            remedy="name one that it has, the largest is 1" if flats else "choose another place",
        )
    return flats[rank - 1]


def _without_doubles(pairs: list[FoundPair]) -> tuple[FoundPair, ...]:
    """Return pairs each once: the one that a place was chosen by may be found there again."""
    known: dict[object, FoundPair] = {}
    for pair in pairs:
        known.setdefault((pair.kind, pair.a, pair.b), pair)
    return tuple(known.values())


def fit_of(job: Job, placed: PlacedBodies, intent: Intent | None = None) -> FitAnswer:
    """Return how two bodies go together; ``intent`` is what their pairs are to do."""
    near = placed.nearest
    return FitAnswer(
        least_mm=near.mm,
        overlap_mm3=near.overlap_mm3,
        nearest=(as_vec3(near.a), as_vec3(near.b)),
        place=placed.place,
        pairs=tuple(_pair_answer(job, pair, intent) for pair in placed.pairs),
    )


def _pair_answer(job: Job, pair: FoundPair, intent: Intent | None) -> PairAnswer:
    process = job.machine.process.kind
    suits = intent_met(pair.clearance_mm, process)
    meant = verdict(pair.clearance_mm, band_of(intent, process)) if intent else None
    return PairAnswer(
        kind=pair.kind,
        a=job.body(pair.a.body).name,
        b=job.body(pair.b.body).name,
        diameter_mm=pair.sizes_mm,
        clearance_mm=pair.clearance_mm,
        per_side_mm=pair.per_side_mm,
        engaged_mm=pair.engaged_mm,
        offset_mm=pair.offset_mm,
        angle_deg=pair.angle_deg,
        at=pair.at,
        verdict=meant or suits or "too tight",
        suits=suits,
        says="; ".join(note for note in (pair.oval, pair.says, limits_words(job, pair)) if note),
    )
