"""This module says what a correction changes that it should not: bolt holes, walls, gaps between bodies
that work together.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.bolts import BoltSuitability
from aimtrue.core.model.finding import Finding, FindingKind, Severity
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, written
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import groups_of
from aimtrue.core.model.value import Vec3
from aimtrue.core.truing.effects.drawn_features import (
    BodiesAsDrawn,
    BodyAsDrawn,
    LinearMap,
    across,
    drawn_of,
    joined,
    linear_of,
)
from aimtrue.core.truing.effects.gaps import gaps_of
from aimtrue.core.truing.finding_kinds import BOLT_HOLES, GAP, KIT_MIXED, THIN_WALL, THREAD

_SEEN = 0.005
"""A change under this, in mm, is none."""
_MOST_PLACES = 24
_WORDS = ("thread", "screw", "bolt", "nut", "tapped")
_OF_BODIES: Memo[tuple[Finding, ...]] = Memo(8192)


def change_findings(job: Job, store: GeometryStore) -> list[Finding]:
    """Return what corrections change that they should not, with before and after; and walls too thin.

    Only bodies whose unit is settled are looked at; those whose correction is 1 only for their walls, and
    only when their features are listed already.
    """
    findings: list[Finding] = []
    for whole_group in groups_of(job):
        # What was made of others is made in mm of the corrected body: no correction changes it.
        group = tuple(body for body in whole_group if body.division is None)
        if not group or not job.settled(group):
            continue
        findings += [finding for some in _known(job, group, store) for finding in some]
        changed = tuple(body for body in group if _changed(job, body))
        findings += _gap_findings(job, changed, store) + _alone_findings(job, group)
    return findings


def _changed(job: Job, body: Body) -> bool:
    correction = job.correction_of(body)
    return correction.factors != (1.0, 1.0, 1.0) or correction.along is not None


def _known(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> list[tuple[Finding, ...]]:
    """Return the findings of each body; of those not known yet all at once, since a kit changes as one."""
    limits = (job.machine.process.bead, job.least_wall_mm)
    inputs = [job.in_force(body) for body in bodies]
    return _OF_BODIES.get_all(
        inputs, limits, lambda missing: _of_bodies(job, [bodies[i] for i in missing], store)
    )


def _of_bodies(job: Job, bodies: list[Body], store: GeometryStore) -> list[tuple[Finding, ...]]:
    findings: dict[str, tuple[Finding, ...]] = {}
    alike: dict[LinearMap, list[Body]] = {}
    for body in bodies:
        if body.features or _changed(job, body):
            alike.setdefault(linear_of(job.correction_of(body)), []).append(body)
    for linear, some in alike.items():
        drawn = tuple(drawn_of(job, body, store) for body in some)
        thin, bores = _thin_walls(job, joined(drawn), linear), _changed_bores(joined(drawn), linear)
        for i, (body, shape) in enumerate(zip(some, drawn, strict=True)):
            rows = _wall_findings(job, body, shape, thin[i])
            if _changed(job, body):
                rows += _bore_findings(body, shape, bores[i]) + _thread_findings(job, body, shape, linear)
            findings[body.id] = tuple(rows)
    return [findings.get(body.id, ()) for body in bodies]


def _finding(
    body: Body, kind: FindingKind, severity: Severity, says: str, remedy: str, places: list[Vec3]
) -> Finding:
    return kind.found(
        severity=severity,
        count=max(1, len(places)),
        body=body.name,
        body_id=body.id,
        says=says,
        remedy=remedy,
        accepted=kind.code in body.accepted,
        places=tuple(places),
    )


_Bore = tuple[int, tuple[float, float, float]]
"""Which of the ``bolted`` of a body, and its diameters: as drawn, and the greatest and least it became."""


def _changed_bores(drawn: BodiesAsDrawn, linear: LinearMap) -> list[list[_Bore]]:
    """Return, for each of several bodies under one correction, which of its bores for bolts changed."""
    most, least = across(drawn.bolts, linear)
    before, most, least = drawn.sizes, most.round(4), least.round(4)
    seen = np.maximum(abs(most - before), abs(least - before)) >= _SEEN
    rows = list(zip(before.tolist(), most.tolist(), least.tolist(), strict=True))
    ends = drawn.bolt_ends
    numbers: list[list[_Bore]] = [[] for _ in ends[1:]]
    places = np.searchsorted(ends, np.flatnonzero(seen), side="right") - 1
    for row, place in zip(np.flatnonzero(seen).tolist(), places.tolist(), strict=True):
        numbers[place].append((row - ends[place], rows[row]))
    return numbers


def _bore_findings(body: Body, drawn: BodyAsDrawn, changed: list[_Bore]) -> list[Finding]:
    """Bores that suited a bolt and changed, gathered by size, and whether they still do."""
    kept = {bore.point for bore in body.kept}
    told_places: dict[tuple[str, str, bool], list[Vec3]] = {}
    for i, sizes in changed:
        bolted = drawn.bolted[i]
        places = [point for point in bolted.points if point not in kept] if kept else bolted.points
        if places:
            told_places.setdefault(_bore_words(bolted.suits, *sizes), []).extend(places)
    findings = []
    for (bolt, after, good), places in told_places.items():
        many = f"{len(places)} {bolt} bores" if len(places) > 1 else f"a {bolt} bore"
        says = f"{many} of {body.name} became {after}"
        severity: Severity = "note" if good else "look"
        says += "; the bolt still passes" if good else " and no longer suit"
        findings.append(_finding(body, BOLT_HOLES, severity, says, "keep-bores", places))
    return findings


@lru_cache(4096)
def _bore_words(suited: BoltSuitability, before: float, most: float, fewest: float) -> tuple[str, str, bool]:
    """The bolt, what a bore for it became, and whether it still passes."""
    after = f"{written(fewest)}" if most - fewest < _SEEN else f"{written(fewest)} × {written(most)}"
    good = suited.still(most) and suited.still(fewest)
    return suited.says, f"{after} (were {written(before)})", good


def _thin_walls(job: Job, drawn: BodiesAsDrawn, linear: LinearMap) -> list[tuple[Floats, Floats]]:
    """Return, for each of several bodies under one correction, which walls are too thin, and how thick all
    are.
    """
    after, ends = np.linalg.norm(drawn.walls @ linear.matrix.T, axis=1), drawn.wall_ends
    thin = np.flatnonzero(after < _least_wall(job) * (1 - 1e-9))
    first = np.searchsorted(thin, ends)
    return [
        (thin[first[i] : first[i + 1]] - ends[i], after[ends[i] : ends[i + 1]]) for i in range(len(ends) - 1)
    ]


def _least_wall(job: Job) -> float:
    return max(2 * job.machine.process.bead, job.least_wall_mm or 0.0)


def _wall_findings(job: Job, body: Body, drawn: BodyAsDrawn, walls: tuple[Floats, Floats]) -> list[Finding]:
    """Walls that cannot be made: under two beads, or under what was typed."""
    thin, after = walls
    if body.stray or not len(thin):  # A stray is told as such, and its walls do not matter.
        return []
    beads, least = 2 * job.machine.process.bead, _least_wall(job)
    worst = thin[after[thin].argmin()]
    now, before = float(after[worst]), float(np.linalg.norm(drawn.walls[worst]))
    typed = job.least_wall_mm and least > beads
    limit = f"{written(least)} mm" if typed else f"two beads, {written(least)} mm"
    lengths = (
        f"became {written(now)} (was {written(before)})"
        if abs(now - before) >= _SEEN
        else f"is {written(now)}"
    )
    says = f"a wall of {body.name} {lengths}, under {limit}"
    places = [drawn.wall_places[i] for i in thin[:_MOST_PLACES]]
    return [_finding(body, THIN_WALL, "look", says, "thicken", places)]


def _thread_findings(job: Job, body: Body, drawn: BodyAsDrawn, linear: LinearMap) -> list[Finding]:
    if drawn.threads.features:
        return _screwed(job, body, drawn, linear)
    words = f"{body.name} {body.drawn}".lower()
    if not any(word in words.replace("_", " ").split() for word in _WORDS):
        return []
    factors = job.correction_of(body).factors
    percent = 100 * (max(factors) - 1)
    if abs(percent) < 0.05 and abs(100 * (min(factors) - 1)) < 0.05:
        return []
    says = f"{body.name} seems to have a thread; its pitch changed by {percent:+.2f} % and will not turn in"
    return [_finding(body, THREAD, "look", says.replace("-", "−"), "as-drawn", [])]


def _screwed(job: Job, body: Body, drawn: BodyAsDrawn, linear: LinearMap) -> list[Finding]:
    """The first thread of a body, when its diameter or pitch changed."""
    rows = drawn.threads
    feature, before = rows.features[0], float(rows.sizes[0])
    after = float(across(rows, linear)[0][0])
    pitch = feature.pitch * MM_PER[job.settled_unit(body)]
    climb = float(np.linalg.norm(linear.matrix @ rows.ways[0])) * pitch
    if abs(after - before) < _SEEN and abs(climb - pitch) < _SEEN / 5:
        return []
    says = (
        f"the thread of {body.name} became ø {written(after)} × {climb:.3g} "
        f"(was ø {written(before)} × {pitch:.3g}) and will not turn in"
    )
    return [_finding(body, THREAD, "look", says, "as-drawn", [feature.place])]


def _gap_findings(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> list[Finding]:
    """Gaps between bodies of one kit, between facing flat faces and between a bore and what is in it.

    Of those between two bodies that changed, the narrowest is told.
    """
    if len(bodies) < 2:
        return []
    things = (*bodies, *(job.correction_of(body) for body in bodies))
    frames = tuple((job.source_of(body).unit, job.source_of(body).up, job.home_of(body)) for body in bodies)
    return list(_OF_GAPS.get(things, frames, lambda: _worked_out_gaps(job, bodies, store)))


_OF_GAPS: Memo[tuple[Finding, ...]] = Memo(64)


def _worked_out_gaps(job: Job, bodies: tuple[Body, ...], store: GeometryStore) -> tuple[Finding, ...]:
    gaps = gaps_of(tuple(drawn_of(job, body, store) for body in bodies))
    before, after = gaps.lengths(np.stack([linear_of(job.correction_of(body)).matrix for body in bodies]))
    narrowest: dict[tuple[int, int], int] = {}
    pairs = np.sort(gaps.pairs, axis=1).tolist()
    for gap in np.flatnonzero(abs(after - before) >= _SEEN).tolist():
        pair = (pairs[gap][0], pairs[gap][1])
        best = narrowest.get(pair)
        if best is None or before[gap] < before[best]:
            narrowest[pair] = gap
    return tuple(
        _gap_finding(bodies[a], bodies[b], float(before[gap]), float(after[gap]), gaps.places[gap])
        for (a, b), gap in sorted(narrowest.items())
    )


def _gap_finding(body: Body, other: Body, before: float, after: float, place: Vec3) -> Finding:
    grave = abs(after - before) > 0.1 * before or abs(after - before) > 0.1
    way = "grew" if after > before else "shrank"
    between = f"{body.name} and {other.name}"
    says = f"the gap between {between} {way} to {after:.3g} (was {before:.3g})"
    return _finding(body, GAP, "look" if grave else "note", says, "look", [place])


def _alone_findings(job: Job, group: tuple[Body, ...]) -> list[Finding]:
    """Bodies of a kit that are corrected otherwise than the kit."""
    rest = [body for body in group if not body.alone]
    if len(group) < 2 or not rest:
        return []
    return [
        _finding(
            body,
            KIT_MIXED,
            "look",
            f"{body.name} is corrected otherwise than its kit and may no longer fit",
            "follow-kit",
            [],
        )
        for body in group
        if job.correction_of(body).factors != job.correction_of(rest[0]).factors
    ]
