"""Sections of a mesh by level planes: areas, outlines and islands of many heights in one pass.

A corner that lies in a plane counts as above it. So every plane crosses a closed surface in closed loops,
even through corners and along edges, and a section in the plane of a flat face is what lies right below it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.arrays import runs_of
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh

_Ints = NDArray[np.int64]
_AT_ONCE = 4_000_000
"""Segments worked on at once: so many take some hundred MB."""


_MOST_LAYERS = 200_000
"""Ten metres in layers of 0.05 mm; more is a slip of the key."""


@dataclass(frozen=True, eq=False)
class Sections:
    """What sections at (k,) heights come to.

    Attributes:
        heights: (k,) in the units of the mesh.
        areas: (k,) of material.
        outlines: (k,) length of all outlines, those of holes included.
        islands, holes: (k,) how many outlines go around material, and around none.
    """

    heights: Floats
    areas: Floats
    outlines: Floats
    islands: _Ints
    holes: _Ints


@dataclass(frozen=True, eq=False)
class _Segments:
    """Where planes cross triangles, material to the left.

    Attributes:
        plane: (s,) number of the plane.
        start, end: (s, 2).
        start_edge, end_edge: (s,) the edges of the mesh that these are on, by a number.
    """

    plane: _Ints
    start: Floats
    end: Floats
    start_edge: _Ints
    end_edge: _Ints


def sections_of(mesh: Mesh, heights: Floats, *, counted: bool = True) -> Sections:
    """Cut a mesh by level planes.

    Args:
        mesh: closed; of an open one, outlines that do not close are counted as they come.
        heights: (k,) of the planes, rising.
        counted: whether islands and holes are wanted, which takes longer than areas.

    Returns:
        Areas by the shoelace formula over all segments, exact up to rounding.
    """
    heights = np.asarray(heights, np.float64)
    areas, lengths = np.zeros(len(heights)), np.zeros(len(heights))
    islands, holes = np.zeros(len(heights), np.int64), np.zeros(len(heights), np.int64)
    middle = mesh.bounds().mean(axis=0)[:2] if mesh.triangles else np.zeros(2)
    for segment in _segments(mesh, heights):
        a, b = segment.start - middle, segment.end - middle
        shoelace = (a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / 2
        areas += np.bincount(segment.plane, shoelace, len(heights))
        lengths += np.bincount(segment.plane, np.hypot(*(b - a).T), len(heights))
        if counted:
            loops, count = _loops(segment)
            signed = np.bincount(loops, shoelace, count)
            where = np.zeros(count, np.int64)
            where[loops] = segment.plane
            islands += np.bincount(where[signed > 0], minlength=len(heights))
            holes += np.bincount(where[signed < 0], minlength=len(heights))
    return Sections(heights, areas, lengths, islands, holes)


def rings_at(mesh: Mesh, height: float) -> list[Floats]:
    """Return the outlines of one section as closed rings, (k, 2) each, material to the left.

    So an outline around material runs counter-clockwise and one around a hole clockwise, seen from above.
    """
    rings: list[Floats] = []
    for segment in _segments(mesh, np.array([height])):
        following = _following(segment)
        seen = np.zeros(len(following), bool)
        for first in range(len(following)):
            walked, at = [], first
            while at >= 0 and not seen[at]:
                seen[at] = True
                walked.append(at)
                at = int(following[at])
            if len(walked) > 2:
                rings.append(_without_doubles(segment.start[walked]))
    return [ring for ring in rings if len(ring) > 2]


@dataclass(frozen=True, eq=False)
class SectionRings:
    """The outlines of one section: closed rings, (k, 2) each, material to the left; and whether some do not
    close.
    """

    rings: list[Floats]
    gaping: bool


def rings_by_height(mesh: Mesh, heights: Floats, at_once: int = 24) -> Iterator[SectionRings]:
    """Yield the outlines of one section after the other, as :func:`rings_at` has them.

    Args:
        mesh: closed; of an open one, outlines that do not close are left out, and that is said.
        heights: (k,) of the planes, rising.
        at_once: how many sections are worked on together; so many are held in memory.
    """
    for begin in range(0, len(heights), at_once):
        some = np.asarray(heights[begin : begin + at_once], np.float64)
        by_plane: list[list[Floats]] = [[] for _ in some]
        gaping = np.zeros(len(some), bool)
        for segment in _segments(mesh, some):
            _add_rings(segment, by_plane, gaping)
        for rings, gapes in zip(by_plane, gaping.tolist(), strict=True):
            yield SectionRings(rings, gapes)


def _add_rings(segment: _Segments, by_plane: list[list[Floats]], gaping: NDArray[np.bool_]) -> None:
    following, planes = _following(segment).tolist(), segment.plane
    seen = bytearray(len(following))
    for first in range(len(following)):
        walked, at = [], first
        while at >= 0 and not seen[at]:
            seen[at] = 1
            walked.append(at)
            at = following[at]
        if at != first:
            gaping[planes[first]] |= bool(walked)
        elif len(walked) > 2:
            ring = _without_doubles(segment.start[walked])
            if len(ring) > 2:
                by_plane[int(planes[first])].append(ring)


def layers_of(low: float, high: float, layer: float) -> Floats:
    """Return the (k,) middles of the layers that a body between two heights is made in.

    A last layer thinner than a thousandth of the others is none.

    Raises:
        Refused: there would be more layers than any machine makes.
    """
    if (high - low) / layer > _MOST_LAYERS:
        raise Refused(
            "layer",
            f"layers of {layer:g} mm would be {(high - low) / layer:,.0f} of them",
            remedy=f"type a layer that makes at most {_MOST_LAYERS:,}",
        )
    count = max(1, int(np.ceil((high - low) / layer - 1e-3)))
    return np.asarray(low + (np.arange(count) + 0.5) * layer)


def _segments(mesh: Mesh, heights: Floats) -> Iterator[_Segments]:
    """Cross triangles with planes, some planes at a time."""
    z = mesh.vertices[:, 2][mesh.faces]
    lowest, highest = z.min(axis=1), z.max(axis=1)
    first = np.searchsorted(heights, lowest, side="right")
    last = np.searchsorted(heights, highest, side="right")
    crossed = np.flatnonzero(last > first)
    if not len(crossed):
        return
    per_plane = np.cumsum(np.bincount(first[crossed], minlength=len(heights) + 1)[:-1])
    per_plane -= np.cumsum(np.bincount(last[crossed], minlength=len(heights) + 1)[:-1])
    cuts = np.flatnonzero(np.diff(np.cumsum(per_plane) // _AT_ONCE)) + 1
    for start, stop in zip([0, *cuts], [*cuts, len(heights)], strict=True):
        here = crossed[(first[crossed] < stop) & (last[crossed] > start)]
        lead, tail = np.maximum(first[here], start), np.minimum(last[here], stop)
        yield _crossed(mesh, heights, np.repeat(here, tail - lead), runs_of(lead, tail - lead))


def _crossed(mesh: Mesh, heights: Floats, triangles: _Ints, plane: _Ints) -> _Segments:
    """The segment of each triangle in a plane that crosses it, from where the surface falls to where it
    rises.
    """
    corners = mesh.faces[triangles].astype(np.int64)
    z = mesh.vertices[:, 2][corners]
    below = z < heights[plane][:, None]
    rising = (below & ~np.roll(below, -1, axis=1)).argmax(axis=1)
    falling = (~below & np.roll(below, -1, axis=1)).argmax(axis=1)
    start, start_edge = _on_edge(mesh, heights, corners, plane, falling)
    end, end_edge = _on_edge(mesh, heights, corners, plane, rising)
    return _Segments(plane, start, end, start_edge, end_edge)


def _on_edge(mesh: Mesh, heights: Floats, corners: _Ints, plane: _Ints, side: _Ints) -> tuple[Floats, _Ints]:
    rows = np.arange(len(corners))
    a, b = corners[rows, side], corners[rows, (side + 1) % 3]
    # The same way round for both triangles of an edge, so that they give the same point to the last bit.
    a, b = np.minimum(a, b), np.maximum(a, b)
    p, q = mesh.vertices[a], mesh.vertices[b]
    share = ((heights[plane] - p[:, 2]) / (q[:, 2] - p[:, 2]))[:, None]
    return p[:, :2] + share * (q[:, :2] - p[:, :2]), a * np.int64(len(mesh.vertices)) + b


def _following(some: _Segments) -> _Ints:
    """Per segment the one that goes on where it ends, -1 for none."""
    if not len(some.plane):
        return np.empty(0, np.int64)
    starts, ends = (np.stack([some.plane, edge]) for edge in (some.start_edge, some.end_edge))
    by_start, by_end = np.lexsort(starts[::-1]), np.lexsort(ends[::-1])
    following = np.full(len(some.plane), -1, np.int64)
    if (starts[:, by_start] == ends[:, by_end]).all():  # Loops of a closed surface close.
        following[by_end] = by_start
        return following
    known: dict[tuple[int, int], list[int]] = {}
    for number, key in enumerate(zip(*starts.tolist(), strict=True)):
        known.setdefault(key, []).append(number)
    for number, key in enumerate(zip(*ends.tolist(), strict=True)):
        if known.get(key):
            following[number] = known[key].pop()
    return following


def _loops(some: _Segments) -> tuple[_Ints, int]:
    """Per segment the number of the loop that it is of, and how many loops there are."""
    following = _following(some)
    has = np.flatnonzero(following >= 0)
    count, labels = connected_components(len(following), has, following[has])
    return labels, count


def _without_doubles(ring: Floats) -> Floats:
    """Leave out points that are where the one before is: corners that lie in the plane give such."""
    apart = (ring != np.roll(ring, 1, axis=0)).any(axis=1)
    return np.asarray(ring[apart])
