"""aimtrue divide, trial, split, hollow, join, cut, common: bodies made of others, as proven files."""

from __future__ import annotations

import argparse
import json
import re
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from aimtrue.cli.files import Exit, Failure, Loaded, complain
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.release import put_down
from aimtrue.cli.seat import machine_named
from aimtrue.cli.section import corrected_bodies
from aimtrue.cli.sizing import an_axis, axis_length
from aimtrue.core.actions import apply
from aimtrue.core.division.asking import Answer
from aimtrue.core.division.fitting import over_in
from aimtrue.core.division.making import shape
from aimtrue.core.division.work import Shape
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.mesh.stored import from_bytes
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import (
    AskAbove,
    Asked,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
    AskTogether,
)
from aimtrue.core.model.machine import Machine
from aimtrue.core.release.make import Order
from aimtrue.core.release.make import release as make
from aimtrue.core.survey.survey import survey

_CLOSED = ("not-closed", "stop-open")
"""What is refused for the state that a body is in, not for what was typed."""


@dataclass(frozen=True, eq=False)
class Row:
    """One body that was made, with the file it was written to."""

    body: Body
    answer: Answer
    number: int
    path: str

    @property
    def fields(self) -> dict[str, Any]:
        """What is told of it."""
        piece = self.answer.pieces[self.number]
        low, high = piece.mesh.bounds()
        return {
            "name": self.body.name,
            "path": self.path,
            "volume_mm3": piece.volume,
            "size_mm": (high - low).tolist(),
            "closed": self.body.health.closed,
        }


def divide(asked: argparse.Namespace) -> int:
    """Cut bodies into pieces by planes, or to fit a machine."""
    return _run(asked, _pieces_asked, _divided)


def trial(asked: argparse.Namespace) -> int:
    """Cut a slice out of bodies, to be printed first and tried on."""
    return _run(asked, lambda one: [_slice_asked(one)], _made)


def split(asked: argparse.Namespace) -> int:
    """Make two bodies of one, by height or by the outlines of a drawing."""
    return _run(asked, lambda one: [_split_asked(one)], _made)


def hollow(asked: argparse.Namespace) -> int:
    """Hollow bodies out, with a wall and drains."""
    return _run(asked, lambda one: [AskHollow(wall=one.wall, drains=tuple(one.drain))], _hollowed)


def together(asked: argparse.Namespace) -> int:
    """Join two bodies, cut one from the other, or keep what they have in common."""
    return _run(asked, lambda one: [AskTogether(how=one.how)], _made)


def _run(
    asked: argparse.Namespace,
    asking: Callable[[argparse.Namespace], list[Asked]],
    telling: Callable[[argparse.Namespace, list[Row], list[Answer], Loaded], dict[str, Any]],
) -> int:
    started = time.perf_counter()
    try:
        loaded, job = corrected_bodies(asked)
        (what,) = asking(asked)
        shaped, answers = _shaped(replace(loaded, job=job), what, asked)
        rows = _written(shaped, answers, asked)
    except Failure as failure:
        complain(failure.says)
        return failure.code
    except Refused as error:
        complain(f"{asked.files[0]}: {error.line()}")
        return Exit.UNPROVEN if error.code in _CLOSED else Exit.USAGE
    answer = {
        **telling(asked, rows, list(answers.values()), shaped),
        "findings": [
            finding_fields(one) for one in survey(shaped.job, shaped).findings if one.sheet != "seating"
        ],
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(answer, indent=1) if asked.json else _as_text(answer))
    return Exit.DONE


