"""Build the Larch Hill files with the CAD kernel. Run as ``python -m demo.build FOLDER``."""

from __future__ import annotations

import math
import struct
import sys
from pathlib import Path

import numpy as np
from build123d import (
    Align,
    Box,
    Color,
    Compound,
    Cylinder,
    GeomType,
    Part,
    Pos,
    Rot,
    Shape,
    export_step,
    fillet,
)

from aimtrue.core.formats import threemf
from aimtrue.core.mesh.mesh import weld
from aimtrue.core.model.lengths import Unit

CHORD_MM, ANGLE = 0.01, 0.1
"""How far facets may be from the true surface, and how far they may turn (radians)."""
_FLOOR = (Align.CENTER, Align.CENTER, Align.MIN)
INCH = 25.4


def build(out: Path) -> None:
    """Write every file into a folder."""
    _stl(eyepiece_rack(), out / "eyepiece-rack.stl", per=INCH)
    _stl(clamp_shells(), out / "clamp-shells.stl")
    _mesh_3mf([("dew shield", dew_shield(), None)], out / "dew-shield.3mf")
    _mesh_3mf(setting_dial(), out / "setting-dial.3mf")
    _stl(focus_knob(), out / "focus-knob.stl", per=1000)
    _stl(Box(2 * INCH, INCH, INCH / 2, align=_FLOOR), out / "shim-plate.stl", per=INCH)
    export_step(_named_shells(), str(out / "clamp-shells.step"), timestamp="2026-03-21T20:15:00")
    _ascii_stl(counterweight(), out / "counterweight.stl")
    (out / "hand-grip-scan.stl").write_bytes(hand_grip())
    (out / "finder-shoe.stl").write_bytes(finder_shoe())


def eyepiece_rack() -> Compound:
    """Five bodies and a stray speck, drawn in inches: 5 1/2 x 1 3/4 x 3/4."""
    base = Box(5.5 * INCH, 1.75 * INCH, 0.25 * INCH, align=_FLOOR)
    for place in (-1.875, -0.625, 0.625, 1.875):
        base -= Pos(place * INCH, 0, 0) * Cylinder(0.4375 * INCH, 0.25 * INCH, align=_FLOOR)
    bodies: list[Shape] = [base]
    for place in (-1.875, -0.625, 0.625, 1.875):
        collar = Cylinder(0.5625 * INCH, 0.5 * INCH, align=_FLOOR)
        collar -= Cylinder(0.5 * INCH, 0.5 * INCH, align=_FLOOR)
        bodies.append(Pos(place * INCH, 0, 0.25 * INCH) * collar)
    speck = Pos(2.6 * INCH, 0.8 * INCH, 0.5 * INCH) * Box(0.01 * INCH, 0.01 * INCH, 0.01 * INCH)
    return Compound(children=[*bodies, speck])


def clamp_shells() -> Compound:
    """A pair of shells for a tube that was measured at 140.3 mm, drawn for one of 142.86."""
    ring = Cylinder(79.43, 44, align=_FLOOR) - Cylinder(71.43, 44, align=_FLOOR)
    ears = Box(212, 24, 44, align=_FLOOR) - Cylinder(75, 44, align=_FLOOR)
    whole = ring + ears
    for side in (-94, 94):
        whole -= Pos(side, 0, 22) * Rot(90, 0, 0) * Cylinder(2.75, 60)
    gap = Box(260, 1.2, 50, align=_FLOOR)
    whole = whole - gap
    return Compound(children=list(whole.solids()))


def _named_shells() -> Compound:
    """The clamp shells as CAD has them: two solids with names and colours."""
    front, back = sorted(clamp_shells().solids(), key=lambda solid: solid.center().Y)
    front.label, front.color = "shell, front", Color(0.35, 0.47, 0.55)
    back.label, back.color = "shell, back", Color(0.72, 0.55, 0.36)
    return Compound(label="clamp", children=[front, back])


