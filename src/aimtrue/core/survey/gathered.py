"""Findings gathered for people: one row for what is the matter with many bodies, with a count and all its
places.

What stops a release and what is accepted is decided body by body (:mod:`aimtrue.core.survey.findings`);
this only says it once. Bodies of one file that have the same finding, open or accepted alike, become one
row.
"""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import UNIT_NAMES

MOST_PLACES = 60
"""Places of a gathered finding; of more, some of every body."""
_ORDER = {"stop": 0, "look": 1, "note": 2}
_FEW = 4
"""What a correction does differs from body to body: of so few, each has its own words."""
_MOSTLY = 0.5
"""Share of a file's bodies whose size is unlikely from which the unit is doubted, not the bodies."""


def gathered(job: Job, findings: list[Finding]) -> tuple[Finding, ...]:
    """Return findings for the screens and the command line, stops first.

    Args:
        job: that they are about.
        findings: body by body, as :func:`aimtrue.core.survey.findings.all_findings` gives them.
    """
    groups: dict[tuple[object, ...], list[Finding]] = {}
    for finding in findings:
        groups.setdefault(_key(job, finding), []).append(finding)
    rows: list[Finding] = []
    for group in groups.values():
        doubted = _doubted(job, group)
        if doubted:
            rows.append(doubted)
        elif group[0].sheet == "truing" and len(group) < _FEW:
            rows += group
        else:
            rows.append(_one_of(job, group))
    return tuple(sorted(rows, key=lambda row: _ORDER[row.severity]))


def _key(job: Job, finding: Finding) -> tuple[object, ...]:
    if finding.body_id is None:
        return (finding.code, finding.source_id, finding.says)
    source = job.body(finding.body_id).source
    return (finding.code, finding.severity, finding.accepted, finding.remedy, source)


def _doubted(job: Job, group: list[Finding]) -> Finding | None:
    """The one finding about a unit under which most bodies of a file are of an unlikely size."""
    first = group[0]
    if first.code != "size-unlikely" or first.body_id is None:
        return None
    source = job.source_of(job.body(first.body_id))
    bodies = [body for body in job.bodies_of(source.id) if not body.stray]
    if len(bodies) < 2 or len(group) <= _MOSTLY * len(bodies) or source.unit is None:
        return None
    many = f"{_range(job, group)} of {len(bodies)} in {source.name}"
    says = f"as {UNIT_NAMES[source.unit]}, {many}; check the unit"
    update = {
        "body": "",
        "body_id": None,
        "source_id": source.id,
        "count": len(group),
        "says": says,
        "places": (),
    }
    return first.model_copy(update=update)


def _one_of(job: Job, group: list[Finding]) -> Finding:
    if len(group) == 1:
        return group[0]
    worst = max(group, key=lambda finding: finding.count)
    keys = tuple(dict.fromkeys(key for one in group for key in one.bodies))
    names = tuple(job.body(key).name for key in keys)
    count = len(group) if worst.code in _COUNTED_BY_BODY else sum(finding.count for finding in group)
    each = max(1, MOST_PLACES // len(group))
    places: list[Vec3] = []
    owners: list[str] = []
    for finding in group:
        some = finding.places[:: max(1, len(finding.places) // each)][:each]
        places += some
        owners += [finding.body_id or ""] * len(some)
    say = _SAYS.get(worst.code)
    says = say(job, group, count) if say else f"{worst.says}; likewise {_others(len(group) - 1)}"
    return worst.model_copy(
        update={
            "count": count,
            "bodies": keys,
            "names": names,
            "body_id": None,
            "says": says,
            "places": tuple(places[:MOST_PLACES]),
            "place_bodies": tuple(owners[:MOST_PLACES]),
        }
    )


def _others(count: int) -> str:
    return "1 more body" if count == 1 else f"{count:,} more bodies"


def _in(group: list[Finding]) -> str:
    return f"in {len({finding.body_id for finding in group}):,} bodies"


def _range(job: Job, group: list[Finding]) -> str:
    longest = [max(true_sizes(job, job.body(one.body_id))) for one in group if one.body_id]
    if max(longest) < 1:
        return f"{len(group):,} bodies are under 1 mm"
    if min(longest) < 1:
        return f"{len(group):,} bodies are of an unlikely size"
    return f"{len(group):,} bodies are over {min(longest) / 1000:.3g} m long"


def _holes(job: Job, group: list[Finding], count: int) -> str:
    bodies: list[Body] = [job.body(one.body_id) for one in group if one.body_id]
    holes = sum(body.health.holes for body in bodies)
    return f"{count:,} open edges around {holes:,} holes {_in(group)}"


_SAYS: dict[str, Callable[[Job, list[Finding], int], str]] = {
    "open-edges": _holes,
    "crowded-edges": lambda _, group, n: f"{n:,} edges are shared by more than two faces {_in(group)}",
    "turned-edges": lambda _, group, n: f"faces are turned over along {n:,} edges {_in(group)}",
    "inside-out": lambda _, group, n: (
        f"the surfaces of {n:,} bodies face inward, so their volumes are negative"
    ),
    "crossings": lambda _, group, n: f"{n:,} faces cut through each other {_in(group)}",
    "crossings-unknown": lambda _, group, n: (
        f"{n:,} large bodies were not looked over for faces that cut through each other"
    ),
    "zero-area": lambda _, group, n: f"{n:,} triangles of zero area {_in(group)}",
    "duplicates": lambda _, group, n: f"{n:,} triangles are there twice {_in(group)}",
    "several-shells": lambda _, group, n: (
        f"{len(group):,} bodies have several separate shells, as the file has it"
    ),
    "stray": lambda _, group, n: f"{n:,} specks, tiny against the rest of their file or under one bead",
    "overlap": lambda _, group, n: (
        f"{n:,} overlaps between {len({k for one in group for k in one.bodies}):,} bodies"
    ),
    "outside-machine": lambda job, group, n: f"{n:,} bodies are outside {job.machine.name}; {group[0].says}",
    "size-unlikely": lambda job, group, n: f"{_range(job, group)}; check the unit",
    "reading-missed": lambda _, group, n: f"{n:,} readings are out of their band; {group[0].says}",
    "thin-wall": lambda _, group, n: f"walls of {len(group):,} bodies are thin; {group[0].says}",
}
_COUNTED_BY_BODY = (
    "inside-out",
    "crossings-unknown",
    "stray",
    "overlap",
    "outside-machine",
    "size-unlikely",
    "reading-missed",
)
