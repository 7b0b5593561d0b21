"""Files as they come: specks, empty triangles, touching solids, odd writing; all come in and can go out."""

from __future__ import annotations

import math
import struct

import numpy as np
import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, threemf
from aimtrue.core.formats.stl import write_ascii
from aimtrue.core.intake.actions import Accept, Delete, SettleUnit
from aimtrue.core.intake.bodies.congruence import are_alike, groups_of_alike, true_corners
from aimtrue.core.intake.bodies.discarded import set_aside
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.intake.mending.remedies import mended
from aimtrue.core.intake.tasks import MendTask
from aimtrue.core.intake.units.verdict import verdict
from aimtrue.core.mesh.mesh import Mesh, merged, weld
from aimtrue.core.mesh.polygons import Polygons, triangles_of
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.source import Evidence
from aimtrue.core.proof.released import read_back
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.rooms import ROOMS, kinds_of
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, ascii_stl, bench_of, binary_stl, box, corners_of

MOST_ROWS = 12


def solid(shape: object) -> Mesh:
    made = shape.to_mesh64()  # type: ignore[attr-defined]
    return Mesh(np.asarray(made.vert_properties)[:, :3].copy(), np.asarray(made.tri_verts).astype(np.int32))


def dirty() -> np.ndarray:
    """A part from a site: a body, 40 tiny ones, some with holes, specks without area, triangles there
    twice.
    """
    rows = [corners_of(box(40, 30, 20))]
    rows += [corners_of(box(0.3, 0.3, 0.3, at=(50 + 2.0 * (i % 8), 2.0 * (i // 8), 0))) for i in range(40)]
    rows += [corners_of(box(0.4, 0.3, 0.3, at=(50 + 2 * i, 30, 0)))[1:] for i in range(4)]
    rows += [np.array([[[i, 1, 1], [i + 1, 2, 2], [i + 2, 3, 3]]], dtype=float) for i in range(28)]
    rows += [corners_of(box(40, 30, 20))[:5], np.zeros((3, 3, 3))]
    return np.concatenate(rows)


def settled(data: bytes, name: str = "part.stl") -> Bench:
    return bench_of(name, data).do(SettleUnit(source="s1", unit=Unit.MM))


def test_a_dirty_file_is_told_in_few_rows_and_goes_out_on_purpose() -> None:
    bench = settled(binary_stl(dirty()))
    assert len(bench.job.bodies) == 45
    assert bench.job.sources[0].set_aside == 36
    findings = {finding.code: finding for finding in survey(bench.job, bench).findings}
    assert len(survey(bench.job, bench).findings) <= MOST_ROWS
    assert findings["open-edges"].says == "12 open edges around 4 holes in 4 bodies"
    assert len(findings["open-edges"].names) == 4
    assert findings["stray"].count == 44
    assert findings["set-aside"].says.startswith("36 triangles were set aside")
    assert {key for key in findings["open-edges"].place_bodies} <= {body.id for body in bench.job.bodies}
    with pytest.raises(Refused) as told:
        release(bench.job, bench, Order())
    assert "accept it there on purpose (open-edges)" in told.value.line()
    assert len(told.value.line()) < 600
    bench.do(Accept(bodies=findings["open-edges"].bodies, code="open-edges", reason="a bowl"))
    for kind in ("3mf", "stl", "obj", "stl-ascii"):
        (made,) = release(bench.job, bench, Order(format=kind)).files
        (accepted,) = made.file.proof.accepted
        assert accepted.endswith(": 12 open edges around 4 holes in 4 bodies, accepted: a bowl")
    sound = Order(bodies=("s1-1",))
    assert release(bench.job, bench, sound).files[0].file.proof.accepted == ()
    bench.do(Delete(bodies=findings["stray"].bodies))
    assert len(bench.job.bodies) == 1


def test_a_unit_under_which_most_are_unlikely_is_doubted_once() -> None:
    parts = [corners_of(box(40, 30, 20, at=(60.0 * i, 0, 0))) for i in range(5)]
    bench = bench_of("plates.stl", binary_stl(np.concatenate(parts))).do(
        SettleUnit(source="s1", unit=Unit.UM)
    )
    (finding,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "size-unlikely"]
    assert finding.source_id == "s1"
    assert finding.says == "as micrometre, 5 bodies are under 1 mm of 5 in plates.stl; check the unit"


@pytest.mark.parametrize(
    ("kind", "faces"),
    [
        ("crowded", np.concatenate([corners_of(box(9, 9, 9)), [[[0, 0, 0], [9, 9, 0], [-5, -5, 9]]]])),
        ("open", corners_of(box(9, 9, 9))[2:]),
        ("mixed", np.concatenate([corners_of(box(9, 9, 9))[:1, ::-1], corners_of(box(9, 9, 9))[1:]])),
        ("inward", corners_of(box(9, 9, 9))[:, ::-1]),
        ("crossing", np.concatenate([corners_of(box(9, 9, 9)), corners_of(box(9, 9, 9, at=(3, 3, 3)))])),
    ],
)
@pytest.mark.parametrize("out", ["3mf", "stl", "obj", "stl-ascii"])
def test_what_is_damaged_is_released_on_purpose(kind: str, faces: np.ndarray, out: str) -> None:
    bench = settled(binary_stl(np.asarray(faces, dtype=float)))
    bench.do(
        *(
            Accept(code=code, reason="from a scan")
            for code, kind in kinds_of(ROOMS).items()
            if kind.acceptance != "never"
        ),
        SetFactor(body="s1-1", typed="1.25"),
    )
    release(bench.job, bench, Order(format=out))  # raises unless proven


def test_empty_and_double_triangles_are_set_aside_and_needles_stay() -> None:
    whole = box(2, 3, 5)
    empty = np.array([[0, 0, 1], [0, 1, 0]], np.int32)
    discard_result = set_aside(
        Mesh(whole.vertices, np.concatenate([whole.faces, empty, whole.faces[:2, [1, 2, 0]]]))
    )
    assert (discard_result.empty, discard_result.double, discard_result.mesh.triangles) == (2, 2, 12)
    assert set_aside(whole).mesh is whole
    # A needle between two neighbours closes the surface; without it they would gape.
    vertices = np.vstack([whole.vertices, (whole.vertices[0] + whole.vertices[1]) / 2])
    faces = whole.faces.tolist()
    at = next(i for i, face in enumerate(faces) if {0, 1} <= set(face))
    third = next(v for v in faces[at] if v not in (0, 1))
    a, b = (0, 1) if (faces[at].index(1) - faces[at].index(0)) % 3 == 1 else (1, 0)
    faces[at] = [a, 8, third]
    faces += [[8, b, third], [a, b, 8]]
    needled = Mesh(vertices, np.array(faces, np.int32))
    assert needled.topology.closed
    assert set_aside(needled).mesh.triangles == needled.triangles


@pytest.mark.parametrize(
    ("parts", "volumes"),
    [
        ([box(9, 9, 9), box(9, 9, 9, at=(9, 0, 0))], [729, 729]),
        ([box(9, 9, 9), box(9, 9, 9, at=(9, 9, 0))], [729, 729]),
        ([box(40, 40, 5), box(10, 10, 5, at=(15, 15, 5))], [8000, 500]),
        ([box(9, 9, 9, at=(9.0 * i, 9.0 * j, 0)) for i in range(3) for j in range(3)], [729] * 9),
    ],
)
def test_solids_that_share_a_face_are_as_many_as_they_are(parts: list[Mesh], volumes: list[int]) -> None:
    touching = weld(np.concatenate([corners_of(part) for part in parts]).astype(np.float32))
    separated_bodies = separate(touching)
    assert sorted(round(separated_body.mesh.volume()) for separated_body in separated_bodies) == sorted(
        volumes
    )
    assert all(
        separated_body.mesh.topology.closed and not separated_body.mesh.topology.non_manifold_edges
        for separated_body in separated_bodies
    )


def test_a_tile_on_a_plate_whose_faces_share_edges_in_part_is_two() -> None:
    import manifold3d

    # The plate's top is cut along the tile's outline, so that the two share edges and a face.
    plate = manifold3d.Manifold.cube((40, 40, 5))
    tile = manifold3d.Manifold.cube((10, 10, 5)).translate((15, 15, 5))
    notch = manifold3d.Manifold.cube((10, 10, 1)).translate((15, 15, 4))
    parts = [solid(plate - notch), solid(notch), solid(tile)]
    separated_bodies = separate(weld(np.concatenate([corners_of(part) for part in parts]).astype(np.float32)))
    assert sorted(round(separated_body.mesh.volume()) for separated_body in separated_bodies) == [
        100,
        500,
        7900,
    ]


def bracket() -> object:
    import manifold3d

    made = manifold3d.Manifold.cube((40, 20, 5)) + manifold3d.Manifold.cube((5, 20, 30))
    for x, y in ((20, 5), (20, 15), (33, 10)):
        made -= manifold3d.Manifold.cylinder(20, 2.2, 2.2, 32).translate((x, y, -5))
    return made


def test_a_part_and_its_mirror_that_are_one_solid_are_one_part() -> None:
    import manifold3d

    turned = bracket().mirror((0, 1, 0)).rotate((10, 20, 30))  # type: ignore[attr-defined]
    one, mirrored = solid(bracket()), solid(turned)
    assert len(true_corners(one)) < len(one.vertices) + 1
    assert are_alike(one, mirrored)
    handed = bracket() - manifold3d.Manifold.cylinder(20, 1, 1, 16).translate((10, 3, -5))
    assert not are_alike(solid(handed), solid(handed.mirror((1, 0, 0))))
    assert groups_of_alike([one, solid(handed), mirrored, one]) == [0, 1, 0, 0]


def test_hundreds_of_shells_stay_usable() -> None:
    parts = [box(3, 3, 3, at=(5.0 * (i % 20), 5.0 * (i // 20), 0)) for i in range(300)]
    bench = settled(binary_stl(corners_of(merged(parts))))
    assert len(bench.job.bodies) == 300
    assert len(survey(bench.job, bench).findings) <= MOST_ROWS
    assert len({body.alike for body in bench.job.bodies}) == 1


BOX = box(4, 5, 6)


def obj_box(face: str = "f {} {} {}", between: str = " ") -> str:
    lines = [f"v{between}{x}{between}{y}{between}{z}" for x, y, z in BOX.vertices.tolist()]
    return "\n".join([*lines, *(face.format(*(f + 1)) for f in BOX.faces)])


def ply_box(head: str, rows: list[bytes]) -> bytes:
    return head.encode() + b"".join(rows)


PLY_LISTS = (
    "ply\nformat binary_little_endian 1.0\nobj_info made here\nelement vertex 8\nproperty float x\n"
    "property float y\nproperty float z\nproperty list uchar float weights\n"
    "element face 13\nproperty uchar flags\n"
    "property list uchar float texcoord\nproperty list uchar int vertex_indices\nend_header\n"
)


def binary_ply() -> bytes:
    points = [struct.pack("<fffBff", *point, 2, 0.5, 0.5) for point in BOX.vertices.tolist()]
    faces = [struct.pack("<BB2fB3i", 7, 2, 0, 1, 3, *face) for face in BOX.faces.tolist()]
    return ply_box(PLY_LISTS, [*points, *faces, struct.pack("<BB2fB2i", 7, 2, 0, 1, 2, 0, 1)])


def ascii_ply() -> bytes:
    head = PLY_LISTS.replace("binary_little_endian", "ascii")
    rows = [f"{x} {y} {z} 2 0.5 0.5" for x, y, z in BOX.vertices.tolist()]
    rows += [f"7 2 0 1 3 {a} {b} {c}" for a, b, c in BOX.faces.tolist()] + ["7 2 0 1 2 0 1"]
    return (head + "\r\n".join(rows)).encode()


@pytest.mark.parametrize(
    ("name", "data", "remark"),
    [
        ("a.stl", ascii_stl(corners_of(BOX)).replace(b"endsolid part", b""), "stl-unended"),
        ("a.stl", ascii_stl(corners_of(BOX)).replace(b"\n", b"\r\n"), ""),
        ("a.stl", ascii_stl(corners_of(BOX)).decode().encode("utf-16"), ""),
        ("a.stl", ascii_stl(corners_of(BOX)).replace(b"facet normal 0 0 0", b"facet normal nan nan nan"), ""),
        ("a.stl", ascii_stl(corners_of(BOX), "Träger").upper(), ""),
        ("a.obj", obj_box(between="\t").encode(), ""),
        ("a.obj", obj_box("f\t{}//1\t{}//1\t{}//1").encode(), ""),
        ("a.obj", obj_box().encode("utf-16"), ""),
        ("a.obj", obj_box().replace("\n", "\r\n").encode("utf-8-sig"), ""),
        ("a.obj", (obj_box() + "\nf 1 2\nf 3\nl 1 2 3\np 4").encode(), "faces-few"),
        ("a.ply", binary_ply(), "faces-few"),
        ("a.ply", ascii_ply(), "faces-few"),
        ("a.ply", binary_ply().replace(b"\n", b"\r", 13), "faces-few"),
        ("a.stl", binary_stl(corners_of(BOX)) + b"\0", "stl-tail"),
    ],
)
def test_odd_writing_is_read_and_proven(name: str, data: bytes, remark: str) -> None:
    contents = read_model(name, data)
    assert contents.whole().volume() == pytest.approx(120)
    assert [one.code for one in contents.remarks] == ([remark] if remark else [])
    bench = settled(data, name)
    release(bench.job, bench, Order())  # raises unless the proof holds


@pytest.mark.parametrize("named", ['p1="1"', 'pid="7" p1="1"', 'pid="7" p1="0" p2="1" p3="0"'])
def test_colours_of_triangles_are_told_as_left_out(named: str) -> None:
    data = threemf.write([threemf.BuildObject("part", BOX)], Unit.MM, "", "")
    looks = (
        '<basematerials id="7"><base name="a" displaycolor="#AA0000"/><base name="b" displaycolor="#00AA00"/>'
    )
    changed = changed_3mf(data, "<resources>", f"<resources>{looks}</basematerials>")
    changed = changed_3mf(changed, 'type="model"><mesh>', 'type="model" pid="7" pindex="0"><mesh>')
    assert read_model("a.3mf", changed).remarks == ()
    one = '<triangle v1="0" v2="2" v3="1"'
    some = changed_3mf(changed, one, f'{one} pid="7" p1="0"')
    other = changed_3mf(some, '<triangle v1="4"', f'<triangle {named} v1="4"')
    contents = read_model("a.3mf", other)
    assert [remark.code for remark in contents.remarks] == ["colours-left-out"]
    assert contents.whole().volume() == pytest.approx(120)


def test_supports_of_a_3mf_are_no_bodies_and_said() -> None:
    data = threemf.write(
        [threemf.BuildObject("part", BOX), threemf.BuildObject("prop", box(1, 1, 9))], Unit.MM, "", ""
    )
    changed = changed_3mf(data, 'name="prop" type="model"', 'name="prop" type="support"')
    contents = read_model("a.3mf", changed)
    assert [part.name for part in contents.parts] == ["part"]
    assert [remark.code for remark in contents.remarks] == ["supports-left-out"]
    bench = bench_of("a.3mf", changed)
    release(bench.job, bench, Order(format="stl"))  # raises unless the proof holds


def changed_3mf(data: bytes, old: str, new: str) -> bytes:
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(out, "w") as after:
        for entry in before.infolist():
            after.writestr(entry.filename, before.read(entry).decode().replace(old, new))
    return out.getvalue()


SLICES = (
    '<resources><s:slicestack xmlns:s="http://schemas.microsoft.com/3dmanufacturing/slice/2015/07" id="9">'
    '<s:slice ztop="1"><s:vertices><s:vertex x="0" y="0"/></s:vertices></s:slice></s:slicestack>'
)


def test_lists_of_an_extension_take_no_solid_away() -> None:
    data = threemf.write(
        [threemf.BuildObject("part", BOX), threemf.BuildObject("cap", box(1, 1, 9))], Unit.MM, "", ""
    )
    sliced = changed_3mf(data, "<resources>", SLICES)
    bench = bench_of("a.3mf", sliced)
    assert [body.name for body in bench.job.bodies] == ["part", "cap"]
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_what_is_no_triangle_in_a_list_of_triangles_is_none() -> None:
    data = threemf.write([threemf.BuildObject("part", BOX)], Unit.MM, "", "")
    bench = bench_of("a.3mf", changed_3mf(data, "<triangles>", '<triangles><strange v1="0" v2="1" v3="2"/>'))
    assert bench.job.bodies[0].triangles == 12
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_a_name_with_a_word_of_the_format_does_not_mix_bodies_up() -> None:
    pair = [
        threemf.BuildObject("usemtl rail", BOX),
        threemf.BuildObject("usemtl cap", box(1, 1, 9, at=(9, 9, 9))),
    ]
    bench = bench_of("a.3mf", threemf.write(pair, Unit.MM, "", ""))
    release(bench.job, bench, Order(format="obj"))  # raises unless the proof holds


def rosette(degrees: float) -> Mesh:
    """Eight scraps at the corners of a cube, those above turned about Z: the same by every single measure."""
    scrap = np.array([[0.1, 0, 0.02], [0, 0.13, 0], [0, 0, 0.17], [0.05, 0.02, -0.11]])
    points = []
    for quarter in range(4):
        for up in (1, -1):
            turn = math.radians(90 * quarter + (degrees if up > 0 else 0))
            c, s = math.cos(turn), math.sin(turn)
            about = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
            points.append((scrap + np.array([1, 1, up])) @ about.T)
    faces = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])
    return Mesh(np.concatenate(points), np.concatenate([faces + 4 * k for k in range(8)]).astype(np.int32))


def test_what_is_alike_by_every_measure_but_its_arrangement_is_not_alike() -> None:
    assert are_alike(rosette(0), rosette(90))
    assert not are_alike(rosette(0), rosette(45))


def test_a_3mf_whose_triangles_share_no_corners_is_one_body() -> None:
    loose = Mesh(corners_of(BOX).reshape(-1, 3), np.arange(36, dtype=np.int32).reshape(-1, 3))
    bench = bench_of("a.3mf", threemf.write([threemf.BuildObject("part", loose)], Unit.MM, "", ""))
    (body,) = bench.job.bodies
    assert body.health.closed
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_size_alone_settles_no_unit() -> None:
    scrap = Evidence(lengths=(0.049876, 0.042335, 0.0036912, 0.0027451))
    assert verdict((0.05, 0.042, 0.0037), scrap, "").clear is None
    # As metres some of it falls on whole micrometres; as anything else it could not be made.
    flake = Evidence(lengths=(0.0080211, 0.002921, 0.00414, 0.0080211, 0.002921))
    assert verdict((0.0080211, 0.002921, 0.00414), flake, "").clear is None


def test_a_name_with_words_of_the_format_does_not_spoil_a_text_file() -> None:
    (found,) = read_back("stl-ascii", write_ascii(BOX, "solid vertexColors facet normal")).objects
    assert len(found.faces) == 12


def test_a_hollow_polygon_of_thousands_of_corners_is_cut_rightly() -> None:
    turn = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    reach = np.where(np.arange(2000) % 2, 10, 8)
    points = np.stack([reach * np.cos(turn), reach * np.sin(turn), np.zeros(2000)], axis=1)
    faces = triangles_of(Polygons(np.arange(2000), np.array([2000])), points)
    mesh = Mesh(points, faces)
    outline = 0.5 * abs(
        (points[:, 0] * np.roll(points[:, 1], -1) - points[:, 1] * np.roll(points[:, 0], -1)).sum()
    )
    assert mesh.triangles == 1998
    assert mesh.area() == pytest.approx(outline)
    assert (mesh.area_vectors[:, 2] >= 0).all()


def _with_copies(turned: bool, many: int) -> np.ndarray:
    """A box whose first triangles are there twice, the second time the same way or turned over."""
    corners = corners_of(box(20, 30, 50))
    copies = corners[:many]
    return np.concatenate([corners, copies[:, ::-1] if turned else copies])


@pytest.mark.parametrize("many", [1, 2, 5])
def test_removing_doubles_leaves_one_of_each(many: int) -> None:
    bench = bench_of("crate.stl", binary_stl(_with_copies(turned=True, many=many)))
    bench.do(SettleUnit(source="s1", unit=Unit.MM)).work(
        MendTask(bodies=("s1-1",), remedy="remove-degenerate")
    )
    (body,) = bench.job.bodies
    assert (body.triangles, body.health.closed) == (12, True)
    assert body.volume == pytest.approx(20 * 30 * 50)


def test_the_two_sides_of_a_sheet_bound_nothing_and_both_go() -> None:
    sheet = np.array([[[40.0, 0, 0], [50, 0, 0], [40, 10, 0]]])
    mesh = np.concatenate([corners_of(box(20, 30, 50)), sheet, sheet[:, ::-1]])
    done = mended(weld(mesh), "remove-degenerate")
    assert done.triangles == 12


@pytest.mark.parametrize("beside", [True, False])
def test_a_hole_that_is_accepted_may_have_a_double_beside_it(beside: bool) -> None:
    corners = corners_of(box(20, 30, 50))
    copied = corners[1] if beside else corners[8]
    bench = bench_of("bowl.stl", binary_stl(np.concatenate([corners[1:], copied[None]])))
    bench.do(SettleUnit(source="s1", unit=Unit.MM), Accept(code="open-edges", reason="a bowl"))
    (made,) = release(bench.job, bench, Order(format="stl", place="own")).files
    assert made.file.proof.holds
