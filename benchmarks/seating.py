"""Sections, ways to stand and arrangements beside general libraries doing the same work."""

from __future__ import annotations

import time
from collections.abc import Callable

import manifold3d
import numpy as np
import rectpack
import shapely
import trimesh

from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.outlines import as_outline
from aimtrue.core.mesh.sections import sections_of
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.seating.arrangement.nesting import NestingPart, nest
from aimtrue.core.seating.orientation.rest_poses import rests_of, stable_sides
from benchmarks.shapes import wavy_sphere

PLATE = np.array([[0.0, 0.0], [250.0, 0.0], [250.0, 210.0], [0.0, 210.0]])
GAP = 2.0
_SECTIONS = 200
_PARTS = 60


def seating(triangles: int) -> int:
    """Print two tables: times and their ratios; plates that an arrangement takes."""
    print(f"{'work':<64}{'ours':>11}{'theirs':>11}{'ratio':>8}")
    mesh = wavy_sphere(triangles)
    low, high = mesh.bounds()[:, 2]
    heights = np.linspace(low, high, _SECTIONS + 2)[1:-1]
    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    _row(
        f"{_SECTIONS} sections of {mesh.triangles} triangles, islands counted",
        lambda: sections_of(Mesh(mesh.vertices, mesh.faces), heights),
        lambda: theirs.section_multiplane([0, 0, 0], [0, 0, 1], heights),
    )
    _row(
        f"ways to stand of {mesh.triangles} triangles, round",
        lambda: rests_of(Mesh(mesh.vertices, mesh.faces)),
    )
    block = _fine_block(triangles)
    _row(
        f"resting faces of {block.triangles} triangles, flat sides",
        lambda: stable_sides(Mesh(block.vertices, block.faces)),
        lambda: trimesh.poses.compute_stable_poses(
            trimesh.Trimesh(block.vertices, block.faces, process=False)
        ),
    )
    _row(
        "the same, with what hangs over and what would hold it",
        lambda: rests_of(Mesh(block.vertices, block.faces)),
    )
    heading = f"arranged with a gap of 2 mm, {_PARTS} parts"
    print(f"\n{heading:<64}{'ours':>11}{'boxes':>11}{'ratio':>8}")
    for words, parts, seconds in (
        ("boxes, quarter turns, first layout", _boxes(), 0.0),
        ("boxes, quarter turns, 10 s", _boxes(), 10.0),
        ("parts that are no boxes, any turn, first layout", _angles(), 0.0),
        ("parts that are no boxes, any turn, 10 s", _angles(), 10.0),
    ):
        turns = "quarters" if words.startswith("boxes") else "any"
        started = time.perf_counter()
        layout = nest(parts, PLATE, GAP, turns, seconds)  # type: ignore[arg-type]
        took = time.perf_counter() - started
        ours, boxes = layout.plates - 1 + layout.used, _packed(parts)
        print(f"{words + f' ({took:.1f} s)':<64}{ours:>8.2f} pl{boxes:>8.2f} pl{boxes / ours:>7.2f}x")
    return 0


def _fine_block(triangles: int) -> Mesh:
    """An angle with bores, its faces cut finely."""
    solid = manifold3d.Manifold.cube((60, 40, 12)) + manifold3d.Manifold.cube((14, 40, 50))
    for x in (25.0, 45.0):
        solid -= manifold3d.Manifold.cylinder(20, 4, 4, 24).translate((x, 20, -2))
    return mesh_of(solid.refine(max(1, int((triangles / solid.num_tri()) ** 0.5))))


def _boxes() -> list[NestingPart]:
    rng = np.random.default_rng(4)
    return [
        NestingPart(f"box {i}", as_outline(shapely.box(0, 0, *rng.uniform(12, 62, 2))), f"box {i}")
        for i in range(_PARTS)
    ]


def _angles() -> list[NestingPart]:
    """Angles, rings and triangles."""
    rng = np.random.default_rng(5)
    parts = []
    for i in range(_PARTS):
        wide, deep = rng.uniform(25, 65, 2)
        plain = shapely.box(0, 0, wide, deep)
        shape = (
            plain.difference(shapely.box(10, 10, wide + 1, deep + 1)),
            shapely.Point(0, 0).buffer(wide / 2).difference(shapely.Point(0, 0).buffer(wide / 2 - 5)),
            shapely.Polygon([(0, 0), (wide, 0), (0, deep)]),
        )[i % 3]
        parts.append(NestingPart(f"part {i}", as_outline(shape), f"part {i}"))
    return parts


def _packed(parts: list[NestingPart]) -> float:
    """Plates that a packer of boxes takes, the last one as far as it is used."""
    packer = rectpack.newPacker(rotation=True)
    for part in parts:
        x0, y0, x1, y1 = part.outline.bounds
        packer.add_rect(x1 - x0 + GAP, y1 - y0 + GAP)
    packer.add_bin(250 + GAP, 210 + GAP, count=float("inf"))
    packer.pack()
    return float(len(packer) - 1 + max(one.y + one.height for one in packer[-1]) / (210 + GAP))


def _row(words: str, ours: Callable[[], object], theirs: Callable[[], object] | None = None) -> None:
    mine = _seconds(ours)
    if theirs is None:
        print(f"{words:<64}{mine:>9.2f} s")
        return
    other = _seconds(theirs)
    print(f"{words:<64}{mine:>9.2f} s{other:>9.2f} s{other / mine:>7.1f}x")


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started
