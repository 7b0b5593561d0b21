"""This module says what a room answers on the command line: a question about files, with its options.

A command that only answers is described by its room, see :mod:`aimtrue.core.room`, and carried by
``aimtrue.cli.answers``. A command that writes files has a module of its own in ``aimtrue.cli``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Generic, TypeVar

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value

AnswerT = TypeVar("AnswerT", bound=Value)


@dataclass(frozen=True)
class CommandOption:
    """An option of a command.

    Attributes:
        name: as it is typed after ``--``, and as the answer finds it.
        says: what it does, for the help.
        metavar: what stands for its value in the help; none for a switch, whose value is ``"yes"``.
        choices: the values that it may have; any where there are none.
        default: its value where it is not typed.
    """

    name: str
    says: str
    metavar: str | None = None
    choices: tuple[str, ...] = ()
    default: str | None = None


@dataclass(frozen=True, eq=False)
class Question:
    """What is asked on the command line.

    Attributes:
        job: the bodies of the files, settled and as large as the options want them.
        store: gives their meshes.
        options: what was typed, by the option's name.
    """

    job: Job
    store: GeometryStore
    options: Mapping[str, str | None]


@dataclass(frozen=True)
class Command(Generic[AnswerT]):
    """A command that answers, and changes nothing.

    Attributes:
        name: as it is typed.
        says: what it answers, for the help.
        answer: works it out; raises ``Refused`` where the question makes no sense.
        text: the answer as lines to be read, for whoever does not ask for JSON.
        options: besides those that say which files, bodies and sizes.
    """

    name: str
    says: str
    answer: Callable[[Question], AnswerT]
    text: Callable[[AnswerT], str]
    options: tuple[CommandOption, ...] = ()
