"""Reading and writing STL and 3MF; every kind of damage gets a clear message."""

import io
import tracemalloc
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import read_model, stl, threemf
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.model.lengths import Unit
from tests.shapes import ascii_stl, binary_stl, box, corners_of

BOX = corners_of(box(2, 3, 5))
CORE = 'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"'
TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/>'
    '<vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/>'
    '<triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh>'
)
ONE = f'<object id="1">{TETRA}</object>'


def package(model: str | None, name: str = "3D/3dmodel.model", level: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", level) as archive:
        archive.writestr("[Content_Types].xml", "<Types/>")
        if model is not None:
            archive.writestr(name, model)
    return out.getvalue()


def model(resources: str, build: str, unit: str = 'unit="inch"', head: str = "") -> str:
    inner = f"<resources>{resources}</resources><build>{build}</build>"
    return f'<?xml version="1.0"?>{head}<model {unit} {CORE}>{inner}</model>'


def refusal(name: str, data: bytes, limits: UnpackingLimits | None = None) -> UnreadableFile:
    with pytest.raises(UnreadableFile) as told:
        read_model(name, data, limits)
    assert told.value.says
    return told.value


@pytest.mark.parametrize("data", [binary_stl(BOX), ascii_stl(BOX), binary_stl(BOX, b"solid but binary")])
def test_reads_both_kinds_of_stl(data: bytes) -> None:
    contents = read_model("part.STL", data)
    assert contents.whole().extents().tolist() == [2, 3, 5]
    assert contents.whole().topology.closed
    assert contents.unit is None


def test_keeps_the_words_of_a_header() -> None:
    assert read_model("a.stl", binary_stl(BOX, b"made in inches")).words == "made in inches"
    assert read_model("a.stl", ascii_stl(BOX, "rack in inch")).words == "solid rack in inch"


def test_an_ascii_file_may_have_any_case_and_line_ends() -> None:
    data = ascii_stl(BOX).upper().replace(b"\n", b"\r\n")
    assert read_model("a.stl", data).format == "stl-ascii"


@pytest.mark.parametrize(
    ("data", "code", "part"),
    [
        (b"", "file-empty", "0 bytes"),
        (b"Dear all, here is the rack. Yours, Wren", "stl-not", "text file"),
        (binary_stl(BOX)[:-70], "stl-count", "12 triangles were promised, 10 and 30 odd bytes were found"),
        (binary_stl(BOX, count=99), "stl-count", "99 triangles were promised, 12 were found"),
        (binary_stl(BOX, count=3), "stl-count", "3 triangles were promised, 12 were found"),
        (binary_stl(BOX, b"solid of ours", count=13), "stl-count", "13 triangles were promised"),
        (binary_stl(BOX)[:50], "stl-cut-off", "ends after 50"),
        (binary_stl(BOX[:0]), "no-triangles", "no triangles"),
        (binary_stl(BOX * [1, 0, 0]), "no-area", "zero area"),
        (binary_stl(BOX * np.nan), "coordinate-not-finite", "not numbers"),
        (binary_stl(np.where(BOX == 5, np.inf, BOX)), "coordinate-not-finite", "not numbers"),
        (ascii_stl(BOX)[:-300], "stl-cut-off", "cut off"),
        (ascii_stl(BOX).replace(b"vertex 2.0", b"vertex two", 1), "stl-ascii-number", "not a number"),
        (ascii_stl(BOX).replace(b"vertex 2.0", b"wertex 2.0", 1), "stl-ascii-loops", "three corners"),
        (b"solid nothing\nendsolid nothing\n", "no-triangles", "no triangles"),
        (ascii_stl(BOX * np.nan), "coordinate-not-finite", "not numbers"),
    ],
)
def test_damaged_stl_is_told(data: bytes, code: str, part: str) -> None:
    unreadable_file = refusal("part.stl", data)
    assert unreadable_file.code == code
    assert part in unreadable_file.line()


def test_the_line_of_a_bad_number_is_told() -> None:
    data = ascii_stl(BOX).replace(b"vertex 2.0 3.0", b"vertex 2.0 three", 1)
    line = data.split(b"three")[0].count(b"\n") + 1
    assert f"line {line}" in refusal("a.stl", data).where


@pytest.mark.parametrize(
    ("name", "code"), [("a.dwg", "format-unknown"), ("a", "format-unknown"), ("a.step", "step-not")]
)
def test_endings(name: str, code: str) -> None:
    assert refusal(name, b"x").code == code


def test_reads_3mf_with_unit_components_and_mirrored_transforms() -> None:
    resources = (
        f'<object id="1" name="tip">{TETRA}</object>'
        '<object id="2"><components><component objectid="1"/>'
        '<component objectid="1" transform="-1 0 0 0 1 0 0 0 1 -5 0 0"/></components></object>'
    )
    contents = read_model(
        "a.3mf", package(model(resources, '<item objectid="2" transform="2 0 0 0 2 0 0 0 2 0 0 10"/>'))
    )
    assert contents.unit is Unit.IN
    mesh = contents.whole()
    assert mesh.bounds().tolist() == [[-12, 0, 10], [2, 2, 12]]
    assert mesh.topology.closed
    assert mesh.volume() == pytest.approx(2 * 8 / 6)


def test_a_3mf_without_unit_is_in_millimetres_by_its_specification() -> None:
    data = package(model(f'<object id="1">{TETRA}</object>', '<item objectid="1"/>', unit=""))
    assert read_model("a.3mf", data).unit is Unit.MM


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"PK but not really", "3mf-not-zip"),
        (package(None), "3mf-no-model"),
        (package("<model"), "3mf-xml"),
        (package(model(ONE, '<item objectid="7"/>')), "3mf-missing-object"),
        (package(model(ONE, "")), "no-triangles"),
        (package(model(ONE.replace('v3="1"', 'v3="9"'), '<item objectid="1"/>')), "3mf-missing-vertex"),
        (package(model(ONE.replace('x="1"', 'x="nan"'), '<item objectid="1"/>')), "coordinate-not-finite"),
        (package(model(ONE.replace('x="1"', 'x="wide"'), '<item objectid="1"/>')), "3mf-value"),
        (package(model(ONE.replace('x="1" ', ""), '<item objectid="1"/>')), "3mf-value"),
        (package(model(ONE, '<item objectid="1" transform="1 0 0"/>')), "3mf-value"),
        (package(model(ONE, '<item objectid="1"/>', unit='unit="league"')), "3mf-unit"),
        (package(model(ONE, '<item objectid="1" p:path="/3D/other.model"/>')), "3mf-missing-part"),
        (
            package(
                model(
                    '<object id="1"><components><component objectid="1"/></components></object>',
                    '<item objectid="1"/>',
                )
            ),
            "3mf-circular",
        ),
        (
            package(
                model(
                    ONE,
                    '<item objectid="1"/>',
                    head='<!DOCTYPE m [<!ENTITY e SYSTEM "file:///etc/hostname">]>',
                )
            ),
            "3mf-entities",
        ),
        (
            package(model(ONE, '<item objectid="1"/>', head='<!DOCTYPE m [<!ENTITY a "aaaa">]>')),
            "3mf-entities",
        ),
    ],
)
def test_damaged_3mf_is_told(data: bytes, code: str) -> None:
    assert refusal("part.3mf", data).code == code


