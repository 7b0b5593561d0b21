"""This module finds what is in a bore, and which threads turn into each other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from aimtrue.core.fit.faces import FitFace
from aimtrue.core.fit.pairs.values import FoundPair, PairPlace
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.vectors import as_vec3

_TILTED = np.cos(np.radians(3.0))
"""Axes that are farther from parallel are no pair's."""
_ASIDE = 0.25
"""How far, in diameters of the shaft, its axis may be from that of its bore."""
_PLAY = (-0.3, 0.35)
"""How much wider the bore of what may be meant as a pair is, in diameters of the shaft."""
_ALIKE = 1.02
"""Diameters that differ by less than this are as wide as each other, beside the wall between them."""
_SAME_PITCH = 0.01


def round_pairs(one: Sequence[FitFace], other: Sequence[FitFace], reach_mm: float) -> Iterator[FoundPair]:
    """Yield the pairs of round faces of which the second lies in the first.

    Of several shafts that overlap along one bore the one that fits closest is in it; what is around that, or
    within it, is its own bore's. The inside and the outside of one wall are no pair, however alike they are.

    Args:
        one: all faces of the body that bores are looked for on.
        other: all faces of that with the shafts: the same, or another in the same frame.
        reach_mm: the most room that a shaft has in its bore.
    """
    for bore in hollow(one):
        fitting = [
            pair
            for shaft in full(other)
            if (pair := _pair(bore, shaft, reach_mm)) is not None
            and not (pair.clearance_mm < 0 and _is_across_a_wall(bore, shaft, one, other))
        ]
        fitting.sort(key=lambda pair: (abs(pair.clearance_mm), pair.b.features))
        taken: list[tuple[float, float]] = []
        for pair in fitting:
            middle = float((np.asarray(pair.at) - bore.point) @ bore.way)
            span = (middle - pair.engaged_mm / 2, middle + pair.engaged_mm / 2)
            if all(span[1] <= low + 1e-6 or span[0] >= high - 1e-6 for low, high in taken):
                taken.append(span)
                yield pair


def hollow(faces: Sequence[FitFace]) -> list[FitFace]:
    """Return the round faces that something goes into."""
    return [face for face in _without_crests(faces) if face.kind != "flat" and face.hollow]


def full(faces: Sequence[FitFace]) -> list[FitFace]:
    """Return the round faces that go into something."""
    return [face for face in _without_crests(faces) if face.kind != "flat" and not face.hollow]


def _without_crests(faces: Sequence[FitFace]) -> Sequence[FitFace]:
    """Leave out crests and roots of threads, narrow bands that climb between flanks, and all flanks but
    one.
    """
    threads: list[FitFace] = []
    for face in faces:
        if face.pitch > 0 and not any(_is_other_flank(face, thread) for thread in threads):
            threads.append(face)
    if not threads:
        return faces
    return [
        face
        for face in faces
        if any(face is thread for thread in threads)
        or (face.pitch == 0 and not any(_is_crest(face, thread) for thread in threads))
    ]


def _is_other_flank(face: FitFace, thread: FitFace) -> bool:
    """Whether a flank is of the same thread as another."""
    same = (face.body, face.hollow, face.hand) == (thread.body, thread.hollow, thread.hand)
    if not same or abs(face.pitch - thread.pitch) > _SAME_PITCH * thread.pitch:
        return False
    apart = abs(float((face.point - thread.point) @ thread.way))
    return _are_coaxial(face, thread) and apart < (face.depth + thread.depth) / 2


def _is_crest(face: FitFace, thread: FitFace) -> bool:
    if face.kind == "flat" or face.pitch > 0 or face.body != thread.body:
        return False
    if face.hollow != thread.hollow or not _are_coaxial(face, thread):
        return False
    beyond = abs(float((face.point - thread.point) @ thread.way)) + face.depth / 2 - thread.depth / 2
    within = thread.most - 3 * thread.pitch <= face.most <= thread.most * 1.001
    return beyond <= thread.pitch and within


