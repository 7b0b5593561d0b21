"""This module says where the core finds geometry: given by whoever calls it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from aimtrue.core.mesh.features.listed import Features
from aimtrue.core.mesh.mesh import Mesh

if TYPE_CHECKING:
    from aimtrue.core.model.body import Body


class GeometryStore(Protocol):
    """Where meshes are fetched by the hash of their geometry, and features by that of their list."""

    def mesh(self, geometry: str) -> Mesh:
        """Return a mesh in numbers of its file."""
        ...

    def features(self, body: Body) -> Features:
        """Return the flat and round faces of a body's mesh."""
        ...

    def original(self, sha256: str) -> bytes:
        """Return the bytes of a source, as they were given; the proof reads them a second time."""
        ...
