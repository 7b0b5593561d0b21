"""Read the command and hand over; heavy imports wait until a command needs them."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from collections.abc import Callable
from contextlib import redirect_stdout
from importlib import import_module
from typing import Any, TextIO, cast

from aimtrue.cli import failures
from aimtrue.cli.commands import add_commands
from aimtrue.cli.help import EXIT_CODES, explain, sentences_of
from aimtrue.cli.options import Commands
from aimtrue.core.errors import AimTrueError
from aimtrue.settings import settings


def main(arguments: list[str] | None = None) -> int:
    """Run one command and return its exit code."""
    typed = sys.argv[1:] if arguments is None else arguments
    failures.forget()
    try:
        asked = _parser(typed).parse_args(typed)
    except SystemExit as ended:
        if ended.code and "--json" in typed:
            print(failures.answer_of_failure(int(ended.code)))
        raise
    out = failures.CountedOutput(sys.stdout)
    with redirect_stdout(cast("TextIO", out)):
        code = _run(asked)
    if code and not out.used and getattr(asked, "json", False):
        print(failures.answer_of_failure(code))
    return code


def _run(asked: argparse.Namespace) -> int:
    try:
        settings()
    except AimTrueError as error:
        failures.complain(error.line())
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
    parser = failures.Parser(
        prog="aimtrue",
        description="Model files of a provably right size: inspected, corrected, divided, seated, released. "
        "Most commands need no server; `aimtrue COMMAND --help` explains one, with examples.",
        epilog=EXIT_CODES,
    )
    commands = cast("Commands", parser.add_subparsers(required=True, metavar="COMMAND"))
    add_commands(commands)
    if not typed or typed[0] not in commands.choices:
        _loaded("aimtrue.cli.answers:add_commands_of_rooms")(commands)
    explain(commands)
    return parser


def commands_of_all() -> dict[str, tuple[str, argparse.ArgumentParser]]:
    """Return all commands, those of the rooms among them: what each does, and its parser, by name."""
    commands = _commands_in(_parser([]))
    says = sentences_of(commands)
    return {name: (says.get(name, ""), parser) for name, parser in commands.choices.items()}


def _commands_in(parser: argparse.ArgumentParser) -> Commands:
    return next(action for action in parser._actions if isinstance(action, argparse._SubParsersAction))


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
