"""The features of a body, listed once and kept beside its geometry."""

from __future__ import annotations

import json
import struct
import zlib
from dataclasses import dataclass
from math import degrees
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.features.faces import FlatFace, RoundFace, Thread
from aimtrue.core.mesh.features.surfaces import surfaces
from aimtrue.core.mesh.features.walls import thickness
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

_AT_MOST = 400
_LOOKED = 8
"""How many triangles of a feature are looked through for the wall behind them."""
FULL_TURN = 359.0
"""Degrees from which a round face is a whole bore or boss."""

Kind = Literal["flat", "bore", "boss", "hollow arc", "arc", "thread", "hollow thread"]


class Feature(Value):
    """A flat or round face; lengths in numbers of the file, in its axes.

    Attributes:
        point: the middle of a flat face, or of the axis of a round one.
        direction: outward normal, or axis.
        off: how far corners are from the fitted plane or cylinder at most.
        diameter, depth, turn: of round faces only; ``turn`` in degrees. A thread's diameter is its outer one.
        pitch: of a thread; ``hand`` is 1 of a right-hand one, -1 of a left-hand one, 0 where it was not told.
        corners: vertices of the mesh on it: three that span a plane, or up to 24 around a cylinder.
        face: one of its triangles.
        wall, through, place: the thinnest material found behind it, the direction through that (unit), and
            where; 0 when the body has no other side there.
    """

    id: int
    kind: Kind
    point: Vec3
    direction: Vec3
    area: float
    off: float
    diameter: float = 0.0
    depth: float = 0.0
    turn: float = 0.0
    pitch: float = 0.0
    hand: int = 0
    corners: tuple[int, ...]
    face: int
    wall: float = 0.0
    through: Vec3 = (0.0, 0.0, 1.0)
    place: Vec3 = (0.0, 0.0, 0.0)

    @property
    def flat(self) -> bool:
        """Whether it is a flat face."""
        return self.kind == "flat"

    @property
    def screw(self) -> bool:
        """Whether it is a thread."""
        return self.kind in ("thread", "hollow thread")

    @property
    def whole(self) -> bool:
        """Whether it is a full turn: a bore or a boss."""
        return self.kind in ("bore", "boss")


@dataclass(frozen=True, eq=False)
class Features:
    """All features of a mesh, and to which of them each triangle belongs (-1: to none)."""

    listed: tuple[Feature, ...]
    of_face: NDArray[np.int16]

    def at(self, face: int) -> Feature | None:
        """Return the feature a triangle belongs to."""
        number = int(self.of_face[face]) if 0 <= face < len(self.of_face) else -1
        return self.listed[number] if number >= 0 else None


NONE = Features((), np.empty(0, np.int16))


def features_of(mesh: Mesh) -> Features:
    """Find the features of a mesh; of very many only the largest."""
    flats, rounds, threads = surfaces(mesh)
    every: list[FlatFace | RoundFace | Thread] = [*flats, *rounds, *threads]
    largest = sorted(every, key=lambda surface: -surface.area)[:_AT_MOST]
    # Bores matter however small they are.
    largest += [round_face for round_face in rounds if round_face.hollow and round_face not in largest][
        : _AT_MOST // 2
    ]
    of_face = np.full(mesh.triangles, -1, np.int16)
    listed = []
    for number, surface in enumerate(largest):
        of_face[surface.faces] = number
        listed.append(_feature(number, surface))
    return Features(_with_walls(listed, mesh, largest), of_face)


def _with_walls(
    listed: list[Feature], mesh: Mesh, found_surfaces: list[FlatFace | RoundFace | Thread]
) -> tuple[Feature, ...]:
    """Look through the material behind a few triangles of every feature."""
    if not listed:
        return ()
    looked = [
        surface.faces[np.linspace(0, len(surface.faces) - 1, min(_LOOKED, len(surface.faces))).astype(int)]
        for surface in found_surfaces
    ]
    faces = np.concatenate(looked)
    depth = thickness(mesh, faces)
    starts = np.cumsum([0, *(len(some) for some in looked)])
    rows = []
    for feature, start, end in zip(listed, starts[:-1], starts[1:], strict=True):
        if not np.isfinite(depth[start:end]).any():
            rows.append(feature)
            continue
        k = start + int(np.argmin(depth[start:end]))
        corners = mesh.vertices[mesh.faces[faces[k]]]
        cross = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        through = as_vec3(-cross / max(float(np.linalg.norm(cross)), 1e-300))
        update = {"wall": float(depth[k]), "through": through, "place": as_vec3(corners.mean(axis=0))}
        rows.append(feature.model_copy(update=update))
    return tuple(rows)


def _feature(number: int, surface: FlatFace | RoundFace | Thread) -> Feature:
    corners = tuple(int(corner) for corner in surface.corners)
    face = int(surface.faces[0])
    if isinstance(surface, FlatFace):
        return Feature(
            id=number, kind="flat", point=as_vec3(surface.point), direction=as_vec3(surface.normal),
            area=surface.area, off=surface.off, corners=corners, face=face,
        )  # fmt: skip
    thread = isinstance(surface, Thread)
    turn = 360 * surface.turns if isinstance(surface, Thread) else degrees(surface.turn)
    screw: Kind = "hollow thread" if surface.hollow else "thread"
    return Feature(
        id=number,
        kind=screw if thread else _round_kind(surface.hollow, turn),
        pitch=surface.pitch if isinstance(surface, Thread) else 0.0,
        hand=surface.hand if isinstance(surface, Thread) else 0,
        point=as_vec3(surface.centre),
        direction=as_vec3(surface.axis),
        area=surface.area,
        off=surface.off,
        diameter=2 * surface.radius,
        depth=surface.depth,
        turn=turn,
        corners=corners,
        face=face,
    )


def _round_kind(hollow: bool, turn: float) -> Kind:
    if turn >= FULL_TURN:
        return "bore" if hollow else "boss"
    return "hollow arc" if hollow else "arc"


def to_bytes(features: Features) -> bytes:
    """Pack features: the length of the list, the list as JSON, then the number per triangle, compressed."""
    head = json.dumps([feature.model_dump() for feature in features.listed]).encode()
    return struct.pack("<I", len(head)) + head + zlib.compress(features.of_face.astype("<i2").tobytes(), 3)


def from_bytes(data: bytes) -> Features:
    """Unpack what :func:`to_bytes` packed."""
    (length,) = struct.unpack_from("<I", data)
    listed = tuple(Feature.model_validate(load) for load in json.loads(data[4 : 4 + length]))
    of_face = np.frombuffer(zlib.decompress(data[4 + length :]), "<i2").astype(np.int16)
    return Features(listed, of_face)
