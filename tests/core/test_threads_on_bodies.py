"""Threads on bores and bosses of bodies: their volume by formula, proven by a region of the proof's own."""

from __future__ import annotations

import math

import numpy as np
import pytest
from manifold3d import Manifold
from scipy.integrate import quad

from aimtrue.core.division.cutting import threads
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.features.listed import features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import AskThread
from aimtrue.core.model.shaping import ThreadCut
from aimtrue.core.model.threads import named_thread
from aimtrue.core.proof.regions.region import SurfaceRegion
from aimtrue.core.proof.regions.threaded import ThreadedRegion
from aimtrue.core.proof.surface import Surface
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.truing.actions import SetFactor
from tests.core.test_through import drill, plate, taken
from tests.shapes import Bench


def wall_of(mesh: Mesh, diameter: float) -> int:
    """A triangle of the round wall of about a diameter."""
    features = features_of(mesh)
    feature = min(
        (feature for feature in features.listed if not feature.flat),
        key=lambda feature: abs(feature.diameter - diameter),
    )
    return int(np.flatnonzero(features.of_face == feature.id)[0])


def threaded(bench: Bench, diameter: float, **asked: object) -> Bench:
    face = wall_of(bench.mesh(bench.job.bodies[0].geometry), diameter)
    bench.shape(AskThread.model_validate({"picks": (PickedFace(face=face, point=(0, 0, 0)),), **asked}))
    return bench


def radius_at(s: float, d: float, pitch: float, *, internal: bool) -> float:
    """Radius of a thread so far from the middle of a crest, by ISO 68-1, written once more."""
    depth = (5 / 8 if internal else 17 / 24) * math.sqrt(3) / 2 * pitch
    down = (abs((s + pitch / 2) % pitch - pitch / 2) - pitch / 16) * math.sqrt(3)
    return d / 2 - min(max(down, 0.0), depth)


def section(d: float, pitch: float, least: float, *, internal: bool) -> float:
    """Area of a section of a thread beyond a radius, by quadrature over one turn."""
    area, _ = quad(
        lambda s: max(radius_at(s, d, pitch, internal=internal) ** 2 - least**2, 0.0) * math.pi / pitch,
        0, pitch, limit=400, points=[pitch / 16, pitch * 6 / 16, pitch * 10 / 16, pitch * 15 / 16],
    )  # fmt: skip
    return float(area)


@pytest.mark.parametrize(("size", "pitch", "d"), [("M5", 0.8, 5.0), ("M8x1", 1.0, 8.0), ("1/4", 1.27, 6.35)])
def test_a_thread_cut_into_a_bore_takes_what_its_profile_says_and_is_proven(
    size: str, pitch: float, d: float
) -> None:
    drilled = named_thread(size).minor + 0.1
    bench = threaded(taken(plate(8) - drill(drilled, -1, 9)), drilled, size=size)
    made = bench.job.bodies[1]
    before, after = (bench.mesh(body.geometry).volume() for body in bench.job.bodies)
    assert before - after == pytest.approx(8 * section(d, pitch, drilled / 2, internal=True), rel=0.012)
    assert made.name == "plate threaded"
    assert made.health.closed
    released = release(bench.job, bench, Order(format="3mf", place="own", shape="each", pattern="{body}"))
    (file,) = released.files
    assert file.file.proof.holds
    (thread, *_) = [feature for feature in features_of(bench.mesh(made.geometry)).listed if feature.screw]
    assert thread.pitch == pytest.approx(pitch, rel=1e-3)
    assert thread.diameter == pytest.approx(d, abs=2e-3)


@pytest.mark.parametrize("add", [False, True])
@pytest.mark.parametrize("left", [False, True])
def test_a_thread_on_a_boss_is_cut_from_its_diameter_or_added_to_its_root(add: bool, left: bool) -> None:
    size = named_thread("M8")
    wide = size.root if add else 8.0
    boss = Manifold.cylinder(12, wide / 2, wide / 2, 180).translate((0, 0, 8))
    bench = threaded(taken(plate(8) + boss), wide, length="9", add=add, left=left, size="M8")
    before, after = (bench.mesh(body.geometry).volume() for body in bench.job.bodies)
    # The area between the wall and the thread, over nine millimetres.
    inner = section(8.0, 1.25, 0.0, internal=False)
    change = 9 * (inner - math.pi / 4 * wide**2)
    assert after - before == pytest.approx(change, rel=0.02)
    made = release(bench.job, bench, Order(format="stl", place="own", shape="each", pattern="{body}"))
    assert made.files[0].file.proof.holds
    (thread, *_) = [f for f in features_of(bench.mesh(bench.job.bodies[1].geometry)).listed if f.screw]
    assert thread.hand == (-1 if left else 1)


