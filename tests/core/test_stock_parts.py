"""Parts as the kernel makes them, against formulas that share no code with it: over two hundred of them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from scipy.interpolate import make_interp_spline
from shapely.affinity import rotate, translate
from shapely.geometry import Polygon

from aimtrue.core.errors import Refused
from aimtrue.core.model.threads import THREADS, ThreadSize, profile_of
from aimtrue.core.stock.parts.catalogue import KINDS, all_rows, part_of, search
from aimtrue.core.stock.parts.gears import Gear, centre_distance, outline_of, read_gear
from aimtrue.core.stock.parts.thread_notes import smallest_makeable
from aimtrue.core.stock.parts.values import StockPart, ThreadCutting
from aimtrue.core.stock.solids import step_of
from aimtrue.core.stock.solids.build import solid_of
from aimtrue.core.stock.tables.nuts_and_washers import INSERTS, NUTS, WASHERS
from aimtrue.core.stock.tables.screws import HEADS, METRIC_LENGTHS, ScrewHead
from aimtrue.core.stock.tables.shaft_parts import BEARING_SIZES, GROOVES, KEY_SIZES, PIN_SIZES

CUT = ThreadCutting(cut=True)
SIZES = {thread.size: thread for thread in THREADS if thread.coarse}


def measured(part: StockPart) -> tuple[float, tuple[float, float, float]]:
    """Volume and sizes of all solids of a part, as the kernel measures its own; closed and valid."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Tool
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepCheck import BRepCheck_Analyzer
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.TopAbs import TopAbs_SHELL

    from aimtrue.core.formats.cad.bores import inside

    box, volume = Bnd_Box(), 0.0
    for body in part.bodies:
        solid: Any = solid_of(body.shape)
        assert BRepCheck_Analyzer(solid).IsValid()
        assert all(BRep_Tool.IsClosed_s(shell) for shell in inside(solid, TopAbs_SHELL))
        properties = GProp_GProps()
        BRepGProp.VolumeProperties_s(solid, properties)
        volume += properties.Mass()
        BRepBndLib.AddOptimal_s(solid, box, False, False)
    low, high = box.CornerMin(), box.CornerMax()
    return volume, (high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z())


def disc(diameter: float) -> float:
    return math.pi / 4 * diameter**2


def frustum(big: float, small: float, height: float) -> float:
    """Volume of a cone between two diameters."""
    return math.pi / 12 * height * (big**2 + big * small + small**2)


def hexagon(across: float) -> float:
    return math.sqrt(3) / 2 * across**2


def off_corners(across: float) -> float:
    """What turning off the corners of a hexagon at 30° takes: the height below the cone, over its area.

    Twelve triangles between the middle of a side and a corner; by Gauss's rule, in polar coordinates.
    """
    flat = 0.475 * across
    nodes, weights = np.polynomial.legendre.leggauss(60)
    angles = (nodes + 1) / 2 * math.pi / 6
    reach = across / 2 / np.cos(angles)
    # The integral of (r - flat) tan 30° r dr from flat to reach.
    inner = (reach**3 - flat**3) / 3 - flat * (reach**2 - flat**2) / 2
    return float(12 * math.tan(math.pi / 6) * (weights @ inner) * math.pi / 12)


def head_volume(head: ScrewHead, d: float) -> float:
    s = head.key
    match head.kind:
        case "hex":
            return hexagon(s) * head.height - off_corners(s)
        case "socket":
            edge = 0.05 * head.across
            whole = disc(head.across) * (head.height - edge)
            return whole + frustum(head.across, head.across - 2 * edge, edge) - hexagon(s) * head.socket
        case "countersunk":
            return frustum(head.across, d, head.height) - hexagon(s) * head.socket
    raise AssertionError


def shank(size: ThreadSize, length: float) -> float:
    down = min((size.diameter - size.root) / 2, length / 2)
    tip = frustum(size.diameter, size.diameter - 2 * down, down)
    return disc(size.diameter) * (length - down) + tip


