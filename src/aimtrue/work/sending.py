"""This module says where releases can be sent, and how one is made up for it."""

from __future__ import annotations

from typing import IO

from sqlalchemy.orm import Session

from aimtrue.core.cost.kept_estimates import printing_of
from aimtrue.core.errors import Refused
from aimtrue.core.model.upgrades import RELEASES
from aimtrue.core.release.making import ReleasedFile
from aimtrue.core.release.manifest import manifest_of, pack_release
from aimtrue.handover.targets import Target, parsed
from aimtrue.settings import settings
from aimtrue.store import blobs, jobs
from aimtrue.store.tables import ReleaseRow

SIMULATED = "Next program, simulated"


def targets() -> list[Target]:
    """Return the programs that releases can be sent to; the first is the simulated one that ships with the
    app.
    """
    own = Target(SIMULATED, f"http://127.0.0.1:{settings().next_port}/take", simulated=True)
    return [own, *parsed(settings().targets)]


def target_named(name: str) -> Target:
    """Return a target by its name.

    Raises:
        Refused: there is none.
    """
    named = next((target for target in targets() if target.name == name), None)
    if named is None:
        raise Refused(
            "target-unknown", f"there is no target {name}", remedy="set AIMTRUE_TARGETS to name one"
        )
    return named


def files_of(release: ReleaseRow) -> list[ReleasedFile]:
    """Return the files of a release, as they are kept now."""
    return [ReleasedFile.model_validate(RELEASES.up(file, release.version)) for file in release.files]


def zip_of(session: Session, key: str, release: ReleaseRow, out: IO[bytes]) -> None:
    """Write a release as a ZIP, with its manifest and its proof record: the same bytes whenever it is
    asked for.
    """
    files = files_of(release)
    data = ((file.name, blobs.read(session, file.sha256)) for file in files)
    record = blobs.read(session, release.record) if release.record else None
    job = jobs.at(session, key, release.revision)
    pack_release(manifest_of(job.name, release.number, files, printing_of(job)), data, record, out)