def _shaped(loaded: Loaded, what: Asked, asked: argparse.Namespace) -> tuple[Loaded, dict[str, Answer]]:
    """Make of every body what is asked for; of the first two, where two are to become one."""
    bodies = [body.id for body in loaded.job.bodies]
    if isinstance(what, AskTogether):
        order = {name: number for number, name in enumerate(asked.body)}
        bodies.sort(key=lambda key: order.get(loaded.job.body(key).name, 0))
        if len(bodies) != 2:
            names = ", ".join(body.name for body in loaded.job.bodies)
            says = f"{len(bodies)} bodies were given ({names}); two are wanted, chosen with --body"
            raise Failure(Exit.USAGE, says)
        groups = [tuple(bodies)]
    else:
        groups = [(key,) for key in bodies]
    answers: dict[str, Answer] = {}
    for number, group in enumerate(groups):
        work = Shape(bodies=group, asked=what)
        made = shape(f"c{number + 1}", loaded.job, work, loaded, lambda share, says: None)
        meshes = {body.geometry: from_bytes(made.blobs[body.geometry]) for body in made.action.come}
        loaded = replace(loaded, meshes={**loaded.meshes, **meshes})
        loaded = replace(loaded, job=apply(loaded.job, made.action, loaded))
        answers[made.action.division.id] = made.answer
    return loaded, answers


def _written(loaded: Loaded, answers: dict[str, Answer], asked: argparse.Namespace) -> list[Row]:
    """Release what was made, each body its own file, all of them proven before any is there."""
    job = loaded.job
    made = [body for body in job.bodies if body.division in answers]
    order = Order(
        format=asked.format,
        place="own",
        shape="each",
        bodies=tuple(body.id for body in made),
        pattern="{body}",
    )
    try:
        release = make(job, loaded, order)
    except AimTrueError as error:
        raise Failure(Exit.UNPROVEN, f"{loaded.path}: {error.line()}") from None
    files = put_down([release], asked)
    rows = []
    for body, file in zip(made, files, strict=True):
        division = job.division(body.division or "")
        answer, number = answers[division.id], division.made.index(body.id)
        rows.append(Row(body, answer, number, file["path"]))
    return rows


def _pieces_asked(asked: argparse.Namespace) -> list[Asked]:
    pins = None
    if asked.pins:
        parts = [one.strip() for one in asked.pins.split(",")]
        if len(parts) not in (3, 4) or (len(parts) == 4 and not parts[3].isdigit()):
            raise Refused("usage", f"“{asked.pins}” is not diameter,depth,clearance[,count]")
        count = int(parts[3]) if len(parts) == 4 else None
        if count is not None and not 1 <= count <= 24:
            raise Refused("usage", f"{count} pins on a cut face are not made", remedy="use 1 to 24")
        pins = AskPins(
            kind=asked.pin_kind,
            diameter=parts[0],
            depth=parts[1],
            clearance=parts[2],
            count=count,
            keyed=asked.keyed,
            wall=asked.pin_wall,
        )
    machine = machine_named(asked.fit, asked.margin) if asked.fit else None
    asks = AskPieces(
        planes=tuple(asked.plane),
        fit=machine,
        seams=asked.seams,
        keep=asked.keep,
        slivers=asked.slivers,
        pins=pins,
    )
    if not asks.planes and asks.fit is None:
        raise Refused("usage", "no plane was told", remedy="write --plane z=120, or --fit MACHINE")
    return [asks]


_BETWEEN = re.compile(r"\s*([xyz])\s*=\s*(.+?)\s*\.\.\s*(.+?)\s*", re.IGNORECASE)


def _slice_asked(asked: argparse.Namespace) -> AskSlice:
    found = _BETWEEN.fullmatch(asked.between)
    if not found:
        raise Refused("usage", f"“{asked.between}” is not AXIS=LOW..HIGH", remedy="write z=10..30")
    axis, low, high = found.groups()
    return AskSlice(axis=an_axis(axis), low=low, high=high, wall=asked.wall or "")


def _split_asked(asked: argparse.Namespace) -> Asked:
    if asked.above:
        axis, at = axis_length(asked.above)
        return AskAbove(axis=axis, at=at, depth=asked.depth or "")
    try:
        drawing = Path(asked.inside).read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise Failure(Exit.UNREADABLE, f"{asked.inside}: cannot be opened: {error.strerror}") from None
    return AskInside(
        axis=an_axis(asked.along),
        drawing=drawing,
        name=Path(asked.inside).name,
        unit=asked.outline_unit,
        depth=asked.depth or "",
    )


