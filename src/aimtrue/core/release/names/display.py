"""Names short enough for a machine's display: words abbreviated, numbers kept, still distinct."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence

from aimtrue.core.errors import Refused
from aimtrue.core.release.names.safe import cut, key_of, unique

_WORDS = re.compile(r"[^\W\d_]+|\d+(?:[.,x]\d+)*|[\W_]+")
_VOWELS = re.compile(r"(?<=.)[aeiouyäöüéèà](?=.)", re.IGNORECASE)
_SHORTEST = 3
"""Characters that a display must show, its ending left out, for names to be told apart at all."""


def shortened(names: Sequence[str], longest: int, others: Collection[str] = ()) -> list[str]:
    """Shorten names to so many characters, distinct from one another.

    In this order, and only as far as needed: vowels within words go, words are cut, longest first, to three
    letters, what joins them goes, and the end is cut. Numbers are kept to the last, since they tell copies,
    plates and releases apart.

    Args:
        names: without their endings.
        longest: characters each may have.
        others: keys, by :func:`key_of`, of names that are taken.

    Raises:
        Refused: the display shows too few characters to tell names apart.

    Example: ``["setting-dial-ring_r12"]`` to 12 gives ``["sttdlrng_r12"]``.
    """
    if longest < _SHORTEST:
        raise Refused(
            "display-short",
            "the machine's display shows too few characters to tell files apart",
            remedy="set how many it shows, on sheet 5, or do not shorten names for it",
        )
    short_names: list[str] = []
    taken = set(others)
    for name in names:
        short = unique(_short(name, longest), taken, longest)
        taken.add(key_of(short))
        short_names.append(short)
    return short_names


def _short(name: str, longest: int) -> str:
    if len(name) <= longest:
        return name
    parts = _WORDS.findall(name)
    for change in (_without_vowels, _cut_words, _without_joints):
        parts = change(parts, longest)
        if _length(parts) <= longest:
            return "".join(parts)
    return _cut_end(parts, longest)


def _length(parts: list[str]) -> int:
    return sum(map(len, parts))


def _is_word(part: str) -> bool:
    return part[0].isalpha()


def _without_vowels(parts: list[str], longest: int) -> list[str]:
    """Take vowels out of the longest word first, until it fits; the first letter and short words stay."""
    without_vowels = list(parts)
    for at in sorted((i for i, part in enumerate(parts) if _is_word(part)), key=lambda i: -len(parts[i])):
        if _length(without_vowels) <= longest:
            break
        if len(without_vowels[at]) > 4:
            without_vowels[at] = _VOWELS.sub("", without_vowels[at])
    return without_vowels


def _cut_words(parts: list[str], longest: int) -> list[str]:
    """Cut the longest word by a letter, again and again, until it fits or all have three."""
    cut_words = list(parts)
    while _length(cut_words) > longest:
        words = [i for i, part in enumerate(cut_words) if _is_word(part) and len(part) > 3]
        if not words:
            break
        at = max(words, key=lambda i: len(cut_words[i]))
        cut_words[at] = cut_words[at][:-1]
    return cut_words


def _without_joints(parts: list[str], longest: int) -> list[str]:
    """Take out what joins words, from the start; between two numbers it stays."""
    without_joints = list(parts)
    for at in range(1, len(without_joints) - 1):
        if _length(without_joints) <= longest:
            break
        joint = not _is_word(without_joints[at]) and not without_joints[at][0].isdigit()
        if joint and (without_joints[at - 1][-1:].isalpha() or without_joints[at + 1][:1].isalpha()):
            without_joints[at] = ""
    return without_joints


def _cut_end(parts: list[str], longest: int) -> str:
    """Keep the last numbers, and as much of what comes before as fits."""
    name = "".join(parts)
    tail = re.search(r"[^\d]?\d+(?:[^\d]\d+)*$", name)
    end = tail[0] if tail and len(tail[0]) < longest else ""
    return (cut(name[: len(name) - len(end)], longest - len(end)) + end) or name[:longest]
