"""The addresses of sheet 4 that are no actions: seams, and what a division would come to."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import run_isolated, store
from aimtrue.api.truing import CalibrationView, keep_calibration
from aimtrue.core.division import trials, views
from aimtrue.core.division.cutting.thread_requests import RoundWall, walls_of
from aimtrue.core.division.cutting.typed_planes import PlaneEdit, TypedPlane, texts_of, typed_planes
from aimtrue.core.division.frames import frame_of, in_mm
from aimtrue.core.division.sections import kernel_sections
from aimtrue.core.formats.runs import OutlineRun
from aimtrue.core.mesh.serialization import drawn_bytes
from aimtrue.core.model.division import AskInside, AskPieces
from aimtrue.core.model.ids import BodyId, DivisionId, ReadingId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.value import Axis, Vec3
from aimtrue.core.truing.calibration import calibrated
from aimtrue.store import jobs
from aimtrue.store.database import snapshot
from aimtrue.store.geometry_store import keep_drawn
from aimtrue.work import sandbox
from aimtrue.work.sandboxed import place_outline, section_of_cad
from aimtrue.work.tasks import usual_limits

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


class AskTry(BaseModel):
    """A division that is thought of; pieces are held against ``machine``, None for that of the job."""

    asked: AskPieces
    machine: Machine | None = None


class AskPlanes(BaseModel):
    """Planes that are laid out, by their texts, and what is changed of one."""

    planes: tuple[str, ...]
    edit: PlaneEdit | None = None


class PieceDrawn(BaseModel):
    """A piece that is thought of, for drawing: the name of its mesh, and its ends, in mm."""

    bench: str
    low: Vec3
    high: Vec3


class AskPlaces(BaseModel):
    """Three picked places."""

    places: tuple[Anchor, ...]


def _job(key: str) -> Job:
    with snapshot() as session:
        return jobs.load(session, key).job


@heavy.get("/jobs/{key}/division/{body}/seams/{axis}")
def seams(key: str, body: BodyId, axis: Axis) -> views.SeamsShown:
    """Return places along an axis where a cut would hide, and the curve of the section's area."""
    return views.seams_along(_job(key), body, axis, store)


@heavy.post("/jobs/{key}/division/{body}/try")
def try_division(key: str, body: BodyId, asked: AskTry) -> views.DivisionPreview:
    """Return what a division would come to; nothing is made."""
    job = _job(key)
    return views.prospect(job, body, asked.asked, asked.machine or job.machine, store)


@heavy.post("/jobs/{key}/division/{body}/planes")
def planes(key: str, body: BodyId, asked: AskPlanes) -> list[TypedPlane]:
    """Return planes that are laid out in their parts, after something was changed of one."""
    return list(views.planes_edited(_job(key), body, asked.planes, asked.edit, store))


@heavy.post("/jobs/{key}/division/{body}/apart")
def apart(key: str, body: BodyId, asked: AskPieces) -> list[PieceDrawn]:
    """Return the pieces that would come of planes as meshes for drawing, by the names they are fetched by."""
    drawn = []
    for mesh in views.pieces_drawn(_job(key), body, asked, store):
        low, high = mesh.bounds().tolist()
        drawn.append(PieceDrawn(bench=keep_drawn(drawn_bytes(mesh)), low=low, high=high))
    return drawn


@heavy.post("/jobs/{key}/division/{body}/placed")
def placed(key: str, body: BodyId, asked: AskInside) -> list[list[Vec3]]:
    """Return the outlines of a drawing where they would split a body."""
    return [list(ring) for ring in run_isolated(place_outline, _job(key), [body], body, asked)]


@heavy.get("/jobs/{key}/division/{body}/face/{face}")
def plane_on(key: str, body: BodyId, face: int) -> views.ProposedCut:
    """Return the plane that a face of a body lies in, as it would be typed."""
    return views.plane_on(_job(key), body, face, store)


@heavy.post("/jobs/{key}/division/{body}/places")
def plane_by(key: str, body: BodyId, asked: AskPlaces) -> views.ProposedCut:
    """Return the plane through three picked places of a body, as it would be typed."""
    return views.plane_by(_job(key), body, asked.places, store)


@heavy.get("/jobs/{key}/division/{body}/walls")
def walls(key: str, body: BodyId) -> list[RoundWall]:
    """List the bores and bosses of a body that a thread can be put on."""
    job = _job(key)
    whole = job.body(body)
    return list(walls_of(in_mm(frame_of(job, whole), store.mesh(whole.geometry))))


@heavy.get("/jobs/{key}/division/{body}/outline/{axis}")
def outline(key: str, body: BodyId, axis: Axis, at: str = "") -> kernel_sections.TrueOutline:
    """Draw a body's outline on a plane, or its silhouette where no place is told; arcs of CAD stay arcs."""

    def kernel(asked: kernel_sections.SectionRequest) -> list[list[OutlineRun]] | None:
        return sandbox.run(section_of_cad, asked, limits=usual_limits())

    return kernel_sections.outlined(_job(key), body, axis, at, store, kernel)


@router.get("/jobs/{key}/division/{division}/planes")
def planes_made(key: str, division: DivisionId) -> list[TypedPlane]:
    """Return the planes of a division that was made, as they were typed, in their parts."""
    return list(typed_planes(texts_of(_job(key).division(division))))


@heavy.get("/jobs/{key}/division/{division}/printed")
def printed(key: str, division: DivisionId) -> list[trials.PrintedReading]:
    """List what the readings on a trial are released at, and what was measured on the print."""
    job = _job(key)
    return list(trials.printed(job, job.division(division)))


@router.post("/jobs/{key}/division/{division}/calibration", status_code=201)
def calibration(key: str, division: DivisionId, fineness: str = "0.05") -> CalibrationView:
    """Work out the shrinkage of the job's machine and material from what was measured, and keep it."""
    job = _job(key)
    pairs = trials.pairs_of(job, job.division(division))
    name = job.machine.name
    return keep_calibration(calibrated(name, job.material.name, pairs, parse_length(fineness)))


@heavy.get("/jobs/{key}/division/around/{reading}")
def around(key: str, reading: ReadingId) -> views.TrialAround:
    """Return where a slice that holds a reading would lie."""
    return views.around(_job(key), reading)
