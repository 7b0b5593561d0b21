"""Ask for what is stale to be made again: after every change, and when something was made."""

from __future__ import annotations

from sqlalchemy.orm import Session

from aimtrue.core.division.stale import fresh_wholes, stale_divisions
from aimtrue.core.division.work import ShapeAgain
from aimtrue.store import jobs
from aimtrue.work.queue import ask_remake


def ask_stale(session: Session, key: str) -> None:
    """Ask for every division to be made again whose wholes have changed, unless that is under way already.

    One that cannot be made of what its whole has become is asked for again only when the job has changed.
    """
    loaded = jobs.load(session, key)
    if not loaded.job.divisions:
        return
    waiting = {
        row.request["work"]["division"]
        for row in jobs.errands(session, key)
        if row.request.get("work", {}).get("do") == "shape-again"
        and (
            row.state in ("waiting", "doing")
            or (row.state == "failed" and row.request["revision"] == loaded.revision.number)
        )
    }
    for division in stale_divisions(loaded.job):
        if division.id not in waiting and fresh_wholes(loaded.job, division):
            ask_remake(session, key, loaded.revision.number, ShapeAgain(division=division.id))
