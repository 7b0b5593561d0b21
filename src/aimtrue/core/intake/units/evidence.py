"""This module says what of a file's geometry may tell its unit and its up axis."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.features.circles import circles
from aimtrue.core.mesh.features.planes import slabs
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.source import Evidence, Up, UpGuess

_LOOKED_UP_TO = 300_000
"""Triangles: larger meshes are scans or very fine, and their sizes alone are looked at."""
_MOST = 24


def evidence_of(meshes: list[Mesh]) -> Evidence:
    """Collect lengths, diameters and walls of all bodies of a file."""
    if sum(mesh.triangles for mesh in meshes) > _LOOKED_UP_TO:
        return Evidence(lengths=_distinct([n for mesh in meshes for n in mesh.extents()]), looked="sizes")
    lengths: list[float] = []
    walls: list[float] = []
    diameters: list[float] = []
    for mesh in meshes:
        lengths += mesh.extents().tolist()
        for slab in slabs(mesh):
            steps = np.diff(slab.offsets)
            lengths += [float(slab.offsets[-1] - slab.offsets[0]), *steps.tolist()]
            between = (slab.outward[:-1] < 0) & (slab.outward[1:] > 0)
            walls += steps[between].tolist()
        diameters += [circle.diameter for circle in circles(mesh)]
    return Evidence(lengths=_distinct(lengths), diameters=_distinct(diameters), walls=_distinct(walls))


def _distinct(numbers: list[float]) -> tuple[float, ...]:
    """Each length once, the greatest first."""
    kept: list[float] = []
    for number in sorted((float(n) for n in numbers if n > 0), reverse=True):
        if not kept or kept[-1] - number > 4e-6 * kept[0]:
            kept.append(number)
    return tuple(kept[:_MOST])


def up_guess_of(meshes: list[Mesh]) -> UpGuess | None:
    """Guess which axis points up, from where the flat feet are; None when nothing tells.

    A part is usually modelled standing on a flat face that is its lowest and its largest, often at zero.
    """
    if sum(mesh.triangles for mesh in meshes) > 4 * _LOOKED_UP_TO:
        return None
    low = np.min([mesh.bounds()[0] for mesh in meshes], axis=0)
    high = np.max([mesh.bounds()[1] for mesh in meshes], axis=0)
    size = float((high - low).max())
    if size <= 0:
        return None
    feet = [_foot(meshes, axis, low, size) for axis in range(3)]
    at_zero = [abs(low[axis]) <= 1e-5 * size and high[axis] > 0 for axis in range(3)]
    middle = [abs(low[axis] + high[axis]) <= 1e-4 * size for axis in range(3)]
    names: tuple[Up, Up, Up] = ("x", "y", "z")
    standing = [a for a in range(3) if at_zero[a] and feet[a] > 0 and not middle[a]]
    if len(standing) == 1 and all(middle[a] for a in range(3) if a != standing[0]):
        axis = standing[0]
        return UpGuess(
            up=names[axis], reason=f"it stands on {names[axis].upper()} = 0 and is centred in the other two"
        )
    best = int(np.argmax(feet))
    others = max(feet[a] for a in range(3) if a != best)
    if feet[best] > 0 and feet[best] > 1.5 * others:
        return UpGuess(
            up=names[best], reason=f"its largest flat face is the lowest along {names[best].upper()}"
        )
    return None


def _foot(meshes: list[Mesh], axis: int, low: Floats, size: float) -> float:
    """Area of the faces that lie flat at the low end of an axis and face down."""
    area = 0.0
    for mesh in meshes:
        down = mesh.area_vectors[:, axis] < -1.99 * mesh.areas
        z = mesh.vertices[mesh.faces[down, 0], axis]
        area += float(mesh.areas[down][z - low[axis] <= 1e-5 * size].sum())
    return area
