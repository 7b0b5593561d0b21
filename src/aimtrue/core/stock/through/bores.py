"""This module tells of bores: which there are, and what each is to a bolt that goes through it."""

from __future__ import annotations

import numpy as np

from aimtrue.core.fit.faces import FitFace, faces_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.bolts import BOLTS
from aimtrue.core.model.job import Job
from aimtrue.core.model.threads import THREADS
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.stock.tables.screws import INCH_LENGTHS, METRIC_LENGTHS
from aimtrue.core.stock.through.bore_stack import BoreStack, bodies_with_bores
from aimtrue.core.stock.through.lengths import BEYOND_PITCHES
from aimtrue.core.stock.through.tried_bolt import TriedBolt, tried_bolt, typed_as
from aimtrue.core.stock.through.values import BoreInJob, BoreOnBolt, BoreRole


def bores_in(job: Job, store: GeometryStore) -> tuple[BoreInJob, ...]:
    """List the bores that a bolt can be tried in, the largest bodies' first; threads count as bores."""
    rows = []
    for body in bodies_with_bores(job):
        for face in faces_of("released", job, body, store):
            if face.kind in ("bore", "hollow thread") and face.most <= 1.3 * THREADS[-1].diameter * 2:
                suits = series_of(face.least)[1]
                rows.append(
                    BoreInJob(
                        body=body.name,
                        id=body.id,
                        feature=face.feature,
                        diameter_mm=face.least,
                        depth_mm=face.depth,
                        at=as_vec3(face.point),
                        suits=suits,
                        bolt=_suiting(suits, face),
                    )
                )
    return tuple(rows)


def _suiting(suits: str, face: FitFace) -> str:
    """A bolt for a bore by its own depth alone: what else is on its axis is told when it is tried."""
    if not suits:
        return ""
    metric = suits.startswith("M")
    bolt = tried_bolt(f"{suits.removesuffix(' in')} x {20 if metric else 1}", washers=False)
    least = face.depth + (bolt.nut.height if bolt.nut else 0.0) + BEYOND_PITCHES * bolt.size.pitch
    series = METRIC_LENGTHS if metric else INCH_LENGTHS
    return typed_as(bolt, next((length for length in series if length >= least - 1e-6), series[-1]))


def on_bolt(
    job: Job, bolt: TriedBolt, stack: BoreStack, face: FitFace, low: float, high: float
) -> BoreOnBolt:
    """Return what one bore of a stack is to its bolt; ``low`` and ``high`` are its ends along the axis."""
    d, thread = bolt.size.diameter, bolt.size
    away = face.point - stack.point
    aside = float(np.linalg.norm(away - (away @ stack.way) * stack.way))
    pitched = face.pitch > 0
    tapping = thread.minor - 0.15 * thread.pitch <= face.least <= thread.minor + 0.35 * thread.pitch
    role: BoreRole = "passes" if face.least >= d and not pitched else "narrow"
    if (
        pitched and abs(face.pitch - thread.pitch) < 0.02 * thread.pitch and abs(face.most - d) < 0.1 * d
    ) or (not pitched and tapping):
        role = "tapped"
    return BoreOnBolt(
        body=job.body(face.body).name,
        id=face.body,
        feature=face.feature,
        diameter_mm=face.least,
        role=role,
        clearance_mm=0.0 if role == "tapped" else (face.least - d) / 2 - aside,
        series=series_of(face.least, bolt.size.size)[0] if role == "passes" else "",
        low_mm=stack.top - high,
        high_mm=stack.top - low,
    )


def series_of(diameter: float, size: str = "") -> tuple[str, str]:
    """Name the clearance hole that a diameter is: its series, and the bolt; empty where it is none."""
    for bolt in BOLTS:
        if size and bolt.name.removesuffix(" in") != size:
            continue
        for series, hole in zip(("close", "medium", "loose"), bolt.clearance, strict=True):
            if abs(diameter - hole) <= 0.05:
                return series, bolt.name
    return "", ""
