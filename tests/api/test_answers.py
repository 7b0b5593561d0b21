"""What travels: only what changed, packed, and the same for a page that goes by changes as for one that
asks anew.
"""

from __future__ import annotations

import json
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from aimtrue.api.changes import changes
from aimtrue.settings import ROOT
from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of

BOX = binary_stl(corners_of(box(2, 3, 5)))
CASES = ROOT / "web" / "src" / "api" / "changes.cases.json"
_PAIRS: list[tuple[str, Any, Any]] = [
    ("a number", {"a": 1, "b": 2}, {"a": 1, "b": 3}),
    ("a word that comes and one that goes", {"a": 1, "b": "x"}, {"a": 1, "c": "y"}),
    ("nothing at all", {"a": [1, 2]}, {"a": [1, 2]}),
    ("a list of numbers", {"a": [1, 2]}, {"a": [1, 2, 3]}),
    ("one body of several", [{"id": "a", "x": 1}, {"id": "b", "x": 2}],
     [{"id": "a", "x": 1}, {"id": "b", "x": 5}]),
    ("a body that comes", [{"id": "a", "x": 1}], [{"id": "b", "x": 2}, {"id": "a", "x": 1}]),
    ("a body that goes", [{"id": "a"}, {"id": "b"}], [{"id": "b"}]),
    ("bodies in another order", [{"id": "a"}, {"id": "b"}], [{"id": "b"}, {"id": "a"}]),
    ("all that go", {"bodies": [{"id": "a"}]}, {"bodies": []}),
    ("rows by place", {"chain": [{"axis": "x", "mm": 1}, {"axis": "y", "mm": 2}]},
     {"chain": [{"axis": "x", "mm": 1}, {"axis": "y", "mm": 3}]}),
    ("a row more", [{"axis": "x"}], [{"axis": "x"}, {"axis": "y"}]),
    ("what was nothing", {"a": None}, {"a": {"b": 1}}),
    ("what becomes nothing", {"a": {"b": 1}}, {"a": None}),
]  # fmt: skip


def applied(old: Any, change: dict[str, Any] | None) -> Any:
    """The plainest reading of what a change means; the pages have their own."""
    if change is None:
        return old
    if "is" in change:
        return change["is"]
    if isinstance(old, dict):
        made = {key: value for key, value in old.items() if key not in change.get("gone", ())}
        return made | {key: applied(made.get(key), one) for key, one in change["set"].items()}
    if "at" in change:
        return [applied(one, change["at"].get(str(i))) for i, one in enumerate(old)]
    before = {one["id"]: one for one in old}
    return [applied(before.get(key), change["set"].get(key)) for key in change.get("ids", before)]


def test_the_cases_that_the_pages_are_held_to_are_the_servers() -> None:
    made = [
        {"says": says, "old": old, "new": new, "change": changes(old, new) or {"set": {}}}
        for says, old, new in _PAIRS
    ]
    assert json.loads(CASES.read_text()) == made


_JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-3, 3) | st.sampled_from("abc"),
    lambda inner: (
        st.lists(inner, max_size=3)
        | st.dictionaries(st.sampled_from("abc"), inner, max_size=3)
        | st.lists(
            st.fixed_dictionaries({"id": st.sampled_from("pqr"), "x": inner}),
            max_size=3,
            unique_by=lambda one: one["id"],
        )
    ),
    max_leaves=12,
)


@given(_JSON, _JSON)
def test_changes_make_the_one_of_the_other(old: Any, new: Any) -> None:
    assert applied(old, changes(old, new)) == new


def test_a_page_is_sent_what_changed_since_the_answer_that_it_holds(client: Client) -> None:
    key = client.opened("box.stl", BOX)["id"]
    first = client.http.get(f"/jobs/{key}").json()
    body = first["job"]["job"]["bodies"][0]["id"]
    asked = {"on": first["job"]["number"], "action": {"do": "rename", "body": body, "name": "lid"}}
    answer = client.http.post(f"/jobs/{key}/actions", json=asked, headers={"Seen": first["name"]})
    told = answer.json()
    assert (told["job"], told["since"]) == (None, first["name"])
    assert applied(first["job"], told["changes"]) == client.view(key)
    assert len(answer.content) < 0.5 * len(client.http.get(f"/jobs/{key}").content)


def test_who_holds_an_answer_that_is_known_no_more_is_sent_all(client: Client) -> None:
    key = client.opened("box.stl", BOX)["id"]
    other = client.http.get(f"/jobs/{client.opened('other.stl', BOX)['id']}").json()["name"]
    for seen in ("long ago", other):
        told = client.http.get(f"/jobs/{key}", headers={"Seen": seen}).json()
        assert told["changes"] is None
        assert told["job"]["id"] == key


def test_answers_are_packed(client: Client) -> None:
    key = client.opened("box.stl", BOX)["id"]
    assert client.http.get(f"/jobs/{key}").headers["content-encoding"] == "gzip"