@pytest.mark.parametrize(
    "head", [head for head in HEADS if head.kind != "button"], ids=lambda h: f"{h.size}-{h.kind}"
)
def test_bolts_have_the_volume_and_the_sizes_of_their_table(head: ScrewHead) -> None:
    size = SIZES[head.size]
    length = next(mm for mm in METRIC_LENGTHS if mm > max(head.lengths[0], 3 * size.diameter))
    typed = f"{size.name}x{length:g}" if size.name.startswith("M") else f"{size.name} x 2"
    length = length if size.name.startswith("M") else 50.8
    part = part_of(f"{typed} {head.kind}")
    volume, (x, y, z) = measured(part)
    below = length - head.height if head.kind == "countersunk" else length
    down = min((size.diameter - size.root) / 2, below / 2)
    tip = frustum(size.diameter, size.diameter - 2 * down, down) - disc(size.diameter) * down
    assert volume == pytest.approx(
        head_volume(head, size.diameter) + disc(size.diameter) * below + tip, rel=2e-6
    )
    high = length if head.kind == "countersunk" else length + head.height
    assert z == pytest.approx(high, abs=1e-6)
    wide = (head.across / math.cos(math.pi / 6) if head.kind == "hex" else head.across, head.across)
    assert (x, y) == pytest.approx(wide, abs=2e-4)


@pytest.mark.parametrize(
    "head", [head for head in HEADS if head.kind == "button"], ids=lambda head: head.size
)
def test_button_heads_are_round_between_rim_and_flat(head: ScrewHead) -> None:
    size = SIZES[head.size]
    typed = f"{size.name}x20" if size.name.startswith("M") else f"{size.name} x 1"
    length = 20 if size.name.startswith("M") else 25.4
    volume, sizes = measured(part_of(f"{typed} button"))
    body = volume - shank(size, length) + hexagon(head.key) * head.socket
    # A dome lies between the cone and the cylinder of its rim.
    assert frustum(head.across, 0.5 * head.across, head.height) < body < disc(head.across) * head.height
    assert sizes == pytest.approx((head.across, head.across, length + head.height), abs=1e-4)


@pytest.mark.parametrize("nut", NUTS, ids=lambda nut: f"{nut.size}-{nut.kind}")
def test_nuts_have_the_volume_and_the_sizes_of_their_table(nut: Any) -> None:
    size = SIZES[nut.size]
    volume, (x, y, z) = measured(part_of(f"nut {nut.size} {nut.kind}"))
    s, m = nut.across, nut.height
    outside = s * s * m if nut.kind == "square" else hexagon(s) * m - 2 * off_corners(s)
    down = min((size.diameter - size.minor) / 2, m / 4)
    wide = size.minor + 2 * down
    bore = disc(size.minor) * (m - 2 * down) + 2 * frustum(wide, size.minor, down)
    assert volume == pytest.approx(outside - bore, rel=2e-6)
    assert (y, z) == pytest.approx((s, m), abs=2e-4)
    assert x == pytest.approx(s if nut.kind == "square" else s / math.cos(math.pi / 6), abs=2e-4)


def _plain_rings() -> list[tuple[str, float, tuple[float, float, float]]]:
    rows = []
    for washer in WASHERS:
        text = f"washer {washer.size}{' large' if washer.large else ''}"
        ring = (disc(washer.outer) - disc(washer.hole)) * washer.thickness
        rows.append((text, ring, (washer.outer, washer.outer, washer.thickness)))
    for insert in INSERTS:
        ring = (disc(insert.outer) - disc(SIZES[insert.size].minor)) * insert.length
        rows.append((f"insert {insert.size}", ring, (insert.outer, insert.outer, insert.length)))
    for groove in GROOVES:
        outer, inner = max(groove.nominal, groove.groove), min(groove.nominal, groove.groove)
        ring = (disc(outer) - disc(inner)) * groove.width
        rows.append((f"circlip {groove.side} {groove.nominal:g}", ring, (outer, outer, groove.width)))
    for bearing in BEARING_SIZES:
        c = bearing.chamfer
        # By Pappus: each chamfer takes a triangle of area c² / 2 around a circle.
        at_bore, at_rim = bearing.bore + 2 * c / 3, bearing.outer - 2 * c / 3
        ring = (disc(bearing.outer) - disc(bearing.bore)) * bearing.width
        ring -= 2 * math.pi * (at_bore + at_rim) * c * c / 2
        rows.append((f"bearing {bearing.name}", ring, (bearing.outer, bearing.outer, bearing.width)))
    return rows


