"""This module works out ways under a budget: less infill, thicker layers, fewer shells, another way to
stand, hollow, or smaller. Each is the least change of its kind that is enough, or the most that there is.

Ways are looked for by the quick estimate, corrected by how much the full one is off it now; each that is
found can be worked out in full.
"""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil, floor
from typing import Any

from aimtrue.core.chain.allowance import allowed_bounds
from aimtrue.core.cost.budgets import amount, amount_words, over, time_words
from aimtrue.core.cost.quick import SectionFacts, facts_of, hollow_mm3, quick_estimate
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.body import Body
from aimtrue.core.model.budget import Budget
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import BodyId, PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import corrected_with
from aimtrue.core.model.printing import PrintSettings
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.room import ActionHandler
from aimtrue.core.seating.actions import RestOn
from aimtrue.core.seating.handlers import ACTIONS as SEATING_ACTIONS
from aimtrue.core.seating.orientation.ways_to_stand import WayToStand, ways_to_stand
from aimtrue.core.seating.plan_drawing import on_plate
from aimtrue.core.truing.actions import SetFactor
from aimtrue.core.truing.correction_upkeep import missed
from aimtrue.core.truing.sizes import ACTIONS as SIZE_ACTIONS

_LEAST_SHELLS = 2
_WALLS = ("5", "4", "3", "2.5", "2", "1.5", "1.2")
_MUCH_INFILL = 0.5
_MOST_PIECES = 12
_LEAST_FACTOR = 0.2
"""Smaller than this share of its size nobody wants it; no way is told then."""


class WayUnder(Value):
    """A way under a budget.

    Attributes:
        says: what is done.
        saves: what that saves, in words.
        meets: whether it is enough.
        seconds, grams, cost: what is left to take.
        settings: to print with, where it changes these.
        subject, down: what stands on which of its sides then, where it stands otherwise.
        factor: what sizes are multiplied by, where it is made smaller.
        hollow, wall: the body that is hollowed out, and with which wall, in mm.
        divide, planes: the body that is divided, and at which planes, as they are typed.
    """

    says: str
    saves: str
    meets: bool
    seconds: float
    grams: float
    cost: float
    settings: PrintSettings | None = None
    subject: Subject | None = None
    down: Vec3 | None = None
    factor: float | None = None
    divide: BodyId | None = None
    planes: tuple[str, ...] = ()
    hollow: BodyId | None = None
    wall: str = ""


def saved_words(before: Estimate, after: Estimate) -> str:
    """Say what a change saves, or costs: ``−6.8 g, −31 min``."""
    grams, seconds = after.grams - before.grams, after.seconds - before.seconds
    parts = [f"{'−' if grams < 0 else '+'}{abs(grams):.1f} g"] if abs(grams) >= 0.05 else []
    if abs(seconds) >= 30:
        parts.append(time_words(seconds) if seconds < 0 else f"+{time_words(seconds)}")
    height = after.height_mm - before.height_mm
    if abs(height) >= 0.05 and not parts:
        parts.append(f"{'−' if height < 0 else '+'}{abs(height):.1f} mm")
    return ", ".join(parts) or "nothing"


def ways_under(
    job: Job, plate: PlateId, store: GeometryStore, budget: Budget, now: Estimate
) -> tuple[WayUnder, ...]:
    """Return ways under a budget, those that are enough first, each with what it saves.

    Args:
        job: with the plate.
        plate: which.
        store: gives the meshes.
        budget: that the estimate is over.
        now: what the plate takes now.
    """
    search = _Search(job, plate, store, budget, now)
    ways = [
        *search.by_settings(),
        *search.by_standing(),
        *search.by_dividing(),
        *search.by_hollowing(),
        *search.by_scaling(),
    ]
    return tuple(sorted(ways, key=lambda way: not way.meets))


