"""Bridges and beginnings in mid-air, against shapes whose answers are known."""

import manifold3d
import pytest

from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.seating.layer_analysis.midair import mid_air
from tests.core.test_standing import arch, tube
from tests.shapes import box

Solid = manifold3d.Manifold


def test_an_arch_is_a_bridge() -> None:
    found = mid_air(arch())
    assert (found.bridges, found.bridges_mm2, found.widest_mm, found.starts) == (
        1,
        pytest.approx(600),
        pytest.approx(20),
        (),
    )


def test_a_ledge_is_none() -> None:
    ledge = Solid.cube((20, 20, 30)) + Solid.cube((50, 20, 10)).translate((0, 0, 20))
    found = mid_air(mesh_of(ledge))
    assert (found.bridges, found.starts) == (0, ())


def test_what_hangs_down_begins_in_mid_air() -> None:
    """A tooth under a roof: it begins at its lower face, long before the roof is reached."""
    gate = Solid.cube((40, 30, 40)) - Solid.cube((30, 40, 30)).translate((5, -5, 0))
    tooth = Solid.cube((6, 6, 10)).translate((17, 12, 22))
    found = mid_air(mesh_of(gate + tooth))
    assert found.starts == (pytest.approx((20, 15, 22)),)
    tip = Solid.cylinder(10, 0.001, 4, 24).translate((20, 15, 22))
    assert mid_air(mesh_of(gate + tip)).starts[0][2] == pytest.approx(22)


def test_plain_bodies_and_dents_have_neither() -> None:
    for mesh in (
        box(10, 10, 10),
        tube(),
        mesh_of(Solid.cube((20, 20, 20)) - Solid.sphere(6, 32).translate((10, 10, 20))),
    ):
        found = mid_air(mesh)
        assert (found.bridges, found.starts) == (0, ())
