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

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.progress import told
from aimtrue.cli.release import put_down, recorded
from aimtrue.cli.seat import machine_named
from aimtrue.cli.section import corrected_bodies
from aimtrue.cli.sizing import a_place, an_axis, axis_length
from aimtrue.core.actions import apply
from aimtrue.core.division.cutting.pieces import Piece
from aimtrue.core.division.cutting.raised_faces import picked_at
from aimtrue.core.division.fitting import over_in, over_turned
from aimtrue.core.division.frames import frame_of, in_mm
from aimtrue.core.division.making import DivisionResult, shape, shape_all
from aimtrue.core.division.requests import DivisionDraft
from aimtrue.core.division.tasks import DivideTask
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.intake.actions import Accept
from aimtrue.core.mesh.serialization import from_bytes
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    Asked,
    AskFaces,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
    AskSurface,
    AskThread,
    OnPickedFaces,
)
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.ownership import division_of
from aimtrue.core.progress import Progress
from aimtrue.core.proof.record import as_json
from aimtrue.core.release.making import release as make
from aimtrue.core.release.manifest import RECORD
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey

_CLOSED = ("not-closed", "stop-open")
"""What is refused for the state that a body is in, not for what was typed."""


@dataclass(frozen=True, eq=False)
class BodyRow:
    """A body that was made or left whole, and its file; ``piece`` is it in mm, None of a dowel."""

    body: Body
    piece: Piece | None
    path: str

    @property
    def fields(self) -> dict[str, Any]:
        """What is told of it."""
        assert self.piece is not None
        low, high = self.piece.mesh.bounds()
        return {
            "name": self.body.name,
            "path": self.path,
            "volume_mm3": self.piece.volume,
            "size_mm": (high - low).tolist(),
            "closed": self.body.health.closed,
        }


def divide(asked: argparse.Namespace) -> int:
    """Cut bodies into pieces by planes, or to fit a machine."""
    return _run(asked, _pieces_asked, _divided)


def trial(asked: argparse.Namespace) -> int:
    """Cut a slice out of bodies, to be printed first and tried on."""
    return _run(asked, lambda body: [_slice_asked(body)], _made)


def split(asked: argparse.Namespace) -> int:
    """Make two bodies of one, by height or by the outlines of a drawing."""
    return _run(asked, lambda body: [_split_asked(body)], _made)


def hollow(asked: argparse.Namespace) -> int:
    """Hollow bodies out, with a wall and drains."""
    return _run(asked, lambda body: [_hollow_asked(body)], _hollowed)


def thread(asked: argparse.Namespace) -> int:
    """Put a thread on the wall of a bore or a boss."""
    return _run(asked, lambda body: [_thread_asked(body)], _made)


def offset(asked: argparse.Namespace) -> int:
    """Move faces of bodies along their normals."""
    return _run(asked, lambda body: [_surface_asked(body)], _moved)


def together(asked: argparse.Namespace) -> int:
    """Join two bodies, cut one from the other, or keep what they have in common."""
    return _run(asked, lambda body: [AskCombination(how=body.how)], _made)


def _run(
    asked: argparse.Namespace,
    asking: Callable[[argparse.Namespace], list[Asked]],
    telling: Callable[[argparse.Namespace, list[BodyRow], list[DivisionDraft], LoadedFile], dict[str, Any]],
) -> int:
    started = time.perf_counter()
    try:
        loaded, job = corrected_bodies(asked)
        (what,) = asking(asked)
        with told(loaded.path) as progress:
            shaped, answers = _shaped_or_whole(replace(loaded, job=job), what, asked, progress)
        _refuse_left_out(shaped, answers, asked)
        rows = _written(shaped, answers, asked, whole_too=isinstance(what, AskPieces))
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    except Refused as error:
        complain(f"{asked.files[0]}: {error.line()}")
        return ExitCode.UNPROVEN if error.code in _CLOSED else ExitCode.USAGE
    answer = {
        **telling(asked, rows, list(answers.values()), shaped),
        "findings": [
            finding_fields(finding)
            for finding in survey(shaped.job, shaped).findings
            if finding.sheet != "seating"
        ],
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(answer, indent=1) if asked.json else _as_text(answer))
    return ExitCode.DONE


