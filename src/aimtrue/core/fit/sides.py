"""This module says what a release claims of each side of its pairs: which faces, and how wide or where.

The proof measures the same faces on the released bytes, by code of its own: ``core/proof/bodies/pair_sides``.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from aimtrue.core.chain.allowance import allowed_points, grown
from aimtrue.core.fit.faces import FitFace, faces_by
from aimtrue.core.fit.standing import located
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.pairs import PairSide
from aimtrue.core.model.shaping import DescribedFace
from aimtrue.core.model.vectors import as_vec3

_CREST = 1e-4
"""Corners of a thread that are so close in radius, as a share of it, are of one crest."""


def sides_of(job: Job, body: Body, store: GeometryStore) -> tuple[PairSide, ...]:
    """Return the sides of pairs that are on a body, in mm with its clearance and without its shrinkage.

    What the material will shrink is taken off by the proof before it measures. A thread that is scaled
    unequally is left out: it has no crest of one diameter, and is a finding of its own.
    """
    faces: dict[int, FitFace] = {}
    pair_sides: list[PairSide] = []
    for pair in job.pairs:
        known = located(job, pair, store)
        if known is None:
            continue
        for place in (known.a, known.b):
            if place.body != body.id:
                continue
            faces = faces or {face.feature: face for face in faces_by(_unshrunk, job, body, store)}
            mine = [faces[number] for number in place.features if number in faces]
            if known.kind == "thread and thread":
                pair_sides += _threads(job, body, mine, store)
            else:
                pair_sides += _sides(known.kind, mine)
    return tuple(dict.fromkeys(pair_sides))


def _unshrunk(job: Job, body: Body, points: Floats) -> Floats:
    return np.asarray(allowed_points(job, body, points) / grown(job, body))


def _sides(kind: str, faces: list[FitFace]) -> Iterator[PairSide]:
    """The diameters of a round face, the width between two flat ones, or where a flat one is."""
    if kind == "bore and shaft":
        yield from map(_round, faces)
    elif kind in ("slot and tab", "socket and block"):
        for low, high in zip(faces[::2], faces[1::2], strict=False):
            way = high.point - low.point
            says = "slot" if float(way @ low.way) > 0 else "tab"
            width = abs(float(way @ low.way))
            both = (_described(low), _described(high))
            yield PairSide(says=says, kind="width", faces=both, size_mm=width)
    else:
        for face in faces:
            away = float(face.point @ face.way)
            yield PairSide(says="flat face", kind="plane", faces=(_described(face),), size_mm=away)


def _round(face: FitFace) -> PairSide:
    says = "bore" if face.hollow else "shaft"
    if not face.oval:
        return PairSide(says=says, kind="round", faces=(_described(face),), size_mm=face.most)
    return PairSide(
        says=f"oval {says}",
        kind="oval",
        faces=(_described(face),),
        size_mm=face.most,
        least_mm=face.least,
        across=as_vec3(face.across),
    )


def _threads(job: Job, body: Body, faces: list[FitFace], store: GeometryStore) -> Iterator[PairSide]:
    """Where a thread's corners are: the diameter that most of its crest has, and its pitch and hand."""
    start, *ends = _unshrunk(job, body, np.vstack([np.zeros(3), np.eye(3)]))
    linear = np.stack(ends, axis=1) - start[:, None]
    scales = np.linalg.svd(linear, compute_uv=False)
    if scales[0] - scales[-1] > 1e-9 * scales[0]:
        return
    mesh, features = store.mesh(body.geometry), store.features(body)
    hand = 1 if np.linalg.det(linear) > 0 else -1
    for face in faces:
        flank = np.unique(mesh.faces[features.of_face == face.feature])
        corners = _unshrunk(job, body, mesh.vertices[flank])
        away = corners - face.point
        radii = np.sort(np.linalg.norm(away - (away @ face.way)[:, None] * face.way, axis=1))
        last = np.searchsorted(radii, radii * (1 + _CREST), side="right")
        outer = np.flatnonzero(radii >= radii[-1] * 0.98)
        fullest = outer[np.argmax((last - np.arange(len(radii)))[outer])]
        described = _described(face).model_copy(
            update={"low": as_vec3(corners.min(axis=0)), "high": as_vec3(corners.max(axis=0))}
        )
        yield PairSide(
            says="hollow thread" if face.hollow else "thread",
            kind="thread",
            faces=(described,),
            size_mm=2 * float(radii[last[fullest] - 1]),
            pitch_mm=hand * face.hand * face.pitch,
        )


def _described(face: FitFace) -> DescribedFace:
    return DescribedFace(
        kind="flat" if face.kind == "flat" else "round",
        point=as_vec3(face.point),
        way=as_vec3(face.way),
        diameter=face.most,
        hollow=face.hollow,
        low=as_vec3(face.corners.min(axis=0)),
        high=as_vec3(face.corners.max(axis=0)),
    )
