"""Thin features, and whether layers would cross them: a pin or a bar breaks easily between two layers.

A thin feature has a long direction; where that stands more upright than not, layers lie across it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.mesh import Floats, Mesh

_THICKEST_MM = 6.0
"""What is thicker than this is not called thin."""
_SLENDER = 2.5
"""Times its thickness, and for a bar times its breadth, that something must be long to be thin."""
_UPRIGHT = float(np.sin(np.radians(45)))


@dataclass(frozen=True, eq=False)
class ThinFeature:
    """A thin feature: its long direction (unit), thickness and length in mm, and whether it is round."""

    along: Floats
    thick_mm: float
    long_mm: float
    round: bool

    def says(self) -> str:
        """Name it."""
        what = f"pin Ø{self.thick_mm:.3g}" if self.round else f"bar {self.thick_mm:.3g} thick"
        return f"{what}, {self.long_mm:.3g} long"


def thin_features(mesh: Mesh, features: Features, linear: Floats) -> tuple[ThinFeature, ...]:
    """Return the pins and bars of a body.

    Args:
        mesh, features: in numbers of the file.
        linear: (3, 3) that brings directions and lengths of the file to mm in the axes wanted.
    """
    found: list[tuple[ThinFeature, Floats]] = []
    for feature in features.listed:
        shape = None
        if feature.kind in ("boss", "thread"):
            shape = _pin(feature, linear)
        elif feature.flat and feature.wall > 0:
            shape = _bar(feature, mesh, features, linear)
        # All sides of a bar, and the flanks of a thread, tell of the same one.
        if shape and not any(_same(shape, known) for known in found):
            found.append(shape)
    return tuple(thin for thin, _ in found)


def crossed(thin: tuple[ThinFeature, ...], down: Floats) -> tuple[ThinFeature, ...]:
    """Return those that layers lie across when ``down`` (unit) is down."""
    return tuple(thin_feature for thin_feature in thin if abs(float(thin_feature.along @ down)) > _UPRIGHT)


def _pin(boss: Feature, linear: Floats) -> tuple[ThinFeature, Floats] | None:
    """A pin, with its middle."""
    along = linear @ np.asarray(boss.direction)
    scale = float(np.linalg.norm(along))
    across = abs(float(np.linalg.det(linear)) / max(scale, 1e-300)) ** 0.5
    thick, long = boss.diameter * across, boss.depth * scale
    if thick > _THICKEST_MM or long < _SLENDER * thick:
        return None
    return ThinFeature(along / scale, thick, long, True), linear @ np.asarray(boss.point)


def _bar(flat: Feature, mesh: Mesh, features: Features, linear: Floats) -> tuple[ThinFeature, Floats] | None:
    """A bar that one of its flat sides tells of, with its middle."""
    thick = flat.wall * float(np.linalg.norm(linear @ np.asarray(flat.through)))
    if thick > _THICKEST_MM:
        return None
    faces = mesh.faces[features.of_face == flat.id]
    points = mesh.vertices[np.unique(faces)] @ linear.T
    middle = points.mean(axis=0)
    _, spreads, ways = np.linalg.svd(points - middle, full_matrices=False)
    if spreads[0] <= 0:
        return None
    long, broad = (float(np.ptp(points @ way)) for way in ways[:2])
    if long < _SLENDER * max(thick, broad):
        return None
    inward = -0.5 * thick * (linear @ np.asarray(flat.direction))
    return ThinFeature(ways[0], min(thick, broad), long, False), middle + inward / max(
        np.linalg.norm(linear, 2), 1e-300
    )


def _same(a: tuple[ThinFeature, Floats], b: tuple[ThinFeature, Floats]) -> bool:
    (one, here), (other, there) = a, b
    near = float(np.linalg.norm(here - there)) < 0.6 * min(one.long_mm, other.long_mm) / _SLENDER * 2
    return near and abs(float(one.along @ other.along)) > 0.95
