"""Bodies that were made anew, and those of CAD: surfaces against surfaces, with what was changed on
purpose named.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from aimtrue.core.job import Body
from aimtrue.core.proof import distance
from aimtrue.core.proof.chain import MM, Chain
from aimtrue.core.proof.parts import Part
from aimtrue.core.proof.surface import Numbers, Points, Surface, point_numbers
from aimtrue.core.proof.values import Check, within

_MENDED = {
    "weld": "welded",
    "remove-degenerate": "rid of empty and double triangles",
    "face-outward": "faced outward",
    "close-holes": "closed",
    "resolve-crossings": "rid of crossings",
    "rebuild": "rebuilt",
    "join": "joined",
}


class Shells:
    """What of a source hangs together, in numbers of its file; of CAD its solids.

    Args:
        surfaces: each of them.
    """

    def __init__(self, surfaces: list[Surface]) -> None:
        self._surfaces = surfaces
        self._lows = np.array([one.points.min(axis=0) for one in surfaces]).reshape(-1, 3)
        self._highs = np.array([one.points.max(axis=0) for one in surfaces]).reshape(-1, 3)

    @classmethod
    def of(cls, surface: Surface) -> Shells:
        """Divide a surface by what shares corners."""
        return cls(parted(surface))

    def near(self, body: Body, slack: float) -> Surface:
        """Return those within the bounds that the job has for a body, as one surface; all where none is.

        Args:
            body: with its bounds in numbers of the file.
            slack: how far outside they may reach, in numbers of the file.
        """
        room = slack + 1e-6 * max(h - low for low, h in zip(body.low, body.high, strict=True))
        good = (self._lows >= np.array(body.low) - room).all(axis=1)
        good &= (self._highs <= np.array(body.high) + room).all(axis=1)
        some = [self._surfaces[i] for i in np.flatnonzero(good)] or self._surfaces
        starts = np.cumsum([0, *(len(one.points) for one in some)])
        return Surface(
            np.concatenate([one.points for one in some]),
            np.concatenate([one.faces + start for one, start in zip(some, starts, strict=False)]),
        )


_MOSTLY = 0.5
"""Of a shell that belongs to a body more than this share is on or in it."""


def slack_of_cad(chain: Chain, body: Body, other: float) -> float:
    """How far two tessellations of a body may be apart, in mm: what either is from the true surface.

    Args:
        chain, body: of the body.
        other: how far the proof's own facets are seen to be from it, in mm of the kernel.
    """
    fineness, per = chain.source.fineness, MM[chain.source.declared] if chain.source.declared else 1.0
    chord = fineness.chord_mm / per if fineness else 0.0
    deviation = body.facets.deviation if body.facets else 0.0
    return 3 * max(chord, deviation, other / per) * chain.most


def slack_of(chain: Chain, body: Body, source: Surface) -> float:
    """How far a body made anew may be from its original, in mm: as far as its remedies told that they
    moved it.
    """
    moved = sum(one.moved for one in body.mended)
    if any(name in (body.remade or ()) for name in ("close-holes", "rebuild")):
        # A patch is new surface: it may be as far from the old as the widest hole is wide.
        moved += distance.widest_rim(source) / 2
    return moved * chain.most


def checks(part: Part) -> list[Check]:
    """Compare a body's surface with its original's, both ways."""
    name, limit = part.body.name, 2 * math.sqrt(3) * part.limit
    asked = part.original.moved(part.in_file(part.original.points))
    found = Surface(part.found.reshape(-1, 3), np.arange(len(part.found) * 3).reshape(-1, 3))
    reach = float(np.ptp(found.points, axis=0).max())
    limit += part.slack + 1e-7 * reach
    how = " and ".join(_MENDED.get(one, one) for one in part.body.remade or ()) or "its facets"
    there = distance.farthest(distance.places(found)[0], asked)
    rows = [
        within(
            "surface",
            f"surface of {name} from the original's ({how})",
            f"within {limit:.2g} mm",
            there,
            limit,
        )
    ]
    off = _left_out(part, asked, found, limit)
    rows.append(
        within("covered", f"original of {name} not in it ({how})", f"within {limit:.2g} mm", off, limit)
    )
    return rows


def _left_out(part: Part, asked: Surface, found: Surface, limit: float) -> float:
    """How far any of the original that belongs to a body is from it, and not within it either, in mm.

    A shell of the original belongs to the body when most of it is on it or within it.
    """
    points, owner = distance.places(asked)
    away = distance.away(points, found)
    if part.body.remade != ():  # as a file or the kernel has it, nothing was swallowed
        far = np.flatnonzero(away > limit)
        away[far[distance.inside(points[far], found)]] = 0.0
    shell = shells_of(part.original)[owner]
    many = int(shell.max()) + 1
    share = np.bincount(shell, away <= limit, many) / np.maximum(np.bincount(shell, minlength=many), 1)
    return float(away[share[shell] > _MOSTLY].max(initial=0.0))


def shells_of(surface: Surface) -> Numbers:
    """Return (m,): for every triangle the number of the piece that hangs together by shared corners."""
    faces = point_numbers(surface.points)[surface.faces]
    many = int(faces.max(initial=0)) + 1
    rows = np.concatenate([faces[:, 0], faces[:, 1]]), np.concatenate([faces[:, 1], faces[:, 2]])
    graph = coo_matrix((np.ones(len(rows[0]), np.int8), rows), shape=(many, many))
    _, label = connected_components(graph, directed=False)
    return np.asarray(np.unique(label[faces[:, 0]], return_inverse=True)[1], dtype=np.int64)


def parted(surface: Surface) -> list[Surface]:
    """Divide a surface by what shares corners."""
    shell = shells_of(surface)
    order = np.argsort(shell, kind="stable")
    return [_few(surface, some) for some in np.split(order, np.flatnonzero(np.diff(shell[order])) + 1)]


def _few(surface: Surface, faces: np.ndarray[tuple[int], np.dtype[np.int64]]) -> Surface:
    """Some triangles of a surface; where they are few, without going over all of its points."""
    used, index = np.unique(surface.faces[faces], return_inverse=True)
    return Surface(surface.points[used], index.reshape(-1, 3))


def worst_of(part: Part, triangles: np.ndarray[tuple[int], np.dtype[np.int64]]) -> float:
    """How far the corners of some released triangles are from where the original's surface should be, in
    mm.
    """
    if not len(part.original.faces):
        return float("inf")
    asked = part.original.moved(part.in_file(part.original.points))
    points: Points = part.found[triangles[:2000]].reshape(-1, 3)
    return distance.farthest(points, asked)
