"""OBJ, PLY, packed files, split 3MF and CAD: what comes in, and what damage is told."""

import gzip
import io
import struct
import zipfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import obj, ply, read_model, stl, threemf, unpacked
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.intake.take_in import COARSE, FINE, take_in
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.polygons import Polygons, triangles_of
from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.lengths import Unit
from tests.core.test_formats import CORE, ONE, TETRA, damaged, package, read_or_told, refusal
from tests.shapes import ascii_stl, binary_stl, box, corners_of

CUBE = box(2, 3, 5)
QUADS = [(0, 3, 2, 1), (4, 5, 6, 7), (0, 1, 5, 4), (1, 2, 6, 5), (2, 3, 7, 6), (3, 0, 4, 7)]


def obj_text(faces: list[str], head: str = "# drawn in mm", at: float = 0) -> str:
    points = [f"v {x + at} {y} {z}" for x, y, z in CUBE.vertices.tolist()]
    return "\n".join([head, *points, *faces])


def quads(offset: int = 1) -> list[str]:
    return ["f " + " ".join(f"{c + offset}/1/1" for c in quad) for quad in QUADS]


def test_an_obj_of_polygons_is_cut_into_triangles_and_said() -> None:
    contents = read_model("a.obj", obj_text(quads()).encode())
    (part,) = contents.parts
    assert part.mesh.triangles == 12
    assert part.mesh.volume() == pytest.approx(30)
    assert contents.words == "drawn in mm"
    assert [remark.code for remark in contents.remarks] == ["polygons-cut"]


def test_negative_numbers_count_back_and_objects_are_bodies() -> None:
    text = (
        obj_text(["o ring", *("f " + " ".join(str(c - 8) for c in quad) for quad in QUADS)])
        + "\n"
        + obj_text(["o marks", "usemtl brass", *quads(9)], at=9)
    )
    ring, marks = read_model("a.obj", text.encode()).parts
    assert (ring.name, marks.name, marks.material) == ("ring", "marks", "brass")
    assert ring.respected
    assert marks.mesh.bounds()[0][0] == 9
    assert ring.mesh.volume() == marks.mesh.volume() == pytest.approx(30)


def test_groups_are_bodies_where_there_are_no_objects() -> None:
    text = obj_text(["g lower", *quads()]) + "\n" + obj_text(["g upper", *quads(9)], at=9)
    assert [part.name for part in read_model("a.obj", text.encode()).parts] == ["lower", "upper"]


@pytest.mark.parametrize(
    ("text", "code"),
    [
        (obj_text([]), "no-triangles"),
        (obj_text(["f 1 2 99"]), "obj-missing-vertex"),
        (obj_text(["f 1 2 0"]), "obj-missing-vertex"),
        (obj_text(["f 1 2 -99"]), "obj-missing-vertex"),
        (obj_text(["f 1 2"]), "no-triangles"),
        (obj_text(["f 1 2 three"]), "obj-number"),
        ("v 1 2\nv 0 0 0\nv 1 1 1\nf 1 2 3", "obj-number"),
        ("v 1 2 nan\nv 0 0 0\nv 1 1 1\nf 1 2 3", "coordinate-not-finite"),
        ("\0\0\0", "not-text"),
    ],
)
def test_a_damaged_obj_is_told(text: str, code: str) -> None:
    assert refusal("a.obj", text.encode()).code == code


def test_the_line_of_a_bad_face_is_told() -> None:
    assert "line 10" in refusal("a.obj", obj_text(["f 1 2 three"]).encode()).where


def test_an_obj_written_here_comes_back() -> None:
    meshes = [box(2, 3, 5), box(1, 1, 1, at=(9, 0, 0))]
    whole = Mesh(np.vstack([m.vertices for m in meshes]), np.vstack([meshes[0].faces, meshes[1].faces + 8]))
    back = read_model("a.obj", obj.write(whole, [("ring", 12), ("marks", 12)], "units mm"))
    assert [part.name for part in back.parts] == ["ring", "marks"]
    for part, mesh in zip(back.parts, meshes, strict=True):
        np.testing.assert_array_equal(corners_of(part.mesh), corners_of(mesh))


