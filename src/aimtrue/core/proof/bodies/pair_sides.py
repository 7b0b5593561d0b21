"""The sides of pairs, measured on released bytes: diameters of bores and shafts, widths of slots and tabs."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from aimtrue.core.model.pairs import PairSide
from aimtrue.core.proof.bodies.division_checks import found_in_mm
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.regions.moved import reached
from aimtrue.core.proof.surface import Surface
from aimtrue.core.proof.values import Check, length, same


def checks(part: ProvenBody) -> Iterator[Check]:
    """Hold every side of a pair that a body is claimed to have to what is in its file."""
    if not part.claim.sides:
        return
    surface = found_in_mm(part)
    for side in part.claim.sides:
        says = f"{side.says} of {part.body.name}, one side of a pair"
        measured = _measured(surface, side)
        if measured is None:
            yield same("pair", says, f"{side.size_mm:.5f} mm", "not there")
        else:
            # Either of two faces, or of two walls, may be off by what float32 takes in three axes.
            yield length("pair", says, side.size_mm, measured, 4 * np.sqrt(3) * part.limit)


def _measured(found: Surface, side: PairSide) -> float | None:
    """The size of a side; None where one of its faces is not there."""
    out = [reached(found, face, 0.0) for face in side.faces]
    rows = [row for row in out if row is not None]
    if len(rows) < len(out):
        return None
    if len(rows) == 1:
        (worst, _), face = rows[0], side.faces[0]
        return face.diameter - 2 * worst if face.hollow else face.diameter + 2 * worst
    # Of two flat faces the corner of each that is farthest off tells.
    low, high = (max(row, key=abs) for row in rows)
    return side.size_mm - low - high if side.says == "slot" else side.size_mm + low + high
