"""Taking a file in: what it is called, what is kept of it, and places on it."""

import hashlib
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.gauges.anchors import exact, point_of
from aimtrue.core.intake.take_in import all_kept, take_in
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.readings import Anchor
from tests.shapes import binary_stl, box, corners_of

BOX = box(2, 3, 5, at=(7, 8, 9))
DATA = binary_stl(corners_of(BOX), b"drawn by Wren")


def test_a_source_is_described_and_its_bytes_named() -> None:
    taken = take_in("s1", "C:\\parts\\Eyepiece_rack-2.STL", DATA)
    assert taken.sources[0].sha256 == hashlib.sha256(DATA).hexdigest()
    assert taken.sources[0].bytes == len(DATA)
    assert taken.sources[0].words == "drawn by Wren"
    assert taken.sources[0].how is None
    assert taken.bodies[0].name == "Eyepiece rack 2"
    assert (taken.bodies[0].low, taken.bodies[0].high) == ((7, 8, 9), (9, 11, 14))
    assert taken.bodies[0].volume == pytest.approx(30)


def test_geometry_is_kept_under_its_hash_and_brings_the_mesh_back() -> None:
    (body,), blobs = all_kept(take_in("s1", "part.stl", DATA))
    assert set(blobs) == {body.geometry, body.bench, body.features}
    for name, data in blobs.items():
        assert hashlib.sha256(data).hexdigest() == name
    mesh = geometry.from_bytes(blobs[body.geometry])
    np.testing.assert_array_equal(corners_of(mesh), corners_of(BOX))


def test_the_same_file_gives_the_same_geometry_whatever_it_is_called() -> None:
    _, first = all_kept(take_in("s1", "a.stl", DATA))
    _, second = all_kept(take_in("s7", "b.stl", DATA))
    assert first.keys() == second.keys()


def test_progress_is_told_in_order() -> None:
    told: list[float] = []
    take_in("s1", "part.stl", DATA, progress=lambda share, says: told.append(share))
    assert told == sorted(told)
    assert 0 < told[0] < told[-1] < 1


def test_objects_of_a_3mf_are_bodies_of_one_kit() -> None:
    pair = threemf.write(
        [threemf.BuildObject("ring", BOX, "#102030"), threemf.BuildObject("marks", box(1, 1, 1))],
        Unit.IN,
        "dial",
        "",
    )
    taken = take_in("s1", "setting_dial.3mf", pair)
    assert [body.name for body in taken.bodies] == ["ring", "marks"]
    assert [body.colour for body in taken.bodies] == ["#102030", None]
    assert {body.kit for body in taken.bodies} == {kit.id for kit in taken.kits} == {"ks1"}
    assert taken.sources[0].unit is Unit.IN
    assert taken.sources[0].how == "declared"
    single = take_in("s1", "x.3mf", threemf.write([threemf.BuildObject("ring", BOX)], Unit.MM, "", ""))
    assert single.bodies[0].name == "ring"
    assert single.kits == ()


def test_the_two_colours_of_the_dial_stay_registered(demo: Path) -> None:
    ring, marks = take_in("s1", "setting-dial.3mf", (demo / "setting-dial.3mf").read_bytes()).bodies
    assert ring.kit == marks.kit is not None
    assert ring.low[2] == pytest.approx(0, abs=1e-6)
    assert (marks.low[2], marks.high[2]) == pytest.approx((4, 5.2), abs=1e-6)
    assert marks.health.shells == 36


WEIGHTS = st.tuples(st.floats(0, 1), st.floats(0, 1)).map(
    lambda uv: (1 - uv[0], uv[0] * (1 - uv[1]), uv[0] * uv[1])
)


@given(st.integers(0, 11), WEIGHTS)
def test_a_place_on_a_face_is_on_the_body(face: int, weights: tuple[float, float, float]) -> None:
    anchor = exact(Anchor(face=face, weights=weights), BOX)
    assert sum(anchor.weights) == pytest.approx(1)
    point = np.array(point_of(anchor, BOX.vertices, BOX.faces))
    low, high = BOX.bounds()
    assert (point >= low - 1e-9).all()
    assert (point <= high + 1e-9).all()
    assert np.isclose(point, low).any() or np.isclose(point, high).any()


@given(st.integers(0, 11), st.integers(0, 2), st.floats(0, 4e-4))
def test_a_snapped_vertex_is_that_vertex_to_the_last_bit(face: int, corner: int, slip: float) -> None:
    weights = [slip, slip, slip]
    weights[corner] = 1 - 2 * slip
    anchor = exact(Anchor(face=face, weights=tuple(weights), on="vertex"), BOX)
    assert point_of(anchor, BOX.vertices, BOX.faces) == tuple(BOX.vertices[BOX.faces[face, corner]])


@given(st.floats(0, 1), st.floats(0, 4e-4))
def test_a_snapped_edge_is_between_its_ends(share: float, slip: float) -> None:
    anchor = (
        exact(Anchor(face=0, weights=(1 - share, share - slip, slip), on="edge"), BOX)
        if share > slip
        else None
    )
    if anchor is not None:
        assert min(anchor.weights) == 0


@pytest.mark.parametrize("weights", [(1, 1, 0), (0, 0, 0), (2, -1, 0), (float("nan"), 0, 1)])
def test_weights_that_are_none_are_refused(weights: tuple[float, float, float]) -> None:
    with pytest.raises(Refused):
        exact(Anchor(face=0, weights=weights), BOX)
