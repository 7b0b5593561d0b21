"""This module tells threads from other round faces of a mesh, with their pitch and hand."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.directions import plane_axes, snapped
from aimtrue.core.mesh.features.circle_fit import Indices
from aimtrue.core.mesh.features.faces import Thread
from aimtrue.core.mesh.mesh import Floats, Mesh

_LEAST_OF_THREAD = 24


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
    shares, axes = np.linalg.eigh((across * areas[:, None]).T @ across / areas.sum())
    # Alike in all directions square to the axis, whichever end of the three that one is.
    axis = snapped(axes[:, 2] if shares[1] - shares[0] < shares[2] - shares[1] else axes[:, 0])
    tilt = across @ axis
    lean = float(areas @ tilt / areas.sum())
    if not _FLANK[0] < abs(lean) < _FLANK[1] or np.abs(tilt - lean).max() > 0.06:
        return None
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    middles = mesh.vertices[mesh.faces[faces]].mean(axis=1)
    # Every normal meets the axis: least squares over their lines, seen along it.
    u, v = plane_axes(axis)
    sideways = np.stack([across @ v, -(across @ u)], axis=1)
    flat = np.stack([middles @ u, middles @ v], axis=1)
    centre = np.linalg.lstsq(sideways, np.einsum("ij,ij->i", sideways, flat), rcond=None)[0]
    away = flat - centre
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
