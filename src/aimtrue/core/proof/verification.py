"""This module holds files against the record of a proof, anywhere: it needs no job and no database."""

from __future__ import annotations

import contextlib
import hashlib
import math
from collections.abc import Iterator, Sequence

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import UNIT_NAMES, Unit
from aimtrue.core.model.value import AXES
from aimtrue.core.proof.bodies.point_transform import MM
from aimtrue.core.proof.record import (
    ENDINGS,
    SAME_SHARE,
    BodyRecord,
    FileRecord,
    HeldNumber,
    Record,
    body_record,
    divided_into_objects,
    mm_per,
    read_released,
    reading_length,
)
from aimtrue.core.proof.released import SAYS_UNIT, read_back
from aimtrue.core.proof.surface import Points, Surface


def verified(name: str, data: bytes, record: Record) -> list[HeldNumber]:
    """Hold a file against a record: every number, as it is found now.

    Raises:
        AimTrueError: the file cannot be read at all.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    file_record = told_of(name, data, record)
    if file_record is None:
        known = ", ".join(file.name for file in record.files)
        return [HeldNumber(name, "file that the record tells of", known, name, 1.0, False)]
    rows = [
        HeldNumber(name, "name", file_record.name, name, 0.0, True),
        _equal(name, "bytes", str(file_record.bytes), str(len(data))),
        _equal(name, "SHA-256", file_record.sha256, sha256),
    ]
    back = read_released(file_record.format, data)
    unit, objects = back.unit, back.objects
    if file_record.format in SAYS_UNIT:
        rows.append(_equal(name, "unit declared", file_record.unit.value, unit.value if unit else "none"))
        rows.append(
            _equal(name, "objects", str(file_record.objects or len(file_record.bodies)), str(len(objects)))
        )
    triangles = [body.triangles for body in file_record.bodies]
    count = sum(len(surface.faces) for surface in objects)
    rows.append(_equal(name, "triangles", str(sum(triangles)), str(count)))
    merged = len(objects) == 1
    if (file_record.format in SAYS_UNIT and not merged and len(objects) != len(triangles)) or count != sum(
        triangles
    ):
        return [*rows, *_missing(name, file_record, objects)]
    # What the file says of its unit counts; where it says nothing, what it was written in.
    per = mm_per(file_record.format, unit if unit is not None else file_record.unit)
    for body, surface in zip(file_record.bodies, divided_into_objects(objects, triangles, per), strict=True):
        rows += _of_body(name, body, surface)
    return rows


def told_of(name: str, data: bytes, record: Record) -> FileRecord | None:
    """Return what a record tells of a file: by its bytes, else by what is in it, else by its name.

    A file may have been renamed, two may have exchanged their names, and another program may have saved it
    anew: then it is the one of as many triangles; of several such, the one of its name.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    named = [file for file in record.files if file.name == name]
    same = [file for file in record.files if file.sha256 == sha256]
    if same:
        return next((file_record for file_record in same if file_record in named), same[0])
    alike = [file for file in record.files if _is_alike(name, data, file)]
    if len(alike) == 1 and alike[0] not in named:
        return alike[0]
    return next(iter(named), None)


def _is_alike(name: str, data: bytes, file: FileRecord) -> bool:
    """Whether a file has as many triangles as a record tells of one of its format."""
    if not name.lower().endswith(ENDINGS[file.format]):
        return False
    with contextlib.suppress(AimTrueError):
        triangles = sum(len(surface.faces) for surface in read_back(file.format, data).objects)
        return triangles == sum(body.triangles for body in file.bodies)
    return False


def not_given(names: Sequence[str], record: Record) -> list[HeldNumber]:
    """Say which files of a record were not given.

    Args:
        names: of the files of the record that were.
        record: whose files all are wanted.
    """
    return [
        HeldNumber(file.name, "file of the record", "given", "not given", 1.0, False)
        for file in record.files
        if file.name not in names
    ]


