"""aimtrue check: everything the tests need, then the checks, in the order that fails soonest."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time

from aimtrue.cli import pages, system
from aimtrue.cli.files import Exit
from aimtrue.settings import ROOT
from demo.parts import built

_PYTHON = [sys.executable, "-m"]
_A_FILE_AT_A_TIME = ["--dist", "loadfile", "--no-loadscope-reorder"]
_CODE = ["src", "tests", "demo", "benchmarks"]


def check(asked: argparse.Namespace) -> int:
    """Run all steps, or those named, and stop at the first that fails."""
    try:
        system.chromium()
        pages.packages()
        pages.build()
        built()
    except system.SetupError as error:
        system.say(str(error))
        return Exit.UNWRITABLE
    steps = _steps()
    only = asked.only or steps
    unknown = set(only) - set(steps)
    if unknown:
        system.say(f"no step is called {', '.join(sorted(unknown))}; there are {', '.join(steps)}")
        return Exit.USAGE
    for name in only:
        if code := _step(name, steps[name]):
            return code
    return Exit.DONE


def _steps() -> dict[str, list[str]]:
    npm = system.node()
    return {
        "format": [*_PYTHON, "ruff", "format", "--check", *_CODE],
        "lint": [*_PYTHON, "ruff", "check", *_CODE],
        "types": [*_PYTHON, "mypy"],
        "imports": [sys.executable, "-c", "from importlinter.cli import lint_imports_command as run; run()"],
        "front-types": [npm, "run", "--silent", "types"],
        "front-tests": [npm, "run", "--silent", "test"],
        # Side by side, a file of tests at a time; each process has a database, server and worker of its own.
        # In order: those of the interface, which take longest, come before the many short ones of the core.
        "tests": [*_PYTHON, "pytest", "-n", str(min(4, os.cpu_count() or 1)), *_A_FILE_AT_A_TIME],
    }


def _step(name: str, command: list[str]) -> int:
    system.say(f"check: {name}")
    started = time.monotonic()
    folder = pages.WEB if name.startswith("front") else ROOT
    code = subprocess.run(command, cwd=folder, env={**os.environ, "NO_COLOR": "1"}, check=False).returncode
    took = time.monotonic() - started
    system.say(f"check: {name} {'failed' if code else 'passed'} in {took:.0f} s")
    return code
