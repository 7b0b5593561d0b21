"""Hollows: the surface a wall's thickness inside a body, and drains into it.

The surface is found on a grid of signed distances (marching cubes, Lorensen and Cline 1987), then every
corner of it is moved along its shortest way to the outside until it is a wall's thickness away. How thick the
wall came out is measured on what was made, not taken from the grid.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import scipy
from numpy.typing import NDArray

from aimtrue.core.division.cutting.pieces import parts_of
from aimtrue.core.division.cutting.solids import basis_of, closed_solid, distances, is_inside, turned
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.lengths import parse_length, written
from aimtrue.core.model.shaping import Drain
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_PER_WALL = 4.0
"""Cells across a wall, unless the grid would be too large."""
_MOST_CELLS = 6_000_000
_COARSE = 4
"""Of the fine cells: distances far from the wall are taken from a grid so much coarser."""
_MOVES = 4
_NEAR = 0.02
"""Of the body's size: a mouth that is typed farther from its surface is a slip of the key."""
_SPECK = 1e-3
"""Of the largest: a hollow under this share of it is left full."""
_SIDES = 48
_UPRIGHT = np.eye(3)


@dataclass(frozen=True)
class Wall:
    """A wall as it came out, in mm: asked for, least and greatest."""

    asked: float
    least: float
    greatest: float


def spacing_for(bounds: Floats, wall: float) -> float:
    """Return the spacing of the grid, in mm: a quarter of the wall, or as fine as a grid may be."""
    size = bounds[1] - bounds[0]
    return float(max(wall / _PER_WALL, (np.prod(size) / _MOST_CELLS) ** (1 / 3)))


def hollow_in(mesh: Mesh, wall: float, spacing: float) -> manifold3d.Manifold:
    """Return what is farther inside a body than a wall's thickness, as a solid.

    Args:
        mesh: closed, in mm.
        wall: thickness in mm.
        spacing: of the grid, in mm.

    Raises:
        Refused: there is nothing, since the wall is thicker than the part leaves.
    """
    import igl

    if not wall > 0:
        raise Refused("wall", f"a wall of {written(wall)} mm is none", remedy="type for example 2")
    distance, points, counts = _grid(mesh, wall, spacing)
    grid_surface = igl.marching_cubes(distance + wall, points, *counts, 0.0)
    vertices, faces = np.asarray(grid_surface[0]), np.asarray(grid_surface[1]).astype(np.int32)
    solid = _solid_of(vertices, faces, mesh, wall) if len(faces) else None
    if solid is None:
        raise Refused(
            "wall-thick",
            f"walls of {written(wall)} mm fill the part: there is no room left for a hollow",
            remedy="type a thinner wall",
        )
    parts = parts_of(mesh_of(solid))
    most = max(part.volume() for part in parts)
    large = [closed_solid(part, "a hollow") for part in parts if part.volume() > _SPECK * most]
    return manifold3d.Manifold.batch_boolean(large, manifold3d.OpType.Add)


def _solid_of(
    vertices: Floats, faces: NDArray[np.int32], mesh: Mesh, wall: float
) -> manifold3d.Manifold | None:
    """What a surface found on the grid bounds once it is at the wall; None of one that bounds nothing."""
    inner = compacted(vertices, faces)
    inner = Mesh(_at_wall(inner.vertices, mesh, wall), inner.faces)
    if inner.volume() < 0:
        inner = Mesh(inner.vertices, np.ascontiguousarray(inner.faces[:, ::-1]))
    solid = solid_of(inner) if inner.volume() > _SPECK**2 * mesh.volume() else None
    if solid is None:
        return None
    # Behind a flat face the grid leaves thousands of facets in one plane, of which a few say as much.
    return solid.simplify(float(np.spacing(np.float32(np.abs(mesh.vertices).max()))) / 4)


