"""Load the Larch Hill files as ready jobs."""

from __future__ import annotations

from sqlalchemy import func, select

from aimtrue.core.actions import SettleUnit, SetUp, TakeIn, UserAction
from aimtrue.core.intake.take_in import take_in
from aimtrue.store import blobs, jobs
from aimtrue.store.database import sessions
from aimtrue.store.shelf import StoreShelf
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
    shelf = StoreShelf()
    with sessions().begin() as session:
        key = jobs.create(session, part.title, demo=True)
        name = blobs.put(session, data)
        for blob in taken.blobs.values():
            blobs.put(session, blob)
        errand = jobs.add_errand(session, key, "read", {"name": part.file, "sha256": name})
        jobs.set_errand(session, errand.id, state="done", share=1.0, says="read")
        number = jobs.act(session, shelf, key, None, TakeIn(source=taken.source, body=taken.body))
        for action in _decided(part):
            number = jobs.act(session, shelf, key, number, action)


def _decided(part: Part) -> list[UserAction]:
    decided: list[UserAction] = []
    if part.settled and not part.declared:
        decided.append(SettleUnit(source="s1", unit=part.unit))
    if part.up != "z":
        decided.append(SetUp(source="s1", up=part.up))
    return decided