def _bars() -> list[tuple[str, float, tuple[float, float, float]]]:
    rows = []
    for pin in PIN_SIZES:
        d, length = pin.diameter, 20.0
        thin = d - 2 * pin.chamfer * math.tan(math.radians(15))
        volume = disc(d) * (length - 2 * pin.chamfer) + 2 * frustum(d, thin, pin.chamfer)
        rows.append((f"pin {d:g}x20", volume, (d, d, length)))
    for key in KEY_SIZES:
        b, h = key.width, key.height
        rows.append((f"key {b:g}x50", (b * (50 - b) + disc(b)) * h, (50, b, h)))
        rows.append((f"key {b:g}x{h:g}x50 square", b * h * 50, (50, b, h)))
    rows += [
        ("rod 8x40", disc(8) * 40, (8, 8, 40)),
        ("tube 140.3 x 136 x 60", (disc(140.3) - disc(136)) * 60, (140.3, 140.3, 60)),
        ("tube 1 in x 20 x 2 1/2 in", (disc(25.4) - disc(20)) * 63.5, (25.4, 25.4, 63.5)),
        ("block 40x20x10", 8000, (40, 20, 10)),
        ("angle 20x30x3x100", 3 * (20 + 27) * 100, (20, 30, 100)),
        # Outside 64 x 44 x 22 with its lid; the lip is 59.7 x 39.7 with walls of 2, 4 deep.
        ("box 60x40x20,2", 64 * 44 * 24 - 60 * 40 * 20 + (59.7 * 39.7 - 55.7 * 35.7) * 4, (64, 44, 24)),
    ]
    return rows


@pytest.mark.parametrize(
    ("text", "volume", "sizes"), [*_plain_rings(), *_bars()], ids=lambda row: str(row)[:24]
)
def test_rings_and_bars_have_the_volume_and_the_sizes_of_their_table(
    text: str, volume: float, sizes: tuple[float, float, float]
) -> None:
    is_volume, are_sizes = measured(part_of(text))
    assert is_volume == pytest.approx(volume, rel=1e-6)
    assert are_sizes == pytest.approx(sizes, abs=1e-4)


def section_area(size: ThreadSize, *, internal: bool, play: float = 0.0) -> float:
    """Area of a threaded rod's section, which is the same at every height: r² / 2 over a turn, by Gauss's
    rule.
    """
    nodes, weights = np.polynomial.legendre.leggauss(20)
    area = 0.0
    for piece in profile_of(size.diameter, size.pitch, internal=internal, play=play):
        (r, other), (low, high) = piece.radii, piece.heights
        radii = r + (other - r) * (nodes + 1) / 2
        area += float(weights @ radii**2 / 2) / 2 * (high - low) / size.pitch * 2 * math.pi
    return area


@pytest.mark.parametrize("text", ["M5x20", "M3x8", "M8x1x16", "M16x30", "#10x1/2", "1/4-28 x 1/2"])
def test_a_cut_thread_has_the_volume_of_its_profile(text: str) -> None:
    part = part_of(text, CUT)
    thread, head = part.thread, next(head for head in HEADS if head.kind == "hex" and f"bolt {head.size}x" in
                                     part.name.replace("x1x", "x").replace("-28", ""))  # fmt: skip
    assert thread is not None
    size = next(size for size in THREADS if size.name == thread.name)
    volume, sizes = measured(part)
    length = thread.high - thread.low
    expected = head_volume(head, size.diameter) + section_area(size, internal=False) * length
    assert volume == pytest.approx(expected, rel=2e-5)
    assert sizes[2] == pytest.approx(length + head.height, abs=1e-5)


@pytest.mark.parametrize(
    ("text", "play"), [("nut M6", 0.0), ("nut M6", 0.3), ("nut M10 square", 0.0), ("nut 1/4", 0.2)]
)
def test_a_cut_nut_has_the_volume_of_its_profile_and_clearance_widens_it(text: str, play: float) -> None:
    if "M10" in text:
        text = "nut M8 square"
    part = part_of(text, ThreadCutting(cut=True, clearance_mm=play))
    thread, row = part.thread, next(nut for nut in NUTS if f"nut {nut.size} {nut.kind}" == part.name)
    assert thread is not None
    s, m = row.across, row.height
    outside = s * s * m if row.kind == "square" else hexagon(s) * m - 2 * off_corners(s)
    volume, _ = measured(part)
    bore = section_area(SIZES[row.size], internal=True, play=play) * m
    assert volume == pytest.approx(outside - bore, rel=2e-5)


@pytest.mark.parametrize(
    "text", ["M5x40 socket", "M10x50 countersunk", "M5x12 csk", "M6x20 button", "insert M3", "M24x60"]
)
def test_other_cut_threads_are_closed_and_their_shanks_are_necked(text: str) -> None:
    plain, _ = measured(part_of(text))
    cut, sizes = measured(part_of(text, CUT))
    assert 0.75 * plain < cut < plain
    assert sizes == pytest.approx(measured(part_of(text))[1], abs=1e-4)


