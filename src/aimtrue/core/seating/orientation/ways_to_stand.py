"""Ways to stand as they are shown: each with an elevation, what it costs, and why it is taken for a wish."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.chain.seat_turns import seat_matrix, turn_down, turn_matrix
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import outline_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import seated_with
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.seating.layer_analysis.overhang import Overhang
from aimtrue.core.seating.layer_analysis.thin_features import ThinFeature, crossed, thin_features
from aimtrue.core.seating.orientation.orientations import frame_of, turned_mesh
from aimtrue.core.seating.orientation.rest_poses import RestPose, rests_of
from aimtrue.core.seating.orientation.shown_faces import faces_that_show, skyward
from aimtrue.core.seating.placement.places import seat_of_copy
from aimtrue.core.seating.plan_drawing import DRAWN_MM, Ring, drawn, fused

Wish = Literal["contact", "overhang", "height", "x", "y", "z", "sky"]
"""Most contact, least overhang, least height, strong along an axis of the body, marked faces to the sky."""
_SAME_DOWN = 1 - 1e-9
_ALIKE, _FACETS = 2, 8


class WayToStand(Value):
    """One way to stand, with its elevation from the front, in mm; ``chosen`` when it stands so now.

    ``hangs`` and ``wants_support`` say whether that is worth telling. ``sky`` is the share of the faces that
    are to show that sees the sky, None when none is marked; ``across`` are the thin features that layers
    would lie across.
    """

    down: Vec3
    contact_mm2: float
    height_mm: float
    overhang_mm2: float
    support_mm3: float
    hangs: bool
    wants_support: bool
    inside_mm: float
    along: float
    sky: float | None
    across: tuple[str, ...]
    chosen: bool
    why: str
    rings: tuple[Ring, ...]


def ways_to_stand(
    job: Job, key: Subject, copy_number: int, store: GeometryStore, wish: Wish = "contact"
) -> tuple[WayToStand, ...]:
    """Return the ways that a kit or lone body can stand, the best for a wish first, and why."""
    group = seated_with(job, key)
    job.settled_unit(group[0])
    seat = seat_of_copy(job, group, copy_number)
    plain = Seat(subject=seat.subject, mirrored=seat.mirrored)
    mesh = fused([turned_mesh(job, body, plain, store) for body in group])
    steepest = (job.plate(seat.plate).machine if seat.plate else job.machine).process.overhang
    shapes = tuple(_shape(job, body, plain) for body in group)
    rests = _RESTS.get((), (shapes, steepest), lambda: rests_of(mesh, steepest))
    looks = _looks(job, group, plain, store)
    # Directions are told in the body's own axes, whether or not it is mirrored.
    back = seat_matrix(plain).T
    turned = seat_matrix(seat)
    stands = [_way(shapes, mesh, rest, back, turned, wish, looks) for rest in _told(rests)]
    return tuple(_with_reasons(sorted(stands, key=lambda way: _worth(way, wish)), wish))


def _told(rests: tuple[RestPose, ...]) -> list[RestPose]:
    """Of very many ways that are alike, the facets of something round, leave in a few."""
    keys = [_likeness(rest) for rest in rests]
    seen: dict[tuple[float, ...], int] = {}
    kept = []
    for rest, key in zip(rests, keys, strict=True):
        seen[key] = seen.get(key, 0) + 1
        if keys.count(key) <= _FACETS or seen[key] <= _ALIKE:
            kept.append(rest)
    return kept


def _likeness(rest: RestPose) -> tuple[float, ...]:
    size = max(rest.height_mm, 1e-9)
    return (
        round(200 * rest.contact_mm2 / size**2),
        round(200 * rest.overhang_mm2 / size**2),
        round(size, 2),
    )


_RESTS: Memo[tuple[RestPose, ...]] = Memo(256)
_THIN: Memo[tuple[ThinFeature, ...]] = Memo(2048)
_ELEVATIONS: Memo[tuple[Ring, ...]] = Memo(2048)


def _shape(job: Job, body: Body, seat: Seat) -> tuple[Hashable, ...]:
    """What tells a body's geometry and size from others, whatever it is called or marked with."""
    frame = frame_of(job, body, seat)
    return (
        body.geometry,
        body.low,
        body.high,
        body.area,
        *frame.matrix.ravel().tolist(),
        *frame.shift.tolist(),
        frame.scale,
        body.kept,
    )


@dataclass(frozen=True, eq=False)
class _Looks:
    """What is judged by direction: normals of the faces that show, as long as twice their areas; and what is
    thin.
    """

    showing: Floats
    thin: tuple[ThinFeature, ...]


