"""The features of a body as a list to choose gauges from, without a pointer."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.transforms import along_matrix, base_points, true_linear, turn_up
from aimtrue.core.gauges.forms import CircleForm
from aimtrue.core.gauges.measure import factors_of
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.bolts import suits
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, written
from aimtrue.core.model.readings import GaugeKind
from aimtrue.core.model.value import AXES, Value, Vec3

_LISTED = 120
"""At most this many features of each kind are listed, so that many bores do not crowd out faces to stand on.
"""
_NAMED = tuple(axis.upper() for axis in AXES)


class FeatureLine(Value):
    """A feature to choose: what it is, how large it is now, where, and which gauges it can carry alone.

    ``face`` is one of its triangles, ``area_mm2`` its area as corrected, of a round one about so much;
    ``place`` is a point of it in numbers of the file; ``bolt`` the standard bolt that it suits as drawn;
    ``kept`` whether it keeps its diameter; ``shows`` whether it is marked as a face that is to show.
    """

    id: int
    kind: str
    face: int
    area_mm2: float
    says: str
    where: str
    place: Vec3
    bolt: str
    kept: bool
    shows: bool
    gauges: tuple[GaugeKind, ...]


def feature_lines(job: Job, body: Body, features: Features) -> list[FeatureLine]:
    """Return the features of a body, round ones first, the largest first."""
    rounds = [feature for feature in features.listed if not feature.flat]
    flats = [feature for feature in features.listed if feature.flat]
    marked = [features.at(mark.face) for mark in body.showing]
    shown = {feature.id for feature in marked if feature is not None}
    return [_line(job, body, feature, shown) for feature in [*rounds[:_LISTED], *flats[:_LISTED]]]


def _line(job: Job, body: Body, feature: Feature, shown: set[int]) -> FeatureLine:
    point = base_points(job, body, np.array([feature.point]))[0] * factors_of(job, body)
    where = "at " + ", ".join(f"{value:.1f}" for value in np.round(point, 1) + 0.0)
    before = feature.diameter * _scale(job, body)
    bolt = suits(before) if feature.kind == "bore" else None
    kept = any(bore.point == feature.point for bore in body.kept)
    gauges: tuple[GaugeKind, ...] = (
        ("wall",) if feature.flat or feature.screw else ("diameter", "radius", "depth", "wall")
    )
    return FeatureLine(
        id=feature.id,
        kind=feature.kind,
        face=feature.face,
        area_mm2=_area(job, body, feature),
        says=_says(job, body, feature, kept),
        where=where,
        place=_place(feature),
        bolt=bolt.says if bolt else "",
        kept=kept,
        shows=feature.id in shown,
        gauges=gauges,
    )


def _area(job: Job, body: Body, feature: Feature) -> float:
    """The area of a flat face as corrected: an area goes as its normal times the cofactors."""
    linear, _ = true_linear(job, body)
    if not feature.flat:
        return float(feature.area * abs(np.linalg.det(linear)) ** (2 / 3))
    cofactors = np.linalg.det(linear) * np.linalg.inv(linear).T
    return float(feature.area * np.linalg.norm(cofactors @ np.asarray(feature.direction)))


def _scale(job: Job, body: Body) -> float:
    return MM_PER[job.settled_unit(body)]


def _says(job: Job, body: Body, feature: Feature, kept: bool) -> str:
    turned = turn_up(job.source_of(body).up) @ np.asarray(feature.direction)
    along = _along(turned)
    if feature.flat:
        axis = int(np.abs(turned).argmax())
        return f"flat face {'−' if along in _NAMED and turned[axis] < 0 else ''}{along}"
    u, v = plane_axes(turned)
    before = feature.diameter * _scale(job, body)
    radii = np.stack([u, v]) * before / 2 @ along_matrix(job.correction_of(body).along).T
    greatest, least = CircleForm(radii).lengths(factors_of(job, body))
    size = f"{written(before)}" if kept else f"{written(greatest)}"
    oval = f" × {written(least)}" if greatest - least >= 0.005 and not kept else ""
    if feature.screw:
        return f"{feature.kind} ø {written(greatest)} × {feature.pitch * _scale(job, body):.3g} along {along}"
    part = "" if feature.whole else f", {feature.turn:.0f}° of it"
    return f"{feature.kind} ø {size}{oval} along {along}{part}"


def _along(direction: Floats) -> str:
    axis = int(np.abs(direction).argmax())
    if abs(direction[axis]) > 0.9999:
        return AXES[axis].upper()
    return "(" + ", ".join(f"{value:.2f}" for value in direction) + ")"


def _place(feature: Feature) -> Vec3:
    return feature.place if any(feature.place) else feature.point
