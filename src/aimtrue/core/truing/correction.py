"""How a typed size, factor or reading becomes a correction.

Linked axes share every change; a free axis is left out of it and is set alone.
With the true vector ``v`` of a gauge (mm, current factors), split into its linked
part and its free part, a common ratio ``k`` for the linked axes makes the gauge
``L`` long when ``k² |v_linked|² + |v_free|² = L²``.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.frames import turn_up
from aimtrue.core.job import AXES, Axis, Correction, Up, Vec3

_LEAST, _GREATEST = 1e-6, 1e6


def scaled_to_size(now: Correction, sizes: Vec3, axis: Axis, target_mm: float, set_by: str) -> Correction:
    """Return the correction that gives one axis a size; linked axes follow a linked one.

    Args:
        now: the correction in force.
        sizes: extents in mm with ``now`` applied.
        axis: the axis whose size is typed.
        target_mm: the size it shall have.
        set_by: what to say the factors come from.

    Raises:
        Refused: the body has no size along the axis, or the factor is absurd.
    """
    index = AXES.index(axis)
    if sizes[index] <= 0:
        raise Refused(
            "axis-flat",
            f"the body is flat along {axis.upper()}, so it cannot be scaled to a size there",
            remedy="type the size of another axis",
        )
    stretched = _stretched(now, target_mm / sizes[index], _followers(now, index), set_by)
    return stretched.model_copy(update={"absolute": True})


def with_factor(now: Correction, axis: Axis | None, factor: float, set_by: str) -> Correction:
    """Return the correction with a factor typed for one axis, or for all linked axes.

    The typed number is the whole factor from file to true size. Linked axes keep
    their ratio to the typed axis.
    """
    if axis is None:
        followers = tuple(not free for free in now.free)
        if not any(followers):
            raise Refused(
                "all-free",
                "every axis is freed, so there is none that a common factor could set",
                remedy="link an axis, or type the factor of one axis",
            )
        factors = [factor if f else old for old, f in zip(now.factors, followers, strict=True)]
        return _checked(now, factors, set_by).model_copy(update={"absolute": False})
    index = AXES.index(axis)
    return _stretched(now, factor / now.factors[index], _followers(now, index), set_by)


def scaled_to_reading(now: Correction, gauge: Vec3, real_mm: float, set_by: str, reading: str) -> Correction:
    """Return the correction that makes a gauge its real length.

    Args:
        now: the correction in force.
        gauge: the gauge as a vector in mm in the true frame, ``now`` applied.
        real_mm: the length it shall have.
        set_by: what to say the factors come from.
        reading: id of the reading that drives.

    Raises:
        Refused: the gauge has no length, or lies so along freed axes that the linked
            ones cannot make it right.
    """
    squares = np.square(gauge)
    linked = np.array([not free for free in now.free])
    part, fixed = float(squares[linked].sum()), float(squares[~linked].sum())
    if part + fixed <= 0:
        raise Refused(
            "gauge-no-length", "the two places are the same point", remedy="pick two different places"
        )
    freed = ", ".join(axis.upper() for axis, free in zip(AXES, now.free, strict=True) if free)
    if part <= 1e-12 * fixed:
        raise Refused(
            "gauge-on-free-axis",
            f"this gauge lies along {freed}, which is freed and does not follow",
            remedy=f"link {freed} again, or type its size",
        )
    if fixed >= real_mm * real_mm:
        raise Refused(
            "gauge-out-of-reach",
            f"the freed axis {freed} alone already makes this gauge {math.sqrt(fixed):.4g} mm long",
            remedy=f"link {freed} again, or type its size",
        )
    ratio = math.sqrt((real_mm * real_mm - fixed) / part)
    followers = (bool(linked[0]), bool(linked[1]), bool(linked[2]))
    return _stretched(now, ratio, followers, set_by).model_copy(update={"reading": reading, "absolute": True})


def for_other_unit(now: Correction, old_mm: float, new_mm: float) -> Correction:
    """Return the correction after a source turns out to be in another unit.

    A correction that comes from a real size keeps that size: who typed 139.7 mm under the wrong unit
    meant 139.7 mm. One that comes from a typed factor keeps the factor.

    Args:
        now: the correction in force.
        old_mm: millimetres per unit so far.
        new_mm: millimetres per unit from now on.
    """
    if not now.absolute:
        return now
    factors = _checked(now, [factor * (old_mm / new_mm) for factor in now.factors], now.set_by)
    return factors.model_copy(update={"reading": now.reading})


def for_other_up(now: Correction, old: Up, new: Up) -> Correction:
    """Return the correction after another axis points up: each factor stays with its side of the body."""
    sides = np.abs(turn_up(new) @ turn_up(old).T).argmax(axis=1)
    x, y, z = (now.factors[i] for i in sides)
    free_x, free_y, free_z = (now.free[i] for i in sides)
    return now.model_copy(update={"factors": (x, y, z), "free": (free_x, free_y, free_z)})


def _followers(now: Correction, index: int) -> tuple[bool, ...]:
    """Which axes change when one is typed: it alone when free, all linked ones otherwise."""
    if now.free[index]:
        return tuple(i == index for i in range(3))
    return tuple(not free for free in now.free)


def _stretched(now: Correction, ratio: float, followers: tuple[bool, ...], set_by: str) -> Correction:
    return _checked(
        now, [f * ratio if go else f for f, go in zip(now.factors, followers, strict=True)], set_by
    )


def _checked(now: Correction, factors: list[float], set_by: str) -> Correction:
    if not all(math.isfinite(f) and _LEAST <= f <= _GREATEST for f in factors):
        raise Refused(
            "factor-absurd",
            "this would change the size over a million times",
            remedy="check the unit of the file and the typed length",
        )
    return now.model_copy(update={"factors": tuple(factors), "set_by": set_by, "reading": None})
