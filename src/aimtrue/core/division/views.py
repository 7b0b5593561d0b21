"""This module says what sheet 4 shows before anything is cut: planes with their sections, pieces with their
sizes, seams.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np

from aimtrue.core.chain.transforms import true_points
from aimtrue.core.division.cutting.pieces import MANY, MOST, Cell, Piece, cut_by, place_of
from aimtrue.core.division.cutting.planes import (
    as_typed,
    axis_of,
    letter_of,
    plane_through,
    refuse_missing,
    sides_said,
)
from aimtrue.core.division.cutting.seams import Curve, Seam, seams_of
from aimtrue.core.division.cutting.solids import basis_of, closed_solid
from aimtrue.core.division.cutting.steps import volumes_off
from aimtrue.core.division.cutting.typed_planes import (
    PlaneEdit,
    TypedPlane,
    edited,
    shown_typed,
    typed_planes,
)
from aimtrue.core.division.fitting import fit_into, over_in, over_turned
from aimtrue.core.division.frames import frame_of, in_mm
from aimtrue.core.division.pins import have_room, standing_out
from aimtrue.core.division.requests import longer_by, plain, planes_of, with_pins
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.anchors import point_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.sections import rings_at
from aimtrue.core.mesh.solids import solid_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import AskInside, AskPieces
from aimtrue.core.model.ids import BodyId, ReadingId
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.shaping import OutlineSplit, Pins, Plane, PlaneSide
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3

_FINE_MM = 0.02
_SEAM_MM = 0.05
_BEYOND_MM = 2.0
"""A slice reaches at least this far beyond the places of a reading, and is at least this thick."""
_LEAST_MM = 6.0


@dataclass(frozen=True)
class LimitShown:
    """What a plane may be limited to: a piece that planes before it leave, as typed and by its place."""

    typed: str
    place: str


@dataclass(frozen=True)
class PinShown:
    """A pin that is thought of, and whether it has material all around."""

    plane: int
    point: Vec3
    good: bool


@dataclass(frozen=True)
class PlaneShown:
    """A cutting plane: its letter, where it is, and the section there. ``rings`` are closed, in mm.

    ``typed`` is how it would be typed, to a micrometre. ``limits`` are what it may be limited to, ``limited``
    what it is, as typed; empty where it cuts all.
    """

    typed: TypedPlane
    letter: str
    axis: Axis | None
    normal: Vec3
    at_mm: float
    area_mm2: float
    outlines: int
    seam: str
    limits: tuple[LimitShown, ...]
    limited: str
    rings: tuple[tuple[Vec3, ...], ...]


@dataclass(frozen=True)
class PieceShown:
    """A piece that would come of it; ``over_mm`` is by how much it is too large for the machine.

    That is as it lies, or ``turned`` by quarters, where it fits so or where turns are asked for.
    """

    number: int
    place: str
    low: Vec3
    high: Vec3
    volume_mm3: float
    over_mm: Vec3
    turned: bool
    sliver: bool


@dataclass(frozen=True)
class DivisionPreview:
    """What a division would come to: ``counts`` are the pieces per axis that the machine asks for.

    ``turned_counts`` are those of the quarter turn that asks for fewest. ``without`` says which faces have no
    room for a pin.
    """

    low: Vec3
    high: Vec3
    room_mm: Vec3
    counts: tuple[int, int, int]
    turned_counts: tuple[int, int, int]
    planes: tuple[PlaneShown, ...]
    pieces: tuple[PieceShown, ...]
    pins: tuple[PinShown, ...]
    without: tuple[str, ...]
    volume_mm3: float
    difference: float


@dataclass(frozen=True)
class ProposedCut:
    """A place for a cut, as it would be typed."""

    typed: str


@dataclass(frozen=True)
class TrialAround:
    """Where a slice around a reading would lie, as it would be typed."""

    axis: Axis
    low: str
    high: str


@dataclass(frozen=True)
class SeamsShown:
    """Seams along an axis, and the curve of the section's area that they were read off."""

    axis: Axis
    low: float
    high: float
    at: tuple[float, ...]
    areas: tuple[float, ...]
    seams: tuple[Seam, ...]