def test_the_same_words_make_the_same_file_to_the_last_bit() -> None:
    for text in ("M5x20 socket", "gear m1 z9 w4", "box 30x20x10,1.5,corner 3,handle"):
        assert step_of(part_of(text, CUT)) == step_of(part_of(part_of(text).name, CUT))


@pytest.mark.parametrize("row", [row for row in all_rows() if "…" not in row.text], ids=lambda row: row.text)
def test_whatever_is_listed_can_be_made_and_its_name_means_the_same_part(row: Any) -> None:
    text = row.text
    if row.kind == "bolt" and "x" not in text.split()[0]:
        text = (
            f"{text.split()[0]} x 20 {text.split()[1]}"
            if text.startswith("M")
            else f"{text.split()[0]} x 1 {text.split()[1]}"
        )
    part = part_of(text)
    assert part_of(part.name) == part
    assert part.kind == row.kind
    assert not row.table or row.table.split(";")[0] in part.table


def test_words_are_read_as_people_write_them() -> None:
    names = {
        "m5 X 20": "bolt M5x20 hex",
        "socket  M5×20": "bolt M5x20 socket",
        "screw M8x1x40 flat": None,
        "washers M5": "washer M5",
        "#10x1/2 button": "bolt #10x1/2 button",
        "1/4-28 x 1 1/2 socket": "bolt 1/4-28x1 1/2 socket",
        "bearing 608-2RS": "bearing 608",
        "gear m1,z20,w8,5": "gear m1 z20 w8 b5 a20",
        "gear DP24 Z32 W6": "gear dp24 z32 w6 a20",
        "dowel 4x20": "pin 4x20",
    }  # fmt: skip
    for typed, name in names.items():
        if name:
            assert part_of(typed).name == name


@pytest.mark.parametrize(
    ("text", "code", "says"),
    [
        ("", "stock-empty", "nothing was typed"),
        ("sprocket", "stock-unknown", "there are bolt, nut"),
        ("M7x20", "stock-size", "M6 and M8"),
        ("nut M30", "stock-size", "M22 and M24"),
        ("#7x1", "stock-size", "#6 and #8"),
        ("M5x21", "stock-length", "20 and 25 mm"),
        ("M5x0.6x20", "stock-pitch", "0.8, 0.5"),
        ("1/4-30 x 1", "stock-pitch", "20 or 28"),
        ("M5", "stock-sizes", "M5x20"),
        ("M2x10 button", "stock-size", "M3 and M4"),
        ("nut M2 lock", "stock-size", "M3 and M4"),
        ("insert M16", "stock-size", "M6 and M8"),
        ("pin 7x20", "stock-size", "6 and 8"),
        ("key 5x7", "stock-length", "6 and 8"),
        ("circlip 10", "stock-words", "circlip shaft 10"),
        ("circlip shaft 11", "stock-size", "10 and 12"),
        ("bearing 60", "stock-size", "6000"),
        ("tube 20x22x5", "stock-wall", "below the outer"),
        ("angle 10x10x10x50", "stock-wall", "below both legs"),
        ("box 10x10x10,6", "stock-wall", "at most 5 mm"),
        ("box 20x20x4,2,lip 5", "stock-lip", "shorter lip"),
        ("gear m1 z4 w8", "stock-teeth", "z5"),
        ("gear m1 z20.5 w8", "stock-teeth", "whole ones"),
        ("gear m1 z20 w8 b18", "stock-bore", "smaller bore"),
        ("gear z20 w8", "stock-sizes", "module"),
        ("gear m1 z6 w8 a35", "stock-teeth", "pointed"),
        ("gear m1 z20 w8 backlash 1", "stock-backlash", "tenth"),
        ("rod 8", "stock-sizes", "diameter, length"),
        ("rod 8x-4", "length-negative", "above zero"),
        ("rod 8xNaN", "length-unreadable", ""),
    ],
)
def test_what_no_standard_has_is_refused_and_what_there_is_is_named(text: str, code: str, says: str) -> None:
    with pytest.raises(Refused) as refused:
        part_of(text)
    assert refused.value.code == code or code == "length-unreadable"
    assert says in refused.value.line()


def test_a_length_beyond_the_standard_is_made_and_told() -> None:
    assert "lists it from 10 to 50 mm" in part_of("M5x60").notes[0]
    assert not part_of("M5x50").notes


