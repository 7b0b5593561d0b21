"""Text that people give names with: what nobody can read or type is no part of a name."""

from __future__ import annotations

import unicodedata

from aimtrue.core.errors import Refused

_UNSEEN = ("Cc", "Cs")
"""Unicode's control characters, and halves of characters that lost the other half."""
NAME_OF_FILE = 1000
"""Characters of a file's name at most, its folders included."""


def plain(text: str, most: int = NAME_OF_FILE) -> str:
    """Return text from a file as it can be shown and kept: unseen characters are spaces, of too many the
    first.
    """
    seen = "".join(" " if unicodedata.category(one) in _UNSEEN else one for one in text[:most])
    return " ".join(seen.split()) if seen != text else text


def refuse_odd(text: str, what: str, most: int = NAME_OF_FILE) -> None:
    """Refuse what was given as a name and is none.

    Args:
        text: as given.
        what: it is, to begin a sentence with.
        most: characters.

    Raises:
        Refused: it is too long, or holds characters that nobody can see.
    """
    if len(text) > most:
        raise Refused("name-long", f"{what} can have at most {most} characters", remedy="give a shorter one")
    if any(unicodedata.category(one) in _UNSEEN for one in text):
        raise Refused(
            "name-odd", f"{what} holds a character that cannot be seen", remedy="give one without it"
        )
