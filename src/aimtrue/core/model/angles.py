"""Angles as people type them, in degrees."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.model.numbers import parse_number


def parse_degrees(typed: str, *, zero: bool = False) -> float:
    """Read an angle in degrees, between -360 and 360, and not zero unless that is allowed.

    Raises:
        Refused: empty, not a number, zero, or beyond a full turn.
    """
    text = typed.strip().removesuffix("°").removesuffix("deg").strip()
    if not text:
        raise Refused(
            "angle-empty", "nothing was typed", remedy="type an angle in degrees, such as 90 or -12.5"
        )
    try:
        degrees = parse_number(text)
    except Refused:
        raise Refused(
            "angle-not-a-number",
            f"“{typed.strip()}” is not an angle",
            remedy="type an angle in degrees, such as 90 or -12.5",
        ) from None
    if abs(degrees) > 360:
        raise Refused(
            "angle-absurd", f"“{typed.strip()}” is beyond a full turn", remedy="type an angle up to 360"
        )
    if degrees == 0 and not zero:
        raise Refused("angle-zero", "turning by zero changes nothing", remedy="type an angle such as 90")
    return degrees
