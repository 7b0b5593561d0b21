"""This module tells what the plates of a job take: in full where that is known, else quickly."""

from __future__ import annotations

from aimtrue.core.cost.budgets import amount_words, over, time_words
from aimtrue.core.cost.kept_estimates import estimate_kept
from aimtrue.core.cost.learning import learnt_of
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.budget import Budget
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import BodyId, PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.seating.placement.places import places_of


class BudgetState(Value):
    """A budget, and by how much it is exceeded.

    Attributes:
        budget: at most how much, and of what.
        name: of what it is of, in words.
        over: by how much; 0 where it is kept.
        says: that in words.
    """

    budget: Budget
    name: str
    over: float
    says: str


class PlateCost(Value):
    """What one plate takes.

    Attributes:
        plate: which.
        quick: at once, from sections.
        full: along its paths; None where that was not worked out since the last change.
        time, time_quick: how long, in words; the first empty while ``full`` is None.
        learnt: how far off estimates were before and are after what prints have taught; else empty.
    """

    plate: PlateId
    quick: Estimate
    full: Estimate | None
    time: str
    time_quick: str
    learnt: str

    @property
    def best(self) -> Estimate:
        """The full estimate, or the quick one."""
        return self.full or self.quick


class CostSurvey(Value):
    """What all plates of a job take.

    Attributes:
        plates: those on which something stands.
        budgets: with what they are exceeded by.
        seconds, grams, strand_m, cost: of all plates.
        time: how long all of them take, in words.
        approximate: whether any of that is quick.
        spool: whether what is left on the spool in use is enough for all plates, in words; else empty.
        refused: why nothing can be told; empty where it can.
    """

    plates: tuple[PlateCost, ...] = ()
    budgets: tuple[BudgetState, ...] = ()
    seconds: float = 0.0
    grams: float = 0.0
    strand_m: float = 0.0
    cost: float = 0.0
    time: str = ""
    approximate: bool = True
    spool: str = ""
    refused: str = ""


def cost_survey(job: Job, store: GeometryStore) -> CostSurvey:
    """Return what the plates of a job take; nothing while a unit is open."""
    if not job.bodies or not job.settled(job.bodies):
        return CostSurvey(budgets=tuple(_state(job, budget, (), store) for budget in job.budgets))
    try:
        plates = tuple(_plate(job, plate.id, store) for plate in job.plates)
    except Refused as error:
        return CostSurvey(refused=error.says)
    plates = tuple(plate for plate in plates if plate.quick.layers)
    sums = {
        name: float(sum(getattr(plate.best, name) for plate in plates))
        for name in ("seconds", "grams", "strand_m", "cost")
    }
    return CostSurvey(
        plates=plates,
        budgets=tuple(_state(job, budget, plates, store) for budget in job.budgets),
        time=time_words(sums["seconds"]) if plates else "",
        approximate=any(plate.full is None for plate in plates),
        spool=_spool(job, sums["grams"]),
        **sums,
    )


def _spool(job: Job, grams: float) -> str:
    left = job.rates.spool_g
    if left is None:
        return ""
    rest = left - grams
    return f"{rest:.0f} g of the spool are left after that" if rest >= 0 else f"the spool lacks {-rest:.0f} g"


def _plate(job: Job, plate: PlateId, store: GeometryStore) -> PlateCost:
    quick, full = quick_estimate(job, plate, store), estimate_kept(job, plate)
    return PlateCost(
        plate=plate,
        quick=quick,
        full=full,
        time=time_words(full.seconds) if full else "",
        time_quick=time_words(quick.seconds),
        learnt=learnt_of(job.plate(plate).machine, job.printing).says,
    )


def _state(job: Job, budget: Budget, plates: tuple[PlateCost, ...], store: GeometryStore) -> BudgetState:
    estimates = [plate.best for plate in plates]
    name = "all plates"
    if budget.of:
        for number, plate in enumerate(job.plates, start=1):
            if plate.id == budget.of:
                estimates, name = [row.best for row in plates if row.plate == plate.id], f"plate {number}"
        for body in job.bodies:
            if body.id == budget.of:
                standing = _standing(job, body.id)
                estimates, name = [_of_bodies(row.best, standing) for row in plates], body.name
                if budget.kind == "height":
                    high = _height_of(job, standing, store)
                    estimates = [row.model_copy(update={"height_mm": high}) for row in estimates]
    total = _summed(estimates)
    by = max(0.0, over(total, budget)) if total else 0.0
    says = f"{amount_words(budget.kind, by)} over {budget.typed}" if by else f"within {budget.typed}"
    return BudgetState(budget=budget, name=name, over=by, says=f"{name}: {says}")


def _standing(job: Job, body: BodyId) -> frozenset[BodyId]:
    """What stands on plates of a body: itself, or, where it is divided, its pieces."""
    division = job.divisions_by_whole.get(body)
    if division is None:
        return frozenset({body})
    return frozenset().union(*(_standing(job, made) for made in division.made))


def _height_of(job: Job, bodies: frozenset[BodyId], store: GeometryStore) -> float:
    """How high the highest of some bodies reaches over its plate, in mm; 0 where none stands on one."""
    places = places_of(job, store).values()
    tops = [box[1][2] for place in places for body, box in place.each.items() if body in bodies]
    return float(max(tops, default=0.0))


def _of_bodies(estimate: Estimate, bodies: frozenset[BodyId]) -> Estimate:
    """An estimate of the share of some bodies, but for their height; their money is by their mass."""
    mine = [row for row in estimate.by_body if row.id in bodies]
    grams = sum(row.grams for row in mine)
    share = grams / estimate.grams if estimate.grams else 0.0
    return estimate.model_copy(
        update={
            "seconds": sum(row.seconds for row in mine),
            "grams": grams,
            "cost": share * estimate.cost,
            "volume_mm3": share * estimate.volume_mm3,
        }
    )


def _summed(estimates: list[Estimate]) -> Estimate | None:
    """What several plates take together; their height is that of the highest."""
    if not estimates:
        return None
    sums = {
        name: sum(getattr(estimate, name) for estimate in estimates)
        for name in ("seconds", "grams", "cost", "volume_mm3")
    }
    height = max(estimate.height_mm for estimate in estimates)
    return estimates[0].model_copy(update={**sums, "height_mm": height})