def dew_shield() -> Part:
    """A tube 262 across and 310 tall with a rolled rim, too big for the club's machine."""
    tube = Cylinder(129, 310, align=_FLOOR)
    tube += Cylinder(131, 8, align=_FLOOR) + Pos(0, 0, 302) * Cylinder(131, 8, align=_FLOOR)
    return tube - Cylinder(126, 310, align=_FLOOR)


def setting_dial() -> list[tuple[str, Shape, str | None]]:
    """A ring and its raised marks: two colours that must stay registered."""
    ring = Cylinder(62, 4, align=_FLOOR) - Cylinder(40, 4, align=_FLOOR)
    marks = []
    for number in range(36):
        long = 10 if number % 3 == 0 else 5
        mark = Box(long, 1.2, 1.2, align=(Align.MAX, Align.CENTER, Align.MIN))
        marks.append(Rot(0, 0, number * 10) * Pos(60, 0, 4) * mark)
    return [("ring", ring, "#2b3a55"), ("marks", Compound(children=marks), "#e9e2cf")]


def focus_knob() -> Part:
    """A fluted knob 38 across and 22 high, with a bore for a 6 mm shaft."""
    knob = Cylinder(19, 22, align=_FLOOR)
    rim = [edge for edge in knob.edges().filter_by(GeomType.CIRCLE) if edge.center().Z > 1]
    knob = fillet(rim, 2)
    for number in range(12):
        knob -= Rot(0, 0, number * 30 + 15) * Pos(20.5, 0, 0) * Cylinder(3, 22, align=_FLOOR)
    return knob - Cylinder(3, 16, align=_FLOOR)


def counterweight() -> Shape:
    """A stepped weight, 80 across and 60 high, modelled Y-up and metres from the origin."""
    weight = Cylinder(40, 45, align=_FLOOR) + Pos(0, 0, 45) * Cylinder(24, 15, align=_FLOOR)
    weight -= Cylinder(10.1, 60, align=_FLOOR)
    return Pos(2400, -900, 1300) * (Rot(-90, 0, 0) * weight)


def _corners(shape: Shape) -> np.ndarray:
    """Return (m, 3, 3) triangle corners in mm, solid by solid."""
    parts = []
    for solid in shape.solids():
        vertices, faces = solid.tessellate(CHORD_MM, ANGLE)
        points = np.array([tuple(vertex) for vertex in vertices])
        parts.append(points[np.array(faces)])
    return np.concatenate(parts)


def _stl(shape: Shape, path: Path, per: float = 1.0) -> None:
    """Write a binary STL whose unit is ``per`` mm; its header is silent about that."""
    path.write_bytes(_binary_stl(_corners(shape) / per, path.stem))


def _ascii_stl(shape: Shape, path: Path) -> None:
    lines = [f"solid {path.stem}"]
    for facet in _corners(shape).tolist():
        lines.append("facet normal 0 0 0\n outer loop")
        lines += [f"  vertex {x:.9g} {y:.9g} {z:.9g}" for x, y, z in facet]
        lines.append(" endloop\nendfacet")
    path.write_text("\n".join([*lines, f"endsolid {path.stem}", ""]))


def _mesh_3mf(objects: list[tuple[str, Shape, str | None]], path: Path) -> None:
    """Write a 3MF of one object per body, solids of one body merged, with its colour."""
    items = [threemf.Item(name, weld(_corners(shape)), colour) for name, shape, colour in objects]
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
    shoe = Box(48, 32, 10, align=_FLOOR) - Pos(0, 0, 4) * Box(48, 18, 6, align=_FLOOR)
    for side in (-16, 16):
        shoe -= Pos(side, 0, 0) * Cylinder(2.75, 4, align=_FLOOR)
    rows = [_corners(shoe)]
    for number in range(28):
        crumb = Pos(-21 + 3.2 * (number % 14), -9 + 18 * (number // 14), 11) * Box(
            0.3, 0.3, 0.3, align=_FLOOR
        )
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
