"""Analytic shapes with known answers, and jobs made of them."""

from __future__ import annotations

import hashlib
import struct
from dataclasses import dataclass, field

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from aimtrue.core.actions import UserAction, apply
from aimtrue.core.division.actions import PutAll
from aimtrue.core.division.making import DivisionResult, shape, shape_all
from aimtrue.core.division.requests import DivisionDraft
from aimtrue.core.division.stale import stale_divisions
from aimtrue.core.division.tasks import DivideTask, RedoDivisionTask
from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.tasks import ReviseTask
from aimtrue.core.mesh.features.listed import Features, features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.serialization import from_bytes
from aimtrue.core.mesh.solids import solid_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Asked
from aimtrue.core.model.job import Job
from aimtrue.core.room import TaskInputs
from aimtrue.core.tasks import Task, do

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


def bored(diameter: float = 5.5, sides: int = 48, at: float = 0.0) -> Mesh:
    """A plate of 40 x 30 x 8 with a round hole through it, its corner at ``at`` on every axis."""
    import manifold3d

    plate = manifold3d.Manifold.cube((40, 30, 8))
    hole = manifold3d.Manifold.cylinder(20, diameter / 2, diameter / 2, sides).translate((12, 15, -5))
    made = (plate - hole).to_mesh64()
    return Mesh(np.asarray(made.vert_properties)[:, :3] + at, np.asarray(made.tri_verts).astype(np.int32))


def bar(path: list[tuple[float, float]], width: float, height: float, climb: float = 0.0) -> Mesh:
    """A bar of rectangular section along a path that may cross itself, climbing evenly."""
    points = np.array(path)
    corners = []
    for i, point in enumerate(points):
        before = points[i] - points[i - 1] if i else points[1] - points[0]
        after = points[i + 1] - point if i < len(points) - 1 else before
        left = [np.array([-run[1], run[0]]) / np.hypot(*run) for run in (before, after)]
        miter = (left[0] + left[1]) / (1 + left[0] @ left[1]) * width / 2
        z = climb * i / (len(points) - 1)
        for side, up in ((-1, 0.0), (1, 0.0), (1, height), (-1, height)):
            corners.append([*(point + side * miter), z + up])
    faces = []
    for i in range(len(points) - 1):
        for k in range(4):
            p, q, r, s = 4 * i + k, 4 * i + (k + 1) % 4, 4 * i + 4 + k, 4 * i + 4 + (k + 1) % 4
            faces += [(p, q, r), (q, s, r)]
    end = 4 * len(points) - 4
    faces += [(0, 2, 1), (0, 3, 2), (end, end + 1, end + 2), (end, end + 2, end + 3)]
    mesh = Mesh(np.array(corners), np.array(faces, np.int32))
    return mesh if mesh.volume() > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1].copy())


def eight(around: int, along: int, lift: float) -> Mesh:
    """A closed tube along a figure of eight, whose two strands run through each other in the middle."""
    t = np.linspace(0, 2 * np.pi, along, endpoint=False)
    middle = np.stack([20 * np.sin(t), 10 * np.sin(2 * t), lift * np.cos(t)], axis=1)
    run = np.roll(middle, -1, 0) - np.roll(middle, 1, 0)
    side = np.cross([0, 0, 1], run)
    side /= np.linalg.norm(side, axis=1)[:, None]
    up = np.cross(run, side)
    up /= np.linalg.norm(up, axis=1)[:, None]
    a = np.linspace(0, 2 * np.pi, around, endpoint=False)[None, :, None]
    points = (middle[:, None] + 3 * (np.cos(a) * side[:, None] + np.sin(a) * up[:, None])).reshape(-1, 3)
    i, j = np.divmod(np.arange(along * around), around)
    p, q = i * around + j, i * around + (j + 1) % around
    r, s = (i + 1) % along * around + j, (i + 1) % along * around + (j + 1) % around
    mesh = Mesh(points, np.concatenate([np.stack([p, r, q], 1), np.stack([q, r, s], 1)]).astype(np.int32))
    return mesh if mesh.volume() > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1].copy())


def screw(radius: float = 4, pitch: float = 1.25, turns: int = 5, around: int = 48) -> Mesh:
    """The flanks of a 60° thread as strips that climb; open at its ends, as a piece of a surface may be."""
    high = 0.6 * pitch
    angle = 2 * np.pi * np.arange(turns * around + 1) / around
    climb = pitch * angle / (2 * np.pi)

    def line(r: float, lift: float) -> np.ndarray:
        return np.stack([r * np.cos(angle), r * np.sin(angle), climb + lift], axis=1)

    rows = [line(radius - high, 0), line(radius, pitch / 2), line(radius - high, pitch)]
    n = np.arange(len(angle) - 1)
    faces = []
    for low, up in ((0, 1), (1, 2)):
        a, b = low * len(angle), up * len(angle)
        faces += [
            np.stack([a + n, a + n + 1, b + n + 1], axis=1),
            np.stack([a + n, b + n + 1, b + n], axis=1),
        ]
    return Mesh(np.concatenate(rows), np.concatenate(faces).astype(np.int32))


