"""Answers about a job: the whole of it, or what changed since an answer that the page has already.

Every answer has a name. A page that names the one it holds is sent the changes to the next; one that names
none, or one that is no longer known here, is sent everything. What many pages ask for is worked out once.
"""

from __future__ import annotations

import hashlib
from typing import Annotated, Any

import orjson
from fastapi import Header, Response
from pydantic import BaseModel
from sqlalchemy.orm import Session

from aimtrue.api.changes import changes
from aimtrue.api.shared import store
from aimtrue.api.views import JobView, beside, job_parts, state_of
from aimtrue.core.model.memo import RecentValues
from aimtrue.store import jobs
from aimtrue.store.database import sessions
from aimtrue.store.job_list import note_stops

_KEPT = 48
_SIGNIFICANT = 12
Seen = Annotated[str, Header(description="the answer that the page holds; empty for none")]


class JobAnswer(BaseModel):
    """A job, or what changed of it: ``changes`` as in ``aimtrue.api.changes``."""

    name: str
    since: str
    job: JobView | None
    changes: dict[str, Any] | None


_known: RecentValues[str, dict[str, Any]] = RecentValues(_KEPT)
"""The last answers, by name."""


def answer(session: Session, key: str, seen: str = "", status: int = 200) -> Response:
    """Answer with a job as it stands, or with what changed of it since an earlier answer."""
    loaded = jobs.load(session, key)
    job_activity = beside(session, loaded)
    state = state_of(loaded, job_activity)
    name = hashlib.sha256(orjson.dumps((key, state))).hexdigest()[:24]
    view = _known.get(name)
    if view is None:
        view = job_parts(store, loaded, job_activity)
        _known.keep(name, view)
        _note_stops(loaded, view)
    old = _known.get(seen) if seen else None
    if old is None or old["id"] != key:
        content = {"name": name, "since": "", "job": view, "changes": None}
    else:
        content = {"name": name, "since": seen, "job": None, "changes": changes(old, view) or {"set": {}}}
    return Response(orjson.dumps(content), status, media_type="application/json")


def _note_stops(loaded: jobs.LoadedJob, view: dict[str, Any]) -> None:
    """Keep for the list of jobs what was just found out: whether something stops this one."""
    findings = view["survey"]["findings"]
    stops = sum(finding["severity"] == "stop" and not finding["accepted"] for finding in findings)
    if stops != loaded.row.stops:
        with sessions().begin() as session:
            note_stops(session, loaded.row.id, loaded.revision.number, stops)
