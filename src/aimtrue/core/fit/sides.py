"""This module says what a release claims of each side of its pairs: which faces, and how wide.

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


def sides_of(job: Job, body: Body, store: GeometryStore) -> tuple[PairSide, ...]:
    """Return the sides of pairs that are on a body, in mm with its clearance and without its shrinkage.

    What the material will shrink is taken off by the proof before it measures. Oval faces are left out: they
    have no one diameter; and threads, whose crests alone are on theirs.
    """
    faces: dict[int, FitFace] = {}
    pair_sides = []
    for pair in job.pairs:
        known = located(job, pair, store)
        if known is None:
            continue
        for place in (known.a, known.b):
            if place.body != body.id:
                continue
            faces = faces or {face.feature: face for face in faces_by(_unshrunk, job, body, store)}
            mine = [faces[number] for number in place.features if number in faces]
            pair_sides += list(_sides(known.kind, mine))
    return tuple(dict.fromkeys(pair_sides))


def _unshrunk(job: Job, body: Body, points: Floats) -> Floats:
    return np.asarray(allowed_points(job, body, points) / grown(job, body))


def _sides(kind: str, faces: list[FitFace]) -> Iterator[PairSide]:
    """The diameter of a round face, or the width between two flat ones."""
    if kind == "bore and shaft":
        for face in faces:
            if not face.oval:
                says = "bore" if face.hollow else "shaft"
                yield PairSide(says=says, faces=(_described(face),), size_mm=face.most)
    elif kind in ("slot and tab", "socket and block"):
        for low, high in zip(faces[::2], faces[1::2], strict=False):
            way = high.point - low.point
            says = "slot" if float(way @ low.way) > 0 else "tab"
            width = abs(float(way @ low.way))
            yield PairSide(says=says, faces=(_described(low), _described(high)), size_mm=width)


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
