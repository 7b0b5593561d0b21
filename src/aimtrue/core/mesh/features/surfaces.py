"""Flat and round faces of a mesh: what a gauge can be taken on.

A mesh only has facets. A *flat face* is facets of one plane that hang together; a *round face* is
facets that bend steadily about one axis. The corners of facets lie on the surface they were cut from,
so a circle through corners gives its true diameter, where the middles of facets would lose some.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import radians

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh

_LEVEL = radians(0.05)
"""Facets that turn less than this are of one plane."""
_SMOOTH = radians(32)
"""Facets that turn less than this may be of one round face."""
_LEAST_FACETS = 4
_ROUND = 3e-3
"""How far, of its radius, a round face may be from the circle fitted to it."""
_LEAST_OF_THREAD = 24
_FLANK = (0.25, 0.995)
"""How far flanks lean, as the cosine between their normals and the axis."""
_PLAIN = 2.5
"""A facet that is so many times as large as those it bends into is a flat face of its own."""

Indices = NDArray[np.integer]


@dataclass(frozen=True, eq=False)
class FlatFace:
    """A flat face.

    Attributes:
        faces: its triangles.
        normal: (3,) unit vector, outward.
        point: (3,) the middle of its area.
        area: of it.
        off: how far its corners are from the plane at most.
        corners: (3,) vertices that are far from each other, which span the plane.
    """

    faces: Indices
    normal: Floats
    point: Floats
    area: float
    off: float
    corners: Indices


@dataclass(frozen=True, eq=False)
class RoundFace:
    """A cylinder, or a part of one.

    Attributes:
        faces: its triangles.
        axis: (3,) unit vector.
        centre: (3,) on the axis, halfway along.
        radius: of the circle fitted to the corners.
        depth: along the axis.
        turn: how much of the full turn it covers, in radians.
        hollow: whether material is outside of it: a bore, not a boss.
        off: how far corners are from the fitted cylinder at most.
        area: of its facets.
        corners: up to 24 vertices spread over it.
    """

    faces: Indices
    axis: Floats
    centre: Floats
    radius: float
    depth: float
    turn: float
    hollow: bool
    off: float
    area: float
    corners: Indices


@dataclass(frozen=True, eq=False)
class Thread:
    """One flank of a screw thread: a strip that climbs steadily about an axis.

    Attributes:
        faces, axis, centre, depth, hollow, off, area, corners: as of :class:`RoundFace`.
        radius: of its outermost corners.
        pitch: how far it climbs in a full turn.
        turns: how many of those there are.
    """

    faces: Indices
    axis: Floats
    centre: Floats
    radius: float
    depth: float
    hollow: bool
    off: float
    area: float
    corners: Indices
    pitch: float
    turns: float


def surfaces(mesh: Mesh) -> tuple[list[FlatFace], list[RoundFace], list[Thread]]:
    """Find the flat and round faces and the threads of a mesh, each the largest first.

    Facets that belong to none (cones, spheres, free forms, scans) are left out.
    """
    normals = _normals(mesh)
    a, b, angle, length = _folds(mesh, normals)
    level = angle < _LEVEL
    facet = _components(a[level], b[level], mesh.triangles)
    plain = _plain_facets(mesh, facet, a, b, angle, length)
    flats = [flat for faces in _members(facet, plain) if (flat := _flat(mesh, normals, faces)) is not None]
    bending = ~plain[facet]
    joined = (angle < _SMOOTH) & bending[a] & bending[b]
    patch = _components(a[joined], b[joined], mesh.triangles)
    facets_of = np.bincount(patch, minlength=int(patch.max(initial=-1)) + 1)
    rounds, threads = [], []
    for faces in _members(patch, facets_of >= _LEAST_FACETS):
        if not bending[faces[0]]:
            continue
        if (cylinder := _round(mesh, normals, faces)) is not None:
            rounds.append(cylinder)
        elif (thread := _thread(mesh, normals, faces)) is not None:
            threads.append(thread)
    return (
        sorted(flats, key=lambda one: -one.area),
        sorted(rounds, key=lambda one: -one.area),
        sorted(threads, key=lambda one: -one.area),
    )


def _normals(mesh: Mesh) -> Floats:
    crosses = mesh.area_vectors
    length = np.sqrt(np.einsum("ij,ij->i", crosses, crosses))[:, None]
    return np.asarray(np.divide(crosses, length, out=np.zeros_like(crosses), where=length > 0))


def _folds(mesh: Mesh, normals: Floats) -> tuple[Indices, Indices, Floats, Floats]:
    """Return, per edge of two faces, those faces, the angle between them and the edge's length."""
    topology = mesh.topology
    paired = np.flatnonzero((topology.edge_valence == 2) & (topology.orientation_sum == 0))
    a, b = topology.faces_of(paired).T
    # The chord between two unit vectors tells small angles to the last digit, unlike their cosine.
    angle = 2 * np.arcsin(np.clip(np.linalg.norm(normals[a] - normals[b], axis=1) / 2, 0, 1))
    ends = mesh.vertices[topology.ends[paired]]
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    # A facet without area has no direction; it goes with whatever it touches.
    angle[(mesh.areas[a] == 0) | (mesh.areas[b] == 0)] = 0
    return a.astype(np.int64), b.astype(np.int64), angle, length


