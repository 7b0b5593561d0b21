"""This module tells how a command failed: on standard error, and with ``--json`` as an answer, too."""

from __future__ import annotations

import argparse
import json
import sys
from typing import NoReturn, TextIO

from aimtrue.cli.remedies import as_commands

_said: list[str] = []
"""What was said to standard error since the command began."""


def complain(says: str) -> None:
    """Write one line to standard error."""
    line = " ".join(as_commands(says).split())
    _said.append(line)
    print(f"aimtrue: {line}", file=sys.stderr)


class Parser(argparse.ArgumentParser):
    """A parser that remembers what was wrong with what was typed."""

    def error(self, message: str) -> NoReturn:
        """Say what is wrong, and end with the code of wrong usage."""
        _said.append(" ".join(message.split()))
        super().error(message)


class CountedOutput:
    """Standard output that knows whether anything was written to it."""

    def __init__(self, out: TextIO) -> None:
        self._out = out
        self.used = False

    def write(self, text: str) -> int:
        """Write, and remember it."""
        self.used = self.used or bool(text)
        return self._out.write(text)

    def __getattr__(self, name: str) -> object:
        return getattr(self._out, name)


def forget() -> None:
    """Begin with a command of which nothing was said."""
    _said.clear()


def answer_of_failure(code: int) -> str:
    """Return what a script reads where a command has failed: its exit code, and what was said."""
    return json.dumps({"failure": {"exit": code, "says": list(_said)}}, indent=1)
