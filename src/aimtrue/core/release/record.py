"""The proof record of a release: made of the released bytes, once their proof holds."""

from __future__ import annotations

from collections.abc import Sequence

from aimtrue.core.model.job import Job
from aimtrue.core.proof.record import FileRecord, ReadingToRecord, Record, SourceRecord, measured
from aimtrue.core.release.making import ProvenFile, Release


def record_of(job: Job, releases: Sequence[Release], names: Sequence[str]) -> Record:
    """Return the record of releases of a job.

    Args:
        job: with all decisions.
        releases: whose proofs hold.
        names: of all their files, as they were written.
    """
    files = [file for release in releases for file in release.files]
    file_records = tuple(_file(job, file, name) for file, name in zip(files, names, strict=True))
    return Record(job=job.name, files=file_records)


def _file(job: Job, proven: ProvenFile, name: str) -> FileRecord:
    file = proven.file
    bodies = [job.body(key) for key in proven.bodies]
    readings = [
        ReadingToRecord(number, reading.name, reading.gauge, reading.typed)
        for number, body in enumerate(bodies)
        for reading in job.readings
        if reading.body == body.id and reading.has_length and not reading.lost and reading.gauge.other is None
    ]
    lengths, objects = measured(
        file.format, file.unit, proven.data, file.bodies, list(proven.triangles), readings
    )
    settled = {body.source: (job.source_of(body), job.settled_unit(body)) for body in bodies}
    return FileRecord(
        name=name,
        format=file.format,
        unit=file.unit,
        bytes=file.bytes,
        sha256=file.sha256,
        bodies=lengths,
        objects=objects,
        sources=tuple(
            SourceRecord(
                name=source.name, sha256=source.sha256, format=source.format, unit=unit, how=source.how
            )
            for source, unit in settled.values()
        ),
        chain=file.chain,
        checks=len(file.proof.checks),
        worst_mm=file.proof.worst_mm,
        accepted=file.proof.accepted,
    )
