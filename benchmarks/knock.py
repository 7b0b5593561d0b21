"""Requests of any kind at the door: damaged, cut off, too long, in any script. Nothing may fall over.

What is held: no answer of the 500s but one that says to come again, memory that stays flat, and no file that
comes or goes outside of the data folder.
"""

from __future__ import annotations

import json
import random
import socket
import time
from collections import Counter
from pathlib import Path
from typing import Any
from urllib.parse import quote

import httpx

from aimtrue.settings import OWN_HEADER, settings
from tests.api.conftest import Client
from tests.core.test_release_files import TWO
from tests.house import House, own_folder
from tests.shapes import binary_stl

_SCRIPTS = [
    "part",
    "Дуб",
    "楢の木",
    "شجرة",
    "🪵",
    "a\u0301",
    "x" * 2000,
    "..",
    "../../x",
    "a\x00b",
    "\ud800",
    "%2e%2e",
]
_ODD: list[Any] = [
    None, True, -1, 0, 1e308, 2**70, "", "x" * 5000, [], {}, [[[]]], {"a": {"b": {}}}, "\u0000", "1e999",
    "NaN", "../../etc/passwd", "٣", float("1e-300"),
]  # fmt: skip
_GROWN_MB = 250.0
"""More than this a server may not hold after than before."""


def knock(seconds: float) -> int:
    """Send damaged requests for so long, and print how they were answered."""
    with own_folder() as folder:
        house = House(folder)
        try:
            house.start()
            return _knocked(house, folder, seconds)
        finally:
            house.stop()


def _knocked(house: House, folder: Path, seconds: float) -> int:
    client, chance = Client(house.address), random.Random(27)
    view = client.opened("rest.stl", binary_stl(TWO))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    addresses = _addresses(client, view)
    before, held = _outside(folder), _held(house)
    answers: Counter[int] = Counter()
    wrong: list[str] = []
    ends = time.monotonic() + seconds
    while time.monotonic() < ends:
        kind = chance.choice((_damaged_json, _odd_address, _odd_file, _raw))
        said, status = kind(client, view, addresses, chance)
        answers[status] += 1
        if status >= 500 and status != 503:
            wrong.append(f"{status}: {said[:300]}")
    grown = _held(house) - held
    moved = {path for path in _outside(folder) ^ before}
    for status, count in sorted(answers.items()):
        print(f"{status or 'closed':>8} {count:>8}")
    print(f"the server holds {grown:+.0f} MB more; {len(moved)} files elsewhere came or went")
    for row in [*dict.fromkeys(wrong)][:20]:
        print(row)
    return int(bool(wrong) or grown > _GROWN_MB or bool(moved))


def _addresses(client: Client, view: dict[str, Any]) -> list[tuple[str, str]]:
    """Every address that there is, filled with what is there."""
    described = json.loads((Path(__file__).parents[1] / "web" / "src" / "api" / "openapi.json").read_text())
    filled = {
        "key": view["id"],
        "body": view["job"]["bodies"][0]["id"],
        "source": view["job"]["sources"][0]["id"],
    }
    filled |= {
        "number": "1",
        "plate": "p1",
        "subject": filled["body"],
        "axis": "z",
        "copy_number": "1",
        "task": "1",
    }
    rows = []
    for path, ways in described["paths"].items():
        for name, value in filled.items():
            path = path.replace("{" + name + "}", value)
        rows += [(way.upper(), path) for way in ways if not path.endswith(("/events", "/jobs/" + view["id"]))]
    return rows


