"""Build the Larch Hill files with the CAD kernel. Run as ``python -m demo.build FOLDER``."""

from __future__ import annotations

import math
import struct
import sys
from pathlib import Path

import numpy as np

from aimtrue.core.formats import threemf
from aimtrue.core.mesh.mesh import weld
from aimtrue.core.model.lengths import Unit
from demo.solids import Solid, box, cylinder, together, write_assembly

CHORD, ANGLE = 0.01, 0.1
"""How far facets may be from the true surface, as a share of the size of an edge, and how far they may turn
(radians)."""
INCH = 25.4


def build(out: Path) -> None:
    """Write every file into a folder."""
    _stl(eyepiece_rack(), out / "eyepiece-rack.stl", per=INCH)
    _stl(clamp_shells(), out / "clamp-shells.stl")
    _mesh_3mf([("dew shield", dew_shield(), None)], out / "dew-shield.3mf")
    _mesh_3mf(setting_dial(), out / "setting-dial.3mf")
    _stl(focus_knob(), out / "focus-knob.stl", per=1000)
    _stl(box(2 * INCH, INCH, INCH / 2), out / "shim-plate.stl", per=INCH)
    write_assembly(_named_shells(), "clamp", "2026-03-21T20:15:00", out / "clamp-shells.step")
    _mesh_3mf(focus_drive(), out / "focus-drive.3mf")
    _mesh_3mf(clamp_on_tube(), out / "clamp-on-tube.3mf")
    _ascii_stl(counterweight(), out / "counterweight.stl")
    (out / "hand-grip-scan.stl").write_bytes(hand_grip())
    (out / "finder-shoe.stl").write_bytes(finder_shoe())


def eyepiece_rack() -> Solid:
    """Five bodies and a stray speck, drawn in inches: 5 1/2 x 1 3/4 x 3/4."""
    base = box(5.5 * INCH, 1.75 * INCH, 0.25 * INCH)
    for place in (-1.875, -0.625, 0.625, 1.875):
        base -= cylinder(0.4375 * INCH, 0.25 * INCH).at(place * INCH)
    bodies: list[Solid] = [base]
    for place in (-1.875, -0.625, 0.625, 1.875):
        collar = cylinder(0.5625 * INCH, 0.5 * INCH)
        collar -= cylinder(0.5 * INCH, 0.5 * INCH)
        bodies.append(collar.at(place * INCH, 0, 0.25 * INCH))
    speck = box(0.01 * INCH, 0.01 * INCH, 0.01 * INCH).at(2.6 * INCH, 0.8 * INCH, 0.495 * INCH)
    return together([*bodies, speck])


def clamp_shells() -> Solid:
    """A pair of shells for a tube that was measured at 140.3 mm, drawn for one of 142.86."""
    ring = cylinder(79.43, 44) - cylinder(71.43, 44)
    ears = box(212, 24, 44) - cylinder(75, 44)
    whole = ring + ears
    for side in (-94, 94):
        whole -= cylinder(2.75, 60).at(z=-30).turned("x", 90).at(side, 0, 22)
    gap = box(260, 1.2, 50)
    return whole - gap


def clamp_on_tube() -> list[tuple[str, Solid, str | None]]:
    """The clamp shells around the tube as it was measured, with the two M5 bolts that hold them."""
    tube = cylinder(70.15, 60) - cylinder(68, 60)
    shells = [(name.replace(",", ""), solid, colour) for name, colour, solid in _named_shells()]
    bolt = cylinder(2.5, 30).at(z=-18) + cylinder(4.25, 5).at(z=12)
    bolts = [(f"bolt {n}", bolt.turned("x", 90).at(x, 0, 22), None) for n, x in ((1, -94), (2, 94))]
    return [*shells, ("tube", tube.at(z=-8), None), *bolts]


def _named_shells() -> list[tuple[str, str, Solid]]:
    """The clamp shells as CAD has them: two solids with names and colours."""
    front, back = sorted(clamp_shells().solids(), key=lambda solid: solid.centre()[1])
    return [("shell, front", "#59788c", front), ("shell, back", "#b88c5c", back)]


def dew_shield() -> Solid:
    """A tube 262 across and 310 tall with a rolled rim, too big for the club's machine."""
    tube = cylinder(129, 310)
    tube += cylinder(131, 8) + cylinder(131, 8).at(z=302)
    return tube - cylinder(126, 310)


def setting_dial() -> list[tuple[str, Solid, str | None]]:
    """A ring and its raised marks: two colours that must stay registered."""
    ring = cylinder(62, 4) - cylinder(40, 4)
    marks = []
    for number in range(36):
        long = 10 if number % 3 == 0 else 5
        mark = box(long, 1.2, 1.2).at(60 - long / 2, 0, 4)
        marks.append(mark.turned("z", number * 10))
    return [("ring", ring, "#2b3a55"), ("marks", together(marks), "#e9e2cf")]


def focus_knob() -> Solid:
    """A fluted knob 38 across and 22 high, with a bore for a 6 mm shaft."""
    knob = cylinder(19, 22).rounded(2, above=1)
    for number in range(12):
        knob -= cylinder(3, 22).at(20.5).turned("z", number * 30 + 15)
    return knob - cylinder(3, 16)


