"""Bodies that were made anew, and those of CAD: surfaces against surfaces, with what was changed on
purpose named.
"""

from __future__ import annotations

import math

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from aimtrue.core.model.body import Body
from aimtrue.core.proof import distance
from aimtrue.core.proof.bodies.point_transform import MM, PointTransform
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.surface import Numbers, Points, Surface, point_numbers, volume
from aimtrue.core.proof.values import Check, judged, within

Flags = np.ndarray[tuple[int], np.dtype[np.bool_]]
_MENDED = {
    "weld": "welded",
    "remove-degenerate": "rid of empty and double triangles",
    "face-outward": "faced outward",
    "close-holes": "closed",
    "resolve-crossings": "rid of crossings",
    "rebuild": "rebuilt",
    "join": "joined",
}


class SourceShells:
    """What of a source hangs together, in numbers of its file; of CAD its solids.

    Args:
        surfaces: each of them.
    """

    def __init__(self, surfaces: list[Surface]) -> None:
        self._surfaces = surfaces
        self._lows = np.array([surface.points.min(axis=0) for surface in surfaces]).reshape(-1, 3)
        self._highs = np.array([surface.points.max(axis=0) for surface in surfaces]).reshape(-1, 3)

    @classmethod
    def of(cls, surface: Surface) -> SourceShells:
        """Divide a surface by what shares corners."""
        return cls(parted(surface))

    def near(self, body: Body, slack: float) -> Surface:
        """Return those within the bounds that the job has for a body, as one surface; all where none is.

        Args:
            body: with its bounds in numbers of the file.
            slack: how far outside they may reach, in numbers of the file.
        """
        spans = [(body.low, body.high), *body.made_of]
        low, high = np.min([one for one, _ in spans], axis=0), np.max([one for _, one in spans], axis=0)
        room = slack + 1e-6 * float((high - low).max())
        good = (self._lows >= low - room).all(axis=1) & (self._highs <= high + room).all(axis=1)
        same = good & (self._lows <= low + room).all(axis=1) & (self._highs >= high - room).all(axis=1)
        # A body that nothing was done to is one of these as it is: the one that is just as large, if there
        # is one.
        good = self._with_voids(same, good) if not body.remade and same.any() else good
        some = [self._surfaces[i] for i in np.flatnonzero(good)] or self._surfaces
        starts = np.cumsum([0, *(len(surface.points) for surface in some)])
        return Surface(
            np.concatenate([surface.points for surface in some]),
            np.concatenate([surface.faces + start for surface, start in zip(some, starts, strict=False)]),
        )

    def _with_voids(self, outer: Flags, within: Flags) -> Flags:
        """Add to some shells the voids in them: those that face inward and lie in no smaller solid
        besides.
        """
        chosen = outer.copy()
        for number in np.flatnonzero(within & ~outer):
            void = self._surfaces[number]
            if volume(void.corners) >= 0:
                continue
            around = [
                (float(np.prod(self._highs[i] - self._lows[i])), i)
                for i in np.flatnonzero(within)
                if i != number
                and (self._lows[i] <= self._lows[number]).all()
                and (self._highs[i] >= self._highs[number]).all()
                and volume(self._surfaces[i].corners) > 0
                and distance.inside(void.points[void.faces[:1, 0]], self._surfaces[i]).all()
            ]
            chosen[number] = bool(around) and bool(outer[min(around)[1]])
        return chosen


_LOOSE = 5.0
"""Facets may deviate by this many times what is seen, for they are looked at in places only."""
_SWALLOWS = {"join", "resolve-crossings", "rebuild"}
_MOSTLY = 0.95
"""A shell belongs to a body when more than this share of it is on or in the body."""


def slack_of_cad(chain: PointTransform, body: Body, other: float) -> float:
    """How far two tessellations of a body may be apart, in mm: what either is from the true surface.

    Args:
        chain, body: of the body.
        other: how far the proof's own facets are seen to be from it, in mm of the kernel.
    """
    fineness, per = chain.source.fineness, MM[chain.source.declared] if chain.source.declared else 1.0
    chord = fineness.chord_mm / per if fineness else 0.0
    deviation = body.facets.deviation if body.facets else 0.0
    return _LOOSE * max(chord, deviation, other / per) * chain.most


def slack_of(chain: PointTransform, body: Body, source: Surface) -> tuple[float, float]:
    """How far a body made anew may be from its original, and new surface besides, in mm.

    The first is how far its remedies told that they moved it. A patch over a hole is new: what of the
    source is looked at reaches as far beyond the body as half of the widest hole.
    """
    moved = sum(step.moved for step in body.mended)
    done = {*(body.remade or ()), *(step.remedy for step in body.mended)}
    closed = "close-holes" in done
    patch = max((rim.width for rim in distance.rims(source)), default=0.0) / 2 if closed else 0.0
    return moved * chain.most, patch * chain.most


