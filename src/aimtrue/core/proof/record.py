"""The proof as a file: what was measured on released bytes, and the same files held against it anywhere.

A record needs neither job nor database. It is made of the released bytes as the second readers read them,
after the proof held; whoever has it reads a file anew and compares every number. JSON, with a schema that is
published (docs/proof-record.schema.json).
"""

from __future__ import annotations

import contextlib
import hashlib
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import UNIT_NAMES, Unit
from aimtrue.core.model.readings import Anchor, Gauge, GaugeKind
from aimtrue.core.model.value import AXES, Value, Vec3
from aimtrue.core.proof.bodies.point_transform import MM
from aimtrue.core.proof.bodies.readings import lengths
from aimtrue.core.proof.released import SAYS_UNIT, ReadBackFile, read_back, reader_of
from aimtrue.core.proof.surface import Points, Surface, area, bounds, bounds_a_volume, volume

_SAME_SHARE = 2e-4
"""Three sizes are off by one scale when the shares that they are off by differ by less than this."""
_FITTED = ("diameter", "radius")


class ReadingRecord(Value):
    """A length on a released body: where it is, by faces of the file, and how long it was found."""

    name: str
    kind: GaugeKind
    places: tuple[Anchor, ...]
    stretch: float = 1.0
    typed: str = ""
    found_mm: tuple[float, ...]


class BodyRecord(Value):
    """A body as it was read back, in mm."""

    name: str
    triangles: int
    low_mm: Vec3
    high_mm: Vec3
    volume_mm3: float
    area_mm2: float
    closed: bool
    readings: tuple[ReadingRecord, ...] = ()


class SourceRecord(Value):
    """The file that a body came from, and how its unit was settled."""

    name: str
    sha256: str
    format: str
    unit: Unit
    how: str


class FileRecord(Value):
    """A released file.

    ``objects`` is how many the file holds where bodies are one in it, None where it is one each. ``chain``
    says how numbers of the sources became its sizes, ``checks`` how many comparisons its proof held in,
    ``accepted`` what was let pass on purpose.
    """

    name: str
    format: str
    unit: Unit
    bytes: int
    sha256: str
    bodies: tuple[BodyRecord, ...]
    objects: int | None = None
    sources: tuple[SourceRecord, ...]
    chain: str
    checks: int
    worst_mm: float
    accepted: tuple[str, ...] = ()


class Record(Value):
    """The files of a release, and what was measured on them."""

    record: Literal["Aim True proof record"] = "Aim True proof record"
    version: Literal[1] = 1
    job: str
    files: tuple[FileRecord, ...] = Field(min_length=1)


def as_json(record: Record) -> bytes:
    """Return a record as the file that goes beside what it tells of."""
    return record.model_dump_json(indent=1).encode()


ENDINGS = {"3mf": ".3mf", "stl": ".stl", "stl-ascii": ".stl", "obj": ".obj", "ply": ".ply", "step": ".step"}


@dataclass(frozen=True)
class HeldNumber:
    """One number of a file held against its record."""

    file: str
    what: str
    asked: str
    found: str
    off: float
    holds: bool


@dataclass(frozen=True)
class ReadingToRecord:
    """A reading that is to be recorded: of which body of the file, by number."""

    body: int
    name: str
    gauge: Gauge
    typed: str


def measured(
    kind: str,
    unit: Unit,
    data: bytes,
    names: Sequence[str],
    counts: Sequence[int],
    readings: Sequence[ReadingToRecord],
) -> tuple[tuple[BodyRecord, ...], int]:
    """Measure the bodies of a released file; return them, and how many objects the file has.

    Args:
        kind, unit, data: the file as it was written.
        names: of its bodies, in their order.
        counts: their triangles, by which files without objects are divided.
        readings: lengths on them.

    Raises:
        AimTrueError: the second reader cannot read it.
    """
    objects = read_back(kind, data).objects
    surfaces = _divided(objects, counts, _per(kind, unit))
    bodies = tuple(
        _body(name, surface, [reading for reading in readings if reading.body == number])
        for number, (name, surface) in enumerate(zip(names, surfaces, strict=True))
    )
    return bodies, len(objects)