def focus_drive() -> list[tuple[str, Solid, str | None]]:
    """The knob on its shaft, the bushing that it turns in, and a spacer: one fits too tightly."""
    shaft = cylinder(3, 70).at(z=-34)
    knob = cylinder(19, 22).rounded(2, above=1) - cylinder(3.01, 16)
    spacer = cylinder(5, 4) - cylinder(3.2, 4)
    bushing = box(40, 30, 12) - cylinder(3.2, 12)
    return [
        ("focus knob", knob.at(z=14), "#2b3a55"),
        ("shaft", shaft.at(z=-6), None),
        ("spacer", spacer.at(z=9.4), "#e9e2cf"),
        ("bushing", bushing.at(z=-3), None),
    ]


def counterweight() -> Solid:
    """A stepped weight, 80 across and 60 high, modelled Y-up and metres from the origin."""
    weight = cylinder(40, 45) + cylinder(24, 15).at(z=45)
    weight -= cylinder(10.1, 60)
    return weight.turned("x", -90).at(2400, -900, 1300)


def _corners(shape: Solid) -> np.ndarray:
    """Return (m, 3, 3) triangle corners in mm, solid by solid."""
    return shape.corners(CHORD, ANGLE)


def _stl(shape: Solid, path: Path, per: float = 1.0) -> None:
    """Write a binary STL whose unit is ``per`` mm; its header is silent about that."""
    path.write_bytes(_binary_stl(_corners(shape) / per, path.stem))


def _ascii_stl(shape: Solid, path: Path) -> None:
    lines = [f"solid {path.stem}"]
    for facet in _corners(shape).tolist():
        lines.append("facet normal 0 0 0\n outer loop")
        lines += [f"  vertex {x:.9g} {y:.9g} {z:.9g}" for x, y, z in facet]
        lines.append(" endloop\nendfacet")
    path.write_text("\n".join([*lines, f"endsolid {path.stem}", ""]))


def _mesh_3mf(objects: list[tuple[str, Solid, str | None]], path: Path) -> None:
    """Write a 3MF of one object per body, solids of one body merged, with its colour."""
    items = [threemf.BuildObject(name, weld(_corners(shape)), colour) for name, shape, colour in objects]
    path.write_bytes(threemf.write(items, Unit.MM, path.stem, "made for Larch Hill"))


def hand_grip() -> bytes:
    """A grip as a scanner gives it: finger grooves, a little noise, and two holes in it."""
    rings, around = 150, 120
    random = np.random.default_rng(7)
    v, u = np.meshgrid(np.linspace(0, 1, rings), np.arange(around) / around, indexing="ij")
    swell = np.sin(np.pi * np.clip(v, 0.001, 0.999)) ** 0.35
    fingers = np.clip(np.cos(8 * math.pi * v), 0, 1) * np.clip(np.cos(2 * math.pi * u), 0, 1)
    groove = 1 - 0.07 * fingers
    radius = swell * groove + random.normal(0, 0.002, v.shape)
    x, y = 23 * radius * np.cos(2 * math.pi * u), 19 * radius * np.sin(2 * math.pi * u)
    points = np.stack([x, y, 118 * v], axis=-1)
    points[0], points[-1] = (0, 0, 0), (0, 0, 118)
    triangles = []
    for i in range(rings - 1):
        for j in range(around):
            a, b = points[i, j], points[i, (j + 1) % around]
            c, d = points[i + 1, j], points[i + 1, (j + 1) % around]
            if _in_hole(i, j):
                continue
            if i > 0:
                triangles.append((a, b, d))
            if i < rings - 2:
                triangles.append((a, d, c))
            if i == rings - 2 and i > 0:
                triangles[-1] = (a, b, points[-1, 0])
    return _binary_stl(np.array(triangles), "scan of a hand grip, mm")


def finder_shoe() -> bytes:
    """A shoe for the finder as a model site has it: a sound part among crumbs, some torn, and faces that
    are nothing.
    """
    shoe = box(48, 32, 10) - box(48, 18, 6).at(z=4)
    for side in (-16, 16):
        shoe -= cylinder(2.75, 4).at(side)
    rows = [_corners(shoe)]
    for number in range(28):
        crumb = box(0.3, 0.3, 0.3).at(-21 + 3.2 * (number % 14), -9 + 18 * (number // 14), 11)
        # Every seventh lost two of its triangles on the way.
        rows.append(_corners(crumb)[2 if number % 7 == 0 else 0 :])
    rows += [np.array([[[n, n, 5], [n + 1, n + 1, 5], [n + 2, n + 2, 5]]], float) for n in range(-6, 6)]
    rows.append(rows[0][:5])
    return _binary_stl(np.concatenate(rows), "finder shoe, mm")


def _in_hole(i: int, j: int) -> bool:
    return (i - 40) ** 2 + (j - 30) ** 2 < 40 or (i - 104) ** 2 + (j - 84) ** 2 < 22


def _binary_stl(corners: np.ndarray, header: str) -> bytes:
    records = np.zeros(len(corners), np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("s", "<u2")]))
    records["c"] = corners
    return header.encode().ljust(80) + struct.pack("<I", len(corners)) + records.tobytes()


if __name__ == "__main__":
    build(Path(sys.argv[1]))