def test_ridges_are_added_to_a_bore_that_is_too_wide_to_be_cut() -> None:
    bench = threaded(taken(plate(8) - drill(6.0, -1, 9)), 6.0, size="M6", add=True)
    before, after = (bench.mesh(body.geometry).volume() for body in bench.job.bodies)
    assert after - before == pytest.approx(
        8 * (math.pi * 9 - section(6.0, 1.0, 0.0, internal=True)), rel=0.02
    )
    made = release(bench.job, bench, Order(format="3mf", place="own", shape="each", pattern="{body}"))
    assert made.files[0].file.proof.holds


def test_clearance_widens_it_and_the_size_is_found_by_the_wall() -> None:
    plain = threaded(taken(plate(8) - drill(4.2, -1, 9)), 4.2)
    wide = threaded(taken(plate(8) - drill(4.2, -1, 9)), 4.2, clearance="0.3")
    sizes = [
        max(f.diameter for f in features_of(b.mesh(b.job.bodies[1].geometry)).listed if f.screw)
        for b in (plain, wide)
    ]
    assert sizes == pytest.approx([5.0, 5.3], abs=3e-3)


def test_a_thread_keeps_its_size_when_its_body_is_scaled() -> None:
    bench = threaded(taken(plate(8) - drill(4.2, -1, 9)), 4.2, size="M5")
    bench.do(SetFactor(body=bench.job.bodies[0].id, typed="1.02"))
    bench.shape_again()
    made = next(body for body in bench.job.bodies if body.division)
    mesh = bench.mesh(made.geometry)
    thread = max(f.diameter for f in features_of(mesh).listed if f.screw) * 1.02
    assert thread == pytest.approx(5.0, abs=3e-3)


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"size": "M12"}, "M12 is cut into a bore of about 10.11 mm; this one has 4.2 mm"),
        ({"size": "M7"}, "no standard here has a thread"),
        ({"length": "20"}, "the wall is 8 mm long"),
        ({"length": "0.5"}, "less than one pitch"),
        ({"clearance": "1"}, "leaves little of a pitch"),
        ({"add": True, "size": "M12"}, "M12 is added to a bore of about 12 mm"),
    ],
)
def test_what_does_not_suit_the_wall_is_refused(asked: dict[str, object], says: str) -> None:
    with pytest.raises(Refused, match=says.split(";")[0]):
        threaded(taken(plate(8) - drill(4.2, -1, 9)), 4.2, **asked)


def test_a_flat_face_is_no_wall() -> None:
    bench = taken(plate(8) - drill(4.2, -1, 9))
    mesh = bench.mesh(bench.job.bodies[0].geometry)
    flat = next(feature for feature in features_of(mesh).listed if feature.flat)
    face = int(np.flatnonzero(features_of(mesh).of_face == flat.id)[0])
    with pytest.raises(Refused, match="no whole bore or boss"):
        bench.shape(AskThread(picks=(PickedFace(face=face, point=(0, 0, 0)),)))


def cut(**changes: object) -> ThreadCut:
    usual = {"point": (0, 0, 0), "way": (0, 0, 1), "start": (1, 0, 0), "low": 0, "high": 8, "wall": 4.2,
             "diameter": 5, "pitch": 0.8, "internal": True}  # fmt: skip
    return ThreadCut.model_validate({**usual, **changes})


@pytest.mark.parametrize(
    "wrong",
    [{"pitch": 0.85}, {"diameter": 5.3}, {"left": True}, {"high": 7.0}, {"play": 0.4}, {"point": (0.3, 0, 0)},
     {"start": (0, 1, 0)}],
)  # fmt: skip
def test_the_proof_would_notice_another_thread(wrong: dict[str, object]) -> None:
    solid = plate(8) - drill(4.2, -1, 9)
    region = ThreadedRegion(SurfaceRegion(Surface(*parts(mesh_of(solid)))), cut())
    good, other = (mesh_of(threads.threaded(solid, shaping)) for shaping in (cut(), cut(**wrong)))
    assert off(region, good) < 1e-6
    assert off(region, other) > 0.02


def parts(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    return mesh.vertices, np.asarray(mesh.faces, np.int64)


def off(region: ThreadedRegion, mesh: Mesh) -> float:
    """How far corners and middles of a surface are from where the region may end."""
    places = np.concatenate([mesh.vertices, mesh.vertices[mesh.faces].mean(axis=1)])
    return float(np.maximum(region.ends(places) - region.loose(places), 0.0).max())
