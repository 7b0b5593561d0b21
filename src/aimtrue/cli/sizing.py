"""Options that say how large bodies are to be, and what they do to a job."""

from __future__ import annotations

import argparse
import re
from collections.abc import Sequence

from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile
from aimtrue.core.actions import Action, apply
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import Accept
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.materials import MATERIALS
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.ownership import corrected_with, groups_of
from aimtrue.core.model.value import AXES, Axis
from aimtrue.core.truing.actions import (
    AddReading,
    ChooseMaterial,
    FreeAxis,
    KeepBores,
    PerAxis,
    SetAllowance,
    SetFactor,
    SizeAxis,
)
from aimtrue.core.truing.finding_kinds import READING_MISSED
from aimtrue.core.truing.solving.readings_verdict import truth_of

_NUMBER = r"\s*[-+]?[\d.]+(?:e[-+]?\d+)?\s*"
_READING = re.compile(
    rf"(?P<a>{_NUMBER},{_NUMBER},{_NUMBER}):(?P<b>{_NUMBER},{_NUMBER},{_NUMBER})="
    r"(?P<real>[^\[\]]+)(?:\[(?P<low>[^\[\]]+?)\.\.(?P<high>[^\[\]]+)\])?\s*",
    re.IGNORECASE,
)


_FARTHEST = 1e9
"""A coordinate beyond this is a slip: at that magnitude float32 tells no millimetres apart."""

ON_THE_COMMAND_LINE = "on the command line"
"""The reason of an acceptance for which none is told there."""


def sized(loaded: LoadedFile, asked: argparse.Namespace) -> Job:
    """Return the job with what the options say done: findings accepted, sizes brought about.

    Raises:
        Refused: an option makes no sense, or the core does not take it.
        Failure: the readings exclude each other.
    """
    job = loaded.job
    for acceptance in getattr(asked, "accept", ()):
        code, _, reason = acceptance.partition("=")
        job = apply(job, Accept(body=None, code=code, reason=reason or ON_THE_COMMAND_LINE), loaded)
    # Bodies of one file keep their common origin, so what sizes one of them sizes all.
    for key in [group[0].kit or group[0].id for group in groups_of(job)]:
        for action in _sizing(key, asked):
            job = apply(job, action, loaded)
    if getattr(asked, "material", None) is not None and hasattr(asked, "shrinkage"):
        job = _of_material(job, loaded, asked.material)
    job = _allowed(job, loaded, asked)
    if not asked.reading:
        return job
    missed = [
        acceptance.partition("=")
        for acceptance in getattr(asked, "accept", ())
        if acceptance.startswith(READING_MISSED.code)
    ]
    job = _read_true(job, loaded, asked.reading, may_miss=bool(missed))
    for code, _, reason in missed:  # These acceptances are of readings that are only there now.
        job = apply(job, Accept(body=None, code=code, reason=reason or ON_THE_COMMAND_LINE), loaded)
    return job


def _sizing(key: str, asked: argparse.Namespace) -> list[Action]:
    actions: list[Action] = []
    if asked.factor is not None:
        actions.append(SetFactor(body=key, typed=asked.factor))
    if asked.extent is not None:
        axis, typed = axis_length(asked.extent)
        actions.append(SizeAxis(body=key, axis=axis, typed=typed))
    for stretch in asked.stretch or ():
        axis, typed = axis_length(stretch)
        actions += [FreeAxis(body=key, axis=axis, free=True), SizeAxis(body=key, axis=axis, typed=typed)]
    return actions


def _of_material(job: Job, loaded: LoadedFile, name: str) -> Job:
    """Make a job of a material that is known here; bodies have the shrinkage that it usually has."""
    material = next((known for known in MATERIALS if known.name.lower() == name.strip().lower()), None)
    if material is None:
        names = ", ".join(known.name for known in MATERIALS)
        raise Refused("material", f"there is no material “{name}”", remedy=f"use {names}")
    job = apply(job, ChooseMaterial(material=material), loaded)
    for group in groups_of(job):
        key = group[0].kit or group[0].id
        job = apply(job, SetAllowance(body=key, of_material=True), loaded)
    return job