def _shaped_or_whole(
    loaded: LoadedFile, what: Asked, asked: argparse.Namespace, progress: Progress
) -> tuple[LoadedFile, dict[str, DivisionDraft]]:
    """Make what is asked for; bodies that are to fit a machine and do already are left whole."""
    try:
        return _shaped(loaded, what, asked, progress)
    except Refused as error:
        if error.code == "no-planes" and isinstance(what, AskPieces) and what.fit is not None:
            return loaded, {}
        raise


def _refuse_left_out(
    loaded: LoadedFile, answers: dict[str, DivisionDraft], asked: argparse.Namespace
) -> None:
    """End where pins were wanted and one has no room, unless pieces without it are good, too."""
    without = [says for answer in answers.values() for says in answer.without]
    if without and not asked.fewer_pins:
        says = f"{loaded.path}: {'; '.join(without)}; nothing was written; --fewer-pins writes the pieces"
        raise CommandFailure(ExitCode.UNPROVEN, says)


def _shaped(
    loaded: LoadedFile, what: Asked, asked: argparse.Namespace, progress: Progress
) -> tuple[LoadedFile, dict[str, DivisionDraft]]:
    """Make of every body what is asked for; of the first two, where two are to become one."""
    bodies = [body.id for body in loaded.job.bodies]
    if isinstance(what, AskCombination):
        order = {name: number for number, name in enumerate(asked.body)}
        bodies.sort(key=lambda key: order.get(loaded.job.body(key).name, 0))
        if len(bodies) != 2:
            names = ", ".join(body.name for body in loaded.job.bodies)
            says = f"{len(bodies)} bodies were given ({names}); two are wanted, chosen with --body"
            raise CommandFailure(ExitCode.USAGE, says)
        groups = [tuple(bodies)]
    elif isinstance(what, AskPieces) and len(bodies) > 1:
        task = DivideTask(bodies=tuple(bodies), asked=what)
        return _put(loaded, shape_all("c1", loaded.job, task, loaded, progress))
    else:
        groups = [(key,) for key in bodies]
    answers: dict[str, DivisionDraft] = {}
    for number, group in enumerate(groups):
        task = DivideTask(bodies=group, asked=_picked_on(loaded, group[0], what))
        division_result = shape(f"c{number + 1}", loaded.job, task, loaded, progress)
        loaded, answer = _put(loaded, [division_result])
        answers |= answer
    return loaded, answers


def _picked_on(loaded: LoadedFile, key: BodyId, what: Asked) -> Asked:
    """Find the faces of a body that are nearest to the places that were told."""
    if not isinstance(what, OnPickedFaces) or not what.picks:
        return what
    body = loaded.job.body(key)
    mesh = in_mm(frame_of(loaded.job, body), loaded.mesh(body.geometry))
    return what.model_copy(update={"picks": picked_at(mesh, [pick.point for pick in what.picks])})


def _put(loaded: LoadedFile, each: list[DivisionResult]) -> tuple[LoadedFile, dict[str, DivisionDraft]]:
    """Put what was made into the job."""
    for division_result in each:
        meshes = {
            body.geometry: from_bytes(division_result.blobs[body.geometry])
            for body in division_result.action.come
        }
        loaded = replace(loaded, meshes={**loaded.meshes, **meshes})
        loaded = replace(loaded, job=apply(loaded.job, division_result.action, loaded))
    return loaded, {division_result.action.division.id: division_result.answer for division_result in each}


def _written(
    loaded: LoadedFile, answers: dict[str, DivisionDraft], asked: argparse.Namespace, *, whole_too: bool
) -> list[BodyRow]:
    """Release what was made, each body its own file, all of them proven before any is there.

    Bodies that were to be divided, and that no plane meets, are written as they are, where ``whole_too``.
    """
    job = loaded.job
    if whole_too and asked.open:
        gaping = tuple(body.id for body in job.bodies if body.division in answers and not body.health.closed)
        job = (
            apply(job, Accept(bodies=gaping, code="open-edges", reason="cut open on purpose"), loaded)
            if gaping
            else job
        )
    bodies = [
        body for body in job.bodies if body.division in answers or (whole_too and not division_of(job, body))
    ]
    order = Order(
        format=asked.format,
        place=asked.place,
        shape="each",
        bodies=tuple(body.id for body in bodies),
        pattern="{body}",
    )
    try:
        release = make(job, loaded, order)
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNPROVEN, f"{loaded.path}: {error.line()}") from None
    beside = {RECORD: as_json(recorded([(loaded, release)]))} if asked.proof_record else {}
    files = put_down([release], asked, beside)
    rows = []
    for body, file in zip(bodies, files, strict=True):
        rows.append(BodyRow(body, _piece_of(body, loaded, answers), file["path"]))
    return rows


