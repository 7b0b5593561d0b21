"""This module adds up what all plates of a job take, and plans them onto machines.

The plan is the longest first: each plate goes to the machine of its kind that is free soonest, the longest
plates before the others. It ends at most 4/3 of the best possible later (Graham, *Bounds on multiprocessing
timing anomalies*, 1969).
"""

from __future__ import annotations

import heapq
from collections.abc import Mapping

from aimtrue.core.cost.budgets import time_words
from aimtrue.core.cost.survey import PlateCost, cost_survey
from aimtrue.core.cost.totals import strand_metres
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value

SPOOL_G = 1000.0
"""What a spool holds unless told otherwise, in g."""
_MOST_MACHINES, _MOST_TIMES = 1000, 10_000


class PlannedPlate(Value):
    """One making of a plate.

    Attributes:
        plate, number: which.
        machine: on which of its kind, from 1.
        start_s, end_s: from now.
        says: how long it takes, in words; ``done`` when it ends, from now.
    """

    plate: PlateId
    number: int
    machine: int
    start_s: float
    end_s: float
    says: str
    done: str


class MachinePlan(Value):
    """What machines of one kind make.

    Attributes:
        name: of the kind; ``machines`` how many there are.
        seconds: of all plates together; ``says`` that in words.
        end_s: when the last one is done, from now; ``done`` that in words.
        plates: in the order in which they begin.
    """

    name: str
    machines: int
    seconds: float
    says: str
    end_s: float
    done: str
    plates: tuple[PlannedPlate, ...]


class MaterialTally(Value):
    """What is used of a material, and how many spools that is."""

    name: str
    grams: float
    strand_m: float
    spools: float


class TallyView(Value):
    """What all plates of a job take, so many times.

    Attributes:
        times: how often every plate is made.
        seconds, says: of all of them, one after the other.
        grams, cost: of all of them.
        plans: for each kind of machine.
        materials: that are used.
        longest: the body that takes longest, in words.
        approximate: whether any of that is quick.
    """

    times: int
    seconds: float
    says: str
    grams: float
    cost: float
    plans: tuple[MachinePlan, ...]
    materials: tuple[MaterialTally, ...]
    longest: str
    approximate: bool


def tally(
    job: Job, store: GeometryStore, times: int = 1, machines: Mapping[str, int] | None = None
) -> TallyView:
    """Add up all plates of a job.

    Args:
        job: with its plates.
        store: gives the meshes.
        times: how often every plate is made.
        machines: how many there are of each kind, by name; one of those that are left out.

    Raises:
        Refused: a number is none that anybody has.
    """
    if not 1 <= times <= _MOST_TIMES:
        raise Refused("tally-times", f"{times} times is none", remedy=f"type 1 to {_MOST_TIMES}")
    if any(not 1 <= count <= _MOST_MACHINES for count in (machines or {}).values()):
        raise Refused("tally-machines", "so many machines nobody has", remedy=f"type 1 to {_MOST_MACHINES}")
    told = cost_survey(job, store)
    numbers = {plate.id: number for number, plate in enumerate(job.plates, start=1)}
    by_machine: dict[str, list[PlateCost]] = {}
    for row in told.plates:
        by_machine.setdefault(job.plate(row.plate).machine.name, []).append(row)
    plans = tuple(
        _planned(name, rows, numbers, times, (machines or {}).get(name, 1))
        for name, rows in by_machine.items()
    )
    seconds = times * told.seconds
    return TallyView(
        times=times,
        seconds=seconds,
        says=time_words(seconds),
        grams=times * told.grams,
        cost=times * told.cost,
        plans=plans,
        materials=_materials(job, told.plates, times),
        longest=_longest(told.plates),
        approximate=told.approximate,
    )


def _planned(
    name: str, rows: list[PlateCost], numbers: Mapping[PlateId, int], times: int, count: int
) -> MachinePlan:
    free = [(0.0, machine) for machine in range(1, count + 1)]
    heapq.heapify(free)
    planned = []
    longest_first = sorted(rows, key=lambda row: -row.best.seconds)
    for row in (row for row in longest_first for _ in range(times)):
        start, machine = heapq.heappop(free)
        end = start + row.best.seconds
        heapq.heappush(free, (end, machine))
        planned.append(
            PlannedPlate(
                plate=row.plate,
                number=numbers[row.plate],
                machine=machine,
                start_s=start,
                end_s=end,
                says=time_words(row.best.seconds),
                done=time_words(end),
            )
        )
    seconds, last = sum(row.best.seconds for row in rows) * times, max(end for end, _ in free)
    return MachinePlan(
        name=name,
        machines=count,
        seconds=seconds,
        says=time_words(seconds),
        end_s=last,
        done=time_words(last),
        plates=tuple(sorted(planned, key=lambda plate: (plate.start_s, plate.machine))),
    )


def _materials(job: Job, plates: tuple[PlateCost, ...], times: int) -> tuple[MaterialTally, ...]:
    grams: dict[str, float] = {}
    known = {}
    for plate in plates:
        for row in plate.best.by_body:
            material = job.material_of(job.body(row.id))
            known[material.name] = material
            grams[material.name] = grams.get(material.name, 0.0) + times * row.grams
    return tuple(
        MaterialTally(
            name=name,
            grams=much,
            strand_m=strand_metres(1000 * much / known[name].density, known[name]),
            spools=much / SPOOL_G,
        )
        for name, much in grams.items()
    )


def _longest(plates: tuple[PlateCost, ...]) -> str:
    seconds: dict[str, float] = {}
    for plate in plates:
        for row in plate.best.by_body:
            seconds[row.body] = seconds.get(row.body, 0.0) + row.seconds
    if len(seconds) < 2:
        return ""
    name = max(seconds, key=lambda body: seconds[body])
    share = seconds[name] / max(sum(seconds.values()), 1e-9)
    return f"{name} takes longest: {time_words(seconds[name])}, {100 * share:.0f} %"


class JobTally(Value):
    """What one of several jobs takes; ``refused`` says why nothing can be told of it."""

    id: str
    name: str
    seconds: float = 0.0
    says: str = ""
    grams: float = 0.0
    cost: float = 0.0
    refused: str = ""


class JobsTally(Value):
    """What several jobs take together, and when machines of each kind are done with all of them."""

    jobs: tuple[JobTally, ...]
    seconds: float
    says: str
    grams: float
    cost: float
    spools: float
    machines: tuple[str, ...]


def tally_of_jobs(jobs: Mapping[str, Job], store: GeometryStore) -> JobsTally:
    """Add up several jobs, by their ids; the machine time of each kind in words."""
    rows, by_machine = [], dict[str, float]()
    for key, job in jobs.items():
        told = cost_survey(job, store)
        refused = told.refused or (
            "" if told.plates else "nothing of it stands on a plate, or its unit is not settled"
        )
        rows.append(
            JobTally(
                id=key, name=job.name, seconds=told.seconds, says=told.time, grams=told.grams, cost=told.cost,
                refused=refused,
            )
        )  # fmt: skip
        for plate in told.plates:
            name = job.plate(plate.plate).machine.name
            by_machine[name] = by_machine.get(name, 0.0) + plate.best.seconds
    seconds, grams = sum(row.seconds for row in rows), sum(row.grams for row in rows)
    return JobsTally(
        jobs=tuple(rows),
        seconds=seconds,
        says=time_words(seconds),
        grams=grams,
        cost=sum(row.cost for row in rows),
        spools=grams / SPOOL_G,
        machines=tuple(f"{name}: {time_words(much)}" for name, much in by_machine.items()),
    )