def _allowed(job: Job, loaded: LoadedFile, asked: argparse.Namespace) -> Job:
    """Add what is added on purpose, and let bores keep their diameter where that was told."""
    # A thread has a clearance of its own: there it is no list.
    clearance = getattr(asked, "clearance", ())
    clearances = _per_axis(clearance) if isinstance(clearance, list) else None
    shrinkages = _per_axis(getattr(asked, "shrinkage", ()))
    if getattr(asked, "keep_bores", False):
        job = apply(job, KeepBores(bodies=tuple(body.id for body in job.bodies)), loaded)
    if clearances is None and shrinkages is None:
        return job
    for group in groups_of(job):
        key = group[0].kit or group[0].id
        action = SetAllowance(body=key, clearance=clearances, shrinkage=shrinkages, sure=True)
        job = apply(job, action, loaded)
    return job


def _per_axis(texts: Sequence[str]) -> PerAxis | None:
    """Read ``0.2`` as meant of all axes, and ``x=0.2`` of one; None where nothing was told."""
    typed: dict[Axis, str] = {}
    for text in texts:
        if "=" in text:
            axis, value = axis_length(text)
            typed[axis] = value
        else:
            typed |= dict.fromkeys(AXES, text)
    return (typed.get("x"), typed.get("y"), typed.get("z")) if typed else None


def axis_length(text: str) -> tuple[Axis, str]:
    """Read ``z=12.5`` as an axis and the text of a length.

    Raises:
        Refused: it is not that.
    """
    axis, equals, typed = text.partition("=")
    if not equals or axis.strip().lower() not in AXES:
        raise Refused("usage", f"“{text}” is not AXIS=LENGTH", remedy="write for example x=171.5")
    return an_axis(axis), typed


def an_axis(text: str) -> Axis:
    """Read ``x``, ``y`` or ``z``.

    Raises:
        Refused: it is none.
    """
    axis = text.strip().lower()
    if axis not in AXES:
        raise Refused("usage", f"“{text}” is no axis", remedy="use x, y or z")
    return axis


def _read_true(job: Job, loaded: LoadedFile, texts: list[str], *, may_miss: bool) -> Job:
    """Meet readings given as two points of the file and a length, all together, as the sheet would."""
    for key in [group[0].kit or group[0].id for group in groups_of(job)]:
        body = corrected_with(job, key)[0]
        for text in texts:
            job = apply(job, _reading(body, text), loaded)
        bodies = corrected_with(job, key)
        truth = truth_of(job, key, bodies)
        if truth is not None and truth.conflict and not may_miss:
            typed = {reading.id: reading.typed for reading in job.readings}
            names = " and ".join(f"“{_asked_as(texts, typed[reading])}”" for reading in truth.conflict)
            raise CommandFailure(
                ExitCode.UNPROVEN,
                f"{loaded.path}: the readings cannot all be met: {names} exclude each other; widen a band",
            )
    return job


def _asked_as(texts: list[str], typed: str) -> str:
    """The reading as it was given, by the length that was typed."""
    text_of_length = next(
        (text for text in texts if " ".join(_length_of(_parts_of(text)).split()) == typed), typed
    )
    return " ".join(text_of_length.split())


def _parts_of(text: str) -> re.Match[str]:
    match = _READING.fullmatch(text.strip())
    if match is None:
        raise Refused(
            "usage", f"“{text}” is not a reading", remedy='write "x,y,z : x,y,z = LENGTH [LOW..HIGH]"'
        )
    return match


def _length_of(match: re.Match[str]) -> str:
    band = f" [{match['low']}..{match['high']}]" if match["low"] else ""
    return f"{match['real'].strip()}{band}"


def _reading(body: Body, text: str) -> AddReading:
    match = _parts_of(text)
    remedy = 'write "x,y,z : x,y,z = LENGTH [LOW..HIGH]"'
    spots = tuple(PickedSpot(point=a_place(match[end], remedy)) for end in "ab")
    return AddReading(body=body.id, kind="points", spots=spots, typed=_length_of(match), sure=True)


def a_place(text: str, remedy: str = "write X,Y,Z in mm, for example 10,0,4.5") -> tuple[float, float, float]:
    """Read three numbers, such as a place or a direction.

    Raises:
        Refused: they are not three numbers.
    """
    try:
        x, y, z = (parse_number(number) for number in text.split(","))
    except (Refused, ValueError):
        raise Refused("usage", f"“{text.strip()}” is not three numbers", remedy=remedy) from None
    if max(abs(x), abs(y), abs(z)) > _FARTHEST:
        raise Refused("usage", f"“{text.strip()}” is beyond any model", remedy=remedy)
    return x, y, z
