"""The second readers of originals: from the bytes of a source to triangles, in numbers of its file.

Each is written anew, plainly, and only as far as a proof needs: places, triangles or polygons, and the unit
that the file declares. STEP, IGES and BREP are read in :mod:`aimtrue.core.proof.kernel`.
"""

from __future__ import annotations

import struct
import xml.etree.ElementTree as Xml

from aimtrue.core.errors import AimTrueError
from aimtrue.core.proof.originals.obj import obj_polygons
from aimtrue.core.proof.originals.ply import ply_polygons
from aimtrue.core.proof.originals.proof_original import (
    ProofOriginal,
    of_corners,
    of_polygons,
)
from aimtrue.core.proof.originals.stl import stl_ascii, stl_binary
from aimtrue.core.proof.originals.threemf import read_threemf


def read(kind: str, data: bytes) -> ProofOriginal:
    """Read a mesh file a second time.

    Args:
        kind: ``stl-binary``, ``stl-ascii``, ``obj``, ``ply-ascii``, ``ply-binary`` or ``3mf``.
        data: the whole file.

    Raises:
        AimTrueError: it cannot be read this way.
    """
    try:
        match kind:
            case "stl-binary":
                return of_corners(stl_binary(data))
            case "stl-ascii":
                return of_corners(*stl_ascii(data))
            case "obj":
                return of_polygons(*obj_polygons(data))
            case "ply-ascii" | "ply-binary":
                return of_polygons(*ply_polygons(data))
            case _:
                return read_threemf(data)
    except (ValueError, IndexError, KeyError, struct.error, OverflowError, Xml.ParseError) as error:
        raise AimTrueError(
            "original-unproven",
            f"the original cannot be read a second time, so nothing can be proven of it: {error}",
            remedy="nothing was handed over; report this with the file",
        ) from error
