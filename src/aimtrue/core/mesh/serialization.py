"""Mesh bytes: one form to keep, one form for the bench.

Geometry is immutable and named by the SHA-256 of its kept bytes. The bench form
is what the browser draws: float32 about an origin of its own, so that a model far
from the file's origin is drawn without losing digits.
"""

from __future__ import annotations

import hashlib
import struct
from math import radians

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced
from aimtrue.core.mesh.topology import feature_edges

_KEPT = struct.Struct("<4sBxxxII")
_KEPT_MAGIC = b"ATG1"
_BENCH = struct.Struct("<4sIIIddd")
_BENCH_MAGIC = b"ATB1"
INKED_FROM = radians(25)
"""Folds sharper than this are drawn; the facets of a fine bore are not."""


KIND_BYTES = 4
"""How many bytes tell what kind of bytes they are."""


def is_drawn(head: bytes) -> bool:
    """Tell by the first bytes whether they are a mesh for drawing."""
    return head[:KIND_BYTES] == _BENCH_MAGIC


def is_kept(head: bytes) -> bool:
    """Tell by the first bytes whether they are kept geometry."""
    return head[:KIND_BYTES] == _KEPT_MAGIC


def to_bytes(mesh: Mesh) -> bytes:
    """Write a mesh for keeping: exact, with float32 where that loses nothing."""
    single = mesh.vertices.astype(np.float32)
    narrow = bool((single == mesh.vertices).all())
    head = _KEPT.pack(_KEPT_MAGIC, 4 if narrow else 8, len(mesh.vertices), len(mesh.faces))
    body = single if narrow else mesh.vertices
    return b"".join([head, np.ascontiguousarray(body).tobytes(), mesh.faces.astype("<i4").tobytes()])


def from_bytes(data: bytes | memoryview) -> Mesh:
    """Read what :func:`to_bytes` wrote.

    Raises:
        AimTrueError: the bytes are not kept geometry.
    """
    if bytes(data[:4]) != _KEPT_MAGIC:
        raise AimTrueError("geometry-damaged", "stored geometry is damaged")
    _, width, vertices, faces = _KEPT.unpack_from(data)
    points = np.frombuffer(data, f"<f{width}", vertices * 3, _KEPT.size)
    at = _KEPT.size + vertices * 3 * width
    index = np.frombuffer(data, "<i4", faces * 3, at)
    return Mesh(points.reshape(-1, 3).astype(np.float64), index.reshape(-1, 3).astype(np.int32))


def name_of(data: bytes) -> str:
    """Return the SHA-256 of the bytes as 64 hexadecimal digits."""
    return hashlib.sha256(data).hexdigest()


def drawn_bytes(mesh: Mesh) -> bytes:
    """Write what the bench draws first: the mesh, or a reduced one where it is large."""
    if mesh.triangles < REDUCED_FROM:
        return bench_bytes(mesh)
    return bench_bytes(reduced(mesh), inked=False)


def bench_bytes(mesh: Mesh, *, inked: bool = True) -> bytes:
    """Write a mesh for drawing.

    Layout, little-endian: ``ATB1``; counts of vertices, faces and inked edges (uint32);
    the origin (3 float64); vertices less the origin (float32); faces (uint32); the ends
    of the inked edges (uint32). Face numbers are those of the kept geometry.
    """
    low, high = mesh.bounds()
    reach = np.abs(mesh.vertices).max() if len(mesh.vertices) else 0.0
    # Near the file's own origin nothing is gained by moving, and zero keeps the numbers recognisable.
    origin = (low + high) / 2 if reach > 16 * float((high - low).max()) else np.zeros(3)
    # Where vertices were joined, folds are chance and would be ink without meaning.
    edges = (
        feature_edges(mesh.topology, mesh.area_vectors, INKED_FROM) if inked else np.empty((0, 2), np.int32)
    )
    head = _BENCH.pack(_BENCH_MAGIC, len(mesh.vertices), len(mesh.faces), len(edges), *origin)
    return b"".join(
        [
            head,
            (mesh.vertices - origin).astype("<f4").tobytes(),
            mesh.faces.astype("<u4").tobytes(),
            edges.astype("<u4").tobytes(),
        ]
    )
