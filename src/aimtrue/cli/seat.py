"""aimtrue seat: bodies flat, level and in the right place, on as many plates as it takes."""

from __future__ import annotations

import argparse
import json
import re
import time
from dataclasses import replace
from typing import Any

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, complaining, every_file, load_together
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.release import put_down
from aimtrue.cli.sizing import a_place, sized
from aimtrue.core.actions import apply
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.model.ids import BodyId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_gap, parse_length, written
from aimtrue.core.model.machine import SHIPPED, BoxVolume, Machine, Margins, RoundVolume
from aimtrue.core.model.ownership import subject_name, subject_of
from aimtrue.core.model.value import AXES
from aimtrue.core.release.making import Release
from aimtrue.core.release.making import release as make
from aimtrue.core.release.order import Order
from aimtrue.core.seating import views
from aimtrue.core.seating.actions import LevelSeat, RestOn, SetCopies, SetMachine, StandApart, TurnSeat
from aimtrue.core.seating.arrangement.arranging import arranged, over_by
from aimtrue.core.seating.machines import checked_machine
from aimtrue.core.seating.orientation.ways_to_stand import ways_to_stand
from aimtrue.core.seating.placement.places import places_of, seated_groups
from aimtrue.core.seating.seat_states import SeatState
from aimtrue.core.seating.tasks import ArrangeTask
from aimtrue.core.survey.survey import survey

_BOX = re.compile(r"\s*([^x×]+?)\s*[x×]\s*([^x×]+?)\s*[x×]\s*([^x×]+?)\s*", re.IGNORECASE)
_ROUND = re.compile(r"\s*round\s+([^x×]+?)\s*[x×]\s*([^x×]+?)\s*", re.IGNORECASE)

_DOWN = "use best, keep, or a direction such as 0,0,-1"


@complaining
def seat(asked: argparse.Namespace) -> int:
    """Seat the bodies of all files on the plates of one machine, and say how they stand."""
    started = time.perf_counter()
    loaded = load_together(every_file(asked.files), asked)
    seated, unplaced = seat_bodies(loaded, asked)
    files = _released(seated, asked) if asked.out and not unplaced else None
    answer = {**_answer(seated), "unplaced": unplaced}
    if files is not None:
        answer["files"] = files
    answer["seconds"] = round(time.perf_counter() - started, 3)
    print(json.dumps(answer, indent=2) if asked.json else _as_text(answer))
    for unplaced_part in unplaced:
        complain(f"{seated.path}: {unplaced_part['says']}; no plate is written without it")
    return ExitCode.UNPROVEN if unplaced else ExitCode.DONE


def machine_named(text: str | None, margin: str | None) -> Machine:
    """Return a shipped machine by name, or one of a size such as ``250 x 210 x 220`` or ``round 180 x 400``.

    Raises:
        Refused: there is none of that name, or a size is none.
    """
    machine = _machine(text)
    if margin is None:
        return checked_machine(machine)
    mm = parse_gap(margin)
    return checked_machine(
        machine.model_copy(update={"margins": Margins(left=mm, right=mm, front=mm, back=mm)})
    )


def _machine(text: str | None) -> Machine:
    if text is None:
        return SHIPPED[0]
    named = next(
        (machine for machine in SHIPPED if machine.name.lower() == " ".join(text.split()).lower()), None
    )
    if named is not None:
        return named
    if match_ := _ROUND.fullmatch(text):
        across, high = (parse_length(group) for group in match_.groups())
        return Machine(name=text.strip(), volume=RoundVolume(diameter=across, height=high))
    if match_ := _BOX.fullmatch(text):
        x, y, z = (parse_length(group) for group in match_.groups())
        return Machine(name=text.strip(), volume=BoxVolume(size=(x, y, z)))
    names = ", ".join(machine.name for machine in SHIPPED)
    raise Refused("machine", f"there is no machine “{text}”", remedy=f"use {names}, or “250 x 210 x 220”")


