"""This module says what of seats would make a bad part: tilted, overlapping, outside, sunk, hanging."""

from __future__ import annotations

from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating import finding_kinds as kinds
from aimtrue.core.seating.orientation.orientations import Orientation
from aimtrue.core.seating.placement.collision import SeatOverlap
from aimtrue.core.seating.placement.places import SeatPlace, seated_groups
from aimtrue.core.seating.placement.room import RoomCheck
from aimtrue.core.seating.seat_states import SeatStates, name_of, seat_name

_FOUND: Memo[tuple[Finding, ...]] = Memo(8192)


def seating_findings(job: Job, standing: SeatStates) -> list[Finding]:
    """Return everything that is to be known of how bodies stand."""
    findings: list[Finding] = []
    for key, place in standing.places.items():
        room, stance = standing.rooms[key], standing.stances[key]
        findings += _of_seat(job, place, room, stance)
    findings += [_overlapping(job, standing, overlap) for overlap in standing.overlaps]
    findings += _passes(job, standing)
    return findings + _off_plates(job)


def _of_seat(job: Job, place: SeatPlace, room: RoomCheck, stance: Orientation) -> tuple[Finding, ...]:
    things = (*place.bodies, job.plate(place.seat.plate).machine)
    level = stance.level
    lies = (
        None if level is None else (level.flat, written(level.tilt_deg), written(level.gap_mm), level.lower)
    )
    beyond = tuple((excess.axis, excess.over_mm, excess.beyond_mm) for excess in room.excess)
    plain = (
        place.seat.id,
        len(job.seats_of(place.seat.subject)),
        place.seat.lift,
        lies,
        beyond,
        room.in_margin_mm,
    )
    return _FOUND.get(
        things,
        plain,
        lambda: (
            *_outside(job, place, room),
            *_tilted(job, place, stance),
            *_off_the_plate(job, place),
        ),
    )


def _finding(
    job: Job,
    place: SeatPlace,
    kind: FindingKind,
    says: str,
    remedy: str,
    other: SeatPlace | None = None,
) -> Finding:
    bodies = (*place.bodies, *(other.bodies if other else ()))
    return kind.found(
        body=name_of(job, place),
        body_id=place.bodies[0].id,
        other_id=other.bodies[0].id if other else None,
        remedy=remedy,
        says=f"{name_of(job, place)} {says}",
        bodies=tuple(dict.fromkeys(body.id for body in bodies)),
        seat=place.seat.id,
    )


def _outside(job: Job, place: SeatPlace, room: RoomCheck) -> list[Finding]:
    machine = job.plate(place.seat.plate).machine
    if room.in_margin_mm > 0:
        says = f"is {written(room.in_margin_mm)} mm into what {machine.name} is to keep free"
        return [_finding(job, place, kinds.IN_MARGIN, says, "arrange")]
    excess = [
        excess_
        for excess_ in room.excess
        if place.seat.lift >= 0 or excess_.axis != "z" or excess_.over_mm > 0
    ]
    if not excess:
        return []
    longer = [excess_ for excess_ in excess if excess_.over_mm > 0]
    excesses = longer or excess
    over = ", ".join(
        f"{excess_.axis.upper()} by {written(excess_.over_mm if longer else excess_.beyond_mm)} mm"
        for excess_ in excesses
    )
    says = f"is larger than {machine.name}: {over}" if longer else f"stands outside {machine.name}: {over}"
    return [_finding(job, place, kinds.OUTSIDE_MACHINE, says, "divide" if longer else "arrange")]


def _tilted(job: Job, place: SeatPlace, stance: Orientation) -> list[Finding]:
    level = stance.level
    if level is None:
        if stance.contact_mm2 > 0 or place.seat.lift:
            return []
        says = "rests on nothing flat"
        return [_finding(job, place, kinds.NOTHING_FLAT, says, "stand")]
    if level.flat:
        return []
    says = (
        f"is tilted by {written(level.tilt_deg)}°, down {level.lower}: "
        f"{written(level.gap_mm)} mm above the plate at the far side"
    )
    return [_finding(job, place, kinds.TILTED, says, "level")]


def _off_the_plate(job: Job, place: SeatPlace) -> list[Finding]:
    lift, machine = place.seat.lift, job.plate(place.seat.plate).machine
    if lift < -1e-9:
        says = f"is sunk into the plate by {written(-lift)} mm"
        return [_finding(job, place, kinds.SUNK, says, "put-down")]
    if lift <= 1e-9:
        return []
    findings = [
        _finding(job, place, kinds.LIFTED, f"stands {written(lift)} mm over the plate on purpose", "put-down")
    ]
    around = machine.process.around
    if around.kind != "nothing":
        drawn = {"line": "the line", "brim": "the brim", "raft": "the raft"}[around.kind]
        says = (
            f"is lifted by {written(lift)} mm: {drawn} that {machine.name} draws around the first layer "
            "would hang in the air; turn that off for this print"
        )
        findings.append(_finding(job, place, kinds.HANGING_FIRST_LAYER, says, "nothing-around"))
    return findings


def _overlapping(job: Job, standing: SeatStates, overlap: SeatOverlap) -> Finding:
    a, b = standing.places[overlap.a], standing.places[overlap.b]
    says = f"and {name_of(job, b)} overlap by {written(overlap.deep_mm)} mm"
    return _finding(job, a, kinds.SEATS_OVERLAP, says, "arrange", b)


def _passes(job: Job, standing: SeatStates) -> list[Finding]:
    """Hold what is printed in a second pass against what it is printed on: in plan, and gap 0.00 between."""
    findings = []
    for plate in job.plates:
        below = [place for place in standing.places.values() if place.seat.plate == plate.follows]
        for place in standing.places.values():
            if plate.follows is None or place.seat.plate != plate.id:
                continue
            top = max(
                (seat_place.bounds[1, 2] for seat_place in below if _over(place, seat_place)), default=None
            )
            if top is None:
                says = "has nothing below it from the pass before"
                findings.append(_finding(job, place, kinds.PASS_MISSES, says, "place"))
            elif abs(place.bounds[0, 2] - top) > 5e-3:
                gap = float(place.bounds[0, 2] - top)
                says = f"is {written(abs(gap))} mm {'over' if gap > 0 else 'deep in'} what it is printed on"
                findings.append(_finding(job, place, kinds.PASS_GAP, says, "place"))
    return findings


def _over(above: SeatPlace, below: SeatPlace) -> bool:
    deep = [
        min(above.bounds[1, i], below.bounds[1, i]) - max(above.bounds[0, i], below.bounds[0, i])
        for i in (0, 1)
    ]
    return bool(min(deep) > 0)


def _off_plates(job: Job) -> list[Finding]:
    """Bodies none of whose copies is on a plate; and copies that are not, where others are."""
    findings = []
    for group in seated_groups(job):
        seats = job.seats_of(subject_of(job, group[0]))
        off = [seat for seat in seats if not seat.plate]
        if off:
            which = "is" if len(seats) == 1 else f"{len(off)} of {len(seats)} copies are"
            findings.append(_off_plate(job, group, off[0], f"{which} on no plate, and will not be made"))
    return findings


def _off_plate(job: Job, group: tuple[Body, ...], seat: Seat, says: str) -> Finding:
    return kinds.NOT_SEATED.found(
        body=group[0].name,
        body_id=group[0].id,
        remedy="put-on",
        says=f"{seat_name(job, group, seat, 1)} {says}",
        bodies=tuple(body.id for body in group),
        seat=seat.id,
    )
