"""Materials to start from: their figures are usual ones and can all be changed.

Density in g/cm³ and shrinkage as share of the length are in the middle of what makers' data sheets give
for unfilled grades; a calibration of one's own machine and material is always better.
"""

from __future__ import annotations

from aimtrue.core.model.decisions import Material


def _usual(name: str, density: float, percent: float, strand_mm: float = 1.75) -> Material:
    share = percent / 100
    return Material(name=name, density=density, strand_mm=strand_mm, shrinkage=(share, share, share))


MATERIALS = (
    _usual("PLA", 1.24, 0.3),
    _usual("PETG", 1.27, 0.4),
    _usual("ABS", 1.04, 0.8),
    _usual("ASA", 1.07, 0.6),
    _usual("PA", 1.13, 1.2),
    _usual("PC", 1.20, 0.7),
    _usual("TPU", 1.21, 0.8),
    _usual("resin", 1.18, 0.5, strand_mm=0.0),
)
