"""The addresses of sheet 2 that are no actions: features, CSV, drawings, calibrations, devices."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field
from sqlalchemy import select

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import named, run_isolated, store
from aimtrue.api.views import Problem
from aimtrue.core.chain.transforms import drawn_vertices
from aimtrue.core.drawing.compare import Comparison
from aimtrue.core.gauges.picks import FeatureLine, feature_lines
from aimtrue.core.mesh.serialization import drawn_bytes
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId, KitId, Owner
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.materials import MATERIALS, Material
from aimtrue.core.model.ownership import group_of
from aimtrue.core.model.upgrades import CALIBRATIONS
from aimtrue.core.model.value import Value
from aimtrue.core.release.names import safe
from aimtrue.core.survey.bodies import reshaped
from aimtrue.core.truing import csv
from aimtrue.core.truing.actions import ImportReadings
from aimtrue.core.truing.calibration import Calibration, Pair, calibrated
from aimtrue.standins.caliper import Caliper
from aimtrue.store import jobs
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.tables import CalibrationRow
from aimtrue.work.change import change
from aimtrue.work.sandboxed import compare_bodies, draw_bodies

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


class ImportedReadings(BaseModel):
    """Readings that came in, and rows that did not."""

    taken: int
    problems: list[Problem]


class AskImport(BaseModel):
    """Rows of CSV for the readings of a body or kit, and the revision they were decided on."""

    on: int
    body: Owner
    text: str = Field(max_length=200_000)


class AskPair(BaseModel):
    """One size of a test part, as typed."""

    axis: Literal["x", "y", "z"]
    nominal: str
    measured: str


class AskCalibration(BaseModel):
    """Measured sizes of a printed test part."""

    machine: str = Field(min_length=1, max_length=80)
    material: str = Field(min_length=1, max_length=60)
    pairs: list[AskPair] = Field(max_length=60)
    fineness: str = "0.05"


class CalibrationView(BaseModel):
    """A calibration that is kept."""

    id: int
    at: datetime
    found: Calibration


class PressCaliper(BaseModel):
    """The jaws of the simulated caliper, and what kind it is."""

    jaws: str
    resolution_mm: float = Field(0.01, gt=0, le=1)
    noise_mm: float = Field(0.015, ge=0, le=5)


class CaliperTyping(Value):
    """What the simulated caliper types."""

    types: str
    simulated: Literal[True] = True


@router.get("/jobs/{key}/bodies/{body}/features")
def features(key: str, body: BodyId) -> list[FeatureLine]:
    """List the features of a body that a gauge can be taken on, for choosing without a pointer."""
    with snapshot() as session:
        job = jobs.load(session, key).job
    return feature_lines(job, job.body(body), store.features(job.body(body)))


@heavy.get("/jobs/{key}/bodies/{body}/bench/{way}", response_class=Response)
def reshaped_bench(key: str, body: BodyId, way: str) -> Response:
    """Return a body for drawing with its kept bores as they are; ``way`` is the survey's name for that."""
    with snapshot() as session:
        job = jobs.load(session, key).job
    drawn = job.body(body)
    if reshaped(job, drawn) != way:
        raise jobs.StaleRevision("stale", "this body was changed since", remedy="look at it as it is now")
    mesh = store.mesh(drawn.geometry).mapped(lambda points: drawn_vertices(job, drawn, points))
    return Response(
        drawn_bytes(mesh),
        media_type="application/octet-stream",
        headers={"Cache-Control": "private, max-age=3600", "ETag": f'"{way}"'},
    )


@router.get("/jobs/{key}/readings/{subject}", response_class=Response)
def readings_csv(key: str, subject: Owner) -> Response:
    """Hand over the readings of a body or kit as CSV."""
    with snapshot() as session:
        job = jobs.load(session, key).job
    keys = {body.id for body in group_of(job, subject)}
    text = csv.write(job, [reading for reading in job.readings if reading.body in keys])
    name = f"{safe(job.name)}_readings.csv"
    return Response(text, media_type="text/csv; charset=utf-8", headers=named(name))