def _equal(file: str, what: str, asked: str, found: str) -> HeldNumber:
    return HeldNumber(file, what, asked, found, 0.0 if asked == found else 1.0, asked == found)


def _missing(file: str, record: FileRecord, objects: list[Surface]) -> Iterator[HeldNumber]:
    """Which bodies of the record no object of the file has the triangles of."""
    left = [len(surface.faces) for surface in objects]
    for body in record.bodies:
        if body.triangles in left:
            left.remove(body.triangles)
        else:
            yield HeldNumber(file, f"body {body.name}", "there", "missing", 1.0, False)


def _of_body(file: str, body: BodyRecord, surface: Surface) -> Iterator[HeldNumber]:
    now = body_record(body.name, surface, ())
    low, high = np.array([body.low_mm, body.high_mm]), np.array([now.low_mm, now.high_mm])
    limit = 2 * float(np.spacing(np.float32(np.abs(low).max())))
    sizes, found = low[1] - low[0], high[1] - high[0]
    yield _equal(file, f"triangles of {body.name}", str(body.triangles), str(now.triangles))
    for axis, asked, have in zip(AXES, sizes.tolist(), found.tolist(), strict=True):
        yield _length_row(file, f"size {axis.upper()} of {body.name}", asked, have, limit)
    scale = _scale(sizes, found)
    if scale is not None and np.abs(sizes - found).max() > limit:
        yield HeldNumber(file, f"scale of {body.name}", "1", _said(scale), abs(scale - 1), False)
    for axis, asked, have in zip(AXES, low[0].tolist(), high[0].tolist(), strict=True):
        yield _length_row(file, f"low end {axis.upper()} of {body.name}", asked, have, limit)
    # What is found sets the tolerance: a record that tells a vast area must not make room for any volume.
    room = now.area_mm2 * limit + 1e-9 * abs(now.volume_mm3)
    grain = limit * math.sqrt(now.area_mm2 * max(now.triangles, 1)) + 1e-9 * now.area_mm2
    yield HeldNumber(
        file,
        f"area of {body.name}",
        f"{body.area_mm2:.4f} mm²",
        f"{now.area_mm2:.4f} mm²",
        abs(body.area_mm2 - now.area_mm2),
        abs(body.area_mm2 - now.area_mm2) <= 4 * grain,
    )
    off = abs(body.volume_mm3 - now.volume_mm3)
    yield HeldNumber(
        file,
        f"volume of {body.name}",
        f"{body.volume_mm3:.4f} mm³",
        f"{now.volume_mm3:.4f} mm³",
        off,
        off <= room,
    )
    yield _equal(file, f"{body.name} closed", *("yes" if surface.closed else "no" for surface in (body, now)))
    for reading in body.readings:
        lengths_now = reading_length(reading, surface) or (math.nan,)
        for asked, have in zip(reading.found_mm, lengths_now, strict=False):
            yield _length_row(file, f"reading {reading.name} on {body.name}", asked, have, limit)


def _length_row(file: str, what: str, asked: float, found: float, limit: float) -> HeldNumber:
    off = abs(asked - found)
    return HeldNumber(
        file, what, f"{asked:.5f} mm", f"{found:.5f} mm", off, bool(off <= limit + 1e-12 * abs(asked))
    )


def _scale(asked: Points, found: Points) -> float | None:
    """By how much a body is larger along all axes alike; None where they differ."""
    some = asked > 0
    shares = found[some] / asked[some]
    if not len(shares) or np.ptp(shares) > SAME_SHARE * shares.mean():
        return None
    return float(shares.mean())


def _said(scale: float) -> str:
    """A scale, with the units that were taken for each other where it is the ratio of two."""
    for unit in Unit:
        for other in Unit:
            if unit != other and math.isclose(scale, MM[unit] / MM[other], rel_tol=1e-6):
                return f"{scale:.6g}, as {UNIT_NAMES[unit]} in place of {UNIT_NAMES[other]}"
    return f"{scale:.8g}"
