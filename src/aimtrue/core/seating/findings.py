"""What of seats would make a bad part."""

from __future__ import annotations

from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding, Together
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.seating.room import Room


def room_findings(job: Job, body: Body, room: Room) -> list[Finding]:
    """Say how far a seated body is outside the machine."""
    if room.inside:
        return []
    longer = [excess for excess in room.excess if excess.over_mm > 0]
    over = ", ".join(f"{excess.axis.upper()} by {written(excess.over_mm)} mm" for excess in longer)
    larger = bool(longer)
    says = f"is larger than {job.machine.name}: {over}" if larger else f"stands outside {job.machine.name}"
    return [
        Finding(
            code="outside-machine",
            severity="look",
            body=body.name,
            body_id=body.id,
            sheet="seating",
            remedy="divide" if larger else "arrange",
            says=f"{body.name} {says}",
        )
    ]


def seating_findings(job: Job, rooms: dict[str, Room]) -> list[Finding]:
    """Return everything that is to be known of how bodies stand; ``rooms`` says where, by body."""
    return [
        one for body in job.bodies if body.id in rooms for one in room_findings(job, body, rooms[body.id])
    ]


TOGETHER = {
    "outside-machine": Together(
        lambda job, group, n: f"{n:,} bodies are outside {job.machine.name}; {group[0].says}", by_body=True
    ),
}
"""How these are told of several bodies at once."""
