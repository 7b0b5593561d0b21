"""What is laid out on the sheets of a job and not yet made: kept beside it, no part of its revisions."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from aimtrue.core.errors import Refused
from aimtrue.core.model.ids import BodyId
from aimtrue.store.jobs import unknown_job
from aimtrue.store.tables import DraftRow, JobRow

CARRIED = ("division",)
"""Drafts that say nothing of a single triangle: they hold of the body that takes the place of another."""
LONGEST = 262_144
"""Bytes that one draft may take as JSON."""
MOST = 40
"""Drafts of one job."""


def drafts_of(session: Session, job: str) -> dict[str, Any]:
    """Return the drafts of a job, by their names."""
    _refuse_unknown(session, job)
    rows = session.execute(select(DraftRow.name, DraftRow.value).where(DraftRow.job == job)).all()
    return {str(name): value for name, value in rows}


def keep(session: Session, job: str, name: str, value: dict[str, Any]) -> None:
    """Keep entries of a draft beside those that it has; one that is None is no longer kept.

    So two pages that lay out different bodies do not take each other's away.

    Raises:
        UnknownJob: there is no such job.
        Refused: it is too large, or there are too many.
    """
    _refuse_unknown(session, job, lock=True)
    row = select(DraftRow.value).where(DraftRow.job == job, DraftRow.name == name)
    merged = {**(session.scalar(row) or {}), **value}
    value = {key: entry for key, entry in merged.items() if entry is not None}
    if not value:
        session.execute(delete(DraftRow).where(DraftRow.job == job, DraftRow.name == name))
        return
    if len(json.dumps(value)) > LONGEST:
        raise Refused(
            "draft-size", "this draft is too large to be kept", remedy="make what is laid out, then go on"
        )
    others = select(func.count()).where(DraftRow.job == job, DraftRow.name != name)
    if (session.scalar(others) or 0) >= MOST:
        raise Refused("drafts", f"a job keeps at most {MOST} drafts", remedy="remove one of them")
    put = insert(DraftRow).values(job=job, name=name, value=value)
    session.execute(
        put.on_conflict_do_update(index_elements=["job", "name"], set_={"value": put.excluded.value})
    )


def carry(session: Session, job: str, successors: Mapping[BodyId, BodyId]) -> None:
    """Give bodies that go on being others what was laid out for those, unless they have a draft of their own.

    Old entries stay, for the body that comes back when the change is taken back.

    Args:
        session: within a transaction.
        job: it is locked by whoever changed it.
        successors: the new body of each old one.
    """
    rows = session.scalars(select(DraftRow).where(DraftRow.job == job, DraftRow.name.in_(CARRIED)))
    for row in rows if successors else ():
        come: dict[str, Any] = {new: row.value[old] for old, new in successors.items() if old in row.value}
        value = {**come, **row.value}
        if come and len(json.dumps(value)) <= LONGEST:
            row.value = value


def _refuse_unknown(session: Session, job: str, *, lock: bool = False) -> None:
    row = select(JobRow.id).where(JobRow.id == job)
    if session.scalar(row.with_for_update(key_share=True) if lock else row) is None:
        raise unknown_job()