def threaded(
    radius: float = 4, pitch: float = 1.25, low: float = 1.4, high: float = 5.0, around: int = 48
) -> Manifold:
    """A rod about z with a 60° thread over its whole length, cut flat at two heights from 1.2 pitches on."""
    turns = int(np.ceil(high / pitch)) + 2
    flanks = screw(radius, pitch, turns, around)
    ends = np.array([[0, 0, -4 * pitch], [0, 0, (turns + 5) * pitch]], np.float64)
    points, number = np.unique(np.vstack([flanks.vertices, ends]).round(9), axis=0, return_inverse=True)
    number = number.ravel()
    faces, long = number[flanks.faces], turns * around + 1
    bottom, crest, top = (number[row * long : (row + 1) * long] for row in range(3))
    below = np.concatenate([bottom[: around + 1], [crest[0]]])
    above = np.concatenate([top[-around - 1 :], [crest[-1]]])
    caps = [[number[-2], b, a] for a, b in zip(below, np.roll(below, -1), strict=True)]
    caps += [[number[-1], a, b] for a, b in zip(above, np.roll(above, -1), strict=True)]
    whole = solid_of(Mesh(points, np.concatenate([faces, caps]).astype(np.int32)))
    return whole.trim_by_plane((0, 0, 1), low).trim_by_plane((0, 0, -1), -high)


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
    originals: dict[str, bytes] = field(default_factory=dict)
    keys: int = 0

    def fresh(self) -> str:
        """Return an id that no task had before."""
        self.keys += 1
        return f"m{self.keys}"

    def mesh(self, name: str) -> Mesh:
        return self.meshes[name]

    def original(self, sha256: str) -> bytes:
        return self.originals[sha256]

    def features(self, body: Body) -> Features:
        return features_of(self.meshes[body.geometry])

    def do(self, *actions: UserAction) -> Bench:
        """Apply actions, one after the other."""
        for action in actions:
            self.job = apply(self.job, action, self)
        return self

    def work(self, task: Task, data: bytes = b"") -> Bench:
        """Make bodies anew, as the background does; ``data`` is the file of a revision, or of what is read
        again.
        """
        task_result = do(TaskInputs(self.fresh(), self.job, self, data, lambda share, says: None), task)
        self.meshes |= {
            name: from_bytes(blob) for name, blob in task_result.blobs.items() if blob[:4] == b"ATG1"
        }
        # What was made here is an original of its own.
        self.originals |= {
            name: blob for name, blob in task_result.blobs.items() if hashlib.sha256(blob).hexdigest() == name
        }
        self.job = apply(self.job, task_result.action, self)
        return self

    def revise(self, name: str, data: bytes, source: str = "s1") -> Bench:
        """Swap in a new revision of a file."""
        sha256 = hashlib.sha256(data).hexdigest()
        self.originals[sha256] = data
        return self.work(ReviseTask(source=source, name=name, sha256=sha256), data)

    def shape(self, asked: Asked, *bodies: str, instead: str = "") -> DivisionDraft:
        """Divide a body, or join two, as the background does."""
        key = self.fresh()
        task = DivideTask(bodies=bodies or (self.job.bodies[0].id,), asked=asked, instead=instead)
        return self.made(shape(key, self.job, task, self, lambda share, says: None))

    def shape_all(self, asked: Asked, *bodies: str) -> Bench:
        """Cut several bodies by the same planes, as the background does."""
        task = DivideTask(bodies=bodies, asked=asked)
        division_results = shape_all(self.fresh(), self.job, task, self, lambda share, says: None)
        for division_result in division_results:
            for body in division_result.action.come:
                self.meshes[body.geometry] = from_bytes(division_result.blobs[body.geometry])
        return self.do(PutAll(each=tuple(division_result.action for division_result in division_results)))

    def shape_again(self) -> None:
        """Make again whatever is stale."""
        while stale := stale_divisions(self.job):
            task = RedoDivisionTask(division=stale[0].id)
            self.made(shape(self.fresh(), self.job, task, self, lambda share, says: None))

    def made(self, shapings: DivisionResult) -> DivisionDraft:
        """Put what was made into the job."""
        for body in shapings.action.come:
            self.meshes[body.geometry] = from_bytes(shapings.blobs[body.geometry])
        self.job = apply(self.job, shapings.action, self)
        return shapings.answer


def bench_of(name: str, data: bytes) -> Bench:
    """Take a file into a job."""
    taken = take_in("s1", name, data)
    originals = {taken.sources[0].sha256: data, **taken.originals}
    bench = Bench(Job(name="trial"), dict(taken.meshes), dict(originals))
    bench.job = apply(bench.job, TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits), bench)
    return bench
