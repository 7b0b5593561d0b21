"""This module lists the kinds of findings about files and bodies, each with all that holds for its kind.

What finds them is in ``findings.py``, what can be done about them in ``remedies.py``.
"""

from __future__ import annotations

from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.intake.health import is_without_volume
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Acceptance, Finding, FindingKind, Severity, in_bodies
from aimtrue.core.model.job import Job


def lengths_of(job: Job, group: list[Finding]) -> str:
    """Say how long bodies of an unlikely size are."""
    longest = [max(true_sizes(job, job.body(body.body_id))) for body in group if body.body_id]
    if max(longest) < 1:
        return f"{len(group):,} bodies are under 1 mm"
    if min(longest) < 1:
        return f"{len(group):,} bodies are of an unlikely size"
    return f"{len(group):,} bodies are over {min(longest) / 1000:.3g} m long"


def _holes(job: Job, group: list[Finding], count: int) -> str:
    bodies: list[Body] = [job.body(finding.body_id) for finding in group if finding.body_id]
    holes = sum(body.health.holes for body in bodies)
    return f"{count:,} open edges around {holes:,} holes {in_bodies(group)}"


def _overlaps(job: Job, group: list[Finding], count: int) -> str:
    bodies = {key for finding in group for key in finding.bodies}
    return f"{count:,} overlaps between {len(bodies):,} bodies"


def _of_file(code: str, severity: Severity) -> FindingKind:
    return FindingKind(code, severity, "intake")


UNIT_UNSETTLED = _of_file("unit-unsettled", "stop")
UNIT_DOUBTFUL = _of_file("unit-doubtful", "look")
FAR_FROM_ORIGIN = _of_file("far-from-origin", "look")
BELOW_PLATE = _of_file("below-plate", "look")
SAME_FILE = _of_file("same-file", "look")
OVERLAPS_UNKNOWN = _of_file("overlaps-unknown", "note")
REVISION_LOST = _of_file("revision-lost", "look")
KIT_FRAMES = _of_file("kit-frames", "stop")

_REASON: Acceptance = "for-a-reason"
OPEN_EDGES = FindingKind(
    "open-edges", "stop", "intake", _REASON, _holes,
    fault=lambda body: (body.health.open_edges, body.health.holes),
)  # fmt: skip
NON_MANIFOLD_EDGES = FindingKind(
    "crowded-edges", "stop", "intake", _REASON,
    lambda _, group, n: f"{n:,} edges are shared by more than two faces {in_bodies(group)}",
    fault=lambda body: body.health.crowded_edges,
)  # fmt: skip
INCONSISTENT_EDGES = FindingKind(
    "turned-edges", "stop", "intake", _REASON,
    lambda _, group, n: f"faces are turned over along {n:,} edges {in_bodies(group)}",
    fault=lambda body: body.health.turned_edges,
)  # fmt: skip
INSIDE_OUT = FindingKind(
    "inside-out", "stop", "intake", _REASON,
    lambda _, __, n: f"the surfaces of {n:,} bodies face inward, so their volumes are negative",
    by_body=True, fault=lambda body: body.volume < 0,
)  # fmt: skip
NO_VOLUME = FindingKind(
    "no-volume", "stop", "intake", _REASON,
    lambda _, __, n: f"{n:,} bodies enclose nothing: their faces lie back to back",
    by_body=True, fault=is_without_volume,
)  # fmt: skip
CROSSINGS = FindingKind(
    "crossings", "look", "intake", _REASON,
    lambda _, group, n: f"{n:,} faces cut through each other {in_bodies(group)}",
    fault=lambda body: body.health.crossings,
)  # fmt: skip
CROSSINGS_UNKNOWN = FindingKind(
    "crossings-unknown", "note", "intake", "never",
    lambda _, __, n: f"{n:,} large bodies were not looked over for faces that cut through each other",
    by_body=True,
)  # fmt: skip
ZERO_AREA = FindingKind(
    "zero-area", "note", "intake", "never",
    lambda _, group, n: f"{n:,} triangles of zero area {in_bodies(group)}",
)  # fmt: skip
DUPLICATES = FindingKind(
    "duplicates", "look", "intake", "never",
    lambda _, group, n: f"{n:,} triangles are there twice {in_bodies(group)}",
)  # fmt: skip
SEVERAL_SHELLS = FindingKind(
    "several-shells", "note", "intake", "never",
    lambda _, group, __: f"{len(group):,} bodies have several separate shells, as the file has it",
)  # fmt: skip
FACE_MISSING = FindingKind("face-missing", "stop", "intake", _REASON)
VOLUME_OFF = FindingKind("volume-off", "stop", "intake", _REASON)
MOVED_FAR = FindingKind("moved-far", "stop", "intake", _REASON)
STRAY = FindingKind(
    "stray", "look", "intake", "on-sight",
    lambda _, __, n: f"{n:,} specks, tiny against the rest of their file or under one bead",
    by_body=True, fault=lambda body: body.stray,
)  # fmt: skip
OVERLAP = FindingKind(
    "overlap", "look", "intake", "on-sight",
    _overlaps,
    by_body=True,
)  # fmt: skip
SIZE_UNLIKELY = FindingKind(
    "size-unlikely", "look", "intake", "never",
    lambda job, group, _: f"{lengths_of(job, group)}; check the unit", by_body=True,
)  # fmt: skip

KINDS = (
    UNIT_UNSETTLED, UNIT_DOUBTFUL, FAR_FROM_ORIGIN, BELOW_PLATE, SAME_FILE, OVERLAPS_UNKNOWN, REVISION_LOST,
    KIT_FRAMES, OPEN_EDGES, NON_MANIFOLD_EDGES, INCONSISTENT_EDGES, INSIDE_OUT, NO_VOLUME, CROSSINGS,
    CROSSINGS_UNKNOWN, ZERO_AREA, DUPLICATES, SEVERAL_SHELLS, FACE_MISSING, VOLUME_OFF, MOVED_FAR, STRAY,
    OVERLAP, SIZE_UNLIKELY,
)  # fmt: skip