_WHOLES: Memo[tuple[Mesh, manifold3d.Manifold | None]] = Memo(4)
_SEAMS: Memo[tuple[tuple[Seam, ...], Curve]] = Memo(48)


def _whole(job: Job, body: Body, store: GeometryStore) -> tuple[Mesh, manifold3d.Manifold | None]:
    """A body in mm, and as a solid, if it is closed."""

    def made() -> tuple[Mesh, manifold3d.Manifold | None]:
        mesh = in_mm(frame_of(job, body), store.mesh(body.geometry))
        return mesh, solid_of(mesh)

    return _WHOLES.get(job.in_force(body), (), made)


def _seams(job: Job, body: Body, axis: Axis, store: GeometryStore) -> tuple[tuple[Seam, ...], Curve]:
    mesh, solid = _whole(job, body, store)
    if solid is None:
        closed_solid(mesh, body.name)
    return _SEAMS.get(job.in_force(body), (axis,), lambda: seams_of(mesh, axis))


def seams_along(job: Job, key: BodyId, axis: Axis, store: GeometryStore) -> SeamsShown:
    """Return seams of a body and the curve of its section along an axis.

    Raises:
        Refused: the body is not closed.
        Unsettled: its unit is open.
    """
    body = job.body(key)
    seams, curve = _seams(job, body, axis, store)
    low, high = _whole(job, body, store)[0].bounds()[:, "xyz".index(axis)].tolist()
    return SeamsShown(axis, low, high, tuple(curve.at.tolist()), tuple(curve.areas.tolist()), seams)


def prospect(
    job: Job, key: BodyId, asked: AskPieces, machine: Machine, store: GeometryStore
) -> DivisionPreview:
    """Return what a division would come to; nothing is made.

    Args:
        job: as it stands.
        key: of the body.
        asked: as it was typed.
        machine: that pieces are held against.
        store: gives the mesh.

    Raises:
        Refused: what is typed makes no sense, or the body is not closed.
        Unsettled: its unit is open.
    """
    body = job.body(key)
    mesh, solid = _whole(job, body, store)
    if solid is None and not asked.open:
        closed_solid(mesh, body.name)
    bounds = mesh.bounds()
    longer = longer_by(asked.pins)
    fit = fit_into(machine, bounds, longer=longer)
    planes = planes_of(asked, mesh)
    if planes:
        refuse_missing(planes, mesh.vertices)
    most = MOST if asked.sure else MANY
    pieces = cut_by(mesh, planes, most=most, gaping=solid is None) if planes else []
    cells = sorted({piece.cell for piece in pieces}, key=str)
    pins, without = _pins(asked, mesh, solid, planes)
    shown = _pieces_shown(pieces, planes, pins, machine, asked)
    volume = float(mesh.volume() if solid is None else solid.volume())
    summed = shown and solid is not None
    return DivisionPreview(
        low=as_vec3(bounds[0]),
        high=as_vec3(bounds[1]),
        room_mm=fit.room_mm,
        counts=fit.counts,
        turned_counts=fit_into(machine, bounds, turned=True, longer=longer).counts,
        planes=tuple(_plane(job, body, number, planes, cells, store) for number, _ in enumerate(planes)),
        pieces=shown,
        pins=_pins_shown(mesh, planes, pins),
        without=without,
        volume_mm3=volume,
        difference=volumes_off(volume, [piece_shown.volume_mm3 for piece_shown in shown]) if summed else 0.0,
    )


def pieces_drawn(job: Job, key: BodyId, asked: AskPieces, store: GeometryStore) -> list[Mesh]:
    """Return the pieces that would come of planes, in mm, for drawing; without their pins.

    Raises:
        Refused: what is typed makes no sense, or the body is not closed.
        Unsettled: its unit is open.
    """
    mesh, solid = _whole(job, job.body(key), store)
    if solid is None and not asked.open:
        closed_solid(mesh, job.body(key).name)
    planes = planes_of(asked, mesh)
    most = MOST if asked.sure else MANY
    return [piece.mesh for piece in cut_by(mesh, planes, most=most, gaping=solid is None)] if planes else []


