"""This module answers on the command line: how two bodies go together, and how thick walls are."""

from __future__ import annotations

import re
from typing import cast

import numpy as np

from aimtrue.core.command import Command, CommandOption, Question
from aimtrue.core.errors import Refused
from aimtrue.core.fit.between import FitAnswer, fit_of, placed_bodies
from aimtrue.core.fit.clearances.intents import INTENTS
from aimtrue.core.fit.faces import mesh_in, numbers_at
from aimtrue.core.fit.walls.least import least_wall, wall_map
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.ownership import in_use
from aimtrue.core.model.pairs import Intent
from aimtrue.core.model.value import Value, Vec3


class BodyWalls(Value):
    """The walls of one body.

    Attributes:
        body, id: which.
        least_mm, ball_mm: the thinnest wall straight through, and the largest ball in it; None if none.
        at, place: where that is, in mm as released, and in numbers of the file.
        beads, void_mm: how many beads that is, and what is left between whole ones.
        share_under: the share of the surface whose wall is under the limit.
    """

    body: str
    id: BodyId
    least_mm: float | None
    ball_mm: float | None
    at: Vec3 | None
    place: Vec3 | None
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
    bodies = in_use(question.job, question.job.bodies)
    if len(bodies) != 2:
        names = ", ".join(body.name for body in bodies)
        raise Refused(
            "fit-two",
            f"a fit is between two bodies; here are {len(bodies)}: {names}",
            remedy="choose two of them with --body",
        )
    intent = cast("Intent | None", question.options["intent"])
    placed = placed_bodies(
        question.job, bodies[0], bodies[1], question.options["place"] or "", question.store
    )
    return fit_of(question.job, placed, intent)


def walls_answer(question: Question) -> WallsAnswer:
    """Say how thick the walls of the bodies of a question are."""
    job, store = question.job, question.store
    limit = wall_limit(job, question.options["under"] or "")
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


_BEADS = re.compile(r"(?P<count>.+?)\s*beads?", re.IGNORECASE)


def wall_limit(job: Job, typed: str) -> float:
    """Return the thickness that a wall is to have, in mm: a length, or so many beads; two unless told."""
    beads = _BEADS.fullmatch(typed.strip())
    if beads is not None:
        return parse_number(beads["count"]) * job.machine.process.bead
    return parse_length(typed) if typed.strip() else 2 * job.machine.process.bead


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
        place=numbers_at("released", job, body, least.at) if least else None,
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
                "place",
                "file, axis or face, how they are tried; or an offset of the second, 0,0,2.5; or both",
                "P",
            ),
            CommandOption("intent", "what the pairs are to do", "I", INTENTS),
        ),
    ),
    Command(
        "walls",
        "how thick walls are: the least, and how much is under a limit",
        walls_answer,
        _walls_text,
        (CommandOption("under", "a length, or so many beads: 2 beads unless told", "LENGTH"),),
    ),
)
