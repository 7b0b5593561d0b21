"""This module says what a reader hands back, and the checks every format shares."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.model.facets import Facets, Fineness, Remark
from aimtrue.core.model.lengths import Unit


@dataclass(frozen=True)
class UnpackingLimits:
    """How much a packed file may hold, so that a small file cannot fill the machine.

    Attributes:
        unpacked_bytes: greatest size of all unpacked parts together.
        ratio: greatest unpacked size over packed size, for files that unpack to over 64 MB.
    """

    unpacked_bytes: int = 4 * 1024**3
    ratio: float = 200.0


@dataclass(frozen=True, eq=False)
class FileObject:
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
class FileObjects:
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
    parts: tuple[FileObject, ...]
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
    if not mesh.has_area:
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
