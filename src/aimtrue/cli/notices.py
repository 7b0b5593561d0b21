"""The notice of third parties: every package that is shipped or used to run, with its version and licence.

Read from what the packages say of themselves: ``./aimtrue notices > NOTICE.md``.
"""

from __future__ import annotations

import argparse
import json
import re
import sys
from importlib.metadata import PackageNotFoundError, distribution
from typing import Any

from aimtrue.settings import ROOT

UNWANTED = re.compile(r"\b(A?GPL)\b|AFFERO|GNU GENERAL", re.IGNORECASE)
"""Licences that nothing shipped may have alone; the lesser one is another."""


def notices(_: argparse.Namespace) -> int:
    """Print the notice."""
    sys.stdout.write(notice())
    return 0


def notice() -> str:
    """Return the notice as a table for each of the two worlds."""
    lines = [
        "# Notice of third parties",
        "",
        "Made by `./aimtrue notices`. Aim True itself: [MIT](LICENSE).",
        "",
        "The CAD kernel inside `cadquery-ocp-novtk` is under LGPL-2.1 with an exception of its own.",
        "",
    ]
    for title, rows in (("Python", python_packages()), ("In the pages", page_packages())):
        lines += [f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {name} | {version} | {licence} |" for name, version, licence in rows] + [""]
    return "\n".join(lines)


def python_packages() -> list[tuple[str, str, str]]:
    """Return name, version and licence of the packages that are pinned for running."""
    text = (ROOT / "requirements.txt").read_text()
    pinned = re.findall(r"^([A-Za-z0-9._-]+)(?:\[[^\]]*\])?==([^\s;]+)", text, re.MULTILINE)
    return sorted((name, version, _licence_of(name)) for name, version in pinned)


def _licence_of(name: str) -> str:
    try:
        package_metadata = distribution(name).metadata
    except PackageNotFoundError:
        return "not installed here"
    kinds = package_metadata.get_all("Classifier") or []
    named = [kind.rpartition(":: ")[2] for kind in kinds if kind.startswith("License ::")]
    said = [
        *(package_metadata.get_all("License-Expression") or []),
        ", ".join(named),
        *(package_metadata.get_all("License") or []),
    ]
    first = next((line.strip() for line in said if line.strip()), "not told")
    return first.splitlines()[0][:80].replace("|", "/")


def page_packages() -> list[tuple[str, str, str]]:
    """Return name, version and licence of what the built pages are made of."""
    lock: dict[str, Any] = json.loads((ROOT / "web" / "package-lock.json").read_text())
    return sorted(
        (path.rpartition("node_modules/")[2], package["version"], str(package.get("license", "not told")))
        for path, package in lock["packages"].items()
        if path and not package.get("dev") and not package.get("optional")
    )
