"""A client of the running server, and the few calls every test makes."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

import httpx
import pytest

from aimtrue.settings import OWN_HEADER
from tests.house import House


class Client:
    """Calls the API as the interface does."""

    def __init__(self, address: str) -> None:
        self.http = httpx.Client(base_url=f"{address}/api", timeout=30, headers={OWN_HEADER: "1"})

    def send(self, name: str, data: bytes, into: str | None = None) -> httpx.Response:
        path = f"/jobs/{into}/sources" if into else "/jobs"
        return self.http.post(path, params={"name": name}, content=data)

    def opened(self, name: str, data: bytes) -> dict[str, Any]:
        """Send a file and wait until it is read."""
        answer = self.send(name, data)
        assert answer.status_code == 201, answer.text
        return self.read(answer.json()["id"])

    def read(self, key: str, seconds: float = 60) -> dict[str, Any]:
        """Wait until no task of a job is under way, and return the job."""
        ends = time.monotonic() + seconds
        while time.monotonic() < ends:
            view = self.view(key)
            if view["tasks"] and all(one["state"] in ("done", "failed") for one in view["tasks"]):
                return view
            time.sleep(0.05)
        raise TimeoutError(f"job {key} is not read: {view['tasks']}")

    def view(self, key: str) -> dict[str, Any]:
        return self.http.get(f"/jobs/{key}").raise_for_status().json()["job"]  # type: ignore[no-any-return]

    def files(self, view: dict[str, Any], number: int = 1) -> list[dict[str, Any]]:
        """Return the files of a release with their proofs, as they are fetched when they are looked at."""
        answer = self.http.get(f"/jobs/{view['id']}/releases/{number}").raise_for_status()
        return answer.json()["files"]  # type: ignore[no-any-return]

    def post(self, view: dict[str, Any], path: str, **fields: Any) -> httpx.Response:
        return self.http.post(f"/jobs/{view['id']}/{path}", json={"on": view["number"], **fields})

    def act(self, view: dict[str, Any], **action: Any) -> dict[str, Any]:
        """Do an action that must be taken, and return the job after it."""
        answer = self.post(view, "actions", action=action)
        assert answer.status_code == 200, answer.text
        return answer.json()["job"]  # type: ignore[no-any-return]


@pytest.fixture
def client(house: House) -> Iterator[Client]:
    client = Client(house.address)
    yield client
    client.http.close()
