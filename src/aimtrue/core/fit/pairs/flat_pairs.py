"""This module finds what is in a slot, and flat faces that look at each other across a gap."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from aimtrue.core.fit.faces import FitFace
from aimtrue.core.fit.pairs.values import FoundPair, PairPlace
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.vectors import as_vec3

_PARALLEL = np.cos(np.radians(1.0))
_PLAY = 0.35
"""How much wider or narrower than its tab, in widths of the tab, what may be meant as its slot is."""
_TOUCHING = 1e-6
_MOST_FACES = 160
"""The largest flat faces of a body; what is smaller than these is a mark or a facet."""


@dataclass(frozen=True, eq=False)
class Slab:
    """Two parallel flat faces of a body with nothing else between: a slot, or (``solid``) a tab.

    Attributes:
        low, high: the faces; ``way`` leads from the first to the second.
        width: between them, in mm.
    """

    low: FitFace
    high: FitFace
    way: Floats
    width: float
    solid: bool

    @property
    def middle(self) -> Floats:
        """A place on its middle plane."""
        return (self.low.point + self.high.point) / 2

    @cached_property
    def axes(self) -> tuple[Floats, Floats]:
        """Two directions in its planes."""
        return plane_axes(self.way)


def outline(face: FitFace, axes: tuple[Floats, Floats]) -> shapely.Geometry:
    """Return the hull of a flat face seen along the normal of two axes."""
    return shapely.convex_hull(shapely.MultiPoint(np.stack([face.corners @ axis for axis in axes], axis=1)))


def largest(faces: Sequence[FitFace]) -> list[FitFace]:
    """Return the flat faces that are looked at, the largest first as they are listed."""
    return [face for face in faces if face.kind == "flat"][:_MOST_FACES]


def slabs_of(faces: Sequence[FitFace]) -> list[Slab]:
    """Return the slots and tabs of one body: of each face the nearest that it looks at, or away from."""
    if len(faces) < 2:
        return []
    points, ways = np.stack([face.point for face in faces]), np.stack([face.way for face in faces])
    against = ways @ ways.T < -_PARALLEL
    # From each face along its own normal to every other: outward to a slot's far side, inward to a tab's.
    apart = np.einsum("abi,ai->ab", points[None] - points[:, None], ways)
    slabs: dict[tuple[int, int], Slab] = {}
    for solid in (False, True):
        away = np.where(against, -apart if solid else apart, np.inf)
        away[away <= _TOUCHING] = np.inf
        for a in range(len(faces)):
            for b in np.argsort(away[a]):
                if not np.isfinite(away[a, b]):
                    break
                low, high = faces[a], faces[int(b)]
                way = low.way if not solid else -low.way
                if (
                    shapely.intersection(outline(low, plane_axes(way)), outline(high, plane_axes(way))).area
                    > 0
                ):
                    pair = (min(a, int(b)), max(a, int(b)))
                    slabs.setdefault(pair, Slab(low, high, way, float(away[a, b]), solid))
                    break
    return list(slabs.values())


def slot_pairs(slots: Sequence[Slab], tabs: Sequence[Slab], reach_mm: float) -> Iterator[FoundPair]:
    """Yield the tabs that are in slots; what is in the same body's slot crosswise as well is a block."""
    slabs = [
        (slot, tab, pair)
        for slot in slots
        for tab in tabs
        if (pair := _in_slot(slot, tab, reach_mm)) is not None
    ]
    crossed: set[int] = set()
    for i, (slot, tab, pair) in enumerate(slabs):
        if i in crossed:
            continue
        for k in range(i + 1, len(slabs)):
            other = slabs[k]
            if k not in crossed and _make_a_socket((slot, tab), (other[0], other[1])):
                crossed |= {i, k}
                yield _as_socket(pair, other[2])
                break
    for i, (_, _, pair) in enumerate(slabs):
        if i not in crossed:
            yield pair


def facing_pairs(one: Sequence[FitFace], other: Sequence[FitFace], reach_mm: float) -> Iterator[FoundPair]:
    """Yield flat faces of two bodies that look at each other across a gap; each with the nearest."""
    if not one or not other:
        return
    away = np.stack([face.point for face in other])[None] - np.stack([face.point for face in one])[:, None]
    ways = np.stack([face.way for face in one])
    apart = np.einsum("abi,ai->ab", away, ways)
    facing = ways @ np.stack([face.way for face in other]).T < -_PARALLEL
    near = facing & (apart >= -_TOUCHING) & (apart < reach_mm)
    for a, b in np.argwhere(near).tolist():
        pair = _facing(one[a], other[b], max(0.0, float(apart[a, b])))
        if pair is not None:
            yield pair


