"""Do what a shaping says: the bodies, in mm, that it makes of its wholes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import manifold3d
import numpy as np

from aimtrue.core.division import pins
from aimtrue.core.division.cutting import hollow, raised_faces, split, threads
from aimtrue.core.division.cutting.pieces import MOST, Piece, cut_by
from aimtrue.core.division.cutting.slivers import without_slivers
from aimtrue.core.division.cutting.solids import NOTHING, closed_solid, without_dust
from aimtrue.core.errors import Refused
from aimtrue.core.fit.moving import move_surface
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.shaping import (
    Combination,
    DowelMaking,
    FaceSplit,
    HeightSplit,
    Hollowing,
    OutlineSplit,
    PieceCut,
    Shaping,
    Slice,
    SurfaceMove,
    ThreadCut,
)

Tell = Callable[[float, str], None]


def _cut(shaping: PieceCut, whole: Mesh, name: str, tell: Tell) -> list[Piece]:
    if not shaping.open:
        closed_solid(whole, name)  # The solid refuses a surface that is open.
    cut = cut_by(whole, shaping.planes, tell, MOST, gaping=shaping.open)
    return in_pieces(shaping, whole, without_slivers(cut, shaping.slivers)[0])


def shaped(
    shaping: Shaping,
    wholes: Sequence[Mesh],
    names: Sequence[str] = (),
    tell: Tell = lambda share, says: None,
) -> list[Piece]:
    """Return the bodies that a shaping makes, in the order in which they are numbered.

    Args:
        shaping: what is done.
        wholes: what to, in mm; none for a dowel.
        names: of these, for messages.
        tell: told how far it is.

    Raises:
        Refused: it cannot be done to these wholes.
    """
    named = [*names, *("the body",) * (len(wholes) - len(names))]
    if isinstance(shaping, PieceCut | SurfaceMove):
        return _of_surface(shaping, wholes[0], named[0], tell)
    solids = [closed_solid(mesh, name) for mesh, name in zip(wholes, named, strict=True)]
    match shaping:
        case Slice():
            made = split.between(solids[0], shaping)
            if shaping.wall is not None:
                spacing = hollow.spacing_for(wholes[0].bounds(), shaping.wall)
                made = made - hollow.hollow_in(wholes[0], shaping.wall, spacing)
            return [Piece(made, ())]
        case HeightSplit() | OutlineSplit() | FaceSplit():
            return [Piece(solid, ()) for solid in _in_two(shaping, solids[0])]
        case Hollowing():
            void = hollow.hollow_in(wholes[0], shaping.wall, shaping.spacing)
            made = hollow.drilled(solids[0] - void, shaping.drains, shaping.wall)
            return [Piece(made, ())]
        case Combination():
            return [Piece(solid, ()) for solid in together(solids[0], solids[1], shaping.how)]
        case ThreadCut():
            return [Piece(threads.threaded(solids[0], shaping), ())]
        case DowelMaking():
            return [Piece(pins.dowel(shaping.pins), ())]


def _in_two(
    shaping: HeightSplit | OutlineSplit | FaceSplit, solid: manifold3d.Manifold
) -> list[manifold3d.Manifold]:
    match shaping:
        case HeightSplit():
            return list(split.above(solid, shaping))
        case OutlineSplit():
            return list(split.inside(solid, shaping))
        case FaceSplit():
            return list(raised_faces.parted_by(solid, shaping.prisms))


def _of_surface(shaping: PieceCut | SurfaceMove, whole: Mesh, name: str, tell: Tell) -> list[Piece]:
    """What is made of the triangles of a whole, not of what they enclose."""
    if isinstance(shaping, SurfaceMove):
        return [Piece(move_surface(whole, shaping, name).mesh, ())]
    return _cut(shaping, whole, name, tell)


def in_pieces(shaping: PieceCut, mesh: Mesh, pieces: list[Piece]) -> list[Piece]:
    """Return the pieces that are kept, with their pins.

    Args:
        shaping: what is done.
        mesh: the whole, in mm.
        pieces: all that its planes cut it into.
    """
    made = pieces
    if shaping.keep != "all":
        wanted = shaping.keep == "above"
        made = [piece for piece in made if all(above in (wanted, None) for above in piece.cell)]
        if not made:
            raise Refused("keep-nothing", f"no piece is {shaping.keep} every plane", remedy="keep all")
    if shaping.pins is not None and shaping.pins.places:
        pins.refuse_in_the_way(mesh, shaping.planes, shaping.pins)
        made = pins.pinned(made, shaping.planes, shaping.pins)
    return made


def together(one: manifold3d.Manifold, other: manifold3d.Manifold, how: str) -> list[manifold3d.Manifold]:
    """Join two solids, cut the second from the first, keep what they have in common, or split the first.

    Returns:
        What came of it; of a first that is split what is outside the second, and what is within.

    Raises:
        Refused: they do not meet, or nothing would be left.
    """
    least = NOTHING * min(one.volume(), other.volume())
    common = one ^ other
    if how == "join":
        combined = one + other
        if common.volume() <= least and len(combined.decompose()) >= len(one.decompose()) + len(
            other.decompose()
        ):
            raise Refused(
                "apart", "these bodies neither touch nor overlap", remedy="make them one kit instead"
            )
        return [combined]
    if common.volume() <= least:
        raise Refused("apart", "these bodies do not overlap", remedy="bring them together in their files")
    common = without_dust(common, least)
    if how == "common":
        return [common]
    rest = without_dust(one - other, least)
    if rest.volume() <= NOTHING * one.volume():
        raise Refused("nothing-left", "nothing would be left", remedy="take them the other way round")
    return [rest, common] if how == "split" else [rest]


def volumes_off(whole: float, parts: Sequence[float]) -> float:
    """Return how far volumes are from adding up to a whole, as a share of it."""
    return abs(float(np.sum(parts)) - whole) / abs(whole)
