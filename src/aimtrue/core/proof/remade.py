"""Bodies that were made anew, and those of CAD: surfaces against surfaces, with what was changed on
purpose named.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from aimtrue.core.job import Body, Source
from aimtrue.core.proof import distance
from aimtrue.core.proof.chain import MM, Chain
from aimtrue.core.proof.parts import Part
from aimtrue.core.proof.surface import Points, Surface, point_numbers
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


def merged(surfaces: list[Surface], source: Source) -> Surface:
    """Put the solids of a CAD source into one surface, in numbers of its file.

    The kernel hands over millimetres; a file that declares a unit has numbers in that.
    """
    per = MM[source.declared] if source.declared else 1.0
    starts = np.cumsum([0, *(len(one.points) for one in surfaces)])
    return Surface(
        np.concatenate([one.points for one in surfaces]) / per,
        np.concatenate([one.faces + start for one, start in zip(surfaces, starts, strict=False)]),
    )


def _scale(chain: Chain) -> float:
    """The greatest stretch of the chain, in mm per number of the file."""
    return float(np.linalg.norm(chain.grow[:, None] * chain.matrix, 2))


def slack_of_cad(chain: Chain, body: Body) -> float:
    """How far two tessellations of a body may be apart, in mm: what either is from the true surface."""
    fineness, per = chain.source.fineness, MM[chain.source.declared] if chain.source.declared else 1.0
    chord = fineness.chord_mm / per if fineness else 0.0
    deviation = body.facets.deviation if body.facets else 0.0
    return 3 * max(chord, deviation) * _scale(chain)


def slack_of(chain: Chain, body: Body, source: Surface) -> float:
    """How far a body made anew may be from its original, in mm: as far as its remedies told that they
    moved it.
    """
    moved = sum(one.moved for one in body.mended)
    if any(name in (body.remade or ()) for name in ("close-holes", "rebuild")):
        # A patch is new surface: it may be as far from the old as the widest hole is wide.
        moved += distance.widest_rim(source) / 2
    return moved * _scale(chain)


def checks(part: Part) -> list[Check]:
    """Compare a body's surface with its original's, both ways."""
    name, limit = part.body.name, 2 * math.sqrt(3) * part.limit
    asked = part.original.moved(part.in_file(part.original.points))
    found = Surface(part.found.reshape(-1, 3), np.arange(len(part.found) * 3).reshape(-1, 3))
    reach = float(np.ptp(found.points, axis=0).max())
    limit += part.slack + 1e-7 * reach
    how = " and ".join(_MENDED.get(one, one) for one in part.body.remade or ()) or "its facets"
    there = distance.farthest(distance.places(found), asked)
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
    low, high = found.points.min(axis=0) - limit, found.points.max(axis=0) + limit
    worst = 0.0
    for shell in _shells(part.original, asked):
        if (shell.points.min(axis=0) < low - limit).any() or (shell.points.max(axis=0) > high + limit).any():
            continue
        points = distance.places(shell)
        away = distance.away(points, found)
        away[distance.inside(points, found)] = 0.0
        if (away <= limit).mean() > 0.5:
            worst = max(worst, float(away.max()))
    return worst


def _shells(numbers: Surface, placed: Surface) -> list[Surface]:
    """Divide a surface by what hangs together in numbers of its file."""
    faces = point_numbers(numbers.points)[numbers.faces]
    many = int(faces.max()) + 1
    rows = np.concatenate([faces[:, 0], faces[:, 1]]), np.concatenate([faces[:, 1], faces[:, 2]])
    _, label = connected_components(
        coo_matrix((np.ones(len(rows[0])), rows), shape=(many, many)), directed=False
    )
    of_face = label[faces[:, 0]]
    order = np.argsort(of_face, kind="stable")
    cuts = np.flatnonzero(np.diff(of_face[order])) + 1
    return [placed.some(some) for some in np.split(order, cuts)]


def worst_of(part: Part, triangles: np.ndarray[tuple[int], np.dtype[np.int64]]) -> float:
    """How far the corners of some released triangles are from where the original's surface should be, in
    mm.
    """
    asked = part.original.moved(part.in_file(part.original.points))
    points: Points = part.found[triangles[:2000]].reshape(-1, 3)
    return distance.farthest(points, asked)
