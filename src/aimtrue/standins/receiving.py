"""A simulated receiving end: what a next program, with its habits, would make of released files.

It reads the files as they are, does to them what it is told that such a program does, and says where what
arrives differs from what was meant. It stands for no program in particular.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from pydantic import Field

from aimtrue.core.formats import read_model
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.proof.record import BodyRecord, FileRecord, Record
from aimtrue.core.release.order import SAYS_UNIT

_SAME = 2e-4
"""Scales that differ by less than this share are the same, and no such difference would be seen."""
_PLACE_MM = 0.01


class ReceivingHabits(Value):
    """What a receiving program does to every file.

    Attributes:
        takes_for: the unit that it takes numbers for where the file says none.
        heeds_unit: whether it heeds a unit that the file does say; else it takes it for the other, too.
        puts_down: whether every object is put down on the plate by itself.
        centres: whether everything together is moved to the middle of the plate.
        merges: whether all objects of a file become one.
        enlarges: whether what is smaller than ``tiny_mm`` is made ten times as large until it is not.
    """

    takes_for: Unit = Unit.MM
    heeds_unit: bool = True
    puts_down: bool = False
    centres: bool = False
    merges: bool = False
    enlarges: bool = False
    tiny_mm: float = Field(5.0, gt=0, le=1000)


class ReceivedObject(Value):
    """An object as it was meant and as it arrives; in mm, from the front: ends in X, Y and Z."""

    name: str
    meant_low: Vec3 | None
    meant_high: Vec3 | None
    low: Vec3
    high: Vec3


class ArrivalDifference(Value):
    """Something that is not as it was meant."""

    file: str
    body: str
    says: str
    remedy: str


class Arrival(Value):
    """What arrives of a release at a receiving end that is simulated."""

    objects: tuple[ReceivedObject, ...]
    surprises: tuple[ArrivalDifference, ...]
    simulated: bool = True


@dataclass(frozen=True, eq=False)
class _Arrived:
    """An object as it is after some habits: ends (2, 3) in mm."""

    name: str
    ends: Floats

    def moved(self, by: Floats) -> _Arrived:
        return replace(self, ends=self.ends + by)

    def grown(self, by: float) -> _Arrived:
        return replace(self, ends=self.ends * by)


def received(files: Sequence[tuple[str, bytes]], record: Record, habits: ReceivingHabits) -> Arrival:
    """Say what arrives of some files.

    Args:
        files: names and bytes, as they were released.
        record: what was meant: the proof record of the release.
        habits: of the program that receives them.

    Raises:
        UnreadableFile: a file cannot be read.
    """
    objects: list[ReceivedObject] = []
    surprises: list[ArrivalDifference] = []
    for name, data in files:
        meant = next((file for file in record.files if file.name == name), None)
        arrived, scale = _arrived(name, data, habits)
        if meant is None:
            continue
        objects += _beside(meant, arrived)
        surprises += _surprises(meant, arrived, habits, scale)
    return Arrival(objects=tuple(objects), surprises=tuple(_gathered(surprises)))


def _gathered(surprises: list[ArrivalDifference]) -> list[ArrivalDifference]:
    """What is the matter with several files alike is told once."""
    groups: dict[tuple[str, str], list[ArrivalDifference]] = {}
    for surpris in surprises:
        groups.setdefault((surpris.body, surpris.says), []).append(surpris)
    return [
        group[0] if len(group) == 1 else group[0].model_copy(update={"file": f"{len(group)} files"})
        for group in groups.values()
    ]


def _arrived(name: str, data: bytes, habits: ReceivingHabits) -> tuple[list[_Arrived], float]:
    """The objects of a file after all habits, and how many times they were enlarged."""
    back = read_model(name, data)
    heeded = back.unit if habits.heeds_unit and back.unit is not None else habits.takes_for
    per = MM_PER[heeded]
    objects = [_Arrived(part.name or name, np.array(part.mesh.bounds()) * per) for part in back.parts]
    if habits.merges and len(objects) > 1:
        objects = [_Arrived(name, _ends(objects))]
    grown = _enlargement(_ends(objects), habits)
    objects = [arrived.grown(grown) for arrived in objects]
    if habits.puts_down:
        objects = [arrived.moved(np.array([0.0, 0.0, -arrived.ends[0, 2]])) for arrived in objects]
    if habits.centres:
        middle = _ends(objects).mean(axis=0)
        objects = [arrived.moved(np.array([-middle[0], -middle[1], 0.0])) for arrived in objects]
    return objects, grown


def _ends(objects: Sequence[_Arrived]) -> Floats:
    each = np.array([arrived.ends for arrived in objects])
    return np.array([each[:, 0].min(axis=0), each[:, 1].max(axis=0)])


def _enlargement(ends: Floats, habits: ReceivingHabits) -> float:
    longest, times = float((ends[1] - ends[0]).max()), 1.0
    while habits.enlarges and 0 < longest * times < habits.tiny_mm:
        times *= 10
    return times


def _beside(meant: FileRecord, arrived: list[_Arrived]) -> list[ReceivedObject]:
    """Each object that arrives, beside the body that was meant; one that was merged beside all of them."""
    if len(arrived) == len(meant.bodies):
        names = [body.name for body in meant.bodies]
        spans: list[tuple[Vec3, Vec3] | tuple[None, None]] = [
            (body.low_mm, body.high_mm) for body in meant.bodies
        ]
    else:
        low, high = _meant_ends(meant.bodies)
        spans = [(as_vec3(low), as_vec3(high)) if i == 0 else (None, None) for i in range(len(arrived))]
        names = [surface.name for surface in arrived]
    return [
        ReceivedObject(
            name=name,
            meant_low=ends[0],
            meant_high=ends[1],
            low=as_vec3(surface.ends[0]),
            high=as_vec3(surface.ends[1]),
        )
        for name, ends, surface in zip(names, spans, arrived, strict=True)
    ]


def _meant_ends(bodies: Sequence[BodyRecord]) -> tuple[Floats, Floats]:
    low = np.array([body.low_mm for body in bodies]).min(axis=0)
    return low, np.array([body.high_mm for body in bodies]).max(axis=0)


def _surprises(
    meant: FileRecord, arrived: list[_Arrived], habits: ReceivingHabits, grown: float
) -> list[ArrivalDifference]:
    low, high = _meant_ends(meant.bodies)
    ends = _ends(arrived)
    scale = _scale(high - low, (ends[1] - ends[0]) / grown)
    times = (scale or 1.0) * grown
    rows = [
        *_enlarged(grown),
        *_merged(meant, len(arrived), habits),
        *_resized(meant, scale, habits),
        *_put_down(meant, arrived, times),
        *(_centred(ends.mean(axis=0) - (low + high) / 2 * times) if habits.centres else ()),
    ]
    return [
        ArrivalDifference(file=meant.name, body=body, says=says, remedy=remedy) for body, says, remedy in rows
    ]


_Told = tuple[str, str, str]
"""The body, if it is about one; what is not as it was meant; and what to do."""


def _enlarged(grown: float) -> Iterator[_Told]:
    if grown != 1.0:
        says = f"made {grown:g} times as large, since it is tiny"
        yield "", says, "tell the program not to enlarge what is small"


def _merged(meant: FileRecord, objects: int, habits: ReceivingHabits) -> Iterator[_Told]:
    if objects < len(meant.bodies):
        ours = meant.format in SAYS_UNIT and not habits.merges
        apart = "release each body its own file, or as 3MF to a program that keeps objects apart"
        says = f"{len(meant.bodies)} bodies arrive as {objects}"
        yield "", says, "they were released as one object" if ours else apart


def _resized(meant: FileRecord, scale: float | None, habits: ReceivingHabits) -> Iterator[_Told]:
    if scale is None:
        yield "", "the shape of the whole changed: bodies moved against each other", _KEEP_APART
    elif abs(scale - 1) > _SAME:
        deaf = meant.format in SAYS_UNIT and not habits.heeds_unit
        other = "" if deaf else ", or as 3MF, which says its unit"
        remedy = f"write it in the unit that the program takes for granted{other}"
        yield "", f"{_times(scale)}{_units(scale)}", remedy


def _put_down(meant: FileRecord, arrived: list[_Arrived], times: float) -> Iterator[_Told]:
    if len(arrived) == len(meant.bodies):
        for body, surface in zip(meant.bodies, arrived, strict=True):
            if body.low_mm[2] * times - float(surface.ends[0, 2]) > _PLACE_MM:
                says = f"its lift of {body.low_mm[2]:.2f} mm is lost"
                yield body.name, says, "tell the program to keep heights"


def _centred(move: Floats) -> Iterator[_Told]:
    x, y, _ = move.tolist()
    if max(abs(x), abs(y)) > _PLACE_MM:
        says = f"moved by {x:.2f}, {y:.2f} mm: its place on the plate is lost"
        yield "", says, "place it there again, or do not centre"


_KEEP_APART = "tell the program to keep objects where they are, or release them merged"


def _scale(meant: Floats, found: Floats) -> float | None:
    some = meant > 0
    shares = found[some] / meant[some]
    return float(shares.mean()) if np.ptp(shares) <= _SAME * shares.mean() else None


def _times(scale: float) -> str:
    return f"{scale:.6g} times too large" if scale > 1 else f"{1 / scale:.6g} times too small"


def _units(scale: float) -> str:
    """Which unit was taken for which, where the scale is the ratio of two."""
    for taken in Unit:
        for real in Unit:
            if taken != real and math.isclose(scale, MM_PER[taken] / MM_PER[real], rel_tol=1e-4):
                return f": {UNIT_NAMES[real]} taken for {UNIT_NAMES[taken]}"
    return ""
