"""The remedies: each takes a mesh and returns another, or the very same when there is nothing to mend."""

from __future__ import annotations

from typing import Literal

import manifold3d
import numpy as np
import scipy
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.intake.mending.arrangements import arranged
from aimtrue.core.intake.mending.holes import patches
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Mesh, compacted, merged
from aimtrue.core.mesh.point_location import winding_numbers
from aimtrue.core.mesh.solids import TracedSolids, mesh_of, solid_of, traced

MendingRemedy = Literal[
    "weld", "remove-degenerate", "face-outward", "close-holes", "resolve-crossings", "rebuild"
]
REMEDY_NAMES: dict[MendingRemedy, str] = {
    "weld": "weld",
    "remove-degenerate": "remove empty and double triangles",
    "face-outward": "face outward",
    "close-holes": "close holes",
    "resolve-crossings": "resolve crossings",
    "rebuild": "rebuild as a solid",
}
WELDED_WITHIN = 1e-5
"""The tolerance, as a share of the body's size, when none is typed."""


def mended(mesh: Mesh, remedy: MendingRemedy, tolerance: float | None = None) -> Mesh:
    """Apply a remedy.

    Args:
        mesh: one body.
        remedy: what to do.
        tolerance: for welding, how near corners are joined; for rebuilding, the spacing of the grid;
            in numbers of the mesh. None chooses by the body's size.

    Returns:
        Another mesh, or the same object when the remedy finds nothing to do.

    Raises:
        Refused: the remedy cannot be done on this mesh.
    """
    match remedy:
        case "weld":
            return weld_within(mesh, tolerance or WELDED_WITHIN * float(mesh.extents().max()))
        case "remove-degenerate":
            return without_degenerate(mesh)
        case "face-outward":
            return facing_outward(mesh)
        case "close-holes":
            return without_holes(mesh)
        case "resolve-crossings":
            return without_crossings(mesh)
        case "rebuild":
            from aimtrue.core.intake.mending.rebuild import rebuilt

            return rebuilt(mesh, tolerance)


def weld_within(mesh: Mesh, tolerance: float) -> Mesh:
    """Join corners nearer than a tolerance; each goes to the first of its cluster, so the rest stays put."""
    pairs = scipy.spatial.cKDTree(mesh.vertices).query_pairs(tolerance, output_type="ndarray")
    if not len(pairs):
        return mesh
    _, label = connected_components(len(mesh.vertices), *pairs.T)
    _, first = np.unique(label, return_index=True)
    faces = first[label][mesh.faces].astype(np.int32)
    return compacted(mesh.vertices, faces[_proper(faces)])


def without_degenerate(mesh: Mesh) -> Mesh:
    """Remove triangles that bound nothing: with a repeated corner, without area, or there twice.

    A triangle without area whose three corners differ lies along an edge of its neighbour. That neighbour
    is divided at the middle corner, so that no hole is left.
    """
    faces = mesh.faces[_proper(mesh.faces)]
    faces = _without_doubles(faces)
    for _ in range(8 if len(faces) else 0):
        whole = Mesh(mesh.vertices, faces)
        needles = np.flatnonzero(whole.areas == 0)
        if not len(needles):
            break
        after = _without_needles(whole, needles)
        if len(after) == len(faces) and (after == faces).all():
            break
        faces = after
    if len(faces) == mesh.triangles and (faces == mesh.faces).all():
        return mesh
    if not len(faces):
        raise Refused("nothing-left", "nothing would be left of this body", remedy="remove it instead")
    return compacted(mesh.vertices, faces)


def _proper(faces: NDArray[np.int32]) -> NDArray[np.bool_]:
    a, b, c = faces.T
    return np.asarray((a != b) & (b != c) & (c != a))


def _without_doubles(faces: NDArray[np.int32]) -> NDArray[np.int32]:
    """Of triangles at the same three corners keep one, or none where a pair back to back bounds nothing.

    Copies that outweigh the others in one direction leave one of that direction. As many in either direction
    may be the two sides of a sheet, which bounds nothing, or a triangle of the surface with a copy turned
    over on it. What hangs together of such triangles is tried without them, with the first of each and with
    the last of each; the try that leaves fewest edges unpaired is kept.
    """
    corners = np.sort(faces, axis=1)
    _, first, index, counts = np.unique(
        corners, axis=0, return_index=True, return_inverse=True, return_counts=True
    )
    if (counts == 1).all():
        return faces
    index = index.ravel()
    way = np.array([_parity(face) for face in faces])
    turn = np.bincount(index, way, len(first))
    kept = counts[index] == 1
    kept[_firsts(index, (counts[index] > 1) & (np.sign(turn)[index] == way) & (turn[index] != 0))] = True
    even = np.flatnonzero((counts > 1) & (turn == 0))
    for cluster in _clusters(corners[first[even]]):
        copies = np.isin(index, even[cluster])
        tries = [
            np.empty(0, np.int64),
            _firsts(index, copies),
            len(faces) - 1 - _firsts(index[::-1], copies[::-1]),
        ]
        best = min(tries, key=lambda some: _unpaired(faces, kept, some, copies))
        kept[best] = True
    return np.asarray(faces[kept])


