"""Planes as they are typed, taken apart, and changed by hand: the text says what was done."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.division.cutting.planes import typed_plane
from aimtrue.core.division.cutting.typed_planes import (
    AddMiddlePlane,
    AddPlane,
    DragPlane,
    LimitPlane,
    PlacePlane,
    PlaneEdit,
    RemovePlane,
    TiltPlane,
    edited,
    typed_planes,
)
from aimtrue.core.errors import Refused

BOUNDS = np.array([[0.0, 0, 0], [40, 30, 20]])


def changed(text: str, edit: PlaneEdit) -> str:
    return edited([text], edit, BOUNDS)[0]


def test_a_plane_is_shown_in_the_parts_that_were_typed() -> None:
    _, plane = typed_planes(["x=1", "Z=12 from low tilted 15° about y and -3 about x where above A"])
    assert (plane.letter, plane.axis, plane.place) == ("B", "z", "12 from low")
    assert (plane.tilts, plane.where, plane.says) == (
        {"y": "15", "x": "-3"},
        "above A",
        "tilted Z, in part",
    )
    way, square = typed_planes(["0,0.5,1 @ 40", "y=3"])
    assert (way.axis, way.place, way.says) == (None, "0,0.5,1 @ 40", "tilted")
    assert (square.says, square.tilts) == ("across Y", {})


@pytest.mark.parametrize(
    ("before", "edit", "after"),
    [
        ("z=3", PlacePlane(number=0, text="5 mm"), "z=5 mm"),
        ("z=3 tilted 5 about x", PlacePlane(number=0, text="x=2"), "x=2 tilted 5 about x"),
        ("z=3 tilted 5 about x", PlacePlane(number=0, text="7 tilted 9 about y"), "z=7 tilted 9 about y"),
        ("0,3,4 @ 2", PlacePlane(number=0, text="0,0,1 @ 4"), "0,0,1 @ 4"),
        ("z=3", TiltPlane(number=0, axis="x", degrees="12°"), "z=3 tilted 12 about x"),
        (
            "z=3 tilted 2 about y and 4 about x",
            TiltPlane(number=0, axis="y", degrees="6"),
            "z=3 tilted 6 about y and 4 about x",
        ),
        ("z=3 tilted 2 about y", TiltPlane(number=0, axis="y", degrees="0"), "z=3"),
        ("z=3", LimitPlane(number=0, where="above A"), "z=3 where above A"),
        ("z=3 where above A", LimitPlane(number=0, where=""), "z=3"),
        ("z=3", DragPlane(number=0, by_mm=2.5), "z=5.5"),
        ("z=10 tilted 30 about x", DragPlane(number=0, by_mm=np.sqrt(0.75)), "z=11 tilted 30 about x"),
        ("0,0.6,0.8 @ 20", DragPlane(number=0, by_mm=-1), "0,0.6,0.8 @ 19"),
        ("z=4 from high", DragPlane(number=0, by_mm=1), "z=17"),
    ],
)
def test_what_is_changed_by_hand_is_typed(before: str, edit: PlaneEdit, after: str) -> None:
    assert changed(before, edit) == after


def test_planes_are_added_and_one_that_goes_limits_nothing_any_more() -> None:
    assert edited(["z=1"], AddMiddlePlane(axis="y"), BOUNDS) == ("z=1", "y=15")
    assert edited([], AddPlane(text=" x=3 "), BOUNDS) == ("x=3",)
    planes = ["z=1", "z=2", "x=3 where above A, below B", "y=1 where above B and below C"]
    assert edited(planes, RemovePlane(number=1), BOUNDS) == ("z=1", "x=3 where above A", "y=1 where below B")


@pytest.mark.parametrize(
    "edit",
    [
        AddPlane(text="wide"),
        PlacePlane(number=0, text=" "),
        PlacePlane(number=0, text="far"),
        PlacePlane(number=1, text="3"),
        TiltPlane(number=0, axis="x", degrees="much"),
        TiltPlane(number=0, axis="x", degrees="400"),
        LimitPlane(number=0, where="beside A"),
        RemovePlane(number=-1),
        DragPlane(number=1, by_mm=1),
    ],
)
def test_what_makes_no_plane_is_refused_and_changes_nothing(edit: PlaneEdit) -> None:
    with pytest.raises(Refused):
        changed("z=3", edit)


@given(
    place=st.sampled_from(["z=3", "y=1in from high", "x=12 from low", "1,2,-3 @ 4", "0,0.5,1 @ 8 mm"]),
    turns=st.lists(st.tuples(st.integers(-40, 40), st.sampled_from("xyz")), max_size=3),
    by=st.floats(-50, 50),
)
def test_a_dragged_plane_keeps_its_direction_and_is_where_it_was_left(
    place: str, turns: list[tuple[int, str]], by: float
) -> None:
    tilted = " and ".join(f"{degrees} about {axis}" for degrees, axis in turns)
    text = f"{place} tilted {tilted}" if turns else place
    before, after = (
        typed_plane(text, BOUNDS),
        typed_plane(changed(text, DragPlane(number=0, by_mm=by)), BOUNDS),
    )
    np.testing.assert_allclose(after.normal, before.normal, atol=1e-12)
    assert after.at == pytest.approx(before.at + by, abs=0.00501)


def test_a_plane_that_is_tilted_by_a_quarter_does_not_move_with_what_is_typed() -> None:
    with pytest.raises(Refused, match="wherever it is put"):
        changed("z=3 tilted 90 about x", DragPlane(number=0, by_mm=1))
