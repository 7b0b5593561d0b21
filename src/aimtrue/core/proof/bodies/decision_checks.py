"""This module says what was decided of sizes, each a line of its own: kept bores, allowance, typed sizes,
readings.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.value import AXES
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.bodies.readings import check as _reading_check
from aimtrue.core.proof.bodies.readings import lengths, plain_factor, plain_length, plain_offset
from aimtrue.core.proof.ownership import OwnedValues, kept_together
from aimtrue.core.proof.values import Check, judged, length, same

_MISSED = "reading-missed"
"""The acceptance of a reading that should drive and is missed."""


def bore_checks(part: ProvenBody) -> list[Check]:
    """Each kept bore: its diameter in the file, what makes up for shrinkage taken off."""
    checks = []
    for bore in part.body.kept:
        if part.matched is None:
            continue
        mine = np.flatnonzero(part.matched.source >= 0)
        faces = part.original.faces[part.matched.source[mine]]
        numbers = part.original.points[faces].reshape(-1, 3)
        here = part.chain.on_wall(numbers, bore)
        if not here.any():
            continue
        which, corner = np.flatnonzero(here) // 3, np.flatnonzero(here) % 3
        turned = (corner - part.matched.turned[mine[which]]) % 3
        points = part.chain.unturned(part.found[mine[which], turned] - part.claim.place)
        axis = part.chain.matrix @ np.array(bore.direction)
        axis = axis / np.linalg.norm(axis)
        middle = part.chain.matrix @ np.array(bore.point) + part.chain.shift
        away = points - middle
        across = 2 * np.linalg.norm(away - np.outer(away @ axis, axis), axis=1)
        want = part.chain.bore_mm(bore)
        limit = 4 * part.limit * math.sqrt(3)
        off = float(abs(across - want).max())
        checks.append(
            judged(
                "bore",
                f"kept bore of {part.body.name}, as the file has it",
                f"{want:.5f} mm",
                f"{across.mean():.5f} mm",
                off,
                limit,
            )
        )
    return checks


def allowance_checks(part: ProvenBody) -> list[Check]:
    """Clearance and shrinkage: what they add to the size that the readings make true."""
    clearance, shrinkage, checks = part.body.clearance, part.chain.shrinkage, _allowances_typed(part)
    if not any((*clearance.mm, *shrinkage.shares)):
        return checks
    if part.matched is None or part.strange:
        return checks
    # Kept bores take no part: where a body became small around one, they reach beyond it.
    plain = np.ones(3 * len(part.found), dtype=bool)
    for bore in part.body.kept:
        plain &= ~part.chain.on_wall(part.in_order(), bore)
    corners = part.found.reshape(-1, 3)[plain]
    sizes = part.sizes(corners)
    bare = np.ptp(part.true(part.in_file(part.in_order()[plain])), axis=0)
    limit = 4 * part.limit * math.sqrt(3) + 1e-9 * float(sizes.max())
    for i, axis in enumerate(AXES):
        # One that would leave nothing of the body is not applied; a finding tells it.
        share, more = shrinkage.shares[i], clearance.mm[i] if bare[i] + clearance.mm[i] > 0 else 0.0
        if more:
            says = f"clearance {axis.upper()} of {part.body.name}"
            checks.append(length("clearance", says, more, sizes[i] * (1 - share) - bare[i], limit))
        if share:
            shrunk = 1 - (bare[i] + more) / sizes[i] if sizes[i] > 0 else share
            near = limit / max(float(sizes[i]), 1e-300)
            checks.append(
                judged(
                    "shrinkage",
                    f"shrinkage {axis.upper()} of {part.body.name}",
                    f"{100 * share:.4g} %",
                    f"{100 * shrunk:.4g} %",
                    abs(share - shrunk),
                    near,
                )
            )
    return checks


def _allowances_typed(part: ProvenBody) -> list[Check]:
    """Clearance and shrinkage in force against what was typed."""
    clearance, shrinkage, checks = part.body.clearance, part.chain.shrinkage, list[Check]()
    for axis, text, mm in zip(AXES, clearance.typed, clearance.mm, strict=True):
        typed = plain_offset(text)
        if typed is not None:
            says = f"clearance {axis.upper()} of {part.body.name} as it was typed, {text}"
            checks.append(length("clearance-typed", says, typed, mm, 1e-9))
    for axis, text, share in zip(AXES, shrinkage.typed, shrinkage.shares, strict=True):
        percent = plain_offset(text.replace("%", ""))
        if percent is not None:
            good = math.isclose(percent / 100, share, rel_tol=1e-9, abs_tol=1e-12)
            says = f"shrinkage {axis.upper()} of {part.body.name} as it was typed"
            checks.append(same("shrinkage-typed", says, text, text if good else f"{100 * share:.6g} %"))
    return checks


def typed_checks(parts: list[ProvenBody]) -> list[Check]:
    """Hold sizes and factors that were typed and are in force against the file; typed alike for a kit,
    once.
    """
    by_body = {part.body.id: part for part in parts}
    checks: dict[tuple[str, ...], Check] = {}
    for part in parts:
        for typed in part.chain.correction.typed:
            key = (typed.axis or "", typed.text, *typed.bodies)
            size = plain_length(typed.text)
            if typed.bodies and size is not None and set(typed.bodies) <= set(by_body) and key not in checks:
                some = [by_body[body] for body in typed.bodies]
                axis = AXES.index(typed.axis or "x")
                ends = np.concatenate([each.true(each.found.reshape(-1, 3))[:, axis] for each in some])
                limit = 4 * max(each.limit for each in some) * math.sqrt(3) + 2 * max(
                    each.slack for each in some
                )
                says = f"{(typed.axis or '').upper()} as it was typed, {typed.text}"
                if not part.body.kept and not any(each.strange for each in some):
                    checks[key] = length("typed", says, size, float(np.ptp(ends)), limit)
            factor = None if typed.bodies else plain_factor(typed.text)
            if factor is not None:
                axes = (
                    [AXES.index(typed.axis)]
                    if typed.axis
                    else [i for i in range(3) if not part.chain.correction.free[i]]
                )
                have = [part.chain.correction.factors[i] for i in axes]
                good = all(math.isclose(value, factor, rel_tol=1e-9) for value in have)
                said = " / ".join(f"{value:.9g}" for value in have)
                row = same(
                    "typed",
                    f"factor of {part.body.name} as it was typed",
                    typed.text,
                    typed.text if good else said,
                )
                checks[(part.body.id, *key)] = row
    return list(checks.values())


def reading_checks(job: OwnedValues, parts: list[ProvenBody]) -> list[Check]:
    """Measure readings again on what was released."""
    by_body = {part.body.id: part for part in parts}
    checks = []
    for reading in job.readings:
        if not reading.has_length or reading.lost or reading.role == "ignore" or reading.body not in by_body:
            continue
        measured = _measured(job, reading, by_body)
        shown = by_body[reading.body].claim.lengths.get(reading.id)
        if measured is not None and shown is not None:
            met = by_body[reading.body].claim.met.get(reading.id)
            may_miss = reading.role != "drive" or _MISSED in by_body[reading.body].body.accepted
            checks.append(_reading_check(reading, shown, *measured, met, may_miss))
    return checks


def _measured(
    job: OwnedValues, reading: Reading, parts: dict[BodyId, ProvenBody]
) -> tuple[tuple[float, ...], tuple[float, ...], float] | None:
    """Return the lengths of a gauge by the chain and in the file, and how far they may be apart."""
    gauge, part = reading.gauge, parts[reading.body]
    slack = 2 * (4 * part.limit * math.sqrt(3) + 2 * part.slack)
    if gauge.kind == "extent":
        keys = [body.id for body in kept_together(job, part.body)] if gauge.kit else [reading.body]
        if not set(keys) <= set(parts):
            return None
        axis = AXES.index(gauge.axis or "x")
        asked = np.concatenate(
            [
                proven_body.true(proven_body.asked_corners.reshape(-1, 3))
                for proven_body in map(parts.get, keys)
                if proven_body
            ]
        )
        distances = np.concatenate(
            [
                proven_body.true(proven_body.found.reshape(-1, 3))
                for proven_body in map(parts.get, keys)
                if proven_body
            ]
        )
        return (float(np.ptp(asked[:, axis])),), (float(np.ptp(distances[:, axis])),), slack
    if gauge.kind == "angle" or _on_kept(part, reading):
        return None
    points = np.array(gauge.points, dtype=np.float64)
    other = parts.get(gauge.other) if gauge.other else part
    if other is None:
        return None
    halves = [(part, points)] if other is part else list(zip((part, other), np.split(points, 2), strict=True))
    carried = [proven_body.carried(gauge, some) for proven_body, some in halves]
    if any(some is None for some in carried):
        return None
    by_chain = np.concatenate(
        [
            proven_body.true(proven_body.chain.plain(some) + proven_body.claim.place)
            for proven_body, some in halves
        ]
    )
    in_file = np.concatenate(
        [
            proven_body.true(some)
            for (proven_body, _), some in zip(halves, carried, strict=True)
            if some is not None
        ]
    )
    want, have = lengths(gauge, by_chain), lengths(gauge, in_file)
    # A circle fitted to facets is as far off as its corners were in the file to begin with.
    fit = 2 * (gauge.off or 0.0) * float(abs(part.chain.matrix).max())
    return None if want is None or have is None else (want, have, slack + fit)


def _on_kept(part: ProvenBody, reading: Reading) -> bool:
    """Whether a round gauge is on a kept bore, which has a line of its own."""
    if reading.gauge.kind not in ("diameter", "radius"):
        return False
    near = 1e-6 * max(abs(value) for value in (*part.body.low, *part.body.high))
    return any(math.dist(bore.point, reading.gauge.points[0]) <= near for bore in part.body.kept)