def test_a_3mf_that_unpacks_to_far_more_than_it_weighs_is_refused() -> None:
    padded = package(model(ONE, '<item objectid="1"/>') + " " * 80_000_000)
    assert len(padded) < 200_000
    assert refusal("a.3mf", padded).code == "3mf-unpacks-too-far"
    assert (
        refusal("a.3mf", package(model(ONE, "")), UnpackingLimits(unpacked_bytes=100)).code
        == "3mf-unpacks-too-far"
    )


def test_components_that_multiply_without_end_are_refused() -> None:
    layers = "".join(
        f'<object id="{n}"><components>' + f'<component objectid="{n - 1}"/>' * 10 + "</components></object>"
        for n in range(2, 12)
    )
    assert refusal("a.3mf", package(model(ONE + layers, '<item objectid="11"/>'))).code == "3mf-too-many"


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_damage_anywhere_is_read_or_told_never_a_crash(data: st.DataObject) -> None:
    name, whole = data.draw(
        st.sampled_from([
            ("a.stl", binary_stl(BOX)),
            ("a.stl", ascii_stl(BOX)),
            ("a.3mf", package(model(ONE, '<item objectid="1"/>'))),
        ])
    )  # fmt: skip
    read_or_told(name, damaged(data, whole, 0))


def damaged(data: st.DataObject, whole: bytes, least: int) -> bytes:
    """Cut a file off somewhere after its first ``least`` bytes, and change some of what is left."""
    bytes_ = bytearray(whole[: data.draw(st.integers(least, len(whole)))])
    for _ in range(data.draw(st.integers(0, 6))):
        if bytes_:
            bytes_[data.draw(st.integers(0, len(bytes_) - 1))] = data.draw(st.integers(0, 255))
    return bytes(bytes_)