def _piece_of(body: Body, loaded: LoadedFile, answers: dict[str, DivisionDraft]) -> Piece | None:
    """A body in mm: the piece that it is, or all of one that was left whole."""
    if body.division is None:
        return Piece(in_mm(frame_of(loaded.job, body), loaded.mesh(body.geometry)), ())
    division = loaded.job.division(body.division)
    pieces, number = answers[division.id].pieces, division.made.index(body.id)
    return pieces[number] if number < len(pieces) else None


def _pieces_asked(asked: argparse.Namespace) -> list[Asked]:
    pins = None
    if asked.pins:
        parts = [part.strip() for part in asked.pins.split(",")]
        if len(parts) not in (3, 4) or (len(parts) == 4 and not parts[3].isdigit()):
            raise Refused("usage", f"“{asked.pins}” is not diameter,depth,clearance[,count]")
        pins = AskPins(
            kind=asked.pin_kind,
            diameter=parts[0],
            depth=parts[1],
            clearance=parts[2],
            count=int(parts[3]) if len(parts) == 4 else None,
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
        turned=asked.turned,
        sure=asked.many,
        open=asked.open,
        pins=pins,
    )
    if not asks.planes and asks.fit is None:
        raise Refused("usage", "no plane was told", remedy="write --plane z=120, or --fit MACHINE")
    return [asks]


_BETWEEN = re.compile(r"\s*([xyz])\s*=\s*(.+?)\s*\.\.\s*(.+?)\s*", re.IGNORECASE)


def _slice_asked(asked: argparse.Namespace) -> AskSlice:
    match_ = _BETWEEN.fullmatch(asked.between)
    if not match_:
        raise Refused("usage", f"“{asked.between}” is not AXIS=LOW..HIGH", remedy="write z=10..30")
    axis, low, high = match_.groups()
    return AskSlice(axis=an_axis(axis), low=low, high=high, wall=asked.wall or "")


def _split_asked(asked: argparse.Namespace) -> Asked:
    if asked.face:
        places = [a_place(text) for text in asked.face]
        # Faces are found on each body by their places.
        picks = tuple(PickedFace(face=-1, point=place) for place in places)
        return AskFaces(picks=picks, alike=asked.alike, depth=asked.depth or "")
    if asked.above:
        axis, at = axis_length(asked.above)
        return AskAbove(axis=axis, at=at, depth=asked.depth or "")
    try:
        drawing = Path(asked.inside).read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise CommandFailure(
            ExitCode.UNREADABLE, f"{asked.inside}: cannot be opened: {error.strerror}"
        ) from None
    return AskInside(
        axis=an_axis(asked.along),
        drawing=drawing,
        name=Path(asked.inside).name,
        unit=asked.outline_unit,
        depth=asked.depth or "",
    )


def _surface_asked(asked: argparse.Namespace) -> AskSurface:
    picks = tuple(PickedFace(face=-1, point=a_place(text)) for text in asked.face)
    return AskSurface(picks=picks, amount=asked.by)


def _thread_asked(asked: argparse.Namespace) -> AskThread:
    picks = (PickedFace(face=-1, point=a_place(asked.face)),)
    return AskThread(
        picks=picks,
        size=asked.size or "",
        length=asked.length or "",
        clearance=asked.clearance or "",
        add=asked.add,
        left=asked.left,
    )


def _hollow_asked(asked: argparse.Namespace) -> AskHollow:
    drains = [drain.partition("@") for drain in asked.drain]
    places = tuple(a_place(place) if at else None for _, at, place in drains)
    return AskHollow(wall=asked.wall, drains=tuple(size for size, _, _ in drains), places=places)


