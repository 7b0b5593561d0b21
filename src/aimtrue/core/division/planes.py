"""Cutting planes: how they are typed, told apart, named, and spread over a body."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.lengths import parse_offset, written
from aimtrue.core.model.shaping import Plane
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3

_NORMALS: dict[Axis, Vec3] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
_SAME_MM = 1e-6
_SAME_WAY = 1e-9


def across(axis: Axis, at: float) -> Plane:
    """Return a plane square to an axis."""
    return Plane(normal=_NORMALS[axis], at=at)


def typed_plane(text: str) -> Plane:
    """Read ``z=120`` or ``0,0.5,1 @ 40 mm``: square to an axis, or along any direction.

    Raises:
        Refused: it is neither.
    """
    axis, equals, length = text.partition("=")
    if equals and axis.strip().lower() in AXES:
        return across(axis.strip().lower(), parse_offset(length))  # type: ignore[arg-type]
    way, at, length = text.partition("@")
    try:
        x, y, z = (float(one) for one in way.split(","))
        size = math.hypot(x, y, z)
    except ValueError:
        size = 0.0
    if not at or not math.isfinite(size) or size == 0:
        raise Refused("plane", f"“{text}” is no plane", remedy="write for example z=120, or 0,0.5,1 @ 40")
    return Plane(normal=(x / size, y / size, z / size), at=parse_offset(length))


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
        low, high = float(along.min()), float(along.max())
        grain = 1e-9 * max(abs(low), abs(high), high - low)
        if not low + grain < plane.at < high - grain:
            raise Refused(
                "plane-misses",
                f"plane {letter_of(number)} at {written(plane.at)} misses the body, "
                f"which reaches from {written(low)} to {written(high)} mm there",
                remedy="move it, or leave it out",
            )


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
    if normal[main] > 1 - _SAME_WAY:  # square to an axis, but for rounding
        return across(AXES[main], float(points[:, main].mean()))
    return Plane(normal=as_vec3(normal), at=float(normal @ points.mean(axis=0)))


def as_typed(plane: Plane) -> str:
    """Return a plane as :func:`typed_plane` reads it, to nine digits."""
    axis, at = axis_of(plane), f"{plane.at + 0.0:.9g}"
    return f"{axis}={at}" if axis else f"{','.join(f'{one + 0.0:.9g}' for one in plane.normal)} @ {at}"
