"""A source: a file taken in, kept byte for byte, and what was read off it."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.facets import Fineness, FinenessStep, Remark
from aimtrue.core.model.ids import BodyId, ReadingId, SourceId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.stock import StockRecipe
from aimtrue.core.model.value import Value, Vec3

Up = Literal["x", "y", "z"]


How = Literal["declared", "told", "inferred", "sibling"]


class Evidence(Value):
    """What of a file's geometry may tell its unit, all in numbers of the file.

    Attributes:
        lengths: distances between parallel flat faces, sizes included, each once.
        diameters: of round edges, each once.
        walls: distances between facing flat faces with material between them.
        looked: how it was looked: ``exact`` from all faces, ``sizes`` when the mesh is too fine.
    """

    lengths: tuple[float, ...] = ()
    diameters: tuple[float, ...] = ()
    walls: tuple[float, ...] = ()
    looked: Literal["exact", "sizes"] = "exact"


class UpGuess(Value):
    """Which axis of a file seems to point up, and why."""

    up: Up
    reason: str


class BodyOverlap(Value):
    """Two bodies of a file that fill the same place; ``volume`` in cubed numbers of the file."""

    a: BodyId
    b: BodyId
    volume: float
    place: Vec3


class ReferencedFile(Value):
    """A file that a CAD assembly names parts in, kept byte for byte like its source."""

    name: str
    sha256: str


class BodyBefore(Value):
    """What a body was in the revision before, without correction.

    Attributes:
        body: the one that took its place; empty where the new revision has none.
        name: as it was.
        size_mm: its extents along the axes of its file; None of a body that was not there before.
        up: the up axis of the file then: what lay along an axis of the job is known for that one alone.
        volume_mm3: what it bounded.
        lengths_mm: how long the gauges of its readings were, each with the reading.
        geometry: its mesh then, in the unit of the file then; empty in jobs kept before this was noted.
        unit: that unit.
    """

    body: BodyId
    name: str
    size_mm: Vec3 | None = None
    up: Up = "z"
    volume_mm3: float = 0.0
    lengths_mm: tuple[tuple[ReadingId, float], ...] = ()
    geometry: str = ""
    unit: Unit | None = None


class Source(Value):
    """A file taken in, kept byte for byte.

    ``how`` tells where the unit comes from: declared by the file, told by the user, inferred from
    clear evidence, taken over from a sibling, or None while it is not settled. ``pairs_passed`` counts the
    pairs of bodies too large to be looked over for ``overlaps``. ``replaced`` are the hashes of earlier
    revisions of the file, the oldest first. ``triangles`` counts those that its bodies had when it was read
    (None for CAD, and in jobs kept before this was noted), ``set_aside`` those that bound nothing or were
    there twice. ``beside`` are files that an assembly has parts in. ``before_mm`` are the extents of the
    revision before this one, in mm along the axes of the job, without correction: of all of it together
    first, then of its largest bodies; none of a first one. ``was`` tells of each body what it was
    then. ``made`` tells of a part of stock how the file was made here.
    """

    id: SourceId
    name: str
    sha256: str
    bytes: int
    format: str
    declared: Unit | None = None
    unit: Unit | None = None
    how: How | None = None
    up: Up = "z"
    up_guess: UpGuess | None = None
    words: str = ""
    packed_in: str = ""
    evidence: Evidence = Evidence()
    remarks: tuple[Remark, ...] = ()
    fineness: Fineness | None = None
    steps: tuple[FinenessStep, ...] = ()
    sewn: bool = False
    overlaps: tuple[BodyOverlap, ...] = ()
    pairs_passed: int = 0
    replaced: tuple[str, ...] = ()
    triangles: int | None = None
    set_aside: int = 0
    beside: tuple[ReferencedFile, ...] = ()
    before_mm: tuple[Vec3, ...] = ()
    was: tuple[BodyBefore, ...] = ()
    made: StockRecipe | None = None
