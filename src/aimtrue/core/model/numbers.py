"""Numbers as people type them: the one grammar that every typed field shares.

A number is written with a decimal point or a decimal comma. Digits may be grouped by threes with an
apostrophe or a space (``1'000``, ``12 500``), which can mean nothing else. A comma before exactly three
digits can be a decimal comma or a separator, so it is refused, but for a leading zero (``0,125``). The
pages read the few numbers that they take themselves by the same rules (``web/src/blocks/typed.ts``);
``web/src/blocks/typed.cases.json`` holds both to each other.
"""

from __future__ import annotations

import math
import re

from aimtrue.core.errors import Refused

_SPACES = re.compile("[\u00a0\u2009\u202f]")
_GROUPED = re.compile(r"(?<![\d.,/'’])\d{1,3}(?:(?:['’]\d{3})+|(?: \d{3})+)(?![\d'’]|\s*/)")
_AMBIGUOUS = re.compile(r"(?<!\d)[1-9]\d{0,2},\d{3}(?!\d)")
_PLAIN = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?")


def with_decimal_point(text: str) -> str:
    """Return typed text with its digits ungrouped and a decimal point in place of a decimal comma.

    Args:
        text: one number, or a length of several terms such as ``2 ft 5,5``.

    Raises:
        Refused: a comma in it can mean two things.

    Example:
        >>> with_decimal_point("1'000,5 mm")
        '1000.5 mm'
    """
    spaced = _SPACES.sub(" ", text).strip()
    grouped = _GROUPED.search(spaced)
    plain = _GROUPED.sub(lambda match: re.sub(r"\D", "", match[0]), spaced)
    if "," not in plain:
        return plain
    if plain.count(",") > 1 or "." in plain or (not grouped and _AMBIGUOUS.search(plain)):
        raise Refused(
            "length-ambiguous",
            f"the comma in “{text.strip()}” can mean two things",
            remedy="write it with a decimal point and without separators",
        )
    return plain.replace(",", ".")


def parse_number(text: str) -> float:
    """Read a number with or without a sign, such as ``12.5``, ``-0,3`` or ``1'000``.

    Raises:
        Refused: it is empty, no number, or not finite.
    """
    plain = with_decimal_point(text).lower().replace("−", "-")
    number = float(plain) if _PLAIN.fullmatch(plain) else math.nan
    if not math.isfinite(number):
        said = f"“{text.strip()}” is no number" if text.strip() else "nothing was typed"
        raise Refused("number", said, remedy="type one, such as 12.5")
    return number
