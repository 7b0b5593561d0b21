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


def numbered_names(pattern: str, names: list[str]) -> list[str]:
    """Return a name for each of several bodies, all of one pattern.

    Args:
        pattern: as typed; ``{n}`` is the number of each, ``{name}`` what it is called now. Where it has
            neither, a number comes after it.
        names: what they are called now, in their order.

    Raises:
        Refused: a name is empty, too long or odd, or two of them would be the same.

    Example:
        >>> numbered_names("rib {n} of 2", ["a", "b"])
        ['rib 1 of 2', 'rib 2 of 2']
    """
    if "{n}" not in pattern and "{name}" not in pattern and len(names) > 1:
        pattern = f"{pattern} {{n}}" if pattern.strip() else pattern
    given = [
        a_name(pattern.replace("{n}", str(number)).replace("{name}", name))
        for number, name in enumerate(names, start=1)
    ]
    if len(set(given)) < len(given):
        raise Refused("name-taken", "two of them would be called the same", remedy="put {n} into the name")
    return given


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