def _firsts(index: NDArray[np.int64], of: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Return the first of each group among some rows."""
    rows = np.flatnonzero(of)
    return rows[np.unique(index[rows], return_index=True)[1]]


def _clusters(corners: NDArray[np.int32]) -> list[NDArray[np.int64]]:
    """Divide triangles, given by their sorted corners, by what hangs together along edges."""
    if not len(corners):
        return []
    sides = np.concatenate([corners[:, [0, 1]], corners[:, [1, 2]], corners[:, [0, 2]]])
    owner = np.tile(np.arange(len(corners)), 3)
    _, side = np.unique(sides, axis=0, return_inverse=True)
    order = np.argsort(side.ravel(), kind="stable")
    same = np.diff(side.ravel()[order]) == 0
    _, label = connected_components(len(corners), owner[order][:-1][same], owner[order][1:][same])
    return [np.flatnonzero(label == component) for component in np.unique(label)]


def _unpaired(
    faces: NDArray[np.int32], kept: NDArray[np.bool_], some: NDArray[np.int64], copies: NDArray[np.bool_]
) -> int:
    """Count edges around some copies that are not run along as often each way, were these kept besides."""
    chosen = np.concatenate([faces[kept & ~copies], faces[some]])
    starts, ends = chosen.ravel(), np.roll(chosen, -1, axis=1).ravel()
    around = np.isin(starts, faces[copies]) & np.isin(ends, faces[copies])
    starts, ends = starts[around].astype(np.int64), ends[around].astype(np.int64)
    key = np.minimum(starts, ends) * (int(faces.max()) + 1) + np.maximum(starts, ends)
    _, edge = np.unique(key, return_inverse=True)
    return int(np.count_nonzero(np.bincount(edge.ravel(), np.where(starts < ends, 1, -1))))


def _parity(face: NDArray[np.int32]) -> int:
    """+1 or -1: which way round the corners run, seen from their sorted order."""
    a, b, c = face.tolist()
    return 1 if (a < b < c) or (b < c < a) or (c < a < b) else -1


def _without_needles(mesh: Mesh, needles: NDArray[np.int64]) -> NDArray[np.int32]:
    faces = mesh.faces.copy()
    owner: dict[tuple[int, int], int] = {}
    for number, (a, b, c) in enumerate(faces.tolist()):
        owner[a, b] = owner[b, c] = owner[c, a] = number
    gone, touched = set(), set()
    added: list[tuple[int, int, int]] = []
    for needle in needles.tolist():
        corners = faces[needle].tolist()
        points = mesh.vertices[corners]
        lengths = [np.linalg.norm(points[(k + 1) % 3] - points[k]) for k in range(3)]
        k = int(np.argmax(lengths))
        a, b, middle = corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]
        neighbour = owner.get((b, a))
        if neighbour is None or needle in touched or neighbour in touched or neighbour == needle:
            continue
        third = next(v for v in faces[neighbour].tolist() if v not in (a, b))
        touched |= {needle, neighbour}
        gone |= {needle, neighbour}
        if third != middle:
            added += [(b, middle, third), (middle, a, third)]
    kept = np.ones(len(faces), dtype=bool)
    kept[list(gone)] = False
    return np.concatenate([faces[kept], np.array(added, np.int32).reshape(-1, 3)])


def facing_outward(mesh: Mesh) -> Mesh:
    """Turn faces so that neighbours agree, and every shell faces out of the material it bounds."""
    flips = _to_agree(mesh)
    faces = _flipped(mesh.faces, flips)
    agreed = Mesh(mesh.vertices, faces)
    inward = _inward_shells(agreed)
    if len(inward):
        turned = np.isin(agreed.topology.shell_of_face, inward)
        flips = flips ^ turned
    if not flips.any():
        return mesh
    return Mesh(mesh.vertices, _flipped(mesh.faces, flips))


def _flipped(faces: NDArray[np.int32], flips: NDArray[np.bool_]) -> NDArray[np.int32]:
    turned = faces.copy()
    turned[flips] = turned[flips][:, ::-1]
    return turned


def _to_agree(mesh: Mesh) -> NDArray[np.bool_]:
    """Which faces to turn so that neighbours run along their edges in opposite ways."""
    topology, n = mesh.topology, mesh.triangles
    flips = np.zeros(n, dtype=bool)
    if not topology.inconsistent.any():
        return flips
    plain = np.flatnonzero(topology.edge_valence == 2)
    a, b = topology.faces_of(plain).T
    odd = topology.orientation_sum[plain] != 0
    graph = scipy.sparse.coo_matrix((np.ones(len(a), np.int8), (a, b)), shape=(n, n)).tocsr()
    graph = (graph + graph.T).tocsr()
    parity = {(int(x), int(y)) for x, y in zip(a[odd], b[odd], strict=True)}
    parity |= {(y, x) for x, y in parity}
    _, label = connected_components(n, a, b)
    for shell in np.unique(label[a[odd]]):
        start = int(np.flatnonzero(label == shell)[0])
        order, before = scipy.sparse.csgraph.breadth_first_order(graph, start, directed=False)
        for face in order[1:].tolist():
            previous = int(before[face])
            flips[face] = flips[previous] ^ ((previous, face) in parity)
        members = np.flatnonzero(label == shell)
        if flips[members].sum() > len(members) / 2:  # The fewer triangles are turned.
            flips[members] = ~flips[members]
    return flips


def _inward_shells(mesh: Mesh) -> list[int]:
    """Closed shells that face the wrong way: a shell inside an odd number of others bounds a hollow."""
    topology = mesh.topology
    shells = [np.flatnonzero(topology.shell_of_face == number) for number in range(topology.shells)]
    wrong = []
    for number, faces in enumerate(shells):
        part = Mesh(mesh.vertices, mesh.faces[faces])
        if not part.topology.closed:
            continue
        point = part.vertices[part.faces[0]].mean(axis=0)[None]
        around = sum(
            abs(winding_numbers(mesh, other, point)[0]) > 0.5 for k, other in enumerate(shells) if k != number
        )
        if (part.volume() < 0) != (around % 2 == 1):
            wrong.append(number)
    return wrong


def without_holes(mesh: Mesh) -> Mesh:
    """Close every rim of open edges: flat ones flat, others with a surface that follows what is around."""
    if not mesh.topology.open_edges:
        return mesh
    points, faces = patches(mesh)
    if not len(faces):
        raise Refused(
            "holes-odd",
            "the open edges form no rim that could be closed",
            remedy="weld first, or rebuild the body as a solid",
        )
    return Mesh(np.concatenate([mesh.vertices, points]), np.concatenate([mesh.faces, faces]))


def without_crossings(mesh: Mesh) -> Mesh:
    """Make one surface of shells that cut through each other, and of a shell that cuts through itself."""
    if not mesh.topology.closed:
        raise Refused(
            "not-closed", "only closed bodies can be joined with themselves", remedy="close the holes first"
        )
    parts = [separated_body.mesh for separated_body in separate(mesh)]
    each = [_uncrossed(part) for part in parts]
    whole = _union([solid_of(part) for part in each]) if len(each) > 1 else None
    if whole is not None and len(whole.decompose()) < len(each):
        return mesh_of(whole)
    return mesh if all(new is old for new, old in zip(each, parts, strict=True)) else merged(each)


def _uncrossed(part: Mesh) -> Mesh:
    mesh = arranged(part)
    if mesh is None:
        raise Refused(
            "crosses-oddly",
            "faces lie so close upon each other that it cannot be told where they cross",
            remedy="rebuild the body as a solid",
        )
    return mesh


def joined(meshes: list[Mesh]) -> TracedSolids:
    """Return the union of closed bodies as one closed solid, which knows what each triangle comes from.

    Raises:
        Refused: one of them is not a closed solid, or they do not touch.
    """
    solids = [solid_of(mesh) for mesh in meshes]
    whole = _union(solids)
    if len(whole.decompose()) >= len(meshes) > 1:
        raise Refused(
            "apart",
            "these bodies neither touch nor overlap, so they cannot become one solid",
            remedy="make them one kit instead",
        )
    return traced(whole, [solid for solid in solids if solid is not None], meshes)


def _union(solids: list[manifold3d.Manifold | None]) -> manifold3d.Manifold:
    if any(solid is None for solid in solids):
        raise Refused(
            "not-closed", "only closed bodies can be joined", remedy="mend what the findings say first"
        )
    return manifold3d.Manifold.batch_boolean(
        [solid for solid in solids if solid is not None], manifold3d.OpType.Add
    )


def as_one(meshes: list[Mesh]) -> Mesh:
    """Return several bodies as one, their surfaces as they are."""
    return merged(meshes)
