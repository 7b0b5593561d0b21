"""What goes into which file, where in it, in which format; manifests, proof sheets and what changed."""

import csv
import io
import json
import tracemalloc
import zipfile
from typing import Any

import numpy as np
import pytest

from aimtrue.core.drawing.compare import drawn_of
from aimtrue.core.drawing.picture import SIZE, Shown, _covered, picture
from aimtrue.core.errors import Refused
from aimtrue.core.formats import packing, read_model
from aimtrue.core.formats.packing import pack, packed
from aimtrue.core.intake.actions import Paint, Rename, SettleUnit
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.proof.completeness import RequestedRelease, completeness
from aimtrue.core.proof.released import read_back
from aimtrue.core.release.filing import filed
from aimtrue.core.release.history import changes
from aimtrue.core.release.making import Release, release
from aimtrue.core.release.manifest import as_csv, as_json, manifest_of, pack_release
from aimtrue.core.release.order import Order
from aimtrue.core.release.preview import preview
from aimtrue.core.release.sheet import sheet_of
from aimtrue.core.release.sheet.content import letter_of
from aimtrue.core.release.sheet.pages import as_pdf
from aimtrue.core.seating.actions import MoveSeat, SetCopies, TurnSeat
from aimtrue.core.truing.actions import AddReading, SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

TWO = np.concatenate([corners_of(box(20, 30, 5)), corners_of(box(4, 4, 8, at=(40, 0, 5)))])
"""A plate, and a pin beside it that stands higher, as one file."""


def two() -> Bench:
    bench = bench_of("rest.stl", binary_stl(TWO))
    return bench.do(SettleUnit(source="s1", unit=Unit.MM))


def made(bench: Bench, **asked: object) -> Release:
    return release(bench.job, bench, Order.model_validate(asked))


def ends(data: bytes, kind: str = "3mf") -> list[list[float]]:
    return [[round(x, 4) for x in row] for row in read_model(f"a.{kind}", data).whole().bounds().tolist()]


def test_in_their_own_place_bodies_line_up_again() -> None:
    files = made(two(), place="own", shape="each").files
    assert [ends(file.data) for file in files] == [[[0, 0, 0], [20, 30, 5]], [[40, 0, 5], [44, 4, 13]]]


def test_at_the_origin_each_file_is_put_down_by_itself() -> None:
    each = made(two(), place="origin", shape="each").files
    assert [ends(proven_file.data) for proven_file in each] == [
        [[-10, -15, 0], [10, 15, 5]],
        [[-2, -2, 0], [2, 2, 8]],
    ]
    (whole,) = made(two(), place="origin").files
    assert ends(whole.data) == [[-22, -15, 0], [22, 15, 13]]


def test_at_the_origin_bodies_lie_as_they_stand_and_lifts_are_left_out_and_said() -> None:
    bench = two().do(TurnSeat(body="s1-1", axis="x", typed="90"), MoveSeat(body="s1-1", lift="3"))
    (whole,) = made(bench, place="origin").files
    assert ends(whole.data)[0][2] == 0
    assert ends(whole.data)[1][2] == 30
    assert ends(made(bench).files[0].data)[0][2] == 3
    told = preview(bench.job, bench, Order(place="origin"))
    assert any("lift" in mind for mind in told.minds)


def test_merged_bodies_are_one_object_with_their_colours() -> None:
    bench = two().do(Paint(bodies=("s1-1",), colour="#aa3311"), Paint(bodies=("s1-2",), colour="#1133aa"))
    (whole,) = made(bench, shape="merged").files
    assert len(read_back("3mf", whole.data).objects) == 1
    model = zipfile.ZipFile(io.BytesIO(whole.data)).read("3D/3dmodel.model").decode()
    assert model.count("<object ") == 1
    assert model.count('pid="1" p1="0"') == model.count('pid="1" p1="1"') == 12


