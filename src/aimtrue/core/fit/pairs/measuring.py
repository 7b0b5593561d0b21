"""This module measures a pair that is known, on the same faces in another state or on another body."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from aimtrue.core.fit.faces import FitFace
from aimtrue.core.fit.pairs.round_pairs import oval_words
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.model.vectors import as_vec3


def measured(pair: FoundPair, one: Sequence[FitFace], other: Sequence[FitFace]) -> FoundPair | None:
    """Return a pair with its sizes and its clearance in another state; None where a face is not there.

    Args:
        pair: as it was found.
        one, other: the faces of its bodies ``a`` and ``b`` in that state.
    """
    mine = _chosen(one, pair.a.features)
    yours = _chosen(other, pair.b.features)
    if mine is None or yours is None:
        return None
    match pair.kind:
        case "bore and shaft" | "thread and thread":
            round_now = pair.model_copy(update={"oval": oval_words(mine[0], yours[0])})
            return _with(round_now, (mine[0].least, yours[0].most), mine[0].point)
        case "slot and tab":
            return _with(pair, (_apart(mine[0], mine[1]), _apart(yours[0], yours[1])), mine[0].point)
        case "socket and block":
            widths = [_apart(*faces[k : k + 2]) for k in (0, 2) for faces in (mine, yours)]
            tight, wide = sorted((tuple(widths[:2]), tuple(widths[2:])), key=lambda two: two[0] - two[1])
            return _with(pair, (*tight, *wide), mine[0].point)
    gaps = [float((b.point - a.point) @ a.way) for a, b in zip(mine, yours, strict=True)]
    least = min(range(len(gaps)), key=gaps.__getitem__)
    return pair.model_copy(update={"clearance_mm": gaps[least], "at": as_vec3(mine[least].point)})


def _chosen(faces: Sequence[FitFace], numbers: Sequence[int]) -> list[FitFace] | None:
    known = {face.feature: face for face in faces}
    return [known[number] for number in numbers] if all(number in known for number in numbers) else None


def _apart(one: FitFace, other: FitFace) -> float:
    """The distance of two parallel flat faces."""
    return abs(float((other.point - one.point) @ one.way))


def _with(
    pair: FoundPair, sizes: tuple[float, ...], at: np.ndarray[tuple[int], np.dtype[np.float64]]
) -> FoundPair:
    update = {"sizes_mm": sizes, "clearance_mm": sizes[0] - sizes[1], "at": as_vec3(at)}
    return pair.model_copy(update=update)
