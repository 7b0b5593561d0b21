"""The worker process."""

from __future__ import annotations

import asyncio

from aimtrue.settings import settings
from aimtrue.work import fence
from aimtrue.work.queue import HEARTBEAT_SECONDS, STALLED_SECONDS, log, queue


def work() -> None:
    """Do tasks until told to stop."""
    settings().cache.mkdir(parents=True, exist_ok=True)
    fence.warm()
    asyncio.run(_work())


async def _work() -> None:
    app = queue()
    async with app.open_async():
        rescue = asyncio.create_task(_rescue_stalled())
        try:
            await app.run_worker_async(
                concurrency=2,
                delete_jobs="successful",
                shutdown_graceful_timeout=5,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
            )
        finally:
            rescue.cancel()


async def _rescue_stalled() -> None:
    """Give tasks of workers that died back to the queue."""
    manager = queue().job_manager
    while True:
        try:
            for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_SECONDS):
                await manager.retry_job(job)
                log.info("task %s goes back to the queue: its worker is gone", job.id)
        except Exception:
            log.exception("looking for stalled tasks failed")
        await asyncio.sleep(HEARTBEAT_SECONDS)