def test_any_name_comes_through_both_readers() -> None:
    odd = """Wren's "rack" & <pin> `;' 5 µ"""
    (whole,) = made(two().do(Rename(body="s1-1", name=odd))).files
    assert whole.file.proof.holds
    assert odd in [part.name for part in read_model("a.3mf", whole.data).parts]


def test_copies_are_build_items_of_one_object_and_proven_each() -> None:
    bench = two().do(SetCopies(body="s1-1", typed="3"), SetFactor(body="s1-1", typed="1.37"))
    (whole,) = made(bench).files
    model = zipfile.ZipFile(io.BytesIO(whole.data)).read("3D/3dmodel.model").decode()
    assert (model.count("<object "), model.count("<item ")) == (2, 6)
    back = read_model("a.3mf", whole.data)
    low = sorted(float(part.mesh.bounds()[0, 2]) for part in back.parts)
    assert low == pytest.approx([0, 0, 0, 5 * 1.37, 5 * 1.37, 5 * 1.37], abs=1e-5)
    assert whole.file.proof.holds


def test_the_same_part_is_written_once_with_a_count() -> None:
    same = np.concatenate([corners_of(box(6, 4, 2, at=(10 * i, 0, 0))) for i in range(3)])
    bench = bench_of("feet.stl", binary_stl(same)).do(SettleUnit(source="s1", unit=Unit.MM))
    assert len(made(bench, shape="each").files) == 3
    (once,) = made(bench, shape="each", alike="once", pattern="{body}_{count}x").files
    assert once.file.count == 3
    assert once.file.name.endswith("_3x.3mf")


def test_only_the_plates_asked_for_are_released() -> None:
    bench = two()
    assert len(filed(bench.job, bench, Order(plates=("p1",)))) == 1
    with pytest.raises(Refused):
        filed(bench.job, bench, Order(plates=("p9",)))


@pytest.mark.parametrize("kind", ["3mf", "stl", "stl-ascii", "obj", "ply"])
@pytest.mark.parametrize("unit", list(Unit))
def test_every_format_in_every_unit_comes_back_as_large_as_it_was(kind: str, unit: Unit) -> None:
    (whole,) = made(two(), format=kind, unit=unit, place="own").files
    back = read_model(f"a.{kind[:3]}", whole.data)
    assert back.unit == (unit if kind == "3mf" else None)
    sizes = back.whole().extents() * MM_PER[unit]
    assert sizes == pytest.approx([44, 30, 13], rel=1e-6)


def test_headers_say_the_unit_and_never_begin_with_solid() -> None:
    bench = bench_of("solid.stl", binary_stl(TWO)).do(SettleUnit(source="s1", unit=Unit.MM))
    for kind in ("stl", "obj", "ply"):
        data = made(bench, format=kind, unit="in").files[0].data
        assert b"units in" in data[:200]
        assert not data.lower().startswith(b"solid")


def test_an_original_is_read_a_second_time_once_for_all_its_files(monkeypatch: pytest.MonkeyPatch) -> None:
    from aimtrue.core.proof.originals import reading as originals

    bench, read = two(), originals.read
    reads: list[str] = []
    monkeypatch.setattr(originals, "read", lambda kind, data: reads.append(kind) or read(kind, data))  # type: ignore[func-returns-value]
    files = made(bench, shape="each").files
    assert len(files) == 2
    assert all(file.file.proof.holds for file in files)
    assert len(reads) == len(bench.job.sources)


def test_a_3mf_has_a_thumbnail_and_says_when_and_how() -> None:
    (whole,) = made(two(), day="2026-11-27").files
    package = zipfile.ZipFile(io.BytesIO(whole.data))
    png = package.read("Metadata/thumbnail.png")
    assert png[:8] == b"\x89PNG\r\n\x1a\n"
    assert b'<metadata name="CreationDate">2026-11-27' in package.read("3D/3dmodel.model")
    assert made(two(), day="2026-11-27").files[0].data == whole.data


