"""Text that people give names with: what nobody can read or type is no part of a name."""

from __future__ import annotations

import unicodedata
from typing import Annotated

from pydantic import AfterValidator, Field

from aimtrue.core.errors import Refused

_UNSEEN = ("Cc", "Cs")
"""Unicode's control characters, and halves of characters that lost the other half."""
NAME_OF_FILE = 1000
"""Characters of a file's name at most, its folders included."""


_MOST_BYTES = 255
"""One part of a path has at most this many bytes on every file system in use."""


def one_part(name: str) -> str:
    """Return what names a file in a folder, and nothing outside of it.

    Raises:
        ValueError: it is no single part of a path: a folder, a way up, a drive, or unseen characters.
    """
    odd = any(char in "/\\:" or unicodedata.category(char) in _UNSEEN for char in name)
    if odd or name.strip(" .") == "" or len(name.encode("utf-8", "surrogatepass")) > _MOST_BYTES:
        raise ValueError("it does not name a file of one folder")
    return name


FileName = Annotated[str, AfterValidator(one_part)]
"""The name of a file, without any folder."""
Sha256 = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
"""A hash as it is written here: 64 hexadecimal digits in small letters."""


def is_sha256(name: str) -> bool:
    """Whether a text is a hash as it is written here."""
    return len(name) == _DIGITS and set(name) <= set("0123456789abcdef")


_DIGITS = 64


def plain(text: str, most: int = NAME_OF_FILE) -> str:
    """Return text from a file as it can be shown and kept: unseen characters are spaces, of too many the
    first.
    """
    seen = "".join(" " if unicodedata.category(letter) in _UNSEEN else letter for letter in text[:most])
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
    if any(unicodedata.category(letter) in _UNSEEN for letter in text):
        raise Refused(
            "name-odd", f"{what} holds a character that cannot be seen", remedy="give one without it"
        )