def _grid(mesh: Mesh, wall: float, spacing: float) -> tuple[Floats, Floats, tuple[int, int, int]]:
    """Signed distances on a grid, X fastest, exact near the wall: (k,), with the (k, 3) points and the
    counts.
    """
    low, high = mesh.bounds()
    counts = np.ceil((high - low) / spacing / _COARSE).astype(int) * _COARSE + 1
    axes = [low[k] + spacing * np.arange(counts[k]) for k in range(3)]
    # A distance changes no faster than the place: so far may one between coarse places be off.
    off = _COARSE * spacing * np.sqrt(3) / 2
    # Every coarse place around one that is at the wall is within it and a cell's diagonal of the surface.
    coarse = _signed(mesh, [axis[::_COARSE] for axis in axes], wall + 2 * off)
    shares = [np.arange(n) / _COARSE for n in counts]
    where = np.stack(np.meshgrid(*shares, indexing="ij")).reshape(3, -1)
    distance = scipy.ndimage.map_coordinates(coarse, where, order=1)
    points = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
    near = np.flatnonzero(np.abs(distance + wall) < off)
    distance[near] = _inward(mesh, points[near], wall, off)
    x_fastest = np.arange(len(points)).reshape(counts).transpose(2, 1, 0).ravel()
    x, y, z = counts.tolist()
    return distance[x_fastest], np.ascontiguousarray(points[x_fastest]), (x, y, z)


def _inward(mesh: Mesh, points: Floats, wall: float, off: float) -> Floats:
    """Signed distances of points that are known to be within ``off`` of a wall's depth.

    One that is nearer to the surface than the wall is in the wall, or outside; which makes no difference. One
    that is farther than ``off`` cannot be outside. The sign of the others is asked.
    """
    import igl

    away = -distances(points, mesh)
    open_ones = np.flatnonzero((-away >= wall) & (-away <= off))
    if len(open_ones):
        turns = igl.fast_winding_number(
            mesh.vertices, mesh.faces.astype(np.int64), np.ascontiguousarray(points[open_ones])
        )
        outside = open_ones[np.asarray(turns) < 0.5]
        away[outside] = -away[outside]
    return away


def _signed(mesh: Mesh, axes: Sequence[Floats], deep: float) -> Floats:
    """Signed distances on a grid: exact up to ``deep`` mm from the surface, farther away at least that.

    Far from a surface the nearest of its triangles is slow to find. That no corner is near is not, and the
    nearest corner is at most an edge's length over the square root of three farther than the surface.
    """
    import igl

    points = np.ascontiguousarray(np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3))
    corners = mesh.vertices[mesh.faces]
    longest = float(np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max())
    reach = deep + longest / np.sqrt(3)
    nearest, _ = scipy.spatial.KDTree(mesh.vertices).query(points, distance_upper_bound=reach, workers=-1)
    near = np.flatnonzero(np.isfinite(nearest))
    away = np.full(len(points), reach)
    away[near] = distances(points[near], mesh)
    turns = igl.fast_winding_number(mesh.vertices, mesh.faces.astype(np.int64), points)
    signed = np.where(np.asarray(turns) > 0.5, -away, away)
    return np.asarray(signed.reshape([len(axis) for axis in axes]))


def _at_wall(points: Floats, mesh: Mesh, wall: float) -> Floats:
    """Move points inside until they are a wall's thickness from the surface."""
    import igl

    faces = mesh.faces.astype(np.int64)
    for _ in range(_MOVES):
        points = np.ascontiguousarray(points)
        squared, _, feet = igl.point_mesh_squared_distance(points, mesh.vertices, faces)
        away = np.sqrt(np.maximum(np.asarray(squared), 1e-300))
        if np.abs(away - wall).max() < 1e-9 * wall:
            break
        points = points + (points - np.asarray(feet)) * ((wall - away) / away)[:, None]
    return np.asarray(points)


def measured_wall(mesh: Mesh, hollow: Mesh, asked: float) -> Wall:
    """Return how thick a wall came out: from corners, sides and places all over the hollow's facets to the
    outside.
    """
    starts, ends = hollow.faces, np.roll(hollow.faces, -1, axis=1)
    once = starts < ends  # On a closed surface each edge is in two faces, once in either direction.
    sides = (hollow.vertices[starts[once]] + hollow.vertices[ends[once]]) / 2
    corners = hollow.vertices[hollow.faces]
    middles = corners.mean(axis=1)
    # Halfway between the middle of a facet and each of its corners: over a rounded edge the wall is
    # thickest there.
    between = ((corners + middles[:, None]) / 2).reshape(-1, 3)
    points = np.concatenate([hollow.vertices, middles, between, sides])
    away = distances(points, mesh)
    return Wall(asked, float(away.min()), float(away.max()))


