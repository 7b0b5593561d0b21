"""This module reads what is typed for a part: a kind, sizes between ``x``, and words."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import Unit, parse_length, written
from aimtrue.core.model.threads import INCH, THREADS, ThreadSize

_TIMES = re.compile(r"\s*[x×*]\s*", re.IGNORECASE)
_LONGEST_TEXT = 120
_OF_INCH_SIZE = re.compile(
    r"(?P<size>#\s*\d+|\d+/\d+)(?:\s*in(?![a-z])|\s*\")?\s*(?:-\s*(?P<turns>\d+))?", re.I
)
_OF_METRIC_SIZE = re.compile(r"m\s*(?P<size>\d+(?:[.,]\d+)?)", re.I)


@dataclass(frozen=True)
class TypedPart:
    """What was typed: a kind and the rest, with the words that choose among variants taken off.

    Attributes:
        kind: the first word, as a kind of part.
        rest: what follows, without those words.
        words: the words that were found in it, in lower case.
    """

    kind: str
    rest: str
    words: frozenset[str]


def cleaned(text: str) -> str:
    """Return typed text with single spaces.

    Raises:
        Refused: it is empty, or far too long for a part.
    """
    plain = " ".join(text.split())
    if not plain:
        raise Refused(
            "stock-empty", "nothing was typed", remedy="type a part, such as M5x20 or tube 50x46x60"
        )
    if len(plain) > _LONGEST_TEXT:
        raise Refused(
            "stock-unreadable", f"“{plain[:30]} …” is no part", remedy="type one, such as M5x20 or nut M6"
        )
    return plain


def without_words(text: str, known: Iterable[str]) -> tuple[str, frozenset[str]]:
    """Take known words off a text; a longer one before a shorter one that it begins with."""
    words: set[str] = set()
    for word in sorted(known, key=len, reverse=True):
        pattern = re.compile(rf"(?<![\w]){re.escape(word)}(?![\w])", re.IGNORECASE)
        if pattern.search(text):
            words.add(word)
            text = pattern.sub(" ", text)
    return " ".join(text.replace(" ,", ",").split()).strip(" ,"), frozenset(words)


def factors(text: str) -> list[str]:
    """Divide ``140.3 x 136 x 60`` into its sizes; nothing of nothing."""
    return [part.strip() for part in _TIMES.split(text.strip())] if text.strip() else []


def sizes(text: str, names: Sequence[str], example: str) -> list[float]:
    """Read as many lengths as there are names, in mm.

    Args:
        text: as typed, between ``x``.
        names: what each length is, for the message.
        example: of the whole part.

    Raises:
        Refused: there are more or fewer, or one is no length.
    """
    parts = factors(text)
    if len(parts) != len(names):
        raise Refused(
            "stock-sizes",
            f"“{text}” has {len(parts)} sizes; {len(names)} are wanted: {', '.join(names)}",
            remedy=f"write {example}",
        )
    return [parse_length(part) for part in parts]


def thread_size(text: str) -> tuple[ThreadSize, list[str]]:
    """Read a thread's size and what follows it between ``x``.

    Args:
        text: ``M5``, ``M5x20``, ``M8x1x20``, ``#10x1/2``, ``1/4-28 x 1``.

    Returns:
        The size, and the further sizes as typed. Of a metric one the first of several that is below a
        quarter of the diameter is its pitch.

    Raises:
        Refused: no standard has this size; the nearest ones are named.
    """
    metric = _OF_METRIC_SIZE.match(text)
    inch = _OF_INCH_SIZE.match(text)
    if metric:
        diameter = float(metric["size"].replace(",", "."))
        size, after = f"M{diameter:g}", factors(_after(text, metric.end()))
        return _metric_size(size, diameter, after)
    if inch:
        size = inch["size"].replace(" ", "")
        after = factors(_after(text, inch.end()))
        return _inch_size(size, inch["turns"]), after
    raise Refused(
        "stock-thread",
        f"“{text}” begins with no thread size",
        remedy="write M5, #10, 1/4 or a size like these",
    )


def _after(text: str, end: int) -> str:
    """What follows a size, without the ``x`` that divides them."""
    return _TIMES.sub("", text[end:], count=1) if _TIMES.match(text[end:]) else text[end:]


def _metric_size(size: str, diameter: float, after: list[str]) -> tuple[ThreadSize, list[str]]:
    of_size = [thread for thread in THREADS if thread.size == size]
    if not of_size:
        raise _no_size(size, diameter, metric=True)
    pitch = _as_pitch(after[0]) if len(after) > 1 or (after and _is_pitch(after[0], diameter)) else None
    if pitch is None:
        return of_size[0], after
    for thread in of_size:
        if abs(thread.pitch - pitch) < 1e-6:
            return thread, after[1:]
    pitches = ", ".join(f"{thread.pitch:g}" for thread in of_size)
    raise Refused(
        "stock-pitch", f"ISO 261 has no {size} with a pitch of {pitch:g}", remedy=f"use one of {pitches}"
    )


def _is_pitch(text: str, diameter: float) -> bool:
    number = _as_pitch(text)
    return number is not None and number < 0.3 * diameter


def _as_pitch(text: str) -> float | None:
    return float(text) if re.fullmatch(r"\d*\.?\d+", text) else None


def _inch_size(size: str, turns: str | None) -> ThreadSize:
    of_size = [thread for thread in THREADS if thread.size == size]
    if not of_size:
        raise _no_size(size, _inches(size) * INCH, metric=False)
    if turns is None:
        return of_size[0]
    for thread in of_size:
        if round(INCH / thread.pitch) == int(turns):
            return thread
    counts = " or ".join(f"{INCH / thread.pitch:.0f}" for thread in of_size)
    raise Refused(
        "stock-pitch", f"ASME B1.1 has no {size} with {turns} turns an inch", remedy=f"use {counts}"
    )


def _inches(size: str) -> float:
    if size.startswith("#"):
        return 0.060 + 0.013 * int(size[1:])
    above, _, below = size.partition("/")
    return int(above) / max(int(below), 1)


def _no_size(size: str, diameter: float, *, metric: bool) -> Refused:
    names = {thread.size: thread.diameter for thread in THREADS if thread.size.startswith("M") == metric}
    return Refused(
        "stock-size",
        f"no standard here has {size}",
        remedy=f"the nearest are {nearest_named(names, diameter)}",
    )


def nearest_named(sizes_by_name: dict[str, float], wanted: float, count: int = 2) -> str:
    """Name the sizes nearest to what is wanted, the smaller first."""
    near = sorted(sizes_by_name, key=lambda name: abs(sizes_by_name[name] - wanted))[:count]
    return " and ".join(sorted(near, key=lambda name: sizes_by_name[name]))


def nearest_lengths(lengths: Iterable[float], wanted: float) -> str:
    """Name the lengths nearest to what is wanted, in mm."""
    return nearest_named(
        {f"{written(length, 3).rstrip('0').rstrip('.')}": length for length in lengths}, wanted
    )


def length_of(typed: str, *, inch: bool) -> float:
    """Read the length of a fastener in mm; a bare number is in the unit of its thread."""
    return parse_length(typed, Unit.IN if inch else Unit.MM)


def exact(mm: float) -> str:
    """Write a length so that reading it again gives the very same number: ``140.3``, ``60``."""
    return repr(float(mm)).removesuffix(".0")