def _is_across_a_wall(
    bore: FitFace, shaft: FitFace, one: Sequence[FitFace], other: Sequence[FitFace]
) -> bool:
    """Whether what is wider than a bore is only the outside of a wall around it.

    So it is within one body; where the body with the bore ends before the shaft does; and where the shaft is
    the outside of a tube that is as wide within.
    """
    if bore.body == shaft.body:
        return True
    ends = any(_are_coaxial(bore, face) and face.least <= shaft.most * _ALIKE for face in full(one))
    tube = any(_are_coaxial(shaft, face) and face.most * _ALIKE >= bore.least for face in hollow(other))
    return ends or tube


def _are_coaxial(one: FitFace, other: FitFace) -> bool:
    parallel = float(abs(one.way @ other.way)) >= _TILTED
    return parallel and _aside(one.point, other) <= _ASIDE * min(one.most, other.most)


def aligned(bore: FitFace, shaft: FitFace) -> FoundPair | None:
    """Return the pair that two round faces would make with their axes brought together, middle to middle."""
    if not _are_alike(bore, shaft):
        return None
    engaged = min(bore.depth, shaft.depth)
    return _made(bore, shaft, bore.point, engaged, 0.0, 0.0)


def _pair(bore: FitFace, shaft: FitFace, reach_mm: float) -> FoundPair | None:
    if not _are_alike(bore, shaft) or bore.least - shaft.most > reach_mm:
        return None
    parallel = float(abs(bore.way @ shaft.way))
    if parallel < _TILTED:
        return None
    away = shaft.point - bore.point
    along = float(away @ bore.way)
    low = max(-bore.depth / 2, along - shaft.depth / 2)
    high = min(bore.depth / 2, along + shaft.depth / 2)
    engaged = high - low
    if engaged <= 1e-6 * max(bore.depth, shaft.depth):
        return None
    at = bore.point + (low + high) / 2 * bore.way
    # The axes are compared in the middle of where the two are in each other.
    aside = _aside(at, shaft)
    if aside > _ASIDE * shaft.most:
        return None
    angle = float(np.degrees(np.arccos(min(1.0, parallel))))
    return _made(bore, shaft, at, engaged, aside, angle if parallel < 1 - 1e-14 else 0.0)


def _aside(at: Floats, shaft: FitFace) -> float:
    away = at - shaft.point
    return float(np.linalg.norm(away - (away @ shaft.way) * shaft.way))


def _are_alike(bore: FitFace, shaft: FitFace) -> bool:
    threads = bore.pitch > 0, shaft.pitch > 0
    if threads[0] != threads[1]:
        return False
    play = bore.least - shaft.most
    return _PLAY[0] * shaft.most <= play <= _PLAY[1] * shaft.most


def _made(bore: FitFace, shaft: FitFace, at: Floats, engaged: float, aside: float, angle: float) -> FoundPair:
    threaded = bore.pitch > 0
    return FoundPair(
        kind="thread and thread" if threaded else "bore and shaft",
        a=PairPlace(body=bore.body, features=(bore.feature,)),
        b=PairPlace(body=shaft.body, features=(shaft.feature,)),
        sizes_mm=(bore.least, shaft.most),
        clearance_mm=bore.least - shaft.most,
        engaged_mm=engaged,
        offset_mm=aside if aside > 1e-9 else 0.0,
        angle_deg=angle,
        oval=oval_words(bore, shaft),
        at=as_vec3(at),
        along=as_vec3(bore.way),
        says=_pitches(bore, shaft) if threaded else "",
    )


def oval_words(bore: FitFace, shaft: FitFace) -> str:
    """Say which of a bore and its shaft is round no more; nothing where both are."""
    reasons = [
        f"the {what} is oval, {face.least:.4g} × {face.most:.4g}"
        for what, face in (("bore", bore), ("shaft", shaft))
        if face.oval
    ]
    return " and ".join(reasons)


def _pitches(bore: FitFace, shaft: FitFace) -> str:
    """Say what keeps two threads from turning into each other: their hands or pitches differ."""
    if bore.hand * shaft.hand < 0:
        return "one is right-hand and the other left-hand: they do not turn into each other"
    if abs(bore.pitch - shaft.pitch) <= _SAME_PITCH * shaft.pitch:
        return ""
    return f"their pitches differ, {bore.pitch:.3g} and {shaft.pitch:.3g}: they do not turn into each other"
