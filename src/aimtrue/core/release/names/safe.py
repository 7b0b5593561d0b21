"""Names that Windows, macOS and Linux all take, and that none of them takes for one another."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Container

from aimtrue.core.errors import Refused

LONGEST = 80
"""Characters of a name without its ending; what is longer is cut."""
LONGEST_BYTES = 200
"""Bytes of it in UTF-8: file systems take 255 with the ending, and old archives and cards fewer."""

_DEVICE_NAMES = {
    *("con", "prn", "aux", "nul", "conin$", "conout$"),
    *(f"{port}{digit}" for port in ("com", "lpt") for digit in "0123456789¹²³"),
}
"""Names that Windows keeps for devices, with or without an ending (Naming Files, Paths, and Namespaces)."""


def safe(text: str) -> str:
    """Return a name of letters and digits of any script, ``-``, ``_`` and ``.`` that any file system takes.

    In Unicode's normal form C, which is what all three systems show alike; accents that stand alone, signs
    and what cannot be seen become a hyphen; no leading or trailing dot; no name of a device.

    Raises:
        Refused: nothing is left.
    """
    plain = unicodedata.normalize("NFC", unicodedata.normalize("NFKC", text))
    kept = "".join(char if _plain(char) else " " for char in plain)
    name = re.sub(r"-*\s+-*", "-", kept.strip())
    name = cut(re.sub(r"-{2,}", "-", name).strip("-._"), LONGEST, LONGEST_BYTES)
    if not name:
        raise Refused(
            "name-empty",
            f"“{text[:40]}” leaves no usable file name",
            remedy="type a name with letters or digits",
        )
    first, dot, rest = name.partition(".")
    return f"{first}-part{dot}{rest}" if first.lower() in _DEVICE_NAMES else name


def _plain(char: str) -> bool:
    # Combining marks are letters' own in many scripts; those left over after composing are kept with them.
    return char.isalnum() or char in "-_." or unicodedata.category(char) in ("Mn", "Mc")


def cut(name: str, characters: int, most_bytes: int = LONGEST_BYTES) -> str:
    """Return a name cut to so many characters and bytes, never within a letter; no dot or hyphen at its
    end.
    """
    name = name[:characters]
    while len(name.encode()) > most_bytes or (name and unicodedata.combining(name[-1]) and len(name) == 1):
        name = name[:-1]
    return name.rstrip("-._ ")


def key_of(name: str) -> str:
    """Return what tells a name from others on every system: neither case nor the way accents are coded
    does.
    """
    return unicodedata.normalize("NFKC", unicodedata.normalize("NFKC", name).casefold())


def unique(name: str, taken: Container[str], longest: int = LONGEST) -> str:
    """Return a name, with a number when it is taken.

    Args:
        name: without its ending.
        taken: keys, by :func:`key_of`, of names without their endings.
        longest: characters that it may have.
    """
    number, candidate = 2, name
    while key_of(candidate) in taken:
        more = f"-{number}"
        candidate = cut(name, longest - len(more), LONGEST_BYTES - len(more)) + more
        number += 1
    return candidate
