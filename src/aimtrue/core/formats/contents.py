"""What a reader hands back, and the checks every format shares."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Mesh, merged
from aimtrue.core.value import Value, Vec3


@dataclass(frozen=True)
class Limits:
    """How much a packed file may hold, so that a small file cannot fill the machine.

    Attributes:
        unpacked_bytes: greatest size of all unpacked parts together.
        ratio: greatest unpacked size over packed size, for files that unpack to over 64 MB.
    """

    unpacked_bytes: int = 4 * 1024**3
    ratio: float = 200.0


class Bore(Value):
    """A round edge of a CAD body and what its facets make of it, in numbers of the file.

    Attributes:
        diameter: of the true circle.
        loss: how much less the facets leave free across flats, 0 or more.
        place: its centre.
    """

    diameter: float
    loss: float
    place: Vec3

    @property
    def sides(self) -> int:
        """How many facets go around it, or would if it went around: loss = D (1 - cos(pi / sides))."""
        return round(math.pi / math.acos(1 - self.loss / self.diameter)) if self.loss > 0 else 0


class Facets(Value):
    """How far facets are from the true surface of a CAD body, in numbers of the file.

    Attributes:
        deviation: greatest distance measured between a facet and the surface.
        bores: the round edges, the worst loss first, at most 12.
        curved: how many facets are on curved faces.
        twice: how many are on faces that may be curved both ways.
        radius: of the round faces, the middle one by the number of their facets; 0 without any.
        missing: faces that could not be cut rightly, in words, and ``places`` on them.
        volume_off: share by which they enclose another volume than the solid has, when that is too much.
    """

    deviation: float
    bores: tuple[Bore, ...] = ()
    curved: int = 0
    twice: int = 0
    radius: float = 0.0
    missing: tuple[str, ...] = ()
    places: tuple[Vec3, ...] = ()
    volume_off: float = 0.0


CHORD_MM = (0.0005, 10.0)
ANGLE_DEG = (0.5, 60.0)
"""Between what a fineness may be."""


class Fineness(Value):
    """How finely CAD surfaces become facets.

    Attributes:
        chord_mm: how far a facet may be from the surface, in mm.
        angle_deg: how far neighbouring facets may turn, in degrees.
    """

    chord_mm: float = Field(0.01, ge=CHORD_MM[0], le=CHORD_MM[1])
    angle_deg: float = Field(6.0, ge=ANGLE_DEG[0], le=ANGLE_DEG[1])


class Step(Value):
    """What one fineness of a CAD source comes to; lengths in numbers of the file.

    Attributes:
        fineness: chord and angle asked for.
        triangles: of all bodies.
        deviation: the greatest measured between facets and the true surface.
        loss: of the bore that loses most of its diameter to its facets.
        widest: diameter of the widest bore, by which finenesses are compared; 0 without one.
        sides: how many facets go around that bore.
        estimated: whether this is worked out from another fineness, not made.
    """

    fineness: Fineness
    triangles: int
    deviation: float
    loss: float
    widest: float = 0.0
    sides: int = 0
    estimated: bool = False


class Remark(Value):
    """Something a reader noticed; becomes a finding."""

    code: str
    severity: Literal["look", "note"]
    says: str
    remedy: str = ""


@dataclass(frozen=True, eq=False)
class Part:
    """One object of a file, in the numbers of the file.

    Attributes:
        name: as the file has it; may be empty.
        mesh: its triangles.
        respected: whether the file itself sets it apart as one body (a solid of CAD, one of several
            objects), so that it is not divided into its shells.
        colour: ``#rrggbb``, or None.
        material: name of its material; may be empty.
        facets: how far its facets are from the true surface, for CAD sources.
    """

    name: str
    mesh: Mesh
    respected: bool = False
    colour: str | None = None
    material: str = ""
    facets: Facets | None = None


@dataclass(frozen=True, eq=False)
class Contents:
    """A file as read.

    Attributes:
        format: ``stl-binary``, ``stl-ascii``, ``3mf``, ``obj``, ``ply-ascii``, ``ply-binary``,
            ``step``, ``iges`` or ``brep``.
        parts: at least one; none is empty.
        unit: the unit the file declares, or None.
        words: header or comment text, which may hint at the unit.
        remarks: what a user should know of how it was read.
        fineness: how finely CAD surfaces were cut into facets.
    """

    format: str
    parts: tuple[Part, ...]
    unit: Unit | None = None
    words: str = ""
    remarks: tuple[Remark, ...] = ()
    fineness: Fineness | None = None

    def whole(self) -> Mesh:
        """All parts as one mesh, in their common place."""
        return merged([part.mesh for part in self.parts])


def refuse_bad_numbers(points: NDArray[np.floating], per: int, what: str) -> None:
    """Refuse coordinates that are not finite.

    Args:
        points: (n, 3) coordinates.
        per: how many points make one ``what``.
        what: ``triangle`` or ``vertex``, for the message.
    """
    finite = np.isfinite(points)
    if not finite.all():
        bad = ~finite.all(axis=1)
        first = int(np.flatnonzero(bad)[0])
        raise UnreadableFile(
            "coordinate-not-finite",
            f"{int(bad.sum())} coordinates are not numbers (NaN or infinite)",
            where=f"first in {what} {first // per + 1}",
            remedy="export the part again, or repair it where it was made",
        )


def refuse_no_surface(mesh: Mesh) -> None:
    """Refuse a mesh without triangles, or one whose triangles all have zero area."""
    if mesh.triangles == 0:
        raise UnreadableFile(
            "no-triangles",
            "the file holds no triangles",
            remedy="check that a body was selected when it was exported",
        )
    if not (mesh.areas > 0).any():
        raise UnreadableFile(
            "no-area",
            f"all {mesh.triangles} triangles have zero area, so there is no surface",
            remedy="export the part again",
        )


_UTF16 = (b"\xff\xfe", b"\xfe\xff")


def told_once(code: str, count: int, one: str, many: str) -> tuple[Remark, ...]:
    """Return a note on something that was passed over, or none when it was not there.

    Args:
        code: of the remark.
        count: how often.
        one, many: in words, with ``{}`` for the number.
    """
    if not count:
        return ()
    return (Remark(code=code, severity="note", says=(one if count == 1 else many).format(f"{count:,}")),)


def faces_passed_over(count: int) -> tuple[Remark, ...]:
    """Return the note on faces of one or two corners, which bound nothing."""
    return told_once(
        "faces-few",
        count,
        "1 face of under three corners was passed over",
        "{} faces of under three corners were passed over",
    )


def narrow(data: bytes) -> bytes:
    """Return text that begins with a UTF-16 mark in UTF-8, any other bytes as they are."""
    return data.decode("utf-16", "replace").encode() if data[:2] in _UTF16 else data


def as_text(data: bytes, kind: str) -> str:
    """Return the text of a text format.

    Raises:
        UnreadableFile: the bytes are not text.
    """
    if data[:2] in _UTF16:
        return data.decode("utf-16", "replace")
    if b"\0" in data[: 1 << 16]:
        raise UnreadableFile(
            "not-text",
            f"the file is not text, as {kind} is",
            where=f"a zero byte at {data.index(0)}",
            remedy="check the ending of the file's name, or export it again",
        )
    return data.decode("utf-8-sig", "replace")
