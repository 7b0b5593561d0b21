"""Sections of bodies that are still exact CAD, with their arcs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath

import numpy as np

from aimtrue.core.division.frames import frame_of
from aimtrue.core.division.sections import arcs
from aimtrue.core.division.sections.outlines import (
    SHOWN,
    SectionOutlines,
    as_released,
    cut_across,
    dxf_of,
    silhouette_along,
    svg_of,
    together,
    with_arcs,
)
from aimtrue.core.errors import Refused, UnreadableFile
from aimtrue.core.formats.runs import OutlineRun
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, parse_offset
from aimtrue.core.model.recipe import IntakeRecipe
from aimtrue.core.model.value import Axis

_CAD = ("step", "iges", "brep")
_UNIFORM = 1e-12


@dataclass(frozen=True, eq=False)
class SectionRequest:
    """What the kernel is asked for: a solid of a file, by its bounds, and a plane; in mm of the kernel."""

    ending: str
    data: bytes
    box: Floats
    normal: Floats
    at: float
    beside: Mapping[str, bytes]


Kernel = Callable[[SectionRequest], list[list[OutlineRun]] | None]


def by_kernel(asked: SectionRequest) -> list[list[OutlineRun]] | None:
    """Cut a solid of a CAD file; the kernel takes seconds to load, and is loaded here."""
    from aimtrue.core.formats.cad import section

    return section(asked.ending, asked.data, asked.box, asked.normal, asked.at, asked.beside)


def section_of(
    job: Job,
    bodies: tuple[Body, ...],
    axis: Axis,
    at: float,
    store: GeometryStore,
    kernel: Kernel = by_kernel,
) -> SectionOutlines:
    """Cut corrected bodies square to an axis; of those that are still exact CAD arcs stay arcs.

    That they are where they came as CAD and are as they came: not mended or made of others, scaled alike on
    all axes, and without clearance or bores that are kept.

    Args:
        job, store: the bodies, and their meshes and files.
        bodies: which.
        axis, at: the plane, in mm of the corrected bodies.
        kernel: cuts CAD.

    Raises:
        Refused: the plane misses them all.
        Unsettled: a unit is open.
    """
    cuts = []
    for body in bodies:
        (cut,) = cut_across([as_released(job, body, store)], axis, np.array([at]), drawn=True)
        curves = _curves(job, body, cut, store, kernel) if cut.rings else None
        cuts.append(cut if curves is None else with_arcs(cut, curves))
    if not any(cut.rings for cut in cuts):
        raise Refused("plane-misses", f"there is nothing at {axis} = {at:g}", remedy="move the plane")
    return together(cuts) if len(cuts) > 1 else cuts[0]


@dataclass(frozen=True)
class TrueOutline:
    """A flat outline and its drawings, of true size in mm; ``at_mm`` is None of a silhouette."""

    axis: Axis
    at_mm: float | None
    area_mm2: float
    outline_mm: float
    islands: int
    holes: int
    arcs: int
    svg: str
    dxf: str


def outlined(
    job: Job, key: BodyId, axis: Axis, typed: str, store: GeometryStore, kernel: Kernel = by_kernel
) -> TrueOutline:
    """Return the outline of a body on a plane, or where nothing is typed its silhouette.

    Raises:
        Refused: what is typed is no length, or the plane misses the body.
        Unsettled: its unit is open.
    """
    body = job.body(key)
    job.settled_unit(body)
    at = parse_offset(typed) if typed.strip() else None
    if at is None:
        cut = silhouette_along([as_released(job, body, store)], axis)
    else:
        cut = section_of(job, (body,), axis, at, store, kernel)
    curved = sum(int((arcs.angles_of(curve) != 0).sum()) for curve in cut.curves)
    figures = (cut.area_mm2, cut.outline_mm, cut.islands, cut.holes, curved)
    return TrueOutline(axis, at, *figures, svg_of([cut]), dxf_of([cut]))


@dataclass(frozen=True, eq=False)
class KernelPlacement:
    """How the solid of a CAD file came to be a corrected body: ``linear`` and ``shift`` take numbers of the
    file to mm, ``scale`` is by how much, ``per`` mm of the kernel there are to a number of the file.
    """

    linear: Floats
    shift: Floats
    scale: float
    per: float


def exact_of(job: Job, body: Body) -> KernelPlacement | None:
    """Return that of a body that is still exact CAD, see :func:`section_of`; None of any other."""
    source, recipe = job.source(body.source), body.recipe
    if source.format not in _CAD or not isinstance(recipe, IntakeRecipe) or recipe.sewn or job.allowed(body):
        return None
    frame = frame_of(job, body)
    linear, shift = np.asarray(frame.linear), np.asarray(frame.shift)
    square = linear @ linear.T
    scale = float(np.sqrt(square[0, 0]))
    if body.kept or np.abs(square / scale**2 - np.eye(3)).max() > _UNIFORM:
        return None
    return KernelPlacement(linear, shift, scale, MM_PER[source.declared] if source.declared else 1.0)


def _curves(
    job: Job, body: Body, cut: SectionOutlines, store: GeometryStore, kernel: Kernel
) -> list[Floats] | None:
    exact = exact_of(job, body)
    if exact is None:
        return None
    linear, shift, scale, per = exact.linear, exact.shift, exact.scale, exact.per
    source = job.source(body.source)
    k = "xyz".index(cut.axis)
    asked = SectionRequest(
        PurePosixPath(source.name).suffix.lower(),
        store.original(source.sha256),
        per * np.array([body.low, body.high]),
        linear[k] / scale,
        per * (cut.at_mm - float(shift[k])) / scale,
        {file.name: store.original(file.sha256) for file in source.beside},
    )
    try:
        cut_there = kernel(asked)
    except UnreadableFile:
        return None
    if not cut_there:
        return None
    return _checked([_ring(runs, linear / per, shift, cut.axis) for runs in cut_there], cut)


def _ring(runs: list[OutlineRun], linear: Floats, shift: Floats, axis: Axis) -> Floats:
    """A ring of runs in mm of the kernel, in the two axes that the section is shown in."""
    shown = list(SHOWN[axis][:2])

    def flat(place: Floats) -> Floats:
        return np.asarray((linear @ place + shift)[shown])

    ring = []
    for run in runs:
        via = None if run.via is None else flat(run.via)
        ring.append((*flat(run.start), arcs.bulge_of(flat(run.start), flat(run.end), via)))
    return np.array(ring)


def _checked(curves: list[Floats], cut: SectionOutlines) -> list[Floats] | None:
    """Rings with arcs, if they bound what the facets do but for what facets lose: a hundredth of the area."""
    rings, _ = arcs.oriented(curves)
    area = sum(arcs.area_of(ring) for ring in rings)
    return curves if abs(area - cut.area_mm2) <= 0.01 * cut.area_mm2 else None
