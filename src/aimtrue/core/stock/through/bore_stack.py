"""This module finds the bores that one bolt goes through, and the faces that they open to."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.fit.faces import FitFace, faces_of, mesh_in
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import in_use
from aimtrue.core.stock.through.free_room import about_axis, nearest_between
from aimtrue.core.stock.through.tried_bolt import TriedBolt

_PARALLEL = math.cos(math.radians(1.0))


_GAP = 3.0
"""Bores of one bolt are at most so many of its diameters apart, as ears of a clamp are."""


_WIDEST = 1.35
"""Wider bores than so many diameters of the bolt are counterbores: its head goes into them, not its shank."""


NEAR_MM = 0.02
"""How far from a face, in mm, room is measured: facets of the face itself do not count."""


@dataclass(frozen=True, eq=False)
class BoreStack:
    """The bores on one axis: heights grow towards the head, whose bearing face is at ``top``.

    Attributes:
        bores: each with the heights of its ends, the highest first.
        meshes: of all bodies, about the axis; ``by_body`` by their ids.
        top: height of the face that the head bears on; ``foot`` of that on the other side.
        point, way: of the axis, in mm of the job.
    """

    bores: list[tuple[FitFace, float, float]]
    by_body: dict[BodyId, Mesh]
    top: float
    foot: float
    point: Floats
    way: Floats

    @property
    def blind(self) -> bool:
        """Whether the last bore ends in material."""
        return (
            nearest_between(self.meshes, self.foot - 0.05, self.foot + 0.05) < self.bores[-1][0].least / 2.2
        )

    @property
    def meshes(self) -> list[Mesh]:
        """All bodies about the axis."""
        return list(self.by_body.values())


def bodies_with_bores(job: Job) -> list[Body]:
    """The bodies that something is put through: closed ones of a settled unit that are to be printed."""
    return [
        body
        for body in in_use(job, job.bodies)
        if job.settled((body,)) and not body.for_checking and not body.stray
    ]


def stack_of(
    job: Job, bolt: TriedBolt, body: Body, feature: int, store: GeometryStore, *, flipped: bool
) -> BoreStack:
    """Return the bores on the axis of one, seen from the end that suits the head; from the other, flipped.

    Raises:
        Refused: the face is no bore, or the head would fall through it.
    """
    mine = next((face for face in faces_of("released", job, body, store) if face.feature == feature), None)
    if mine is None or not mine.hollow:
        raise Refused(
            "through-bore", f"this face of {body.name} is no bore", remedy="pick the wall of a bore"
        )
    if mine.least >= 0.98 * bolt.head.across:
        raise Refused(
            "through-wide",
            f"the bore has ø {mine.least:.4g} mm: the head of {bolt.part.name} with "
            f"{bolt.head.across:.4g} mm falls through",
            remedy="pick the narrow part of the bore, or take a thicker bolt",
        )
    way = mine.way if mine.way[int(np.abs(mine.way).argmax())] > 0 else -mine.way
    bodies = bodies_with_bores(job)
    faces = [face for other in bodies for face in faces_of("released", job, other, store)]
    stack = _gathered(bolt, mine, faces, way)
    meshes = {
        other.id: about_axis(mesh_in("released", job, other, store), mine.point, way) for other in bodies
    }
    up = _with_ends(bolt, stack, faces, meshes, mine.point, way)
    mirrored = [(face, -high, -low) for face, low, high in stack]
    turned = {key: _half_turned(mesh) for key, mesh in meshes.items()}
    down = _with_ends(bolt, mirrored, faces, turned, mine.point, -way)
    first, other = (up, down) if _suits_head(bolt, up) >= _suits_head(bolt, down) else (down, up)
    return other if flipped else first


def _half_turned(mesh: Mesh) -> Mesh:
    """A mesh about its axis, looked at from the other end."""
    return Mesh(mesh.vertices * np.array([1.0, -1.0, -1.0]), mesh.faces)


def _gathered(
    bolt: TriedBolt, mine: FitFace, faces: Sequence[FitFace], way: Floats
) -> list[tuple[FitFace, float, float]]:
    """The bores on the axis of one, from its ends on without a long gap; wider ones take the head."""
    on_axis = []
    for face in faces:
        away = face.point - mine.point
        aside = float(np.linalg.norm(away - (away @ way) * way))
        alike = abs(float(face.way @ way)) >= _PARALLEL and aside < 0.25 * bolt.size.diameter
        widest = min(0.98 * bolt.head.across, _WIDEST * bolt.size.diameter)
        if face.kind != "flat" and face.hollow and alike and (face.least < widest or _is(face, mine)):
            middle = float(away @ way)
            on_axis.append((face, middle - face.depth / 2, middle + face.depth / 2))
    stack = [row for row in on_axis if _is(row[0], mine)]
    more = True
    while more:
        low, high = min(row[1] for row in stack), max(row[2] for row in stack)
        gap = _GAP * bolt.size.diameter
        added = [row for row in on_axis if row not in stack and row[1] <= high + gap and row[2] >= low - gap]
        stack += added
        more = bool(added)
    return sorted(_without_doubles(stack), key=lambda row: -row[2])


def _is(face: FitFace, other: FitFace) -> bool:
    return (face.body, face.feature) == (other.body, other.feature)


def _without_doubles(rows: list[tuple[FitFace, float, float]]) -> list[tuple[FitFace, float, float]]:
    """Halves of a bore, and flanks and crests of a thread, count once: the narrowest of each place of a
    body.
    """
    kept: list[tuple[FitFace, float, float]] = []
    for row in sorted(rows, key=lambda row: (row[0].pitch == 0, row[0].least)):
        face, low, high = row
        middle = (low + high) / 2
        if not any(face.body == other.body and below < middle < above for other, below, above in kept):
            kept.append(row)
    return kept


def _with_ends(
    bolt: TriedBolt,
    bores: list[tuple[FitFace, float, float]],
    faces: Sequence[FitFace],
    meshes: dict[BodyId, Mesh],
    point: Floats,
    way: Floats,
) -> BoreStack:
    """Find the faces that the stack opens to: at the end of a bore, or a chamfer beyond it."""
    # A countersink is as deep as its head; a chamfer is less than a third of the bolt.
    reach = max(0.35 * bolt.size.diameter, 1.3 * bolt.head.height if bolt.head.kind == "countersunk" else 0.0)
    tops = sorted(bores, key=lambda row: -row[2])
    top_face, _, top = tops[0]
    foot_face, foot, _ = min(bores, key=lambda row: row[1])
    everything = list(meshes.values())

    def face_at(end: float, body: BodyId, bore: float, out: float) -> float:
        levels = [
            float((face.point - point) @ way)
            for face in faces
            if face.kind == "flat" and face.body == body and float(face.way @ way) * out >= _PARALLEL
        ]
        near = sorted(
            {end, *(at for at in levels if 0 <= (at - end) * out <= reach)},
            key=lambda at: at * out,
        )
        for at in near:
            slab = sorted((at + out * NEAR_MM, at + out * (0.3 * bolt.size.diameter)))
            if nearest_between(everything, *slab) > 1.05 * bore / 2:
                return at
        return end

    return BoreStack(
        sorted(bores, key=lambda row: -row[2]),
        meshes,
        face_at(top, top_face.body, top_face.most, 1.0),
        face_at(foot, foot_face.body, foot_face.most, -1.0),
        point,
        way,
    )


def _suits_head(bolt: TriedBolt, stack: BoreStack) -> float:
    """How well an end suits the head: a countersink or a counterbore is made for one, else the more room."""
    if bolt.head.kind == "countersunk":
        return beside_cone(bolt, stack)
    over = nearest_between(stack.meshes, stack.top + NEAR_MM, stack.top + max(bolt.head.height, 1.0))
    in_counterbore = not math.isinf(over) and over >= bolt.across / 2
    return 1e6 if in_counterbore and bolt.head.kind != "hex" else min(over, 1e5)


def beside_cone(bolt: TriedBolt, stack: BoreStack) -> float:
    """How far material is from a countersunk head, at least, at six heights; negative where it does not go
    in.
    """
    head, least = bolt.head, math.inf
    for step in range(6):
        low, high = (head.height * (step + part) / 6 for part in (0.45, 0.55))
        radius = head.across / 2 + (bolt.size.diameter - head.across) / 2 * low / head.height
        free = nearest_between(stack.meshes, stack.top - high, stack.top - low)
        least = min(least, free - radius)
    return least
