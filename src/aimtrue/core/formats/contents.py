"""What a reader hands back, and the checks every format shares."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Mesh, merged


@dataclass(frozen=True)
class Limits:
    """How much a packed file may hold, so that a small file cannot fill the machine.

    Attributes:
        unpacked_bytes: greatest size of all unpacked parts together.
        ratio: greatest unpacked size over packed size, for files that unpack to over 64 MB.
    """

    unpacked_bytes: int = 4 * 1024**3
    ratio: float = 200.0


@dataclass(frozen=True, eq=False)
class Part:
    """One named object of a file, in the numbers of the file."""

    name: str
    mesh: Mesh


@dataclass(frozen=True, eq=False)
class Contents:
    """A file as read.

    Attributes:
        format: ``stl-binary``, ``stl-ascii`` or ``3mf``.
        parts: at least one; none is empty.
        unit: the unit the file declares, or None.
        words: header or comment text, which may hint at the unit.
    """

    format: str
    parts: tuple[Part, ...]
    unit: Unit | None = None
    words: str = ""

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