def _damaged_json(client: Client, view: Any, addresses: Any, chance: random.Random) -> tuple[str, int]:
    """An action or another request, with something in it that is something else."""
    actions: list[dict[str, Any]] = [
        {"do": "set-factor", "body": view["job"]["bodies"][0]["id"], "typed": "1.2"},
        {"do": "size-axis", "body": view["job"]["bodies"][0]["id"], "axis": "x", "typed": "20"},
        {"do": "rename", "body": view["job"]["bodies"][0]["id"], "name": "a"},
        {"do": "turn-seat", "body": view["job"]["bodies"][0]["id"], "axis": "z", "typed": "90"},
        {"do": "settle-unit", "source": view["job"]["sources"][0]["id"], "unit": "mm"},
    ]
    body: dict[str, Any] = {"on": view["number"], "action": dict(chance.choice(actions))}
    where = chance.choice([body, body["action"]])
    where[chance.choice([*where, chance.choice(_SCRIPTS)])] = chance.choice(_ODD)
    text = json.dumps(body).encode("utf-8", "surrogatepass")
    if chance.random() < 0.2:
        at = chance.randrange(len(text))
        text = text[:at] + bytes([chance.randrange(256)]) + text[at + chance.randrange(3) :]
    way, path = chance.choice([("POST", f"/api/jobs/{view['id']}/actions"), *addresses])
    return _sent(client, way, path, text)


def _odd_address(client: Client, view: Any, addresses: Any, chance: random.Random) -> tuple[str, int]:
    way, path = chance.choice(addresses)
    parts = path.split("/")
    parts[chance.randrange(2, len(parts))] = quote(
        chance.choice(_SCRIPTS).encode("utf-8", "surrogatepass"), safe=""
    )
    return _sent(client, way, "/".join(parts)[:4000], b"{}" if way != "GET" else b"")


def _odd_file(client: Client, view: Any, addresses: Any, chance: random.Random) -> tuple[str, int]:
    name = quote(chance.choice(_SCRIPTS).encode("utf-8", "surrogatepass"), safe="") + chance.choice(
        [".stl", ".zip", ".3mf", ""]
    )
    data = chance.randbytes(chance.randrange(400))
    data = chance.choice([data, binary_stl(TWO)[: chance.randrange(700)], b"PK\x03\x04" + data, b""])
    return _sent(client, "POST", f"/api/jobs?name={name}", data)


def _sent(client: Client, way: str, path: str, body: bytes) -> tuple[str, int]:
    try:
        answer = client.http.request(
            way, f"{str(client.http.base_url).removesuffix('/api/')}{path}", content=body,
            headers={"Content-Type": "application/json"},
        )  # fmt: skip
    except (httpx.HTTPError, httpx.InvalidURL, UnicodeError):
        return f"{way} {path[:120]}", 0
    return f"{way} {path[:120]} {body[:120]!r}: {answer.text[:120]}", answer.status_code


def _raw(client: Client, view: Any, addresses: Any, chance: random.Random) -> tuple[str, int]:
    """Bytes that are hardly HTTP: lengths that lie, chunks that are none, headers without end."""
    way, path = chance.choice(addresses)
    length = chance.choice(["-1", "99999999999999999999", "abc", "5", "0", "", "1e3", "+7"])
    lines = [f"{way} {path} HTTP/1.1", "Host: 127.0.0.1", f"{OWN_HEADER}: 1"]
    lines.append(
        chance.choice(
            [f"Content-Length: {length}", "Transfer-Encoding: chunked", "X: " + "y" * 9000, "Cookie: =;;{}"]
        )
    )
    tail = chance.choice(
        ["", "{}", "5\r\nabc", "zz\r\n\r\n", "fffffffff\r\n", "0\r\n\r\n", chance.randbytes(30).hex()]
    )
    text = ("\r\n".join(lines) + "\r\n\r\n" + tail).encode()
    with socket.create_connection(("127.0.0.1", settings().port), 5) as door:
        door.settimeout(0.5)
        try:
            door.sendall(text)
            first = door.recv(200)
        except OSError:
            return str(lines), 0
    words = first.split(b" ")
    return str(lines), int(words[1]) if len(words) > 1 and words[1].isdigit() else 0


def _held(house: House) -> float:
    """Megabytes that the server holds."""
    pid = house.pid_of("server")
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return next(int(line.split()[1]) / 1000 for line in lines if line.startswith("VmRSS:"))


def _outside(folder: Path) -> set[Path]:
    """Files in reach that are none of ours: beside the data, and where relative names would lead."""
    data = folder / "data"
    near = [path for path in folder.rglob("*") if data not in path.parents and "postgres" not in str(path)]
    return {*near, *Path("/tmp").glob("x*"), *Path("/").glob("x*")}
