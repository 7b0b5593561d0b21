"""This module reads OBJ a second time."""

from __future__ import annotations

import numpy as np

from aimtrue.core.proof.originals.proof_original import (
    text_of,
)
from aimtrue.core.proof.surface import Points


def obj_polygons(data: bytes) -> tuple[Points, list[list[int]], list[int]]:
    """Read an OBJ: its points, the corners of its polygons, and which group or object each is of."""
    points: list[list[float]] = []
    loops: list[list[int]] = []
    piece: list[int] = []
    names: dict[tuple[str, str], int] = {}
    object_, group = "", ""
    for line in text_of(data).replace("\\\r\n", " ").replace("\\\n", " ").splitlines():
        words = line.split("#")[0].split()
        if not words:
            continue
        if words[0] == "v":
            points.append([float(word) for word in words[1:4]])
        elif words[0] == "f" and len(words) > 3:
            numbers = [int(word.split("/")[0]) for word in words[1:]]
            loops.append([n - 1 if n > 0 else len(points) + n for n in numbers])
            piece.append(names.setdefault((object_, group), len(names)))
        elif words[0] == "o":
            object_ = " ".join(words[1:])
        elif words[0] == "g":
            group = " ".join(words[1:])
    return np.array(points).reshape(-1, 3), loops, piece
