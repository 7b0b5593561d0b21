"""Ask for what is stale to be made again: after every change, and when something was made."""

from __future__ import annotations

from sqlalchemy.orm import Session

from aimtrue.core.division.stale import fresh_wholes, stale_divisions
from aimtrue.core.division.tasks import RedoDivisionTask
from aimtrue.core.intake.tasks import ListFacesTask, RefineTask
from aimtrue.core.tasks import Task
from aimtrue.store import job_tasks, jobs
from aimtrue.work.queue import ask_list, ask_remake

_WHEN_DRAWN = 5
"""Seconds after a large file is read; by then a page has drawn it, and is asked for no more than clicks."""


def ask_faces(session: Session, key: str) -> None:
    """Ask for the faces of bodies to be listed that came in without, unless that is under way already."""
    loaded = jobs.load(session, key)
    under_way = {
        body
        for row in job_tasks.tasks(session, key)
        if row.kind == "list" and row.state in ("waiting", "doing")
        for body in row.request["task"]["bodies"]
    }
    bodies = tuple(body.id for body in loaded.job.bodies if not body.features and body.id not in under_way)
    if bodies:
        ask_list(session, key, loaded.revision.number, ListFacesTask(bodies=bodies), _WHEN_DRAWN)


def take_over(session: Session, key: str, task: Task) -> Task:
    """Return a task together with what was asked of the same file just before and is not done yet.

    A chord and an angle are typed one after the other, and are one fineness: what is under way for the
    first is ended, and its values go on in the second. A task of another kind is returned as it is.
    """
    if not isinstance(task, RefineTask):
        return task
    for row in job_tasks.tasks(session, key):
        before = row.request.get("task", {})
        if row.state not in ("waiting", "doing") or before.get("do") != "refine":
            continue
        if before["source"] != task.source:
            continue
        if task.fineness is None:
            old = RefineTask.model_validate(before)
            update = {
                "fineness": old.fineness,
                "chord": task.chord or old.chord,
                "angle": task.angle or old.angle,
            }
            task = task.model_copy(update=update)
        job_tasks.set_task(session, row.id, state="done", share=1.0, says="taken over by what was typed next")
    return task


def ask_stale(session: Session, key: str, kept: jobs.NewRevision) -> None:
    """Ask for every division to be made again whose wholes have changed, unless that is under way already.

    One that cannot be made of what its whole has become is asked for again only when the job has changed.

    Args:
        session: the transaction in which the job was changed.
        key: the job.
        kept: what it was changed to.
    """
    if not kept.job.divisions:
        return
    waiting = {
        row.request["task"]["division"]
        for row in job_tasks.tasks(session, key)
        if row.request.get("task", {}).get("do") == "shape-again"
        and (
            row.state in ("waiting", "doing")
            or (row.state == "failed" and row.request["revision"] == kept.number)
        )
    }
    for division in stale_divisions(kept.job):
        if division.id not in waiting and fresh_wholes(kept.job, division):
            ask_remake(session, key, kept.number, RedoDivisionTask(division=division.id))
