"""Everything the screens show of a job, worked out from it: sizes, chain, findings.

The interface computes nothing; it shows this.
"""

from __future__ import annotations

from collections.abc import Sequence

from aimtrue.core.division.stale import stale_bodies
from aimtrue.core.intake.bodies.congruence import identical
from aimtrue.core.intake.units.inference import verdicts_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import NO_MARGINS
from aimtrue.core.model.ownership import groups_of, to_print
from aimtrue.core.room import Inquiry, Room
from aimtrue.core.rooms import ROOMS, kinds_of
from aimtrue.core.seating.placement.places import first_places
from aimtrue.core.seating.seat_states import free_corners, plates_now, seats_now, standing_of
from aimtrue.core.survey.bodies import body_survey, chains_of, decided, kit_survey, source_survey
from aimtrue.core.survey.findings import all_findings, stopped_by
from aimtrue.core.survey.gathering import gathered
from aimtrue.core.survey.next_steps import next_steps
from aimtrue.core.survey.sheets import sheets
from aimtrue.core.survey.shown_findings import told
from aimtrue.core.survey.values import MachineInForce, NewestRelease, Survey
from aimtrue.core.truing.solving.readings_verdict import ReadingsVerdict, truth_of


def survey(
    job: Job, store: GeometryStore, released: NewestRelease | None = None, rooms: Sequence[Room] = ROOMS
) -> Survey:
    """Work out sizes, readings, room and findings of a whole job.

    Args:
        job: the job.
        store: gives meshes; only bodies turned by other than quarter turns need one.
        released: the newest release, if there is one.
        rooms: that have a say.
    """
    inquiry = Inquiry(job, store)
    judged, standing = inquiry.of(verdicts_of), inquiry.of(standing_of)
    places = first_places(job, standing.places)
    findings = tuple(all_findings(inquiry, rooms))
    shown = gathered(job, findings, kinds_of(rooms))
    settled = bool(job.sources) and all(source.unit for source in job.sources)
    same, stale = identical(job), stale_bodies(job)
    # All at once here, so that they are known where they are asked for body by body.
    chains_of(job, [body for body in job.bodies if job.source_of(body).unit])
    stopped = stopped_by(job, findings)
    bodies = tuple(body_survey(job, body, places.get(body.id), stopped, same, stale) for body in job.bodies)
    states = sheets(job, shown, settled, released, {room.name: room.done(inquiry) for room in rooms})
    return Survey(
        sources=tuple(source_survey(job, key, unit_verdict) for key, unit_verdict in judged.items()),
        bodies=bodies,
        kits=tuple(kit_survey(job, kit.id, places) for kit in job.kits),
        seats=seats_now(job, standing),
        plates=plates_now(job),
        decided=decided(job),
        machine=MachineInForce(
            name=job.machine.name,
            shape=job.machine.volume.shape,
            room=job.machine.volume.room,
            free=free_corners(job.machine) if job.machine.kept_free != NO_MARGINS else (),
            bead_mm=job.machine.process.bead,
        ),
        truths=_truths(job),
        findings=told(shown, rooms),
        rooms={name: tell(inquiry) for room in rooms for name, tell in room.survey.items()},
        sheets=states,
        next_steps=next_steps(job, shown, bodies, states),
        settled=settled,
        releasable=settled
        and bool(to_print(job, job.bodies))
        and not any(finding.stops for finding in findings),
    )


def _truths(job: Job) -> tuple[ReadingsVerdict, ...]:
    """What the readings say, for every kit and every body that is corrected on its own."""
    readings_verdicts = []
    for group in groups_of(job):
        if not job.settled(group):
            continue
        together = [body for body in group if not body.alone] if len(group) > 1 else []
        subjects = [(group[0].kit or "", tuple(together))] if together else []
        subjects += [(body.id, (body,)) for body in group if body.alone or len(group) == 1]
        readings_verdicts += [
            truth for key, bodies in subjects if (truth := truth_of(job, key, bodies)) is not None
        ]
    return tuple(readings_verdicts)