def _components(a: Indices, b: Indices, count: int) -> Indices:
    return connected_components(count, a, b)[1]


def _plain_facets(
    mesh: Mesh, facet: Indices, a: Indices, b: Indices, angle: Floats, length: Floats
) -> NDArray[np.bool_]:
    """Tell, per facet, whether it is a flat face of its own rather than a step of a bend.

    A step of a bend has smooth neighbours of about its own area along most of its rim.
    """
    count = int(facet.max(initial=-1)) + 1
    area = np.bincount(facet, mesh.areas, count)
    rim = facet[a] != facet[b]
    smooth = rim & (angle < _SMOOTH)
    around = np.bincount(facet[a[rim]], length[rim], count) + np.bincount(facet[b[rim]], length[rim], count)
    bends = np.bincount(facet[a[smooth]], length[smooth], count)
    bends += np.bincount(facet[b[smooth]], length[smooth], count)
    near = np.zeros(count)
    np.maximum.at(near, facet[a[smooth]], area[facet[b[smooth]]])
    np.maximum.at(near, facet[b[smooth]], area[facet[a[smooth]]])
    return np.asarray((bends < 0.25 * around) | (area > _PLAIN * near))


def _members(label: Indices, wanted: NDArray[np.bool_]) -> list[Indices]:
    """Return the faces of every wanted label."""
    chosen = np.flatnonzero(wanted[label])
    if not len(chosen):
        return []
    order = chosen[np.argsort(label[chosen], kind="stable")]
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


def _flat(mesh: Mesh, normals: Floats, faces: Indices) -> FlatFace | None:
    areas = mesh.areas[faces]
    total = float(areas.sum())
    if total <= 0:
        return None
    normal = snapped(areas @ normals[faces])
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    middle = areas @ mesh.vertices[mesh.faces[faces]].mean(axis=1) / total
    lift = (points - middle) @ normal
    if np.abs(lift).max() > 1e-3 * np.sqrt(total) + _grain(points):
        return None
    return FlatFace(
        faces, normal, middle + normal * np.median(lift), total, float(np.ptp(lift)), used[_spanning(points)]
    )


def _spanning(points: Floats) -> Indices:
    """Three corners far apart: the ends of the longest reach, and the farthest from it."""
    far = points - points.mean(axis=0)
    first = int(np.einsum("ij,ij->i", far, far).argmax())
    second = int(np.linalg.norm(points - points[first], axis=1).argmax())
    run = points[second] - points[first]
    off = np.linalg.norm(np.cross(points - points[first], run), axis=1)
    return np.array([first, second, int(off.argmax())])


def snapped(direction: Floats) -> Floats:
    """Return the unit vector along a direction, exactly an axis when it is one but for rounding."""
    unit = direction / np.linalg.norm(direction)
    axis = int(np.abs(unit).argmax())
    if np.linalg.norm(np.delete(unit, axis)) < 2e-6:
        return np.asarray(np.eye(3)[axis] * np.sign(unit[axis]))
    return np.asarray(unit)


def _grain(points: Floats) -> float:
    """How coarse float32 is at these points."""
    return 8 * float(np.spacing(np.float32(np.abs(points).max())))


