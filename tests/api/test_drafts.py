"""What is laid out and not yet made is kept with its job."""

from __future__ import annotations

from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of


def test_drafts_are_kept_replaced_and_gone_with_their_job(client: Client) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    at = f"/jobs/{view['id']}/drafts"
    assert client.http.get(at).json() == {}
    for planes in (["z=10"], ["z=10", "x=4"]):
        client.http.put(f"{at}/division", json={"value": {"s1-1": planes}}).raise_for_status()
    client.http.put(f"{at}/ways", json={"value": {"s1-1": {"drains": [[1, 2, 3]]}}}).raise_for_status()
    assert client.http.get(at).json() == {
        "division": {"s1-1": ["z=10", "x=4"]},
        "ways": {"s1-1": {"drains": [[1, 2, 3]]}},
    }
    # Another page that lays out another body takes nothing away.
    client.http.put(f"{at}/ways", json={"value": {"s1-2": {"drains": []}}}).raise_for_status()
    assert list(client.http.get(at).json()["ways"]) == ["s1-1", "s1-2"]
    client.http.put(f"{at}/ways", json={"value": {"s1-1": None, "s1-2": None}}).raise_for_status()
    assert list(client.http.get(at).json()) == ["division"]
    # They are no step of the job: nothing of it is newer.
    assert client.view(view["id"])["number"] == view["number"]
    client.http.delete(f"/jobs/{view['id']}").raise_for_status()
    assert client.http.get(at).status_code == 404


def test_what_is_laid_out_goes_on_with_a_mended_or_revised_body(client: Client) -> None:
    holed = binary_stl(corners_of(box(20, 30, 50))[2:])
    view = client.opened("part.stl", holed)
    at, body = f"/jobs/{view['id']}/drafts", view["job"]["bodies"][0]["id"]
    for name in ("division", "ways"):
        client.http.put(f"{at}/{name}", json={"value": {body: ["z=10"]}}).raise_for_status()
    client.post(view, "tasks", task={"do": "mend", "bodies": [body], "remedy": "close-holes"})
    view = client.read(view["id"])
    mended = view["job"]["bodies"][0]["id"]
    assert mended != body
    drafts = client.http.get(at).json()
    # The old one stays for when the mending is taken back; picked triangles are of the old mesh alone.
    assert drafts == {"division": {body: ["z=10"], mended: ["z=10"]}, "ways": {body: ["z=10"]}}


def test_bad_drafts_are_refused_and_lose_nothing(client: Client) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    at = f"/jobs/{view['id']}/drafts"
    client.http.put(f"{at}/division", json={"value": {"a": 1}}).raise_for_status()
    assert client.http.put(f"{at}/division", json={"value": {"a": "x" * 300_000}}).status_code == 422
    assert client.http.put(f"{at}/Not%20a%20name", json={"value": {"a": 1}}).status_code == 422
    assert client.http.put(f"{at}/division", json={"value": [1]}).status_code == 422
    for number in range(39):
        client.http.put(f"{at}/more-{number}", json={"value": {"a": 1}}).raise_for_status()
    assert client.http.put(f"{at}/one-too-many", json={"value": {"a": 1}}).status_code == 422
    assert client.http.get(at).json()["division"] == {"a": 1}
    assert client.http.get("/jobs/0123456789ab/drafts").status_code == 404
    assert client.http.put("/jobs/0123456789ab/drafts/division", json={"value": {"a": 1}}).status_code == 404