def ply_bytes(kind: str, faces: list[tuple[int, ...]] | None = None, count: int | None = None) -> bytes:
    faces = QUADS if faces is None else faces  # type: ignore[assignment]
    head = (
        f"ply\nformat {kind} 1.0\ncomment scanned, mm\nelement vertex {count or 8}\nproperty float x\n"
        "property float y\nproperty float z\nproperty uchar red\n"
        f"element face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"  # type: ignore[arg-type]
    ).encode()
    if kind == "ascii":
        rows = [f"{x} {y} {z} 9" for x, y, z in CUBE.vertices.tolist()]
        rows += [" ".join(map(str, (len(face), *face))) for face in faces]
        return head + "\n".join(rows).encode()
    order = "<" if "little" in kind else ">"
    body = b"".join(struct.pack(order + "fffB", *point, 9) for point in CUBE.vertices.tolist())
    return head + body + b"".join(struct.pack(f"{order}B{len(f)}i", len(f), *f) for f in faces)


@pytest.mark.parametrize("kind", ["ascii", "binary_little_endian", "binary_big_endian"])
@pytest.mark.parametrize("faces", [None, [tuple(f) for f in CUBE.faces.tolist()]], ids=["quads", "triangles"])
def test_every_kind_of_ply(kind: str, faces: list[tuple[int, ...]] | None) -> None:
    contents = read_model("a.ply", ply_bytes(kind, faces))
    assert contents.parts[0].mesh.volume() == pytest.approx(30)
    assert contents.parts[0].mesh.topology.closed
    assert contents.words == "scanned, mm"


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (ply_bytes("ascii", []), "no-triangles"),
        (ply_bytes("ascii", [(0, 1, 99)]), "ply-missing-vertex"),
        (ply_bytes("ascii", [(0, 1)]), "no-triangles"),
        (ply_bytes("binary_little_endian")[:-3], "ply-cut-off"),
        (ply_bytes("ascii")[:-30], "ply-cut-off"),
        (ply_bytes("binary_little_endian", count=2_000_000_000), "ply-cut-off"),
        (b"ply\nformat odd 1.0\nend_header\n", "ply-header"),
        (b"ply\nelement vertex -4\nend_header\n", "ply-header"),
        (b"ply\nformat ascii 1.0\n", "ply-header"),
        (b"solid", "ply-not"),
    ],
)
def test_a_damaged_ply_is_told(data: bytes, code: str) -> None:
    assert refusal("a.ply", data).code == code


def test_a_hollow_polygon_is_cut_without_covering_its_hollow() -> None:
    outline = np.array([[0, 0, 0], [4, 0, 0], [4, 4, 0], [2, 1, 0], [0, 4, 0]], dtype=float)
    for turn in (np.eye(3), np.roll(np.eye(3), 1, axis=0), np.roll(np.eye(3), 2, axis=0)):
        points = outline @ turn.T
        for corners in (np.arange(5), np.arange(5)[::-1]):
            faces = triangles_of(Polygons(corners, np.array([5])), points)
            mesh = Mesh(points, faces)
            assert mesh.area() == pytest.approx(10)
            normals = mesh.area_vectors @ np.cross(
                points[corners[1]] - points[corners[0]], points[corners[-1]] - points[corners[0]]
            )
            assert (normals > 0).all()


