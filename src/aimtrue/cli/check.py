"""aimtrue check: everything the tests need, then the checks, those that take long last."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor

from aimtrue.cli import pages, system
from aimtrue.cli.files import Exit
from aimtrue.settings import ROOT
from demo.parts import built

_PYTHON = [sys.executable, "-m"]
_A_FILE_AT_A_TIME = ["--dist", "loadfile", "--no-loadscope-reorder"]
_CODE = ["src", "tests", "demo", "benchmarks"]


def check(asked: argparse.Namespace) -> int:
    """Run all steps, or those named: two at a time, and the tests last if all others pass."""
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
    with ThreadPoolExecutor(2) as both:
        codes = list(both.map(lambda name: _step(name, steps[name], aside=True), _before_tests(only)))
    if failed := next(filter(None, codes), 0):
        return failed
    return _step("tests", steps["tests"]) if "tests" in only else Exit.DONE


def _before_tests(names: Iterable[str]) -> list[str]:
    return [name for name in names if name != "tests"]


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


def _step(name: str, command: list[str], *, aside: bool = False) -> int:
    """Run a step and return its exit code; what one says that runs beside others is shown when it ended."""
    started = time.monotonic()
    done = subprocess.run(
        command,
        cwd=pages.WEB if name.startswith("front") else ROOT,
        env={**os.environ, "NO_COLOR": "1"},
        check=False,
        stdout=subprocess.PIPE if aside else None,
        stderr=subprocess.STDOUT if aside else None,
        text=True,
    )
    how = "failed" if done.returncode else "passed"
    said = f"{done.stdout.strip()}\n" if aside and done.stdout.strip() else ""
    system.say(f"check: {name} {how} in {time.monotonic() - started:.0f} s\n{said}".rstrip())
    return done.returncode
