"""This module says what a body that takes the place of another keeps of it: the decisions, not the facts.

One place for remedies, pieces, joined bodies, other facets and revisions, so that none forgets something.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TypeVar

import numpy as np

from aimtrue.core.gauges import anchors
from aimtrue.core.intake.finding_kinds import KINDS
from aimtrue.core.mesh.features.listed import Feature
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import DECISION, Body, fields_of
from aimtrue.core.model.decisions import KeptBore, PickedFace, ShownFace
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.value import Vec3

PickedT = TypeVar("PickedT", bound=PickedFace)
_NEAR = 0.02
"""A bore is the same when its axis moved by less than this share of the body's size."""
_PARALLEL = math.cos(math.radians(1))
_ALIKE = (0.8, 1.25)
"""How a bore's diameter may have changed and still be the same bore's."""
_SAME_PLACE = 1e-3
"""A fault that was accepted is the same when its places moved by less than this share of the body's size."""


def in_other_numbers(body: Body, scale: float) -> Body:
    """Return a body as it would be in a file whose numbers are so many times larger.

    What was decided of it in numbers of the file goes with them: its home, kept bores, faces that show. Its
    mesh is not changed, so this is for comparing and carrying over, not for measuring.
    """
    if scale == 1.0:
        return body
    return body.model_copy(
        update={
            "low": _times(body.low, scale),
            "high": _times(body.high, scale),
            "volume": body.volume * scale**3,
            "area": body.area * scale**2,
            "home": _times(body.home, scale),
            "kept": tuple(
                bore.model_copy(
                    update={
                        "point": _times(bore.point, scale),
                        "diameter": bore.diameter * scale,
                        "depth": bore.depth * scale,
                    }
                )
                for bore in body.kept
            ),
            "showing": tuple(
                face.model_copy(update={"point": _times(face.point, scale)}) for face in body.showing
            ),
        }
    )


def _times(point: Vec3, scale: float) -> Vec3:
    x, y, z = (scale * number for number in point)
    return (x, y, z)


def with_decisions(body: Body, old: Body) -> Body:
    """Return a body with what was decided of one it takes the place of, or is a part of.

    Name, colour and material are the old one's only where the body goes on being that one; acceptances are
    looked at again, and kept bores found again, by whoever knows the new geometry.
    """
    return body.model_copy(update={name: getattr(old, name) for name in fields_of(DECISION)})


def successor(body: Body, old: Body) -> Body:
    """Return a new body that goes on being an old one: all decisions, its name and looks, what was
    accepted.
    """
    return with_decisions(body, old).model_copy(
        update={
            "name": old.name,
            "colour": old.colour or body.colour,
            "material": old.material or body.material,
            "accepted": _still_accepted(body, old),
            "reasons": tuple(reason for reason in old.reasons if reason[0] in _still_accepted(body, old)),
        }
    )


def _still_accepted(body: Body, old: Body) -> tuple[str, ...]:
    """What was accepted of an old body and is just the same on the new one: as many faults, in the same
    places.
    """
    if body.geometry == old.geometry:
        return old.accepted
    return tuple(code for code in old.accepted if _same_fault(code, body, old))


_FAULTS = {kind.code: kind.fault for kind in KINDS}


def _same_fault(code: str, body: Body, old: Body) -> bool:
    count = _FAULTS.get(code)
    if count is None or count(body) != count(old):
        return False
    here, there = body.health.places.get(code, ()), old.health.places.get(code, ())
    near = _SAME_PLACE * max(np.subtract(old.high, old.low).max(), 1e-300)
    return len(here) == len(there) and all(
        max(abs(a - b) for a, b in zip(p, q, strict=True)) <= near for p, q in zip(here, there, strict=True)
    )


def bores_again(body: Body, old: Body, store: GeometryStore) -> tuple[tuple[KeptBore, ...], int]:
    """Find kept bores again on other geometry.

    Args:
        body: with its new geometry.
        old: with the bores that were kept.
        store: gives the features of the new geometry; asked only when there are kept bores.

    Returns:
        The bores that are still there, with the diameters they have now, and how many are not.
    """
    if not old.kept:
        return (), 0
    if body.geometry == old.geometry:
        return old.kept, 0
    size = float(np.subtract(old.high, old.low).max())
    bores = [_again(bore, store.features(body).listed, size) for bore in old.kept]
    here = tuple(bore for bore in bores if bore is not None)
    return here, len(bores) - len(here)


def showing_again(body: Body, old: Body, store: GeometryStore) -> tuple[ShownFace, ...]:
    """Find faces of an old body that are to show again on other geometry, but those that went."""
    if body.geometry == old.geometry or not old.showing:
        return old.showing
    return picked_again(old.showing, store.mesh(body.geometry))


def picked_again(picks: Sequence[PickedT], mesh: Mesh) -> tuple[PickedT, ...]:
    """Find picked faces again on other geometry by their places, but those that went."""
    near, carried = _NEAR * float(mesh.extents().max()), []
    for pick in picks:
        anchor = anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), pick.point, mesh)
        place = anchors.point_of(anchor, mesh.vertices, mesh.faces)
        if float(np.linalg.norm(np.subtract(place, pick.point))) <= near:
            carried.append(pick.model_copy(update={"face": anchor.face}))
    return tuple(carried)


def _again(bore: KeptBore, features: tuple[Feature, ...], size: float) -> KeptBore | None:
    axis, near = np.asarray(bore.direction), []
    for feature in features:
        if feature.kind != "bore" or abs(float(np.dot(feature.direction, axis))) < _PARALLEL:
            continue
        away = np.subtract(feature.point, bore.point)
        aside = float(np.linalg.norm(away - axis * (away @ axis)))
        if aside <= _NEAR * size and _ALIKE[0] < feature.diameter / bore.diameter < _ALIKE[1]:
            near.append((float(np.linalg.norm(away)) + abs(feature.diameter - bore.diameter), feature))
    if not near:
        return None
    best = min(near, key=lambda row: row[0])[1]
    return KeptBore(point=best.point, direction=best.direction, diameter=best.diameter, depth=best.depth)


def without_bodies(job: Job, gone: set[BodyId]) -> Job:
    """Return a job without some bodies, without readings on them, and without what was made of them."""
    divisions = [division for division in job.divisions if gone & set(division.wholes)]
    while divisions:
        lost = {division.id for division in divisions}
        gone = gone | {body.id for body in job.bodies if body.division in lost}
        job = job.model_copy(
            update={"divisions": tuple(division for division in job.divisions if division.id not in lost)}
        )
        divisions = [division for division in job.divisions if gone & set(division.wholes)]
    return job.model_copy(
        update={
            "bodies": tuple(body for body in job.bodies if body.id not in gone),
            "readings": tuple(
                reading for reading in job.readings if not gone & {reading.body, reading.gauge.other}
            ),
        }
    )