def _in_slot(slot: Slab, tab: Slab, reach_mm: float) -> FoundPair | None:
    parallel = float(abs(slot.way @ tab.way))
    play = slot.width - tab.width
    if parallel < _PARALLEL or abs(play) > min(reach_mm, _PLAY * tab.width):
        return None
    aside = float((tab.middle - slot.middle) @ slot.way)
    # A tab that reaches past its slot by more than it is too wide is beside it.
    if abs(aside) > max(play / 2, 0.0) + _PLAY * tab.width / 2:
        return None
    outlines = [outline(face, slot.axes) for face in (slot.low, slot.high, tab.low, tab.high)]
    shared = shapely.intersection_all(outlines)
    if shared.area <= 1e-6 * max(facing.area for facing in outlines):
        return None
    return _made(slot, tab, shared, aside, parallel)


def _made(slot: Slab, tab: Slab, shared: shapely.Geometry, aside: float, parallel: float) -> FoundPair:
    u, v = slot.axes
    x, y = shapely.centroid(shared).coords[0]
    at = x * u + y * v + slot.way * float(slot.middle @ slot.way)
    return FoundPair(
        kind="slot and tab",
        a=PairPlace(body=slot.low.body, features=(slot.low.feature, slot.high.feature)),
        b=PairPlace(body=tab.low.body, features=(tab.low.feature, tab.high.feature)),
        sizes_mm=(slot.width, tab.width),
        clearance_mm=slot.width - tab.width,
        engaged_mm=_engaged(shared),
        offset_mm=abs(aside) if abs(aside) > 1e-9 else 0.0,
        angle_deg=_angle(parallel),
        at=as_vec3(at),
        along=as_vec3(slot.way),
    )


def _engaged(shared: shapely.Geometry) -> float:
    """The shorter side of what two faces share: how deep the one is in the other."""
    ring = shapely.get_coordinates(shapely.oriented_envelope(shared))
    sides = np.linalg.norm(np.diff(ring, axis=0), axis=1)
    return float(sides[:2].min()) if len(sides) > 1 else 0.0


def _angle(parallel: float) -> float:
    return float(np.degrees(np.arccos(parallel))) if parallel < 1 - 1e-14 else 0.0


def _make_a_socket(one: tuple[Slab, Slab], other: tuple[Slab, Slab]) -> bool:
    """Whether two slots with their tabs are the two ways across one socket."""
    same = one[0].low.body == other[0].low.body and one[1].low.body == other[1].low.body
    if not same or abs(float(one[0].way @ other[0].way)) > np.sin(np.radians(1.0)):
        return False
    apart = other[0].middle - one[0].middle
    # Crosswise each lies between the walls of the other.
    return (
        abs(float(apart @ one[0].way)) < one[0].width / 2
        and abs(float(apart @ other[0].way)) < other[0].width / 2
    )


def _as_socket(one: FoundPair, other: FoundPair) -> FoundPair:
    """The pair of a socket: told by its tighter way across."""
    tight, wide = sorted((one, other), key=lambda pair: pair.clearance_mm)
    return tight.model_copy(
        update={
            "kind": "socket and block",
            "a": PairPlace(body=tight.a.body, features=(*tight.a.features, *wide.a.features)),
            "b": PairPlace(body=tight.b.body, features=(*tight.b.features, *wide.b.features)),
            "sizes_mm": (*tight.sizes_mm, *wide.sizes_mm),
        }
    )


def _facing(one: FitFace, other: FitFace, gap: float) -> FoundPair | None:
    axes = plane_axes(one.way)
    shared = shapely.intersection(outline(one, axes), outline(other, axes))
    if shared.area <= 1e-9:
        return None
    x, y = shapely.centroid(shared).coords[0]
    at = x * axes[0] + y * axes[1] + one.way * (float(one.point @ one.way) + gap / 2)
    return FoundPair(
        kind="facing planes",
        a=PairPlace(body=one.body, features=(one.feature,)),
        b=PairPlace(body=other.body, features=(other.feature,)),
        sizes_mm=(),
        clearance_mm=gap,
        engaged_mm=_engaged(shared),
        offset_mm=0.0,
        angle_deg=_angle(float(abs(one.way @ other.way))),
        at=as_vec3(at),
        along=as_vec3(one.way),
    )
