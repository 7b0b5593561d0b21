"""What sheet 4 shows before anything is cut: planes with their sections, pieces with their sizes, seams."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d
import numpy as np

from aimtrue.core.chain.transforms import true_points
from aimtrue.core.division.asking import planes_of
from aimtrue.core.division.fitting import fit_into, over_in
from aimtrue.core.division.frames import frame_of, in_mm
from aimtrue.core.division.pieces import Piece, cut_by
from aimtrue.core.division.planes import as_typed, axis_of, letter_of, plane_through, refuse_missing
from aimtrue.core.division.seams import Curve, Seam, seams_of
from aimtrue.core.division.shaped import volumes_off
from aimtrue.core.division.solids import basis_of, closed_solid
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.shaping import Plane
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3

_FINE_MM = 0.02
_SEAM_MM = 0.05
_BEYOND_MM = 2.0
"""So far a slice reaches beyond the places of a reading, at least; and so thick it is."""
_LEAST_MM = 6.0


@dataclass(frozen=True)
class PlaneShown:
    """A cutting plane: its letter, where it is, and the section there. ``rings`` are closed, in mm."""

    letter: str
    axis: Axis | None
    normal: Vec3
    at_mm: float
    area_mm2: float
    outlines: int
    seam: str
    rings: tuple[tuple[Vec3, ...], ...]


@dataclass(frozen=True)
class PieceShown:
    """A piece that would come of it; ``over_mm`` is by how much it is too large for the machine."""

    number: int
    place: str
    low: Vec3
    high: Vec3
    volume_mm3: float
    over_mm: Vec3
    sliver: bool


@dataclass(frozen=True)
class Prospect:
    """What a division would come to: ``counts`` are the pieces per axis that the machine asks for."""

    low: Vec3
    high: Vec3
    room_mm: Vec3
    counts: tuple[int, int, int]
    planes: tuple[PlaneShown, ...]
    pieces: tuple[PieceShown, ...]
    volume_mm3: float
    difference: float


@dataclass(frozen=True)
class Thought:
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


_WHOLES: Memo[tuple[Mesh, manifold3d.Manifold]] = Memo(4)
_SEAMS: Memo[tuple[tuple[Seam, ...], Curve]] = Memo(48)


def _whole(job: Job, body: Body, shelf: Shelf) -> tuple[Mesh, manifold3d.Manifold]:
    def made() -> tuple[Mesh, manifold3d.Manifold]:
        mesh = in_mm(frame_of(job, body), shelf.mesh(body.geometry))
        return mesh, closed_solid(mesh, body.name)

    return _WHOLES.get(job.in_force(body), (), made)


def _seams(job: Job, body: Body, axis: Axis, shelf: Shelf) -> tuple[tuple[Seam, ...], Curve]:
    mesh, _ = _whole(job, body, shelf)
    return _SEAMS.get(job.in_force(body), (axis,), lambda: seams_of(mesh, axis))


def seams_along(job: Job, key: str, axis: Axis, shelf: Shelf) -> SeamsShown:
    """Return seams of a body and the curve of its section along an axis.

    Raises:
        Refused: the body is not closed.
        Unsettled: its unit is open.
    """
    body = job.body(key)
    found, curve = _seams(job, body, axis, shelf)
    low, high = _whole(job, body, shelf)[0].bounds()[:, "xyz".index(axis)].tolist()
    return SeamsShown(axis, low, high, tuple(curve.at.tolist()), tuple(curve.areas.tolist()), found)


def prospect(job: Job, key: str, asked: AskPieces, machine: Machine, shelf: Shelf) -> Prospect:
    """Return what a division would come to; nothing is made.

    Args:
        job: as it stands.
        key: of the body.
        asked: as it was typed.
        machine: that pieces are held against.
        shelf: gives the mesh.

    Raises:
        Refused: what is typed makes no sense, or the body is not closed.
        Unsettled: its unit is open.
    """
    body = job.body(key)
    mesh, solid = _whole(job, body, shelf)
    bounds = mesh.bounds()
    fit = fit_into(machine, bounds)
    planes = planes_of(asked, mesh)
    if planes:
        refuse_missing(planes, mesh.vertices)
    pieces = cut_by(mesh, planes) if planes else []
    shown = tuple(_piece(number, one, machine) for number, one in enumerate(pieces))
    volume = float(solid.volume())
    return Prospect(
        low=as_vec3(bounds[0]),
        high=as_vec3(bounds[1]),
        room_mm=fit.room_mm,
        counts=fit.counts,
        planes=tuple(_plane(job, body, number, one, solid, shelf) for number, one in enumerate(planes)),
        pieces=shown,
        volume_mm3=volume,
        difference=volumes_off(volume, [one.volume_mm3 for one in shown]) if shown else 0.0,
    )


def _piece(number: int, piece: Piece, machine: Machine) -> PieceShown:
    points = piece.mesh.vertices
    return PieceShown(
        number + 1,
        piece.place,
        as_vec3(points.min(axis=0)),
        as_vec3(points.max(axis=0)),
        piece.volume,
        over_in(machine, points),
        piece.sliver,
    )


def plane_on(job: Job, key: str, face: int, shelf: Shelf) -> Thought:
    """Return the plane that a flat face of a body lies in; of any other triangle its own.

    Raises:
        Refused: there is no such triangle, or it has no direction.
        Unsettled: the unit is open.
    """
    body = job.body(key)
    mesh, _ = _whole(job, body, shelf)
    if not 0 <= face < mesh.triangles:
        raise Refused("face-unknown", f"there is no triangle {face} on {body.name}", remedy="pick it again")
    feature = shelf.features(body).at(face)
    corners = feature.corners[:3] if feature is not None and feature.flat else mesh.faces[face]
    return Thought(as_typed(plane_through(mesh.vertices[list(corners)])))


def around(job: Job, reading: str) -> TrialAround:
    """Return where a slice would lie that holds a reading: square to the axis that it spans least along.

    It reaches a little beyond the places that the reading is taken between.

    Raises:
        Refused: there is no such reading, or it has lost its place.
        Unsettled: the unit is open.
    """
    one = job.reading(reading)
    if one.lost or not one.gauge.points:
        raise Refused("reading-lost", f"{one.name} has no place on its body", remedy="pick it again")
    points = true_points(job, job.body(one.body), np.asarray(one.gauge.points, dtype=np.float64))
    spans = np.ptp(points, axis=0)
    axis = int(spans.argmin())
    more = max(_BEYOND_MM, (_LEAST_MM - float(spans[axis])) / 2)
    low, high = float(points[:, axis].min()) - more, float(points[:, axis].max()) + more
    return TrialAround(AXES[axis], f"{low:.2f}", f"{high:.2f}")


def _plane(
    job: Job, body: Body, number: int, plane: Plane, solid: manifold3d.Manifold, shelf: Shelf
) -> PlaneShown:
    rows = basis_of(np.asarray(plane.normal))
    lying = solid.transform(np.concatenate([rows, np.zeros((3, 1))], axis=1))
    section = lying.slice(plane.at).simplify(_FINE_MM)
    rings = [_in_space(np.asarray(ring), plane.at, rows) for ring in section.to_polygons()]
    axis = axis_of(plane)
    seams = _seams(job, body, axis, shelf)[0] if axis else ()
    kind = next((one.kind for one in seams if abs(one.at_mm - plane.at) < _SEAM_MM), "")
    return PlaneShown(
        letter_of(number),
        axis,
        plane.normal,
        plane.at,
        float(section.area()),
        section.num_contour(),
        kind,
        tuple(rings),
    )


def _in_space(ring: Floats, at: float, rows: Floats) -> tuple[Vec3, ...]:
    points = np.column_stack([ring, np.full(len(ring), at)]) @ rows
    return tuple(as_vec3(one) for one in points)
