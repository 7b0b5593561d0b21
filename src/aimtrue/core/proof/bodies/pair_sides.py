"""The sides of pairs, measured on released bytes: diameters of bores and shafts, widths of slots and tabs."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from aimtrue.core.model.pairs import PairSide
from aimtrue.core.proof.bodies.division_checks import found_in_mm
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.regions.moved import offsets, on_face
from aimtrue.core.proof.surface import Points, Surface
from aimtrue.core.proof.values import Check, length, same


def checks(part: ProvenBody) -> Iterator[Check]:
    """Hold every side of a pair that a body is claimed to have to what is in its file."""
    if not part.claim.sides:
        return
    found = found_in_mm(part)
    for side in part.claim.sides:
        says = f"{side.says} of {part.body.name}, one side of a pair"
        measured = _measured(found, side)
        if measured is None:
            yield same("pair", says, f"{side.size_mm:.5f} mm", "not there")
        else:
            # Either of two faces, or of two walls, may be off by what float32 takes in three axes.
            yield length("pair", says, side.size_mm, measured, 4 * np.sqrt(3) * part.limit)


def _measured(found: Surface, side: PairSide) -> float | None:
    """The size of a side; of round ones at the corner that is farthest from what is claimed."""
    out = [_corners_out(found, number, side) for number in range(len(side.faces))]
    if any(not len(some) for some in out):
        return None
    if len(side.faces) == 1:
        face = side.faces[0]
        worst = float(out[0][np.abs(out[0]).argmax()])
        return face.diameter - 2 * worst if face.hollow else face.diameter + 2 * worst
    low, high = (float(np.median(some)) for some in out)
    slot = side.says == "slot"
    return side.size_mm - low - high if slot else side.size_mm + low + high


def _corners_out(found: Surface, number: int, side: PairSide) -> Points:
    """Return how far out of a face, away from its material, its corners are."""
    face = side.faces[number]
    mine = np.flatnonzero(on_face(found, face, 0.0))
    return offsets(found.corners[mine].reshape(-1, 3), face)