def _per(kind: str, unit: Unit) -> float:
    """Millimetres to a number as it is read back: the kernel brings STEP of any unit to mm itself."""
    return 1.0 if kind == "step" else MM[unit]


def _divided(objects: list[Surface], counts: Sequence[int], per: float) -> list[Surface]:
    found = [one.moved(one.points * per) for one in objects]
    if len(found) == len(counts):
        return found
    ends = np.cumsum(counts)
    whole = found[0]
    return [
        Surface(whole.points, whole.faces[end - count : end]) for end, count in zip(ends, counts, strict=True)
    ]


def _body(name: str, surface: Surface, readings: Sequence[ReadingToRecord]) -> BodyRecord:
    corners = surface.corners
    low, high = bounds(corners).tolist()
    told = []
    for reading in readings:
        places = reading.gauge.anchors
        record = ReadingRecord(
            name=reading.name,
            kind=reading.gauge.kind,
            places=places,
            stretch=reading.gauge.stretch,
            typed=reading.typed,
            found_mm=(),
        )
        found = _length(record, surface)
        if found is not None:
            told.append(record.model_copy(update={"found_mm": found}))
    return BodyRecord(
        name=name,
        triangles=len(surface.faces),
        low_mm=(low[0], low[1], low[2]),
        high_mm=(high[0], high[1], high[2]),
        volume_mm3=volume(corners),
        area_mm2=area(corners),
        closed=bounds_a_volume(corners),
        readings=tuple(told),
    )


def _length(reading: ReadingRecord, surface: Surface) -> tuple[float, ...] | None:
    """A reading measured at its places on what was read; None of one that has none, or too few."""
    places = reading.places
    if len(places) < 2 or any(place.face >= len(surface.faces) for place in places):
        return None
    corners = surface.corners[[place.face for place in places]]
    points = np.einsum("ij,ijk->ik", np.array([place.weights for place in places]), corners)
    if reading.kind in _FITTED:
        radius = _radius(points)
        return None if radius is None else ((2.0 if reading.kind == "diameter" else 1.0) * radius,)
    gauge = Gauge(kind=reading.kind, stretch=reading.stretch)
    needed = {"points": 2, "wall": 2, "depth": 2, "faces": 6, "angle": 6, "perimeter": 3}.get(reading.kind)
    if needed is None or len(points) < needed:
        return None
    return lengths(gauge, points)


def _radius(points: Points) -> float | None:
    """The radius of the circle that fits (n, 3) places in a plane best, by least squares (Kåsa 1976)."""
    if len(points) < 3:
        return None
    away = points - points.mean(axis=0)
    flat = away @ np.linalg.svd(away, full_matrices=False)[2][:2].T
    rows = np.column_stack([2 * flat, np.ones(len(flat))])
    (x, y, rest), *_ = np.linalg.lstsq(rows, (flat**2).sum(axis=1), rcond=None)
    square = rest + x * x + y * y
    return math.sqrt(square) if square > 0 else None


