"""Make a release: transform, write, read back, compare.

What goes into which file is told by ``filing``, what files are called by ``naming``, their bytes by
``writing``.
"""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from aimtrue.core.chain.allowance import allowed_sizes
from aimtrue.core.division.stale import stale_bodies
from aimtrue.core.errors import Refused
from aimtrue.core.fit.sides import sides_of
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import lengths_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.text import FileName, Sha256
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.progress import Progress
from aimtrue.core.proof import FileLayout as Written
from aimtrue.core.proof import Proof, ProofBroken, ProofSources, prove
from aimtrue.core.proof.bodies.proven_body import Claim
from aimtrue.core.proof.completeness import RequestedRelease, completeness
from aimtrue.core.release.filing import FileBody, FileContents, filed, wanted
from aimtrue.core.release.naming import ReleaseFileName, named
from aimtrue.core.release.order import Format, Order
from aimtrue.core.release.step_writing import refuse_inexact
from aimtrue.core.release.writing import chain_text, written
from aimtrue.core.room import Inquiry
from aimtrue.core.rooms import ROOMS, kinds_of
from aimtrue.core.survey.findings import all_findings
from aimtrue.core.survey.gathering import gathered


class ReleasedFile(Value):
    """One file of a release.

    ``full_name`` is what it would be called if the machine's display were no matter; ``ids`` are its bodies,
    each once, ``count`` how many of a body it stands for, and ``plate`` the plate that it is of. Releases
    kept before these were noted have none.
    """

    name: FileName
    full_name: str = ""
    format: Format
    unit: Unit
    bodies: tuple[BodyId, ...]
    ids: tuple[str, ...] = ()
    count: int = 1
    plate: str = ""
    size_mm: Vec3
    factor: Vec3
    triangles: int
    bytes: int
    sha256: Sha256
    chain: str
    proof: Proof


@dataclass(frozen=True, eq=False)
class ProvenFile:
    """A file with its bytes, the bodies in it by id, each copy, and how many triangles each has there; its
    proof holds.
    """

    file: ReleasedFile
    data: bytes
    bodies: tuple[BodyId, ...]
    triangles: tuple[int, ...] = ()


@dataclass(frozen=True, eq=False)
class Release:
    """The files of a release; all their proofs hold."""

    files: tuple[ProvenFile, ...]


_MOST_NAMED = 6


def refuse_open_stops(job: Job, findings: list[Finding]) -> None:
    """Refuse a release while something would make a bad part: which findings, of which bodies, and their
    codes.
    """
    stops = [finding for finding in gathered(job, findings, kinds_of(ROOMS)) if finding.stops]
    if stops:
        codes = list(dict.fromkeys(finding.code for finding in stops if finding.acceptable))
        accept = f", or accept it there on purpose ({', '.join(codes)})" if codes else ""
        raise Refused(
            "stop-open",
            "; ".join(
                f"{_said(job, stop)} (stop {stop.code}, sheet {stop.sheet.capitalize()})" for stop in stops
            ),
            remedy=f"settle it on the sheet named{accept}",
        )


def _said(job: Job, finding: Finding) -> str:
    """Say a finding with the bodies that have it."""
    names = [job.body(key).name for key in finding.bodies]
    more = f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    who = f"{', '.join(names[:_MOST_NAMED])}{more}: " if names else ""
    return f"{who}{finding.says}"


def release(
    job: Job,
    store: GeometryStore,
    order: Order,
    progress: Progress = lambda share, says: None,
    earlier: Collection[str] = (),
) -> Release:
    """Write the bodies of a job into files, read them back and compare.

    Args:
        job: what to release; the unit of every body asked for must be settled.
        store: gives the meshes.
        order: which bodies, format, unit, place and name.
        progress: told how far it is.
        earlier: names of files that were released before, which none of these may have.

    Returns:
        The files with their proofs.

    Raises:
        ProofBroken: what was written is not what was asked for.
        Refused: nothing to release, the unit is not settled, or a stop finding is open.
        AimTrueError: the second reader cannot read what was written.
    """
    accepted = [finding for finding in refuse_unreleasable(job, store, order) if finding.accepted]
    files = filed(job, store, order)
    names = named(job, files, order, earlier)
    proven_files: list[ProvenFile] = []
    sources = ProofSources(job, lambda source: store.original(source.sha256))
    for number, (file, name) in enumerate(zip(files, names, strict=True)):
        within = _within(progress, number, len(files))
        sources.let_go(item.body for later in files[number:] for item in later.items)
        proven_file = _made(job, file, name, store, order, sources, within)
        concerned = [row for row in accepted if any(row.concerns(item.body) for item in file.items)]
        mine = gathered(job, concerned, kinds_of(ROOMS))
        proven_files.append(_with_accepted(proven_file, tuple(_said_with_reason(job, row) for row in mine)))
    return Release(_complete(job, order, files, proven_files))