def least_words(ways: tuple[WayUnder, ...], budget: Budget, now: Estimate) -> str:
    """Say the least possible where no way is enough; nothing where one is."""
    if any(way.meets for way in ways):
        return ""
    least = min((_left(way, budget, now) for way in ways), default=amount(now, budget.kind))
    return f"the least of these is {amount_words(budget.kind, least)}; {budget.typed} is not to be had"


def _left(way: WayUnder, budget: Budget, now: Estimate) -> float:
    by_kind = {"grams": way.grams, "seconds": way.seconds, "money": way.cost}
    return by_kind.get(budget.kind, amount(now, budget.kind))


class _Search:
    """Looks for ways; what the full estimate is off the quick one now is taken to be so in each of them."""

    def __init__(self, job: Job, plate: PlateId, store: GeometryStore, budget: Budget, now: Estimate) -> None:
        self._job, self._plate, self._store = job, plate, store
        self._budget, self._now = budget, now
        self._settings = job.printing
        quick = quick_estimate(job, plate, store)
        self._time = now.seconds / quick.seconds if quick.seconds else 1.0
        self._mass = now.grams / quick.grams if quick.grams else 1.0
        self._cost = now.cost / quick.cost if quick.cost else 1.0

    def _estimate(self, settings: PrintSettings | None = None, job: Job | None = None) -> Estimate:
        quick = quick_estimate(job or self._job, self._plate, self._store, settings)
        return quick.model_copy(
            update={
                "seconds": self._time * quick.seconds,
                "grams": self._mass * quick.grams,
                "volume_mm3": self._mass * quick.volume_mm3,
                "cost": self._cost * quick.cost,
            }
        )

    def _way(self, says: str, after: Estimate, **does: object) -> WayUnder:
        return WayUnder.model_validate(
            {
                "says": says,
                "saves": saved_words(self._now, after),
                "meets": over(after, self._budget) <= 1e-9 * self._budget.most,
                "seconds": after.seconds,
                "grams": after.grams,
                "cost": after.cost,
                **does,
            }
        )

    def _is_better(self, after: Estimate) -> bool:
        kind = self._budget.kind
        return amount(after, kind) < amount(self._now, kind) * (1 - 1e-3)

    def by_settings(self) -> Iterator[WayUnder]:
        """Less infill, then thicker layers, then fewer shells, and all of these together."""
        if self._budget.kind == "height" or self._job.plate(self._plate).machine.process.kind == "resin":
            return
        now = self._settings
        changes = (
            (self._less_infill(), f"infill {{0.infill:g}} % instead of {now.infill:g} %"),
            (self._thicker_layers(), "layers of {0.layer:g} mm"),
            (self._fewer_shells(), f"{{0.shells}} shells instead of {now.shells}"),
        )
        together, enough = self._settings, False
        for tried, says in changes:
            found = self._least_enough(tried)
            if found is None:
                continue
            settings, after = found
            yield self._way(says.format(settings), after, settings=settings.model_copy(update={"name": ""}))
            enough = enough or over(after, self._budget) <= 0
            different = {"infill", "layer", "shells"}
            together = together.model_copy(
                update={
                    name: getattr(settings, name)
                    for name in different
                    if getattr(settings, name) != getattr(self._settings, name)
                }
            )
        if not enough and together != self._settings:
            after = self._estimate(together)
            says_all = f"infill {together.infill:g} %, {together.shells} shells"
            says_all += f", layers of {together.layer:g} mm" if together.layer else ""
            yield self._way(says_all, after, settings=together.model_copy(update={"name": ""}))

    def _least_enough(self, tried: Iterator[PrintSettings]) -> tuple[PrintSettings, Estimate] | None:
        """The first settings that are enough, else the last that are better than now."""
        last = None
        for settings in tried:
            try:
                after = self._estimate(settings)
            except Refused:
                continue
            if not self._is_better(after):
                continue
            last = settings, after
            if over(after, self._budget) <= 0:
                break
        return last

    def _less_infill(self) -> Iterator[PrintSettings]:
        infill = self._settings.infill
        while infill > 0:
            infill = max(0.0, infill - max(1.0, infill // 20))
            yield self._settings.model_copy(update={"infill": infill})

    def _thicker_layers(self) -> Iterator[PrintSettings]:
        process = self._job.plate(self._plate).machine.process
        now = self._settings.layer or process.layer
        for layer in sorted(process.layers):
            if layer > now:
                yield self._settings.model_copy(update={"layer": layer})

    def _fewer_shells(self) -> Iterator[PrintSettings]:
        for shells in range(self._settings.shells - 1, _LEAST_SHELLS - 1, -1):
            yield self._settings.model_copy(update={"shells": shells})

    def by_standing(self) -> Iterator[WayUnder]:
        """What stands alone on the plate, on the side that is best for the budget."""
        places = on_plate(self._job, self._plate, self._store)
        if len(places) != 1:
            return
        seat = places[0].seat
        best: tuple[Estimate, WayToStand] | None = None
        for way in ways_to_stand(self._job, seat.subject, seat.copy_number, self._store):
            after = self._estimate(
                job=stood(self._job, seat.subject, seat.copy_number, way.down, self._store)
            )
            if self._is_better(after) and (
                best is None or amount(after, self._budget.kind) < amount(best[0], self._budget.kind)
            ):
                best = after, way
        if best is not None:
            after, way = best
            says = f"stand on a side of {way.contact_mm2:,.0f} mm², {way.height_mm:.1f} mm high"
            yield self._way(says, after, subject=seat.subject, down=way.down)

    def by_dividing(self) -> Iterator[WayUnder]:
        """What is too high, in as few level pieces as are low enough, of what stands as its file has it."""
        if self._budget.kind != "height":
            return
        for place in on_plate(self._job, self._plate, self._store):
            (low, high), seat = place.bounds[:, 2], place.seat
            alone = len(place.bodies) == 1 and place.bodies[0].division is None
            if high - low <= self._budget.most or not alone or seat.turns or seat.mirrored or low > 0.01:
                continue
            body = place.bodies[0]
            bottom, top = allowed_bounds(self._job, body)[:, 2]
            count = ceil((top - bottom) / self._budget.most - 1e-9)
            if count > _MOST_PIECES:
                continue
            step = (top - bottom) / count
            planes = tuple(f"z={bottom + step * k:.3f}" for k in range(1, count))
            after = self._now.model_copy(update={"height_mm": float(step)})
            says = f"divide {body.name} into {count} pieces {step:.1f} mm high"
            yield self._way(says, after, divide=body.id, planes=planes)

    def by_hollowing(self) -> Iterator[WayUnder]:
        """The body that has most within, hollowed out with the thickest wall that is enough, else the
        thinnest.

        Only what is filled nearly whole gets less by it: resin, or much infill. What a hollow saves is what
        lies within its wall, by Steiner's formula over the sections.
        """
        resin = self._job.plate(self._plate).machine.process.kind == "resin"
        fill = 1.0 if resin else self._settings.infill / 100
        if fill < _MUCH_INFILL or self._budget.kind == "height":
            return
        overhang = self._job.plate(self._plate).machine.process.overhang
        best: tuple[float, Body, SectionFacts] | None = None
        for place in on_plate(self._job, self._plate, self._store):
            for body in place.bodies:
                known = facts_of(self._job, body, place, overhang, self._store)
                within = hollow_mm3(known, float(_WALLS[-1]))
                plain = body.health.closed and body.division is None
                if plain and within > 0 and (best is None or within > best[0]):
                    best = within, body, known
        if best is None:
            return
        _, body, known = best
        copies = sum(
            row.id == body.id
            for place in on_plate(self._job, self._plate, self._store)
            for row in place.bodies
        )
        for wall in _WALLS:
            after = self._hollowed(body, copies * fill * hollow_mm3(known, float(wall)))
            if over(after, self._budget) <= 0 or wall == _WALLS[-1]:
                if self._is_better(after):
                    yield self._way(f"hollow {body.name}, wall {wall} mm", after, hollow=body.id, wall=wall)
                return

    def _hollowed(self, body: Body, mm3: float) -> Estimate:
        """The estimate without so much material; time goes with the material of what strands lay."""
        now = self._now
        grams = mm3 * self._job.material_of(body).density / 1000 * self._mass
        share = min(1.0, grams / now.grams) if now.grams else 0.0
        resin = self._job.plate(self._plate).machine.process.kind == "resin"
        return now.model_copy(
            update={
                "grams": now.grams - grams,
                "volume_mm3": max(0.0, now.volume_mm3 - mm3),
                "seconds": now.seconds if resin else now.seconds * (1 - share),
                "cost": now.cost * (1 - share),
            }
        )

    def by_scaling(self) -> Iterator[WayUnder]:
        """All that stands on the plate smaller, by the largest factor that is enough, to a thousandth.

        Nothing that is stretched unequally, and nothing whose size is kept as it was drawn.
        """
        owners = plate_owners(self._job, self._plate, self._store)
        if owners is None or over(self._scaled(owners, _LEAST_FACTOR)[1], self._budget) > 0:
            return
        enough, too_large = _LEAST_FACTOR, 1.0
        while too_large - enough > 5e-4:
            middle = (enough + too_large) / 2
            if over(self._scaled(owners, middle)[1], self._budget) > 0:
                too_large = middle
            else:
                enough = middle
        factor = floor(1000 * enough) / 1000
        job, after = self._scaled(owners, factor)
        broken = sum(missed(job, reading) != 0 for reading in job.readings)
        broken -= sum(missed(self._job, reading) != 0 for reading in self._job.readings)
        says = f"scale to {factor:g} of its size"
        says += (
            f"; {broken} {'reading is' if broken == 1 else 'readings are'} no longer met"
            if broken > 0
            else ""
        )
        yield self._way(says, after, factor=factor)

    def _scaled(self, owners: dict[BodyId, float], factor: float) -> tuple[Job, Estimate]:
        job = scaled_by(self._job, owners, factor, self._store)
        return job, self._estimate(job=job)


def stood(job: Job, subject: Subject, copy_number: int, down: Vec3, store: GeometryStore) -> Job:
    """Return a job in which a seat stands with a direction of its body down."""
    return _done(job, RestOn(body=subject, copy_number=copy_number, down=down), store)


def plate_owners(job: Job, plate: PlateId, store: GeometryStore) -> dict[BodyId, float] | None:
    """Return a body of each group on a plate that is corrected together, with its factor.

    None where one of them cannot be scaled: it is a piece, is kept as it was drawn, or is stretched
    unequally.
    """
    owners: dict[BodyId, float] = {}
    for place in on_plate(job, plate, store):
        for body in place.bodies:
            first = corrected_with(job, body.id)[0]
            factors = job.correction_of(first).factors
            if body.as_drawn or body.division is not None or len(set(factors)) > 1:
                return None
            owners[first.id] = factors[0]
    return owners


def scaled_by(job: Job, owners: dict[BodyId, float], factor: float, store: GeometryStore) -> Job:
    """Return a job in which some bodies, with what is corrected with them, are made smaller by a factor."""
    for key, was in owners.items():
        job = _done(job, SetFactor(body=key, typed=f"{was * factor:.9g}"), store)
    return job


def _done(job: Job, action: ActionValue, store: GeometryStore) -> Job:
    """Return the job after an action of another room."""
    handlers: tuple[ActionHandler[Any], ...] = (*SEATING_ACTIONS, *SIZE_ACTIONS)
    (handler,) = (handler for handler in handlers if handler.action is type(action))
    return handler.handle(job, action, store)
