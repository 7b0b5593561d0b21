"""What `aimtrue bench` measures, by its options."""

from __future__ import annotations

import argparse
from importlib import import_module

_BY_OPTION: dict[str, tuple[str, tuple[str, ...]]] = {
    "picture": ("picture:first_picture", ("triangles",)),
    "drag": ("drag:dragged", ("triangles",)),
    "truing": ("truing:truing", ("triangles",)),
    "seating": ("seating:seating", ("triangles",)),
    "fit": ("fit:fit", ("triangles",)),
    "cost": ("cost:cost", ()),
    "division": ("division:division", ("triangles",)),
    "actions": ("actions:actions", ()),
    "many": ("many:many", ()),
    "faults_in_core": ("faults:report", ()),
    "kills": ("kills:kills", ("kills",)),
    "fuzz": ("fuzz:fuzz", ("fuzz", "first")),
    "soak": ("soak:soak", ("soak",)),
    "cad": ("cad:cad", ()),
    "knock": ("knock:knock", ("knock",)),
    "walk": ("walk.report:report", ("walk",)),
    "workers": ("workers:workers", ()),
    "verdict": ("verdict:report", ()),
}
_ELSE = ("run:bench", ("triangles", "curve"))


def chosen(asked: argparse.Namespace) -> int:
    """Measure what the options name, speed against a general library if they name nothing.

    Returns:
        1 where anything was not as it should be.
    """
    option = next((name for name in _BY_OPTION if getattr(asked, name)), "")
    where, given = _BY_OPTION.get(option, _ELSE)
    module, _, function = where.partition(":")
    measure = getattr(import_module(f"benchmarks.{module}"), function)
    return min(int(measure(*(getattr(asked, one) for one in given))), 1)
