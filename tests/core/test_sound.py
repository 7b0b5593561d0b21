"""What leaves is sound as it is written: after rounding to float32 no face is without area or lies upon
another.
"""

from __future__ import annotations

import io

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.mesh.soundness import soundly_rounded
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.prove import ProofBroken
from aimtrue.core.release import writing
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

SHAPES = {
    "box": Manifold.cube((100, 80, 60)),
    "angle": Manifold.cube((100, 80, 60)) - Manifold.cube((80, 90, 50)).translate((30, -1, 20)),
    "rod": Manifold.cylinder(50, 30, 30, 48),
}


def faults(corners: np.ndarray) -> list[str]:
    """What is not sound of (m, 3, 3) float32 triangles, told by a way of its own: by sets and exact
    integers.
    """
    told = []
    places = [[tuple(corner) for corner in face] for face in corners.tolist()]
    edges: dict[tuple[object, object], int] = {}
    for face in places:
        if len(set(face)) < 3:
            told.append("a corner is there twice")
        a, b, c = (np.array([float(value).hex() for value in corner]) for corner in face)
        a, b, c = (np.array([float.fromhex(value) for value in corner]) for corner in (a, b, c))
        if not np.cross(b - a, c - a).any():
            told.append("no area")
        for k in range(3):
            side = (face[k], face[(k + 1) % 3])
            edges[side] = edges.get(side, 0) + 1
    if len({frozenset(face) for face in places}) < len(places):
        told.append("a face is there twice")
    if any(count > 1 for count in edges.values()):
        told.append("an edge is run along twice the same way")
    if any((b, a) not in edges for a, b in edges):
        told.append("an edge is run along one way only")
    return told


def cut(shape: str, planes: tuple[str, ...]) -> Bench:
    bench = bench_of("part.stl", binary_stl(corners_of(mesh_of(SHAPES[shape]))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM)).shape(AskPieces(planes=planes))
    return bench


PLANES = st.lists(
    st.builds(
        lambda x, y, z, at: f"{x:.4f},{y:.4f},{z:.4f} @ {at:.4f}",
        st.floats(0.05, 1), st.floats(0.05, 1), st.floats(0.05, 1), st.floats(20, 70),
    ),
    min_size=1, max_size=3,
)  # fmt: skip


@settings(max_examples=25, deadline=None)
@given(
    shape=st.sampled_from(sorted(SHAPES)),
    planes=PLANES,
    place=st.sampled_from(["own", "seated"]),
    unit=st.sampled_from([Unit.MM, Unit.IN]),
)
def test_pieces_are_sound_as_written(shape: str, planes: list[str], place: str, unit: Unit) -> None:
    try:
        bench = cut(shape, tuple(planes))
    except Refused:
        return
    order = Order(format="stl", place=place, shape="each", unit=unit)
    for file in release(bench.job, bench, order).files:
        read = trimesh.load(io.BytesIO(file.data), file_type="stl", process=False)
        assert not faults(np.asarray(read.triangles, dtype=np.float32))  # type: ignore[attr-defined]


def test_what_rounding_does_not_spoil_is_the_very_same() -> None:
    mesh = box(20, 30, 50)
    assert soundly_rounded(mesh) is mesh


def needles() -> Mesh:
    """A box with a needle in it: a corner a billionth beside the middle of one of its edges."""
    mesh = box(20, 30, 50)
    corners = np.concatenate([mesh.vertices, [[10.0, 1e-9, 0.0]]])
    faces = mesh.faces.tolist()
    # Edge 0 to 1 of the bottom: its upper face is cut in two at the new corner, its lower face gets a needle.
    upper = next(face for face in faces if {0, 1} <= set(face) and 5 in face)
    faces.remove(upper)
    at = next(k for k in range(3) if {upper[k], upper[(k + 1) % 3]} == {0, 1})
    a, b, c = upper[at], upper[(at + 1) % 3], upper[(at + 2) % 3]
    faces += [[a, 8, c], [8, b, c], [a, b, 8]]
    return Mesh(corners, np.array(faces, np.int32))


def test_a_needle_goes_without_a_hole() -> None:
    mesh = soundly_rounded(needles())
    assert not faults(mesh.vertices[mesh.faces].astype(np.float32))
    assert mesh.volume() == pytest.approx(20 * 30 * 50)


def with_a_needle(mesh: Mesh) -> Mesh:
    """The same with a corner right beside an end of one edge: closed, until numbers are rounded."""
    at = mesh.vertices
    number, (a, b, c) = next(
        (number, face)
        for number, face in enumerate(mesh.faces.tolist())
        if (np.abs(at[face[0]])[at[face[0]] != at[face[1]]] > 1).all()  # numbers beside 0 are told apart
    )
    twin = next(n for n, face in enumerate(mesh.faces.tolist()) if {a, b} <= set(face) and c not in face)
    d = next(one for one in mesh.faces[twin].tolist() if one not in (a, b))
    new, ends = len(mesh.vertices), mesh.vertices[[a, b]]
    corners = np.concatenate([mesh.vertices, [ends[0] + 1e-9 * (ends[1] - ends[0])]])
    kept = np.delete(mesh.faces, [number, twin], axis=0)
    faces = np.array([[a, new, c], [new, b, c], [b, new, d], [new, a, d]], np.int32)
    return Mesh(corners, np.concatenate([kept, faces]))


def test_the_proof_sees_what_is_not_sound(monkeypatch: pytest.MonkeyPatch) -> None:
    bench = cut("angle", ("0.3172,0.6461,0.4219 @ 31.1237",))
    assert release(bench.job, bench, Order(format="stl", place="own", shape="each"))
    monkeypatch.setattr(writing, "soundly_rounded", with_a_needle)
    with pytest.raises(ProofBroken) as told:
        release(bench.job, bench, Order(format="stl", place="own", shape="each"))
    assert {check.code for check in told.value.proof.checks if not check.holds} == {"sound"}
