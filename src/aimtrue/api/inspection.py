"""The addresses of printed parts: what was measured on them, as a table, on paper, and as a calibration."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter, Response

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.fit import job_of
from aimtrue.api.shared import store, whole
from aimtrue.api.truing import CalibrationView, keep_calibration
from aimtrue.core.fit.inspection.machine_lines import calibration_of
from aimtrue.core.fit.inspection.results import InspectionView, inspection_view
from aimtrue.core.fit.inspection.table import as_csv
from aimtrue.core.release.names import safe
from aimtrue.core.release.sheet.content import Paper

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


@heavy.get("/jobs/{key}/inspection")
def inspection(key: str) -> InspectionView:
    """Return what can be measured on printed parts, what was, and what that tells of the machine."""
    return inspection_view(job_of(key), store)


@heavy.get("/jobs/{key}/inspection/table.csv", response_class=Response)
def inspection_table(key: str) -> Response:
    """Hand over what is to be measured, and what was, as a table to be filled."""
    job = job_of(key)
    text = as_csv(inspection_view(job, store))
    return whole(text.encode(), f"{safe(job.name)}_inspection.csv", "csv")


@heavy.get("/jobs/{key}/inspection/sheet.pdf", response_class=Response)
def inspection_sheet(key: str, kind: Paper = "a4") -> Response:
    """Hand over the inspection sheet to be printed."""
    from aimtrue.core.release.sheet.inspection_pages import inspection_pdf

    job = job_of(key)
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    pages = inspection_pdf(inspection_view(job, store), job.name, job.machine.name, day, kind)
    return whole(pages, f"{safe(job.name)}_inspection.pdf", "pdf")


@router.post("/jobs/{key}/inspection/calibration", status_code=201)
def calibration(key: str) -> CalibrationView:
    """Keep what measured parts tell of the job's machine and material, for every job."""
    job = job_of(key)
    lines = inspection_view(job, store).lines
    usual = job.shrinkage_of(job.bodies[0]).shares if job.bodies else (0.0, 0.0, 0.0)
    return keep_calibration(calibration_of(job.machine.name, job.material.name, lines, usual))
