"""Several files, remedies, fineness and revisions, through the API with a real worker."""

import io
import time
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from aimtrue.core.formats import read_model, stl, threemf
from aimtrue.core.mesh.mesh import merged
from aimtrue.core.model.lengths import Unit
from benchmarks.shapes import wavy_sphere
from demo.parts import built
from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of, eight

BOX = binary_stl(corners_of(box(20, 30, 50)))
HOLED = binary_stl(corners_of(box(20, 30, 50))[2:])
PAIR = threemf.write(
    [threemf.BuildObject("ring", box(20, 30, 5)), threemf.BuildObject("marks", box(4, 4, 2, at=(8, 10, 5)))],
    Unit.MM,
    "",
    "",
)


def work(client: Client, view: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """Ask for work on bodies, and wait for it."""
    answer = client.post(view, "tasks", task=fields)
    assert answer.status_code == 202, answer.text
    return client.read(view["id"])


def codes(view: dict[str, Any]) -> list[str]:
    return [finding["code"] for finding in view["survey"]["findings"]]


def test_a_remedy_reports_and_can_be_undone(client: Client) -> None:
    view = client.opened("part.stl", HOLED)
    (body,) = view["job"]["bodies"]
    assert "open-edges" in codes(view)
    after = work(client, view, do="mend", bodies=[body["id"]], remedy="close-holes")
    (mended,) = after["job"]["bodies"]
    assert mended["health"]["closed"]
    assert mended["mended"][0]["after"]["findings"] == 0
    assert after["undo"] == "close holes"
    assert after["undo_brought"] == [mended["id"]]
    coloured = client.act(after, do="paint", bodies=[mended["id"]], colour="#336699")
    assert coloured["undo_brought"] == []  # an undo here would take back the colour alone
    after = client.post(coloured, "undo").json()["job"]
    back = client.post(after, "undo").json()["job"]
    assert back["job"]["bodies"] == [body]
    again = client.post(back, "redo").json()["job"]
    assert again["job"]["bodies"] == [mended]


def test_work_that_changes_nothing_is_told_and_nothing_changes(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    (body,) = view["job"]["bodies"]
    after = work(client, view, do="mend", bodies=[body["id"]], remedy="close-holes")
    assert after["tasks"][0]["error"]["code"] == "nothing-to-mend"
    assert after["job"] == view["job"]
    assert after["number"] == view["number"]


def test_work_on_a_job_that_moved_on_is_refused(client: Client) -> None:
    view = client.opened("part.stl", HOLED)
    (body,) = view["job"]["bodies"]
    client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm", remember=False)
    assert (
        client.post(view, "tasks", task={"do": "mend", "bodies": [body["id"]], "remedy": "weld"}).status_code
        == 409
    )


def test_bodies_are_joined_separated_and_taken_as_one(client: Client) -> None:
    view = client.opened("dial.3mf", PAIR)
    ids = [body["id"] for body in view["job"]["bodies"]]
    view = work(client, view, do="take-as-one", bodies=ids)
    (one,) = view["job"]["bodies"]
    view = work(client, view, do="separate", body=one["id"])
    assert len(view["job"]["bodies"]) == 2
    view = work(client, view, do="join", bodies=[body["id"] for body in view["job"]["bodies"]])
    assert view["job"]["bodies"][0]["volume"] == pytest.approx(20 * 30 * 5 + 32)


def test_fineness_is_changed_and_the_original_stays(client: Client, demo: Path) -> None:
    data = (demo / "clamp-shells.step").read_bytes()
    view = client.opened("clamp.step", data)
    source = view["job"]["sources"][0]
    before = [body["triangles"] for body in view["job"]["bodies"]]
    view = work(
        client, view, do="refine", source=source["id"], fineness={"chord_mm": 0.1, "angle_deg": 20}, sew=False
    )
    assert [body["name"] for body in view["job"]["bodies"]] == ["shell, front", "shell, back"]
    assert all(now["triangles"] < old for now, old in zip(view["job"]["bodies"], before, strict=True))
    assert client.http.get(f"/jobs/{view['id']}/originals/{source['sha256']}").content == data


def test_a_new_revision_keeps_names_and_both_files(client: Client) -> None:
    view = client.opened("dial.3mf", PAIR)
    source, (ring, _) = view["job"]["sources"][0], view["job"]["bodies"]
    view = client.act(view, do="rename", body=ring["id"], name="brass ring")
    newer = threemf.write([threemf.BuildObject("ring", box(20, 31, 5))], Unit.MM, "", "")
    answer = client.http.post(
        f"/jobs/{view['id']}/sources/{source['id']}/revision",
        params={"name": "b.3mf", "on": view["number"]},
        content=newer,
    )
    assert answer.status_code == 202
    view = client.read(view["id"])
    assert [body["name"] for body in view["job"]["bodies"]] == ["brass ring"]
    assert "revision-lost" in codes(view)
    for sha256, data in ((source["sha256"], PAIR), (view["job"]["sources"][0]["sha256"], newer)):
        assert client.http.get(f"/jobs/{view['id']}/originals/{sha256}").content == data


def test_an_archive_gives_a_source_per_file(client: Client) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr("a.stl", BOX)
        package.writestr("club/b.stl", HOLED)
    view = client.opened("parts.zip", out.getvalue())
    assert [source["name"] for source in view["job"]["sources"]] == ["a.stl", "club/b.stl"]
    inner = view["job"]["sources"][1]
    assert client.http.get(f"/jobs/{view['id']}/originals/{inner['sha256']}").content == HOLED


def test_each_body_its_own_file(client: Client) -> None:
    view = client.opened("dial.3mf", PAIR)
    assert client.post(view, "releases", format="stl", shape="each").status_code == 202
    view = client.read(view["id"])
    files = client.files(view)
    assert [file["name"] for file in files] == ["ring_r1.stl", "marks_r1.stl"]
    assert all(file["proof"]["holds"] for file in files)
    at = f"/jobs/{view['id']}/releases/1/file"
    with zipfile.ZipFile(io.BytesIO(client.http.get(at).content)) as package:
        marks = package.read("marks_r1.stl")
    assert client.http.get(at, params={"file": 1}).content == marks
    assert read_model("a.stl", marks).whole().bounds()[0][2] == 5
    assert client.http.get(at, params={"file": 2}).status_code == 404


def test_a_release_of_some_bodies_does_not_mind_the_others(client: Client) -> None:
    view = client.opened(
        "part.stl",
        binary_stl(
            np.concatenate([corners_of(box(20, 30, 50)), corners_of(box(9, 9, 9, at=(40, 0, 0)))[2:]])
        ),
    )
    view = client.act(
        view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm", remember=False
    )
    sound, holed = view["job"]["bodies"]
    assert client.post(view, "releases", bodies=[holed["id"]]).status_code == 422
    assert client.post(view, "releases", bodies=[sound["id"]]).status_code == 202
    assert client.files(client.read(view["id"]))[0]["bodies"] == [sound["name"]]


def test_a_large_body_is_drawn_reduced_and_whole_on_demand(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    ball = wavy_sphere(3000)
    view = client.opened("ball.stl", stl.write_binary(merged([ball]), "x"))
    (body,) = view["job"]["bodies"]
    full = client.http.get(f"/bench/{body['geometry']}/full")
    assert int.from_bytes(full.content[8:12], "little") == body["triangles"] == ball.triangles
    assert client.http.get(f"/bench/{'0' * 64}/full").status_code == 404
    assert client.http.get("/bench/odd/full").status_code == 404


def test_a_file_that_cannot_be_read_does_not_hurt_the_job(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    assert client.send("broken.step", b"ISO-10303-21;", into=view["id"]).status_code == 201
    after = client.read(view["id"])
    assert after["tasks"][0]["error"]["code"] == "step-cut-off"
    assert after["job"] == view["job"]


def test_a_large_mesh_says_what_was_not_looked_for_and_looks_when_asked(client: Client) -> None:
    tube = eight(around=240, along=240, lift=1.0)
    view = client.opened("coil.stl", binary_stl(corners_of(tube)))
    body = view["job"]["bodies"][0]
    assert "crossings-unknown" in codes(view)
    source = view["job"]["sources"][0]["id"]
    before = client.act(view, do="settle-unit", source=source, unit="mm")
    answer = client.post(before, "tasks", task={"do": "look", "bodies": [body["id"]]})
    assert answer.status_code == 202, answer.text
    meanwhile = client.act(client.view(view["id"]), do="rename", body=body["id"], name="a coil")
    view = client.read(meanwhile["id"])
    assert view["job"]["bodies"][0]["name"] == "a coil"  # what is found does not undo what was done meanwhile
    assert view["undo"] == "rename to a coil"
    assert "crossings-unknown" not in codes(view)
    assert "crossings" in codes(view)
    view = work(client, view, do="mend", bodies=[body["id"]], remedy="resolve-crossings")
    assert "crossings" not in codes(view)
    assert view["job"]["bodies"][0]["health"]["closed"]


def test_a_large_body_can_be_worked_on_before_its_faces_are_listed(client: Client) -> None:
    grid = 400
    steps = np.linspace(0, 40, grid)
    x, y = (one.ravel() for one in np.meshgrid(steps, steps))
    at = np.arange(grid * grid).reshape(grid, grid)
    a, b, c, d = (one.ravel() for one in (at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]))
    sheet = np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)])
    corners = np.stack([x, y, 3 + np.sin(x) * np.sin(y)], 1)[sheet]
    key = client.send("plate.stl", binary_stl(corners)).json()["id"]
    ends = time.monotonic() + 60
    while not (view := client.view(key))["job"]["bodies"] and time.monotonic() < ends:
        time.sleep(0.05)
    (body,) = view["job"]["bodies"]
    assert body["features"] == ""
    view = client.act(view, do="settle-unit", source=body["source"], unit="mm")
    after = client.read(key)
    assert after["job"]["bodies"][0]["features"]
    assert after["undo"] == view["undo"]  # what was found out is no step of the user


def test_a_chord_and_an_angle_typed_one_after_the_other_are_one_fineness(client: Client) -> None:
    view = client.opened("clamp.step", (built() / "clamp-shells.step").read_bytes())
    source = view["job"]["sources"][0]["id"]
    typed = {"do": "refine", "source": source, "fineness": None, "sew": False}
    client.post(view, "tasks", task={**typed, "chord": "0.05", "angle": ""}).raise_for_status()
    client.post(view, "tasks", task={**typed, "chord": "", "angle": "15"}).raise_for_status()
    view = client.read(view["id"])
    assert {one["state"] for one in view["tasks"]} == {"done"}, [one["says"] for one in view["tasks"]]
    assert view["job"]["sources"][0]["fineness"] == {"chord_mm": 0.05, "angle_deg": 15.0}
