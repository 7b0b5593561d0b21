"""The two doors that a walk goes through: the core by itself, and the running server over HTTP."""

from __future__ import annotations

import time
from typing import Any, Protocol

import httpx

from aimtrue.core.actions import UserAction
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.fit.inspection.results import InspectionView, inspection_view
from aimtrue.core.fit.offers import PairOffer, offers
from aimtrue.core.fit.room import survey_of
from aimtrue.core.fit.standing import PairState
from aimtrue.core.model.division import Asked
from aimtrue.core.model.job import Job
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.tasks import Task
from aimtrue.core.truing.actions import ImportReadings
from tests.shapes import Bench, bench_of


class Door(Protocol):
    """What a user can do, whichever way it is done."""

    @property
    def job(self) -> Job:
        """The job as it stands."""

    def do(self, *actions: UserAction) -> None:
        """Do actions, each a step of its own."""

    def revise(self, name: str, data: bytes) -> None:
        """Swap in a new revision of the only file."""

    def work(self, task: Task) -> None:
        """Make bodies anew."""

    def shape(self, asked: Asked, body: str) -> None:
        """Divide a body."""

    def bring_readings(self, body: str, text: str) -> None:
        """Take readings from CSV."""

    def offered(self) -> list[PairOffer]:
        """List what nearly goes together."""

    def pairs(self) -> list[PairState]:
        """Tell how the pairs stand."""

    def inspected(self) -> InspectionView:
        """Tell what was measured on printed parts."""

    def settle_down(self) -> None:
        """Make again, or wait for, whatever is stale. Raises :class:`Refused` where that cannot be."""

    def back(self, steps: int) -> None:
        """Take so many steps back."""

    def forth(self, steps: int) -> None:
        """Do so many steps again."""

    def carry(self) -> None:
        """Take the job elsewhere, as a bundle, and go on there. What can be undone stays behind."""

    def back_to(self, number: int) -> None:
        """Bring back the job as it was released, counted from 0."""

    def let_out(self, order: Order) -> list[bytes]:
        """Release, and return the files. Raises :class:`AimTrueError` where that is refused."""


class CoreDoor:
    """The core alone, in this process."""

    def __init__(self, name: str, data: bytes) -> None:
        self.bench: Bench = bench_of(name, data)
        self.past: list[Job] = []
        self.next: list[Job] = []
        self.released: list[Job] = []

    @property
    def job(self) -> Job:
        """The job as it stands."""
        return self.bench.job

    def do(self, *actions: UserAction) -> None:
        """Do actions, each a step of its own."""
        for action in actions:
            before = self.job
            self.bench.do(action)
            self._kept(before)

    def revise(self, name: str, data: bytes) -> None:
        """Swap in a new revision of the only file."""
        before = self.job
        self.bench.revise(name, data)
        self._kept(before)

    def work(self, task: Task) -> None:
        """Make bodies anew."""
        before = self.job
        self.bench.work(task)
        self._kept(before)

    def shape(self, asked: Asked, body: str) -> None:
        """Divide a body."""
        before = self.job
        self.bench.shape(asked, body)
        self._kept(before)

    def bring_readings(self, body: str, text: str) -> None:
        """Take readings from CSV."""
        self.do(ImportReadings(body=body, text=text))

    def offered(self) -> list[PairOffer]:
        """List what nearly goes together."""
        return list(offers(self.job, self.bench))

    def pairs(self) -> list[PairState]:
        """Tell how the pairs stand."""
        return list(survey_of(self.job, self.bench).pairs)

    def inspected(self) -> InspectionView:
        """Tell what was measured on printed parts."""
        return inspection_view(self.job, self.bench)

    def settle_down(self) -> None:
        """Make again whatever is stale."""
        self.bench.shape_again()

    def back(self, steps: int) -> None:
        """Take so many steps back."""
        for _ in range(steps):
            self.next.append(self.job)
            self.bench.job = self.past.pop()

    def forth(self, steps: int) -> None:
        """Do so many steps again."""
        for _ in range(steps):
            self.past.append(self.job)
            self.bench.job = self.next.pop()

    def carry(self) -> None:
        """Take the job through its text, as the database and a bundle do."""
        self.bench.job = Job.model_validate_json(self.job.model_dump_json())
        self.past.clear()
        self.next.clear()

    def let_out(self, order: Order) -> list[bytes]:
        """Release, and return the files."""
        files = release(self.job, self.bench, order).files
        assert all(file.file.proof.holds for file in files)
        self.released.append(self.job)
        return [file.data for file in files]

    def back_to(self, number: int) -> None:
        """Bring back the job as it was released, counted from 0."""
        before = self.job
        self.bench.job = self.released[number]
        self._kept(before)

    def _kept(self, before: Job) -> None:
        self.past.append(before)
        self.next.clear()


