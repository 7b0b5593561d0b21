"""This module goes from a picked wall and typed text to a thread: its size, its length and its clearance."""

from __future__ import annotations

from typing import Literal

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.features.listed import Feature, features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.division import AskThread
from aimtrue.core.model.lengths import parse_gap, parse_length
from aimtrue.core.model.shaping import ThreadCut
from aimtrue.core.model.threads import METRIC_THREADS, THREADS, UNIFIED_THREADS, ThreadSize, named_thread
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

_SUITS = (-0.15, 0.35)
"""A wall suits a thread when it is so much wider than what that wants, in pitches, as tapping drills are."""


class RoundWall(Value):
    """A bore or a boss that a thread can be put on.

    Attributes:
        face: a triangle of it.
        kind: which of these.
        diameter_mm, depth_mm: of it, in mm of the corrected body.
        at: the middle of its axis.
        cut, added: the coarse thread that suits when it is cut into the wall, or added to it; empty for none.
    """

    face: int
    kind: Literal["bore", "boss"]
    diameter_mm: float
    depth_mm: float
    at: Vec3
    cut: str
    added: str


def walls_of(mesh: Mesh) -> tuple[RoundWall, ...]:
    """List the whole bores and bosses of a body in mm, the largest surface first."""
    features = features_of(mesh)
    walls = []
    for feature in features.listed:
        if not _is_wall(feature):
            continue
        internal = feature.kind == "bore"
        suiting = [_suiting(feature.diameter, internal=internal, add=add) for add in (False, True)]
        cut, added = (size.name if size is not None else "" for size in suiting)
        walls.append(
            RoundWall(
                face=int(np.flatnonzero(features.of_face == feature.id)[0]),
                kind="bore" if internal else "boss",
                diameter_mm=feature.diameter,
                depth_mm=feature.depth,
                at=feature.point,
                cut=cut,
                added=added,
            )
        )
    return tuple(walls)


def _is_wall(feature: Feature) -> bool:
    return not feature.flat and not feature.screw and feature.turn > 359


def thread_asked(asked: AskThread, mesh: Mesh) -> ThreadCut:
    """Return the thread that is asked for.

    Args:
        asked: as it was typed, with a triangle of the wall.
        mesh: the body, in mm.

    Raises:
        Refused: the wall is not round, the thread does not suit it, or a length makes no sense.
    """
    feature = _picked_wall(asked, mesh)
    internal = feature.kind == "bore"
    wall = feature.diameter
    typed = asked.size.strip()
    size = named_thread(typed) if typed else _by_wall(wall, internal=internal, add=asked.add)
    _refuse_unsuitable(size, wall, internal=internal, add=asked.add)
    way, middle = np.asarray(feature.direction), np.asarray(feature.point)
    half = feature.depth / 2
    length = _length(asked, size, feature)
    return ThreadCut(
        point=as_vec3(middle),
        way=as_vec3(way),
        start=as_vec3(plane_axes(way)[0]),
        low=half - length,
        high=half,
        wall=wall,
        diameter=size.diameter,
        pitch=size.pitch,
        internal=internal,
        add=asked.add,
        play=_play(asked, size),
        left=asked.left,
    )


def _picked_wall(asked: AskThread, mesh: Mesh) -> Feature:
    feature = features_of(mesh).at(asked.picks[0].face)
    if feature is None or not _is_wall(feature):
        raise Refused(
            "thread-wall",
            "this is no whole bore or boss",
            remedy="pick the wall of a round hole or of a shaft",
        )
    return feature


def _play(asked: AskThread, size: ThreadSize) -> float:
    play = parse_gap(asked.clearance) if asked.clearance.strip() else 0.0
    if play > size.pitch / 2:
        raise Refused(
            "thread-clearance",
            f"a clearance of {play:g} mm leaves little of a pitch of {size.pitch:g} mm",
            remedy=f"type at most {size.pitch / 2:g} mm",
        )
    return play


def _length(asked: AskThread, size: ThreadSize, feature: Feature) -> float:
    length = parse_length(asked.length) if asked.length.strip() else feature.depth
    if length > feature.depth * (1 + 1e-9):
        raise Refused(
            "thread-length",
            f"the wall is {feature.depth:.4g} mm long, {length:.4g} mm of thread are not",
            remedy="type a shorter length, or none for all of it",
        )
    if length < size.pitch:
        raise Refused(
            "thread-length",
            f"{length:.4g} mm are less than one pitch of {size.name}, {size.pitch:.4g} mm",
            remedy="choose a finer thread",
        )
    return length


def _wanted(size: ThreadSize, *, internal: bool, add: bool) -> float:
    """The diameter of a wall that a thread suits: what it is cut into, or what its ridges stand on."""
    if internal:
        return size.diameter if add else size.minor
    return size.root if add else size.diameter


def _nearest(wall: float, *, internal: bool, add: bool) -> tuple[ThreadSize, float]:
    """The coarse thread whose wall is nearest to a diameter, and the diameter that it wants."""
    coarse = [size for size in THREADS if size.coarse]
    near = min(coarse, key=lambda size: abs(_wanted(size, internal=internal, add=add) - wall) / size.pitch)
    return near, _wanted(near, internal=internal, add=add)


def _suiting(wall: float, *, internal: bool, add: bool) -> ThreadSize | None:
    """The coarse thread that suits a wall; metric ones are looked through before inch ones."""
    for systems in (METRIC_THREADS, UNIFIED_THREADS):
        for size in systems:
            wider = (wall - _wanted(size, internal=internal, add=add)) / size.pitch
            if size.coarse and _SUITS[0] <= (wider if internal else -wider) <= _SUITS[1]:
                return size
    return None


def _by_wall(wall: float, *, internal: bool, add: bool) -> ThreadSize:
    size = _suiting(wall, internal=internal, add=add)
    if size is not None:
        return size
    near, wanted = _nearest(wall, internal=internal, add=add)
    raise Refused(
        "thread-size",
        f"no coarse thread suits a diameter of {wall:.4g} mm; {near.name} wants {wanted:.4g} mm",
        remedy="type a size, or change the diameter",
    )


def _refuse_unsuitable(size: ThreadSize, wall: float, *, internal: bool, add: bool) -> None:
    """Refuse a thread that would be cut into nothing, or added beyond its own depth."""
    depth = size.diameter - (size.minor if internal else size.root)
    wanted = _wanted(size, internal=internal, add=add)
    if abs(wanted - wall) <= 0.75 * depth:
        return
    what = "bore" if internal else "boss"
    raise Refused(
        "thread-size",
        f"{size.name} is {'added to' if add else 'cut into'} a {what} of about {wanted:.4g} mm; "
        f"this one has {wall:.4g} mm",
        remedy="choose another size, or change the diameter first",
    )
