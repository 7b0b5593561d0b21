"""Whole journeys drawn at random, held against an oracle of their own; at length with ``bench --walk``."""

from hypothesis import HealthCheck, settings

from benchmarks.walk.walk import Walk

TestWalk = Walk.TestCase
TestWalk.settings = settings(
    max_examples=150, stateful_step_count=25, deadline=None, suppress_health_check=list(HealthCheck)
)
