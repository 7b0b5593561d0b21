"""Where the core finds geometry: given by whoever calls it."""

from __future__ import annotations

from typing import Protocol

from aimtrue.core.mesh import Mesh


class Shelf(Protocol):
    """Where meshes are fetched by the hash of their geometry."""

    def mesh(self, geometry: str) -> Mesh:
        """Return a mesh in numbers of its file."""
        ...