def zipped(members: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in members.items():  # without a clock: tests are named by their bytes
            archive.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


BOX = binary_stl(corners_of(CUBE))


def test_packed_files_come_out_as_they_were() -> None:
    (one,) = unpacked("part.stl.gz", gzip.compress(BOX))
    assert (one.name, one.data) == ("part.stl", BOX)
    packed = zipped(
        {"club/a.stl": BOX, "club/readme.txt": b"hello", "__MACOSX/club/._a.stl": b"x", "b.obj": b"v"}
    )
    assert [archived_file.name for archived_file in unpacked("parts.zip", packed)] == ["club/a.stl", "b.obj"]
    taken = take_in("s1", "parts.zip", zipped({"a.stl": BOX, "b/a.stl": BOX}))
    assert [source.id for source in taken.sources] == ["s1.1", "s1.2"]
    assert {source.packed_in for source in taken.sources} == {"parts.zip"}
    assert taken.originals[taken.sources[0].sha256] == BOX


@pytest.mark.parametrize("encoding", ["UTF-9", "rot13", "hex", "idna", "undefined"])
def test_an_encoding_that_is_none_is_told(encoding: str) -> None:
    whole = threemf.write([threemf.BuildObject("block", CUBE)], Unit.MM, "", "")
    with zipfile.ZipFile(io.BytesIO(whole)) as packed:
        members = {name: packed.read(name) for name in packed.namelist()}
    model = next(name for name in members if name.endswith(".model"))
    members[model] = members[model].replace(b'encoding="UTF-8"', f'encoding="{encoding}"'.encode(), 1)
    with pytest.raises(UnreadableFile) as told:
        take_in("s1", "a.3mf", zipped(members))
    assert told.value.code.startswith("3mf-")
    assert told.value.remedy


@pytest.mark.parametrize("corner", ["9" * 23, "-" + "9" * 23, "9223372036854775807"])
def test_a_vertex_beyond_all_counting_is_told(corner: str) -> None:
    with pytest.raises(UnreadableFile) as told:
        take_in("s1", "a.obj", f"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 {corner}\n".encode())
    assert told.value.code == "obj-missing-vertex"


def test_a_file_in_which_nothing_bounds_anything_is_told() -> None:
    # As long as that, a triangle is lower than the spacing of numbers at its far end.
    corners = np.array([[[-1, -0.5, 0], [-1, 0.5, 0.5], [2.1e29, 7.2e22, 0]]] * 2)
    with pytest.raises(UnreadableFile) as told:
        take_in("s1", "a.stl", binary_stl(corners))
    assert told.value.code == "nothing-bounded"
    assert "2 triangles" in told.value.says


def test_what_a_reader_trips_over_is_still_the_file(monkeypatch: pytest.MonkeyPatch) -> None:
    def trips(data: bytes) -> None:
        raise np.linalg.LinAlgError("SVD did not converge\x00")

    monkeypatch.setattr(ply, "read", trips)
    with pytest.raises(UnreadableFile, match="SVD did not converge") as told:
        read_model("a.ply", b"ply")
    assert told.value.code == "file-damaged"
    assert "\x00" not in told.value.says


def test_names_from_a_file_are_names() -> None:
    data = b"o a\x01b\x07 c\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
    (part,) = read_model("a.obj", data).parts
    assert part.name == "a b c"
    long = b"o " + b"x" * 5000 + data[data.index(b"\n") :]
    assert len(read_model("a.obj", long).parts[0].name) <= 200


@pytest.mark.parametrize(
    ("name", "data", "code"),
    [
        ("a.zip", zipped({"../../a.stl": BOX}), "archive-climbs"),
        ("a.zip", zipped({"/etc/a.stl": BOX}), "archive-climbs"),
        ("a.zip", zipped({"C:\\a.stl": BOX}), "archive-climbs"),
        ("a.zip", zipped({f"{n}.stl": b"" for n in range(1001)}), "archive-too-many"),
        ("a.zip", zipped({"inner.zip": zipped({"a.stl": BOX})}), "archive-nothing"),
        ("a.zip", zipped({"notes.txt": b"x"}), "archive-nothing"),
        ("a.zip", zipped({"": BOX}), "archive-nothing"),
        ("a.zip", b"PK not really", "archive-damaged"),
        ("a.stl.gz", b"\x1f\x8b broken", "archive-damaged"),
        ("a.stl.gz", gzip.compress(BOX, mtime=0)[:-20], "archive-damaged"),
        ("a.zip.gz", gzip.compress(zipped({"a.stl": BOX}), mtime=0), "archive-nested"),
        ("a.txt.gz", gzip.compress(b"hello", mtime=0), "format-unknown"),
    ],
)
def test_an_unsound_archive_is_told(name: str, data: bytes, code: str) -> None:
    with pytest.raises(UnreadableFile) as told:
        unpacked(name, data)
    assert told.value.code == code


def test_an_archive_that_unpacks_without_end_is_stopped() -> None:
    bomb = gzip.compress(bytes(90_000_000))
    with pytest.raises(UnreadableFile) as told:
        unpacked("a.stl.gz", bomb)
    assert told.value.code == "archive-unpacks-too-far"
    with pytest.raises(UnreadableFile):
        unpacked(
            "a.zip",
            zipped({"a.stl": bytes(5000), "b.stl": bytes(5000)}),
            UnpackingLimits(unpacked_bytes=6000),
        )


def test_several_solids_of_an_ascii_stl_are_kept_by_name() -> None:
    text = ascii_stl(corners_of(CUBE), "ring of brass") + ascii_stl(
        corners_of(box(1, 1, 1, at=(9, 0, 0))), "marks"
    )
    taken = take_in("s1", "dial.stl", text)
    assert [body.name for body in taken.bodies] == ["ring of brass", "marks"]


def split_3mf(path: str = "/3D/other.model", inner: str = "") -> bytes:
    produced = 'xmlns:p="http://schemas.microsoft.com/3dmanufacturing/production/2015/06"'
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(
            "3D/3dmodel.model",
            f'<model unit="inch" {CORE} {produced}><resources><object id="2" name="pair"><components>'
            f'<component objectid="1" p:path="{path}"/>'
            f'<component objectid="1" p:path="{path}" transform="-1 0 0 0 1 0 0 0 1 9 0 0"/>'
            '</components></object></resources><build><item objectid="2"/></build></model>',
        )
        archive.writestr(
            "3D/other.model",
            f'<model unit="inch" {CORE}><resources>{inner or ONE}</resources><build/></model>',
        )
    return out.getvalue()


def test_a_split_3mf_is_put_together_and_mirrored_parts_face_outward() -> None:
    contents = read_model("a.3mf", split_3mf())
    assert contents.unit is Unit.IN
    assert [part.mesh.volume() for part in contents.parts] == pytest.approx([1 / 6, 1 / 6])
    assert refusal("a.3mf", split_3mf("/3D/none.model")).code == "3mf-missing-part"


def test_a_3mf_that_contains_itself_over_two_parts_is_refused() -> None:
    inner = (
        '<object id="1"><components><component objectid="1" p:path="/3D/other.model" '
        'xmlns:p="http://schemas.microsoft.com/3dmanufacturing/production/2015/06"/></components></object>'
    )
    assert refusal("a.3mf", split_3mf(inner=inner)).code == "3mf-circular"


def test_colours_and_materials_of_a_3mf() -> None:
    looks = (
        '<basematerials id="7"><base name="brass" displaycolor="#AABBCCFF"/>'
        '<base name="black" displaycolor="#000000"/></basematerials>'
    )
    item = f'<object id="1" name="ring" pid="7" pindex="0">{TETRA}</object>'
    model = f'<model {CORE}><resources>{looks}{item}</resources><build><item objectid="1"/></build></model>'
    (part,) = read_model("a.3mf", package(model)).parts
    assert (part.name, part.colour, part.material) == ("ring", "#aabbcc", "brass")


@pytest.mark.parametrize("plain", [True, False])
def test_both_ways_of_reading_3mf_lists_agree(plain: bool) -> None:
    data = threemf.write(
        [threemf.BuildObject("a", CUBE), threemf.BuildObject("b", box(1, 2, 3))], Unit.CM, "t", "d"
    )
    if not plain:  # a comment sends the whole part through the careful reader
        with zipfile.ZipFile(io.BytesIO(data)) as package_:
            xml = package_.read("3D/3dmodel.model").decode().replace("<resources>", "<resources><!-- x -->")
        data = package(xml)
    first, second = read_model("a.3mf", data).parts
    np.testing.assert_array_equal(corners_of(first.mesh), corners_of(CUBE))
    np.testing.assert_array_equal(corners_of(second.mesh), corners_of(box(1, 2, 3)))


# CAD


def test_cad_brings_solids_names_colours_and_unit(demo: Path) -> None:
    data = (demo / "clamp-shells.step").read_bytes()
    contents = read_model("clamp.step", data)
    assert contents.unit is Unit.MM
    assert [part.name for part in contents.parts] == ["shell, front", "shell, back"]
    assert all(part.colour and part.mesh.topology.closed for part in contents.parts)
    bore = contents.parts[0].facets.bores[0]  # type: ignore[union-attr, unused-ignore]
    assert bore.diameter in (pytest.approx(142.86), pytest.approx(5.5))


def test_finer_facets_are_nearer_and_a_bore_loses_less(demo: Path) -> None:
    data = (demo / "clamp-shells.step").read_bytes()
    coarse, fine = (read_model("a.step", data, None, fineness).parts[0] for fineness in (COARSE, FINE))
    assert coarse.facets is not None
    assert fine.facets is not None
    assert coarse.facets.deviation > fine.facets.deviation > 0
    assert coarse.facets.bores[0].loss > fine.facets.bores[0].loss > 0
    assert coarse.mesh.triangles < fine.mesh.triangles
    steps = take_in("s1", "a.step", data).sources[0].steps
    assert [step.fineness.chord_mm for step in steps] == [0.1, 0.03, 0.01]
    assert steps[0].triangles < steps[1].triangles < steps[2].triangles
    assert len({step.widest for step in steps}) == 1
    assert steps[0].sides < steps[1].sides < steps[2].sides


def test_the_loss_of_a_bore_is_that_of_its_polygon(tmp_path: Path) -> None:
    from demo.solids import box, cylinder, write_brep

    write_brep(box(40, 40, 10) - cylinder(10, 10), tmp_path / "a.brep")
    (found,) = read_model(
        "a.brep", (tmp_path / "a.brep").read_bytes(), None, Fineness(chord_mm=0.2, angle_deg=30)
    ).parts
    assert found.facets
    mesh = found.mesh
    rim = mesh.vertices[np.isclose(np.linalg.norm(mesh.vertices[:, :2], axis=1), 10)]
    sides = len(np.unique(np.round(rim[:, :2], 6), axis=0))
    assert found.facets.bores[0].loss == pytest.approx(20 * (1 - np.cos(np.pi / sides)))
    assert found.facets.bores[0].sides == sides
    assert found.facets.deviation == pytest.approx(10 * (1 - np.cos(np.pi / sides)), rel=0.7)


def cad_bytes(kind: str, unit: str) -> bytes:
    """A plate of 1 x 2 x 4 of a unit, written by the kernel's own writers."""
    import tempfile

    from demo.solids import box, write_iges, write_step

    per = {"IN": 25.4, "MM": 1.0, "CM": 10.0, "M": 1000.0, "FT": 304.8}[unit]
    plate = box(per, 2 * per, 4 * per)
    with tempfile.NamedTemporaryFile(suffix=kind) as file:
        if kind == ".step":
            write_step(plate, Path(file.name), "INCH" if unit == "IN" else unit)
        else:
            write_iges(plate, Path(file.name), unit)
        return Path(file.name).read_bytes()


@pytest.mark.parametrize("kind", [".step", ".igs"])
@pytest.mark.parametrize("unit", ["IN", "MM", "CM", "M", "FT"])
def test_numbers_and_unit_of_cad_are_those_of_the_file(kind: str, unit: str) -> None:
    contents = read_model(f"a{kind}", cad_bytes(kind, unit))
    assert contents.unit is not None
    assert contents.unit.value == unit.lower()
    assert sorted(contents.whole().extents()) == pytest.approx([1, 2, 4])


def test_surfaces_that_bound_no_solid_are_said_and_can_be_sewn(tmp_path: Path) -> None:
    from demo.solids import box, write_brep

    write_brep(box(10, 20, 30).faces(), tmp_path / "a.brep")
    data = (tmp_path / "a.brep").read_bytes()
    contents = read_model("a.brep", data)
    assert "surfaces-only" in {remark.code for remark in contents.remarks}
    (sewn,) = read_model("a.brep", data, sew=True).parts
    assert sewn.mesh.topology.closed
    assert sewn.mesh.volume() == pytest.approx(6000)


@pytest.mark.parametrize(
    ("name", "data", "code"),
    [
        ("a.step", b"solid", "step-not"),
        ("a.step", b"ISO-10303-21;\nDATA;", "step-cut-off"),
        ("a.step", b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;", "no-triangles"),
        ("a.igs", b"hello", "iges-not"),
        ("a.brep", b"hello", "brep-damaged"),
    ],
)
def test_damaged_cad_is_told(name: str, data: bytes, code: str) -> None:
    unreadable_file = refusal(name, data)
    assert unreadable_file.code in (code, "step-damaged"), unreadable_file.line()
    assert unreadable_file.remedy


@settings(max_examples=200, deadline=None)
@given(st.data())
def test_damage_in_any_text_or_archive_is_read_or_told(data: st.DataObject) -> None:
    name, whole = data.draw(
        st.sampled_from([
            ("a.obj", obj_text(["o ring", *quads()]).encode()),
            ("a.ply", ply_bytes("ascii")),
            ("a.ply", ply_bytes("binary_little_endian")),
            ("a.ply", ply_bytes("binary_big_endian", [tuple(f) for f in CUBE.faces.tolist()])),
            ("a.stl.gz", gzip.compress(BOX, mtime=0)),
            ("a.zip", zipped({"a.stl": BOX})),
            ("a.3mf", split_3mf()),
            ("a.3mf", threemf.write([threemf.BuildObject("a", CUBE, "#102030")], Unit.MM, "", "")),
        ])
    )  # fmt: skip
    read_or_told(name, damaged(data, whole, len(whole) // 2))


def test_formats_are_named() -> None:
    assert stl.read(BOX).format == "stl-binary"
    assert ply.read(ply_bytes("ascii")).format == "ply-ascii"
