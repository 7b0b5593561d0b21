"""This module carries the commands that rooms describe: their options, and answers as JSON or text."""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Iterable

from aimtrue.cli.files import ExitCode, complaining
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.options import Commands, add_body_option, add_reading_options, add_sizing_options
from aimtrue.cli.section import corrected_bodies
from aimtrue.core.command import Command, CommandOption, Question
from aimtrue.core.model.value import Value
from aimtrue.core.room import Room
from aimtrue.core.rooms import ROOMS
from aimtrue.core.survey.survey import survey


def add_commands_of_rooms(commands: Commands, rooms: Iterable[Room] = ROOMS) -> None:
    """Add to the parser what the rooms answer."""
    for room in rooms:
        for command in room.commands:
            _add(commands, command)


def _add(commands: Commands, command: Command[Value]) -> None:
    parser = commands.add_parser(command.name, help=command.says)
    add_reading_options(parser)
    add_sizing_options(parser)
    add_body_option(parser)
    for option in command.options:
        _add_option(parser, option)
    parser.set_defaults(run=complaining(lambda asked: _answer(command, asked)))


def _add_option(parser: argparse.ArgumentParser, option: CommandOption) -> None:
    flag = f"--{option.name}"
    if option.metavar is None:
        parser.add_argument(flag, action="store_const", const="yes", help=option.says)
        return
    parser.add_argument(
        flag,
        metavar=option.metavar,
        choices=option.choices or None,
        default=option.default,
        help=option.says,
    )


def _answer(command: Command[Value], asked: argparse.Namespace) -> int:
    """Answer one command; what makes no sense is told by its own words."""
    started = time.perf_counter()
    loaded, job = corrected_bodies(asked)
    options = {option.name: getattr(asked, option.name.replace("-", "_")) for option in command.options}
    answer = command.answer(Question(job, loaded, options))
    if not asked.json:
        print(command.text(answer))
        return ExitCode.DONE
    shown_findings = survey(job, loaded).findings
    content = {
        **answer.model_dump(mode="json"),
        "findings": [finding_fields(finding) for finding in shown_findings if finding.sheet != "seating"],
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(content, indent=1))
    return ExitCode.DONE
