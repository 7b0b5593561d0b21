"""This module draws how thick the walls of a body are on its surface: the thinner, the denser the hatch."""

from __future__ import annotations

from aimtrue.core.fit.faces import mesh_in
from aimtrue.core.fit.walls.least import wall_thickness
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.surface_map.parts import divided
from aimtrue.core.mesh.surface_map.strokes import Canvas, SurfaceStrokes, with_strokes
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written

_PARTS = 40_000
_BANDS = ((0.5, 4), (1.0, 2), (2.0, 1))
"""Up to this many times the limit, hatched so many times as densely as the widest."""
_LINES = 64
"""The widest hatch has so many lines along the longest extent of a body."""


def wall_strokes(job: Job, body: Body, store: GeometryStore, under_mm: float) -> SurfaceStrokes:
    """Return the hatch of walls that are thinner than twice a limit.

    Args:
        job, body: the body is drawn as it is released.
        store: gives its mesh and features.
        under_mm: the limit; what is thinner than half of it, it, and twice it has a hatch each.
    """
    mesh, drawn = mesh_in("released", job, body, store), store.mesh(body.geometry)
    canvas = Canvas(divided(mesh, _PARTS), drawn)
    thickness = wall_thickness(mesh, store.features(body), canvas.parts.middles())
    widest = float(mesh.extents().max()) / _LINES
    bands, low = [], -1.0
    for times, density in _BANDS:
        high = times * under_mm * (1 - 1e-9)
        says = f"under {written(times * under_mm, 2)} mm"
        bands.append(canvas.hatch(says, (thickness >= low) & (thickness < high), widest / density))
        low = high
    return SurfaceStrokes(origin=canvas.origin, bands=with_strokes(bands))
