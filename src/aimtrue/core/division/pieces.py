"""A solid cut by planes: closed pieces that add up to the whole, each with its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import manifold3d
import numpy as np

from aimtrue.core.division.halves import Part, parted
from aimtrue.core.division.planes import axis_of, letter_of, refuse_alike, refuse_missing
from aimtrue.core.division.solids import NOTHING, closed_solid
from aimtrue.core.errors import Refused
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.shaping import Plane

MOST = 400
"""So many pieces are made at most; asking for more is a slip."""
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
        cell: per plane, whether it is above it.
        place: in words, such as "lower left front".
        sliver: whether it is small against the others.
    """

    made: Mesh | manifold3d.Manifold
    cell: tuple[bool, ...]
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
        """Its volume in mm³."""
        return float(self.made.volume())


def cut_by(
    whole: Mesh | manifold3d.Manifold,
    planes: Sequence[Plane],
    tell: Callable[[float, str], None] = lambda share, says: None,
) -> list[Piece]:
    """Cut a closed solid by planes.

    Args:
        whole: in mm, closed.
        planes: none of which miss it, and no two of which coincide.
        tell: told how far it is.

    Returns:
        The pieces, numbered from the bottom up, front to back, left to right. What does not hang together is
        several pieces. Their volumes add up to that of the whole.

    Raises:
        Refused: a plane misses the solid, two are the same, or there would be hundreds of pieces.
    """
    _refuse_many(len(planes) + 1)
    refuse_alike(planes)
    mesh = whole if isinstance(whole, Mesh) else mesh_of(whole)
    refuse_missing(planes, mesh.vertices)
    cells: list[tuple[tuple[bool, ...], Part]] = [((), Part(mesh.vertices, mesh.faces))]
    for number, plane in enumerate(planes):
        tell(number / (len(planes) + 1), f"cutting at {letter_of(number)}")
        cells = [
            ((*cell, above), half)
            for cell, one in cells
            for above, half in zip((True, False), _halves(one, plane), strict=True)
            if half is not None
        ]
        _refuse_many(len(cells))
    tell(len(planes) / (len(planes) + 1), "looking the pieces over")
    least = NOTHING * mesh.volume()
    found = [Piece(part, cell) for cell, one in cells for part in parts_of(one.mesh) if part.volume() > least]
    _refuse_many(len(found))
    return _placed(found, planes)


def _halves(part: Part, plane: Plane) -> tuple[Part | None, Part | None]:
    """What is above a plane and what is below, by the quick way where it goes, else as solids."""
    quick = parted(part, plane)
    if quick is not None:
        return quick
    upper, lower = closed_solid(part.mesh, "a piece").split_by_plane(plane.normal, plane.at)
    return _part_of(upper), _part_of(lower)


def _part_of(solid: manifold3d.Manifold) -> Part | None:
    if solid.is_empty():
        return None
    mesh = mesh_of(solid)
    return Part(mesh.vertices, mesh.faces)


def _refuse_many(count: int) -> None:
    if count > MOST:
        raise Refused(
            "pieces-many",
            f"that would be {count:,} pieces or more; {MOST} at most are made",
            remedy="use fewer planes",
        )


def parts_of(mesh: Mesh) -> list[Mesh]:
    """Return what hangs together of a closed mesh, voids with what is around them."""
    return [one.mesh for one in separate(mesh)]


def _placed(pieces: list[Piece], planes: Sequence[Plane]) -> list[Piece]:
    """Number pieces, and name their places."""
    middles = [one.mesh.bounds().mean(axis=0) for one in pieces]
    slots = [_slots(one, planes) for one in pieces]
    order = sorted(
        range(len(pieces)),
        key=lambda i: ([slots[i][axis] for axis in _ORDERED], [middles[i][axis] for axis in _ORDERED]),
    )
    counts = [1 + sum(axis_of(plane) == name for plane in planes) for name in "xyz"]
    middle = float(np.median([one.volume for one in pieces]))
    return [
        replace(
            pieces[i],
            place=_place(slots[i], counts, pieces[i], planes),
            sliver=pieces[i].volume < _SLIVER * middle,
        )
        for i in order
    ]


def _slots(piece: Piece, planes: Sequence[Plane]) -> list[int]:
    """Per axis, how many of the planes square to it a piece is above."""
    return [
        sum(above for plane, above in zip(planes, piece.cell, strict=True) if axis_of(plane) == name)
        for name in "xyz"
    ]


def _place(slots: list[int], counts: list[int], piece: Piece, planes: Sequence[Plane]) -> str:
    words = [_word(axis, slots[axis], counts[axis]) for axis in (2, 0, 1) if counts[axis] > 1]
    for number, (plane, above) in enumerate(zip(planes, piece.cell, strict=True)):
        if axis_of(plane) is None:
            words.append(f"{'above' if above else 'below'} {letter_of(number)}")
    return " ".join(words)


def _word(axis: int, slot: int, count: int) -> str:
    two, three, many = _WORDS[axis]
    if count <= 3:
        return (two if count == 2 else three)[slot]
    return f"{many} {slot + 1}"
