"""This module reads budgets, and says by how much an estimate is over them."""

from __future__ import annotations

import re
from math import isfinite
from typing import Final

from aimtrue.core.errors import Refused
from aimtrue.core.model.budget import Budget, BudgetKind
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.numbers import parse_number

_UNITS: Final[dict[str, tuple[BudgetKind, float]]] = {
    "g": ("grams", 1.0),
    "kg": ("grams", 1000.0),
    "h": ("seconds", 3600.0),
    "min": ("seconds", 60.0),
    "d": ("seconds", 86400.0),
    "money": ("money", 1.0),
    "cm3": ("volume", 1000.0),
    "cm³": ("volume", 1000.0),
    "ml": ("volume", 1000.0),
    "mm3": ("volume", 1.0),
    "mm³": ("volume", 1.0),
    "mm": ("height", 1.0),
    "cm": ("height", 10.0),
}
_TYPED = re.compile(r"(?:at most\s+)?(?P<number>.*?\d.*?)\s*(?P<unit>[a-z]+[3³]?)", re.IGNORECASE)
_HOURS = re.compile(r"(?P<hours>\d+)\s*h\s*(?P<minutes>\d{1,2})(?:\s*min)?", re.IGNORECASE)


def budget_of(typed: str, of: str = "") -> Budget:
    """Read a budget such as ``40 g``, ``3 h 30``, ``12 cm³``, ``2.50 money`` or ``80 mm``.

    Raises:
        Refused: it names no unit, or is no amount.
    """
    text = " ".join(typed.split())
    if hours := _HOURS.fullmatch(text):
        most = 3600.0 * int(hours["hours"]) + 60.0 * int(hours["minutes"])
        return Budget(of=of, typed=text, kind="seconds", most=most)
    match_ = _TYPED.fullmatch(text)
    unit = _UNITS.get(match_["unit"].lower()) if match_ else None
    if match_ is None or unit is None:
        raise Refused(
            "budget-unit",
            f"“{text}” says no amount of anything" if text else "nothing was typed",
            remedy="write for example 40 g, 3 h 30, 12 cm³, 2.50 money, or 80 mm for the height",
        )
    most = parse_number(match_["number"]) * unit[1]
    if not (isfinite(most) and most > 0):
        raise Refused("budget-amount", f"a budget of {text} is none", remedy="type more than 0")
    return Budget(of=of, typed=text, kind=unit[0], most=most)


def amount(estimate: Estimate, kind: BudgetKind) -> float:
    """Return what an estimate takes of something."""
    return {
        "grams": estimate.grams,
        "seconds": estimate.seconds,
        "money": estimate.cost,
        "volume": estimate.volume_mm3,
        "height": estimate.height_mm,
    }[kind]


def over(estimate: Estimate, budget: Budget) -> float:
    """Return by how much an estimate is over a budget; 0 or less where it is not."""
    return amount(estimate, budget.kind) - budget.most


def amount_words(kind: BudgetKind, much: float) -> str:
    """Say an amount: ``3 h 05 min``, ``46.2 g``."""
    if kind == "seconds":
        return time_words(much)
    if kind == "grams":
        return f"{much:.1f} g"
    if kind == "money":
        return f"{much:.2f}"
    return f"{much / 1000:.1f} cm³" if kind == "volume" else f"{much:.1f} mm"


def display_time(seconds: float) -> str:
    """Say a time as the display of a machine would: ``3h51``, ``45m``, ``2d04h``."""
    minutes = max(1, round(seconds / 60)) if seconds > 0 else 0
    if minutes < 60:
        return f"{minutes}m"
    hours, rest = divmod(minutes, 60)
    return f"{hours}h{rest:02d}" if hours < 48 else f"{hours // 24}d{hours % 24:02d}h"


def time_words(seconds: float) -> str:
    """Say a time: ``0 h 45 min``, ``1 d 4 h``; with minutes up to a day."""
    minutes = round(abs(seconds) / 60)
    sign = "−" if seconds < 0 and minutes else ""
    if minutes < 60:
        return f"{sign}{minutes} min" if minutes else f"{sign}{abs(seconds):.0f} s"
    if minutes < 48 * 60:
        return f"{sign}{minutes // 60} h {minutes % 60:02d} min"
    hours = round(abs(seconds) / 3600)
    return f"{sign}{hours // 24} d {hours % 24} h"
