"""A solid cut by planes: closed pieces that add up to the whole, each with its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import manifold3d
import numpy as np

from aimtrue.core.division.cutting.halves import FaceGroup, Halves, off_faces, parted
from aimtrue.core.division.cutting.planes import (
    axis_of,
    letter_of,
    refuse_alike,
    refuse_later,
    refuse_missing,
    sides_said,
)
from aimtrue.core.division.cutting.solids import NOTHING, closed_solid
from aimtrue.core.errors import Refused
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.shaping import Plane

MANY = 100
"""More pieces are made only if that is said to be meant."""
MOST = 2000
"""At most this many pieces are made."""
Cell = tuple[bool | None, ...]
_SLIVER = 0.01
"""Of the piece in the middle of all by volume: a piece under this share of it is a sliver."""
_ORDERED = (2, 1, 0)
"""Pieces are numbered from the bottom up, then front to back, then left to right."""
_WORDS = (
    (("left", "right"), ("left", "centre", "right"), "column"),
    (("front", "back"), ("front", "mid", "back"), "row"),
    (("lower", "upper"), ("lower", "middle", "upper"), "level"),
)


@dataclass(frozen=True, eq=False)
class Piece:
    """One piece, in mm: a mesh or a solid, the other made when it is asked for.

    Attributes:
        made: as it came about; closed.
        cell: per plane, whether it is above it; None where that plane is limited to others.
        place: in words, such as "lower left front".
        sliver: whether it is small against the others.
    """

    made: Mesh | manifold3d.Manifold
    cell: Cell
    place: str = ""
    sliver: bool = False

    @cached_property
    def mesh(self) -> Mesh:
        """Return it as a mesh."""
        return self.made if isinstance(self.made, Mesh) else mesh_of(self.made)

    @cached_property
    def solid(self) -> manifold3d.Manifold:
        """Return it as a solid."""
        return closed_solid(self.made, self.place or "a piece") if isinstance(self.made, Mesh) else self.made

    @cached_property
    def volume(self) -> float:
        """Its volume in mm³; of an open one that of its surface, which bounds none."""
        return float(self.made.volume())


def cut_by(
    whole: Mesh | manifold3d.Manifold,
    planes: Sequence[Plane],
    tell: Callable[[float, str], None] = lambda share, says: None,
    most: int = MANY,
    *,
    gaping: bool = False,
) -> list[Piece]:
    """Cut a closed solid by planes.

    Args:
        whole: in mm, closed; an open mesh where it may be ``gaping``.
        planes: none of which miss it, or what it is limited to, and no two of which coincide.
        tell: told how far it is.
        most: pieces that are meant to come of it.
        gaping: whether it may be open; then it is cut as a surface, and what is open stays so.

    Returns:
        The pieces, numbered from the bottom up, front to back, left to right. What does not hang together is
        several pieces. Their volumes add up to that of the whole.

    Raises:
        Refused: a plane misses the solid, two are the same, or there would be more pieces than are meant.
    """
    _refuse_many(len(planes) + 1, most)
    refuse_alike(planes)
    refuse_later(planes)
    mesh = whole if isinstance(whole, Mesh) else mesh_of(whole)
    refuse_missing(planes, mesh.vertices)
    cells: list[tuple[Cell, FaceGroup]] = [((), FaceGroup(mesh.vertices, mesh.faces))]
    for number, plane in enumerate(planes):
        tell(number / (len(planes) + 1), f"cutting at {letter_of(number)}")
        before = len(cells)
        cells = [each for cell, face_group in cells for each in _divided(cell, face_group, plane, gaping)]
        if plane.only and len(cells) == before:
            raise Refused(
                "plane-misses",
                f"plane {letter_of(number)} misses what is {sides_said(plane.only)}",
                remedy="move it, or let it cut everything",
            )
        _refuse_many(len(cells), most)
    tell(len(planes) / (len(planes) + 1), "looking the pieces over")
    least = NOTHING * mesh.volume()
    pieces = [
        Piece(part, cell)
        for cell, face_group in cells
        for part in parts_of(face_group.mesh)
        if gaping or part.volume() > least
    ]
    _refuse_many(len(pieces), most)
    sizes = [piece.mesh.area() if gaping else piece.volume for piece in pieces]
    return _placed(pieces, planes, sizes)


def _divided(cell: Cell, part: FaceGroup, plane: Plane, gaping: bool) -> list[tuple[Cell, FaceGroup]]:
    """What comes of what is in a cell; the same, where the plane is limited to others."""
    if any(cell[side.plane] is not side.above for side in plane.only):
        return [((*cell, None), part)]
    halves = zip((True, False), _halves(part, plane, gaping), strict=True)
    return [((*cell, above), half.lean) for above, half in halves if half is not None]


def _halves(part: FaceGroup, plane: Plane, gaping: bool) -> Halves:
    """What is above a plane and what is below, by the quick way where it goes, else as solids."""
    quick = parted(part, plane, gaping=gaping)
    if quick is None and (beside := off_faces(part.vertices, part.faces, plane)) is not None:
        quick = parted(part, beside)
    if quick is not None:
        return quick
    upper, lower = closed_solid(part.mesh, "a piece").split_by_plane(plane.normal, plane.at)
    return Halves(_part_of(upper), _part_of(lower))


def _part_of(solid: manifold3d.Manifold) -> FaceGroup | None:
    if solid.is_empty():
        return None
    mesh = mesh_of(solid)
    return FaceGroup(mesh.vertices, mesh.faces)


def _refuse_many(count: int, most: int) -> None:
    if count > min(most, MOST):
        meant = "use fewer planes" if most >= MOST else "use fewer planes, or say that so many are meant"
        raise Refused(
            "pieces-many",
            f"that would be {count:,} pieces or more, and {min(most, MOST):,} at most are made",
            remedy=meant,
        )


def parts_of(mesh: Mesh) -> list[Mesh]:
    """Return what hangs together of a closed mesh, voids with what is around them."""
    return [separated_body.mesh for separated_body in separate(mesh)]


def _placed(pieces: list[Piece], planes: Sequence[Plane], sizes: list[float]) -> list[Piece]:
    """Number pieces, and name their places; by their sizes tell which are slivers."""
    middles = [piece.mesh.bounds().mean(axis=0) for piece in pieces]
    slots = [_slots(piece.cell, planes)[0] for piece in pieces]
    order = sorted(
        range(len(pieces)),
        key=lambda i: ([slots[i][axis] for axis in _ORDERED], [middles[i][axis] for axis in _ORDERED]),
    )
    middle = float(np.median(sizes))
    return [
        replace(
            pieces[i],
            place=place_of(pieces[i].cell, planes),
            sliver=sizes[i] < _SLIVER * middle,
        )
        for i in order
    ]


def _slots(cell: Cell, planes: Sequence[Plane]) -> tuple[list[int], list[int]]:
    """Per axis, how many of the planes square to it a cell is above, and into how many they divide it."""
    slots, counts = [0, 0, 0], [1, 1, 1]
    for plane, above in zip(planes, cell, strict=False):
        axis = axis_of(plane)
        if axis is not None and above is not None:
            slots["xyz".index(axis)] += above
            counts["xyz".index(axis)] += 1
    return slots, counts


def place_of(cell: Cell, planes: Sequence[Plane]) -> str:
    """Name a cell by its place, such as "lower left front"; of the first planes, where it has no more."""
    slots, counts = _slots(cell, planes)
    words = [_word(axis, slots[axis], counts[axis]) for axis in (2, 0, 1) if counts[axis] > 1]
    for number, (plane, above) in enumerate(zip(planes, cell, strict=False)):
        if axis_of(plane) is None and above is not None:
            words.append(f"{'above' if above else 'below'} {letter_of(number)}")
    return " ".join(words)


def _word(axis: int, slot: int, count: int) -> str:
    two, three, many = _WORDS[axis]
    if count <= 3:
        return (two if count == 2 else three)[slot]
    return f"{many} {slot + 1}"