def placed_outline(
    job: Job, key: BodyId, asked: AskInside, store: GeometryStore
) -> tuple[tuple[Vec3, ...], ...]:
    """Return the outlines of a drawing where they would split a body, at its top along their axis, in mm.

    Raises:
        Refused: the drawing has no closed outline, or names no unit.
        Unsettled: the unit of the body is open.
    """
    mesh, _ = _whole(job, job.body(key), store)
    shaping = plain(asked, mesh)
    assert isinstance(shaping, OutlineSplit)
    axis = AXES.index(asked.axis)
    rows, top = basis_of(np.eye(3)[axis]), float(mesh.bounds()[1, axis])
    return tuple(_in_space(np.asarray(ring), top, rows) for ring in shaping.rings)


def _pins(
    asked: AskPieces, mesh: Mesh, solid: manifold3d.Manifold | None, planes: tuple[Plane, ...]
) -> tuple[Pins | None, tuple[str, ...]]:
    if asked.pins is None or not planes or solid is None:
        return None, ()
    return with_pins(asked.pins, mesh, solid, planes)


def _pins_shown(mesh: Mesh, planes: tuple[Plane, ...], pins: Pins | None) -> tuple[PinShown, ...]:
    if pins is None:
        return ()
    room = have_room(mesh, planes, pins)
    return tuple(PinShown(pin.plane, pin.point, clear) for pin, clear in zip(pins.places, room, strict=True))


def _pieces_shown(
    pieces: Sequence[Piece],
    planes: tuple[Plane, ...],
    pins: Pins | None,
    machine: Machine,
    asked: AskPieces,
) -> tuple[PieceShown, ...]:
    """Describe the pieces as large as they will be: with the pins that stand out of them."""
    pegs = standing_out(pieces, planes, pins) if pins else [np.empty((0, 3)) for _ in pieces]
    return tuple(
        _piece(number, piece, peg, machine, asked)
        for number, (piece, peg) in enumerate(zip(pieces, pegs, strict=True))
    )


def _piece(number: int, piece: Piece, pegs: Floats, machine: Machine, asked: AskPieces) -> PieceShown:
    """Show a piece with the pins that are fixed to it, by their outermost corners."""
    points = np.concatenate([piece.mesh.vertices, pegs])
    over = over_in(machine, points)
    best = over_turned(machine, points) if any(over) else over
    turned = any(over) and (asked.turned or not any(best))
    return PieceShown(
        number + 1,
        piece.place,
        as_vec3(points.min(axis=0)),
        as_vec3(points.max(axis=0)),
        piece.volume,
        best if turned else over,
        turned,
        piece.sliver,
    )


def plane_on(job: Job, key: BodyId, face: int, store: GeometryStore) -> ProposedCut:
    """Return the plane that a flat face of a body lies in; of any other triangle its own.

    Raises:
        Refused: there is no such triangle, or it has no direction.
        Unsettled: the unit is open.
    """
    body = job.body(key)
    mesh, _ = _whole(job, body, store)
    if not 0 <= face < mesh.triangles:
        raise Refused("face-unknown", f"there is no triangle {face} on {body.name}", remedy="pick it again")
    feature = store.features(body).at(face)
    corners = feature.corners[:3] if feature is not None and feature.flat else mesh.faces[face]
    return ProposedCut(as_typed(plane_through(mesh.vertices[list(corners)])))


def planes_edited(
    job: Job, key: BodyId, texts: Sequence[str], edit: PlaneEdit | None, store: GeometryStore
) -> tuple[TypedPlane, ...]:
    """Return planes that are laid out for a body in their parts, after something was changed of one.

    Args:
        job: as it stands.
        key: of the body.
        texts: of the planes, as they are.
        edit: what is changed; None for nothing.
        store: gives the mesh.

    Raises:
        Refused: what is typed makes no plane.
        Unsettled: the unit of the body is open.
    """
    if edit is not None:
        texts = edited(texts, edit, _whole(job, job.body(key), store)[0].bounds())
    return typed_planes(texts)