def seat_bodies(loaded: LoadedFile, asked: argparse.Namespace) -> tuple[LoadedFile, list[dict[str, Any]]]:
    """Turn, copy and arrange bodies as asked; return what fits nowhere besides."""
    job = only(sized(loaded, asked), asked)
    job = apply(job, SetMachine(machine=machine_named(asked.machine, asked.margin)), loaded)
    if not asked.together and job.kits:
        job = apply(job, StandApart(apart=True), loaded)
    for group in seated_groups(job):
        job = _turned(job, loaded, subject_of(job, group[0]), asked)
    places = list(places_of(job, loaded).values())
    task = ArrangeTask(gap=asked.gap, turns="none", seconds=0)
    arrange = arranged(job, task, loaded)
    if (arrange.plates or arrange.off) and not any(
        turn.strip().lower().startswith("z") for turn in asked.turn
    ):
        arrange = arranged(job, task.model_copy(update={"turns": "quarters", "seconds": 3.0}), loaded)
        if arrange.off:  # Something long may go in aslant.
            arrange = arranged(job, task.model_copy(update={"turns": "any", "seconds": 3.0}), loaded)
    over = {place.seat.id: over_by(job, place, job.machine) for place in places}
    unplaced = [
        {
            "body": place.bodies[0].name,
            "says": says,
            "over_mm": [max(0.0, over_mm) for over_mm in over[place.seat.id]],
        }
        for place in places
        for key, says in zip(arrange.off, arrange.told, strict=True)
        if key == place.seat.id
    ]
    return replace(loaded, job=apply(job, arrange, loaded)), unplaced


def only(job: Job, asked: argparse.Namespace) -> Job:
    """Return the job with the bodies that were asked for alone.

    Raises:
        Failure: there is no body of a name.
    """
    for name in asked.body:
        if not any(body.name == name for body in job.bodies):
            names = ", ".join(body.name for body in job.bodies)
            raise CommandFailure(ExitCode.USAGE, f"there is no body “{name}”; there are {names}")
    if not asked.body:
        return job
    bodies = tuple(body for body in job.bodies if body.name in asked.body)
    kits = tuple(kit for kit in job.kits if any(body.kit == kit.id for body in bodies))
    return job.model_copy(update={"bodies": bodies, "kits": kits})


def _turned(job: Job, loaded: LoadedFile, key: Subject, asked: argparse.Namespace) -> Job:
    rest = asked.rest.strip().lower()
    if rest == "best":
        # Ways to stand are told in the axes of the body, as RestOn takes them.
        ways = ways_to_stand(job, key, 1, loaded, "overhang")
        job = apply(job, RestOn(body=key, down=ways[0].down), loaded) if ways else job
    elif rest != "keep":
        job = apply(job, RestOn(body=key, down=a_place(asked.rest, _DOWN)), loaded)
    for turn in asked.turn:
        axis, equals, typed = turn.partition("=")
        if axis.strip().lower() not in AXES or not equals:
            raise Refused("usage", f"“{turn}” is not AXIS=DEG", remedy="write for example z=30")
        job = apply(job, TurnSeat(body=key, axis=axis.strip().lower(), typed=typed), loaded)
    if asked.level:
        try:
            job = apply(job, LevelSeat(body=key), loaded)
        except Refused as error:
            if error.code != "level":  # The body is level already.
                raise
    return apply(job, SetCopies(body=key, typed=asked.copies), loaded) if asked.copies else job


def _released(seated: LoadedFile, asked: argparse.Namespace) -> list[dict[str, Any]]:
    order = Order(format=asked.format, pattern="{job}_plate-{plate}")
    try:
        release: Release = make(seated.job, seated, order)
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNPROVEN, f"{seated.path}: {error.line()}") from None
    return put_down([release], asked)