def _divided(
    asked: argparse.Namespace, rows: list[Row], answers: list[Answer], loaded: Loaded
) -> dict[str, Any]:
    machine: Machine = machine_named(asked.fit, asked.margin)
    pieces = [row for row in rows if row.number < len(row.answer.pieces)]
    loose = [row for row in rows if row.number >= len(row.answer.pieces)]
    return {
        "whole": {"volume_mm3": float(sum(one.before for one in answers)), "closed": True},
        "pieces": [_piece(row, machine) for row in pieces],
        "dowels": _dowels(loose, loaded),
        "slivers": [row.body.name for row in pieces if row.number in row.answer.slivers],
        "dropped": [
            {"count": one.dropped[0], "volume_mm3": one.dropped[1]} for one in answers if one.dropped[0]
        ],
        "without_pins": [says for one in answers for says in one.without],
        "clearance_mm": [one.clearance_mm for one in answers if one.clearance_mm],
        "machine": machine.name,
        "difference": max((one.difference for one in answers), default=0.0),
    }


def _piece(row: Row, machine: Machine) -> dict[str, Any]:
    piece = row.answer.pieces[row.number]
    over = over_in(machine, piece.mesh.vertices)
    return {**row.fields, "place": piece.place, "fits": not any(over), "over_mm": list(over)}


def _dowels(loose: list[Row], loaded: Loaded) -> dict[str, Any] | None:
    if not loose:
        return None
    # Its facts are in numbers of the file.
    found = {body.id: body for body in survey(loaded.job, loaded).bodies}
    return {
        "count": sum(len(loaded.job.seats_of(row.body.id)) for row in loose),
        "path": loose[0].path,
        "volume_mm3": found[loose[0].body.id].volume_mm3,
    }


def _made(
    asked: argparse.Namespace, rows: list[Row], answers: list[Answer], loaded: Loaded
) -> dict[str, Any]:
    return {
        "bodies": [row.fields for row in rows],
        "before_mm3": float(sum(one.before for one in answers)),
        "difference": max((one.difference for one in answers), default=0.0),
    }


def _hollowed(
    asked: argparse.Namespace, rows: list[Row], answers: list[Answer], loaded: Loaded
) -> dict[str, Any]:
    walls = [one.wall_mm for one in answers if one.wall_mm]
    return {
        **_made(asked, rows, answers, loaded),
        "wall_mm": {
            "asked": walls[0][0],
            "least": min(wall[1] for wall in walls),
            "greatest": max(wall[2] for wall in walls),
        },
    }


def _as_text(answer: dict[str, Any]) -> str:
    lines = []
    for one in answer.get("pieces", answer.get("bodies", ())):
        size = " x ".join(f"{size:.3f}" for size in one["size_mm"])
        fits = "" if one.get("fits", True) else f"  does not go into {answer['machine']}"
        lines.append(f"{one['path']}: {one['name']}, {size} mm, {one['volume_mm3']:.1f} mm³, closed{fits}")
    if answer.get("dowels"):
        lines.append(f"{answer['dowels']['path']}: dowel, {answer['dowels']['count']} wanted")
    lines += [f"  {says}" for says in answer.get("without_pins", ())]
    if "wall_mm" in answer:
        wall = answer["wall_mm"]
        lines.append(f"  wall {wall['least']:.3f} to {wall['greatest']:.3f} mm, asked {wall['asked']:g}")
    before = answer["whole"]["volume_mm3"] if "whole" in answer else answer["before_mm3"]
    lines.append(f"  of {before:.1f} mm³; volumes add up to within {answer['difference']:.1e}")
    lines += [f"  {one['severity']:<5} {one['says']}" for one in answer["findings"]]
    return "\n".join(lines)
