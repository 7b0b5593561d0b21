"""This module answers on the command line: how two bodies go together, and how thick walls are."""

from __future__ import annotations

from typing import cast

import numpy as np

from aimtrue.core.command import Command, CommandOption, Question
from aimtrue.core.errors import Refused
from aimtrue.core.fit.distance import LeastDistance, least_distance
from aimtrue.core.fit.faces import FitFace, faces_of, mesh_in
from aimtrue.core.fit.intents import INTENTS, band_of, intent_met, verdict
from aimtrue.core.fit.pairs.pair_search import best_aligned, pairs_between, pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.placing import onto_axis
from aimtrue.core.fit.walls.least import least_wall, wall_map
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.ownership import in_use
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


class BodyWalls(Value):
    """The walls of one body."""

    body: str
    id: BodyId
    least_mm: float | None
    ball_mm: float | None
    at: Vec3 | None
    beads: float | None
    void_mm: float | None
    share_under: float


class WallsAnswer(Value):
    """The thinnest wall of all bodies, and how much of their surface is thinner than a limit."""

    least_mm: float | None
    at: Vec3 | None
    under_mm: float
    share_under: float
    bodies: tuple[BodyWalls, ...]


def fit_answer(question: Question) -> FitAnswer:
    """Say how the two bodies of a question go together.

    Raises:
        Refused: there are not two bodies.
    """
    job, store = question.job, question.store
    bodies = _two_bodies(job)
    faces = [faces_of("released", job, body, store) for body in bodies]
    meshes = [mesh_in("released", job, body, store) for body in bodies]
    if question.options["place"] == "axis":
        pairs, meshes[1] = _on_axis(faces[0], faces[1], meshes[1], bodies[1])
    else:
        pairs = pairs_between(faces[0], faces[1])
        pairs += [pair for some in faces for pair in pairs_within(some)]
    near = least_distance(meshes[0], meshes[1])
    intent = cast("Intent | None", question.options["intent"])
    return FitAnswer(
        least_mm=near.mm,
        overlap_mm3=near.overlap_mm3,
        nearest=_places(near),
        place=question.options["place"] or "file",
        pairs=tuple(_pair_answer(job, pair, intent) for pair in pairs),
    )


def _two_bodies(job: Job) -> tuple[Body, ...]:
    bodies = in_use(job, job.bodies)
    if len(bodies) != 2:
        names = ", ".join(body.name for body in bodies)
        raise Refused(
            "fit-two",
            f"a fit is between two bodies; here are {len(bodies)}: {names}",
            remedy="choose two of them with --body",
        )
    return bodies


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
        says="; ".join(one for one in (pair.oval, pair.says) if one),
    )


def _places(near: LeastDistance) -> tuple[Vec3, Vec3]:
    return as_vec3(near.a), as_vec3(near.b)


def _on_axis(
    one: tuple[FitFace, ...], other: tuple[FitFace, ...], mesh: Mesh, body: Body
) -> tuple[list[FoundPair], Mesh]:
    """The pair that fits best with its axes brought together, and the second body brought there.

    Raises:
        Refused: no round face of the one is about as wide as one of the other.
    """
    pair = best_aligned(one, other)
    if pair is None:
        raise Refused(
            "fit-no-axis",
            "no bore of the one body is about as wide as a shaft of the other",
            remedy="leave --place out to look at them as they lie in their files",
        )
    mine, yours = (pair.a, pair.b) if pair.b.body == body.id else (pair.b, pair.a)
    to = next(face for face in one if face.feature == mine.features[0])
    come = next(face for face in other if face.feature == yours.features[0])
    return [pair], onto_axis(mesh, come, to)


def walls_answer(question: Question) -> WallsAnswer:
    """Say how thick the walls of the bodies of a question are."""
    job, store = question.job, question.store
    bead = job.machine.process.bead
    typed = question.options["under"]
    limit = parse_length(typed) if typed else 2 * bead
    rows = [body_walls(job, body, store, limit) for body in in_use(job, job.bodies)]
    with_walls = [row for row, _ in rows if row.least_mm is not None]
    thinnest = min(with_walls, key=lambda row: row.least_mm or 0.0, default=None)
    total = sum(area for _, area in rows)
    return WallsAnswer(
        least_mm=thinnest.least_mm if thinnest else None,
        at=thinnest.at if thinnest else None,
        under_mm=limit,
        share_under=sum(row.share_under * area for row, area in rows) / total if total else 0.0,
        bodies=tuple(row for row, _ in rows),
    )


def body_walls(job: Job, body: Body, store: GeometryStore, under_mm: float) -> tuple[BodyWalls, float]:
    """Return the walls of a body as it is released, and the area of its surface in mm²."""
    bead = job.machine.process.bead
    mesh = mesh_in("released", job, body, store)
    walls = wall_map(mesh, store.features(body))
    least = least_wall(mesh, walls, bead)
    row = BodyWalls(
        body=body.name,
        id=body.id,
        least_mm=least.mm if least else None,
        ball_mm=least.ball_mm if least else None,
        at=least.at if least else None,
        beads=least.beads if least else None,
        void_mm=least.void_mm if least else None,
        share_under=walls.share_under(under_mm),
    )
    return row, float(np.sum(mesh.areas))


def _fit_text(answer: FitAnswer) -> str:
    near = (
        f"they fill the same {answer.overlap_mm3:.4g} mm³"
        if answer.overlap_mm3
        else f"least distance {answer.least_mm:.4f} mm"
    )
    rows = [
        f"  {pair.kind}: {pair.a} / {pair.b}  "
        f"{' / '.join(f'{size:.3f}' for size in pair.diameter_mm)}  clearance {pair.clearance_mm:+.3f} mm, "
        f"engaged {pair.engaged_mm:.2f}: {pair.verdict}{f' ({pair.says})' if pair.says else ''}"
        for pair in answer.pairs
    ]
    return "\n".join([near, *(rows or ["  no pair was found"])])


def _walls_text(answer: WallsAnswer) -> str:
    lines = [
        f"{row.body}: no wall was found"
        if row.least_mm is None
        else f"{row.body}: least wall {row.least_mm:.3f} mm, {row.beads:.1f} beads; "
        f"{100 * row.share_under:.1f} % of the surface is under {answer.under_mm:.4g} mm"
        for row in answer.bodies
    ]
    return "\n".join(lines)


COMMANDS = (
    Command(
        "fit",
        "how two bodies go together: least distance, overlap, and pairs",
        fit_answer,
        _fit_text,
        (
            CommandOption(
                "place", "as they lie in their files, or axis to axis", "P", ("file", "axis"), "file"
            ),
            CommandOption("intent", "what the pairs are to do", "I", INTENTS),
        ),
    ),
    Command(
        "walls",
        "how thick walls are: the least, and how much is under a limit",
        walls_answer,
        _walls_text,
        (CommandOption("under", "a length; two beads unless told", "LENGTH"),),
    ),
)
