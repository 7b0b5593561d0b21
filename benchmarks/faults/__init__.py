"""Faults on purpose: one at a time is put into the core, and a proof or a refusal must catch it.

A fault takes the place of one function or table, in every module of the core that uses it but those of the
proof. Small releases are made under it, from the bytes of a file to the bytes released. It is *caught* when
one of them is refused or not proven, and *escapes* when a file goes out as proven that differs from the
right one.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

from aimtrue.core.errors import AimTrueError
from benchmarks.faults.put_in import Fault, put_in, target_of
from benchmarks.faults.scenes import SCENES
from benchmarks.faults.table import FAULTS

_OF_THE_FAULT = (TypeError, AttributeError, NameError)
"""What stops a scene where the fault does not fit the core any more; the core raises none of these."""


@dataclass(frozen=True)
class Outcome:
    """How a fault fared.

    ``caught`` with what it was told by, ``escaped``, ``without effect``, or ``unfit`` where the fault itself
    fell over, as when the core has changed since it was written: then it shows nothing.
    """

    fault: Fault
    how: str
    told: str = ""


def right_files() -> list[list[bytes]]:
    """Make the releases of all scenes without a fault."""
    return [scene() for scene in SCENES]


def tried(fault: Fault, right: list[list[bytes]]) -> Outcome:
    """Put in a fault and make the scenes until one catches it.

    Args:
        fault: to put in.
        right: what the scenes give without one.
    """
    escaped = False
    target_of(fault)
    for scene, wanted in zip(SCENES, right, strict=True):
        try:
            with put_in(fault):
                made = scene()
        except AimTrueError as error:
            return Outcome(fault, "caught", error.code)
        except Exception as error:  # noqa: BLE001 - whatever it is, it is told
            if isinstance(error, _OF_THE_FAULT):
                return Outcome(fault, "unfit", f"{type(error).__name__}: {error}")
            return Outcome(fault, "caught", f"stopped by {type(error).__name__}")
        escaped |= made != wanted
    return Outcome(fault, "escaped" if escaped else "without effect")


def report() -> int:
    """Try every fault and print what became of it; return how many were not caught."""
    started = time.perf_counter()
    right = right_files()
    outcomes = [tried(fault, right) for fault in FAULTS]
    print(f"{'room':<12} {'fault':<50} {'outcome':<16} told by")
    for one in outcomes:
        print(f"{one.fault.room:<12} {one.fault.says:<50} {one.how:<16} {one.told}")
    missed = [outcome for outcome in outcomes if outcome.how != "caught"]
    took = time.perf_counter() - started
    print(f"{len(outcomes)} faults, {len(outcomes) - len(missed)} caught, in {took:.0f} s")
    return len(missed)
