"""How long a user waits for the answer to an action, by the number of bodies.

Everything is measured where it is felt: over HTTP, on an application started for the purpose. The bodies are
plates with bores, 20 features and more each, all of one file and so one kit, at a factor that is not 1.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import httpx
import manifold3d
import numpy as np

from aimtrue.cli.trial import OURS, trial
from aimtrue.core.formats import threemf
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.lengths import Unit

COUNTS = (1, 20, 150, 1000)
_RUNS = 5
_BORES = 15
_LONGEST_WAIT = 900.0


def actions(counts: tuple[int, ...] = COUNTS) -> int:
    """Print a table: milliseconds and kilobytes of an answer, by the number of bodies."""
    paces = []
    with (
        trial(empty=True) as now,
        httpx.Client(base_url=now.address, timeout=_LONGEST_WAIT, headers=OURS) as client,
    ):
        rows = []
        for count in counts:
            before = _pace()
            rows.append(_measured(client, count))
            paces.append((before, _pace()))
    print(f"{'median of ' + str(_RUNS):<26}" + "".join(f"{count:>20} bodies" for count in counts))
    # How fast this machine was meanwhile: one that is shared is not always as fast.
    cells = (f"{before:>13.0f} and {after:>3.0f} ms    " for before, after in paces)
    print(f"{'a million additions':<26}" + "  ".join(cells))
    for name in rows[0]:
        cells = (f"{row[name][0]:>12.0f} ms {row[name][1]:>7.1f} kB" for row in rows)
        print(f"{name:<26}" + "   ".join(cells))
    return 0


def _pace() -> float:
    """Milliseconds for a million additions: machines that are shared are not always as fast."""
    started, total = time.perf_counter(), 0
    for number in range(1_000_000):
        total += number
    return 1000 * (time.perf_counter() - started)


def bored_plate(width: float, deep: float, bores: int = _BORES) -> Mesh:
    """A plate with a row of bores through it: six flat faces, and a round one for each bore."""
    plate = manifold3d.Manifold.cube((width, deep, 4.0))
    drill = manifold3d.Manifold.cylinder(6.0, 1.6, 1.6, 24)
    for number in range(bores):
        plate -= drill.translate((width * (number + 0.5) / bores, deep / 2, -1.0))
    made = plate.to_mesh64()
    return Mesh(np.asarray(made.vert_properties[:, :3]), np.asarray(made.tri_verts, dtype=np.int32))


def plates(count: int) -> bytes:
    """A 3MF of so many plates side by side with a small gap, each a little longer than the one before."""
    side = max(1, int(count**0.5))
    items = []
    for number in range(count):
        mesh = bored_plate(80 + 0.01 * number, 9.0)
        at = np.array([(number % side) * 80.0 + (number % side) * 20.0, (number // side) * 9.4, 0.0])
        items.append(threemf.BuildObject(f"plate {number + 1}", Mesh(mesh.vertices + at, mesh.faces)))
    return threemf.write(items, Unit.MM, "plates", "")


def _measured(client: httpx.Client, count: int) -> dict[str, tuple[float, float]]:
    answer = client.post("/api/jobs", params={"name": f"plates {count}.3mf"}, content=plates(count))
    answer.raise_for_status()
    job = answer.json()["id"]
    view = _read(client, job)
    one = view["job"]["bodies"][0]["id"]
    act = f"/api/jobs/{job}/actions"
    number, seen = view["number"], ""

    def do(path: str, **more: Any) -> httpx.Response:
        # As a page does: it names the answer that it holds, and is sent what changed.
        nonlocal number, seen
        answer = client.post(path, json={"on": number, **more}, headers={"Seen": seen})
        seen = answer.raise_for_status().json()["name"]
        number += 1
        return answer

    do(act, action={"do": "set-factor", "body": one, "typed": "1.02"})
    factors = iter(1.03 + 0.01 * run for run in range(100))
    work: dict[str, Callable[[], httpx.Response]] = {
        "a factor for the kit": lambda: do(
            act, action={"do": "set-factor", "body": one, "typed": f"{next(factors):.2f}"}
        ),
        "a name": lambda: do(act, action={"do": "rename", "body": one, "name": f"lid {next(factors):.2f}"}),
        "a turn of the seat": lambda: do(
            act, action={"do": "turn-seat", "body": one, "axis": "z", "typed": "90"}
        ),
        "undo": lambda: do(f"/api/jobs/{job}/undo"),
        "redo": lambda: do(f"/api/jobs/{job}/redo"),
        "a page that opens": lambda: client.get(f"/api/jobs/{job}"),
        "the list of jobs": lambda: client.get("/api/jobs"),
    }

    found = {name: _timed(call) for name, call in work.items()}
    return {
        **found,
        **{f"a release, {shape}": _released(client, job, shape) for shape in ("together", "each")},
    }


def _released(client: httpx.Client, job: str, shape: str) -> tuple[float, float]:
    """Milliseconds from asking for a release until it stands, and the kilobytes of its files; once."""
    started = time.perf_counter()
    order = {"on": client.get(f"/api/jobs/{job}").json()["job"]["number"], "format": "3mf", "shape": shape}
    client.post(f"/api/jobs/{job}/releases", json=order).raise_for_status()
    view = _read(client, job)
    took = time.perf_counter() - started
    files = client.get(f"/api/jobs/{job}/releases/{view['releases'][0]['number']}").json()["files"]
    return 1000 * took, sum(file["bytes"] for file in files) / 1000


def _read(client: httpx.Client, job: str) -> dict[str, Any]:
    ends = time.monotonic() + _LONGEST_WAIT
    while time.monotonic() < ends:
        view: dict[str, Any] = client.get(f"/api/jobs/{job}").json()["job"]
        if view["job"]["bodies"] and all(one["state"] == "done" for one in view["tasks"]):
            return view
        time.sleep(0.1)
    raise TimeoutError("the file was not read")


def _timed(call: Callable[[], httpx.Response]) -> tuple[float, float]:
    """Milliseconds and kilobytes on the wire of an answer, the median of a few."""
    took, travelled = [], []
    for _ in range(_RUNS):
        started = time.perf_counter()
        answer = call()
        took.append(time.perf_counter() - started)
        travelled.append(answer.num_bytes_downloaded / 1000)
    return 1000 * statistics.median(took), statistics.median(travelled)
