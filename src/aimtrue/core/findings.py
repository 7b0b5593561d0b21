"""What would make a bad part: severity, place, and what to do."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.frames import true_sizes
from aimtrue.core.job import Body, Job, Source, Value
from aimtrue.core.lengths import UNIT_NAMES
from aimtrue.core.seating.room import Room

Severity = Literal["stop", "look", "note"]


class Finding(Value):
    """One thing to know before a part is made.

    ``sheet`` is where it is settled; ``accepted`` is true for a stop the user took on purpose.
    """

    code: str
    severity: Severity
    count: int = 1
    body: str = ""
    sheet: Literal["intake", "truing", "seating", "release"]
    says: str
    remedy: str = ""
    accepted: bool = False

    @property
    def stops(self) -> bool:
        """Whether it keeps a release from being made."""
        return self.severity == "stop" and not self.accepted


def unit_findings(source: Source) -> list[Finding]:
    """Say that a unit is not settled."""
    if source.unit is not None:
        return []
    return [
        Finding(
            code="unit-unsettled",
            severity="stop",
            sheet="intake",
            remedy="settle-unit",
            says=f"{source.name} does not say its unit; nothing is sized until you do",
        )
    ]


def health_findings(body: Body) -> list[Finding]:
    """Say what keeps a body from being one closed solid facing outward."""
    health = body.health
    rows: list[tuple[str, Severity, int, str, str]] = [
        ("open-edges", "stop", health.open_edges, "{} open edges: the surface has holes", "close-holes"),
        (
            "crowded-edges",
            "look" if health.closed else "stop",
            health.crowded_edges,
            "{} edges are shared by more than two faces",
            "rebuild",
        ),
        ("turned-edges", "stop", health.turned_edges, "faces are turned over along {} edges", "face-outward"),
        (
            "inside-out",
            "stop",
            int(health.closed and body.volume < 0),
            "the surface faces inward, so its volume is negative",
            "face-outward",
        ),
        ("zero-area", "note", health.zero_area, "{} triangles have zero area", "remove-degenerate"),
        (
            "several-shells",
            "note",
            health.shells if health.shells > 1 else 0,
            "{} separate shells are taken together as one body",
            "separate-bodies",
        ),
    ]
    return [
        Finding(
            code=code,
            severity=severity,
            count=count,
            body=body.name,
            sheet="intake",
            says=says.format(count),
            remedy=remedy,
            accepted=code in body.accepted,
        )
        for code, severity, count, says, remedy in rows
        if count
    ]


def room_findings(job: Job, body: Body, room: Room) -> list[Finding]:
    """Say how far a seated body is outside the machine."""
    if room.inside:
        return []
    over = ", ".join(f"{excess.axis.upper()} by {excess.over_mm:.2f} mm" for excess in room.excess)
    return [
        Finding(
            code="outside-machine",
            severity="look",
            body=body.name,
            sheet="seating",
            remedy="divide",
            says=f"{body.name} is larger than {job.machine.name}: {over}",
        )
    ]


def size_findings(job: Job, body: Body) -> list[Finding]:
    """Say when a size is beyond reason, which most often means a wrong unit."""
    longest, unit = max(true_sizes(job, body)), job.settled_unit(body)
    if 1 <= longest <= 10 * max(job.machine.volume):
        return []
    shown = f"{longest / 1000:.3g} m" if longest >= 1000 else f"{longest:.3g} mm"
    return [
        Finding(
            code="size-unlikely",
            severity="look",
            body=body.name,
            sheet="intake",
            remedy="settle-unit",
            says=f"{body.name} is {shown} long as {UNIT_NAMES[unit]}; check the unit",
        )
    ]
