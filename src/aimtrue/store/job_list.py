"""This module lists jobs a page at a time: searched, sorted, and where they were put; no state is read."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Literal

from sqlalchemy import ColumnElement, Select, and_, delete, func, select, update
from sqlalchemy.orm import Session

from aimtrue.core.errors import Refused
from aimtrue.store import jobs
from aimtrue.store.change_notices import tell
from aimtrue.store.jobs import ListedJob
from aimtrue.store.tables import JobRow, ReleaseRow, RemovalRow, TaskRow

JobPlace = Literal["list", "archive", "bin"]
JobsWanted = Literal["all", "open", "stop", "released", "archive", "bin"]
JobOrder = Literal["changed", "name", "created"]
PAGE = 50
"""Jobs on a page."""
BIN_DAYS = 30
"""Days after which what is in the bin goes for good."""
_LONGEST_LABEL = 40


@dataclass(frozen=True)
class JobQuery:
    """What is wanted of the list.

    Attributes:
        text: words that a job must hold, each somewhere: in its name, its files, bodies, materials, machines.
        wanted: which of them: those in the list, with an open unit, with a finding that stops, with a
            release; or those put away.
        label: one that they must have; any where it is empty.
        order: by what they are sorted; names from A to Z, the last changed or opened first.
        page: counted from 0.
    """

    text: str = ""
    wanted: JobsWanted = "all"
    label: str = ""
    order: JobOrder = "changed"
    page: int = 0


@dataclass(frozen=True)
class JobRows:
    """A page of the list: its rows, how many there are in all, and how many of each kind and label."""

    rows: list[ListedJob]
    count: int
    counts: dict[JobsWanted, int]
    labels: dict[str, int]


def page_of(session: Session, query: JobQuery) -> JobRows:
    """Return a page of the list of jobs."""
    words: list[ColumnElement[bool]] = [
        JobRow.words.ilike(f"%{_escaped(word)}%", escape="\\") for word in query.text.lower().split()
    ]
    if query.label:
        words.append(JobRow.labels.contains([query.label]))
    chosen = select(JobRow).where(*words, _is(query.wanted))
    count = session.scalar(select(func.count()).select_from(chosen.subquery())) or 0
    page = min(query.page, max(0, (count - 1) // PAGE))
    rows = session.scalars(_sorted(chosen, query.order).offset(page * PAGE).limit(PAGE)).all()
    return JobRows(with_tasks(session, rows), count, _counts(session, words), _labels(session))


def page_name(session: Session, query: JobQuery) -> str:
    """Return a name of a page of the list as it is now: another one whenever anything in it is another."""
    return hashlib.sha256(repr([jobs.list_name(session), query]).encode()).hexdigest()[:24]


def _escaped(word: str) -> str:
    return word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def _is(wanted: JobsWanted) -> ColumnElement[bool]:
    """Whether a job is of a kind; what is in the bin is of no other."""
    if wanted == "bin":
        return JobRow.removed.is_not(None)
    if wanted == "archive":
        return and_(JobRow.removed.is_(None), JobRow.archived.is_not(None))
    here = and_(JobRow.removed.is_(None), JobRow.archived.is_(None))
    if wanted == "open":
        units: ColumnElement[int] = JobRow.line["open_units"].as_integer()
        return and_(here, units > 0)
    if wanted == "stop":
        return and_(here, JobRow.stops > 0)
    if wanted == "released":
        return and_(here, select(ReleaseRow.job).where(ReleaseRow.job == JobRow.id).exists())
    return here


def _sorted(chosen: Select[JobRow], order: JobOrder) -> Select[JobRow]:
    match order:
        case "name":
            return chosen.order_by(JobRow.demo, func.lower(JobRow.name), JobRow.id)
        case "created":
            return chosen.order_by(JobRow.demo, JobRow.created.desc(), JobRow.id)
        case "changed":
            return chosen.order_by(JobRow.demo, JobRow.changed.desc(), JobRow.id)


def _counts(session: Session, words: list[ColumnElement[bool]]) -> dict[JobsWanted, int]:
    kinds: tuple[JobsWanted, ...] = ("all", "open", "stop", "released", "archive", "bin")
    columns = [func.count().filter(_is(kind)) for kind in kinds]
    counts = session.execute(select(*columns).select_from(JobRow).where(*words)).one()
    return dict(zip(kinds, map(int, counts), strict=True))


def _labels(session: Session) -> dict[str, int]:
    """Return all labels in use outside the bin, by name, and how many jobs have each."""
    label = func.jsonb_array_elements_text(JobRow.labels).label("label")
    each = select(label).where(JobRow.removed.is_(None)).subquery()
    counted = select(each.c.label, func.count()).group_by(each.c.label)
    rows = [(str(name), int(count)) for name, count in session.execute(counted).all()]
    return dict(sorted(rows, key=lambda row: row[0].lower()))


def with_tasks(session: Session, rows: Iterable[JobRow]) -> list[ListedJob]:
    """Return rows with the newest task and the number of releases of each."""
    rows = list(rows)
    keys = [row.id for row in rows]
    newest = (
        select(TaskRow)
        .where(TaskRow.job.in_(keys))
        .distinct(TaskRow.job)
        .order_by(TaskRow.job, TaskRow.id.desc())
    )
    tasks = {row.job: row for row in session.scalars(newest)}
    counted = select(ReleaseRow.job, func.count()).where(ReleaseRow.job.in_(keys)).group_by(ReleaseRow.job)
    releases = {key: int(count) for key, count in session.execute(counted).all()}
    return [ListedJob(row, tasks.get(row.id), releases.get(row.id, 0)) for row in rows]


def put(session: Session, keys: Iterable[str], place: JobPlace) -> int:
    """Put jobs into the archive, into the bin, or back into the list; return how many there were."""
    now: Any = func.now()
    places: dict[JobPlace, dict[str, Any]] = {
        "list": {"archived": None, "removed": None},
        "archive": {"archived": now, "removed": None},
        "bin": {"removed": now},
    }
    wanted = list(keys)
    moved = session.scalars(
        update(JobRow).where(JobRow.id.in_(wanted)).values(**places[place]).returning(JobRow.id)
    ).all()
    for key in moved:
        tell(session, key)
    return len(moved)


def note_stops(session: Session, key: str, number: int, stops: int) -> None:
    """Keep how many findings stop a job, as worked out of a revision, unless it has gone on since."""
    session.execute(update(JobRow).where(JobRow.id == key, JobRow.head == number).values(stops=stops))


def set_label(session: Session, keys: Iterable[str], label: str, *, on: bool) -> int:
    """Give jobs a label, or take it from them; return how many there were.

    Raises:
        Refused: the label is empty, or too long for the list.
    """
    label = " ".join(label.split())
    if not label or len(label) > _LONGEST_LABEL:
        says = "it is empty" if not label else f"it has {len(label)} characters, at most {_LONGEST_LABEL} go"
        raise Refused("label-size", f"this is no label: {says}", remedy="type a short word, such as club")
    rows = session.scalars(select(JobRow).where(JobRow.id.in_(list(keys))).with_for_update()).all()
    for row in rows:
        others = [known for known in row.labels if known != label]
        row.labels = sorted([*others, label]) if on else others
        tell(session, row.id)
    return len(rows)


def empty_bin(session: Session) -> int:
    """Remove for good what is in the bin for longer than it is kept; return how many jobs went."""
    late = JobRow.removed < func.now() - timedelta(days=BIN_DAYS)
    gone = session.scalars(delete(JobRow).where(late).returning(JobRow.id)).all()
    for key in gone:
        session.add(RemovalRow(says=f"job {key}"))
        tell(session, key)
    return len(gone)
