"""The addresses by which a release is handed over: drives, targets, and the stand-ins for what is beyond."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from aimtrue.api.answers import JobAnswer, Seen, answer
from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.release import record_bytes
from aimtrue.core.errors import Refused
from aimtrue.core.proof.record import Record
from aimtrue.handover.folders import Folder, PutFile, PutReport, put_down
from aimtrue.handover.targets import Target, refuse_far
from aimtrue.settings import settings
from aimtrue.standins.card import Card, CardSettings
from aimtrue.standins.receiving import Arrival, ReceivingHabits
from aimtrue.store import blobs, handovers, job_releases
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.tables import HandoverRow
from aimtrue.work import sandbox
from aimtrue.work.queue import ask_sending
from aimtrue.work.sandboxed import receive_files
from aimtrue.work.sending import files_of, target_named, targets
from aimtrue.work.tasks import usual_limits

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)

CARD = "card"


class Drive(BaseModel):
    """Where files can be put: the simulated card, or a folder that a setting allows."""

    id: str
    name: str
    simulated: bool
    room_bytes: int
    there: bool


class CardState(BaseModel):
    """The simulated card: how it behaves, what is on it, and how much room is left."""

    settings: CardSettings
    files: list[tuple[str, int]]
    room_bytes: int
    simulated: Literal[True] = True


class TargetView(BaseModel):
    """A program that releases can be sent to."""

    name: str
    address: str
    simulated: bool


class AskPut(BaseModel):
    """Where the files of a release are to be put, and whether files of the same name are replaced."""

    drive: str
    replace: bool = False


class AskSend(BaseModel):
    """The target that a release is sent to; ``again`` where it was sent there before."""

    target: str = Field(max_length=200)
    again: bool = False


class PutView(BaseModel):
    """What became of the files that were to be put down."""

    files: list[PutFile]
    whole: bool
    says: str


class HandoverView(BaseModel):
    """A release that was handed over, or was to be."""

    way: Literal["put", "send"]
    target: str
    whole: bool
    says: str
    at: datetime


@router.get("/drives")
def list_drives() -> list[Drive]:
    """List where files can be put: the simulated card, and the folders that a setting allows."""
    card = Card(settings().data)
    there = not card.settings.out
    drives = [Drive(id=CARD, name="Card, simulated", simulated=True, room_bytes=card.room(), there=there)]
    for number, path in enumerate(settings().allowed_folders):
        here = path.is_dir()
        room = Folder(path).room() if here else 0
        drives.append(
            Drive(id=f"folder-{number}", name=path.name, simulated=False, room_bytes=room, there=here)
        )
    return drives


def _drive(key: str) -> Folder:
    folders: dict[str, Path] = {f"folder-{n}": path for n, path in enumerate(settings().allowed_folders)}
    if key == CARD:
        return Card(settings().data)
    if key not in folders:
        raise Refused(
            "drive-unknown", "there is no such drive", remedy="set AIMTRUE_FOLDERS to allow a folder"
        )
    return Folder(folders[key])


@router.get("/standins/card")
def card() -> CardState:
    """Look at the simulated card."""
    return _card_now(Card(settings().data))


def _card_now(card: Card) -> CardState:
    return CardState(settings=card.settings, files=card.files(), room_bytes=card.room())


@router.put("/standins/card")
def set_card(asked: CardSettings) -> CardState:
    """Change how the simulated card behaves."""
    card = Card(settings().data)
    card.set(asked)
    return _card_now(card)


@router.post("/standins/card/{what}")
def use_card(what: Literal["eject", "put-in", "empty"]) -> CardState:
    """Eject the simulated card, put it in again, or take everything off it."""
    card = Card(settings().data)
    {"eject": card.eject, "put-in": card.put_in, "empty": card.empty}[what]()
    return _card_now(card)


@router.get("/targets")
def list_targets() -> list[TargetView]:
    """List the programs that releases can be sent to."""
    return [
        TargetView(name=target.name, address=target.shown, simulated=target.simulated) for target in targets()
    ]


@heavy.post("/jobs/{key}/releases/{number}/put")
def put_release(key: str, number: int, asked: AskPut) -> PutView:
    """Put the files of a release down on a drive: each whole or not at all."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        files = [(file.name, blobs.read(session, file.sha256)) for file in files_of(release_row)]
    report = put_down(files, _drive(asked.drive), replace=asked.replace)
    name = next(drive.name for drive in list_drives() if drive.id == asked.drive)
    with sessions().begin() as session:
        _note(session, key, number, name, report)
    return PutView(files=list(report.files), whole=report.whole, says=report.says)


def _note(session: Session, key: str, number: int, name: str, report: PutReport) -> None:
    row = HandoverRow(job=key, release=number, way="put", target=name, whole=report.whole, says=report.says)
    handovers.note(session, row)


@router.post("/jobs/{key}/releases/{number}/send", status_code=202, response_model=JobAnswer)
def send_release(key: str, number: int, asked: AskSend, seen: Seen = "") -> Response:
    """Ask for a release to be sent to a target, in the background; never twice unless it is said."""
    target: Target = target_named(asked.target)
    refuse_far(target.address, anywhere=settings().targets_anywhere)
    with sessions().begin() as session:
        job_releases.release_of(session, key, number)
        before = handovers.sent(session, key, number, target.name)
        if before is not None and not asked.again:
            raise Refused(
                "sent-already",
                f"release {number} was sent to {target.name} on {before.at:%d %b at %H:%M}",
                remedy="say that it is to be sent again",
            )
        ask_sending(session, key, number, target.name)
        return answer(session, key, seen, 202)


@router.get("/jobs/{key}/releases/{number}/handovers")
def release_handovers(key: str, number: int) -> list[HandoverView]:
    """List where a release was handed over to, the newest first."""
    with snapshot() as session:
        return [
            HandoverView.model_validate(row, from_attributes=True)
            for row in handovers.of_release(session, key, number)
        ]


@heavy.post("/jobs/{key}/releases/{number}/receive")
def receive_release(key: str, number: int, habits: ReceivingHabits) -> Arrival:
    """Say what a receiving end with some habits would make of a release."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        record = Record.model_validate_json(record_bytes(session, release_row))
        files = [(file.name, blobs.read(session, file.sha256)) for file in files_of(release_row)]
    return sandbox.run(receive_files, files, record, habits, limits=usual_limits())
