"""Jobs out of the store as bundles, and bundles into it as jobs."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from datetime import datetime
from typing import IO

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.model.job import Job
from aimtrue.core.model.text import is_sha256
from aimtrue.core.model.upgrades import RELEASES
from aimtrue.core.release.bundle import (
    Bundle,
    BundledFile,
    BundledRelease,
    BundledState,
    Kind,
    pack_bundle,
)
from aimtrue.core.release.making import ReleasedFile
from aimtrue.core.release.names import safe
from aimtrue.core.release.order import Order
from aimtrue.store import blobs, job_releases, jobs, states
from aimtrue.store.tables import BlobRow, ReleaseRow, RevisionRow


def bundle_of(session: Session, key: str, out: IO[bytes]) -> None:
    """Write a job as a bundle: the state it is in, the states of its releases, and every file of these."""
    loaded = jobs.load(session, key)
    releases = sorted(job_releases.releases(session, key), key=lambda row: row.number)
    numbers = [*dict.fromkeys(row.revision for row in releases if row.revision != loaded.revision.number)]
    rows = [session.get_one(RevisionRow, (key, number)) for number in sorted(numbers)] + [loaded.revision]
    files: dict[str, BundledFile] = {}
    for row in rows:
        for sha256, kind, name in _of_job(states.job_of(row)):
            _add(session, files, sha256, kind, name)
    for release in releases:
        for file in release.files:
            _add(session, files, file["sha256"], "release", file["name"], f"r{release.number}")
        if release.record:
            _add(session, files, release.record, "record", "PROOF.json", f"r{release.number}")
    bundle = Bundle(
        name=loaded.job.name,
        files=tuple(files.values()),
        states=tuple(
            BundledState(number=n, version=row.version, state=states.kept_state(row))
            for n, row in enumerate(rows, 1)
        ),
        releases=tuple(
            _release(row, [row.number for row in rows].index(row.revision) + 1) for row in releases
        ),
    )
    pack_bundle(bundle, lambda sha256: blobs.read(session, sha256), out)


def _of_job(job: Job) -> Iterator[tuple[str, Kind, str]]:
    for source in job.sources:
        yield source.sha256, "original", source.name
        for earlier in source.replaced:
            yield earlier, "original", source.name
        for beside in source.beside:
            yield beside.sha256, "original", beside.name
        for was in source.was:
            if was.geometry:
                yield was.geometry, "geometry", was.name
    for body in job.bodies:
        for name in (body.geometry, body.bench, body.features, *(step.geometry for step in body.mended)):
            if name:
                yield name, "geometry", body.name


def _add(
    session: Session, files: dict[str, BundledFile], sha256: str, kind: Kind, name: str, folder: str = ""
) -> None:
    size = session.scalar(select(BlobRow.bytes).where(BlobRow.sha256 == sha256))
    if sha256 in files or size is None:
        return
    short = safe(name.rpartition("/")[2] or "file")
    path = {
        "original": f"originals/{sha256[:8]}/{short}",
        "geometry": f"geometry/{sha256}",
        "release": f"releases/{folder}/{short}",
        "record": f"releases/{folder}/{short}",
    }[kind]
    files[sha256] = BundledFile(path=path, kind=kind, name=name, sha256=sha256, bytes=size)


def _release(row: ReleaseRow, state: int) -> BundledRelease:
    return BundledRelease(
        number=row.number,
        state=state,
        at=row.created.isoformat(),
        version=row.version,
        order=row.order,
        record=row.record,
        files=row.files,
    )


def _state(kept: BundledState) -> Job:
    try:
        job = states.read(kept.state, kept.version)
        _refuse_odd_names(job)
        _refuse_odd_pairs(job)
        return job
    except UnreadableFile:
        raise
    except AimTrueError as error:
        raise UnreadableFile("bundle-newer", error.says, remedy=error.remedy) from None
    except ValidationError as error:
        says = f"the job in the bundle is not as it should be: {error.errors()[0]['msg']}"
        raise UnreadableFile("bundle-odd", says, remedy="export it again") from None


def _refuse_odd_release(release: BundledRelease) -> None:
    """Refuse a release whose files or order are not what one that was made here has."""
    try:
        for file in release.files:
            ReleasedFile.model_validate(RELEASES.up(file, release.version))
        if release.order is not None:
            Order.model_validate(release.order)
    except AimTrueError as error:
        raise UnreadableFile("bundle-newer", error.says, remedy=error.remedy) from None
    except (ValidationError, TypeError, KeyError, AttributeError, ValueError) as error:
        why = error.errors()[0]["msg"] if isinstance(error, ValidationError) else str(error)
        says = f"release {release.number} in the bundle is not as it should be: {why}"
        raise UnreadableFile("bundle-odd", says[:300], remedy="export it again") from None


def _refuse_odd_pairs(job: Job) -> None:
    """Refuse a job with a pair on bodies that it does not have."""
    here = {body.id for body in job.bodies}
    if any(not {pair.a, pair.b} <= here for pair in job.pairs):
        says = "the job in the bundle has a pair on a body that is not there"
        raise UnreadableFile("bundle-odd", says, remedy="export it again")


def _refuse_odd_names(job: Job) -> None:
    """Refuse a job that looks for what it is made of by anything else than a hash."""
    for name, kind, owner in _of_job(job):
        if not is_sha256(name):
            says = f"the {kind} of {owner[:80]} is not named by a hash"
            raise UnreadableFile("bundle-odd", says, remedy="do not trust this file")


def take_in(session: Session, bundle: Bundle, pieces: Callable[[BundledFile], Iterable[bytes]]) -> str:
    """Make a job of a bundle, and return its id.

    Args:
        session: within a transaction: all of it is taken in, or nothing.
        bundle: what is in it.
        pieces: gives a file of it in pieces of at most :data:`blobs.CHUNK`.

    Raises:
        UnreadableFile: a newer version made it, its job is not understood, or a file of it is not as it was.
    """
    jobs_then = [_state(state) for state in bundle.states]
    for release in bundle.releases:
        _refuse_odd_release(release)
    for file in bundle.files:
        if blobs.put_pieces(session, pieces(file)) != file.sha256:
            says = f"the bundle cannot be taken in: {file.kind} {file.name} was changed since"
            raise UnreadableFile("bundle-changed", says, remedy="export it again; nothing was taken in")
    key = jobs.create_with(session, bundle.name, jobs_then, "taken in from a bundle")
    for releas in bundle.releases:
        session.add(
            ReleaseRow(
                job=key,
                number=releas.number,
                # Revision 1 is the empty job; the states of the bundle follow it.
                revision=releas.state + 1,
                files=releas.files,
                order=releas.order,
                record=releas.record,
                version=releas.version,
                created=datetime.fromisoformat(releas.at),
            )
        )
    session.flush()
    return key
