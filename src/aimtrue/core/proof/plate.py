"""Whether bodies stand on the plate, in the middle of it and clear of each other."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from aimtrue.core.model.job import Job
from aimtrue.core.proof.parts import Part
from aimtrue.core.proof.surface import bounds
from aimtrue.core.proof.values import Check, length, same, yes

GAP_MM = 5.0
"""Between kits that stand side by side on a plate."""


def plate_checks(job: Job, parts: list[Part]) -> list[Check]:
    """Whether kits stand on the plate, in the middle of it and clear of each other."""
    kits: dict[str, list[Part]] = {}
    for part in parts:
        kits.setdefault(part.body.kit or part.body.id, []).append(part)
    checks, spans = [], []
    for group in kits.values():
        name, limit = group[0].body.name, max(2 * part.limit + part.slack for part in group)
        ends = bounds(np.concatenate([part.found.reshape(-1, 3) for part in group]))
        whole = len(group) == len(job.group(group[0].body.id))
        if whole:
            checks.append(length("stands", f"lowest point of {name} over the plate", 0.0, ends[0, 2], limit))
            middle = job.machine.volume.room[1] / 2
            checks.append(
                length("centred", f"middle of {name} across the plate", middle, ends[:, 1].mean(), limit)
            )
        else:
            checks.append(
                same("stands", f"{name} is not below the plate", "yes", yes(bool(ends[0, 2] >= -limit)))
            )
        spans.append((ends[0, 0], ends[1, 0], name, limit))
    spans.sort()
    for (_, end, a, limit), (start, _, b, _) in pairwise(spans):
        clear = bool(start - end >= GAP_MM - 2 * limit)
        checks.append(same("apart", f"{b} stands {GAP_MM:g} mm or more from {a}", "yes", yes(clear)))
    return checks
