"""Features of a body as it is drawn: in mm, before any correction, as arrays.

What a correction changes is worked out of these by one product; they are the same whatever is typed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.chain.transforms import along_matrix, turn_up
from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.bolts import BoltSuitability, suits
from aimtrue.core.model.decisions import Correction
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.value import Vec3

_TURN = 1.5
"""Pitches that the turns of a thread are deep at most, rounding at their foot included."""


@dataclass(frozen=True, eq=False)
class FeatureArrays:
    """Some features of one kind.

    Attributes:
        features: themselves, in numbers of the file.
        points, ways: (k, 3), in mm and unit vectors.
        sizes: (k,) diameters of round ones, in mm; of flat ones half the side of a square of that area.
        depths: (k,) in mm.
        radii: (k, 3, 2), two radii of each round one, square to each other.
    """

    features: tuple[Feature, ...]
    points: Floats
    ways: Floats
    sizes: Floats
    depths: Floats
    radii: Floats


@dataclass(frozen=True)
class BoltBores:
    """Bores of a body of one size and direction: the bolt that they are meant for, and where they are, in
    numbers of the file.
    """

    suits: BoltSuitability
    points: tuple[Vec3, ...]


@dataclass(frozen=True, eq=False)
class BodyAsDrawn:
    """A body as it is drawn.

    Attributes:
        flats, bores, bosses: its features.
        threads: those that are threads.
        bolted: bores that are meant for bolts, those alike as one; ``bolts`` has one of each.
        walls: (k, 3) in mm, straight through the material; ``wall_places`` where, in numbers of the file.
        low, high: (3,) bounds in mm.
    """

    flats: FeatureArrays
    bores: FeatureArrays
    bosses: FeatureArrays
    threads: FeatureArrays
    bolted: tuple[BoltBores, ...]
    bolts: FeatureArrays
    walls: Floats
    wall_places: tuple[Vec3, ...]
    low: Floats
    high: Floats


_DRAWN: Memo[BodyAsDrawn] = Memo(8192)


def drawn_of(job: Job, body: Body, store: GeometryStore) -> BodyAsDrawn:
    """Return a body whose unit is settled as it is drawn."""
    source = job.source_of(body)
    things = (body.geometry, body.features, source.unit, source.up, job.home_of(body), body.low, body.high)
    return _DRAWN.get((), things, lambda: _drawn(job, body, store.features(body)))


@dataclass(frozen=True, eq=False)
class LinearMap:
    """What a correction does to vectors in mm and axes of the job.

    Attributes:
        matrix: (3, 3).
        factor: where it scales all alike, as most do: by how much; else None.
    """

    matrix: Floats
    factor: float | None


_LINEAR: Memo[LinearMap] = Memo(256)


def linear_of(correction: Correction) -> LinearMap:
    """Return what a correction does to vectors."""
    return _LINEAR.get((correction,), (), lambda: _linear(correction))


def _linear(correction: Correction) -> LinearMap:
    factors = correction.factors
    alike = correction.along is None and len(set(factors)) == 1
    matrix = np.asarray(np.asarray(factors)[:, None] * along_matrix(correction.along))
    return LinearMap(matrix, factors[0] if alike else None)


def across(rows: FeatureArrays, linear: LinearMap) -> tuple[Floats, Floats]:
    """Return the greatest and the least diameter, (k,) each, of round features after a correction."""
    if linear.factor is not None:  # A circle stays a circle.
        return linear.factor * rows.sizes, linear.factor * rows.sizes
    return ellipses(rows.radii, linear.matrix)


@dataclass(frozen=True, eq=False)
class BodiesAsDrawn:
    """Several bodies as drawn, one after the other, so that one product does for all.

    Attributes:
        bolts: one bore of each of their ``bolted``; those of body ``i`` from ``bolt_ends[i]`` on.
        sizes: (k,) their diameters, to a tenth of a micrometre: what float32 lost makes no other size.
        walls: (w, 3), those of body ``i`` from ``wall_ends[i]`` on.
    """

    bolts: FeatureArrays
    sizes: Floats
    bolt_ends: list[int]
    walls: Floats
    wall_ends: NDArray[np.int64]


_JOINED: Memo[BodiesAsDrawn] = Memo(64)


def joined(bodies: tuple[BodyAsDrawn, ...]) -> BodiesAsDrawn:
    """Return several bodies one after the other."""
    return _JOINED.get(bodies, (), lambda: _joined(bodies))


def _joined(bodies: tuple[BodyAsDrawn, ...]) -> BodiesAsDrawn:
    bolts = together([body.bolts for body in bodies])
    return BodiesAsDrawn(
        bolts,
        bolts.sizes.round(4),
        np.cumsum([0, *(len(body.bolted) for body in bodies)]).tolist(),
        np.concatenate([body.walls for body in bodies]),
        np.cumsum([0, *(len(body.walls) for body in bodies)]),
    )


def together(rows: Sequence[FeatureArrays]) -> FeatureArrays:
    """Return features of several bodies one after the other, so that one product does for all."""
    return FeatureArrays(
        tuple(feature for row in rows for feature in row.features),
        *(
            np.concatenate([getattr(row, name) for row in rows])
            for name in ("points", "ways", "sizes", "depths", "radii")
        ),
    )


def ellipses(radii: Floats, linear: Floats) -> tuple[Floats, Floats]:
    """Return the greatest and the least diameter, (k,) each, of circles after corrections.

    A circle with the radii ``u`` and ``v`` becomes an ellipse whose half axes are the singular values of
    ``L [u v]``: the roots of the eigenvalues of its 2 x 2 Gram matrix.

    Args:
        radii: (k, 3, 2), square to each other.
        linear: (3, 3), or (k, 3, 3) for one each.
    """
    moved = linear @ radii
    gram = np.swapaxes(moved, -1, -2) @ moved
    middle = (gram[:, 0, 0] + gram[:, 1, 1]) / 2
    apart = np.hypot((gram[:, 0, 0] - gram[:, 1, 1]) / 2, gram[:, 0, 1])
    return 2 * np.sqrt(middle + apart), 2 * np.sqrt(np.maximum(middle - apart, 0.0))


def _drawn(job: Job, body: Body, features: Features) -> BodyAsDrawn:
    source = job.source_of(body)
    scale = MM_PER[job.settled_unit(body)]
    turn = turn_up(source.up)
    home = np.asarray(job.home_of(body))

    def rows(chosen: Sequence[Feature]) -> FeatureArrays:
        return _rows(tuple(chosen), turn, scale, home)

    listed = features.listed
    bores = rows([feature for feature in listed if feature.kind == "bore"])
    bolted, first = _bolted(bores)
    threads = [feature for feature in listed if feature.screw]
    walls = [feature for feature in listed if _is_wall(feature, threads)]
    through = np.array([wall.through for wall in walls]).reshape(-1, 3) @ turn.T
    through /= np.maximum(np.linalg.norm(through, axis=1), 1e-300)[:, None]
    ends = (np.array([body.low, body.high]) + home) @ turn.T * scale
    return BodyAsDrawn(
        flats=rows([feature for feature in listed if feature.flat]),
        bores=bores,
        bosses=rows([feature for feature in listed if feature.kind == "boss"]),
        threads=rows(threads),
        bolted=bolted,
        bolts=_rows(first, turn, scale, home),
        walls=through * np.array([wall.wall * scale for wall in walls])[:, None],
        wall_places=tuple(wall.place for wall in walls),
        low=ends.min(axis=0),
        high=ends.max(axis=0),
    )


def _bolted(bores: FeatureArrays) -> tuple[tuple[BoltBores, ...], tuple[Feature, ...]]:
    """Gather bores that become the same whatever the correction, and one of each."""
    alike: dict[tuple[float, ...], list[Feature]] = {}
    for feature, way, size in zip(bores.features, bores.ways, bores.sizes.tolist(), strict=True):
        upward = way if way[int(abs(way).argmax())] > 0 else -way
        alike.setdefault((round(size, 4), *np.round(upward, 6).tolist()), []).append(feature)
    suited = [(suits(key[0]), some) for key, some in alike.items()]
    bolted = [(BoltBores(bolt, tuple(bore.point for bore in some)), some[0]) for bolt, some in suited if bolt]
    return tuple(bolt_bores for bolt_bores, _ in bolted), tuple(first for _, first in bolted)


def _rows(features: tuple[Feature, ...], turn: Floats, scale: float, home: Floats) -> FeatureArrays:
    points = (np.array([feature.point for feature in features]).reshape(-1, 3) + home) @ turn.T * scale
    ways = np.array([feature.direction for feature in features]).reshape(-1, 3) @ turn.T
    ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-300)[:, None]
    sizes = scale * np.array(
        [0.5 * np.sqrt(feature.area) if feature.flat else feature.diameter for feature in features],
        dtype=np.float64,
    )
    return FeatureArrays(
        features,
        points,
        ways,
        sizes,
        scale * np.array([feature.depth for feature in features], dtype=np.float64),
        _square_to(ways) * (sizes / 2)[:, None, None],
    )


def _square_to(ways: Floats) -> Floats:
    """Return (k, 3, 2): two unit vectors square to each of (k, 3) and to each other."""
    aside = np.eye(3)[abs(ways).argmin(axis=1)] if len(ways) else ways
    u = np.cross(ways, aside)
    u /= np.maximum(np.linalg.norm(u, axis=1), 1e-300)[:, None]
    return np.stack([u, np.cross(ways, u)], axis=2)


def _is_wall(feature: Feature, threads: list[Feature]) -> bool:
    return (
        feature.wall > 0
        and not feature.screw
        and not any(_on_thread(feature.place, thread) for thread in threads)
    )


def _on_thread(place: Vec3, screw: Feature) -> bool:
    """Whether a place is on the turns of a thread, whose crests are thin and meant to be."""
    axis, away = np.asarray(screw.direction), np.subtract(place, screw.point)
    along = float(away @ axis)
    aside = float(np.linalg.norm(away - along * axis))
    near = screw.diameter / 2 - _TURN * screw.pitch <= aside <= screw.diameter / 2 + screw.pitch
    return near and abs(along) <= screw.depth / 2 + screw.pitch
