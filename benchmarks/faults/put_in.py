"""A fault, and how it is put into the core for a while."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from importlib import import_module
from types import ModuleType
from typing import Any

_CORE = "aimtrue.core."
_PROOF = "aimtrue.core.proof"
Wrong = Callable[[Any], Any]


@dataclass(frozen=True)
class Fault:
    """What is put in the place of what.

    Attributes:
        room: of the core that it is in.
        says: in words.
        at: module and name within the core; a name with a dot is a method.
        wrong: makes the wrong thing of the right one.
    """

    room: str
    says: str
    at: str
    wrong: Wrong


def target_of(fault: Fault) -> tuple[ModuleType, str, str, Any]:
    """Return the module that a fault goes into, the class in it or nothing, the name there, and its value.

    Raises:
        ImportError, AttributeError: there is no such thing any more, so the fault would prove nothing.
    """
    module_name, _, name = fault.at.partition(":")
    module = import_module(_CORE + module_name)
    holder, _, attribute = name.rpartition(".")
    return module, holder, attribute, getattr(getattr(module, holder) if holder else module, attribute)


@contextlib.contextmanager
def put_in(fault: Fault) -> Iterator[None]:
    """Put a fault into the core for a while."""
    module, holder, attribute, right = target_of(fault)
    wrong = fault.wrong(right)
    places: list[tuple[Any, str]] = []
    if holder:
        places.append((getattr(module, holder), attribute))
    else:
        for key, other in list(sys.modules.items()):
            if key.startswith(_CORE) and not key.startswith(_PROOF):
                places += [(other, word) for word, value in vars(other).items() if value is right]
    for place, word in places:
        setattr(place, word, wrong)
    try:
        yield
    finally:
        for place, word in places:
            setattr(place, word, right)
