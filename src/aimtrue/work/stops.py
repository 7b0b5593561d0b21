"""This module finds out for the list of jobs how many findings stop a job, where no page shows it yet."""

from __future__ import annotations

from aimtrue.core.survey.survey import survey
from aimtrue.store import job_list, jobs
from aimtrue.store.database import sessions, snapshot
from aimtrue.work.change import STORE


def find_stops(key: str) -> None:
    """Work out a job as it stands, and keep how many of its findings keep a release from being made."""
    with snapshot() as session:
        loaded = jobs.load(session, key)
    stops = sum(
        finding.severity == "stop" and not finding.accepted for finding in survey(loaded.job, STORE).findings
    )
    with sessions().begin() as session:
        job_list.note_stops(session, key, loaded.revision.number, stops)