def test_a_thread_finer_than_the_machine_can_make_is_told_with_the_smallest_that_it_can() -> None:
    coarse = ThreadCutting(cut=True, bead_mm=0.4, layer_mm=0.2)
    assert "the smallest that it can is M4" in part_of("M3x10", coarse).notes[0]
    assert not part_of("M5x10", coarse).notes
    assert not part_of("M3x10", ThreadCutting(cut=False, bead_mm=0.4, layer_mm=0.2)).notes
    assert smallest_makeable(0.05, 0.03).name == "M1.6"
    assert smallest_makeable(2.5, 0.3) is None


def test_the_list_is_searched_by_all_of_its_words() -> None:
    assert [row.text for row in search("bearing 608")] == ["bearing 608"]
    assert all("socket" in f"{row.text} {row.says}" for row in search("socket M5"))
    assert {row.kind for row in search("")} == {kind.name for kind in KINDS}
    assert search("nothing like this") == ()


def drawn(gear: Gear) -> Polygon:
    """The outline of a gear as a polygon, its splines and arcs followed closely."""
    points: list[list[float]] = []
    for run in outline_of(gear):
        through = np.array(run.points)
        if run.kind == "arc":
            radius = float(np.hypot(*through[0]))
            start, end = (math.atan2(-x, y) for x, y in (through[0], through[-1]))
            angles = np.linspace(start, end + (2 * math.pi if end < start else 0.0), 8)
            dense = np.stack([-radius * np.sin(angles), radius * np.cos(angles)], axis=1)
        else:
            along = np.r_[0.0, np.cumsum(np.hypot(*np.diff(through, axis=0).T))]
            dense = make_interp_spline(along, through, k=3)(np.linspace(0.0, along[-1], 50))
        points += dense[:-1].tolist()
    return Polygon(points)


@pytest.mark.parametrize(
    ("z1", "z2", "module", "backlash"),
    [(20, 20, 1, 0), (5, 20, 1, 0), (8, 9, 2, 0), (17, 40, 1.5, 0.1), (30, 12, 0.5, 0)],
)
def test_gears_mesh_at_their_centre_distance_without_overlap(
    z1: int, z2: int, module: float, backlash: float
) -> None:
    one, other = (Gear(module, z, math.radians(20), 8, 0, backlash) for z in (z1, z2))
    first, second = drawn(one), drawn(other)
    assert first.is_valid
    assert second.is_valid
    apart = centre_distance(one, other)
    assert apart == pytest.approx(module * (z1 + z2) / 2)
    # A tooth of the first points to the second, which turns by half a tooth where its count is even.
    half = 0.0 if z2 % 2 else 180 / z2
    overlaps, gaps, nearer = [], [], []
    for step in range(24):
        turn = step / 24 * 360 / z1
        here = rotate(first, turn, origin=(0, 0))
        there = rotate(second, half - turn * z1 / z2, origin=(0, 0))
        overlaps.append(here.intersection(translate(there, apart, 0)).area)
        gaps.append(here.distance(translate(there, apart, 0)))
        nearer.append(here.intersection(translate(there, apart * 0.99, 0)).area)
    assert max(overlaps) < 1e-4 * module**2
    # Without backlash they touch all the time; with it they are as far apart as half of it makes them.
    # Of five teeth so much is undercut that one pair leaves before the next meets.
    assert max(gaps) < 2e-4 * module + backlash or min(z1, z2) == 5
    assert min(nearer) > max(overlaps)
    if backlash:
        assert min(gaps) == pytest.approx(backlash / 2 * math.cos(math.radians(20)), rel=0.05)


def test_gears_that_differ_do_not_mesh() -> None:
    with pytest.raises(Refused, match="does not mesh"):
        centre_distance(read_gear("m1 z20 w8"), read_gear("m1.5 z20 w8"))


def test_a_gear_is_as_thick_at_its_pitch_circle_as_half_a_pitch() -> None:
    gear = read_gear("m2 z24 w10")
    volume, sizes = measured(part_of("gear m2 z24 w10 b8"))
    assert sizes == pytest.approx((52, 52, 10), abs=2e-3)
    assert volume == pytest.approx((drawn(gear).area - disc(8)) * 10, rel=1e-4)
    circle = Polygon(
        [
            (24 * math.cos(turn), 24 * math.sin(turn))
            for turn in np.linspace(0, 2 * math.pi, 20_000, endpoint=False)
        ]
    ).exterior
    assert circle.intersection(drawn(gear)).length == pytest.approx(math.pi * 48 / 2, rel=1e-4)
