"""This module tells threads from other round faces of a mesh, with their pitch and hand."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.directions import plane_axes, snapped
from aimtrue.core.mesh.features.circle_fit import Indices
from aimtrue.core.mesh.features.faces import Thread
from aimtrue.core.mesh.mesh import Floats, Mesh

_LEAST_OF_THREAD = 24


_CREST, _ENOUGH, _STEPS = 0.03, 12, 6
"""Corners so close to the outermost, as a share of its radius, are of the crest at the first step; at each
further one a third of that. How many of them tell an axis; how many steps there are."""
_SLIVERS = 1e-3
"""Facets of so small a share of the area may lean otherwise: slivers where an end was cut."""
_FLANK = (0.25, 0.995)
"""How far flanks lean, as the cosine between their normals and the axis."""


def thread_of(mesh: Mesh, normals: Floats, faces: Indices) -> Thread | None:
    """Tell whether a patch is the flank of a thread.

    All its normals have one angle to the axis. On a flank ``z`` grows with the radius at a fixed slope;
    with that taken off, what is left climbs in proportion to the angle, over more than a turn.
    """
    if len(faces) < _LEAST_OF_THREAD:
        return None
    areas, across = mesh.areas[faces], normals[faces]
    # The normals end on a circle, however much of a turn they are from; square to its plane is the axis.
    spread = across - areas @ across / areas.sum()
    axis = snapped(np.linalg.eigh((spread * areas[:, None]).T @ spread)[1][:, 0])
    tilt = across @ axis
    lean = float(areas @ tilt / areas.sum())
    leans = np.abs(tilt - lean) <= 0.06
    if not _FLANK[0] < abs(lean) < _FLANK[1] or areas[~leans].sum() > _SLIVERS * areas.sum():
        return None
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    middles = mesh.vertices[mesh.faces[faces]].mean(axis=1)
    axis, middle = _through_its_crest(points, axis, _amid_flanks(middles, across, axis))
    u, v = plane_axes(axis)
    centre = np.array([middle @ u, middle @ v])
    away = np.stack([middles @ u, middles @ v], axis=1) - centre
    radius, angle = np.hypot(*away.T), np.arctan2(away[:, 1], away[:, 0])
    outward = np.einsum("ij,ij->i", np.stack([across @ u, across @ v], axis=1), away) / radius
    climb = middles @ axis + radius * np.median(outward) / lean
    order = np.argsort(climb)
    turned = np.unwrap(angle[order])
    if abs(turned[-1] - turned[0]) < 2 * np.pi:
        return None
    slope, start = np.polyfit(turned, climb[order], 1)
    pitch = abs(float(slope)) * 2 * np.pi
    off = float(np.abs(climb[order] - start - slope * turned).max())
    reach = float(np.hypot(points @ u - centre[0], points @ v - centre[1]).max())
    if off > 0.12 * pitch or not 0 < pitch < 1.5 * reach:
        return None
    along = points @ axis
    place = centre[0] * u + centre[1] * v + axis * (along.min() + along.max()) / 2
    turns = abs(float(turned[-1] - turned[0])) / (2 * np.pi)
    return Thread(
        faces, axis, place, reach, float(np.ptp(along)), bool(np.median(outward) < 0), off,
        float(areas.sum()), used[np.linspace(0, len(used) - 1, min(24, len(used))).astype(int)], pitch, turns,
        1 if slope > 0 else -1,
    )  # fmt: skip


def _amid_flanks(middles: Floats, across: Floats, axis: Floats) -> Floats:
    """Return (3,) a point on the axis of a thread, from the middles and the normals of its facets.

    A flank z = f(r) + c·angle has the normal (-f', -c/r, 1) along radius, turn and axis, to a length. So its
    line, seen along the axis, passes that at c times how far it leans: least squares over these lines for the
    centre and c. Without c the centre comes out beside the axis unless the turns are whole.
    """
    u, v = plane_axes(axis)
    sideways = np.stack([across @ v, -(across @ u)], axis=1)
    flat = np.stack([middles @ u, middles @ v], axis=1)
    rows = np.column_stack([sideways, across @ axis])
    x, y, _ = np.linalg.lstsq(rows, np.einsum("ij,ij->i", sideways, flat), rcond=None)[0]
    return np.asarray(x * u + y * v)


def _through_its_crest(points: Floats, axis: Floats, centre: Floats) -> tuple[Floats, Floats]:
    """Return the axis and a point on it, moved so that the outermost corners are equally far from it.

    Normals of facets tell an axis only as closely as facets are small; corners of the crest are on the
    thread itself. Least squares (Gauss-Newton) over how the axis is shifted and tilted. Where ends were cut
    there are corners below the crest, too; the closer the axis is, the fewer of them are taken for it.
    """
    for step in range(_STEPS):
        u, v = plane_axes(axis)
        away = points - centre
        x, y, z = away @ u, away @ v, away @ axis
        radius = np.hypot(x, y)
        crest = np.flatnonzero(radius > (1 - _CREST / 3**step) * radius.max())
        if len(crest) < _ENOUGH:
            return axis, centre
        out, high, r = np.stack([x, y], axis=1)[crest] / radius[crest, None], z[crest], radius[crest]
        rows = np.column_stack([out, out * (high / r.max())[:, None], np.ones(len(crest))])
        shift_u, shift_v, tilt_u, tilt_v, _ = np.linalg.lstsq(rows, r, rcond=1e-9)[0]
        centre = centre + shift_u * u + shift_v * v
        axis = snapped(axis + (tilt_u * u + tilt_v * v) / r.max())
    return axis, centre
