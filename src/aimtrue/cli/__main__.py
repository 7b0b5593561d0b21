"""Read the command and hand over; heavy imports wait until a command needs them."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from collections.abc import Callable
from importlib import import_module
from typing import Any

from aimtrue.cli.commands import add_commands
from aimtrue.core.errors import AimTrueError
from aimtrue.settings import settings


def main(arguments: list[str] | None = None) -> int:
    """Run one command and return its exit code."""
    typed = sys.argv[1:] if arguments is None else arguments
    asked = _parser(typed).parse_args(typed)
    try:
        settings()
    except AimTrueError as error:
        print(f"aimtrue: {error.line()}", file=sys.stderr)
        return 2
    try:
        run = asked.run if callable(asked.run) else _loaded(asked.run)
        code = int(run(asked))
        sys.stdout.flush()
    except BrokenPipeError:  # The program that reads our output, as `head` does, has ended.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 6
    return code


def _parser(typed: list[str]) -> argparse.ArgumentParser:
    """Return the parser.

    The rooms are only asked for their commands where none of the program's own was typed, since it takes a
    second to load them all.
    """
    parser = argparse.ArgumentParser(prog="aimtrue", description=__doc__.split(":")[0])
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    add_commands(commands)
    if not typed or typed[0] not in commands.choices:
        _loaded("aimtrue.cli.answers:add_commands_of_rooms")(commands)
    return parser


def _loaded(where: str) -> Callable[..., Any]:
    """Load a function, ``module:name``.

    What is loaded stays, so looking for what nobody needs any more would only take time meanwhile.
    """
    module, _, name = where.partition(":")
    gc.disable()
    try:
        function: Callable[..., Any] = getattr(import_module(module), name)
    finally:
        gc.enable()
    return function


if __name__ == "__main__":
    code = main()
    # Python ends by looking for garbage in all that is still held, which goes with the process anyway.
    gc.freeze()
    sys.exit(code)
