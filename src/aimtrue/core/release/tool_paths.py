"""This module hands tool paths over: written, read back, and held against the plate before they count."""

from __future__ import annotations

import hashlib
import json
import shutil
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import IO

import numpy as np

from aimtrue.core.cost.estimate import estimate_plate, layer_heights, placed_bodies
from aimtrue.core.cost.gcode import STRAND_MM, GcodeWriter, heading
from aimtrue.core.cost.paths.layer_paths import PlacedBody
from aimtrue.core.cost.settings import plan_of
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.progress import Progress
from aimtrue.core.proof.tool_paths import PathClaim, path_checks, read_paths
from aimtrue.core.proof.values import Check


@dataclass(frozen=True, eq=False)
class ToolPaths:
    """Tool paths that were laid and read back.

    Attributes:
        heading: comments that stand before the moves.
        estimate: of the plate, along them.
        laid_mm3: of material.
        checks: what was held against the plate when they were read back; all hold.
    """

    heading: str
    estimate: Estimate
    laid_mm3: float
    checks: tuple[Check, ...]


def lay_tool_paths(
    job: Job,
    plate: PlateId,
    store: GeometryStore,
    moves: IO[str],
    tell: Progress | None = None,
    release: str = "",
) -> ToolPaths:
    """Write the moves of a plate, read them back, and leave them to be read from their beginning.

    Args:
        job: with the plate.
        plate: which.
        store: gives the meshes.
        moves: takes the moves; it can be read and sought.
        tell: of progress.
        release: that the bodies are of, as it is told in the heading; empty where there is none.

    Raises:
        Refused: nothing stands on the plate, its machine cures resin, or what is read back is not as laid.
    """
    bodies, placed = placed_bodies(job, plate, store)
    writer = GcodeWriter(moves, [body.name for body in bodies], job.material.strand_mm)
    estimate = estimate_plate(job, plate, store, on_layer=writer.add, tell=tell)
    moves.seek(0)
    checks = tuple(path_checks(read_paths(moves), _claim(job, plate, placed, estimate)))
    broken = next((check for check in checks if not check.holds), None)
    if broken is not None:
        raise Refused(
            "paths-unproven",
            f"{broken.says}: asked {broken.asked}, found {broken.found}",
            remedy="check where it stands and what the machine has room for; nothing is written",
        )
    moves.seek(0)
    return ToolPaths(_heading(job, plate, placed, estimate, release), estimate, writer.laid_mm3, checks)


def write_tool_paths(job: Job, plate: PlateId, store: GeometryStore, path: Path) -> ToolPaths:
    """Write the paths of a plate as G-code; the file gets its name when what it holds was read back.

    Raises:
        Refused: as :func:`lay_tool_paths`.
        OSError: it cannot be written.
    """
    with tempfile.TemporaryFile("w+", encoding="utf-8") as moves:
        laid = lay_tool_paths(job, plate, store, moves)
        part = path.with_name(f".{path.name}.part")
        try:
            with part.open("w", encoding="utf-8") as out:
                out.write(laid.heading)
                shutil.copyfileobj(moves, out, 1 << 20)
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)
    return laid


def _heading(job: Job, plate: PlateId, placed: list[PlacedBody], estimate: Estimate, release: str) -> str:
    machine = job.plate(plate).machine
    settings = json.dumps(job.printing.model_dump(exclude_defaults=True))
    layer = plan_of(job.printing, machine).bead.height
    made_of = [f"geometry sha256 {_hash(placed)}", *([release] if release else [])]
    return heading(estimate, machine.name, settings, job.material.strand_mm, layer, made_of)


def _hash(placed: list[PlacedBody]) -> str:
    digest = hashlib.sha256()
    for body in placed:
        digest.update(body.mesh.vertices.astype("<f4").tobytes())
        digest.update(body.mesh.faces.astype("<i4").tobytes())
    return digest.hexdigest()


def _claim(job: Job, plate: PlateId, placed: list[PlacedBody], estimate: Estimate) -> PathClaim:
    """What paths of a plate are held against: where its bodies are, and what is drawn around them.

    Supports lie within what hangs over, so within the bounds of their body.
    """
    machine = job.plate(plate).machine
    plan = plan_of(job.printing, machine)
    ends = np.array([body.mesh.bounds() for body in placed])
    around = machine.process.around
    reach = max(around.reach, plan.bead.width) if around.kind != "nothing" else 0.0
    # Corners of what is around stay sharp, up to twice its distance.
    low, high = ends[:, 0].min(axis=0) - 2 * reach, ends[:, 1].max(axis=0) + 2 * reach
    layers = len(layer_heights(placed, plan.bead.height))
    return PathClaim(
        low=(float(low[0]), float(low[1]), 0.0),
        high=(float(high[0]), float(high[1]), layers * plan.bead.height),
        room=machine.volume.room,
        layer_mm=plan.bead.height,
        layers=layers,
        strand_diameter_mm=job.material.strand_mm or STRAND_MM,
        volume_mm3=estimate.volume_mm3,
    )
