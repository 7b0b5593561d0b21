"""Load the Larch Hill files as ready jobs."""

from __future__ import annotations

from sqlalchemy import func, select

from aimtrue.core.actions import UserAction
from aimtrue.core.intake.actions import SettleUnit, SetUp, TakeIn
from aimtrue.core.intake.take_in import all_kept, take_in
from aimtrue.core.model.source import Source
from aimtrue.store import blobs, job_tasks, jobs
from aimtrue.store.database import sessions
from aimtrue.store.geometry_store import CachedGeometryStore
from aimtrue.store.tables import JobRow
from demo.parts import PARTS, Part, built


def load_demo() -> None:
    """Put one job per file into the store, unless demo jobs are there already."""
    with sessions()() as session:
        if session.scalar(select(func.count()).select_from(JobRow).where(JobRow.demo)):
            return
    folder = built()
    for part in reversed(PARTS):
        _load(part, (folder / part.file).read_bytes())


def _load(part: Part, data: bytes) -> None:
    taken = take_in("s1", part.file, data)
    store = CachedGeometryStore()
    with sessions().begin() as session:
        key = jobs.create(session, part.title, demo=True)
        name = blobs.put(session, data)
        bodies, named = all_kept(taken)
        for blob in named.values():
            blobs.put(session, blob)
        task = job_tasks.add_task(session, key, "read", {"name": part.file, "sha256": name})
        job_tasks.set_task(session, task.id, state="done", share=1.0, says="read")
        number = jobs.act(
            session, store, key, None, TakeIn(sources=taken.sources, bodies=bodies, kits=taken.kits)
        ).number
        for action in _decided(part, jobs.load(session, key).job.sources[0]):
            number = jobs.act(session, store, key, number, action).number


def _decided(part: Part, source: Source) -> list[UserAction]:
    """What its maker would tell of a file: a unit that the evidence leaves open, and the way up."""
    decided: list[UserAction] = []
    if part.settled and source.unit is None:
        decided.append(SettleUnit(source="s1", unit=part.unit))
    if part.up != "z":
        decided.append(SetUp(source="s1", up=part.up))
    return decided