def _looks(job: Job, group: tuple[Body, ...], seat: Seat, store: GeometryStore) -> _Looks:
    showing, thin = [np.empty((0, 3))], list[ThinFeature]()
    for body in group:
        frame = frame_of(job, body, seat)
        linear = frame.matrix * frame.scale
        hashables = (body.features, *_shape(job, body, seat))
        thin += _THIN.get((), hashables, partial(_thin, body, linear, store))
        if len(faces := faces_that_show(body, store)):
            # Normals go as the inverse transpose; that times the determinant keeps their length.
            normals = np.linalg.inv(linear) * abs(np.linalg.det(linear))
            showing.append(store.mesh(body.geometry).area_vectors[faces] @ normals)
    return _Looks(np.concatenate(showing), tuple(thin))


def _thin(body: Body, linear: Floats, store: GeometryStore) -> tuple[ThinFeature, ...]:
    return thin_features(store.mesh(body.geometry), store.features(body), linear)


def _way(  # noqa: PLR0913 - told apart by their names
    shapes: tuple[Hashable, ...],
    mesh: Mesh,
    rest: RestPose,
    back: NDArray[np.float64],
    turned: NDArray[np.float64],
    wish: Wish,
    looks: _Looks,
) -> WayToStand:
    own, down = back @ np.asarray(rest.down), np.asarray(rest.down)
    rings = _ELEVATIONS.get((), (shapes, rest.down), lambda: _elevation(mesh, rest))
    seen, marked = skyward(looks.showing, down)
    axis = {"x": 0, "y": 1, "z": 2}.get(wish)
    over = Overhang(rest.overhang_mm2, rest.support_mm3)
    return WayToStand(
        down=(float(own[0]), float(own[1]), float(own[2])),
        contact_mm2=rest.contact_mm2,
        height_mm=rest.height_mm,
        overhang_mm2=rest.overhang_mm2,
        support_mm3=rest.support_mm3,
        hangs=over.hangs,
        wants_support=over.wants_support,
        inside_mm=rest.inside_mm,
        along=0.0 if axis is None else float(1 - abs(own[axis])),
        sky=seen / marked if marked else None,
        across=tuple(thin_feature.says() for thin_feature in crossed(looks.thin, down)),
        chosen=bool((turned @ own)[2] <= -_SAME_DOWN),
        why="",
        rings=rings,
    )


def _elevation(mesh: Mesh, rest: RestPose) -> tuple[Ring, ...]:
    """The outline from the front of something as it would stand, its lowest place at 0."""
    turn = turn_down(np.asarray(rest.down), "")
    stood = mesh.vertices if turn is None else mesh.vertices @ turn_matrix(turn).T
    # Seen from the front: right stays, and up becomes what the outline is taken in.
    front = np.stack([stood[:, 0], stood[:, 2], -stood[:, 1]], axis=1)
    outline = outline_of(Mesh(front, mesh.faces))
    x0, y0, x1, _ = outline.bounds
    moved = shapely.transform(outline, lambda points: points - [(x0 + x1) / 2, y0])
    return drawn(shapely.simplify(moved, max(DRAWN_MM, (x1 - x0) / 200)))


def _worth(way: WayToStand, wish: Wish) -> tuple[float, ...]:
    if wish == "overhang":
        return (round(way.support_mm3, 3), round(way.overhang_mm2, 3), -way.contact_mm2)
    if wish == "height":
        return (round(way.height_mm, 4), -way.contact_mm2)
    if wish == "contact":
        return (-round(way.contact_mm2, 3), way.overhang_mm2)
    if wish == "sky":
        return (-round(way.sky or 0.0, 4), round(way.support_mm3, 3), -way.contact_mm2)
    return (-round(way.along, 6), way.support_mm3, -way.contact_mm2)


def _with_reasons(ways: list[WayToStand], wish: Wish) -> list[WayToStand]:
    """Say of each what it is chosen for, or what it costs against the first."""
    return [way.model_copy(update={"why": _reason(way, ways[0], wish)}) for way in ways]


def _reason(way: WayToStand, first: WayToStand, wish: Wish) -> str:
    if wish == "overhang":
        return (
            "nothing to support"
            if way.support_mm3 < 1e-6
            else f"{written(way.support_mm3 / 1000)} cm³ of support"
        )
    if wish == "height":
        more = way.height_mm - first.height_mm
        return f"{written(way.height_mm)} high" if more < 0.005 else f"{written(more)} higher"
    if wish == "contact":
        return f"{written(way.contact_mm2, 0)} mm² on the plate"
    if wish == "sky":
        return "no face is marked" if way.sky is None else f"{100 * way.sky:.0f} % sees the sky"
    if way.along > 0.999:
        return f"layers run along {wish.upper()}"
    return f"layers cross {wish.upper()}" if way.along < 0.3 else f"layers cross {wish.upper()} aslant"
