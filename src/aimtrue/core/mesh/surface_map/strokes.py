"""This module draws lines on a surface: hatch where a number is in a band, contours where it has a value."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.parts import SurfaceParts
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

_DIRECTIONS = np.array([[1.0, 1.0, 1.0], [1.0, -1.0, 1.0], [-1.0, 1.0, 1.0]]) / np.sqrt(3)
"""Hatch lies in planes square to one of these: on a face square to an axis it runs at 45 degrees."""
_STEEP = 0.9
"""A surface that is square to a direction but for this cosine is hatched by another one."""
_MOST_STROKES = 60_000
"""Of one band; where there were more it is hatched more widely."""


class StrokeBand(Value):
    """Strokes of one kind on a surface.

    Attributes:
        says: what they stand for.
        kind: hatch, or a contour.
        spacing_mm: between lines of a hatch; 0 of a contour.
        strokes: pairs of places, in numbers of the file less those of ``origin``: base64 of little-endian
            float32.
        count: of them.
        at: a place on one of them, in numbers of the file, for its label; None where there is none.
    """

    says: str
    kind: str
    spacing_mm: float
    strokes: str
    count: int
    at: Vec3 | None


class SurfaceStrokes(Value):
    """What is drawn on the surface of a body; ``origin`` is in numbers of its file."""

    origin: Vec3
    bands: tuple[StrokeBand, ...]


@dataclass(frozen=True, eq=False)
class Canvas:
    """A surface to draw on.

    Attributes:
        parts: of the mesh in mm.
        drawn: the same mesh in numbers of its file.
    """

    parts: SurfaceParts
    drawn: Mesh

    @property
    def origin(self) -> Vec3:
        """The middle of what is drawn, in numbers of the file; float32 tells more of what is near it."""
        return as_vec3(self.drawn.bounds().mean(axis=0))

    def hatch(self, says: str, chosen: NDArray[np.bool_], spacing_mm: float) -> StrokeBand:
        """Hatch the parts that are chosen.

        Args:
            says: what the hatch stands for.
            chosen: (n,) whether a part is within the band.
            spacing_mm: between two lines, measured between the planes that they lie in.
        """
        parts = self._some(chosen)
        corners = parts.corners(parts.mesh)
        heights = _heights(corners)
        spacing = spacing_mm
        while (np.ptp(heights, axis=1).sum() / spacing) > _MOST_STROKES:
            spacing *= 2
        return self._band(says, "hatch", spacing, parts, heights / spacing)

    def contour(self, says: str, values: Floats, level: float, chosen: NDArray[np.bool_]) -> StrokeBand:
        """Draw the line on which a number has a value.

        Args:
            says: its label.
            values: (n, 3) the number at the corners of the parts.
            level: the value.
            chosen: (n,) whether a part is drawn on.
        """
        heights = values[chosen] - level
        return self._band(says, "contour", 0.0, self._some(chosen), heights, only_zero=True)

    def _some(self, chosen: NDArray[np.bool_]) -> SurfaceParts:
        parts = self.parts
        return SurfaceParts(parts.mesh, parts.face[chosen], parts.weights[chosen])

    def _band(
        self,
        says: str,
        kind: str,
        spacing: float,
        parts: SurfaceParts,
        heights: Floats,
        *,
        only_zero: bool = False,
    ) -> StrokeBand:
        part, shares = isolines(heights, only_zero=only_zero)
        ends = np.einsum("kec,kcx->kex", shares, parts.corners(self.drawn)[part])
        data = (ends - np.asarray(self.origin)).astype("<f4").tobytes()
        middle = as_vec3(ends[len(ends) // 2].mean(axis=0)) if len(ends) else None
        return StrokeBand(
            says=says,
            kind=kind,
            spacing_mm=spacing,
            strokes=b64encode(data).decode(),
            count=len(ends),
            at=middle,
        )


def _heights(corners: Floats) -> Floats:
    """Return (n, 3): how far the corners of parts are along the direction that each is hatched by."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    suits = np.abs(normals @ _DIRECTIONS.T) < _STEEP
    along = _DIRECTIONS[suits.argmax(axis=1)]
    return np.asarray(np.einsum("ncx,nx->nc", corners, along))


def isolines(heights: Floats, *, only_zero: bool = False) -> tuple[NDArray[np.int64], Floats]:
    """Return where a number that is linear on triangles has whole values.

    Args:
        heights: (n, 3) the number at the corners of each triangle.
        only_zero: whether 0 is the only value that is looked for.

    Returns:
        (k,) the triangle of each line, and (k, 2, 3) the weights of its corners at the two ends.

    Example:
        a triangle with the heights 0.5, 0.5 and 1.5 has one line, halfway up.
    """
    low, high = np.floor(heights.min(axis=1)), np.floor(heights.max(axis=1))
    if only_zero:
        count = ((low < 0) & (high >= 0)).astype(np.int64)
        low = np.where(count > 0, -1.0, low)
    else:
        count = (high - low).astype(np.int64)
    triangle = np.repeat(np.arange(len(heights)), count)
    first = np.repeat(np.cumsum(count) - count, count)
    level = low[triangle] + 1 + (np.arange(len(triangle)) - first)
    a, b = heights[triangle], np.roll(heights, -1, axis=1)[triangle]
    crossed = (a < level[:, None]) != (b < level[:, None])
    share = np.divide(level[:, None] - a, b - a, out=np.zeros_like(a), where=a != b)
    ends = _ends_on_edges(share)
    # Two of the three edges of a triangle that a line crosses are crossed: those, in their order.
    order = np.argsort(~crossed, axis=1, kind="stable")[:, :2]
    return triangle, np.take_along_axis(ends, order[:, :, None], axis=1)


def _ends_on_edges(share: Floats) -> Floats:
    """Return (k, 3, 3): for each edge the weights of the corners at a share of its length."""
    ends = np.zeros((len(share), 3, 3))
    for edge in range(3):
        ends[:, edge, edge] = 1 - share[:, edge]
        ends[:, edge, (edge + 1) % 3] = share[:, edge]
    return ends


def with_strokes(bands: Sequence[StrokeBand]) -> tuple[StrokeBand, ...]:
    """Return those of several bands that have any strokes."""
    return tuple(band for band in bands if band.count)
