"""The lines a body shows in a view: outline and sharp edges, as far as nothing is in front of them."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from math import radians
from typing import Any

import numpy as np
import shapely
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from numpy.typing import NDArray

from aimtrue.core.mesh.arrays import places_in_runs
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced

_SHARP = radians(30)
_EDGE_ON = 1e-4
_AWAY = 7e-3
"""A reduced surface may be this share of the body's size away from the true one."""
_PIECES = 24
"""Into at most so many pieces an edge is cut to see how much of it is hidden."""
_FINE = 1 / 400
"""Pieces shorter than this share of the body's size cannot be told apart on paper."""


@dataclass(frozen=True, eq=False)
class ViewDirection:
    """A way to look: what is to the right, what is up, and where the eye is; rows of axes of the job."""

    name: str
    right: tuple[float, float, float]
    up: tuple[float, float, float]

    @property
    def toward(self) -> Floats:
        """(3,): from the body to the eye."""
        return np.cross(self.right, self.up)

    def flat(self, points: Floats) -> Floats:
        """Return (..., 2): points as they lie in the view, right and up."""
        return np.stack([points @ np.asarray(self.right), points @ np.asarray(self.up)], axis=-1)


FRONT = ViewDirection("front", (1, 0, 0), (0, 0, 1))
TOP = ViewDirection("top", (1, 0, 0), (0, 1, 0))
LEFT = ViewDirection("from the left", (0, -1, 0), (0, 0, 1))
VIEWS = (FRONT, TOP, LEFT)


