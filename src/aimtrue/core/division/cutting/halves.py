"""A closed mesh cut by a plane into two that are closed: quick where no corner lies in the plane.

Only triangles that cross the plane are touched; corners are shared between all parts until they are done.
Every new corner is on one edge, and so of two triangles: the section is closed loops that do not touch
themselves. Where a corner lies in the plane, :func:`parted` answers nothing, and the library of solids takes
over.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.division.cutting.loop_filling import filled
from aimtrue.core.division.cutting.solids import basis_of
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.model.shaping import Plane

Faces = NDArray[np.int32]
_LEAN = 4
HAIR = 1e-8
"""Of the size: so far beside a flat face it is cut, not in it; less than numbers of a file tell apart."""
_NEAR = 1e-9
"""Of the size: a corner nearer to a plane than this lies in it."""


@dataclass(frozen=True, eq=False)
class FaceGroup:
    """Some faces over corners that other parts have, too."""

    vertices: Floats
    faces: Faces

    @property
    def mesh(self) -> Mesh:
        """Return it as a mesh of its own."""
        return compacted(self.vertices, self.faces)

    @property
    def lean(self) -> FaceGroup:
        """Return it without most of the corners that are others' alone, where those are by far the most."""
        if len(self.vertices) < _LEAN * len(self.faces):
            return self
        mesh = self.mesh
        return FaceGroup(mesh.vertices, mesh.faces)


class Halves(NamedTuple):
    """What of a part is on either side of a plane; None where nothing is."""

    above: FaceGroup | None
    below: FaceGroup | None


def parted(part: FaceGroup, plane: Plane, *, gaping: bool = False) -> Halves | None:
    """Return what of a closed part is above a plane and what is below, both closed.

    Args:
        part: closed, unless it is ``gaping``.
        plane: that it is cut by.
        gaping: whether it may be open. Then loops of the section that close are filled, and a corner in the
            plane counts as above it; there is always an answer.

    Returns:
        None of the two where nothing is on that side; None at all where a corner lies in the plane, or the
        section cannot be filled.
    """
    rows = basis_of(np.asarray(plane.normal))
    away = part.vertices @ rows[2] - plane.at
    if not gaping and np.abs(away).min() <= _NEAR * np.abs(part.vertices).max():
        return None
    above = away >= 0 if gaping else away > 0
    a, b, c = (above[part.faces[:, k]] for k in range(3))
    count = a.view(np.int8) + b.view(np.int8) + c.view(np.int8)
    crossing = np.flatnonzero((count == 1) | (count == 2))
    if not len(crossing):
        return Halves(part, None) if count[0] == 3 else Halves(None, part)
    over = np.stack([a[crossing], b[crossing], c[crossing]], axis=1)
    lone, kept, vertices, segments = _crossed(part, crossing, over, count[crossing] == 1, away)
    loops = loops_of(segments, gaping=gaping)
    cap = None if loops is None else _filled(vertices, loops, rows)
    if cap is None:
        return None
    alone_above = count[crossing] == 1
    upper = np.concatenate(
        [part.faces[count == 3], lone[alone_above], *(side[~alone_above] for side in kept), cap[:, ::-1]]
    )
    lower = np.concatenate(
        [part.faces[count == 0], lone[~alone_above], *(side[alone_above] for side in kept), cap]
    )
    return Halves(FaceGroup(vertices, upper.astype(np.int32)), FaceGroup(vertices, lower.astype(np.int32)))


def off_faces(vertices: Floats, faces: Faces, plane: Plane) -> Plane | None:
    """Return a plane that lies in flat faces a hair off them, on the side where there is no material.

    Cut just there, nothing without a thickness is left of them. None where some of them face up and others
    down: then there is material on either side; and where only corners are in it.
    """
    normal = np.asarray(plane.normal)
    away = vertices @ normal - plane.at
    on = np.abs(away) <= _NEAR * np.abs(vertices).max()
    flat = faces[on[faces].all(axis=1)]
    a, b, c = (vertices[flat[:, k]] for k in range(3))
    ways = np.cross(b - a, c - a) @ normal
    if bool((ways > 0).any()) == bool((ways < 0).any()):
        return None
    hair = max(HAIR * float(np.ptp(vertices, axis=0).max()), 4 * _NEAR * float(np.abs(vertices).max()))
    return plane.model_copy(update={"at": plane.at + (-hair if (ways < 0).any() else hair)})


def _crossed(
    part: FaceGroup,
    crossing: NDArray[np.int64],
    over: NDArray[np.bool_],
    above: NDArray[np.bool_],
    away: Floats,
) -> tuple[Faces, tuple[Faces, Faces], Floats, NDArray[np.int64]]:
    """Divide the triangles that cross a plane.

    Returns:
        The triangle with the lone corner of each; the two with the others; all corners; and (k, 2) the
        sections, in the direction in which the cap of what is below runs.
    """
    # The corner that is alone on its side comes first.
    first = np.where(over == above[:, None], 1, 0).argmax(axis=1)
    order = (first[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(part.faces[crossing].astype(np.int64), order, axis=1).T
    many = len(part.vertices)
    ends = np.sort(np.stack([np.concatenate([a, c]), np.concatenate([b, a])], axis=1), axis=1)
    keys, which = np.unique(ends[:, 0] * many + ends[:, 1], return_inverse=True)
    low, high = keys // many, keys % many
    share = (away[low] / (away[low] - away[high]))[:, None]
    new = part.vertices[low] + share * (part.vertices[high] - part.vertices[low])
    vertices = np.concatenate([part.vertices, new])
    p, q = which[: len(a)] + many, which[len(a) :] + many
    lone = np.stack([a, p, q], axis=1)
    rest = (np.stack([p, b, c], axis=1), np.stack([p, c, q], axis=1))
    start, end = np.where(above, p, q), np.where(above, q, p)
    return lone, rest, vertices, np.stack([start, end], axis=1)


def _filled(vertices: Floats, loops: list[list[int]], rows: Floats) -> Faces:
    """Fill the loops of a section, facing along the plane's normal."""
    if not loops:
        return np.empty((0, 3), np.int32)
    flat = [vertices[loop] @ rows[:2].T for loop in loops]
    numbers = np.concatenate([np.asarray(loop) for loop in loops])
    return np.asarray(numbers[filled(flat)], np.int32)


def loops_of(segments: NDArray[np.int64], *, gaping: bool = False) -> list[list[int]] | None:
    """Return the loops that (k, 2) directed segments make.

    None where they do not close, or branch; ``gaping``, those that close, whatever the others do.
    """
    following = dict(segments.tolist())
    if len(following) != len(segments) and not gaping:
        return None
    loops: list[list[int]] = []
    while following:
        start, at = following.popitem()
        loop = [start]
        while at != start:
            loop.append(at)
            if at not in following:
                break
            at = following.pop(at)
        if at == start and len(loop) > 2:
            loops.append(loop)
        elif not gaping:
            return None
    return loops