def _divided(
    asked: argparse.Namespace, rows: list[BodyRow], answers: list[DivisionDraft], loaded: LoadedFile
) -> dict[str, Any]:
    machine: Machine = machine_named(asked.fit, asked.margin)
    pieces = [(row, row.piece) for row in rows if row.piece is not None]
    whole = sum(answer.before for answer in answers)
    whole += sum(piece.volume for row, piece in pieces if row.body.division is None)
    closed = all(answer.closed for answer in answers)
    return {
        "whole": {"volume_mm3": float(whole) if closed else None, "closed": closed},
        "pieces": [_piece(row, piece, machine, asked) for row, piece in pieces],
        "dowels": _dowels([row for row in rows if row.piece is None], loaded),
        "slivers": [row.body.name for row, piece in pieces if piece.sliver],
        "stays_open": [says for answer in answers for says in answer.stays_open],
        "dropped": [
            {"count": answer.dropped[0], "volume_mm3": answer.dropped[1]}
            for answer in answers
            if answer.dropped[0]
        ],
        "without_pins": [says for answer in answers for says in answer.without],
        "clearance_mm": [answer.clearance_mm for answer in answers if answer.clearance_mm],
        "machine": machine.name,
        "difference": max((answer.difference for answer in answers), default=0.0) if closed else None,
    }


def _piece(row: BodyRow, piece: Piece, machine: Machine, asked: argparse.Namespace) -> dict[str, Any]:
    over = (over_turned if asked.turned else over_in)(machine, piece.mesh.vertices)
    return {**row.fields, "place": piece.place, "fits": not any(over), "over_mm": list(over)}


def _dowels(loose: list[BodyRow], loaded: LoadedFile) -> dict[str, Any] | None:
    if not loose:
        return None
    # Its facts are in numbers of the file.
    all_facts = {body.id: body for body in survey(loaded.job, loaded).bodies}
    return {
        "count": sum(len(loaded.job.seats_of(row.body.id)) for row in loose),
        "path": loose[0].path,
        "volume_mm3": all_facts[loose[0].body.id].volume_mm3,
    }


def _made(
    asked: argparse.Namespace, rows: list[BodyRow], answers: list[DivisionDraft], loaded: LoadedFile
) -> dict[str, Any]:
    return {
        "bodies": [row.fields for row in rows],
        "before_mm3": float(sum(answer.before for answer in answers)),
        "difference": max((answer.difference for answer in answers), default=0.0),
    }


def _hollowed(
    asked: argparse.Namespace, rows: list[BodyRow], answers: list[DivisionDraft], loaded: LoadedFile
) -> dict[str, Any]:
    content = _made(asked, rows, answers, loaded)
    return {**content, "wall_mm": _from_to([answer.wall_mm for answer in answers])}


def _moved(
    asked: argparse.Namespace, rows: list[BodyRow], answers: list[DivisionDraft], loaded: LoadedFile
) -> dict[str, Any]:
    content = _made(asked, rows, answers, loaded)
    return {**content, "moved_mm": _from_to([answer.moved_mm for answer in answers])}


def _from_to(measured: list[tuple[float, float, float] | None]) -> dict[str, float]:
    """What was asked for, and the least and greatest of it that was made, over several bodies."""
    rows = [row for row in measured if row]
    return {
        "asked": rows[0][0],
        "least": min(row[1] for row in rows),
        "greatest": max(row[2] for row in rows),
    }


def _as_text(answer: dict[str, Any]) -> str:
    lines = []
    for body in answer.get("pieces", answer.get("bodies", ())):
        size = " x ".join(f"{size:.3f}" for size in body["size_mm"])
        state = "closed" if body["closed"] else "open"
        fits = "" if body.get("fits", True) else f"  does not go into {answer['machine']}"
        lines.append(
            f"{body['path']}: {body['name']}, {size} mm, {body['volume_mm3']:.1f} mm³, {state}{fits}"
        )
    if answer.get("dowels"):
        lines.append(f"{answer['dowels']['path']}: dowel, {answer['dowels']['count']} wanted")
    lines += [f"  {says}" for says in answer.get("without_pins", ())]
    if "wall_mm" in answer:
        wall = answer["wall_mm"]
        lines.append(f"  wall {wall['least']:.3f} to {wall['greatest']:.3f} mm, asked {wall['asked']:g}")
    if "moved_mm" in answer:
        moved = answer["moved_mm"]
        lines.append(f"  moved {moved['least']:.4f} to {moved['greatest']:.4f} mm, asked {moved['asked']:g}")
    lines += [f"  {says}" for says in answer.get("stays_open", ())]
    before = answer["whole"]["volume_mm3"] if "whole" in answer else answer["before_mm3"]
    if before is not None:
        lines.append(f"  of {before:.1f} mm³; volumes add up to within {answer['difference']:.1e}")
    lines += [f"  {finding['severity']:<5} {finding['says']}" for finding in answer["findings"]]
    return "\n".join(lines)
