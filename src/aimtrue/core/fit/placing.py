"""This module brings a body to another to try how they go together, without changing how either stands."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Literal

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.fit.faces import FitFace
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.lengths import parse_offset
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

PlaceKind = Literal["file", "axis", "face"]
KINDS: tuple[PlaceKind, ...] = ("file", "axis", "face")


class RelativePlace(Value):
    """Where a body is tried: as it lies in its file, axis to axis or face to face, and then moved.

    ``ranks`` are the flat faces that are laid against each other: the how many-th largest of each body.
    """

    kind: PlaceKind = "file"
    ranks: tuple[int, int] = (1, 1)
    offset_mm: Vec3 = (0.0, 0.0, 0.0)


AS_IN_FILE = RelativePlace()


_TYPED = re.compile(r"(?P<kind>file|axis|face)?\s*(?:(?P<a>\d+)\s*/\s*(?P<b>\d+)(?=\s|$))?\s*(?P<offset>.*)")


def parse_place(typed: str) -> RelativePlace:
    """Read ``file``, ``axis``, ``face`` or ``face 2/1``, an offset such as ``0, 0, 2.5 mm``, or both.

    Raises:
        Refused: it is neither.
    """
    match_ = _TYPED.fullmatch(typed.strip())
    assert match_ is not None
    kind, numbers = match_["kind"], match_["offset"].strip()
    parts = numbers.split(",") if numbers else ["0"] * 3
    if len(parts) != 3 or (match_["a"] and kind != "face"):
        raise Refused(
            "place-unreadable",
            f"“{typed.strip()}” is no place",
            remedy="write file, axis, face or face 2/1, an offset such as 0, 0, 2.5, or both",
        )
    x, y, z = (parse_offset(part.strip() or "0") for part in parts)
    ranks = (int(match_["a"] or 1), int(match_["b"] or 1))
    return RelativePlace(
        kind=next((literal for literal in KINDS if literal == kind), "file"), ranks=ranks, offset_mm=(x, y, z)
    )


class RigidMove(Value):
    """A turn, by rows, and then a shift in mm."""

    rows: tuple[Vec3, Vec3, Vec3] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    shift: Vec3 = (0.0, 0.0, 0.0)

    def points(self, points: Floats) -> Floats:
        """Move (n, 3) points."""
        return np.asarray(points @ np.asarray(self.rows).T + np.asarray(self.shift))

    def face(self, face: FitFace) -> FitFace:
        """Move a face."""
        point = self.points(face.point[None])[0]
        way = np.asarray(self.rows) @ face.way
        return replace(face, point=point, way=way, corners=self.points(face.corners))

    def then(self, offset: Vec3) -> RigidMove:
        """Return this move with a further shift after it."""
        return RigidMove(rows=self.rows, shift=as_vec3(np.asarray(self.shift) + np.asarray(offset)))


def onto_axis(come: FitFace, to: FitFace) -> RigidMove:
    """Return the move that brings the axis of one round face onto that of another, middle to middle.

    It turns as little as brings the axes together; an axis has no direction.

    Args:
        come: the face of the body that comes.
        to: the face of the body that stays.
    """
    return _move(come, to, _turn(come.way, to.way if float(come.way @ to.way) >= 0 else -to.way))


def onto_face(come: FitFace, to: FitFace) -> RigidMove:
    """Return the move that lays one flat face against another, middle to middle, and turns no more."""
    return _move(come, to, _turn(come.way, -to.way))


def _move(come: FitFace, to: FitFace, turn: Floats) -> RigidMove:
    a, b, c = (as_vec3(row) for row in turn)
    return RigidMove(rows=(a, b, c), shift=as_vec3(to.point - turn @ come.point))


def _turn(way: Floats, goal: Floats) -> Floats:
    """Return (3, 3): the least rotation of a unit vector onto another (Rodrigues)."""
    axis, cosine = np.cross(way, goal), float(way @ goal)
    if cosine < -1 + 1e-12:
        # Opposite: half a turn about anything square to it.
        square = np.cross(way, np.eye(3)[int(np.abs(way).argmin())])
        square /= np.linalg.norm(square)
        return np.asarray(2 * np.outer(square, square) - np.eye(3))
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + cross + cross @ cross / (1 + cosine))