def checks(part: ProvenBody) -> list[Check]:
    """Compare a body's surface with its original's, both ways."""
    name, limit = part.body.name, 2 * math.sqrt(3) * part.limit
    asked = part.original.moved(part.in_file(part.original.points))
    surface = Surface(part.found.reshape(-1, 3), np.arange(len(part.found) * 3).reshape(-1, 3))
    reach = float(np.ptp(surface.points, axis=0).max())
    limit += part.slack + 1e-7 * reach
    how = " and ".join(_MENDED.get(remedy, remedy) for remedy in part.body.remade or ()) or "its facets"
    there = _off_surface(part, surface.places[0], asked, limit)
    says = f"surface of {name} from the original's ({how})"
    rows = [within("surface", says, f"within {limit:.2g} mm", there, limit)]
    rows += _loose_checks(part, limit, reach)
    off = _left_out(part, asked, surface, limit)
    says = f"original of {name} not in it ({how})"
    rows.append(within("covered", says, f"within {limit:.2g} mm", off, limit))
    return rows


_BULGE = 0.25
"""What closes a hole whose rim is not flat may leave the rim's plane by this share of the hole's width."""
LOOSEST = 0.05
"""Of a body's size: a surface that is only known to be this near to its original's has no size worth
proving.
"""
LOOSEST_FACETS = 0.15
"""The same of two tessellations of CAD, which are held against each other with room for both."""
_ACCEPTED = "moved-far"


def _off_surface(part: ProvenBody, places: Points, asked: Surface, limit: float) -> float:
    """How far places of a released surface are from the original's, in mm, new surface over its holes left
    out.
    """
    if not part.patch:
        return distance.farthest(places, asked)
    away = distance.away(places, asked)
    far = np.flatnonzero(away > limit)
    for rim in distance.rims(asked):
        away[far] = np.minimum(away[far], rim.beyond(places[far], _BULGE))
    return float(away.max(initial=0.0))


def _loose_checks(part: ProvenBody, limit: float, reach: float) -> list[Check]:
    """A surface that may be a large share of the body's size away from its original's is none that is
    proven.
    """
    most = LOOSEST if part.body.facets is None else LOOSEST_FACETS
    if limit <= most * reach or _ACCEPTED in part.body.accepted:
        return []
    says = f"share of its size by which {part.body.name} may differ from its original"
    share = f"{100 * most:.0f} % at most", f"{100 * limit / reach:.3g} %"
    return [judged("loose", says, *share, limit / reach, most)]


def _left_out(part: ProvenBody, asked: Surface, found: Surface, limit: float) -> float:
    """How far any of the original that belongs to a body is from it, and not within it either, in mm.

    A shell of the original belongs to the body when nearly all of it is on it, or when it is just as large
    and where a body was that this one is made of. One at least must.
    """
    points, owner = asked.places
    away = distance.away(points, found)
    # What is joined lies within the whole in parts; other remedies, and the kernel, swallow nothing.
    if part.body.remade is None or _SWALLOWS & set(part.body.remade):
        far = np.flatnonzero(away > limit)
        away[far[distance.inside(points[far], found)]] = 0.0
    shell_of_face = shells_of(part.original)
    shell = shell_of_face[owner]
    many = int(shell_of_face.max()) + 1
    share = np.bincount(shell, away <= limit, many) / np.maximum(np.bincount(shell, minlength=many), 1)
    owned = share > _MOSTLY
    owned |= _made_of(part, shell_of_face, many)
    return float(away[owned[shell]].max() if owned.any() else away.max(initial=np.inf))


def _made_of(part: ProvenBody, shell: Numbers, many: int) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which shells of the original are just as large and just where a body was that this one is made of."""
    own = np.zeros(many, dtype=bool)
    points = part.original.points[part.original.faces]
    for number in range(many) if part.body.made_of else ():
        mine = points[shell == number].reshape(-1, 3)
        ends = np.array([mine.min(axis=0), mine.max(axis=0)])
        grain = 1e-9 * float(abs(ends).max())
        own[number] = any(abs(ends - np.array(span)).max() <= grain for span in part.body.made_of)
    return own


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


def worst_of(part: ProvenBody, triangles: np.ndarray[tuple[int], np.dtype[np.int64]]) -> float:
    """How far the corners of some released triangles are from where the original's surface should be, in
    mm.
    """
    if not len(part.original.faces):
        return float("inf")
    asked = part.original.moved(part.in_file(part.original.points))
    points: Points = part.found[triangles[:2000]].reshape(-1, 3)
    return distance.farthest(points, asked)
