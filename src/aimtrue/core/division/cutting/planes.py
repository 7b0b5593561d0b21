"""Cutting planes: how they are typed, told apart, named, and spread over a body."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

import numpy as np
import scipy

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.lengths import parse_offset, written
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.shaping import Plane, PlaneSide
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3

_NORMALS: dict[Axis, Vec3] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
_NOWHERE = np.zeros((2, 3))
_TILT = re.compile(r"\s*(\S+)\s*(?:°|deg)?\s+about\s+([xyz])\s*", re.IGNORECASE)
_SIDE = re.compile(r"\s*(above|below)\s+([a-z]+)\s*", re.IGNORECASE)
_SAME_MM = 1e-3
"""Planes nearer to each other than this are taken for one: between them would be a slice of a micrometre."""
_BESIDE = 64
"""Spacings of float32: a plane nearer to a flat face than this is meant to be in it."""
_SAME_WAY = 1e-9


def across(axis: Axis, at: float) -> Plane:
    """Return a plane square to an axis."""
    return Plane(normal=_NORMALS[axis], at=at)


def typed_plane(text: str, bounds: Floats = _NOWHERE) -> Plane:
    """Read a plane as it is typed.

    It is square to an axis (``z=120``, or ``z=12 from low`` and ``z=12 from high``, of the body's ends), or
    along any direction (``0,0.5,1 @ 40 mm``). After that it may be ``tilted 15 about x``, more turns joined
    by ``and``: about the place on it that is straight from the middle of the body. It may be limited to one
    piece: ``where above A, below B``.

    Args:
        text: as it was typed.
        bounds: (2, 3) of the body in mm.

    Raises:
        Refused: it is none of these.
    """
    rest, _, where = parted(text, " where ")
    place, _, tilts = parted(rest, " tilted ")
    plane = _untilted(place, bounds, text)
    for tilt in re.split(r"\band\b|,", tilts) if tilts else ():
        plane = _tilted(plane, tilt, bounds.mean(axis=0), text)
    only = sides_of(where, text) if where else ()
    return plane.model_copy(update={"only": only}) if only else plane


def parted(text: str, word: str) -> tuple[str, str, str]:
    """Return what stands before a word, the word, and what stands after it; empty where it is not there."""
    before, separator, after = text.lower().partition(word)
    return text[: len(before)], separator, text[len(text) - len(after) :] if after else ""


def _no_plane(text: str) -> Refused:
    return Refused(
        "plane",
        f"“{text}” is no plane",
        remedy="write for example z=120, z=120 tilted 10 about x, or 0,0.5,1 @ 40",
    )


def _untilted(text: str, bounds: Floats, whole: str) -> Plane:
    axis, equals, length = text.partition("=")
    if equals and axis.strip().lower() in AXES:
        k = "xyz".index(axis.strip().lower())
        for word, end in ((" from low", 0), (" from high", 1)):
            if length.rstrip().lower().endswith(word):
                inward = parse_offset(length.rstrip()[: -len(word)])
                return across(AXES[k], float(bounds[end, k]) + (-inward if end else inward))
        return across(AXES[k], parse_offset(length))
    way, at, length = text.partition("@")
    try:
        x, y, z = (parse_number(number) for number in way.split(","))
        size = math.hypot(x, y, z)
    except (Refused, ValueError):
        size = 0.0
    if not at or not math.isfinite(size) or size == 0:
        raise _no_plane(whole)
    return Plane(normal=(x / size, y / size, z / size), at=parse_offset(length))


def _tilted(plane: Plane, text: str, middle: Floats, whole: str) -> Plane:
    """Turn a plane by the right-hand rule about an axis through the foot of the body's middle on it."""
    match_ = _TILT.fullmatch(text)
    if not match_:
        raise _no_plane(whole)
    try:
        degrees = parse_degrees(match_[1], zero=True)
    except Refused:
        raise Refused("plane", f"{match_[1]} is no tilt", remedy="type degrees from −360 to 360") from None
    normal = np.asarray(plane.normal)
    foot = middle + (plane.at - normal @ middle) * normal
    way = np.eye(3)["xyz".index(match_[2].lower())]
    turned = scipy.spatial.transform.Rotation.from_rotvec(math.radians(degrees) * way).apply(normal)
    return Plane(normal=as_vec3(turned), at=float(turned @ foot))


def sides_of(where: str, text: str) -> tuple[PlaneSide, ...]:
    """Read the sides of planes that a plane is limited to, such as ``above A, below B``.

    Raises:
        Refused: they are none; told with the whole ``text``.
    """
    return tuple(_side(side, text) for side in re.split(r"\band\b|,", where))


def _side(text: str, whole: str) -> PlaneSide:
    match_ = _SIDE.fullmatch(text)
    if not match_:
        raise Refused("plane", f"“{whole}” names no sides", remedy="write for example where above A, below B")
    number = 0
    for letter in match_[2].upper():
        number = 26 * number + ord(letter) - ord("A") + 1
    return PlaneSide(plane=number - 1, above=match_[1].lower() == "above")


def refuse_later(planes: Sequence[Plane]) -> None:
    """Refuse a plane that is limited by one that does not come before it."""
    for number, plane in enumerate(planes):
        for side in plane.only:
            if side.plane >= number:
                raise Refused(
                    "plane-order",
                    f"plane {letter_of(number)} is limited by {letter_of(side.plane)}, not one before it",
                    remedy="name a plane that comes before it",
                )


def axis_of(plane: Plane) -> Axis | None:
    """Return the axis that a plane is square to, looking along it; None of one that is tilted."""
    return next((axis for axis in AXES if plane.normal == _NORMALS[axis]), None)


def letter_of(number: int) -> str:
    """Name a plane as drawings do: A to Z, then AA and on."""
    before = letter_of(number // 26 - 1) if number >= 26 else ""
    return before + chr(ord("A") + number % 26)


def refuse_alike(planes: Sequence[Plane]) -> None:
    """Refuse planes that coincide, either way round."""
    for number, plane in enumerate(planes):
        for other in range(number):
            way = float(np.dot(plane.normal, planes[other].normal))
            theirs = planes[other].at if way > 0 else -planes[other].at
            if plane.only != planes[other].only:
                continue
            if abs(abs(way) - 1) < _SAME_WAY and abs(plane.at - theirs) < _SAME_MM:
                raise Refused(
                    "planes-alike",
                    f"planes {letter_of(other)} and {letter_of(number)} are one and the same",
                    remedy="move one, or leave it out",
                )


def refuse_missing(planes: Sequence[Plane], points: Floats) -> None:
    """Refuse a plane that does not go through (n, 3) points of a body, or only grazes it."""
    for number, plane in enumerate(planes):
        along = points @ np.asarray(plane.normal)
        if not _between(plane.at, along):
            low, high = float(along.min()), float(along.max())
            raise Refused(
                "plane-misses",
                f"plane {letter_of(number)} at {written(plane.at)} misses the body, "
                f"which reaches from {written(low)} to {written(high)} mm there",
                remedy="move it, or leave it out",
            )


def in_faces(planes: Sequence[Plane], mesh: Mesh) -> tuple[Plane, ...]:
    """Return planes moved into the flat faces that they are a hair beside.

    A file cannot carry what would be left between the two, so a plane typed as 39.999999 beside a face at
    40 is the plane at 40.

    Args:
        planes: as they were typed.
        mesh: of the body, in mm.
    """
    grain = _BESIDE * float(np.spacing(np.float32(np.abs(mesh.vertices).max())))
    return tuple(_in_face(plane, mesh, grain) for plane in planes)


def _in_face(plane: Plane, mesh: Mesh, grain: float) -> Plane:
    along = mesh.vertices @ np.asarray(plane.normal)
    near = np.abs(along - plane.at) <= grain
    flat = mesh.faces[near[mesh.faces].all(axis=1)]
    if not len(flat):
        return plane
    heights = along[flat].mean(axis=1)
    at = float(heights[np.abs(heights - plane.at).argmin()])
    return plane if at == plane.at else plane.model_copy(update={"at": at})


def those_that_meet(planes: Sequence[Plane], points: Floats) -> tuple[Plane, ...]:
    """Return the planes of many bodies that go through one, by its (n, 3) points, as planes for it alone.

    One that is limited by a plane which does not meet the body is limited no more, if the body is on that
    side of it, else left out.
    """
    kept: list[Plane] = []
    number: dict[int, int] = {}
    sides: dict[int, bool] = {}
    for i, plane in enumerate(planes):
        along = points @ np.asarray(plane.normal)
        if not _between(plane.at, along):
            sides[i] = bool(along.mean() > plane.at)
        elif all(
            sides.get(plane_side.plane, plane_side.above) is plane_side.above for plane_side in plane.only
        ):
            left = tuple(
                PlaneSide(plane=number[plane_side.plane], above=plane_side.above)
                for plane_side in plane.only
                if plane_side.plane in number
            )
            number[i] = len(kept)
            kept.append(plane.model_copy(update={"only": left}))
    return tuple(kept)


def _between(at: float, along: Floats) -> bool:
    """Tell whether a plane goes through what lies along its normal, and does not only graze it."""
    low, high = float(along.min()), float(along.max())
    grain = 1e-9 * max(abs(low), abs(high), high - low)
    return low + grain < at < high - grain


def evenly(axis: Axis, low: float, high: float, count: int) -> tuple[Plane, ...]:
    """Return the planes that divide a length into as many even ones."""
    return tuple(across(axis, low + (high - low) * number / count) for number in range(1, count))


def plane_through(points: Floats) -> Plane:
    """Return the plane through three points, facing as far up as it can.

    Raises:
        Refused: they lie on one line.
    """
    way = np.cross(points[1] - points[0], points[2] - points[0])
    size = float(np.linalg.norm(way))
    longest = max(float(np.linalg.norm(points[i] - points[j])) for i, j in ((0, 1), (0, 2), (1, 2)))
    if size <= 1e-9 * longest**2:
        raise Refused("plane", "these places lie on one line", remedy="pick three that do not")
    normal = way / size
    main = int(np.abs(normal).argmax())
    normal = -normal if normal[main] < 0 else normal
    if normal[main] > 1 - _SAME_WAY:  # The plane is square to an axis but for rounding.
        return across(AXES[main], float(points[:, main].mean()))
    return Plane(normal=as_vec3(normal), at=float(normal @ points.mean(axis=0)))


def as_typed(plane: Plane) -> str:
    """Return a plane as :func:`typed_plane` reads it, to nine digits."""
    axis, at = axis_of(plane), f"{plane.at + 0.0:.9g}"
    place = f"{axis}={at}" if axis else f"{','.join(f'{number + 0.0:.9g}' for number in plane.normal)} @ {at}"
    return f"{place} where {sides_said(plane.only)}" if plane.only else place


def sides_said(sides: Sequence[PlaneSide]) -> str:
    """Return sides of planes in words, such as "above A, below B"."""
    return ", ".join(f"{'above' if side.above else 'below'} {letter_of(side.plane)}" for side in sides)
