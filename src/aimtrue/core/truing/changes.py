"""What a correction changes that it should not: bolt holes, walls, gaps between bodies that work together."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from aimtrue.core.chain.transforms import along_matrix, turn_up
from aimtrue.core.gauges.forms import Circle
from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.features.surfaces import plane_axes
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.bolts import suits
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import MM_PER, written

_SEEN = 0.005
"""A change under this, in mm, is none."""
_TURN = 1.5
"""Pitches that the turns of a thread are deep at most, rounding at their foot included."""
_GAP = 4.0
"""Faces farther apart than this, in mm, are no fit."""
_WORDS = ("thread", "screw", "bolt", "nut", "tapped")


@dataclass(frozen=True, eq=False)
class _Drawn:
    """A body as it is drawn: its features in mm and in the axes of the job, and its factors."""

    body: Body
    features: Features
    to_mm: Floats
    shift: Floats
    factors: Floats
    along: Floats

    def corrected(self, vectors: Floats) -> Floats:
        return np.asarray(vectors @ self.along.T * self.factors)

    def point(self, point: Vec3) -> Floats:
        return np.asarray(self.to_mm @ np.asarray(point) + self.shift)

    def direction(self, direction: Vec3) -> Floats:
        turned = self.to_mm @ np.asarray(direction)
        return np.asarray(turned / np.linalg.norm(turned))

    @property
    def scale(self) -> float:
        return float(np.linalg.norm(self.to_mm[:, 0]))


def change_findings(job: Job, shelf: Shelf) -> list[Finding]:
    """Return what corrections change that they should not, with before and after; and walls too thin.

    Only bodies whose unit is settled are looked at; those whose correction is 1 only for their walls, and
    only when their features are listed already.
    """
    found: list[Finding] = []
    for group in job.groups():
        if not all(job.source_of(body).unit for body in group):
            continue
        drawn = [_drawn(job, body, shelf) for body in group if _changed(body) or body.features]
        changed = [one for one in drawn if _changed(one.body)]
        for one in drawn:
            found += _wall_findings(job, one)
        for one in changed:
            found += _bore_findings(one) + _thread_findings(one)
        found += _gap_findings(changed) + _alone_findings(job, group)
    return found


def _changed(body: Body) -> bool:
    return set(body.correction.factors) != {1.0} or body.correction.along is not None


def _drawn(job: Job, body: Body, shelf: Shelf) -> _Drawn:
    source = job.source_of(body)
    to_mm = turn_up(source.up) * MM_PER[job.settled_unit(body)]
    shift = to_mm @ np.asarray(source.home)
    return _Drawn(
        body, shelf.features(body), to_mm, shift, np.asarray(body.correction.factors), along_matrix(body)
    )


def _finding(body: Body, code: str, severity: str, says: str, remedy: str, places: list[Vec3]) -> Finding:
    return Finding.model_validate(
        {
            "code": code,
            "severity": severity,
            "count": max(1, len(places)),
            "body": body.name,
            "body_id": body.id,
            "sheet": "truing",
            "says": says,
            "remedy": remedy,
            "accepted": code in body.accepted,
            "places": tuple(places),
        }
    )


def across(one: _Drawn, feature: Feature) -> tuple[float, float, float]:
    """Return the diameter of a round feature in mm: as drawn, then the greatest and least corrected."""
    axis = one.direction(feature.direction)
    u, v = plane_axes(axis)
    before = feature.diameter * one.scale
    greatest, least = Circle(one.corrected(np.stack([u, v]) * before / 2)).lengths(np.ones(3))
    return before, greatest, least


def _bore_findings(one: _Drawn) -> list[Finding]:
    """Bores that suited a bolt and changed, gathered by size, and whether they still do."""
    kept = {bore.point for bore in one.body.kept}
    rows: dict[tuple[str, str, bool], list[Vec3]] = {}
    for feature in one.features.listed:
        if feature.kind != "bore" or feature.point in kept:
            continue
        before, greatest, least = across(one, feature)
        suited = suits(before)
        if suited is None or max(abs(greatest - before), abs(least - before)) < _SEEN:
            continue
        after = f"{written(least)}" if greatest - least < _SEEN else f"{written(least)} × {written(greatest)}"
        good = suited.still(greatest) and suited.still(least)
        rows.setdefault((suited.says, f"{after} (were {written(before)})", good), []).append(feature.point)
    found = []
    for (bolt, sizes, good), places in rows.items():
        many = f"{len(places)} {bolt} bores" if len(places) > 1 else f"a {bolt} bore"
        says = f"{many} of {one.body.name} became {sizes}"
        found.append(
            _finding(one.body, "bolt-holes", "note", f"{says}; the bolt still passes", "keep-bores", places)
            if good
            else _finding(one.body, "bolt-holes", "look", f"{says} and no longer suit", "keep-bores", places)
        )
    return found


def _wall_findings(job: Job, one: _Drawn) -> list[Finding]:
    """Walls that cannot be made: under two beads, or under what was typed."""
    if one.body.stray:  # told as such; its walls are beside the point
        return []
    least = max(2 * job.machine.bead, job.least_wall_mm or 0.0)
    thin: list[tuple[float, float, Vec3]] = []
    threads = [feature for feature in one.features.listed if feature.screw]
    for feature in one.features.listed:
        if feature.wall <= 0 or feature.screw or any(_on_thread(feature.place, screw) for screw in threads):
            continue
        through = one.direction(feature.through) * feature.wall * one.scale
        before, after = float(np.linalg.norm(through)), float(np.linalg.norm(one.corrected(through)))
        if after < least * (1 - 1e-9):
            thin.append((after, before, feature.place))
    if not thin:
        return []
    after, before, _ = min(thin)
    limit = (
        f"{written(least)} mm"
        if job.least_wall_mm and least > 2 * job.machine.bead
        else f"two beads, {written(least)} mm"
    )
    now = (
        f"became {written(after)} (was {written(before)})"
        if abs(after - before) >= _SEEN
        else f"is {written(after)}"
    )
    says = f"a wall of {one.body.name} {now}, under {limit}"
    return [_finding(one.body, "thin-wall", "look", says, "thicken", [row[2] for row in thin[:24]])]


def _on_thread(place: Vec3, screw: Feature) -> bool:
    """Whether a place is on the turns of a thread, whose crests are thin and meant to be."""
    axis, away = np.asarray(screw.direction), np.subtract(place, screw.point)
    along = float(away @ axis)
    aside = float(np.linalg.norm(away - along * axis))
    near = screw.diameter / 2 - _TURN * screw.pitch <= aside <= screw.diameter / 2 + screw.pitch
    return near and abs(along) <= screw.depth / 2 + screw.pitch


def _thread_findings(one: _Drawn) -> list[Finding]:
    found = _screwed(one)
    if found:
        return found
    words = f"{one.body.name} {one.body.drawn}".lower()
    if not any(word in words.replace("_", " ").split() for word in _WORDS):
        return []
    percent = 100 * (float(one.factors.max()) - 1)
    if abs(percent) < 0.05 and abs(100 * (float(one.factors.min()) - 1)) < 0.05:
        return []
    says = (
        f"{one.body.name} seems to have a thread; its pitch changed by {percent:+.2f} % and will not turn in"
    )
    return [_finding(one.body, "thread", "look", says.replace("-", "−"), "as-drawn", [])]


def _screwed(one: _Drawn) -> list[Finding]:
    """The first thread of a body whose diameter or pitch changed."""
    for feature in one.features.listed:
        if not feature.screw:
            continue
        before, after = across(one, feature)[0], across(one, feature)[1]
        pitch = feature.pitch * one.scale
        climb = float(np.linalg.norm(one.corrected(one.direction(feature.direction) * pitch)))
        if abs(after - before) < _SEEN and abs(climb - pitch) < _SEEN / 5:
            return []
        says = (
            f"the thread of {one.body.name} became ø {written(after)} × {climb:.3g} "
            f"(was ø {written(before)} × {pitch:.3g}) and will not turn in"
        )
        return [_finding(one.body, "thread", "look", says, "as-drawn", [feature.place])]
    return []


def _gap_findings(drawn: list[_Drawn]) -> list[Finding]:
    """Gaps between bodies of one kit, between facing flat faces and between a bore and what is in it."""
    found = []
    for i, one in enumerate(drawn):
        for other in drawn[i + 1 :]:
            gaps = [*_flat_gaps(one, other), *_round_gaps(one, other), *_round_gaps(other, one)]
            gaps = [gap for gap in gaps if abs(gap[1] - gap[0]) >= _SEEN]
            if not gaps:
                continue
            before, after, place = min(gaps, key=lambda gap: gap[0])
            severity = "look" if abs(after - before) > 0.1 * before or abs(after - before) > 0.1 else "note"
            way = "grew" if after > before else "shrank"
            between = f"{one.body.name} and {other.body.name}"
            says = f"the gap between {between} {way} to {after:.3g} (was {before:.3g})"
            found.append(_finding(one.body, "gap", severity, says, "look", [place]))
    return found


def _flat_gaps(one: _Drawn, other: _Drawn) -> list[tuple[float, float, Vec3]]:
    gaps = []
    theirs = [feature for feature in other.features.listed if feature.flat]
    points = np.array([other.point(feature.point) for feature in theirs]).reshape(-1, 3)
    ways = np.array([other.direction(feature.direction) for feature in theirs]).reshape(-1, 3)
    for feature in one.features.listed:
        if not feature.flat or not theirs:
            continue
        point, way = one.point(feature.point), one.direction(feature.direction)
        apart = (points - point) @ way
        aside = np.linalg.norm(points - point - apart[:, None] * way, axis=1)
        reach = 0.5 * math.sqrt(feature.area) * one.scale
        facing = (ways @ way < -0.9999) & (apart > 1e-6) & (apart < _GAP) & (aside < reach)
        for k in np.flatnonzero(facing):
            vector = way * apart[k]
            gaps.append((float(apart[k]), float(np.linalg.norm(one.corrected(vector))), feature.point))
    return gaps


def _round_gaps(hole: _Drawn, pin: _Drawn) -> list[tuple[float, float, Vec3]]:
    """The play of a boss of one body in a bore of another, on the diameter."""
    gaps = []
    bores = [feature for feature in hole.features.listed if feature.kind == "bore"]
    bosses = [feature for feature in pin.features.listed if feature.kind == "boss"]
    for bore in bores:
        axis, centre = hole.direction(bore.direction), hole.point(bore.point)
        for boss in bosses:
            away = pin.point(boss.point) - centre
            along = float(away @ axis)
            aside = float(np.linalg.norm(away - along * axis))
            play = bore.diameter * hole.scale - boss.diameter * pin.scale
            parallel = abs(float(pin.direction(boss.direction) @ axis)) > 0.9999
            overlap = (bore.depth * hole.scale + boss.depth * pin.scale) / 2 - abs(along)
            if parallel and aside < 0.5 and 0 < play < _GAP and overlap > 0:
                after = across(hole, bore)[2] - across(pin, boss)[1]
                gaps.append((play, after, bore.point))
    return gaps


def _alone_findings(job: Job, group: tuple[Body, ...]) -> list[Finding]:
    """Bodies of a kit that are corrected otherwise than the kit."""
    rest = [body for body in group if not body.alone]
    if len(group) < 2 or not rest:
        return []
    return [
        _finding(
            body,
            "kit-mixed",
            "look",
            f"{body.name} is corrected otherwise than its kit and may no longer fit",
            "follow-kit",
            [],
        )
        for body in group
        if body.correction.factors != rest[0].correction.factors
    ]