def verified(name: str, data: bytes, record: Record) -> list[HeldNumber]:
    """Hold a file against a record: every number, as it is found now.

    Raises:
        AimTrueError: the file cannot be read at all.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    told = told_of(name, data, record)
    if told is None:
        known = ", ".join(file.name for file in record.files)
        return [HeldNumber(name, "file that the record tells of", known, name, 1.0, False)]
    rows = [
        HeldNumber(name, "name", told.name, name, 0.0, True),
        _equal(name, "bytes", str(told.bytes), str(len(data))),
        _equal(name, "SHA-256", told.sha256, sha256),
    ]
    back = _read(told.format, data)
    unit, objects = back.unit, back.objects
    if told.format in SAYS_UNIT:
        rows.append(_equal(name, "unit declared", told.unit.value, unit.value if unit else "none"))
        rows.append(_equal(name, "objects", str(told.objects or len(told.bodies)), str(len(objects))))
    triangles = [body.triangles for body in told.bodies]
    found = sum(len(one.faces) for one in objects)
    rows.append(_equal(name, "triangles", str(sum(triangles)), str(found)))
    merged = len(objects) == 1
    if (told.format in SAYS_UNIT and not merged and len(objects) != len(triangles)) or found != sum(
        triangles
    ):
        return [*rows, *_missing(name, told, objects)]
    # What the file says of its unit counts; where it says nothing, what it was written in.
    per = _per(told.format, unit if unit is not None else told.unit)
    for body, surface in zip(told.bodies, _divided(objects, triangles, per), strict=True):
        rows += _of_body(name, body, surface)
    return rows


def _read(kind: str, data: bytes) -> ReadBackFile:
    """Read a file that somebody gave, who may have saved it anew by another program."""
    try:
        return read_back(kind, data)
    except AimTrueError as error:
        why = f": {error.__cause__}" if error.__cause__ else ", or it holds nothing"
        raise AimTrueError(
            "not-readable",
            f"{reader_of(kind)} cannot read this {kind.upper()}{why}",
            remedy="it is not as it was released; release it again, or save it anew",
        ) from error


def told_of(name: str, data: bytes, record: Record) -> FileRecord | None:
    """Return what a record tells of a file: by its bytes, else by what is in it, else by its name.

    A file may have been renamed, two may have exchanged their names, and another program may have saved it
    anew: then it is the one of as many triangles; of several such, the one of its name.
    """
    sha256 = hashlib.sha256(data).hexdigest()
    named = [file for file in record.files if file.name == name]
    same = [file for file in record.files if file.sha256 == sha256]
    if same:
        return next((one for one in same if one in named), same[0])
    alike = [file for file in record.files if _is_alike(name, data, file)]
    if len(alike) == 1 and alike[0] not in named:
        return alike[0]
    return next(iter(named), None)


def _is_alike(name: str, data: bytes, told: FileRecord) -> bool:
    """Whether a file has as many triangles as a record tells of one of its format."""
    if not name.lower().endswith(ENDINGS[told.format]):
        return False
    with contextlib.suppress(AimTrueError):
        found = sum(len(surface.faces) for surface in read_back(told.format, data).objects)
        return found == sum(body.triangles for body in told.bodies)
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


def _missing(file: str, told: FileRecord, objects: list[Surface]) -> Iterator[HeldNumber]:
    """Which bodies of the record no object of the file has the triangles of."""
    left = [len(one.faces) for one in objects]
    for body in told.bodies:
        if body.triangles in left:
            left.remove(body.triangles)
        else:
            yield HeldNumber(file, f"body {body.name}", "there", "missing", 1.0, False)


def _of_body(file: str, body: BodyRecord, surface: Surface) -> Iterator[HeldNumber]:
    now = _body(body.name, surface, ())
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
    yield _equal(file, f"{body.name} closed", *("yes" if one.closed else "no" for one in (body, now)))
    for reading in body.readings:
        lengths_now = _length(reading, surface) or (math.nan,)
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
    if not len(shares) or np.ptp(shares) > _SAME_SHARE * shares.mean():
        return None
    return float(shares.mean())


def _said(scale: float) -> str:
    """A scale, with the units that were taken for each other where it is the ratio of two."""
    for one in Unit:
        for other in Unit:
            if one != other and math.isclose(scale, MM[one] / MM[other], rel_tol=1e-6):
                return f"{scale:.6g}, as {UNIT_NAMES[one]} in place of {UNIT_NAMES[other]}"
    return f"{scale:.8g}"
