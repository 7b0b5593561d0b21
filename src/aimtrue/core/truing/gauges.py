"""Gauges: where a length is on the model, and how long it is now."""

from __future__ import annotations

import numpy as np

from aimtrue.core.frames import true_points
from aimtrue.core.job import Body, Job, Reading
from aimtrue.core.mesh import Floats


def gauge_vector(job: Job, body: Body, reading: Reading) -> Floats:
    """Return (3,): a reading's gauge in mm in the true frame."""
    a, b = true_points(job, body, np.array([reading.a_point, reading.b_point], dtype=np.float64))
    return np.asarray(b - a)
