"""Triangles that bound nothing, set aside when a file is taken in: the original keeps them, no body has
them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Faces, Floats, Mesh, compacted

_FLAT = 4.0
"""A triangle lower than so many spacings of float32 at its place has no area that a file could carry."""


@dataclass(frozen=True, eq=False)
class DiscardResult:
    """A mesh without what bounds nothing.

    Attributes:
        mesh: what is left; it may have no faces.
        empty: how many triangles without area were left out.
        double: how many that are there twice, the same way round.
    """

    mesh: Mesh
    empty: int
    double: int


def set_aside(mesh: Mesh) -> DiscardResult:
    """Leave out triangles with a repeated corner, pieces that have no area anywhere, and second copies.

    A triangle without area that hangs on others by its edges stays: without it they would gape. So does a
    pair back to back, which may be the two sides of what two solids share.
    """
    a, b, c = mesh.faces.T
    proper = (a != b) & (b != c) & (c != a)
    kept = proper.copy()
    if not proper.all() or mesh.sound_shells is None or (mesh.areas == 0).any():
        kept &= ~_second_copies(mesh.faces, proper)
        double = int((proper & ~kept).sum())
        kept &= ~_in_flat_pieces(mesh, kept)
    else:
        double = 0
    if kept.all():
        return DiscardResult(mesh, 0, 0)
    return DiscardResult(compacted(mesh.vertices, mesh.faces[kept]), int((~kept).sum()) - double, double)


def _second_copies(faces: Faces, proper: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which faces have the corners of an earlier one, the same way round."""
    first = faces.argmin(axis=1)[:, None]
    turned = np.take_along_axis(faces, (first + np.arange(3)) % 3, axis=1)
    _, once = np.unique(turned, axis=0, return_index=True)
    second = np.ones(len(faces), dtype=bool)
    second[once] = False
    return second & proper


def _in_flat_pieces(mesh: Mesh, kept: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which faces belong to a piece of which no triangle has any area."""
    label = mesh.topology.shell_of_face
    solid = np.zeros(mesh.topology.shells, dtype=bool)
    solid[label[kept & ~_flat(mesh)]] = True
    return ~solid[label]


def _flat(mesh: Mesh) -> NDArray[np.bool_]:
    corners = mesh.vertices[mesh.faces]
    sides: Floats = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2).max(axis=1)
    grain = np.spacing(np.abs(corners).max(axis=(1, 2)).astype(np.float32)).astype(np.float64)
    return np.asarray(2 * mesh.areas <= _FLAT * grain * sides)
