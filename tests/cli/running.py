"""Runs the command as its user does: what it exits with, prints and says is wrong."""

import pytest

from aimtrue.cli.__main__ import main


def run(capsys: pytest.CaptureFixture[str], *arguments: object) -> tuple[int, str, str]:
    """Return the exit code of a command, what it printed and what it complained of."""
    try:
        code = main([str(argument) for argument in arguments])
    except SystemExit as ended:
        code = int(ended.code or 0)
    printed = capsys.readouterr()
    return code, printed.out, printed.err
