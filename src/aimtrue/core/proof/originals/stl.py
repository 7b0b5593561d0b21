"""This module reads STL a second time."""

from __future__ import annotations

import struct

import numpy as np

from aimtrue.core.proof.originals.proof_original import (
    text_of,
)
from aimtrue.core.proof.surface import Numbers, Points


def stl_binary(data: bytes) -> Points:
    """Read a binary STL: (n, 3, 3) the corners of its triangles."""
    (count,) = struct.unpack_from("<I", data, 80)
    rows = np.frombuffer(data, np.uint8, count * 50, 84).reshape(count, 50)
    return np.ascontiguousarray(rows[:, 12:48]).view("<f4").astype(np.float64).reshape(-1, 3, 3)


def stl_ascii(data: bytes) -> tuple[Points, Numbers]:
    """Read an ASCII STL: (n, 3, 3) the corners of its triangles, and (n,) the solid each is of."""
    words = text_of(data).encode().split()
    numbers, piece, solid = [], [], 0
    for i, word in enumerate(words):
        if word == b"solid" or word == b"SOLID":
            solid += 1
        elif word.lower() == b"vertex":
            try:
                numbers.append((float(words[i + 1]), float(words[i + 2]), float(words[i + 3])))
                piece.append(solid)
            except (ValueError, IndexError):  # The word stands within a name.
                continue
    return np.array(numbers, dtype=np.float64).reshape(-1, 3, 3), np.array(piece[::3], dtype=np.int64)
