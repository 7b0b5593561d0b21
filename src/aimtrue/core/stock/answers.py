"""This module answers on the command line whether a bolt goes through the bores of files."""

from __future__ import annotations

import numpy as np

from aimtrue.core.command import Command, CommandOption, Question
from aimtrue.core.errors import Refused
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.value import Value
from aimtrue.core.stock.through.answer import through
from aimtrue.core.stock.through.bores import bores_in
from aimtrue.core.stock.through.values import BoreInJob, StockSpot, ThroughAnswer


class BoltAnswer(Value):
    """The bores of files, and how a bolt goes through those that were asked about; none where no bolt was
    told.
    """

    bores: tuple[BoreInJob, ...]
    answers: tuple[ThroughAnswer, ...]


def bolt_answer(question: Question) -> BoltAnswer:
    """List the bores of bodies, or say whether a bolt goes through the one nearest to a place, or through
    each.

    Raises:
        Refused: there is no bore, or what was typed is no bolt or no place.
    """
    job, store, options = question.job, question.store, question.options
    bores = bores_in(job, store)
    if not bores:
        raise Refused("through-none", "these bodies have no bore", remedy="give files with a round hole")
    bolt = options["bolt"] or ""
    if not bolt:
        return BoltAnswer(bores=bores, answers=())
    at = options["at"]
    chosen = [_nearest(bores, at)] if at else list(bores)
    answers: list[ThroughAnswer] = []
    for bore in chosen:
        # A bore that another answer goes through, too, is told there.
        if any(row.id == bore.id and row.feature == bore.feature for told in answers for row in told.bores):
            continue
        spot = StockSpot(
            body=bore.id,
            feature=bore.feature,
            flipped=options["flipped"] == "yes",
            washers=options["washers"] == "yes",
        )
        answers.append(through(job, bolt, spot, store))
    return BoltAnswer(bores=bores, answers=tuple(answers))


def _nearest(bores: tuple[BoreInJob, ...], typed: str) -> BoreInJob:
    parts = typed.split(",")
    if len(parts) != 3:
        raise Refused(
            "usage", f"“{typed}” is not three numbers", remedy="write X,Y,Z in mm, for example 94,0,22"
        )
    place = np.array([parse_number(part) for part in parts])
    return min(bores, key=lambda bore: float(np.linalg.norm(np.asarray(bore.at) - place)))


def _text(answer: BoltAnswer) -> str:
    if not answer.answers:
        return "\n".join(map(_bore_text, answer.bores))
    return "\n".join(line for told in answer.answers for line in _through_text(told))


def _bore_text(bore: BoreInJob) -> str:
    # Adding nothing makes no minus of a zero.
    at = ", ".join(f"{round(value, 1) + 0.0:.1f}" for value in bore.at)
    suits = f", for {bore.bolt}" if bore.bolt else ""
    return f"ø {bore.diameter_mm:.3f} in {bore.body} at {at}{suits}"


def _through_text(told: ThroughAnswer) -> list[str]:
    goes = "goes through" if told.goes else "does not go through"
    lines = [
        f"{told.bolt} in {', '.join(bore.body for bore in told.bores)}: {goes}; holds {told.grip_mm:.2f} mm, "
        f"thread {told.engaged_d:.1f} d, right length {told.right or 'none'}"
    ]
    lines += [
        f"  {bore.body}: ø {bore.diameter_mm:.3f}, {bore.role}, clearance {bore.clearance_mm:+.3f} mm"
        for bore in told.bores
    ]
    lines += [f"  {'holds' if room.holds else 'NOT  '}  {room.says}" for room in told.rooms]
    return [*lines, *(f"  {says}" for says in told.says)]


COMMANDS = (
    Command(
        "through",
        "whether a bolt goes through bores: clearance, room for head and nut, the right length",
        bolt_answer,
        _text,
        (
            CommandOption("bolt", "such as M5x20 socket; without one the bores are listed", "BOLT"),
            CommandOption("at", "the bore that is nearest to this place; each unless told", "X,Y,Z"),
            CommandOption("washers", "one under the head, and one under the nut"),
            CommandOption("flipped", "the head at the other end than where it has most room"),
        ),
    ),
)
