"""The addresses of stock that are no actions: a part before it is made, what there is, whether a bolt goes
through.
"""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.fit import job_of
from aimtrue.api.shared import run_isolated, store
from aimtrue.core.model.ids import BodyId
from aimtrue.core.stock.tasks import MakeStockTask
from aimtrue.core.stock.through.bores import bores_in
from aimtrue.core.stock.through.values import BoreInJob, StockSpot, ThroughAnswer, ThroughQuestion
from aimtrue.core.stock.views import StockList, StockView, stock_list, stock_view
from aimtrue.work.sandboxed import try_through

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)
Typed = Annotated[str, Query(max_length=200)]


@router.get("/stock")
def listed(search: Typed = "") -> StockList:
    """List what can be made, as far as a search finds it."""
    return stock_list(search)


@router.get("/jobs/{key}/stock")
def prospect(key: str, text: Typed = "", threaded: bool = False, clearance: Typed = "") -> StockView:
    """Draw a part as it would be made; one that is none is refused with what there is."""
    return stock_view(job_of(key), MakeStockTask(text=text, threaded=threaded, clearance=clearance))


@heavy.get("/jobs/{key}/stock/bores")
def bores(key: str) -> list[BoreInJob]:
    """List the bores that a bolt can be tried in."""
    return list(bores_in(job_of(key), store))


@heavy.get("/jobs/{key}/stock/through")
def goes_through(
    key: str, text: Typed, body: BodyId, feature: int, flipped: bool = False, washers: bool = False
) -> ThroughAnswer:
    """Say whether a bolt goes through a bore, with its head, its nut and its length."""
    job = job_of(key)
    spot = StockSpot(body=body, feature=feature, flipped=flipped, washers=washers)
    keys = [other.id for other in job.bodies]
    return run_isolated(try_through, job, keys, ThroughQuestion(text=text, spot=spot))