def _answer(seated: LoadedFile) -> dict[str, Any]:
    job = seated.job
    facts = survey(job, seated)
    machine = job.machine
    shape = machine.volume.shape
    size = machine.volume.room if shape == "box" else (machine.volume.room[0], machine.volume.room[2])
    plates = []
    for number, plate in enumerate(job.plates, start=1):
        here = [state for state in facts.seats if state.plate == plate.id]
        if here:
            rows = [row for state in here for row in _seat_rows(seated, state)]
            plates.append(
                {"number": number, "fill": round(views.plan_of(job, plate.id, seated).fill, 4), "seats": rows}
            )
    return {
        "machine": {"name": machine.name, "shape": shape, "size_mm": list(size)},
        "plates": plates,
        "rests": {
            _name(job, group[0].id): _rests(seated, subject_of(job, group[0])) for group in seated_groups(job)
        },
        "findings": [finding_fields(finding) for finding in facts.findings],
    }


def _name(job: Job, key: Subject) -> str:
    return subject_name(job, subject_of(job, job.body(BodyId(key))))


def _seat_rows(seated: LoadedFile, state: SeatState) -> list[dict[str, Any]]:
    job = seated.job
    first = views.first_layer(job, state.subject, state.copy_number, seated)
    place = places_of(job, seated)[state.id]
    rows = []
    for body in state.bodies:
        low, high = place.each[body.body]
        matrix = [[*row, shift] for row, shift in zip(body.matrix, body.shift, strict=True)]
        rows.append(
            {
                "body": job.body(body.body).name,
                "copy": state.copy_number,
                "matrix": [*matrix, [0.0, 0.0, 0.0, 1.0]],
                "low_mm": low.tolist(),
                "high_mm": high.tolist(),
                "lift_mm": state.lift_mm,
                "tilt_deg": state.tilt_deg or 0.0,
                "gap_mm": state.gap_mm or 0.0,
                "contact_mm2": state.contact_mm2,
                "footprint_mm2": first.area_mm2,
                "islands": first.islands,
                "overhang_mm2": first.overhang_mm2,
                "inside": "outside" not in state.marks and "margin" not in state.marks,
            }
        )
    return rows


def _rests(seated: LoadedFile, key: Subject) -> list[dict[str, Any]]:
    return [
        {
            "down": list(way.down),
            "contact_mm2": way.contact_mm2,
            "height_mm": way.height_mm,
            "overhang_mm2": way.overhang_mm2,
            "support_mm3": way.support_mm3,
            "stable": True,
        }
        for way in ways_to_stand(seated.job, key, 1, seated)
    ]


def _as_text(answer: dict[str, Any]) -> str:
    machine = answer["machine"]
    lines = [
        f"{machine['name']}: {' x '.join(f'{size:g}' for size in machine['size_mm'])} mm, {machine['shape']}"
    ]
    for plate in answer["plates"]:
        lines.append(f"  plate {plate['number']}, {100 * plate['fill']:.0f} % full")
        for one in plate["seats"]:
            ends = " ".join(
                f"{low:.2f}..{high:.2f}" for low, high in zip(one["low_mm"], one["high_mm"], strict=True)
            )
            tilt = (
                f", tilted {one['tilt_deg']:.2f}°, {one['gap_mm']:.2f} mm gap at the far side"
                if one["tilt_deg"]
                else ""
            )
            rests = f"rests on {written(one['contact_mm2'], 0)} mm²{tilt}"
            outside = "" if one["inside"] else "  OUTSIDE"
            lines.append(f"    {one['body']} ({one['copy']})  {ends}  {rests}{outside}")
    lines += [f"  not placed: {unplaced['says']}" for unplaced in answer["unplaced"]]
    lines += [f"  {finding['severity']:<5} {finding['says']}" for finding in answer["findings"]]
    lines += [f"  wrote {file['path']}" for file in answer.get("files", ())]
    return "\n".join(lines)
