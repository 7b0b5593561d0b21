"""This module says what runs in the sandbox: files in, files out, small values between."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

from aimtrue.core.division.sections import kernel_sections
from aimtrue.core.division.views import placed_outline
from aimtrue.core.drawing.compare import Comparison, compare, drawing_of, drawn_of
from aimtrue.core.drawing.thumbnail import thumbnail
from aimtrue.core.errors import Refused
from aimtrue.core.fit.answers import BodyWalls, body_walls
from aimtrue.core.fit.between import FitAnswer, PlacedBodies, fit_of, placed_bodies
from aimtrue.core.fit.detail import PairDetail, between_detail, detail
from aimtrue.core.fit.offers import PairOffer, offers
from aimtrue.core.fit.surface_map.gap_strokes import gap_strokes
from aimtrue.core.fit.surface_map.wall_strokes import wall_strokes
from aimtrue.core.formats import CAD_ENDINGS, ending_of
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.formats.runs import OutlineRun
from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.surface_changes import Since, SurfaceChange, surface_change
from aimtrue.core.intake.take_in import all_kept, take_in
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM
from aimtrue.core.mesh.serialization import drawn_bytes, name_of
from aimtrue.core.mesh.surface_map.strokes import SurfaceStrokes
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.division import AskInside
from aimtrue.core.model.ids import BodyId, PairId, PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Vec3
from aimtrue.core.progress import Progress
from aimtrue.core.proof.record import HeldNumber, Record, as_json
from aimtrue.core.proof.verification import verified
from aimtrue.core.release.bundle import Bundle, is_bundle, open_bundle
from aimtrue.core.release.making import ReleasedFile, release
from aimtrue.core.release.order import Order
from aimtrue.core.release.record import record_of
from aimtrue.core.release.sheet import Paper, ProofSheet
from aimtrue.core.release.tool_paths import lay_tool_paths
from aimtrue.core.room import TaskInputs
from aimtrue.core.stock.through.answer import through
from aimtrue.core.stock.through.values import ThroughAnswer, ThroughQuestion
from aimtrue.core.tasks import Task, do
from aimtrue.standins.receiving import Arrival, ReceivingHabits, received
from aimtrue.store.geometry_store import DiskGeometryStore

STOP = "stop"
PREVIEW = "preview "
"""What is reported with the name of a mesh that can be drawn before all is known begins with this."""


@dataclass(frozen=True)
class TaskAnswer:
    """What is to be done to a job; ``blobs`` are the names of files that were left, each its hash."""

    action: ActionValue
    blobs: tuple[str, ...]


def blamed_on(name: str) -> str:
    """Say what ended where a reader of a file ended without a word; empty for what is said of any."""
    return "the CAD kernel ended on this file" if ending_of(name) in CAD_ENDINGS else ""


def read_file(
    path: Path, key: str, name: str, limits: UnpackingLimits, out: Path, progress: Progress
) -> TaskAnswer:
    """Read a model file and leave its geometry in a folder."""

    def show(mesh: Mesh) -> None:
        data = drawn_bytes(mesh)
        preview = name_of(data)
        (out / preview).write_bytes(data)
        progress(0.3, PREVIEW + preview)

    taken = take_in(key, name, path.read_bytes(), limits=limits, progress=progress, show=show)
    progress(0.97, "keeping the geometry")
    bodies, blobs = all_kept(taken, faces_up_to=REDUCED_FROM)
    return TaskAnswer(TakeIn(sources=taken.sources, bodies=bodies, kits=taken.kits), _left(blobs, out))


def remake_bodies(  # noqa: PLR0913 - told apart by their names
    key: str, job: Job, task: Task, store: Path, original: Path | None, out: Path, progress: Progress
) -> TaskAnswer:
    """Do some work and leave the geometry that it makes in a folder; a file there says when to stop."""
    data = original.read_bytes() if original else b""
    worked = do(TaskInputs(key, job, DiskGeometryStore(store), data, progress, (out / STOP).exists), task)
    return TaskAnswer(worked.action, _left(worked.blobs, out))


def section_of_cad(
    asked: kernel_sections.SectionRequest, progress: Progress
) -> list[list[OutlineRun]] | None:
    """Cut a solid of a CAD file by a plane, arcs kept."""
    return kernel_sections.by_kernel(asked)


def draw_bodies(job: Job, store: Path, keys: tuple[BodyId, ...], name: str, progress: Progress) -> str:
    """Draw bodies in three views, as SVG."""
    return drawing_of(job, tuple(job.body(key) for key in keys), DiskGeometryStore(store), name)


def draw_thumbnail(job: Job, store: Path, progress: Progress) -> str:
    """Draw a job at a glance, as SVG."""
    return thumbnail(job, DiskGeometryStore(store))


def compare_bodies(job: Job, store: Path, keys: tuple[BodyId, ...], progress: Progress) -> Comparison:
    """Hold bodies before and after against each other."""
    return compare(job, tuple(job.body(key) for key in keys), DiskGeometryStore(store))


def place_outline(
    job: Job, store: Path, body: BodyId, asked: AskInside, progress: Progress
) -> tuple[tuple[Vec3, ...], ...]:
    """Read a drawing, and return its outlines where they would split a body."""
    return placed_outline(job, body, asked, DiskGeometryStore(store))


def offer_pairs(job: Job, store: Path, progress: Progress) -> tuple[PairOffer, ...]:
    """List what nearly goes together."""
    return offers(job, DiskGeometryStore(store))


def draw_pair(job: Job, store: Path, key: PairId, depth_mm: float, progress: Progress) -> PairDetail:
    """Draw a section through a pair."""
    return detail(job, key, DiskGeometryStore(store), depth_mm)


def measure_walls(
    job: Job, store: Path, keys: tuple[BodyId, ...], under_mm: float, progress: Progress
) -> list[BodyWalls]:
    """Measure the walls of bodies."""
    return [body_walls(job, job.body(key), DiskGeometryStore(store), under_mm)[0] for key in keys]


def draw_walls(job: Job, store: Path, key: BodyId, under_mm: float, progress: Progress) -> SurfaceStrokes:
    """Draw how thick the walls of a body are."""
    return wall_strokes(job, job.body(key), DiskGeometryStore(store), under_mm)


def draw_change(job: Job, store: Path, key: BodyId, since: Since, progress: Progress) -> SurfaceChange:
    """Draw where the surface of a body is another than it was."""
    return surface_change(job, job.body(key), DiskGeometryStore(store), since)


@dataclass(frozen=True)
class TriedBodies:
    """Two bodies, and where the second is tried, as typed."""

    one: BodyId
    other: BodyId
    place: str


def _placed(job: Job, store: Path, tried: TriedBodies) -> PlacedBodies:
    one, other = job.body(tried.one), job.body(tried.other)
    return placed_bodies(job, one, other, tried.place, DiskGeometryStore(store))


def try_fit(job: Job, store: Path, tried: TriedBodies, progress: Progress) -> FitAnswer:
    """Say how two bodies go together."""
    return fit_of(job, _placed(job, store, tried))


def draw_nearest(
    job: Job, store: Path, tried: TriedBodies, depth_mm: float, progress: Progress
) -> PairDetail:
    """Draw a section where two bodies are nearest."""
    return between_detail(_placed(job, store, tried), depth_mm)


def draw_gaps(
    job: Job, store: Path, tried: TriedBodies, upto_mm: float | None, progress: Progress
) -> SurfaceStrokes:
    """Draw the gap to the second of two bodies on the first.

    Raises:
        Refused: both are the same.
    """
    if tried.one == tried.other:
        raise Refused("gap-two", "a gap is drawn between two bodies", remedy="choose two")
    meshes = _placed(job, store, tried).meshes
    drawn = DiskGeometryStore(store).mesh(job.body(tried.one).geometry)
    return gap_strokes(meshes[0], drawn, meshes[1], upto_mm)


def try_through(job: Job, store: Path, asked: ThroughQuestion, progress: Progress) -> ThroughAnswer:
    """Say whether a bolt goes through a bore."""
    return through(job, asked.text, asked.spot, DiskGeometryStore(store))


def print_sheet(job: Job, store: Path, sheet: ProofSheet, kind: Paper, progress: Progress) -> bytes:
    """Print a proof sheet, as PDF."""
    from aimtrue.core.release.sheet.pages import as_pdf

    meshes = DiskGeometryStore(store)
    return as_pdf(sheet, kind, lambda body: drawn_of(job, (job.body(body),), meshes))


def tool_paths(job: Job, store: Path, plate: PlateId, release: str, progress: Progress) -> bytes:
    """Lay the tool paths of a plate, as G-code, with the release that it is of in its heading."""
    moves = io.StringIO()
    laid = lay_tool_paths(job, plate, DiskGeometryStore(store), moves, progress, release)
    return (laid.heading + moves.getvalue()).encode()


@dataclass(frozen=True)
class ReleaseAnswer:
    """The files of a release, and the hash of its proof record; all of them are left in a folder by hash."""

    files: tuple[ReleasedFile, ...]
    record: str


def make_release(
    job: Job, store: Path, order: Order, earlier: tuple[str, ...], out: Path, progress: Progress
) -> ReleaseAnswer:
    """Make a release from a folder of geometry and leave the files in another."""
    released = release(job, DiskGeometryStore(store), order, progress, earlier)
    _left({file.file.sha256: file.data for file in released.files}, out)
    progress(0.97, "writing the record")
    record = as_json(record_of(job, [released], [file.file.name for file in released.files]))
    name = name_of(record)
    _left({name: record}, out)
    return ReleaseAnswer(tuple(file.file for file in released.files), name)


def unpack_bundle(path: Path, limits: UnpackingLimits, out: Path, progress: Progress) -> Bundle | None:
    """Open a bundle, and leave its files in a folder by their hash; None of an archive that is no bundle."""
    with path.open("rb") as file:
        if not is_bundle(file):
            return None
        bundle = open_bundle(file, limits)
        for bundled_file in bundle.told.files:
            with (out / bundled_file.sha256).open("wb") as left:
                left.writelines(bundle.pieces(bundled_file, 1_000_000))
        return bundle.told


def verify_file(path: Path, name: str, record: Record, progress: Progress) -> list[HeldNumber]:
    """Hold a file against a proof record."""
    return verified(name, path.read_bytes(), record)


def receive_files(
    files: list[tuple[str, bytes]], record: Record, habits: ReceivingHabits, progress: Progress
) -> Arrival:
    """Say what a receiving end would make of files."""
    return received(files, record, habits)


def _left(blobs: dict[str, bytes], out: Path) -> tuple[str, ...]:
    for name, data in blobs.items():
        (out / name).write_bytes(data)
    return tuple(blobs)
