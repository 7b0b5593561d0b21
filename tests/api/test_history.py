"""Undo and redo against a plain list, on a real database, wherever a user wanders."""

from __future__ import annotations

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from aimtrue.core.intake.actions import LookOver
from aimtrue.core.model.history import RevisionNote, done
from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of

STEP = st.one_of(
    st.just("undo"),
    st.just("redo"),
    st.sampled_from(["mm", "cm", "in"]).map(lambda unit: f"unit {unit}"),
    st.sampled_from(["30", "6 3/4 in", "150 %", "wide", "-2"]).map(lambda typed: f"size {typed}"),
)


class Model:
    """What history should be: states, and where one stands among them."""

    def __init__(self, state: object) -> None:
        self.states = [state]
        self.at = 0

    def do(self, state: object) -> None:
        self.states = [*self.states[: self.at + 1], state]
        self.at += 1

    def move(self, by: int) -> bool:
        if not 0 <= self.at + by < len(self.states):
            return False
        self.at += by
        return True


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=st.lists(STEP, min_size=3, max_size=14))
def test_history_is_what_a_list_says_it_is(client: Client, steps: list[str]) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(2, 3, 5))))
    source, body = view["job"]["sources"][0]["id"], view["job"]["bodies"][0]["id"]
    model = Model(view["job"])
    for step in steps:
        if step in ("undo", "redo"):
            answer = client.post(view, step)
            moved = model.move(-1 if step == "undo" else 1)
            assert (answer.status_code == 200) == moved
        else:
            what, _, typed = step.partition(" ")
            action = (
                {"do": "settle-unit", "source": source, "unit": typed}
                if what == "unit"
                else {"do": "size-axis", "body": body, "axis": "x", "typed": typed}
            )
            answer = client.post(view, "actions", action=action)
            if answer.status_code == 200:
                model.do(answer.json()["job"]["job"])
        before = view["number"]
        view = client.view(view["id"])
        assert view["job"] == model.states[model.at]
        assert view["number"] >= before
        assert (view["undo"] is not None) == (model.at > 0)
        assert (view["redo"] is not None) == (model.at < len(model.states) - 1)


def test_what_the_system_finds_out_after_an_undo_leaves_the_redo() -> None:
    undone_once = RevisionNote(5, "size", undo_to=2, redo_to=4)
    after = done(undone_once, LookOver(), by_user=False)
    assert (after.undo_to, after.redo_to) == (2, 4)
    all_undone = RevisionNote(5, "", undo_to=None, redo_to=4)
    assert done(all_undone, LookOver(), by_user=False).redo_to == 4
    assert done(undone_once, LookOver(), by_user=True).redo_to is None


def test_pieces_made_again_after_an_undo_leave_the_redo(client: Client) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    body = view["job"]["bodies"][0]["id"]
    work = {"do": "shape", "bodies": [body], "asked": {"by": "planes", "planes": ["z=10"]}}
    assert client.post(view, "tasks", task=work).status_code == 202
    view = client.read(view["id"])
    for typed in ("1.1", "1.2"):  # the second comes before the pieces of the first are made again
        view = client.act(client.view(view["id"]), do="set-factor", body=body, typed=typed)
    for step in ("undo", "redo"):
        view = client.read(view["id"])
        answer = client.post(view, step)
        assert answer.status_code == 200, answer.text
    view = client.read(view["id"])
    assert view["survey"]["bodies"][0]["chain"]["factor"] == [1.2] * 3
    assert not any(row["stale"] for row in view["survey"]["bodies"])


def test_undo_and_redo_know_the_sheet_that_they_are_on(client: Client) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    assert (view["undo_on"], view["redo_on"]) == ("intake", "")
    body = view["job"]["bodies"][0]["id"]
    view = client.act(view, do="size-axis", body=body, axis="x", typed="21")
    assert view["undo_on"] == "truing"
    view = client.act(view, do="turn-seat", body=body, axis="x", typed="90")
    assert view["undo_on"] == "seating"
    for on in (("truing", "seating"), ("intake", "truing"), ("", "intake")):
        view = client.post(view, "undo").json()["job"]
        assert (view["undo_on"], view["redo_on"]) == on
    assert client.post(view, "redo").json()["job"]["undo_on"] == "intake"
