"""Divide a mesh into bodies: shells by connectivity, with the voids inside them."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.mesh.point_location import winding_numbers
from aimtrue.core.mesh.topology import Topology

MOST = 400
"""More shells than this become bodies of their own only down to the largest; the rest stay one body."""


@dataclass(frozen=True, eq=False)
class SeparatedBody:
    """One body: its outer shell and the voids inside it.

    Attributes:
        mesh: of all its shells, faces in the order of the file.
        voids: inner shells that bound hollows.
        shells: all its shells.
    """

    mesh: Mesh
    voids: int
    shells: int


@dataclass(frozen=True, eq=False)
class _Shell:
    faces: NDArray[np.int64]
    volume: float
    closed: bool


def separate(mesh: Mesh) -> list[SeparatedBody]:
    """Divide a mesh into its bodies, in the order in which they begin in the file.

    A shell is what hangs together by shared edges. A closed shell that faces inward and lies inside
    another is a void of the smallest shell around it.
    """
    if mesh.topology.shells == 1:
        return [SeparatedBody(mesh, 0, 1)]
    shells = _shells(mesh)
    owner = _owners(mesh, shells)
    members: dict[int, list[int]] = {}
    for number, outer in enumerate(owner):
        members.setdefault(outer, []).append(number)
    if len(members) > MOST:
        members = _fewer(members, shells)

    def body_of(numbers: list[int]) -> tuple[int, SeparatedBody]:
        faces = np.concatenate([shells[number].faces for number in numbers])
        if len(numbers) > 1:
            faces.sort()
        voids = sum(owner[number] != number and shells[number].volume < 0 for number in numbers)
        return int(faces[0]), SeparatedBody(part_of(mesh, faces, len(numbers)), voids, len(numbers))

    with ThreadPoolExecutor(2) as workers:  # NumPy lets go of the interpreter in its long loops.
        bodies = list(workers.map(body_of, members.values()))
    return [body for _, body in sorted(bodies, key=lambda pair: pair[0])]


def part_of(mesh: Mesh, faces: NDArray[np.int64], shells: int) -> Mesh:
    """Return some whole shells of a mesh; what is known of the whole is not worked out again.

    Args:
        mesh: the whole.
        faces: the numbers of the faces of those shells, ascending.
        shells: how many shells they are.
    """
    in_a_row = int(faces[-1] - faces[0]) + 1 == len(faces)
    here = slice(int(faces[0]), int(faces[-1]) + 1) if in_a_row else faces
    own = mesh.faces[here]
    if mesh.topology.non_manifold_edges or 4 * len(faces) < mesh.triangles:
        # An edge may be of several parts; small parts are soon worked out anew.
        return compacted(mesh.vertices, own)
    seen = np.zeros(len(mesh.vertices), dtype=bool)
    seen[own.ravel()] = True
    number = np.cumsum(seen, dtype=np.int32) - np.int32(1)
    part = Mesh(mesh.vertices[seen], number[own]).knowing(all_vertices_used=True, areas=mesh.areas[here])
    part.knowing(topology_of_whole=lambda: _part_of_topology(mesh, faces, shells, number))
    if mesh.sound_shells is not None:  # The volume is then the same from whatever point it is summed.
        part.knowing(sound_shells=shells, signed_volume=float(mesh.tetrahedra[here].sum()))
    return part


def _part_of_topology(
    mesh: Mesh, faces: NDArray[np.int64], shells: int, vertex_number: NDArray[np.int32]
) -> Topology:
    topology = mesh.topology
    face_number = np.full(mesh.triangles, -1, np.int32)
    face_number[faces] = np.arange(len(faces), dtype=np.int32)
    here = face_number[topology.half_edge_faces[topology.first_half_edge]] >= 0
    uses = topology.edge_valence[here]
    if mesh.sound_shells is not None:
        half_edge_faces = face_number[topology.half_edge_faces.reshape(-1, 2)[here].ravel()]
    else:
        half_edge_faces = face_number[topology.half_edge_faces[np.repeat(here, topology.edge_valence)]]
    label = np.zeros(len(faces), np.int32)
    if shells > 1:
        label = np.unique(topology.shell_of_face[faces], return_inverse=True)[1].astype(np.int32)
    return Topology(
        ends=vertex_number[topology.ends[here]],
        edge_valence=uses,
        orientation_sum=topology.orientation_sum[here],
        first_half_edge=(np.cumsum(uses, dtype=np.int32) - uses).astype(np.int32),
        half_edge_faces=half_edge_faces,
        shells=shells,
        shell_of_face=label,
    )


def count_voids(mesh: Mesh) -> int:
    """Return how many hollows a body has that is taken as one."""
    if mesh.topology.shells == 1:
        return 0
    shells = _shells(mesh)
    owner = _owners(mesh, shells)
    return sum(owner[number] != number for number in range(len(shells)))


def _shells(mesh: Mesh) -> list[_Shell]:
    topology = mesh.topology
    order = np.argsort(topology.shell_of_face, kind="stable")
    counts = np.bincount(topology.shell_of_face, minlength=topology.shells)
    ends = np.cumsum(counts)
    open_shell = np.zeros(topology.shells, dtype=bool)
    odd = np.flatnonzero(topology.orientation_sum)
    if len(odd):
        open_shell[topology.shell_of_face[topology.half_edge_faces[topology.first_half_edge[odd]]]] = True
    volumes = np.bincount(topology.shell_of_face, mesh.tetrahedra, topology.shells)
    return [
        _Shell(order[end - count : end], float(volume), not is_open)
        for end, count, volume, is_open in zip(ends, counts, volumes, open_shell, strict=True)
    ]


def _bounds(mesh: Mesh, faces: NDArray[np.int64]) -> tuple[Floats, Floats]:
    # Per corner: three small gathers cost less memory than one large one.
    corners = [mesh.vertices.take(mesh.faces[faces, k], axis=0) for k in range(3)]
    low = np.min([points.min(axis=0) for points in corners], axis=0)
    high = np.max([points.max(axis=0) for points in corners], axis=0)
    return low, high


def _owners(mesh: Mesh, shells: list[_Shell]) -> list[int]:
    """Return, per shell, the shell whose body it belongs to: itself, or the one it is a void of."""
    owner = list(range(len(shells)))
    inward = [n for n, shell in enumerate(shells) if shell.closed and shell.volume < 0]
    if not inward:
        return owner
    outer = [n for n, shell in enumerate(shells) if shell.closed and shell.volume > 0]
    boxes = [_bounds(mesh, shells[n].faces) for n in outer]
    lows = np.array([low for low, _ in boxes]).reshape(-1, 3)
    highs = np.array([high for _, high in boxes]).reshape(-1, 3)
    for number in inward:
        shell = shells[number]
        low, high = _bounds(mesh, shell.faces)
        around = np.flatnonzero((lows <= low).all(axis=1) & (highs >= high).all(axis=1))
        point = mesh.vertices[mesh.faces[shell.faces[0]]].mean(axis=0)[None]
        for candidate in sorted((outer[i] for i in around), key=lambda n: shells[n].volume):
            if winding_numbers(mesh, shells[candidate].faces, point)[0] > 0.5:
                owner[number] = candidate
                break
    return owner


def _fewer(members: dict[int, list[int]], shells: list[_Shell]) -> dict[int, list[int]]:
    """Keep the largest bodies and put the rest into one."""
    by_size = sorted(members, key=lambda outer: -len(shells[outer].faces))
    kept = {outer: members[outer] for outer in by_size[: MOST - 1]}
    rest = [number for outer in by_size[MOST - 1 :] for number in members[outer]]
    kept[rest[0]] = rest
    return kept
