"""Findings gathered for people: one row for what is the matter with many bodies, with a count and all its
places.

What stops a release and what is accepted is decided body by body (:mod:`aimtrue.core.survey.findings`);
this only says it once. Bodies of one file that have the same finding, open or accepted alike, become one
row.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from aimtrue.core.intake.finding_kinds import lengths_of
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import UNIT_NAMES
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.model.value import Vec3

MOST_PLACES = 60
"""Places of a gathered finding; of more, some of every body."""
_ORDER = {"stop": 0, "look": 1, "note": 2}
_FEW = 4
"""What a correction does differs from body to body: of so few, each has its own words."""
_MOSTLY = 0.5
"""The unit is doubted, and not the bodies, when the size of this share of a file's bodies is unlikely."""


def gathered(job: Job, findings: Sequence[Finding], kinds: Mapping[str, FindingKind]) -> tuple[Finding, ...]:
    """Return findings for the screens and the command line, stops first.

    Args:
        job: that they are about.
        findings: body by body, as the rooms find them.
        kinds: by code, what is said of several bodies that have the same finding.
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
            rows.append(_one_of(job, group, kinds))
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
    bodies = [body for body in bodies_of(job, source.id) if not body.stray]
    if len(bodies) < 2 or len(group) <= _MOSTLY * len(bodies) or source.unit is None:
        return None
    many = f"{lengths_of(job, group)} of {len(bodies)} in {source.name}"
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


def _one_of(job: Job, group: list[Finding], kinds: Mapping[str, FindingKind]) -> Finding:
    if len(group) == 1:
        return group[0]
    worst = max(group, key=lambda finding: finding.count)
    keys = tuple(dict.fromkeys(key for body in group for key in body.bodies))
    names = tuple(job.body(key).name for key in keys)
    kind = kinds.get(worst.code)
    by_body = kind is not None and kind.by_body
    count = len(group) if by_body else sum(finding.count for finding in group)
    each = max(1, MOST_PLACES // len(group))
    places: list[Vec3] = []
    owners: list[str] = []
    for finding in group:
        some = finding.places[:: max(1, len(finding.places) // each)][:each]
        places += some
        owners += [finding.body_id or ""] * len(some)
    likewise = f"{worst.says}; likewise {_others(len(group) - 1)}"
    says = kind.several(job, group, count) if kind and kind.several else likewise
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
