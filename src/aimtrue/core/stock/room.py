"""This module describes stock, a room of sheets 1 and 3, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.room import BodyChange, Difference, Room, TaskHandler
from aimtrue.core.stock.answers import COMMANDS
from aimtrue.core.stock.handlers import ACTIONS, with_its_body
from aimtrue.core.stock.tasks import MakeStockTask, make_stock, refuse_unclear


def _sheet(job: Job, body: Body) -> Iterator[tuple[str, str]]:
    """Of a part that was made here, by what it was made."""
    made = job.source_of(body).made
    if made is not None:
        thread = f", thread cut, clearance {made.clearance_mm:g} mm" if made.threaded else ""
        yield "made here as", f"{made.text}, by {made.table}{thread}"


def _differences(change: BodyChange) -> Iterator[Difference]:
    yield "purpose", _purpose(change.old), _purpose(change.new)


def _purpose(body: Body) -> str:
    return "to check against" if body.for_checking else "to print"


STOCK = Room(
    name="stock",
    on="fit",
    actions=ACTIONS,
    tasks=(TaskHandler(MakeStockTask, make_stock, refuse_unclear),),
    sheet=_sheet,
    differences=_differences,
    carry=with_its_body,
    commands=COMMANDS,
)
