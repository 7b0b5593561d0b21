"""Names of bodies and readings."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.model.text import refuse_odd

_NAME_LENGTH = 80


def free_name(wanted: str, taken: set[str]) -> str:
    """Return the name, with a number after it when it is taken."""
    if wanted not in taken:
        return wanted
    number = 2
    while (name := f"{wanted[: _NAME_LENGTH - 6]} ({number})") in taken:
        number += 1
    return name


def a_name(typed: str) -> str:
    """Return a name as it was typed, without spaces around and doubled within.

    Raises:
        Refused: it is empty, too long, or holds what cannot be seen.
    """
    name = " ".join(typed.split())
    if not name:
        raise Refused("name-empty", "a name cannot be empty", remedy="type a name")
    refuse_odd(name, "a name", _NAME_LENGTH)
    return name
