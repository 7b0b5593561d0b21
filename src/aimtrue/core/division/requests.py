"""From what was typed to what is to be done: planes found, pins and drains placed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final

import manifold3d
import numpy as np

from aimtrue.core.division import pins
from aimtrue.core.division.cutting import hollow, raised_faces, split, threads
from aimtrue.core.division.cutting.pieces import MANY, MOST, Piece, cut_by
from aimtrue.core.division.cutting.planes import across, in_faces, typed_plane
from aimtrue.core.division.cutting.seams import seams_of
from aimtrue.core.division.cutting.slivers import without_slivers
from aimtrue.core.division.cutting.solids import closed_solid
from aimtrue.core.division.cutting.steps import Tell, in_pieces, shaped, together, volumes_off
from aimtrue.core.division.cutting.thread_requests import thread_asked
from aimtrue.core.division.fitting import at_seams, fit_into
from aimtrue.core.division.pins import on_plane
from aimtrue.core.division.sections.drawings import rings_in
from aimtrue.core.errors import Refused
from aimtrue.core.fit.moving import movable_at, move_surface
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    Asked,
    AskFaces,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
    AskSurface,
    AskThread,
)
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.model.shaping import (
    Combination,
    FaceSplit,
    HeightSplit,
    Hollowing,
    OutlineSplit,
    PieceCut,
    Pins,
    Plane,
    Shaping,
    Slice,
    SurfaceMove,
)
from aimtrue.core.model.value import AXES, Axis

_MOST_PINS: Final = 24
"""Pins on one face of a cut: more than anybody glues, so a larger number is a slip."""


@dataclass(frozen=True, eq=False)
class DivisionDraft:
    """What was asked for, made.

    Attributes:
        shaping: what was done, all places found.
        pieces: what came of it, in mm.
        before: volume of the wholes, in mm³.
        difference: how far the volumes are from adding up, as a share of the whole; pins left out.
        without: faces of cuts that have no room for a pin, in words.
        clearance_mm: least and greatest of the pins as made.
        wall_mm: of a hollow as asked for, the least, and the greatest.
        moved_mm: how far faces were to be moved, and were at least and at most.
        dropped: slivers left out on purpose: how many, and their volume in mm³.
        stays_open: of pieces of an open body, in words, how many edges.
        closed: whether the wholes are closed; if not, volumes tell nothing.
    """

    shaping: Shaping
    pieces: list[Piece]
    before: float
    difference: float = 0.0
    without: tuple[str, ...] = ()
    clearance_mm: tuple[float, float] | None = None
    wall_mm: tuple[float, float, float] | None = None
    moved_mm: tuple[float, float, float] | None = None
    dropped: tuple[int, float] = (0, 0.0)
    slivers: tuple[int, ...] = field(default=())
    stays_open: tuple[str, ...] = ()
    closed: bool = True


def answered(
    asked: Asked,
    wholes: Sequence[Mesh],
    names: Sequence[str],
    tell: Tell = lambda share, says: None,
) -> DivisionDraft:
    """Make what is asked for of closed bodies in mm.

    Args:
        asked: as it was typed.
        wholes: what of; two to join or cut, else one.
        names: of these, for messages.
        tell: told how far it is.

    Raises:
        Refused: what is typed makes no sense, or it cannot be done to these bodies.
    """
    if isinstance(asked, AskPieces) and asked.open and solid_of(wholes[0]) is None:
        return _open_pieces(asked, wholes[0], tell)
    solids = [closed_solid(mesh, name) for mesh, name in zip(wholes, names, strict=True)]
    mesh, solid = wholes[0], solids[0]
    before = float(sum(solid.volume() for solid in solids))
    match asked:
        case AskPieces():
            return _in_pieces(asked, mesh, solid, tell)
        case AskHollow():
            return _hollow(asked, mesh, solid, tell)
        case AskSurface():
            return _with_moved_faces(asked, mesh, names[0])
        case AskThread():
            return _threaded(asked, mesh, solid)
        case AskCombination():
            if len(solids) != 2:
                raise Refused("two-bodies", "choose two bodies for this", remedy="choose one more")
            results = together(solids[0], solids[1], asked.how)
            off = _off_together(solids[0], solids[1], results, asked.how)
            return DivisionDraft(
                Combination(how=asked.how), [Piece(solid, ()) for solid in results], before, off
            )
        case AskSlice() | AskAbove() | AskInside() | AskFaces():
            shaping = plain(asked, mesh)
            pieces = shaped(shaping, [mesh], names, tell)
            taken = [_volume(piece) for piece in pieces]
            if isinstance(shaping, Slice):
                taken.append(float((solid - pieces[0].solid).volume()))
            return DivisionDraft(shaping, pieces, before, volumes_off(before, taken))


def _volume(piece: Piece) -> float:
    return piece.volume


def _off_together(
    one: manifold3d.Manifold, other: manifold3d.Manifold, results: Sequence[manifold3d.Manifold], how: str
) -> float:
    """How far volumes are from adding up, as a share: what is made and what is not, against the whole."""
    if how == "join":
        return volumes_off(one.volume() + other.volume(), [results[0].volume(), (one ^ other).volume()])
    if how == "split":
        return volumes_off(one.volume(), [part.volume() for part in results])
    return volumes_off(one.volume(), [results[0].volume(), (one - results[0]).volume()])


def plain(asked: AskSlice | AskAbove | AskInside | AskFaces, mesh: Mesh) -> Shaping:
    """Return what is to be done, of what needs nothing but to be read."""
    match asked:
        case AskSlice():
            wall = parse_length(asked.wall) if asked.wall.strip() else None
            low, high = (_in_face(asked.axis, parse_offset(text), mesh) for text in (asked.low, asked.high))
            return Slice(axis=asked.axis, low=low, high=high, wall=wall)
        case AskAbove():
            at = _in_face(asked.axis, parse_offset(asked.at), mesh)
            depth = parse_length(asked.depth) if asked.depth.strip() else None
            if depth is not None and (end := _in_face(asked.axis, at + depth, mesh)) != at + depth:
                depth = end - at
            return HeightSplit(axis=asked.axis, at=at, depth=depth)
        case AskFaces():
            depth = parse_length(asked.depth) if asked.depth.strip() else None
            return FaceSplit(prisms=raised_faces.prisms_of(mesh, asked.picks, alike=asked.alike, depth=depth))
        case AskInside():
            rings = _placed_rings(asked)
            depth = parse_length(asked.depth) if asked.depth.strip() else None
            points = tuple(tuple((x, y) for x, y in ring.tolist()) for ring in rings)
            return OutlineSplit(axis=asked.axis, rings=points, depth=depth)


def _in_face(axis: Axis, at: float, mesh: Mesh) -> float:
    """Return a height along an axis, or that of a flat face which it is a hair beside."""
    return in_faces((across(axis, at),), mesh)[0].at


def _placed_rings(asked: AskInside) -> list[Floats]:
    """The outlines of a drawing, as wide as was typed, moved."""
    rings = split.checked_rings(rings_in(asked.name, asked.drawing, asked.unit))
    if asked.size.strip():
        points = np.concatenate(rings)
        low = points.min(axis=0)
        factor = parse_length(asked.size) / float(np.ptp(points[:, 0]))
        rings = [low + (ring - low) * factor for ring in rings]
    move = np.array([parse_offset(typed or "0") for typed in asked.move])
    return [ring + move for ring in rings]


def planes_of(asked: AskPieces, mesh: Mesh) -> tuple[Plane, ...]:
    """Return the planes that are asked for: typed ones, and those that a machine asks for."""
    bounds = mesh.bounds()
    planes = in_faces([typed_plane(text, bounds) for text in asked.planes], mesh)
    if asked.fit is None:
        return planes
    fit = fit_into(asked.fit, bounds, turned=asked.turned, longer=longer_by(asked.pins))
    if not asked.seams:
        return (*planes, *in_faces(fit.planes, mesh))
    several = [axis for axis, count in zip(AXES, fit.counts, strict=True) if count > 1]
    seams = {axis: [seam.at_mm for seam in seams_of(mesh, axis)[0]] for axis in several}
    return (*planes, *in_faces(at_seams(fit, bounds, seams), mesh))


def longer_by(asked: AskPins | None) -> float:
    """Return how far pins stand out of the pieces that they are fixed to, in mm."""
    return parse_length(asked.depth) if asked is not None and asked.kind == "fixed" else 0.0


def pins_of(asked: AskPins, planes: Sequence[Plane]) -> Pins:
    """Return pins as they were typed, with the places that were set by hand, each put on its plane."""
    if asked.count is not None and not 1 <= asked.count <= _MOST_PINS:
        raise Refused(
            "pins",
            f"{asked.count} pins on a cut face are not made",
            remedy=f"type 1 to {_MOST_PINS}, or none",
        )
    gone = [pin for pin in asked.places if pin.plane >= len(planes)]
    if gone:
        raise Refused("pins", "a pin is on a plane that is not there", remedy="remove it")
    pins_asked = Pins(
        kind=asked.kind,
        diameter=parse_length(asked.diameter),
        depth=parse_length(asked.depth),
        clearance=parse_offset(asked.clearance),
        keyed=asked.keyed,
        places=tuple(on_plane(pin, planes[pin.plane]) for pin in asked.places),
    )
    pins.refuse_odd(pins_asked)
    return pins_asked


def with_pins(
    asked: AskPins, mesh: Mesh, solid: manifold3d.Manifold, planes: Sequence[Plane]
) -> tuple[Pins, tuple[str, ...]]:
    """Return pins with their places, and in words the faces that have no room for one."""
    typed, wall = pins_of(asked, planes), parse_length(asked.wall)
    if asked.by_hand:
        return typed, ()
    placed_pins, none = pins.placed(mesh, solid, planes, typed, asked.count, wall)
    return placed_pins, pins.said(none, placed_pins, wall)


def _in_pieces(asked: AskPieces, mesh: Mesh, solid: manifold3d.Manifold, tell: Tell) -> DivisionDraft:
    planes = planes_of(asked, mesh)
    if not planes:
        raise Refused("no-planes", "there is nothing to cut: it fits as it is", remedy="add a plane")
    most = MOST if asked.sure else MANY
    pieces = cut_by(mesh, planes, lambda share, says: tell(0.6 * share, says), most)
    before = float(solid.volume())
    off = volumes_off(before, [_volume(piece) for piece in pieces])
    shaping = PieceCut(planes=planes, keep=asked.keep, slivers=asked.slivers)
    without: tuple[str, ...] = ()
    clearance = None
    if asked.pins is not None:
        tell(0.65, "placing pins")
        placed_pins, without = with_pins(asked.pins, mesh, solid, planes)
        shaping = shaping.model_copy(update={"pins": placed_pins})
    kept, dropped = without_slivers(pieces, asked.slivers)
    lost = (len(dropped), float(sum(_volume(piece) for piece in dropped)))
    tell(0.75, "making holes for pins")
    pieces = in_pieces(shaping, mesh, kept)
    if shaping.pins is not None and shaping.pins.places:
        tell(0.9, "measuring the clearance")
        clearance = pins.measured_clearance(pieces, planes, shaping.pins)
    return DivisionDraft(
        shaping,
        pieces,
        before,
        off,
        without,
        clearance,
        dropped=lost,
        slivers=tuple(number for number, piece in enumerate(pieces) if piece.sliver),
    )


def _open_pieces(asked: AskPieces, mesh: Mesh, tell: Tell) -> DivisionDraft:
    """Cut what is open on purpose, and tell of each piece how much of it stays open."""
    planes = planes_of(asked, mesh)
    if not planes:
        raise Refused("no-planes", "there is nothing to cut", remedy="add a plane")
    if asked.pins is not None:
        raise Refused(
            "pins", "an open body has no inside for pins", remedy="close its holes first, on sheet 1"
        )
    shaping = PieceCut(planes=planes, keep=asked.keep, slivers=asked.slivers, open=True)
    pieces = cut_by(
        mesh, planes, lambda share, says: tell(0.8 * share, says), MOST if asked.sure else MANY, gaping=True
    )
    kept = in_pieces(shaping, mesh, without_slivers(pieces, asked.slivers)[0])
    return DivisionDraft(shaping, kept, mesh.volume(), stays_open=tuple(_stays_open(kept)), closed=False)


def _stays_open(pieces: Sequence[Piece]) -> Iterator[str]:
    for number, piece in enumerate(pieces):
        if rims := int((piece.mesh.topology.edge_valence == 1).sum()):
            edges = "an edge stays" if rims == 1 else f"{rims} edges stay"
            yield f"{edges} open of {number + 1}{f', {piece.place}' if piece.place else ''}"


def _with_moved_faces(asked: AskSurface, mesh: Mesh, name: str) -> DivisionDraft:
    faces = movable_at(mesh, [pick.face for pick in asked.picks])
    move = SurfaceMove(faces=faces, amount=parse_offset(asked.amount))
    done = move_surface(mesh, move, name)
    return DivisionDraft(
        move,
        [Piece(done.mesh, ())],
        float(mesh.volume()),
        moved_mm=(move.amount, done.least_mm, done.greatest_mm),
    )


def _threaded(asked: AskThread, mesh: Mesh, solid: manifold3d.Manifold) -> DivisionDraft:
    cut = thread_asked(asked, mesh)
    made = threads.threaded(solid, cut)
    before = float(solid.volume())
    apart = [(solid - made).volume(), -(made - solid).volume(), made.volume()]
    return DivisionDraft(cut, [Piece(made, ())], before, volumes_off(before, apart))


def _hollow(asked: AskHollow, mesh: Mesh, solid: manifold3d.Manifold, tell: Tell) -> DivisionDraft:
    wall = parse_length(asked.wall)
    spacing = hollow.spacing_for(mesh.bounds(), wall)
    tell(0.1, "measuring distances")
    void = hollow.hollow_in(mesh, wall, spacing)
    tell(0.6, "placing drains")
    holes = hollow.drain_sizes(asked.drains, len(asked.places))
    drains = hollow.drains_for(mesh, void, holes, wall, asked.places, asked.down)
    hollowed = hollow.drilled(solid - void, drains, wall)
    tell(0.8, "measuring the wall")
    least_and_most = hollow.measured_wall(mesh, mesh_of(void), wall)
    return DivisionDraft(
        Hollowing(wall=wall, drains=drains, spacing=spacing),
        [Piece(hollowed, ())],
        float(solid.volume()),
        volumes_off(solid.volume(), [hollowed.volume(), (solid - hollowed).volume()]),
        wall_mm=(least_and_most.asked, least_and_most.least, least_and_most.greatest),
    )
