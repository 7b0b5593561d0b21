"""This module says what a proof sheet says, gathered from a job as it was released and from the proofs of
its files.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from aimtrue.core.intake.bodies.congruence import identical
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import UNIT_NAMES, written
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.ownership import standing_together, subject_name, subject_of, to_print
from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import AXES, Value, Vec3
from aimtrue.core.release.making import ReleasedFile
from aimtrue.core.rooms import ROOMS
from aimtrue.core.seating.views import plan_of
from aimtrue.core.survey.survey import survey
from aimtrue.core.survey.values import BodySurvey, ReadingState

Ring = tuple[tuple[float, float], ...]
Paper = Literal["a4", "letter"]
_HOW = {
    "declared": "declared by the file",
    "told": "told by its user",
    "inferred": "inferred from clear evidence",
    "sibling": "taken over from another file of the job",
}


class SheetSource(Value):
    """A file that bodies came from."""

    name: str
    sha256: str
    bytes: int
    unit_says: str
    up: str
    replaced: int


class SheetFile(Value):
    """A released file, and how its proof went."""

    name: str
    full_name: str
    format: str
    unit: str
    bodies: tuple[str, ...]
    count: int
    size_mm: Vec3
    triangles: int
    bytes: int
    sha256: str
    reader: str
    checks: int
    worst_mm: float


class ChainRow(Value):
    """One axis of the size chain: number x mm x factor = size, + allowance = released."""

    axis: str
    number: float
    mm_per_unit: float
    factor: float
    size_mm: float
    allowance_mm: float
    released_mm: float


class SheetReading(Value):
    """A reading, what was wanted, how long it is on what was released, and whether that is within its
    band.
    """

    name: str
    typed: str
    found: str
    met: bool
    role: str


class SheetLine(Value):
    """What a room says of a body, under a label."""

    label: str
    text: str


class SheetBody(Value):
    """A body, or several that are the same part, with all that was decided of its size."""

    id: BodyId
    names: tuple[str, ...]
    source: str
    triangles: int
    volume_mm3: float
    closed: bool
    chain: tuple[ChainRow, ...]
    says: tuple[SheetLine, ...]
    readings: tuple[SheetReading, ...]


class SheetSeat(Value):
    """A seat on a plate, by its balloon."""

    balloon: int
    body: str
    place_says: str
    turns_says: str
    lift_mm: float
    rings: tuple[Ring, ...]


class SheetPlate(Value):
    """A plate with what stands on it."""

    number: int
    machine: str
    shape: str
    room: Vec3
    corners: Ring
    seats: tuple[SheetSeat, ...]


class ProofSheet(Value):
    """All that a proof sheet says of a release."""

    job: str
    release: int
    letter: str
    day: str
    holds: bool
    worst_mm: float
    checks: int
    material: str
    original_says: str
    sources: tuple[SheetSource, ...]
    files: tuple[SheetFile, ...]
    bodies: tuple[SheetBody, ...]
    plates: tuple[SheetPlate, ...]
    accepted: tuple[str, ...]

    def body_of(self, key: str) -> SheetBody:
        """Return what is said of a body, by id."""
        return next(body for body in self.bodies if body.id == key)


_LETTERS = "ABCDEFGHJKLMNPRTUVWY"
"""The letters of revisions. I, O, Q, S, X and Z are left out, since they read as other characters (ASME
Y14.35).
"""


def letter_of(number: int) -> str:
    """Return the letter of the n-th release: A, B ... Y, AA, AB ..."""
    text = ""
    while number > 0:
        number, rest = divmod(number - 1, len(_LETTERS))
        text = _LETTERS[rest] + text
    return text


def sheet_of(
    job: Job, number: int, day: str, files: Sequence[ReleasedFile], store: GeometryStore, *, seated: bool
) -> ProofSheet:
    """Gather what the proof sheet of a release says.

    Args:
        job: as it was when it was released.
        number, day: of the release.
        files: with their proofs.
        store: gives meshes, for plans of plates.
        seated: whether bodies were released as they stand; else there are no plates to show.
    """
    ids = {key for file in files for key in file.ids} or {body.id for body in to_print(job, job.bodies)}
    bodies = tuple(body for body in job.bodies if body.id in ids)
    facts = {body.id: body for body in survey(job, store).bodies}
    sources = dict.fromkeys(job.source_of(body) for body in bodies)
    proofs = [file.proof for file in files]
    on_plates = (
        {seat.plate for body in bodies for seat in job.seats_of(subject_of(job, body))} if seated else set()
    )
    return ProofSheet(
        job=job.name,
        release=number,
        letter=letter_of(number),
        day=day,
        holds=all(proof.holds for proof in proofs),
        worst_mm=max((proof.worst_mm for proof in proofs), default=0.0),
        checks=sum(len(proof.checks) for proof in proofs),
        material=job.material.name,
        original_says="; ".join(dict.fromkeys(proof.original for proof in proofs if proof.original)),
        sources=tuple(map(_source, sources)),
        files=tuple(map(_file, files)),
        bodies=tuple(_body(job, group, facts) for group in _parts(job, bodies)),
        plates=tuple(
            _plate(job, plate, index, store)
            for index, plate in enumerate(job.plates, 1)
            if plate.id in on_plates
        ),
        accepted=tuple(dict.fromkeys(says for proof in proofs for says in proof.accepted)),
    )


def _parts(job: Job, bodies: tuple[Body, ...]) -> list[list[Body]]:
    """Bodies that are the same part together; those with readings of their own each by itself."""
    same = identical(job)
    read = {reading.body for reading in job.readings if reading.has_length}
    groups: dict[tuple[str, ...], list[Body]] = {}
    for body in bodies:
        key = (body.id,) if body.id in read else same.get(body.id, (body.id,))
        groups.setdefault(key, []).append(body)
    return list(groups.values())


def _source(source: Source) -> SheetSource:
    how = _HOW.get(source.how or "", "not settled")
    unit = UNIT_NAMES[source.unit] if source.unit else "not settled"
    return SheetSource(
        name=source.name,
        sha256=source.sha256,
        bytes=source.bytes,
        unit_says=f"{unit}, {how}",
        up=source.up.upper(),
        replaced=len(source.replaced),
    )


def _file(file: ReleasedFile) -> SheetFile:
    return SheetFile(
        name=file.name,
        full_name=file.full_name or file.name,
        format=file.format,
        unit=UNIT_NAMES[file.unit],
        bodies=file.bodies,
        count=file.count,
        size_mm=file.size_mm,
        triangles=file.triangles,
        bytes=file.bytes,
        sha256=file.sha256,
        reader=file.proof.reader,
        checks=len(file.proof.checks),
        worst_mm=file.proof.worst_mm,
    )


def _body(job: Job, group: list[Body], facts: dict[BodyId, BodySurvey]) -> SheetBody:
    body = group[0]
    known = facts[body.id]
    return SheetBody(
        id=body.id,
        names=tuple(body.name for body in group),
        source=job.source_of(body).name,
        triangles=body.triangles,
        volume_mm3=known.volume_mm3 or 0.0,
        closed=body.health.closed,
        chain=_chain(known),
        says=tuple(
            SheetLine(label=label, text=text)
            for room in ROOMS
            for label, text in room.sheet(job, body)
            if text
        ),
        readings=tuple(
            _reading(job, reading) for reading in known.readings if job.reading(reading.id).has_length
        ),
    )


def _chain(known: BodySurvey) -> tuple[ChainRow, ...]:
    chain = known.chain
    if chain is None:
        return ()
    return tuple(
        ChainRow(
            axis=axis.upper(),
            number=chain.number[i],
            mm_per_unit=chain.mm_per_unit,
            factor=chain.factor[i],
            size_mm=chain.size_mm[i],
            allowance_mm=chain.allowance_mm[i],
            released_mm=chain.released_mm[i],
        )
        for i, axis in enumerate(AXES)
    )


def _reading(job: Job, now: ReadingState) -> SheetReading:
    reading = job.reading(now.id)
    lengths = [now.model_mm] if now.least_mm is None else [now.least_mm, now.model_mm]
    sign = "°" if reading.gauge.kind == "angle" else " mm"
    return SheetReading(
        name=reading.name,
        typed=reading.typed,
        found=" to ".join(written(length) for length in lengths) + sign,
        met=now.met,
        role=reading.role,
    )


def _plate(job: Job, plate: Plate, number: int, store: GeometryStore) -> SheetPlate:
    plan = plan_of(job, plate.id, store)
    rings = {seat.id: seat.rings for seat in plan.seats}
    seats = [seat for group in standing_together(job) for seat in job.seats_of(subject_of(job, group[0]))]
    here = [seat for seat in seats if seat.plate == plate.id and seat.id in rings]
    machine = plate.machine
    return SheetPlate(
        number=number,
        machine=machine.name,
        shape=machine.volume.shape,
        room=machine.volume.room,
        corners=_corners(machine),
        seats=tuple(
            SheetSeat(
                balloon=balloon,
                body=_name_of(job, seat),
                place_says=_place(seat, rings[seat.id]),
                turns_says=_turns(seat),
                lift_mm=seat.lift,
                rings=tuple(tuple((float(x), float(y)) for x, y in ring) for ring in rings[seat.id]),
            )
            for balloon, seat in enumerate(here, 1)
        ),
    )


def _corners(machine: Machine) -> Ring:
    return tuple((float(x), float(y)) for x, y in machine.volume.plate(machine.kept_free))


def _name_of(job: Job, seat: Seat) -> str:
    name = subject_name(job, seat.subject)
    several = len(job.seats_of(seat.subject)) > 1
    return f"{name}, copy {seat.copy_number}" if several else name


def _place(seat: Seat, rings: Sequence[Sequence[tuple[float, float]]]) -> str:
    points = [point for ring in rings for point in ring]
    x = (min(x for x, _ in points) + max(x for x, _ in points)) / 2
    y = (min(y for _, y in points) + max(y for _, y in points)) / 2
    return f"middle at {x:.2f}, {y:.2f}" + ("" if seat.x is not None else ", in its row")


def _turns(seat: Seat) -> str:
    notes = ["mirrored"] if seat.mirrored else []
    notes += [turn.says or f"{turn.axis.upper()} {turn.degrees:g}°" for turn in seat.turns]
    return ", ".join(notes) or "as it came"
