"""The list that goes with several files: as JSON and as CSV, in the same ZIP."""

from __future__ import annotations

import csv
import io
import itertools
from collections.abc import Iterable, Sequence
from typing import IO

from aimtrue.core.cost.kept_estimates import PlatePrinting
from aimtrue.core.formats.packing import pack
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.release.making import ReleasedFile

MANIFEST = "MANIFEST"
RECORD = "PROOF.json"
"""What the proof record is called beside the files."""


class ManifestEntry(Value):
    """One file of a manifest; ``bytes`` and ``sha256`` tell whether it is still the same."""

    file: str
    full_name: str
    bodies: tuple[str, ...]
    count: int
    size_mm: Vec3
    unit: str
    factor: Vec3
    triangles: int
    bytes: int
    sha256: str


class Manifest(Value):
    """What a release holds, and what printing its plates takes, where that was worked out."""

    manifest: str = "Aim True manifest"
    version: int = 1
    job: str
    release: int
    files: tuple[ManifestEntry, ...]
    printing: tuple[PlatePrinting, ...] = ()


def manifest_of(
    job: str, number: int, files: Sequence[ReleasedFile], printing: tuple[PlatePrinting, ...] = ()
) -> Manifest:
    """Return the manifest of a release.

    Args:
        job: name of the job.
        number: of the release.
        files: as they were released.
        printing: what the plates take, where that is known.
    """
    return Manifest(job=job, release=number, files=tuple(map(_entry, files)), printing=printing)


def _entry(file: ReleasedFile) -> ManifestEntry:
    return ManifestEntry(
        file=file.name,
        full_name=file.full_name or file.name,
        bodies=file.bodies,
        count=file.count,
        size_mm=file.size_mm,
        unit=file.unit.value,
        factor=file.factor,
        triangles=file.triangles,
        bytes=file.bytes,
        sha256=file.sha256,
    )


def as_json(manifest: Manifest) -> bytes:
    """Return a manifest as JSON."""
    return manifest.model_dump_json(indent=1).encode()


def as_csv(manifest: Manifest) -> bytes:
    """Return a manifest as CSV with a line of names, UTF-8, lines ended as RFC 4180 has it."""
    out = io.StringIO()
    rows = csv.writer(out)
    sizes, factors = ([f"{what}_{axis}" for axis in "xyz"] for what in ("size_mm", "factor"))
    named = ["file", "full_name", "bodies", "count"]
    rows.writerow([*named, *sizes, "unit", *factors, "triangles", "bytes", "sha256"])
    for file in manifest.files:
        sizes = [f"{size:.5f}" for size in file.size_mm]
        factors = [f"{factor:.9g}" for factor in file.factor]
        named = [_plain(text) for text in (file.file, file.full_name, "; ".join(file.bodies))]
        fields = [str(file.triangles), str(file.bytes), file.sha256]
        rows.writerow([*named, str(file.count), *sizes, file.unit, *factors, *fields])
    return out.getvalue().encode()


def _plain(text: str) -> str:
    """Text that a spreadsheet would take for a formula gets an apostrophe before it."""
    return f"'{text}" if text[:1] in tuple("=+-@") else text


def pack_release(
    manifest: Manifest, files: Iterable[tuple[str, bytes]], record: bytes | None, out: IO[bytes]
) -> None:
    """Pack a release into a ZIP, the same bytes for the same release.

    Args:
        manifest: goes with it, as JSON and CSV.
        files: names and bytes, asked for one after the other.
        record: the proof record as JSON, of releases that have one.
        out: where the ZIP is written.
    """
    beside = [(f"{MANIFEST}.json", as_json(manifest)), (f"{MANIFEST}.csv", as_csv(manifest))]
    if record is not None:
        beside.append((RECORD, record))
    pack(itertools.chain(files, beside), out)
