"""This module says whether what is released as it stands is on its plate, at its height and place, and
clear of others.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.ownership import OwnedValues, standing_with
from aimtrue.core.proof.surface import Points, bounds
from aimtrue.core.proof.values import Check, length, same, yes

GAP_MM = 5.0
"""Between seats that nobody has placed, in their row."""


def plate_checks(job: OwnedValues, parts: list[ProvenBody]) -> list[Check]:
    """Whether seats are at their height and in their place, and those in a row in its middle and apart."""
    seats: dict[tuple[str, int], list[ProvenBody]] = {}
    for part in parts:
        assert part.claim.seat is not None
        seats.setdefault((part.claim.seat.subject, part.claim.seat.copy_number), []).append(part)
    checks, rows = [], []
    for group in seats.values():
        seat = group[0].claim.seat
        assert seat is not None
        name, limit = group[0].body.name, max(2 * part.limit + part.slack for part in group)
        ends = bounds(np.concatenate([part.found.reshape(-1, 3) for part in group]))
        if len(group) == len(standing_with(job, seat)):
            plate = next(plate for plate in job.plates if plate.id == seat.plate)
            checks += _place_checks(seat, plate, name, ends, limit)
        else:
            low = bool(ends[0, 2] >= min(0.0, seat.lift) - limit)
            checks.append(same("stands", f"{name} is not below the plate", "yes", yes(low)))
        if seat.x is None or seat.y is None:
            rows.append((ends[0, 0], ends[1, 0], name, limit))
    rows.sort()
    for (_, end, a, limit), (start, _, b, _) in pairwise(rows):
        clear = bool(start - end >= GAP_MM - 2 * limit)
        checks.append(same("apart", f"{b} stands {GAP_MM:g} mm or more from {a}", "yes", yes(clear)))
    return checks


def _place_checks(seat: Seat, plate: Plate, name: str, ends: Points, limit: float) -> list[Check]:
    """The lowest point of a whole seat against its lift, and its middle against its place."""
    over = "over the plate" if seat.lift else "on the plate"
    middle = ends.mean(axis=0)
    checks = [length("stands", f"lowest point of {name} {over}", seat.lift, ends[0, 2], limit)]
    if seat.x is None or seat.y is None:
        across = plate.machine.volume.room[1] / 2
        return [*checks, length("centred", f"middle of {name} across the plate", across, middle[1], limit)]
    checks.append(length("placed", f"middle of {name} along X", seat.x, middle[0], limit))
    checks.append(length("placed", f"middle of {name} along Y", seat.y, middle[1], limit))
    return checks


def origin_checks(parts: list[ProvenBody]) -> list[Check]:
    """Whether what a file holds has its middle over the origin and its lowest point on it."""
    ends = bounds(np.concatenate([part.found.reshape(-1, 3) for part in parts]))
    limit = max(2 * part.limit + part.slack for part in parts)
    x, y, z = (ends.mean(axis=0)[0], ends.mean(axis=0)[1], ends[0, 2])
    return [
        length("centred", "middle of the file's bodies along X", 0.0, float(x), limit),
        length("centred", "middle of the file's bodies along Y", 0.0, float(y), limit),
        length("stands", "lowest point of the file's bodies", 0.0, float(z), limit),
    ]
