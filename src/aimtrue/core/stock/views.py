"""This module says what the screens show of stock: a part before it is made, and what there is."""

from __future__ import annotations

from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.stock.drawing import StockDrawing, drawings_of
from aimtrue.core.stock.parts.catalogue import StockRow, search
from aimtrue.core.stock.parts.gears import centre_distance, read_gear
from aimtrue.core.stock.parts.values import StockDimension, StockPart
from aimtrue.core.stock.tasks import MakeStockTask, part_asked

_MOST_ROWS = 60


class StockView(Value):
    """A part as it would be made.

    Attributes:
        kind, name, table: as of the part.
        dimensions: all of them, drawn or told.
        notes: what is odd about it.
        has_thread: whether its thread can be cut.
        bodies: the names of its solids.
        section, plan: its drawing.
        pairs: of a gear, how far from others of the job it stands.
    """

    kind: str
    name: str
    table: str
    dimensions: tuple[StockDimension, ...]
    notes: tuple[str, ...]
    has_thread: bool
    bodies: tuple[str, ...]
    section: StockDrawing
    plan: StockDrawing
    pairs: tuple[str, ...] = ()


class StockList(Value):
    """What can be made, as a search finds it; ``more`` counts what is left out."""

    rows: tuple[StockRow, ...]
    more: int


def stock_view(job: Job | None, task: MakeStockTask) -> StockView:
    """Return a part as it would be made for a job.

    Raises:
        Refused: it is none; the message names what there is.
    """
    part = part_asked(job, task)
    section, plan = drawings_of(part)
    return StockView(
        kind=part.kind,
        name=part.name,
        table=part.table,
        dimensions=part.dimensions,
        notes=part.notes,
        has_thread=part.thread is not None,
        bodies=tuple(body.name for body in part.bodies),
        section=section,
        plan=plan,
        pairs=_gear_pairs(job, part),
    )


def _gear_pairs(job: Job | None, part: StockPart) -> tuple[str, ...]:
    """Say how far a gear stands from those that were made in the job, where they mesh, and from its like."""
    if part.kind != "gear":
        return ()
    mine = read_gear(part.name.removeprefix("gear "))
    made = [source.made.text for source in (job.sources if job else ()) if source.made]
    texts = [
        part.name,
        *dict.fromkeys(text for text in made if text.startswith("gear ") and text != part.name),
    ]
    says = []
    for text in texts:
        other = read_gear(text.removeprefix("gear "))
        name = "another of its like" if text == part.name else text
        if abs(other.module - mine.module) < 1e-9 and abs(other.pressure - mine.pressure) < 1e-9:
            ratio = f"{other.teeth} : {mine.teeth}"
            says.append(f"with {name}: {centre_distance(mine, other):.6g} mm between centres, {ratio}")
        else:
            says.append(f"with {name}: they do not mesh, module or pressure angle differ")
    return tuple(says)


def stock_list(text: str) -> StockList:
    """List what can be made, as far as a search finds it."""
    rows = search(text)
    return StockList(rows=rows[:_MOST_ROWS], more=max(0, len(rows) - _MOST_ROWS))
