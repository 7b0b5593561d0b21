"""Analytic shapes with known answers, and jobs made of them."""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.actions import TakeIn, UserAction, apply
from aimtrue.core.features.listed import Features, features_of
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.job import Body, Job
from aimtrue.core.mesh import Mesh

_BOX_FACES = np.array(
    [
        [0, 2, 1], [0, 3, 2], [4, 5, 6], [4, 6, 7], [0, 1, 5], [0, 5, 4],
        [1, 2, 6], [1, 6, 5], [2, 3, 7], [2, 7, 6], [3, 0, 4], [3, 4, 7],
    ],
    dtype=np.int32,
)  # fmt: skip


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    """A closed box of 12 triangles from ``at``, facing outward."""
    corners = np.array(
        [[0, 0, 0], [x, 0, 0], [x, y, 0], [0, y, 0], [0, 0, z], [x, 0, z], [x, y, z], [0, y, z]],
        dtype=np.float64,
    )
    return Mesh(corners + at, _BOX_FACES)


def corners_of(mesh: Mesh) -> NDArray[np.float64]:
    """(m, 3, 3) corners of every triangle."""
    return np.asarray(mesh.vertices[mesh.faces])


def binary_stl(corners: NDArray[np.float64], header: bytes = b"", count: int | None = None) -> bytes:
    """A binary STL written here, independently of the product's writer."""
    out = [header.ljust(80, b"\0"), struct.pack("<I", len(corners) if count is None else count)]
    for triangle in corners.tolist():
        out.append(struct.pack("<12fH", 0, 0, 0, *triangle[0], *triangle[1], *triangle[2], 0))
    return b"".join(out)


def ascii_stl(corners: NDArray[np.float64], name: str = "part") -> bytes:
    """An ASCII STL written here, independently of the product's writer."""
    lines = [f"solid {name}"]
    for triangle in corners.tolist():
        lines += ["facet normal 0 0 0", "outer loop"]
        lines += [f"vertex {x!r} {y!r} {z!r}" for x, y, z in triangle]
        lines += ["endloop", "endfacet"]
    return "\n".join([*lines, f"endsolid {name}\n"]).encode()


@dataclass
class Bench:
    """A job of one file, and the shelf its mesh is on."""

    job: Job
    meshes: dict[str, Mesh]

    def mesh(self, name: str) -> Mesh:
        return self.meshes[name]

    def features(self, body: Body) -> Features:
        return features_of(self.meshes[body.geometry])

    def do(self, *actions: UserAction) -> Bench:
        """Apply actions, one after the other."""
        for action in actions:
            self.job = apply(self.job, action, self)
        return self


def bench_of(name: str, data: bytes) -> Bench:
    """Take a file into a job."""
    taken = take_in("s1", name, data)
    bench = Bench(Job(name="trial"), dict(taken.meshes))
    bench.job = apply(bench.job, TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits), bench)
    return bench
