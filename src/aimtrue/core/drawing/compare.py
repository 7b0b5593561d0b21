"""Before and after: a body as the file has it, corrected, and with its allowance."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.allowance import allowed_linear, allowed_points
from aimtrue.core.chain.transforms import base_points, drawn_points, true_points
from aimtrue.core.drawing.sheet import Dimension, TitleBlock, three_views
from aimtrue.core.drawing.views import FRONT, TOP, PreparedView, ViewDirection, strokes
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import ends_of, lengths_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.materials import mass_g, strand_m
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3


class ComparedState(Value):
    """One state of a body or kit. ``strand_m`` is the strand it takes when solid; None for resin."""

    name: str
    size_mm: Vec3
    volume_mm3: float
    area_mm2: float
    mass_g: float
    strand_m: float | None


class Comparison(Value):
    """The states side by side, and their outlines from the front and from above, drawn over each other."""

    states: tuple[ComparedState, ...]
    outlines: str


def compare(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> Comparison:
    """Hold a body or kit as in the file against itself corrected and allowed.

    Args:
        job: with the unit of these bodies settled.
        bodies: one, or those of a kit.
        store: gives their meshes; sizes, volumes and surfaces are worked out on these, not scaled.
    """
    meshes = [store.mesh(body.geometry) for body in bodies]
    ways = (("in the file", drawn_points), ("corrected", true_points), ("released", allowed_points))
    states = []
    for name, way in ways:
        moved = [
            Mesh(way(job, body, mesh.vertices), mesh.faces) for body, mesh in zip(bodies, meshes, strict=True)
        ]
        states.append(_state(job, name, bodies, moved))
    return Comparison(states=tuple(states), outlines=_outlines(job, bodies, meshes))


def _state(job: Job, name: str, bodies: tuple[Body, ...], meshes: list[Mesh]) -> ComparedState:
    ends = np.concatenate([mesh.bounds() for mesh in meshes])
    made_of = [job.material_of(body) for body in bodies]
    volumes = [abs(mesh.volume()) for mesh in meshes]
    strands = [strand_m(volume, material) for volume, material in zip(volumes, made_of, strict=True)]
    return ComparedState(
        name=name,
        size_mm=as_vec3(ends.max(axis=0) - ends.min(axis=0)),
        volume_mm3=sum(volumes),
        area_mm2=sum(mesh.area() for mesh in meshes),
        mass_g=sum(mass_g(volume, material) for volume, material in zip(volumes, made_of, strict=True)),
        strand_m=None if None in strands else sum(strand or 0.0 for strand in strands),
    )


def _outlines(job: Job, bodies: tuple[Body, ...], meshes: list[Mesh]) -> str:
    """Draw the outlines of all three states over each other, to one scale.

    The corrected outline is that of the file stretched by the factors: every edge that turns away from the
    eye still does, because these views look along the axes of the factors.
    """
    drawn = [
        PreparedView(Mesh(drawn_points(job, body, mesh.vertices), mesh.faces).knowing(topology=mesh.topology))
        for body, mesh in zip(bodies, meshes, strict=True)
    ]
    stretched = any(job.correction_of(body).along for body in bodies)
    viewed = (
        drawn
        if not stretched
        else [
            PreparedView(
                Mesh(base_points(job, body, mesh.vertices), mesh.faces).knowing(topology=mesh.topology)
            )
            for body, mesh in zip(bodies, meshes, strict=True)
        ]
    )
    rows: dict[str, list[Floats]] = {"file": [], "corrected": [], "released": []}
    shift = 0.0
    for view in (FRONT, TOP):
        flat = _three(job, bodies, drawn, viewed, view)
        every = np.concatenate([lines.reshape(-1, 2) for lines in flat.values()])
        low, high = every.min(axis=0), every.max(axis=0)
        for name, lines in flat.items():
            rows[name].append((lines - low) + [shift, 0])
        shift += float(high[0] - low[0]) * 1.15
    every = np.concatenate([lines.reshape(-1, 2) for row in rows.values() for lines in row])
    high = every.max(axis=0)
    scale = min(360 / max(high[0], 1e-9), 150 / max(high[1], 1e-9))
    paths = "".join(
        _stroked(name, np.concatenate(row), scale, float(high[1])) for name, row in rows.items() if row
    )
    width, height = high * scale + 8
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-4 -4 {width:.1f} {height:.1f}" role="img" '
        f'aria-label="outlines before and after, from the front and from above">{paths}</svg>'
    )


_STROKES = {
    "file": 'stroke="#8d8677" stroke-width=".9" stroke-dasharray="4 3"',
    "corrected": 'stroke="#22262b" stroke-width="1.1"',
    "released": 'stroke="#256c62" stroke-width=".9" stroke-dasharray="1.5 1.5"',
}


def _three(
    job: Job,
    bodies: tuple[Body, ...],
    drawn: list[PreparedView],
    viewed: list[PreparedView],
    view: ViewDirection,
) -> dict[str, Floats]:
    flat: dict[str, list[Floats]] = {"file": [], "corrected": [], "released": []}
    for body, before, prepared_view in zip(bodies, drawn, viewed, strict=True):
        lines = prepared_view.outline(view)
        stretch = view.flat(np.diag(job.correction_of(body).factors)).sum(axis=0)
        origin, more = _allowance(job, body, view)
        flat["file"].append(before.outline(view))
        flat["corrected"].append(lines * np.abs(stretch))
        if job.allowed(body):
            flat["released"].append(lines * np.abs(stretch) * more + origin)
    if not flat["released"]:
        del flat["released"]
    return {name: np.concatenate(some) for name, some in flat.items()}


def _allowance(job: Job, body: Body, view: ViewDirection) -> tuple[Floats, Floats]:
    if not job.allowed(body):
        return np.zeros(2), np.ones(2)
    factors, shift = allowed_linear(job, body)
    return view.flat(shift), np.abs(view.flat(np.diag(factors)).sum(axis=0))


def _stroked(name: str, lines: Floats, scale: float, top: float) -> str:
    if not len(lines):
        return ""
    on_paper = (lines * [1, -1] + [0, top]) * scale
    path = "".join(
        "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in stroke.tolist()) for stroke in strokes(on_paper, 0.3)
    )
    return f'<path d="{path}" fill="none" {_STROKES[name]} data-state="{name}"/>'


def drawing_of(job: Job, bodies: tuple[Body, ...], store: GeometryStore, name: str) -> str:
    """Return the three-view drawing of a body or kit, corrected, with its readings, as SVG."""
    meshes = _corrected(job, bodies, store)
    volume = sum(abs(mesh.volume()) for mesh in meshes)
    factors = job.correction_of(bodies[0]).factors
    alike = len({round(factor, 9) for factor in factors}) == 1
    plate = TitleBlock(
        (
            ("job", job.name[:34]),
            ("body" if len(bodies) == 1 else f"kit of {len(bodies)}", name[:34]),
            (
                "correction",
                f"{factors[0]:.6g}" if alike else " / ".join(f"{factor:.5g}" for factor in factors),
            ),
            (f"mass, {job.material.name}", f"{volume / 1000 * job.material.density:.1f} g"),
            ("unit", "mm"),
        )
    )
    return three_views(merged(meshes), _readings(job, bodies), plate)


def drawn_of(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> tuple[Mesh, list[Dimension]]:
    """Return bodies in mm, corrected, as one mesh, with their readings as dimensions."""
    return merged(_corrected(job, bodies, store)), _readings(job, bodies)


def _corrected(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> list[Mesh]:
    meshes = []
    for body in bodies:
        mesh = store.mesh(body.geometry)
        moved = Mesh(true_points(job, body, mesh.vertices), mesh.faces)
        meshes.append(moved.knowing(topology=mesh.topology) if len(bodies) == 1 else moved)
    return meshes


_NOT_DRAWN = ("angle", "perimeter")
"""Gauges that are no straight line."""


def _readings(job: Job, bodies: tuple[Body, ...]) -> list[Dimension]:
    keys = {body.id: body for body in bodies}
    dimensions = []
    for reading in job.readings:
        ends = ends_of(reading.gauge)
        on = (reading.body, reading.gauge.other or reading.body)
        if not set(on) <= set(keys) or reading.lost or ends is None or reading.gauge.kind in _NOT_DRAWN:
            continue
        a, b = (true_points(job, keys[key], np.array([end]))[0] for key, end in zip(on, ends, strict=True))
        lengths, band = lengths_of(job, reading), band_of(reading)
        sign = {"diameter": "ø", "radius": "R"}.get(reading.gauge.kind, "")
        met = band is not None and all(band.holds(length) for length in lengths)
        dimensions.append(Dimension(as_vec3(a), as_vec3(b), f"{sign}{written(max(lengths))}", met))
    return dimensions
