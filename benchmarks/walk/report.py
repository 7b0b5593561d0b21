"""The walk at length: through the core in this process, and over HTTP beside it in another."""

from __future__ import annotations

import multiprocessing
import time

from hypothesis import HealthCheck, Phase, settings
from hypothesis.stateful import run_state_machine_as_test

from benchmarks.walk.doors import Door, ServerDoor
from benchmarks.walk.walk import Walk
from tests.house import House, own_folder


def report(minutes: float) -> int:
    """Walk for some minutes; what goes wrong is told with the shortest way to it, and ends the walk."""
    ends = time.time() + 60 * minutes
    beside = multiprocessing.get_context("spawn").Process(target=_over_http, args=(ends,))
    beside.start()
    try:
        _go_on(Walk, ends, "through the core")
    finally:
        beside.join()
    return 1 if beside.exitcode else 0


def over_http(house: House) -> type[Walk]:
    """Return the walk over HTTP, with jobs of a running house."""

    class HttpWalk(Walk):
        def enter(self, name: str, data: bytes) -> Door:
            return ServerDoor(house.address, name, data)

    return HttpWalk


def rules_of(examples: int, steps: int, shorten: bool) -> settings:
    """Return how walks are drawn; over HTTP what goes wrong is not shortened, for that takes minutes."""
    return settings(
        max_examples=examples,
        stateful_step_count=steps,
        deadline=None,
        database=None,
        phases=[Phase.generate, *([Phase.shrink] if shorten else [])],
        suppress_health_check=list(HealthCheck),
    )


def _over_http(ends: float) -> None:
    with own_folder() as folder:
        house = House(folder)
        try:
            house.start()
            _go_on(over_http(house), ends, "over HTTP", examples=20)
        finally:
            house.stop()


def _go_on(walk: type[Walk], ends: float, where: str, examples: int = 200) -> None:
    rules = rules_of(examples, steps=40, shorten=walk is Walk)
    walks = 0
    while time.time() < ends:
        run_state_machine_as_test(walk, settings=rules)
        walks += examples
        print(f"{walks} walks of up to 40 steps {where}, nothing wrong", flush=True)