def _round(mesh: Mesh, normals: Floats, faces: Indices) -> RoundFace | None:
    """Fit a cylinder: its axis is square to all normals, its circle runs through the corners."""
    areas, across = mesh.areas[faces], normals[faces]
    spread = (across * areas[:, None]).T @ across / areas.sum()
    shares, axes = np.linalg.eigh(spread)
    if shares[0] > 1e-4 or shares[1] < 1e-4:  # normals all around, or all one way
        return None
    axis = snapped(axes[:, 0])
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    fitted = fit_circle(points, axis)
    if fitted is None:
        return None
    centre, radius, off = fitted
    if off > _ROUND * radius + _grain(points):
        return None
    away = mesh.vertices[mesh.faces[faces]].mean(axis=1) - centre
    outward = np.einsum("ij,ij->i", away, across)
    if not (outward > 0).all() and not (outward < 0).all():
        return None
    along = (points - centre) @ axis
    turn, order = _turn(points - centre, axis)
    if turn < radians(30):
        return None
    middle = centre + axis * (along.min() + along.max()) / 2
    spread_out = used[order[np.linspace(0, len(order) - 1, min(24, len(order))).astype(int)]]
    return RoundFace(
        faces, axis, middle, radius, float(np.ptp(along)), turn, bool(outward[0] < 0), off,
        float(areas.sum()), spread_out,
    )  # fmt: skip


def _thread(mesh: Mesh, normals: Floats, faces: Indices) -> Thread | None:
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
    )  # fmt: skip


def fit_circle(points: Floats, axis: Floats) -> tuple[Floats, float, float] | None:
    """Fit a circle to (n, 3) points seen along an axis.

    Algebraic least squares (Kåsa 1976) for a start, then Gauss-Newton on the true distances.

    Returns:
        Centre, radius, and the greatest distance of a point from the circle; None for too few points.
    """
    if len(points) < 3:
        return None
    u, v = plane_axes(axis)
    origin = points.mean(axis=0)
    x, y = (points - origin) @ u, (points - origin) @ v
    scale = float(max(np.abs(x).max(), np.abs(y).max())) or 1.0
    x, y = x / scale, y / scale
    system = np.column_stack([2 * x, 2 * y, np.ones(len(x))])
    cx, cy, rest = np.linalg.lstsq(system, x * x + y * y, rcond=None)[0]
    radius = float(np.sqrt(max(rest + cx * cx + cy * cy, 1e-30)))
    for _ in range(4):
        away = np.hypot(x - cx, y - cy)
        if away.min() <= 0:
            return None
        slope = np.column_stack([-(x - cx) / away, -(y - cy) / away, -np.ones(len(x))])
        dx, dy, dr = np.linalg.lstsq(slope, radius - away, rcond=None)[0]
        cx, cy, radius = cx + dx, cy + dy, radius + dr
    off = float(np.abs(np.hypot(x - cx, y - cy) - radius).max())
    return origin + scale * (cx * u + cy * v), radius * scale, off * scale


def plane_axes(normal: Floats) -> tuple[Floats, Floats]:
    """Return two unit vectors square to a unit vector and to each other, along axes where possible."""
    least = np.eye(3)[int(np.abs(normal).argmin())]
    u = np.cross(normal, np.cross(least, normal))
    u = snapped(u)
    return u, snapped(np.cross(normal, u))


def _turn(away: Floats, axis: Floats) -> tuple[float, Indices]:
    """Return how much of a full turn points cover, and their order around, starting after the gap."""
    u, v = plane_axes(axis)
    angle = np.arctan2(away @ v, away @ u)
    order = np.argsort(angle)
    gaps = np.diff(np.append(angle[order], angle[order[0]] + 2 * np.pi))
    widest = int(gaps.argmax())
    # Corners of a full turn leave only the gap of one facet.
    facet = float(np.median(gaps[gaps > 1e-6])) if (gaps > 1e-6).any() else 0.0
    turn = 2 * np.pi if gaps[widest] < max(1.6 * facet, radians(1)) else 2 * np.pi - float(gaps[widest])
    return turn, np.roll(order, -(widest + 1))