def plane_by(job: Job, key: BodyId, places: Sequence[Anchor], store: GeometryStore) -> ProposedCut:
    """Return the plane through three picked places of a body.

    Raises:
        Refused: they are not three, or lie on one line.
        Unsettled: the unit is open.
    """
    if len(places) != 3:
        raise Refused("plane", f"{len(places)} places make no plane", remedy="pick three")
    mesh, _ = _whole(job, job.body(key), store)
    return ProposedCut(
        as_typed(plane_through(np.array([point_of(place, mesh.vertices, mesh.faces) for place in places])))
    )


def around(job: Job, reading: ReadingId) -> TrialAround:
    """Return where a slice would lie that holds a reading: square to the axis that it spans least along.

    It reaches a little beyond the places that the reading is taken between.

    Raises:
        Refused: there is no such reading, or it has lost its place.
        Unsettled: the unit is open.
    """
    stated = job.reading(reading)
    if stated.lost or not stated.gauge.points:
        raise Refused("reading-lost", f"{stated.name} has no place on its body", remedy="pick it again")
    points = true_points(job, job.body(stated.body), np.asarray(stated.gauge.points, dtype=np.float64))
    spans = np.ptp(points, axis=0)
    axis = int(spans.argmin())
    more = max(_BEYOND_MM, (_LEAST_MM - float(spans[axis])) / 2)
    low, high = float(points[:, axis].min()) - more, float(points[:, axis].max()) + more
    return TrialAround(AXES[axis], f"{low:.2f}", f"{high:.2f}")


def _plane(
    job: Job,
    body: Body,
    number: int,
    planes: tuple[Plane, ...],
    cells: list[Cell],
    store: GeometryStore,
) -> PlaneShown:
    plane = planes[number]
    rows = basis_of(np.asarray(plane.normal))
    section = _section(job, body, plane, planes, rows, store)
    rings = [_in_space(np.asarray(ring), plane.at, rows) for ring in section.to_polygons()]
    axis = axis_of(plane)
    closed = _whole(job, body, store)[1] is not None
    seams = _seams(job, body, axis, store)[0] if axis and closed else ()
    kind = next((seam.kind for seam in seams if abs(seam.at_mm - plane.at) < _SEAM_MM), "")
    placed = plane.model_copy(update={"at": round(plane.at, 3), "only": ()})
    return PlaneShown(
        shown_typed(number, as_typed(placed)),
        letter_of(number),
        axis,
        plane.normal,
        plane.at,
        float(section.area()),
        section.num_contour(),
        kind,
        tuple(_limits(planes[:number], cells)),
        sides_said(plane.only),
        tuple(rings),
    )


def _section(
    job: Job, body: Body, plane: Plane, planes: tuple[Plane, ...], rows: Floats, store: GeometryStore
) -> manifold3d.CrossSection:
    """What a plane cuts, in its own axes; of an open body what closes of that."""
    mesh, solid = _whole(job, body, store)
    if solid is None:
        rings = rings_at(Mesh(mesh.vertices @ rows.T, mesh.faces), plane.at)
        return manifold3d.CrossSection(rings, manifold3d.FillRule.EvenOdd)
    for side in plane.only:
        other, way = planes[side.plane], 1.0 if side.above else -1.0
        solid = solid.trim_by_plane([way * component for component in other.normal], way * other.at)
    lying = solid.transform(np.concatenate([rows, np.zeros((3, 1))], axis=1))
    return lying.slice(plane.at).simplify(_FINE_MM)


def _limits(before: tuple[Plane, ...], cells: list[Cell]) -> Iterator[LimitShown]:
    """What planes leave that come before one, each by the sides that it is on."""
    for cell in dict.fromkeys(cell[: len(before)] for cell in cells):
        sides = [PlaneSide(plane=i, above=above) for i, above in enumerate(cell) if above is not None]
        if sides:
            yield LimitShown(sides_said(sides), place_of(cell, before))


def _in_space(ring: Floats, at: float, rows: Floats) -> tuple[Vec3, ...]:
    points = np.column_stack([ring, np.full(len(ring), at)]) @ rows
    return tuple(as_vec3(point) for point in points)