def drain_sizes(typed: Sequence[str], places: int) -> list[float]:
    """Return the diameters of drains in mm, as many as places were picked, or as were typed.

    Args:
        typed: each a length, ``4 mm``, or several, ``4; 5``. The last holds for the places that are left.
        places: how many were picked.
    """
    texts = [part for text in typed for part in re.split(r";|(?<=\d)\s+(?=[\d.])", text) if part.strip()]
    sizes = [parse_length(text) for text in texts]
    return sizes + sizes[-1:] * (places - len(sizes))


def drains_for(
    mesh: Mesh,
    hollow: manifold3d.Manifold,
    diameters: Sequence[float],
    wall: float,
    places: Sequence[Vec3 | None] = (),
    down: Vec3 = (0.0, 0.0, -1.0),
) -> tuple[Drain, ...]:
    """Place drains: square into the surface at the places that are told, else at the lowest of the hollows.

    Of those without a place the first goes to the lowest place, straight down; each other to a hollow that
    has none yet, else to the low place that is farthest from those before it.

    Args:
        mesh: the body in mm.
        hollow: in it.
        diameters: of the drains, in mm.
        wall: between the two, in mm.
        places: on or near the surface, by number of drain.
        down: unit vector, which way is down as the body will stand.

    Raises:
        Refused: a drain is no hole, is wider than the hollow is, or does not meet it.
    """
    drain_places = [*places, *(None,) * (len(diameters) - len(places))]
    drains = {
        number: drain_at(mesh, hollow, place, diameters[number], wall)
        for number, place in enumerate(drain_places[: len(diameters)])
        if place is not None
    }
    free = [number for number in range(len(diameters)) if number not in drains]
    rows = _UPRIGHT if down == (0.0, 0.0, -1.0) else basis_of(-np.asarray(down))
    lowest = _lowest(
        Mesh(mesh.vertices @ rows.T, mesh.faces),
        turned(hollow, rows),
        [diameters[pick] for pick in free],
        wall,
    )
    for number, drain in zip(free, lowest, strict=True):
        drains[number] = drain.model_copy(
            update={"point": as_vec3(np.asarray(drain.point) @ rows), "direction": as_vec3(rows[2])}
        )
    return tuple(drains[number] for number in range(len(diameters)))


def drain_at(mesh: Mesh, hollow: manifold3d.Manifold, place: Vec3, diameter: float, wall: float) -> Drain:
    """Return a drain square into the surface where it is nearest to a place.

    Raises:
        Refused: going in there it does not meet the hollow.
    """
    import igl

    faces = mesh.faces.astype(np.int64)
    nearest = igl.point_mesh_squared_distance(np.asarray(place)[None], mesh.vertices, faces)
    away = float(np.sqrt(max(float(np.ravel(nearest[0])[0]), 0.0)))
    if away > max(2 * wall, _NEAR * float(mesh.extents().max())):
        where = ", ".join(written(number) for number in place)
        raise Refused(
            "drain",
            f"a drain at {where} is {written(away)} mm from the body",
            remedy="type a place on its surface",
        )
    face, point = int(np.ravel(nearest[1])[0]), np.ravel(nearest[2])
    inward = -mesh.area_vectors[face] / max(2 * float(mesh.areas[face]), 1e-300)
    deep = np.arange(0.5, 40) * wall / 4
    along = point + deep[:, None] * inward
    void = mesh_of(hollow)
    met = np.flatnonzero(is_inside(void, along)) if diameter > 0 else np.empty(0, int)
    if not len(met):
        raise Refused(
            "drain",
            f"a drain of {written(diameter)} mm going in there does not meet the hollow",
            remedy="pick another place, where the wall is as thick as was asked",
        )
    drain = Drain(
        point=as_vec3(point), direction=as_vec3(inward), diameter=diameter, depth=float(deep[met[0]])
    )
    _refuse_through(mesh, drain)
    return drain


