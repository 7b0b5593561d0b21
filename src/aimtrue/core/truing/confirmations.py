"""This module says what is asked about before it is done: a typed value that is possible and far from
anything usual.

A field sends the very same text once more, marked as sure, when its user presses Enter again.
"""

from __future__ import annotations

from aimtrue.core.errors import Refused

USUAL_CLEARANCE_MM = 2.0
"""A larger clearance, added or taken off, is asked about: mating parts have 0.1 to 0.5 mm."""


def ask_first(says: str) -> Refused:
    """Return the refusal that asks whether a value is meant."""
    return Refused("ask-first", f"{says}; is it meant?", remedy="press Enter again to do it all the same")
