"""This module writes the paths of a plate as plain G-code with comments.

    G0 X Y Z F   a move without material
    G1 X Y E F   a move that lays a strand; E is mm of strand so far
    ; text       a comment

All is in mm and mm/min, absolute. It is a stand-in to see and to reckon with: it heats nothing, and is for no
real machine until its owner has looked it over. :mod:`aimtrue.core.proof.tool_paths` reads it again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import pi
from typing import IO

import numpy as np

from aimtrue.core.cost.paths.layer_paths import LayerPaths
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.printing import PATH_KINDS

_TRAVEL = PATH_KINDS.index("travel")
STRAND_MM = 1.75
"""What is taken where a material comes as no strand."""


@dataclass(eq=False)
class GcodeWriter:
    """Writes layers as they come.

    Attributes:
        out: takes the text.
        names: of the bodies, by their number.
        strand_mm: diameter of the strand.
        laid_mm3: so far.
        low, high: (3,) bounds of what was laid, with z the top of its layer; infinite while nothing was.
    """

    out: IO[str]
    names: Sequence[str]
    strand_mm: float
    laid_mm3: float = 0.0
    low: Floats = field(default_factory=lambda: np.full(3, np.inf))
    high: Floats = field(default_factory=lambda: np.full(3, -np.inf))

    def add(self, paths: LayerPaths) -> None:
        """Write a layer."""
        if not len(paths.kinds):
            return
        laying = paths.volumes > 0
        strand = (self.laid_mm3 + np.cumsum(paths.volumes)) / strand_area(self.strand_mm)
        self._reach(paths, laying)
        lines = [f"; layer {paths.number + 1}, top {paths.top_mm:.3f}", f"G0 Z{paths.top_mm:.3f} F3000"]
        begins = np.flatnonzero(self._changes(paths)).tolist()
        for begin, end in zip(begins, [*begins[1:], len(paths.kinds)], strict=True):
            lines += self._moves(paths, strand, begin, end)
        self.laid_mm3 += float(paths.volumes.sum())
        self.out.write("\n".join(lines) + "\n")

    def _changes(self, paths: LayerPaths) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        changes = np.ones(len(paths.kinds), bool)
        changes[1:] = (np.diff(paths.kinds) != 0) | (np.diff(paths.bodies) != 0)
        return changes

    def _moves(self, paths: LayerPaths, strand: Floats, begin: int, end: int) -> list[str]:
        """The moves of one kind and body, with the speed at the first."""
        kind, body, speed = int(paths.kinds[begin]), int(paths.bodies[begin]), paths.speeds[begin]
        rows = paths.points[begin + 1 : end + 1].tolist()
        if kind == _TRAVEL:
            lines = [f"G0 X{x:.3f} Y{y:.3f}" for x, y in rows]
        else:
            run = strand[begin:end].tolist()
            lines = [f"G1 X{x:.3f} Y{y:.3f} E{e:.5f}" for (x, y), e in zip(rows, run, strict=True)]
        lines[0] += f" F{60 * speed:.0f}"
        if kind == _TRAVEL:
            return lines
        whose = f" of {self.names[body]}" if body >= 0 else ""
        return [f"; {PATH_KINDS[kind]}{whose}", *lines]

    def _reach(self, paths: LayerPaths, laying: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> None:
        if laying.any():
            ends = np.concatenate([paths.points[:-1][laying], paths.points[1:][laying]])
            self.low = np.minimum(self.low, [*ends.min(axis=0), paths.top_mm])
            self.high = np.maximum(self.high, [*ends.max(axis=0), paths.top_mm])


def strand_area(strand_mm: float) -> float:
    """Return the cross-section of a strand, in mm²."""
    return pi * (strand_mm or STRAND_MM) ** 2 / 4


def heading(
    estimate: Estimate, machine: str, settings: str, strand_mm: float, layer_mm: float, made_of: Sequence[str]
) -> str:
    """Return the comments that stand before the moves: what it is, of what, and what it takes.

    ``made_of`` are lines that tell geometry, and the release that it is of, by their hashes.
    """
    minutes = round(estimate.seconds / 60)
    rows = [
        "Aim True tool paths: a stand-in to see and to reckon with,",
        "not for a real machine until its owner has looked it over",
        "unit mm",
        f"machine {machine}",
        f"settings {settings}",
        f"strand {strand_mm or STRAND_MM:g}",
        f"layer {layer_mm:g}",
        f"layers {estimate.layers}",
        f"estimate {minutes // 60} h {minutes % 60:02d} min",
        f"grams {estimate.grams:.2f}",
        f"strand used {estimate.strand_m:.3f} m",
        f"volume {estimate.volume_mm3:.3f} mm3",
        *made_of,
    ]
    return "".join(f"; {row}\n" for row in rows) + "G21\nG90\nM82\n"
