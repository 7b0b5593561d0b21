"""The worker process."""

from __future__ import annotations

import asyncio
import signal
import time

import psycopg
from procrastinate import App
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Job, Status
from procrastinate.manager import JobManager

from aimtrue.settings import settings
from aimtrue.store.database import sessions
from aimtrue.store.geometry_store import make_cache
from aimtrue.store.idle_release import let_go_at_rest
from aimtrue.store.job_list import empty_bin
from aimtrue.store.removal import sweep
from aimtrue.store.tidy import tidy
from aimtrue.work import sandbox
from aimtrue.work.change import STORE
from aimtrue.work.orphans import MOST_TRIES, adopt, beat, give_up
from aimtrue.work.queue import HEARTBEAT_SECONDS, PLACES, STALLED_SECONDS, log, queue

_TIDIED_EVERY_SECONDS = 300.0
_SHORTEST_PAUSE_SECONDS = 0.2
_LONGEST_PAUSE_SECONDS = 30.0


def work() -> None:
    """Do tasks until told to stop."""
    sandbox.warm()
    make_cache()
    asyncio.run(_work())


async def _work() -> None:
    app = queue()
    async with app.open_async():
        aside = [asyncio.create_task(_rescue_stalled()), asyncio.create_task(_tidy())]
        aside.append(asyncio.create_task(let_go_at_rest(STORE)))
        try:
            await _all_queues(app)
        finally:
            for background in aside:
                background.cancel()


async def _all_queues(app: App) -> None:
    """Do the tasks of each queue in its own places until a signal, or a fault in one of them, ends it."""
    doing = [asyncio.create_task(_one_queue(app, name, places)) for name, places in PLACES.items()]
    loop = asyncio.get_running_loop()
    for number in (signal.SIGINT, signal.SIGTERM):
        loop.add_signal_handler(number, lambda: [task.cancel() for task in doing])
    ended, others = await asyncio.wait(doing, return_when=asyncio.FIRST_COMPLETED)
    for task in others:
        task.cancel()
    await asyncio.gather(*others, return_exceptions=True)
    for task in ended:
        if not task.cancelled():
            task.result()


async def _one_queue(app: App, name: str, places: int) -> None:
    """Do the tasks of a queue, and go on when the database cuts a connection or is away for a while.

    A connection that is cut while the next task is asked for ends procrastinate's worker, and with the
    process all tasks under way would end, too. So the queue alone is begun again, after a pause that doubles
    while the database stays away.
    """
    pause = _SHORTEST_PAUSE_SECONDS
    while True:
        begun = time.monotonic()
        try:
            await app.run_worker_async(
                queues=[name],
                concurrency=places,
                install_signal_handlers=False,
                delete_jobs="successful",
                shutdown_graceful_timeout=5,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
            )
        except (ConnectorException, psycopg.Error) as error:
            log.warning("queue %s lost the database, trying again: %s", name, " ".join(str(error).split()))
        if time.monotonic() - begun > _LONGEST_PAUSE_SECONDS:
            pause = _SHORTEST_PAUSE_SECONDS
        await asyncio.sleep(pause)
        pause = min(_LONGEST_PAUSE_SECONDS, 2 * pause)


def _adopt() -> None:
    with sessions().begin() as session:
        beat(session)
    with sessions().begin() as session:
        for task in adopt(session):
            log.info("task %s is put into the queue again: nobody worked on it", task)


async def _tidy() -> None:
    """Take away what nothing names any more, and bring the disk cache within its size, now and then."""
    while True:
        # Each is tried by itself, so that where one fails the other still goes on.
        for duty in (_sweep_once, _tidy_once):
            try:
                await asyncio.to_thread(duty)
            except Exception:  # noqa: BLE001 - whatever it is, it is told
                log.exception("tidying failed")
        await asyncio.sleep(_TIDIED_EVERY_SECONDS)


def _sweep_once() -> None:
    with sessions().begin() as session:
        went = empty_bin(session)
    if went:
        log.info("%d jobs of the bin went for good", went)
    with sessions().begin() as session:
        gone = sweep(session)
    if gone:
        log.info("tidied: %d MB of the database", gone // 10**6)


def _tidy_once() -> None:
    done = tidy(settings().cache, settings().cache_mb * 1_000_000)
    if done.gone:
        log.info("tidied: %d MB of the cache", done.gone // 10**6)


async def rescue(manager: JobManager, job: Job) -> None:
    """Give a task whose worker is gone back to the queue; one that ends every worker is given up."""
    if job.attempts < MOST_TRIES:
        await manager.retry_job(job)
        log.info("task %s goes back to the queue: its worker is gone", job.id)
        return
    await manager.finish_job(job, Status.FAILED, delete_job=False)
    await asyncio.to_thread(_lost, int(str(job.task_kwargs["task"])))
    log.warning("task %s is given up: it ended its worker again and again", job.id)


def _lost(task: int) -> None:
    with sessions().begin() as session:
        give_up(session, task)


async def _rescue_stalled() -> None:
    """Give tasks of workers that died back to the queue, and those that the queue has lost."""
    manager = queue().job_manager
    while True:
        try:
            for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_SECONDS):
                await rescue(manager, job)
            await asyncio.to_thread(_adopt)
        except Exception:  # noqa: BLE001 - whatever it is, it is told
            log.exception("looking for stalled tasks failed")
        await asyncio.sleep(HEARTBEAT_SECONDS)