def read_or_told(name: str, data: bytes) -> None:
    """Whatever a file holds, it is read or a message says why not; a small one never takes much memory."""
    tracemalloc.start()
    try:
        contents = read_model(name, data)
    except UnreadableFile:
        return
    finally:
        _, peak = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        assert peak < 60_000_000, "a file of a few kB was let take over 60 MB"
    assert contents.whole().triangles > 0


def test_written_files_are_the_same_bytes_for_the_same_body() -> None:
    items = [threemf.BuildObject("box <&>", box(2, 3, 5))]
    assert threemf.write(items, Unit.MM, "t", "d") == threemf.write(items, Unit.MM, "t", "d")
    assert stl.write_binary(box(2, 3, 5), "h") == stl.write_binary(box(2, 3, 5), "h")


def test_a_binary_header_never_claims_to_be_text() -> None:
    with pytest.raises(ValueError, match="solid"):
        stl.write_binary(box(1, 1, 1), "solid gold")


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.floats(-1e6, 1e6, width=32), min_size=3, max_size=3),
    st.sampled_from(["stl", "stl-ascii", "3mf"]),
)
def test_every_float32_comes_back_exactly(shift: list[float], kind: str) -> None:
    mesh = box(1, 1, 1).mapped(lambda v: (v + shift).astype(np.float32).astype(np.float64))
    if not (mesh.areas > 0).any():
        return
    written = {
        "stl": lambda: stl.write_binary(mesh, "x"),
        "stl-ascii": lambda: stl.write_ascii(mesh, "x"),
        "3mf": lambda: threemf.write([threemf.BuildObject("x", mesh)], Unit.MM, "", ""),
    }[kind]()
    back = read_model("a.3mf" if kind == "3mf" else "a.stl", written).whole()
    # Text carries 9 digits: the float32 is exact, the decimal beyond it is not.
    assert (corners_of(back).astype(np.float32) == corners_of(mesh)).all()


def test_a_first_look_at_a_large_stl_has_its_triangles() -> None:
    corners = corners_of(box(2, 3, 5))
    look = stl.first_look(binary_stl(corners))
    assert look is not None
    np.testing.assert_array_equal(corners_of(look), corners)
    some = stl.first_look(binary_stl(corners), at_most=5)
    assert some is not None
    assert some.triangles == 4
    assert stl.first_look(b"solid x") is None
    assert stl.first_look(binary_stl(corners)[:-1]) is None


NUMBER = st.sampled_from(
    ["0", "1", "2", "-2.5", "+3", ".5", "5.", "1e5", "1E-3", "0", "1", "2", "1", "2", "0"]
) | st.sampled_from(["1-2", "", "1.2.3", "5e", "e5", "--1", " 7", "7 ", "nan", "1_0", "1e5e5", ".", "1,5"])
INDEX = st.sampled_from(["0", "1", "2"]) | st.sampled_from(
    ["", "1-2", "-1", "00", "3", "9999999999", "99999999999999999999999", "1.0", "1e0", " 1", "2 "]
)


@settings(max_examples=300, deadline=None)
@given(
    vertices=st.lists(st.tuples(NUMBER, NUMBER, NUMBER), min_size=3, max_size=4),
    triangles=st.lists(st.tuples(INDEX, INDEX, INDEX), min_size=1, max_size=3),
)
def test_plain_lists_are_read_as_the_parser_of_xml_reads_them(
    vertices: list[tuple[str, ...]], triangles: list[tuple[str, ...]]
) -> None:
    points = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in vertices)
    faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in triangles)
    mesh = f"<mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh>"

    def read(extra: str) -> object:
        made = model(f'<object id="1">{mesh}</object>{extra}', '<item objectid="1"/>')
        try:
            (part,) = read_model("a.3mf", package(made)).parts
        except UnreadableFile as error:
            return error.code
        return part.mesh.vertices.tolist(), part.mesh.faces.tolist()

    assert read("") == read("<!-- with a comment in it nothing is lifted out -->")