class PreparedView:
    """A mesh made ready to be looked at from several sides.

    Args:
        mesh: in mm, in the axes of the job.
    """

    def __init__(self, mesh: Mesh) -> None:
        self.mesh = mesh
        low, high = mesh.bounds()
        self._middle, self._size = (low + high) / 2, float((high - low).max()) or 1.0
        self._scene: Any = None
        self._occluder = mesh
        self._coarse = mesh.triangles >= REDUCED_FROM
        with ThreadPoolExecutor(1) as other:  # A large mesh takes most of its time here.
            ready = other.submit(self._prepare)
            topology = mesh.topology
            ready.result()
        crosses = mesh.area_vectors
        paired = np.flatnonzero(topology.edge_valence == 2)
        self._paired, self._sides = paired, topology.faces_of(paired)
        self._rims = topology.ends[topology.edge_valence != 2]
        a, b = self._sides.T
        length = np.sqrt(np.einsum("ij,ij->i", crosses, crosses))
        normals = np.divide(crosses, length[:, None], out=np.zeros_like(crosses), where=length[:, None] > 0)
        self._normals = normals.astype(np.float32)
        cosine = np.einsum("ij,ij->i", self._normals[a], self._normals[b])
        self._sharp = (cosine < np.cos(_SHARP)) & (length[a] > 0) & (length[b] > 0)

    def _prepare(self) -> None:
        _ = self.mesh.area_vectors
        self._occluder = reduced(self.mesh) if self._coarse else self.mesh

    def outline(self, view: ViewDirection) -> Floats:
        """Return (k, 2, 2): all edges where the surface turns away from the eye, hidden or not."""
        edges = self.mesh.topology.ends[self._paired[self._turning(view)]]
        return np.asarray(view.flat(self.mesh.vertices[edges]))

    def lines(self, view: ViewDirection) -> Floats:
        """Return (k, 2, 2): the pieces of outline and sharp edges that can be seen."""
        facing = self._normals @ view.toward.astype(np.float32)
        a, b = self._sides.T
        shown = self._sharp & ((facing[a] > _EDGE_ON) | (facing[b] > _EDGE_ON))
        chosen = np.flatnonzero(shown | self._turning(view))
        edges = np.concatenate([self.mesh.topology.ends[self._paired[chosen]], self._rims])
        if not len(edges):
            return np.empty((0, 2, 2))
        out = np.zeros((len(edges), 3))
        out[: len(chosen)] = self._normals[a[chosen]] + self._normals[b[chosen]]
        size = np.linalg.norm(out, axis=1, keepdims=True)
        out = np.divide(out, size, out=np.zeros_like(out), where=size > 0)
        return self._seen(self.mesh.vertices[edges], out, view)

    def _turning(self, view: ViewDirection) -> NDArray[np.bool_]:
        facing = self._normals @ view.toward.astype(np.float32)
        a, b = self._sides.T
        return np.asarray((facing[a] > _EDGE_ON) != (facing[b] > _EDGE_ON))

    def _seen(self, edges: Floats, out: Floats, view: ViewDirection) -> Floats:
        """Cut edges into pieces and keep those from which a ray reaches the eye."""
        flat = view.flat(edges)
        length = np.linalg.norm(flat[:, 1] - flat[:, 0], axis=1)
        edges, out, length = edges[length > 0], out[length > 0], length[length > 0]
        pieces = np.clip(np.ceil(length / (self._size * _FINE)), 1, _PIECES).astype(int)
        owner = np.repeat(np.arange(len(edges)), pieces)
        step = places_in_runs(pieces)
        start, run = edges[owner, 0], (edges[:, 1] - edges[:, 0])[owner]
        share = (step / pieces[owner])[:, None], ((step + 1) / pieces[owner])[:, None]
        ends = np.stack([start + run * share[0], start + run * share[1]], axis=1)
        seen = ~self._hidden(ends.mean(axis=1), out[owner], view)
        return self._rejoined(view.flat(ends[seen]), owner[seen], step[seen])

    @staticmethod
    def _rejoined(pieces: Floats, owner: NDArray[np.int64], step: NDArray[np.int64]) -> Floats:
        """Put pieces of one edge that follow each other together again."""
        if not len(pieces):
            return pieces
        follows = (owner[1:] == owner[:-1]) & (step[1:] == step[:-1] + 1)
        first = np.flatnonzero(np.concatenate([[True], ~follows]))
        last = np.append(first[1:] - 1, len(pieces) - 1)
        return np.stack([pieces[first, 0], pieces[last, 1]], axis=1)

    def _hidden(self, points: Floats, out: Floats, view: ViewDirection) -> NDArray[np.bool_]:
        # Lifted off by more than single precision, or a reduced surface, is away from the true one.
        lift = 4e-4 * view.toward if not self._coarse else _AWAY * (view.toward + out)
        origins = ((points - self._middle) / self._size + lift).astype(np.float32)
        ways = np.broadcast_to(view.toward.astype(np.float32), origins.shape)
        hit = self._tree().run(np.ascontiguousarray(origins), np.ascontiguousarray(ways), query="OCCLUDED")
        return np.asarray(hit) >= 0

    def _tree(self) -> Any:  # noqa: ANN401 - of any type, or of none that is known
        """What hides: the mesh, or of a very large one its reduced form, which is made in half a second."""
        if self._scene is None:
            shape = self._occluder
            self._scene = rtcore_scene.EmbreeScene()
            points = ((shape.vertices - self._middle) / self._size).astype(np.float32)
            TriangleMesh(self._scene, points, shape.faces.astype(np.int32))
        return self._scene


def strokes(lines: Floats, slack: float) -> list[Floats]:
    """Join (k, 2, 2) lines end to end into strokes, leaving out corners nearer than ``slack`` to straight."""
    if not len(lines):
        return []
    grid = np.round(lines / (slack / 4)) * (slack / 4)
    kept = grid[(grid[:, 0] != grid[:, 1]).any(axis=1)]
    if not len(kept):
        return []
    joined = shapely.line_merge(shapely.MultiLineString(list(np.unique(kept, axis=0))))
    parts = shapely.get_parts(shapely.simplify(joined, slack))
    return [shapely.get_coordinates(part) for part in parts]
