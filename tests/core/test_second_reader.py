"""The readers that check the writers, themselves checked on files from elsewhere."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh

from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats import stl, threemf
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof import distance, surface
from aimtrue.core.proof.released import read_back
from aimtrue.core.proof.surface import Surface, bounds
from tests.shapes import ascii_stl, binary_stl, box, corners_of

BOX = box(2, 3, 5, at=(1, 1, 1))


@pytest.mark.parametrize(
    ("kind", "data"),
    [("stl", binary_stl(corners_of(BOX))), ("stl-ascii", ascii_stl(corners_of(BOX)))],
)
def test_stl_keeps_the_order_of_faces(kind: str, data: bytes) -> None:
    back = read_back(kind, data)
    unit, (mesh,) = back.unit, back.objects
    assert unit is None
    np.testing.assert_array_equal(mesh.corners, corners_of(BOX))


@pytest.mark.parametrize("unit", list(Unit))
def test_3mf_keeps_unit_order_and_objects(unit: Unit) -> None:
    items = [threemf.BuildObject("one", BOX), threemf.BuildObject("two", box(1, 1, 1))]
    back = read_back("3mf", threemf.write(items, unit, "pair", ""))
    declared, (one, two) = back.unit, back.objects
    assert declared is unit
    np.testing.assert_array_equal(one.corners, corners_of(BOX))
    assert len(two.faces) == 12


def test_a_transform_of_a_build_item_is_followed() -> None:
    package = threemf.write([threemf.BuildObject("one", box(1, 1, 1))], Unit.MM, "", "")
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(package)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            text = old.read(entry).decode()
            moved = 'objectid="1" transform="2 0 0 0 2 0 0 0 2 10 0 0"'
            new.writestr(entry.filename, text.replace('objectid="1"', moved))
    (mesh,) = read_back("3mf", out.getvalue()).objects
    assert bounds(mesh.corners).tolist() == [[10, 0, 0], [12, 2, 2]]


@pytest.mark.parametrize(
    ("kind", "data"),
    [
        ("3mf", b"nothing"),
        ("3mf", binary_stl(corners_of(BOX))),
        ("stl", threemf.write([threemf.BuildObject("one", BOX)], Unit.MM, "", "")),
        ("stl", b"\0" * 50),
    ],
)
def test_what_cannot_be_read_back_is_told(kind: str, data: bytes) -> None:
    with pytest.raises(AimTrueError) as told:
        read_back(kind, data)
    assert told.value.code == "read-back-failed"


@pytest.mark.parametrize("name", ["dew-shield.3mf", "setting-dial.3mf"])
def test_the_two_3mf_readers_agree_on_files_we_did_not_write(name: str, demo: Path) -> None:
    data = (demo / name).read_bytes()
    back = read_back("3mf", data)
    unit, seconds = back.unit, back.objects
    first = threemf.read(data, UnpackingLimits())
    assert first.unit is unit
    assert len(first.parts) == len(seconds)
    for part, second in zip(first.parts, seconds, strict=True):
        np.testing.assert_array_equal(part.mesh.faces, second.faces)
        np.testing.assert_allclose(part.mesh.vertices, second.points, rtol=1e-6, atol=1e-6)


def test_the_normals_written_are_those_of_the_faces() -> None:
    loaded = trimesh.load(io.BytesIO(stl.write_binary(BOX, "x")), file_type="stl", process=False)
    np.testing.assert_allclose(loaded.face_normals, BOX.area_vectors / (2 * BOX.areas[:, None]), atol=1e-6)  # type: ignore[arg-type, attr-defined]


@pytest.mark.parametrize(("needles", "asked"), [(200, 3000), (1500, 300)])
def test_points_beside_needles_are_told_to_be_in_or_out(needles: int, asked: int) -> None:
    """A box whose sides are fans of needles, turned and moved: in single precision some are told wrong."""
    chance = np.random.default_rng(4)
    edge = np.column_stack([np.ones(needles), np.sort(chance.random(needles))])
    ring = np.concatenate([[[0, 0], [1, 0]], edge, [[1, 1], [0, 1]]])
    many = len(ring)
    corners = np.concatenate([np.column_stack([ring, np.full(many, z)]) for z in (0, 1)])
    faces = [side for i in range(1, many - 1) for side in ((many, many + i, many + i + 1), (0, i + 1, i))]
    for i, j in zip(range(many), [*range(1, many), 0], strict=True):
        faces += [(i, j, many + j), (i, many + j, many + i)]
    points, rows = chance.random((asked, 3)), np.arange(asked)
    off = chance.choice([-1, 1], asked) * 10.0 ** chance.uniform(-7, -4, asked)
    points[rows, chance.integers(0, 3, asked)] = 1 + off
    turn = np.linalg.qr(chance.normal(size=(3, 3)))[0]
    turn *= np.sign(np.linalg.det(turn))
    surface = Surface(30 * corners @ turn + 7, np.array(faces))
    assert np.array_equal(distance.inside(30 * points @ turn + 7, surface), (points < 1).all(axis=1))
    # One that does not quite close is told in another way; near its slit that may go either way.
    slit = Surface(surface.points, surface.faces[1:])
    assert slit.columns is None
    points = points[points[:, 2] > 0.2]
    assert np.array_equal(distance.inside(30 * points @ turn + 7, slit), (points < 1).all(axis=1))


def test_places_opposite_each_other_about_the_origin_have_marks_of_their_own() -> None:
    """A face that is missing at one place, and one too many at its mirror image, do not make up for each
    other.
    """
    corners = np.random.default_rng(3).uniform(0.1, 9, (40, 3, 3))
    marks = surface.edge_marks(corners)[0]
    for signs in ((-1, -1, 1), (-1, 1, -1), (1, -1, -1), (-1, -1, -1), (-1, 1, 1)):
        assert not np.isin(surface.edge_marks(corners * signs)[0], marks).any()