def _complete(
    job: Job, order: Order, files: Sequence[FileContents], proven: list[ProvenFile]
) -> tuple[ProvenFile, ...]:
    """Let the proof say whether all of it is there; that is told with the first file."""
    asked = RequestedRelease(
        order.bodies, order.plates, order.place, order.shape == "each", order.alike == "once"
    )
    released = [(item.body, item.seat, file.count) for file in files for item in file.items]
    check = completeness(job, asked, released)
    first = proven[0]
    proof = first.file.proof.model_copy(
        update={"checks": (*first.file.proof.checks, check), "holds": first.file.proof.holds and check.holds}
    )
    if not check.holds:
        raise ProofBroken(proof, first.file.name)
    return (replace(first, file=first.file.model_copy(update={"proof": proof})), *proven[1:])


def _said_with_reason(job: Job, finding: Finding) -> str:
    """Say an accepted finding and why it was accepted; several reasons for several bodies one after
    another.
    """
    said = [job.body(key).reason(finding.code) for key in finding.bodies]
    why = "; ".join(dict.fromkeys(reason for reason in said if reason))
    return f"{_said(job, finding)}, accepted: {why}" if why else _said(job, finding)


def _with_accepted(proven: ProvenFile, accepted: tuple[str, ...]) -> ProvenFile:
    proof = proven.file.proof.model_copy(update={"accepted": accepted})
    return replace(proven, file=proven.file.model_copy(update={"proof": proof}))


def _within(progress: Progress, number: int, count: int) -> Progress:
    return lambda share, says: progress((number + share) / count, says)


def refuse_unreleasable(job: Job, store: GeometryStore, order: Order) -> list[Finding]:
    """Refuse an order that names no body, or a body with an open unit or an open stop finding.

    Returns:
        The findings of the bodies asked for, none of which stops.
    """
    bodies = wanted(job, order)
    if not bodies:
        raise Refused("no-bodies", "there is no body to release", remedy="take in a file first")
    stale = stale_bodies(job)
    if any(body.id in stale for body in bodies):
        names = ", ".join(body.name for body in bodies if body.id in stale)
        says = f"{names}: what this was made of has changed since"
        raise Refused("stale", says, remedy="wait until it is made again, or put it back together")
    for body in bodies:
        job.settled_unit(body)
    refuse_inexact(job, bodies, order)
    findings = findings_for(job, store, bodies)
    refuse_open_stops(job, findings)
    return findings


def findings_for(job: Job, store: GeometryStore, bodies: tuple[Body, ...]) -> list[Finding]:
    """Return the findings that concern some bodies of a job: theirs, and those of their sources."""
    return [
        finding
        for finding in all_findings(Inquiry(job, store))
        if any(finding.concerns(body) for body in bodies)
    ]


def _made(  # noqa: PLR0913 - told apart by their names
    job: Job,
    file: FileContents,
    name: ReleaseFileName,
    store: GeometryStore,
    order: Order,
    sources: ProofSources,
    progress: Progress,
) -> ProvenFile:
    progress(0.1, "placing and writing the bodies")
    out = written(job, file, store, order)
    data = out.data
    progress(0.4, "reading it back, and the original a second time")
    bodies = tuple(item.body for item in file.items)
    claims = [_claim(job, item, count, store) for item, count in zip(file.items, out.triangles, strict=True)]
    asked = Written(order.format, order.unit, order.place, merged=order.shape == "merged")
    proof = prove(job, bodies, asked, data, sources, claims)
    if not proof.holds:
        raise ProofBroken(proof, name.name)
    progress(0.95, "naming the file")
    ids = tuple(body.id for body in bodies)
    return ProvenFile(_record(job, file, order, data, name, proof), data, ids, out.triangles)


def _claim(job: Job, item: FileBody, triangles: int, store: GeometryStore) -> Claim:
    """What the sheets say of a body; the proof holds them to it."""
    body = item.body
    mine = [
        reading
        for reading in job.readings
        if reading.body == body.id and reading.has_length and not reading.lost
    ]
    lengths = {reading.id: lengths_of(job, reading) for reading in mine}
    bands = {reading.id: band_of(reading) for reading in mine}
    return Claim(
        place=item.shift,
        seat=item.seat,
        triangles=triangles,
        sizes=allowed_sizes(job, body),
        sides=sides_of(job, body, store),
        lengths=lengths,
        met={key: all(map(band.holds, lengths[key])) for key, band in bands.items() if band is not None},
    )


def _record(
    job: Job, file: FileContents, order: Order, data: bytes, name: ReleaseFileName, proof: Proof
) -> ReleasedFile:
    bodies = tuple(item.body for item in file.items)
    return ReleasedFile(
        name=name.name,
        full_name=name.full,
        format=order.format,
        unit=order.unit,
        bodies=tuple(item.name for item in file.items),
        ids=tuple(dict.fromkeys(body.id for body in bodies)),
        count=file.count,
        plate=file.plate or "",
        size_mm=proof.size_mm,
        factor=job.correction_of(bodies[0]).factors,
        triangles=proof.triangles,
        bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
        chain=chain_text(job, bodies),
        proof=proof,
    )
