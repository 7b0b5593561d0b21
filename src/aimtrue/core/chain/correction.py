"""This module says how a typed size or factor becomes a correction.

Linked axes share every change; a free axis is left out of it and is set alone. What readings
ask for is solved in :mod:`aimtrue.core.truing.solving.solve`.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.chain.transforms import turn_up
from aimtrue.core.errors import Refused
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, TypedSize
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Up
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3

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
        return checked(now, factors, set_by).model_copy(update={"absolute": False})
    index = AXES.index(axis)
    old = now.factors[index]
    # Where the axes were alike, all get just what was typed, to the last bit.
    factors = [
        (factor if mine == old else mine * factor / old) if follows else mine
        for mine, follows in zip(now.factors, _followers(now, index), strict=True)
    ]
    return checked(now, factors, set_by).model_copy(update={"absolute": False})


def corrected(job: Job, bodies: tuple[Body, ...], correction: Correction) -> Job:
    """Give bodies a correction; those that mate with a real part refuse another size."""
    for body in bodies:
        if body.as_drawn and (correction.factors, correction.along) != (
            job.correction_of(body).factors,
            job.correction_of(body).along,
        ):
            raise Refused(
                "as-drawn",
                f"{body.name} is kept as drawn because it mates with a real part",
                remedy="let it be corrected, take it out of the kit, or correct the others alone",
            )
    for body in bodies:  # The first body of a kit is typed for all of them.
        if job.correction_of(body) is not correction:
            job = job.with_decisions(job.body(body.id), correction=correction)
    return job


def for_other_unit(now: Correction, old_mm: float, new_mm: float) -> Correction:
    """Return the correction after a source turns out to be in another unit.

    A correction that comes from a real size keeps that size: who typed 139.7 mm under the wrong unit
    meant 139.7 mm. One that comes from a typed factor keeps the factor.

    Args:
        now: the correction in force.
        old_mm: millimetres per unit so far.
        new_mm: millimetres per unit from now on.
    """
    # What was typed and does not hold any more is no longer claimed: sizes where factors stay, or factors.
    typed = tuple(typed_size for typed_size in now.typed if bool(typed_size.bodies) == now.absolute)
    if not now.absolute:
        return now.model_copy(update={"typed": typed})
    factors = checked(now, [factor * (old_mm / new_mm) for factor in now.factors], now.set_by)
    return factors.model_copy(update={"readings": now.readings, "typed": typed})


def for_other_up(now: Correction, old: Up, new: Up) -> Correction:
    """Return the correction after another axis points up: each factor stays with its side of the body."""
    sides = np.abs(turn_up(new) @ turn_up(old).T).argmax(axis=1)
    x, y, z = (now.factors[i] for i in sides)
    free, held = (tuple(flags[i] for i in sides) for flags in (now.free, now.held))
    along = now.along
    if along is not None:
        turned = turn_up(new) @ turn_up(old).T @ np.asarray(along.direction)
        along = along.model_copy(update={"direction": as_vec3(turned)})
    update = {"factors": (x, y, z), "free": free, "held": held, "along": along, "typed": ()}
    return now.model_copy(update=update)


def _followers(now: Correction, index: int) -> tuple[bool, ...]:
    """Which axes change when one is typed: it alone when free, all linked ones otherwise."""
    if now.free[index]:
        return tuple(i == index for i in range(3))
    return tuple(not free for free in now.free)


def _stretched(now: Correction, ratio: float, followers: tuple[bool, ...], set_by: str) -> Correction:
    return checked(
        now, [f * ratio if go else f for f, go in zip(now.factors, followers, strict=True)], set_by
    )


def checked(now: Correction, factors: list[float], set_by: str) -> Correction:
    """Return a correction with other factors, each between a millionth and a million.

    Raises:
        Refused: a factor is beyond that.
    """
    if not all(math.isfinite(f) and _LEAST <= f <= _GREATEST for f in factors):
        raise Refused(
            "factor-absurd",
            "this would change the size over a million times",
            remedy="check the unit of the file and the typed length",
        )
    still = tuple(
        typed
        for typed in now.typed
        if typed.axis is not None and factors[AXES.index(typed.axis)] == now.factors[AXES.index(typed.axis)]
    )
    update = {"factors": tuple(factors), "set_by": set_by, "readings": (), "typed": still}
    return now.model_copy(update=update)


def as_typed(
    correction: Correction, axis: Axis | None, text: str, bodies: tuple[Body, ...] = ()
) -> Correction:
    """Note what was typed with the correction that was made of it; for a size, of which bodies."""
    typed = TypedSize(axis=axis, text=" ".join(text.split()), bodies=tuple(body.id for body in bodies))
    return correction.model_copy(
        update={"typed": (*(old for old in correction.typed if old.axis != axis), typed)}
    )
