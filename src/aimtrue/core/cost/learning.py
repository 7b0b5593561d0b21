"""This module learns from prints: by how much a machine takes longer, or uses more, than was estimated.

What is learnt is the median of the ratios of actual to estimated values, so that one odd value does not
count. It is that of prints with the same settings where there are any, else of all prints of the machine.
"""

from __future__ import annotations

import statistics
from dataclasses import dataclass

from aimtrue.core.model.machine import Machine
from aimtrue.core.model.printing import PrintRecord, PrintSettings

MOST_RECORDS = 40
"""Of more prints the oldest are let go of: a machine changes."""


@dataclass(frozen=True)
class Learnt:
    """What prints have taught.

    Attributes:
        count: how many prints.
        time, mass: what estimates are multiplied by; 1 where nothing is known.
        says: how far off estimates were before and are after that; empty where nothing is known.
    """

    count: int = 0
    time: float = 1.0
    mass: float = 1.0
    says: str = ""


def settings_key(settings: PrintSettings) -> str:
    """Return what tells settings from others, whatever they are called."""
    return settings.model_copy(update={"name": ""}).model_dump_json(exclude_defaults=True)


def learnt_of(machine: Machine, settings: PrintSettings) -> Learnt:
    """Return what the prints of a machine have taught for some settings."""
    every = machine.process.prints
    alike = [record for record in every if record.settings == settings_key(settings)] or list(every)
    times = [record.actual_s / record.estimated_s for record in alike if record.actual_s]
    masses = [record.actual_g / record.estimated_g for record in alike if record.actual_g]
    if not times and not masses:
        return Learnt()
    time = statistics.median(times) if times else 1.0
    mass = statistics.median(masses) if masses else 1.0
    count = f"{len(alike)} print{'s' if len(alike) > 1 else ''}"
    parts = [
        f"{what} was off by {_off(ratios, 1.0)}, is now by {_off(ratios, factor)}"
        for what, ratios, factor in (("time", times, time), ("mass", masses, mass))
        if ratios
    ]
    return Learnt(len(alike), time, mass, f"of {count}: {'; '.join(parts)}")


def _off(ratios: list[float], factor: float) -> str:
    """How far estimates were off in the middle of all prints, as a share of what was estimated."""
    return f"{100 * statistics.median(abs(ratio / factor - 1) for ratio in ratios):.0f} %"


def with_record(machine: Machine, record: PrintRecord) -> Machine:
    """Return a machine that knows of one more print."""
    prints = (*machine.process.prints, record)[-MOST_RECORDS:]
    return machine.model_copy(update={"process": machine.process.model_copy(update={"prints": prints})})
