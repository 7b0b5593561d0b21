"""What was just divided is given room at once: on as many plates as it takes, as part of the same action."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.seating.arrangement.arranging import arranged, arranged_aside
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.seating.placement.plates import arrange
from aimtrue.core.seating.tasks import ArrangeTask

_AS_THEY_LIE = ArrangeTask(turns="none", seconds=0.0)


def with_room_for_pieces(before: Job, after: Job, store: GeometryStore) -> Job:
    """Return a job whose new pieces have room, where a division made more stand than did before.

    What has its place already keeps it; then the pieces go onto new plates.
    """
    known = {body.id for body in before.bodies}
    if not any(body.division and body.id not in known for body in after.bodies):
        return after
    places = places_of(after, store)
    if len(places) <= len(places_of(before, store)):
        return after
    placed = {place.seat.subject for place in places.values() if place.seat.x is not None}
    pieces = {body.id for body in after.bodies if body.division}
    new = {
        place.seat.subject
        for place in places.values()
        if place.seat.subject not in placed and pieces.intersection(body.id for body in place.bodies)
    }
    if not new:
        return after
    try:
        if placed:
            return arrange(after, arranged_aside(after, new, _AS_THEY_LIE, store), store)
        return arrange(after, arranged(after, _AS_THEY_LIE, store), store)
    except Refused:  # More plates than a job has: what is in whose way is told where it stands.
        return after
