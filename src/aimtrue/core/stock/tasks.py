"""This module makes parts of stock in the background, since the CAD kernel takes its time."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.errors import Refused
from aimtrue.core.intake.take_in import all_kept, take_in, with_chord
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_gap
from aimtrue.core.model.stock import SizeLimits, StockRecipe
from aimtrue.core.model.text import plain
from aimtrue.core.model.value import Value
from aimtrue.core.progress import Progress
from aimtrue.core.room import TaskInputs, TaskResult
from aimtrue.core.stock.actions import AddStock
from aimtrue.core.stock.parts.catalogue import part_of
from aimtrue.core.stock.parts.values import StockPart, ThreadCutting
from aimtrue.core.stock.through.placement import placement_at
from aimtrue.core.stock.through.values import BoltPlacement, StockSpot

MOST_CLEARANCE_MM = 2.0


class MakeStockTask(Value):
    """Make a part of stock.

    Attributes:
        text: the part, as typed.
        threaded: whether its thread is cut.
        clearance: of the thread, a length as typed; empty for none.
        for_checking: whether it is there to check against, or to be printed.
        chord_mm: how far facets may be off; None for the usual.
        spot: the bore that it is made at; None lies at the origin.
    """

    do: Literal["make-stock"] = "make-stock"
    text: str = Field(max_length=200)
    threaded: bool = False
    clearance: str = Field("", max_length=40)
    for_checking: bool = True
    chord_mm: float | None = None
    spot: StockSpot | None = None


def cutting_of(job: Job | None, threaded: bool, clearance: str) -> ThreadCutting:
    """Return how a thread is cut, with the bead and the layers of the job's machine.

    Raises:
        Refused: the clearance is no length, or absurd.
    """
    mm = parse_gap(clearance) if clearance.strip() else 0.0
    if mm > MOST_CLEARANCE_MM:
        raise Refused(
            "stock-clearance",
            f"a clearance of {clearance.strip()} in a thread is over {MOST_CLEARANCE_MM:g} mm",
            remedy="type 0.2 to 0.4 mm for filament, less for resin",
        )
    process = job.machine.process if job is not None else None
    return ThreadCutting(
        cut=threaded,
        clearance_mm=mm,
        bead_mm=process.bead if process else 0.0,
        layer_mm=process.layer if process else 0.0,
    )


def part_asked(job: Job | None, task: MakeStockTask) -> StockPart:
    """Return the part that a task is to make.

    Raises:
        Refused: it is none, or a thread's clearance is larger than the thread is deep.
    """
    cutting = cutting_of(job, task.threaded, task.clearance)
    part = part_of(task.text, cutting)
    if part.thread is not None and task.threaded and cutting.clearance_mm > 0.5 * part.thread.pitch:
        raise Refused(
            "stock-clearance",
            f"a clearance of {cutting.clearance_mm:g} mm leaves little of {part.thread.pitch:g} mm pitch",
            remedy=f"take at most {0.5 * part.thread.pitch:g} mm",
        )
    return part


def refuse_unclear(job: Job, task: MakeStockTask) -> None:
    """Raise ``Refused`` where a part cannot be made, before its making is begun."""
    part_asked(job, task)


def recipe_for(part: StockPart, task: MakeStockTask) -> StockRecipe:
    """Return the words that make the very same file again."""
    threaded = task.threaded and part.thread is not None
    clearance = cutting_of(None, threaded, task.clearance).clearance_mm if threaded else 0.0
    return StockRecipe(
        text=part.name,
        threaded=threaded,
        clearance_mm=clearance,
        table=part.table,
        limits=tuple(
            SizeLimits(mm=row.mm, low_mm=row.low_mm, high_mm=row.high_mm)
            for row in part.dimensions
            if row.low_mm is not None and row.high_mm is not None
        ),
    )


def file_name_of(part: StockPart) -> str:
    """Return the name that the file of a part has: safe on every file system."""
    return plain(part.name.replace("/", "-"), 100) + ".step"


def file_of(recipe: StockRecipe) -> bytes:
    """Make the file of a recipe again, to the last bit.

    Raises:
        Refused: the words mean no part any more.
    """
    from aimtrue.core.stock.solids import step_of

    cutting = ThreadCutting(cut=recipe.threaded, clearance_mm=recipe.clearance_mm)
    return step_of(part_of(recipe.text, cutting), recipe.point, recipe.way)


def made_stock(
    key: str,
    job: Job | None,
    task: MakeStockTask,
    progress: Progress,
    placement: BoltPlacement | None = None,
) -> TaskResult:
    """Make a part, and read it as a file is read that comes from elsewhere.

    Args:
        key: a fresh id for its source.
        job: that it is made for; None for none.
        task: what is asked for.
        progress: told how far it is.
        placement: where it is made; None at the origin.

    Raises:
        Refused: it is no part.
        AimTrueError: the kernel makes no valid solid of it.
    """
    part = part_asked(job, task)
    recipe = recipe_for(part, task)
    if placement is not None:
        at = task.spot.body if task.spot else ""
        recipe = recipe.model_copy(update={"point": placement.point, "way": placement.way, "at": at})
    progress(0.05, f"making {part.name}")
    data = file_of(recipe)
    name = file_name_of(part)
    fineness = with_chord(task.chord_mm) if task.chord_mm else None
    taken = take_in(
        key,
        name,
        data,
        fineness=fineness,
        progress=lambda share, says: progress(0.3 + 0.65 * share, says),
    )
    bodies, blobs = all_kept(taken)
    source = taken.sources[0].model_copy(update={"made": recipe, "up": "z"})
    marked = tuple(
        body.model_copy(update={"for_checking": task.for_checking, "as_drawn": task.for_checking})
        for body in bodies
    )
    kits = tuple(kit.model_copy(update={"name": part.kind, "free": True}) for kit in taken.kits)
    action = AddStock(source=source, bodies=marked, kits=kits)
    return TaskResult(action, {**blobs, source.sha256: data})


def make_stock(inputs: TaskInputs, task: MakeStockTask) -> TaskResult:
    """Make a part for a job, at the bore that was told if one was."""
    placement = None
    if task.spot is not None:
        part = part_asked(inputs.job, task)
        placement = placement_at(inputs.job, part, task.spot, inputs.store)
    return made_stock(f"t{inputs.key}", inputs.job, task, inputs.progress, placement)
