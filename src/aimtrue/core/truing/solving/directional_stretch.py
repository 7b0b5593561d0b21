"""Stretching a body in the direction of a gauge alone.

With the unit vector ``d`` the stretch is ``I + (k - 1) d dᵀ``: what lies along ``d`` becomes ``k`` times as
long, what is square to it stays. It comes before the factors of the axes, so those must be alike.
"""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.gauges.bands import Band
from aimtrue.core.gauges.forms import GapForm, SpanForm
from aimtrue.core.gauges.measure import form_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, DirectionalStretch
from aimtrue.core.model.job import Job
from aimtrue.core.model.readings import DIRECTED_KINDS, Reading
from aimtrue.core.model.vectors import as_vec3


def stretched_along(job: Job, body: Body, reading: Reading, band: Band) -> Correction:
    """Return the correction that meets a reading by a stretch along its gauge.

    Raises:
        Refused: the gauge has no direction, the axes have different factors, or the body is stretched in
            another direction already.
    """
    now = job.correction_of(body)
    form = form_of(job, reading)
    if reading.gauge.kind not in DIRECTED_KINDS or not isinstance(form, SpanForm | GapForm):
        raise Refused(
            "no-direction", f"{reading.name} has no one direction", remedy="take a gauge between two places"
        )
    if len(set(now.factors)) > 1:
        raise Refused(
            "factors-differ", "the axes have different factors already", remedy="go back to 100 % first"
        )
    length = float(np.linalg.norm(form.vector))
    direction = form.vector / length
    old = now.along
    if old is not None and abs(abs(float(np.dot(old.direction, direction))) - 1) > 1e-9:
        raise Refused(
            "along-other", "the body is stretched in another direction", remedy="go back to 100 % first"
        )
    model = length * now.factors[0]
    wanted = band.wanted if band.wanted is not None else min(max(model, band.low), band.high)
    factor = (old.factor if old else 1.0) * wanted / model
    return now.model_copy(
        update={
            "along": DirectionalStretch(
                direction=old.direction if old else as_vec3(direction), factor=factor
            ),
            "set_by": f"stretched along {reading.name}",
            "readings": (reading.id,),
            "absolute": True,
            "typed": (),
        }
    )