def test_a_picture_shows_the_body_in_the_middle_on_paper() -> None:
    from PIL import Image

    seen = np.array(Image.open(io.BytesIO(picture([Shown(box(10, 10, 10), "#204080")]))))
    assert seen.shape == (SIZE[1], SIZE[0], 3)
    assert seen[2, 2].tolist() == [246, 243, 236]
    r, _, b = seen[SIZE[1] // 2, SIZE[0] // 2].tolist()
    assert b > r


def test_a_triangle_covers_the_pixels_whose_middles_it_holds() -> None:
    chance = np.random.default_rng(3)
    corners = chance.uniform(0, 40, (60, 3, 3))
    corners[:20, 2] = corners[:20, 1] + chance.uniform(-0.2, 0.2, (20, 3))  # slivers
    row, column = np.divmod(np.arange(40 * 40), 40)
    middles = np.column_stack([column, row]) + 0.5
    for triangle in corners:
        samples = _covered(triangle[None], 40)
        a, b, c = triangle[:, :2]
        share = np.linalg.solve(np.column_stack([b - a, c - a]), (middles - a).T)
        held = (share >= 0).all(axis=0) & (share.sum(axis=0) <= 1)
        if not held.any():  # too thin for any middle: it is seen all the same
            assert len(samples.pixel) == 1
            continue
        assert set(samples.pixel) == set(np.flatnonzero(held))
        z = triangle[0, 2] + share[:, samples.pixel].T @ (triangle[1:, 2] - triangle[0, 2])
        assert samples.height == pytest.approx(z)


def test_packages_hold_what_was_put_in_and_are_read_by_others() -> None:
    entries = [("a/ä.txt", b"ha" * 5000), ("b.bin", bytes(range(256))), ("empty", b"")]
    package = zipfile.ZipFile(io.BytesIO(packed(entries)))
    assert package.testzip() is None
    assert [(name, package.read(name)) for name in package.namelist()] == entries


@pytest.mark.parametrize(("most", "many"), [(0, 0), (300, 9), (10_100, 9), (10_600, 9), (1 << 30, 3)])
def test_what_a_package_has_no_room_for_stands_in_longer_fields(
    most: int, many: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(packing, "_MOST_BYTES", most)
    monkeypatch.setattr(packing, "_MOST_ENTRIES", many)
    entries = [("plain", b"ha" * 5000), ("b.bin", np.random.default_rng(1).bytes(10_500)), ("empty", b"")]
    data = packed(entries)
    assert b"PK\6\6" in data
    package = zipfile.ZipFile(io.BytesIO(data))
    assert package.testzip() is None
    assert [(name, package.read(name)) for name in package.namelist()] == entries


def test_a_package_is_written_onward_with_one_file_of_it_in_memory() -> None:
    class Onward(io.RawIOBase):
        length = 0

        def write(self, data: Any) -> int:
            self.length += len(data)
            return len(data)

    chance, out = np.random.default_rng(1), Onward()
    tracemalloc.start()
    pack(((f"{number}.stl", chance.bytes(1_000_000)) for number in range(12)), out)  # type: ignore[arg-type]
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert out.length > 12_000_000
    assert most < 5_000_000


def test_a_manifest_tells_every_file_as_json_and_as_csv() -> None:
    files = made(two(), shape="each").files
    manifest = manifest_of("=rest", 4, [file.file for file in files])
    told = json.loads(as_json(manifest))
    assert [one["sha256"] for one in told["files"]] == [file.file.sha256 for file in files]
    rows = list(csv.DictReader(io.StringIO(as_csv(manifest).decode())))
    assert [float(row["size_mm_z"]) for row in rows] == [5, 8]
    package, again = io.BytesIO(), io.BytesIO()
    for out in (package, again):
        pack_release(manifest, [(file.file.name, file.data) for file in files], b"{}", out)
    assert package.getvalue() == again.getvalue()
    names = zipfile.ZipFile(package).namelist()
    assert names == [*(file.file.name for file in files), "MANIFEST.json", "MANIFEST.csv", "PROOF.json"]


def test_a_preview_names_the_files_that_a_release_then_has() -> None:
    bench = two()
    order = Order(shape="each", pattern="{job}-{number}of{of}", format="stl", unit=Unit.IN)
    told = preview(bench.job, bench, order)
    assert [file.name for file in told.files] == [
        file.file.name for file in release(bench.job, bench, order).files
    ]
    assert any("unit" in mind for mind in told.minds)
    assert told.drawn[0].rings
    assert not told.exact
    wrong = preview(bench.job, bench, Order(pattern="{who}"))
    assert "{who}" in wrong.problem
    assert wrong.files == ()


def test_step_is_refused_of_a_mesh() -> None:
    with pytest.raises(Refused) as refused:
        made(two(), format="step")
    assert refused.value.code == "step-inexact"


def test_what_changed_between_two_releases_is_told_once_each() -> None:
    before = two()
    after = two().do(
        SetFactor(body="s1-1", typed="1.1"), AddReading(body="s1-2", kind="extent", axis="z", typed="8.8")
    )
    told = {(change.of, change.what) for change in changes(before.job, after.job)}
    names = [body.name for body in after.job.bodies]
    assert {
        (names[0], "size"),
        (names[0], "correction"),
        (names[1], "size"),
        (names[1], "reading overall Z"),
    } <= told
    assert changes(before.job, before.job) == ()
    assert [change.after for change in changes(before.job, before.job, ("s1-1",), ("s1-1", "s1-2"))] == [
        "new"
    ]


def test_letters_of_revisions_leave_out_those_that_read_as_others() -> None:
    assert [letter_of(n) for n in (1, 2, 8, 9, 20, 21, 41)] == ["A", "B", "H", "J", "Y", "AA", "BA"]


def test_a_proof_sheet_says_how_sizes_came_about_and_prints_as_text() -> None:
    bench = two().do(AddReading(body="s1-1", kind="extent", axis="x", typed="22 ±0.1"))
    files = [file.file for file in made(bench, shape="each").files]
    sheet = sheet_of(bench.job, 2, "2026-11-27", files, bench, seated=True)
    (plate,) = sheet.body_of("s1-1").readings
    assert (plate.typed, plate.found, plate.met) == ("22 ±0.1", "22.00 mm", True)
    assert [row.released_mm for row in sheet.body_of("s1-1").chain] == pytest.approx([22, 33, 5.5])
    assert [seat.balloon for seat in sheet.plates[0].seats] == [1]
    for kind, wide in (("a4", 842), ("letter", 792)):
        pdf = as_pdf(sheet, kind, lambda key: drawn_of(bench.job, (bench.job.body(key),), bench))  # type: ignore[arg-type]
        assert pdf == as_pdf(sheet, kind, lambda key: drawn_of(bench.job, (bench.job.body(key),), bench))  # type: ignore[arg-type]
        assert f"/MediaBox [ 0 0 {wide}".encode() in pdf.replace(b".8898 ", b" ").replace(b"841", b"842")
        assert b"/FontFile2" in pdf


def test_a_release_that_lacks_a_copy_or_has_one_twice_does_not_hold() -> None:
    bench = two().do(SetCopies(body="s1-1", typed="2"))
    files = filed(bench.job, bench, Order(shape="each"))
    released = [(item.body, item.seat, file.count) for file in files for item in file.items]
    asked = RequestedRelease(None, None, "seated", each=True, once=False)
    assert completeness(bench.job, asked, released).holds
    assert not completeness(bench.job, asked, released[1:]).holds
    assert not completeness(bench.job, asked, [*released, released[0]]).holds
    assert not completeness(bench.job, asked, [released[0], *released[:-1]]).holds
    counted = [(released[0][0], released[0][1], 2), (released[1][0], released[1][1], 2)]
    once = RequestedRelease(None, None, "seated", each=True, once=True)
    assert completeness(bench.job, once, counted).holds
    assert not completeness(bench.job, once, [(body, seat, 1) for body, seat, _ in counted]).holds
