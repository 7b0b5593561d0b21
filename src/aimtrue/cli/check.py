"""aimtrue check: everything the tests need, then the checks, those that take long last."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from aimtrue.cli import pages, system
from aimtrue.cli.files import ExitCode
from aimtrue.settings import ROOT

_RUN = [sys.executable, "-m"]
_CODE = ["src", "tests", "demo", "benchmarks"]
_OF_PYTHON = {
    "format": [*_RUN, "ruff", "format", "--check", *_CODE],
    "lint": [*_RUN, "ruff", "check", *_CODE],
    "types": [*_RUN, "mypy"],
    "imports": [sys.executable, "-c", "from importlinter.cli import lint_imports_command as run; run()"],
}
_OF_PAGES = {"front-format": "format", "front-lint": "lint", "front-types": "types", "front-tests": "test"}
_A_FILE_AT_A_TIME = ["--dist", "loadfile", "--no-loadscope-reorder"]
# Side by side, a file of tests at a time; each process has a database, server and worker of its own.
# In order: those of the interface, which take longest, come before the many short ones of the core.
_TESTS = [*_RUN, "pytest", "-n", str(min(4, os.cpu_count() or 1)), *_A_FILE_AT_A_TIME]
_STEPS = (*_OF_PYTHON, *_OF_PAGES, "tests")


def check(asked: argparse.Namespace) -> int:
    """Run all steps, or those named, the tests last if all others pass.

    What looks at Python alone needs nothing that is set up, and runs meanwhile.
    """
    only = asked.only or _STEPS
    unknown = set(only) - set(_STEPS)
    if unknown:
        system.say(f"no step is called {', '.join(sorted(unknown))}; there are {', '.join(_STEPS)}")
        return ExitCode.USAGE
    with ThreadPoolExecutor(1) as aside:
        meanwhile = [
            aside.submit(_step, name, _OF_PYTHON[name], aside=True) for name in _OF_PYTHON if name in only
        ]
        try:
            npm = _set_up()
        except system.SetupError as error:
            system.say(str(error))
            return ExitCode.UNWRITABLE
        codes = [
            _step(name, [npm, "run", "--silent", _OF_PAGES[name]], aside=True)
            for name in _OF_PAGES
            if name in only
        ]
        codes += [future.result() for future in meanwhile]
    if failed := next(filter(None, codes), 0):
        return failed
    return _step("tests", _TESTS) if "tests" in only else ExitCode.DONE


def _set_up() -> str:
    """Install and make all that the tests need, and return the path of npm."""
    system.chromium()
    pages.packages()
    pages.build()
    subprocess.run([*_RUN, "demo.parts"], cwd=ROOT, check=True)
    return system.node()


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
