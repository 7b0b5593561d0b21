"""A short walk over HTTP: journeys drawn at random, against the oracle; at length with ``bench --walk``."""

from hypothesis.stateful import run_state_machine_as_test

from benchmarks.walk.report import over_http, rules_of
from tests.house import House


def test_a_walk_over_http(house: House) -> None:
    run_state_machine_as_test(over_http(house), settings=rules_of(8, steps=25, shorten=False))
