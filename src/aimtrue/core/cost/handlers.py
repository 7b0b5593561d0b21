"""This module says what actions on settings, prices and budgets do."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import ValidationError

from aimtrue.core.cost.actions import (
    ForgetPrints,
    ForgetPrintSet,
    KeepPrintSet,
    NotePrint,
    PutEstimate,
    ScalePlate,
    SetBudget,
    SetPrice,
    SetPrinting,
    SetSpeed,
    UsePrintSettings,
)
from aimtrue.core.cost.budgets import budget_of
from aimtrue.core.cost.kept_estimates import estimate_kept
from aimtrue.core.cost.learning import learnt_of, settings_key, with_record
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.cost.settings import SETS, plan_of
from aimtrue.core.cost.ways import plate_owners, scaled_by
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.estimate import KeptEstimate
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.printing import Curing, Motion, PrintRecord, PrintSettings
from aimtrue.core.model.text import refuse_odd
from aimtrue.core.room import ActionHandler, Succession

_MOST_BUDGETS = 100
_FAR = 10.0
"""A print that took so many times more or less than estimated is a slip of the key."""


def set_printing(job: Job, action: SetPrinting, store: GeometryStore) -> Job:
    """Change one setting, if it can be printed with on the machines of all plates."""
    return _with_settings(job, job.printing.model_copy(update={"name": "", action.setting: _read(action)}))


def _read(action: SetPrinting) -> Any:  # noqa: ANN401 - of the type that the setting has
    typed = action.typed.strip()
    match action.setting:
        case "layer" | "bead":
            return parse_length(typed) if typed else None
        case "shells" | "solid_layers":
            number = parse_number(typed)
            if number != int(number):
                raise Refused("print-count", f"“{typed}” is no whole number", remedy="type one such as 3")
            return int(number)
        case "infill" | "support_density":
            return parse_number(typed.removesuffix("%").strip())
        case "supports":
            return typed == "yes"
        case "pattern":
            if typed not in ("lines", "waves"):
                raise Refused("print-pattern", f"there is no pattern “{typed}”", remedy="use lines or waves")
            return typed


def _with_settings(job: Job, settings: PrintSettings) -> Job:
    for plate in job.plates:
        plan_of(settings, plate.machine)
    return job.model_copy(update={"printing": settings})


def use_settings(job: Job, action: UsePrintSettings, store: GeometryStore) -> Job:
    """Take over settings as they are."""
    return _with_settings(job, action.settings)


def set_speed(job: Job, action: SetSpeed, store: GeometryStore) -> Job:
    """Change a speed of a machine, on every plate that has it."""
    machine = job.plate(action.plate).machine
    plan = plan_of(PrintSettings(), machine)
    name: Literal["curing", "motion"] = "curing" if machine.process.kind == "resin" else "motion"
    now: Motion | Curing = plan.curing if name == "curing" else plan.motion
    if action.speed not in type(now).model_fields:
        raise Refused("speed", f"there is no “{action.speed}”", remedy="choose one that is listed")
    number = parse_number(action.typed)
    try:
        changed = type(now).model_validate({**now.model_dump(), action.speed: number})
    except ValidationError:
        says = f"{action.typed.strip()} is no such speed or time"
        raise Refused("speed", says, remedy="type a plain number above 0") from None
    process = machine.process.model_copy(update={name: changed})
    return _with_machine(job, machine, machine.model_copy(update={"process": process}))


def note_print(job: Job, action: NotePrint, store: GeometryStore) -> Job:
    """Let a machine learn from a print, on every plate that has it."""
    seconds = _amount(action.time, "seconds", "h", "write for example 3 h 51, or 95 min")
    grams = _amount(action.grams, "grams", "g", "write for example 46.2")
    if not seconds and not grams:
        raise Refused("print-nothing", "nothing was typed", remedy="type how long it took, or what it weighs")
    machine = job.plate(action.plate).machine
    now = estimate_kept(job, action.plate) or quick_estimate(job, action.plate, store)
    if now.seconds <= 0 or now.grams <= 0:
        raise Refused("plate-empty", "nothing stands on this plate", remedy="seat something on it")
    known = learnt_of(machine, job.printing)
    record = PrintRecord(
        settings=settings_key(job.printing),
        estimated_s=now.seconds / known.time,
        estimated_g=now.grams / known.mass,
        actual_s=seconds,
        actual_g=grams,
    )
    for actual, estimated, what in (
        (seconds, record.estimated_s, "time"),
        (grams, record.estimated_g, "mass"),
    ):
        if actual and not estimated / _FAR <= actual <= estimated * _FAR:
            raise Refused(
                "print-absurd",
                f"this {what} is over {_FAR:g} times off the estimate",
                remedy="check the number and its unit",
            )
    return _with_machine(job, machine, with_record(machine, record))


def _amount(typed: str, kind: str, unit: str, remedy: str) -> float:
    """An amount of a kind, in the unit where none was typed; 0 where nothing was."""
    text = typed.strip()
    if not text:
        return 0.0
    budget = budget_of(text if text[-1].isalpha() or " h " in text else f"{text} {unit}")
    if budget.kind != kind:
        raise Refused(
            "print-unit", f"“{text}” is no {'time' if kind == 'seconds' else 'mass'}", remedy=remedy
        )
    return budget.most


def forget_prints(job: Job, action: ForgetPrints, store: GeometryStore) -> Job:
    """Let a machine forget what prints have taught it."""
    machine = job.plate(action.plate).machine
    process = machine.process.model_copy(update={"prints": ()})
    return _with_machine(job, machine, machine.model_copy(update={"process": process}))


def keep_set(job: Job, action: KeepPrintSet, store: GeometryStore) -> Job:
    """Keep the settings in use with a machine, and use them by that name."""
    name = " ".join(action.name.split())
    if not name:
        raise Refused("print-set", "a set needs a name", remedy="type one, such as shelf brackets")
    refuse_odd(name, "a set's name")
    if any(settings.name == name.lower() for settings in SETS):
        raise Refused("print-set", f"{name} is a set that comes with the app", remedy="give it another name")
    machine = job.plate(action.plate).machine
    settings = job.printing.model_copy(update={"name": name})
    others = tuple(kept for kept in machine.process.sets if kept.name != name)
    if len(others) >= _MOST_BUDGETS:
        raise Refused("print-sets", f"{_MOST_BUDGETS} sets are kept already", remedy="remove some")
    job = _with_sets(job, machine, (*others, settings))
    return job.model_copy(update={"printing": settings})


def forget_set(job: Job, action: ForgetPrintSet, store: GeometryStore) -> Job:
    """Forget a set that was kept with a machine."""
    machine = job.plate(action.plate).machine
    return _with_sets(job, machine, tuple(kept for kept in machine.process.sets if kept.name != action.name))


def _with_sets(job: Job, machine: Machine, sets: tuple[PrintSettings, ...]) -> Job:
    process = machine.process.model_copy(update={"sets": sets})
    return _with_machine(job, machine, machine.model_copy(update={"process": process}))


def _with_machine(job: Job, old: Machine, new: Machine) -> Job:
    """Return the job with another machine on every plate that had the old one."""
    plates = tuple(
        plate.model_copy(update={"machine": new}) if plate.machine == old else plate for plate in job.plates
    )
    return job.model_copy(update={"plates": plates})


def set_price(job: Job, action: SetPrice, store: GeometryStore) -> Job:
    """Set a price; without one that is left out of what a print costs."""
    text = action.typed.strip().removesuffix("g") if action.of == "spool" else action.typed
    price = parse_number(text) if text.strip() else None
    if price is not None and not 0 <= price <= 1e6:
        raise Refused("price", f"a price of {action.typed.strip()} is none", remedy="type 0 or more")
    if action.of == "material":
        return job.model_copy(update={"material": job.material.model_copy(update={"price": price})})
    change: dict[str, Any] = {"spool_g": price} if action.of == "spool" else {action.of: price or 0.0}
    return job.model_copy(update={"rates": job.rates.model_copy(update=change)})


def set_budget(job: Job, action: SetBudget, store: GeometryStore) -> Job:
    """Set a budget in the place of that of the same kind, or take one away."""
    known = {plate.id for plate in job.plates} | {body.id for body in job.bodies} | {""}
    if action.of not in known:
        raise Refused("budget-of", "what this budget is of is not there any more", remedy="choose another")
    if not action.typed.strip():
        kept = tuple(row for row in job.budgets if (row.of, row.kind) != (action.of, action.kind))
        return job.model_copy(update={"budgets": kept})
    budget = budget_of(action.typed, action.of)
    kinds = {budget.kind, action.kind}
    kept = tuple(row for row in job.budgets if row.of != action.of or row.kind not in kinds)
    if len(kept) >= _MOST_BUDGETS:
        raise Refused("budgets-many", f"there are {_MOST_BUDGETS} budgets already", remedy="take some away")
    return job.model_copy(update={"budgets": (*kept, budget)})


def scale_plate(job: Job, action: ScalePlate, store: GeometryStore) -> Job:
    """Make all that stands on a plate smaller."""
    job.plate(action.plate)
    owners = plate_owners(job, action.plate, store)
    if owners is None:
        raise Refused(
            "scale-plate",
            "something on this plate is a piece, is kept as it was drawn, or is stretched unequally",
            remedy="scale its whole on Truing",
        )
    return scaled_by(job, owners, action.factor, store)


def put_estimate(job: Job, action: PutEstimate, store: GeometryStore) -> Job:
    """Keep a full estimate of a plate in the place of an earlier one."""
    plates = {plate.id for plate in job.plates} - {action.plate}
    kept = tuple(row for row in job.estimates if row.plate in plates)
    new = KeptEstimate(plate=action.plate, key=action.key, estimate=action.estimate)
    return job.model_copy(update={"estimates": (*kept, new)})


def with_budgets(job: Job, succession: Succession) -> Job:
    """Return a job whose budgets are of the bodies that took over from those they were of."""
    follows = {str(old): new for old, new in succession.replacement.successor_of.items()}
    if not any(row.of in follows for row in job.budgets):
        return job
    budgets = tuple(
        row.model_copy(update={"of": follows[row.of]}) if row.of in follows else row for row in job.budgets
    )
    return job.model_copy(update={"budgets": budgets})


def without_lost(before: Job, after: Job) -> Job:
    """Return the job without budgets and estimates of what is not there any more."""
    if not after.budgets and not after.estimates:
        return after
    plates = {plate.id for plate in after.plates}
    known = plates | {body.id for body in after.bodies} | {""}
    budgets = tuple(row for row in after.budgets if row.of in known)
    estimates = tuple(row for row in after.estimates if row.plate in plates)
    if (len(budgets), len(estimates)) == (len(after.budgets), len(after.estimates)):
        return after
    return after.model_copy(update={"budgets": budgets, "estimates": estimates})


ACTIONS = (
    ActionHandler(SetPrinting, set_printing),
    ActionHandler(UsePrintSettings, use_settings),
    ActionHandler(SetSpeed, set_speed),
    ActionHandler(SetPrice, set_price),
    ActionHandler(NotePrint, note_print),
    ActionHandler(KeepPrintSet, keep_set),
    ActionHandler(ForgetPrintSet, forget_set),
    ActionHandler(ForgetPrints, forget_prints),
    ActionHandler(SetBudget, set_budget),
    ActionHandler(ScalePlate, scale_plate),
    ActionHandler(PutEstimate, put_estimate, by_user=False),
)
