"""Cutting, seams and hollows beside a general library doing the same work."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
import trimesh

from aimtrue.core.division.cutting import hollow
from aimtrue.core.division.cutting.pieces import cut_by
from aimtrue.core.division.cutting.planes import across, evenly
from aimtrue.core.division.cutting.seams import seams_of
from aimtrue.core.division.cutting.solids import closed_solid
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.value import AXES
from benchmarks.shapes import wavy_sphere

_MANY = 500_000
_HOLLOWED = 200_000
_WALL = 2.0
_RADIUS = 50.0


def division(triangles: int) -> int:
    """Print a table: times, their ratios, and whether what came of it is closed."""
    print(f"{'work':<58}{'ours':>10}{'theirs':>10}{'ratio':>8}  closed: ours, theirs; volumes off by")
    whole = wavy_sphere(triangles)
    low, high = whole.bounds()[:, 2].tolist()
    at = low + 0.37 * (high - low)
    _row(
        f"one plane through {whole.triangles} triangles",
        lambda: _ours(whole, (across("z", at),)),
        lambda: _theirs(whole, [([0, 0, 1], [0, 0, at])]),
    )
    smaller = wavy_sphere(_MANY)
    ends = smaller.bounds()
    low, high = ends.tolist()
    grid = [plane for k, axis in enumerate(AXES) for plane in evenly(axis, low[k], high[k], 3)]
    _row(
        f"3 x 3 x 3 pieces of {smaller.triangles} triangles",
        lambda: _ours(smaller, tuple(grid)),
        lambda: _theirs(smaller, [(plane.normal, np.multiply(plane.normal, plane.at)) for plane in grid]),
    )
    _row(f"seams of {whole.triangles} triangles", lambda: _seams(whole))
    ball = wavy_sphere(_HOLLOWED)
    ball = ball.mapped(lambda points: points * (_RADIUS / float(np.abs(points).max())))
    _row(f"hollow of {ball.triangles} triangles, 100 mm, wall 2", lambda: _hollow(ball))
    return 0


Outcome = tuple[str, float]
"""Whether all of it is closed, and how far volumes are from the whole."""


def _fresh(mesh: Mesh) -> Mesh:
    """A mesh of which nothing is known yet."""
    return Mesh(mesh.vertices, mesh.faces)


def _ours(mesh: Mesh, planes: tuple[Any, ...]) -> Outcome:
    whole = _fresh(mesh)
    pieces = [piece.mesh for piece in cut_by(whole, planes)]
    closed = whole.topology.closed and all(piece.topology.closed for piece in pieces)
    off = abs(sum(piece.volume() for piece in pieces) - mesh.volume()) / mesh.volume()
    return f"{len(pieces)} pieces, {'all closed' if closed else 'NOT CLOSED'}", off


def _theirs(mesh: Mesh, planes: list[tuple[Any, Any]]) -> Outcome:
    pieces = [trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)]
    for normal, origin in planes:
        halves = []
        for piece in pieces:
            for way in (1, -1):
                half = trimesh.intersections.slice_mesh_plane(  # type: ignore[no-untyped-call]
                    piece, np.multiply(normal, way), origin, cap=True
                )
                if len(half.faces):
                    halves.append(half)
        pieces = halves
    closed = sum(piece.is_watertight for piece in pieces)
    off = abs(sum(piece.volume for piece in pieces) - mesh.volume()) / mesh.volume()
    return f"{closed} of {len(pieces)}", off


def _seams(mesh: Mesh) -> Outcome:
    found, _ = seams_of(_fresh(mesh), "z")
    return f"{len(found)} seams", 0.0


def _hollow(mesh: Mesh) -> Outcome:
    spacing = hollow.spacing_for(mesh.bounds(), _WALL)
    void = hollow.hollow_in(_fresh(mesh), _WALL, spacing)
    made = closed_solid(mesh, "it") - void
    wall = hollow.measured_wall(mesh, mesh_of(void), _WALL)
    off = abs(made.volume() + void.volume() - mesh.volume()) / mesh.volume()
    return f"wall {wall.least:.3f} to {wall.greatest:.3f}", off


def _row(says: str, ours: Callable[[], Outcome], theirs: Callable[[], Outcome] | None = None) -> None:
    mine, took = _timed(ours)
    if theirs is None:
        print(f"{says:<58}{took:>8.2f} s{'':>10}{'':>8}  {mine[0]}; {mine[1]:.1e}")
        return
    try:
        other, their = _timed(theirs)
        told, ratio = f"{other[0]} closed; {other[1]:.1e}", f"{their / took:>7.1f}x"
        print(f"{says:<58}{took:>8.2f} s{their:>8.2f} s{ratio}  {mine[0]}; {mine[1]:.1e} / {told}")
    except Exception as error:  # told, not hidden: it is part of the comparison  # noqa: BLE001 - whatever it is, it is told
        print(f"{says:<58}{took:>8.2f} s{'failed':>10}{'':>8}  {mine[0]}; {mine[1]:.1e} / {error!r:.90}")


def _timed(work: Callable[[], Outcome]) -> tuple[Outcome, float]:
    started = time.perf_counter()
    made = work()
    return made, time.perf_counter() - started