@router.post("/jobs/{key}/readings")
def import_readings(key: str, asked: AskImport) -> ImportedReadings:
    """Take readings from CSV: good rows come in, the others are told one by one."""
    with snapshot() as session:
        job = jobs.load(session, key).job
    taken, problems = csv.sorted_out(job, group_of(job, asked.body), asked.text)
    if taken:
        change(key, asked.on, ImportReadings(body=asked.body, text=asked.text))
    return ImportedReadings(
        taken=len(taken),
        problems=[
            Problem(code=problem.code, says=problem.says, where=problem.where, remedy=problem.remedy)
            for problem in problems
        ],
    )


@heavy.get("/jobs/{key}/compare/{subject}")
def comparison(key: str, subject: Owner) -> Comparison:
    """Hold a body or kit before and after against each other."""
    job, bodies = _subject(key, subject)
    keys = tuple(body.id for body in bodies)
    return run_isolated(compare_bodies, job, keys, keys)


@heavy.get("/jobs/{key}/drawing/{subject}", response_class=Response)
def drawing(key: str, subject: Owner) -> Response:
    """Draw a body or kit in three views."""
    job, bodies = _subject(key, subject)
    name = bodies[0].name if len(bodies) == 1 else job.kit(KitId(subject)).name
    keys = tuple(body.id for body in bodies)
    drawn = run_isolated(draw_bodies, job, keys, keys, name)
    headers = {**named(f"{safe(name)}_drawing.svg", "inline"), "Cache-Control": "no-store"}
    return Response(drawn, media_type="image/svg+xml", headers=headers)


def _subject(key: str, subject: Owner) -> tuple[Job, tuple[Body, ...]]:
    with snapshot() as session:
        job = jobs.load(session, key).job
    whole = subject in job.kits_by_id
    bodies = group_of(job, subject) if whole else (job.body(BodyId(subject)),)
    for body in bodies:
        job.settled_unit(body)
    return job, bodies


@router.get("/materials")
def materials() -> list[Material]:
    """List materials to start from, with their usual figures."""
    return list(MATERIALS)


@router.get("/calibrations")
def calibrations() -> list[CalibrationView]:
    """List the calibrations that are kept, the newest first."""
    with snapshot() as session:
        rows = session.scalars(select(CalibrationRow).order_by(CalibrationRow.id.desc()))
        return [_calibration(row) for row in rows]


@router.post("/calibrations", status_code=201)
def calibrate(asked: AskCalibration) -> CalibrationView:
    """Work out the shrinkage of a machine and material, and keep it."""
    pairs = [
        Pair(axis=pair.axis, nominal_mm=parse_length(pair.nominal), measured_mm=parse_length(pair.measured))
        for pair in asked.pairs
    ]
    return keep_calibration(calibrated(asked.machine, asked.material, pairs, parse_length(asked.fineness)))


def keep_calibration(calibration: Calibration) -> CalibrationView:
    """Put a calibration on the shelf."""
    with sessions().begin() as session:
        row = CalibrationRow(found=calibration.model_dump(mode="json"), version=CALIBRATIONS.newest)
        session.add(row)
        session.flush()
        session.refresh(row)
        return _calibration(row)


@router.delete("/calibrations/{number}")
def forget_calibration(number: int) -> list[CalibrationView]:
    """Forget a calibration; jobs that took it keep their allowance."""
    with sessions().begin() as session:
        row = session.get(CalibrationRow, number)
        if row is not None:
            session.delete(row)
    return calibrations()


def _calibration(row: CalibrationRow) -> CalibrationView:
    return CalibrationView(
        id=row.id, at=row.created, found=Calibration.model_validate(CALIBRATIONS.up(row.found, row.version))
    )


@router.post("/standins/caliper")
def press_caliper(asked: PressCaliper) -> CaliperTyping:
    """Press the data button of the simulated caliper."""
    caliper = Caliper(asked.resolution_mm, asked.noise_mm)
    return CaliperTyping(types=caliper.press(parse_length(asked.jaws)))