class ServerDoor:
    """A running server, a page's way: every change names the revision that it was decided on."""

    def __init__(self, address: str, name: str, data: bytes) -> None:
        self._http = httpx.Client(base_url=f"{address}/api", timeout=60, headers={"X-Aim-True": "1"})
        self._key = self._sent("post", "/jobs", params={"name": name}, content=data)["id"]
        self._wait()

    @property
    def job(self) -> Job:
        """The job as the page has it."""
        return Job.model_validate(self._view["job"])

    def do(self, *actions: UserAction) -> None:
        """Do actions, each a step of its own."""
        for action in actions:
            self._step("actions", action=action.model_dump(mode="json"))

    def revise(self, name: str, data: bytes) -> None:
        """Swap in a new revision of the only file."""
        source, on = self.job.sources[0].id, self._view["number"]
        where = f"/jobs/{self._key}/sources/{source}/revision"
        self._worked(self._sent("post", where, params={"name": name, "on": on}, content=data))

    def work(self, work: Any) -> None:
        """Make bodies anew."""
        told = {"on": self._view["number"], "task": work.model_dump(mode="json")}
        self._worked(self._sent("post", f"/jobs/{self._key}/tasks", json=told))

    def shape(self, asked: Asked, body: str) -> None:
        """Divide a body."""
        from aimtrue.core.division.tasks import DivideTask

        self.work(DivideTask(bodies=(body,), asked=asked))

    def bring_readings(self, body: str, text: str) -> None:
        """Take readings from CSV."""
        answer = self._step("readings", body=body, text=text)
        assert answer["taken"], answer

    def offered(self) -> list[PairOffer]:
        """List what nearly goes together."""
        told: Any = self._sent("get", f"/jobs/{self._key}/fit/offers")
        return [PairOffer.model_validate(row) for row in told]

    def pairs(self) -> list[PairState]:
        """Tell how the pairs stand."""
        told: Any = self._sent("get", f"/jobs/{self._key}/fit")
        return [PairState.model_validate(row) for row in told["pairs"]]

    def inspected(self) -> InspectionView:
        """Tell what was measured on printed parts."""
        return InspectionView.model_validate(self._sent("get", f"/jobs/{self._key}/inspection"))

    def settle_down(self) -> None:
        """Wait for whatever is stale to be made again."""
        self._wait()
        if any(row["stale"] for row in self._view["survey"]["bodies"]):
            raise Refused("stale", "what was made of it cannot be made again")

    def back(self, steps: int) -> None:
        """Take so many steps back."""
        self._wait()
        for _ in range(steps):
            self._step("undo")

    def forth(self, steps: int) -> None:
        """Do so many steps again."""
        self._wait()
        for _ in range(steps):
            self._step("redo")

    def carry(self) -> None:
        """Take the job elsewhere as a bundle, and go on there."""
        self._wait()
        bundle = self._http.get(f"/jobs/{self._key}/bundle").raise_for_status().content
        self._key = self._sent("post", "/jobs", params={"name": "x_bundle.zip"}, content=bundle)["id"]
        self._see()

    def let_out(self, order: Order) -> list[bytes]:
        """Release, and return the files as they are downloaded."""
        wanted = order.model_dump(mode="json", include={"format", "place", "shape", "unit"})
        on, before = self._view["number"], len(self._view["releases"])
        self._sent("post", f"/jobs/{self._key}/releases", json={"on": on, **wanted})
        self._wait()
        if len(self._view["releases"]) == before:
            raise Refused("failed", self._view["tasks"][0]["says"])
        where = f"/jobs/{self._key}/releases/{before + 1}"
        files = self._http.get(where).raise_for_status().json()["files"]
        assert all(file["proof"]["holds"] for file in files)
        return [
            self._http.get(f"{where}/file", params={"file": number}).raise_for_status().content
            for number in range(len(files))
        ]

    def back_to(self, number: int) -> None:
        """Bring back the job as it was released, counted from 0."""
        self._wait()
        self._step(f"releases/{number + 1}/back")

    def close(self) -> None:
        """End the connection."""
        self._http.close()

    def _step(self, path: str, **fields: Any) -> dict[str, Any]:
        for _ in range(20):
            # What the background put in meanwhile makes what was seen old: a page looks again, and so do we.
            answer = self._http.post(f"/jobs/{self._key}/{path}", json={"on": self._view["number"], **fields})
            if answer.status_code != 409:
                break
            self._wait()
        told = self._told(answer)
        self._see()
        return told

    def _sent(self, how: str, path: str, **fields: Any) -> dict[str, Any]:
        return self._told(self._http.request(how, path, **fields))

    def _told(self, answer: httpx.Response) -> dict[str, Any]:
        if answer.is_error:
            told = answer.json()
            raise (
                AimTrueError(told["code"], told["says"])
                if answer.status_code < 500
                else AssertionError(answer.text)
            )
        found: dict[str, Any] = answer.json() if answer.content else {}
        return found

    def _see(self) -> None:
        self._view = self._sent("get", f"/jobs/{self._key}")["job"]
        if any(row["stale"] for row in self._view["survey"]["bodies"]):
            assert self._remade() != "done", "what is stale is not made again"

    def _remade(self) -> str:
        """Tell how the last task that makes bodies again goes."""
        return next((row["state"] for row in self._view["tasks"] if row["kind"] == "remake"), "done")

    def _worked(self, begun: dict[str, Any]) -> None:
        task = begun["job"]["tasks"][0]["id"]
        self._wait()
        (row,) = (row for row in self._view["tasks"] if row["id"] == task)
        if row["state"] == "failed":
            raise Refused("failed", row["says"])

    def _wait(self) -> None:
        ends = time.monotonic() + 300
        while True:
            self._see()
            if all(row["state"] in ("done", "failed") for row in self._view["tasks"]):
                return
            assert time.monotonic() < ends, self._view["tasks"]
            time.sleep(0.02)
