"""Pieces that are small against the others: kept, dropped on purpose, or given to a neighbour."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from aimtrue.core.division.cutting.pieces import Piece
from aimtrue.core.division.cutting.solids import distances
from aimtrue.core.mesh.mesh import Mesh

Fate = Literal["keep", "drop", "give"]
_TOUCHES_MM = 1e-6


def without_slivers(pieces: Sequence[Piece], fate: Fate) -> tuple[list[Piece], list[Piece]]:
    """Return the pieces with their slivers seen to, and those that were dropped.

    A sliver is given to the piece that it lies against with most of its surface; one that touches none stays.
    """
    small = [piece for piece in pieces if piece.sliver]
    rest = [piece for piece in pieces if not piece.sliver]
    if fate == "keep" or not small:
        return list(pieces), []
    if fate == "drop":
        return rest, small
    for sliver in small:
        touches = [_touching(sliver, piece) for piece in rest]
        best = int(np.argmax(touches)) if touches else 0
        if touches and touches[best] > 0:
            rest[best] = replace(rest[best], made=rest[best].solid + sliver.solid)
        else:
            rest.append(sliver)
    return rest, []


def _touching(sliver: Piece, other: Piece) -> float:
    """The area that two pieces lie against each other with, in mm²."""
    mesh = sliver.mesh
    on = distances(mesh.vertices, other.mesh) <= _TOUCHES_MM
    faces = mesh.faces[on[mesh.faces].all(axis=1)]
    return Mesh(mesh.vertices, faces).area() if len(faces) else 0.0
