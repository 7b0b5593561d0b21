"""The controls of the pages, as a user works them."""

from __future__ import annotations

from playwright.sync_api import Locator, Page

GAUGES = {
    "diameter": "diameter",
    "extent": "overall extent",
    "perimeter": "girth of a section",
    "centres": "between two centres",
    "faces": "two parallel faces",
    "points": "two points",
    "depth": "depth",
    "wall": "wall thickness",
}
"""What gauges are called in the list of them."""


def chosen(scope: Page | Locator, label: str, option: str) -> None:
    """Choose one of a list that opens."""
    scope.get_by_role("combobox", name=label, exact=True).click()
    page = scope if isinstance(scope, Page) else scope.page
    page.get_by_role("option", name=option, exact=True).click()


def measured(page: Page, what: str, axis: str = "") -> None:
    """Choose what to measure, and along which axis."""
    chosen(page, "What to measure", GAUGES[what])
    if axis:
        chosen(page, "Axis", f"along {axis.upper()}")