def _refuse_through(mesh: Mesh, drain: Drain) -> None:
    """Refuse a drain that would come out of the body again beside its mouth.

    Raises:
        Refused: from where it has met the hollow on, its side is outside of the body somewhere.
    """
    rows = basis_of(np.asarray(drain.direction))
    angles = 2 * np.pi * np.arange(_SIDES) / _SIDES
    ring = drain.diameter / 2 * (np.cos(angles)[:, None] * rows[0] + np.sin(angles)[:, None] * rows[1])
    heights = drain.depth + np.linspace(0, drain.diameter / 2, 4)
    side = np.asarray(drain.point) + heights[:, None, None] * rows[2] + ring
    if not is_inside(mesh, side.reshape(-1, 3)).all():
        raise Refused(
            "drain",
            f"a drain of {written(drain.diameter)} mm would come out of the body beside its mouth",
            remedy="type a smaller one, or pick another place",
        )


def _lowest(
    mesh: Mesh, hollow: manifold3d.Manifold, diameters: Sequence[float], wall: float
) -> tuple[Drain, ...]:
    """Drains straight down from the lowest places of hollows, as the body lies."""
    parts = sorted(parts_of(mesh_of(hollow)), key=lambda part: part.bounds()[0, 2])
    drains: list[Drain] = []
    for number, diameter in enumerate(diameters):
        part = parts[number] if number < len(parts) else parts[0]
        low, high = part.bounds()
        if not 0 < diameter < min(high[0] - low[0], high[1] - low[1]):
            raise Refused(
                "drain",
                f"a drain of {written(diameter)} mm does not go into the hollow",
                remedy="type a smaller one, for example 3",
            )
        drain = _drain(mesh, part, diameter, wall, drains)
        _refuse_through(mesh, drain)
        drains.append(drain)
    return tuple(drains)


def _drain(mesh: Mesh, part: Mesh, diameter: float, wall: float, before: Sequence[Drain]) -> Drain:
    radius = diameter / 2
    low, high = part.bounds()[:, 2]
    places = np.concatenate([part.vertices, part.vertices[part.faces].mean(axis=1)])
    places = places[places[:, 2] <= low + max(radius, 0.05 * (high - low))]
    # Over its mouth there must be room for all of it, or it would eat into a wall beside it.
    room = distances(places + np.array([0.0, 0.0, radius]), mesh) - wall
    good = room >= min(0.95 * radius, float(room.max()))
    places = places[good]
    lowest = places[places[:, 2] <= places[:, 2].min() + 1e-6 + 0.02 * radius]
    if before:
        apart = [np.linalg.norm(places[:, :2] - drain.point[:2], axis=1) for drain in before]
        place = places[int(np.min(apart, axis=0).argmax())]
    else:
        place = lowest[int(np.linalg.norm(lowest - lowest.mean(axis=0), axis=1).argmin())]
    bottom = _below(mesh, place)
    return Drain(
        point=as_vec3(np.array([place[0], place[1], bottom])),
        direction=(0.0, 0.0, 1.0),
        diameter=diameter,
        depth=float(place[2] - bottom),
    )


def _below(mesh: Mesh, place: Floats) -> float:
    """The height of the surface straight below a place inside."""
    corners = mesh.vertices[mesh.faces]
    a, b, c = (corners[:, k, :2] - place[:2] for k in range(3))
    sides = np.stack([u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0] for u, v in ((b, c), (c, a), (a, b))], axis=1)
    whole = sides.sum(axis=1)
    hit = (np.abs(whole) > 0) & (((sides >= 0).all(axis=1)) | ((sides <= 0).all(axis=1)))
    heights = (sides[hit] / whole[hit, None] * corners[hit, :, 2]).sum(axis=1)
    under = heights[heights < place[2]]
    return float(under.max()) if len(under) else float(mesh.bounds()[0, 2])


def drilled(solid: manifold3d.Manifold, drains: Sequence[Drain], wall: float) -> manifold3d.Manifold:
    """Return a hollow solid with its drains."""
    for drain in drains:
        rows = basis_of(np.asarray(drain.direction))
        radius = drain.diameter / 2
        rod = manifold3d.Manifold.cylinder(drain.depth + wall + radius, radius, radius, _SIDES)
        # From outside the surface to its own radius into the hollow.
        rod = turned(rod.translate((0.0, 0.0, -wall)), rows.T).translate(drain.point)
        solid = solid - rod
    return solid
