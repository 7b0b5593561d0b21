"""Workers of one database that share no disk."""

import asyncio
import logging
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator

import psycopg
import pytest
from procrastinate.jobs import Job, Status
from sqlalchemy import select, text
from sqlalchemy.exc import OperationalError

from aimtrue.core.errors import Refused
from aimtrue.core.intake.tasks import ListFacesTask
from aimtrue.settings import ROOT, settings
from aimtrue.store import job_tasks
from aimtrue.store.database import sessions
from aimtrue.store.tables import TaskRow
from aimtrue.work import tasks
from aimtrue.work.queue import PLACES, TaskPutOff, ask_list
from aimtrue.work.worker import rescue
from tests.api.conftest import Client
from tests.core.test_release_files import TWO
from tests.house import House
from tests.shapes import binary_stl


@pytest.fixture
def elsewhere(house: House) -> Iterator[str]:
    """The worker of the house is away, and another with a data folder of its own takes its place."""
    house.end("worker")
    with tempfile.TemporaryDirectory() as folder:
        environment = {**os.environ, "AIMTRUE_DATA": folder, "PYTHONPATH": str(ROOT / "src")}
        worker = subprocess.Popen(
            [sys.executable, "-m", "aimtrue.cli.serve", "worker"], cwd=ROOT, env=environment
        )
        yield folder
        worker.terminate()
        worker.wait(timeout=20)
    house.run("worker")


def test_a_worker_elsewhere_reads_releases_and_hands_over_through_the_database_alone(
    client: Client, elsewhere: str
) -> None:
    view = client.opened("rest.stl", binary_stl(TWO))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    client.post(view, "releases", format="3mf")
    view = client.read(view["id"])
    assert len(view["releases"]) == 1
    assert client.http.get(f"/jobs/{view['id']}/releases/1/file").content[:2] == b"PK"
    assert any(os.scandir(f"{elsewhere}/cache"))


def test_a_worker_outlives_the_cut_of_the_connection_it_asks_for_tasks_with(
    client: Client, house: House
) -> None:
    """The table of tasks is held until every queue of the worker waits for it; then those connections end."""
    client.opened("before.stl", binary_stl(TWO))  # the worker is at work
    waiting = (
        "select count(pg_terminate_backend(pid)) from pg_stat_activity where datname = current_database()"
        " and wait_event_type = 'Lock' and query ilike '%procrastinate_fetch_job%'"
    )
    with psycopg.connect(settings().database) as holder, psycopg.connect(settings().database) as own:
        own.autocommit = True
        holder.execute("lock table procrastinate_jobs in access exclusive mode")
        cut = 0
        ends = time.monotonic() + 60
        while cut < len(PLACES) and time.monotonic() < ends:
            cut += own.execute(waiting).fetchone()[0]  # type: ignore[index]
            time.sleep(0.05)
    assert cut >= len(PLACES)
    view = client.opened("rest.stl", binary_stl(TWO))
    assert view["job"]["bodies"]
    assert not house.has_ended("worker")


def test_two_workers_share_what_there_is_and_nothing_is_done_twice(
    client: Client, house: House, elsewhere: str
) -> None:
    house.run("worker")
    keys = [client.send(f"part {n}.stl", binary_stl(TWO * (1 + n / 10))).json()["id"] for n in range(12)]
    views = [client.read(key) for key in keys]
    assert [len(view["job"]["bodies"]) for view in views] == [2] * 12
    assert [len(view["tasks"]) for view in views] == [1] * 12
    house.end("worker")
    time.sleep(0.1)


def test_what_nobody_waits_for_takes_no_ones_place(client: Client) -> None:
    view = client.opened("rest.stl", binary_stl(TWO))
    bodies = tuple(body["id"] for body in view["job"]["bodies"])
    with sessions().begin() as session:
        listing = [
            ask_list(session, view["id"], view["number"], ListFacesTask(bodies=bodies), 1) for _ in range(3)
        ]
    with sessions().begin() as session:  # none of them goes on before this ends
        session.execute(select(TaskRow).where(TaskRow.id.in_(listing)).with_for_update())
        until(lambda: begun(listing) > 0)
        assert client.opened("other.stl", binary_stl(TWO * 2))["job"]["bodies"]
        assert begun(listing) == 1
    until(lambda: begun(listing) == 0 and all(state == "done" for state in states(listing)))


def begun(tasks: list[int]) -> int:
    """How many tasks are under way as the queue has it."""
    asked = text(
        "select count(*) from procrastinate_jobs queued"
        " where status = 'doing' and (queued.args->>'task')::int = any(:tasks)"
    )
    with sessions()() as session:
        return int(session.scalar(asked, {"tasks": tasks}) or 0)


def states(tasks: list[int]) -> list[str]:
    with sessions()() as session:
        return list(session.scalars(select(TaskRow.state).where(TaskRow.id.in_(tasks))))


def until(true: Callable[[], bool], seconds: float = 40) -> None:
    ends = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < ends
        time.sleep(0.1)


def test_a_task_that_is_put_off_is_told_of_in_one_line(
    client: Client, caplog: pytest.LogCaptureFixture
) -> None:
    view = client.opened("rest.stl", binary_stl(TWO))
    with sessions().begin() as session:
        task = job_tasks.add_task(session, view["id"], "list", {}).id

    def away(row: TaskRow) -> None:
        raise OperationalError("select", {}, Exception("connection refused"))

    queues = logging.getLogger("procrastinate.worker")
    with pytest.raises(TaskPutOff) as ended:
        tasks._run(task, away)
    queues.error("task %s failed", task, exc_info=ended.value)
    queues.error("task 0 failed", exc_info=ValueError())
    assert [record.getMessage() for record in caplog.records if "task" in record.getMessage()] == [
        f"task {task} is put off: the database was away",
        "task 0 failed",
    ]
    client.http.delete(f"/jobs/{view['id']}").raise_for_status()


def _task(client: Client) -> tuple[str, int]:
    """A job with a task that is under way, of which no worker knows."""
    key = client.opened("rest.stl", binary_stl(TWO))["id"]
    with sessions().begin() as session:
        row = job_tasks.add_task(session, key, "remake", {"revision": 1, "task": {}})
        job_tasks.set_task(session, row.id, state="doing")
        return key, row.id


def test_a_task_that_was_done_already_is_not_said_to_have_failed(client: Client) -> None:
    _, task = _task(client)

    def done_by_another(row: TaskRow) -> None:
        with sessions().begin() as session:
            job_tasks.set_task(session, row.id, state="done", share=1.0, says="done by another")
        raise Refused("late", "it is not as it was any more")

    tasks._run(task, done_by_another)
    with sessions()() as session:
        row = session.get_one(TaskRow, task)
        assert (row.state, row.says, row.error) == ("done", "done by another", None)


def test_a_task_that_ends_every_worker_is_given_up(client: Client) -> None:
    _, task = _task(client)
    told: list[str] = []

    class Manager:
        async def retry_job(self, job: Job) -> None:
            told.append("again")

        async def finish_job(self, job: Job, status: Status, *, delete_job: bool) -> None:
            told.append(status.value)

    for attempts in range(5):
        job = Job(
            id=1, queue="default", lock=None, queueing_lock=None, task_name="remake",
            task_kwargs={"task": task}, attempts=attempts,
        )  # fmt: skip
        asyncio.run(rescue(Manager(), job))  # type: ignore[arg-type]
    assert told == ["again", "again", "again", "failed", "failed"]
    with sessions()() as session:
        row = session.get_one(TaskRow, task)
        assert row.state == "failed"
        assert row.error is not None
        assert row.error["code"] == "task-lost"
