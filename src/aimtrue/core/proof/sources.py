"""The originals of a release, each read a second time once, and what of them a released body is."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from threading import RLock

import numpy as np

from aimtrue.core.model.body import Body
from aimtrue.core.model.recipe import DivisionRecipe
from aimtrue.core.model.shaping import DowelMaking, PieceCut
from aimtrue.core.model.source import ReferencedFile, Source
from aimtrue.core.proof import kernel
from aimtrue.core.proof.bodies import division_checks, remade_bodies
from aimtrue.core.proof.bodies.matching import completed, match
from aimtrue.core.proof.bodies.point_transform import MM, PointTransform, chain_of, upright
from aimtrue.core.proof.bodies.proven_body import Claim, ProvenBody
from aimtrue.core.proof.originals import reading as originals
from aimtrue.core.proof.originals.proof_original import ProofOriginal
from aimtrue.core.proof.ownership import OwnedValues, home_of, shares_frame, source_of
from aimtrue.core.proof.regions.combined import region
from aimtrue.core.proof.regions.region import Region, SurfaceRegion
from aimtrue.core.proof.surface import (
    Numbers,
    Points,
    Surface,
    blocks,
    bounds,
    bounds_a_volume,
    crosses,
    edge_marks,
    joined,
    point_numbers,
)
from aimtrue.core.proof.values import Check, judged, same

_CAD = ("step", "iges", "brep")
Flags = np.ndarray[tuple[int], np.dtype[np.bool_]]
_NOTHING = Surface(np.empty((0, 3)), np.empty((0, 3), np.int64))


class ProofSources:
    """The originals, each read a second time once."""

    def __init__(self, job: OwnedValues, original: Callable[[Source | ReferencedFile], bytes]) -> None:
        self._job, self._bytes = job, original
        self._meshes: dict[str, ProofOriginal] = {}
        self._solids: dict[str, list[kernel.KernelSolid]] = {}
        self._shells: dict[str, remade_bodies.SourceShells] = {}
        self._wholes: dict[str, dict[str, tuple[Surface, float]]] = {}
        self._told: dict[str, list[Check]] = {}
        self._lock = RLock()

    def read(self, bodies: Iterable[Body]) -> None:
        """Read the originals of some bodies; each is read once, however many ask for it at the same time."""
        for source in {body.source for body in bodies}:
            original = source_of(self._job, source)
            _ = self._cad(original) if original.format in _CAD else self._mesh(original)

    def let_go(self, wanted: Iterable[Body]) -> None:
        """Let go of originals that none of the bodies still to be proven is of."""
        left = {body.source for body in wanted}
        with self._lock:
            for kept in (self._meshes, self._solids, self._shells, self._wholes, self._told):
                for key in kept.keys() - left:
                    del kept[key]

    def part(self, body: Body, found: Surface, claim: Claim, spacing: float) -> ProvenBody:
        """Hold a released body against the triangles, or the solids, of its source.

        One that is mirrored is turned inside out, so that it faces outward again; it is held with its
        triangles the way round that the original has them.
        """
        chain = chain_of(self._job, body, claim.seat)
        mirrored = claim.seat is not None and claim.seat.mirrored
        corners = found.corners[:, ::-1] if mirrored else found.corners
        limit = _limit(chain, body, claim, spacing)
        if body.division is not None:
            return self._shaped(ProvenBody(body, chain, claim, _NOTHING, corners, limit))
        if chain.source.format in _CAD:
            shells = self._shells_of(chain.source)
            slack = remade_bodies.slack_of_cad(
                chain, body, max(kernel_solid.deviation for kernel_solid in self._cad(chain.source))
            )
            return ProvenBody(
                body, chain, claim, shells.near(body, slack / chain.most), corners, limit, slack=slack
            )
        mesh = self._mesh(chain.source)
        if not body.remade:
            part = _matched(ProvenBody(body, chain, claim, _NOTHING, corners, limit), mesh)
            # Of a body kept before it was noted whether it was made anew, the match tells.
            if body.remade is not None or not part.strange:
                return part
        slack, patch = remade_bodies.slack_of(chain, body, mesh.surface)
        near = self._shells_of(chain.source).near(body, (slack + patch) / chain.most)
        return ProvenBody(body, chain, claim, near, corners, limit, slack=slack, patch=patch)

    def _shaped(self, part: ProvenBody) -> ProvenBody:
        """A body made of others, with the region that it is to fill."""
        recipe = part.body.recipe
        gaping = (
            isinstance(recipe, DivisionRecipe)
            and isinstance(recipe.shaping, PieceCut)
            and recipe.shaping.open
        )
        within = division_checks.places_within(division_checks.found_in_mm(part), gaping=gaping)
        expected, whole, slack = self._region(part.body, within)
        return replace(part, expected=expected, original=whole, slack=slack)

    def _region(self, body: Body, within: Points) -> tuple[Region, Surface, float]:
        """What a body is to fill, the surface of what it is made of at last, and how far that may be off.

        All in mm of the corrected body: allowances for shrinkage, and seats, come after.
        """
        if body.division is None:
            surface, slack = self._whole(body)
            return SurfaceRegion(surface, slack), surface, slack
        division = next(division for division in self._job.divisions if division.id == body.division)
        recipe = body.recipe
        assert isinstance(recipe, DivisionRecipe)
        shaping = recipe.shaping
        if isinstance(shaping, DowelMaking):
            return region(shaping, 0, [], within, (0.0, 0.0, 0.0), None, _NOTHING), _NOTHING, 0.0
        wholes = [self._region(self._body(key), within) for key in division.wholes]
        surface = joined([surface for _, surface, _ in wholes])
        x, y, z = surface.points.max(axis=0).tolist()
        regions = [region_ for region_, _, _ in wholes]
        places = division.places
        alone = recipe.number >= len(places) or places.count(places[recipe.number]) == 1
        made_region = region(
            shaping, recipe.number, regions, within, (x, y, z), division.wall_mm, surface, alone
        )
        return made_region, surface, max(slack for _, _, slack in wholes)

    def _body(self, key: str) -> Body:
        return next(body for body in self._job.bodies if body.id == key)

    def _whole(self, body: Body) -> tuple[Surface, float]:
        """The surface of a body that was read from a file, and how far it may be off, in mm; for all its
        pieces the same, so that what is near to it is found by one tree.
        """
        with self._lock:
            known = self._wholes.setdefault(body.source, {})
            if body.id not in known:
                known[body.id] = self._found_whole(body)
            return known[body.id]

    def _found_whole(self, body: Body) -> tuple[Surface, float]:
        chain = chain_of(self._job, body, None)
        slack = 0.0
        if chain.source.format in _CAD:
            slack = remade_bodies.slack_of_cad(
                chain, body, max(kernel_solid.deviation for kernel_solid in self._cad(chain.source))
            )
        elif body.remade:
            slack = sum(remade_bodies.slack_of(chain, body, self._mesh(chain.source).surface))
        near = self._own_of(body, chain, slack)
        return near.moved(chain.points(near.points) / chain.grow), slack

    def _own_of(self, body: Body, chain: PointTransform, slack: float) -> Surface:
        """The triangles of a source that are a body's: where the file sets it apart, what it sets apart."""
        low, high = np.array(body.low), np.array(body.high)
        grain = 1e-12 * max(float(abs(low).max()), float(abs(high).max()))
        if chain.source.format not in _CAD and not body.remade:
            mesh = self._mesh(chain.source)
            numbers = mesh.surface.within(low - grain, high + grain)
            own = mesh.piece[mesh.polygon[numbers]] if mesh.piece.any() else np.empty(0)
            for piece in mesh.pieces_within(low, high, grain) if mesh.piece.any() else ():
                mine = mesh.surface.some(numbers[own == piece])
                if bounds_a_volume(mine.corners):
                    return mine
            near = self._shells_of(chain.source).near(body, 0.0)
            if bounds_a_volume(near.corners) and np.allclose(bounds(near.corners), [low, high], rtol=1e-9):
                return near
            return mesh.surface.some(numbers)
        return self._shells_of(chain.source).near(body, slack / chain.most)

    def _shells_of(self, source: Source) -> remade_bodies.SourceShells:
        with self._lock:
            return self._found_shells(source)

    def _found_shells(self, source: Source) -> remade_bodies.SourceShells:
        if source.id not in self._shells:
            if source.format in _CAD:
                per = MM[source.declared] if source.declared else 1.0
                self._shells[source.id] = remade_bodies.SourceShells(
                    [
                        kernel_solid.surface.moved(kernel_solid.surface.points / per)
                        for kernel_solid in self._cad(source)
                    ]
                )
            else:
                self._shells[source.id] = remade_bodies.SourceShells.of(self._mesh(source).surface)
        return self._shells[source.id]

    def _mesh(self, source: Source) -> ProofOriginal:
        with self._lock:
            if source.id not in self._meshes:
                self._meshes[source.id] = originals.read(source.format, self._bytes(source))
            return self._meshes[source.id]

    def _cad(self, source: Source) -> list[kernel.KernelSolid]:
        with self._lock:
            if source.id not in self._solids:
                assert source.fineness is not None
                beside = {file.name: self._bytes(file) for file in source.beside}
                data = self._bytes(source)
                self._solids[source.id] = kernel.read(source.format, data, source.fineness, beside)
            return self._solids[source.id]

    def checks(self, key: str) -> list[Check]:
        """What concerns a source as a whole: its declared unit, and that every triangle is accounted for."""
        if key not in self._told:
            self._told[key] = self._whole_checks(source_of(self._job, key))
        return self._told[key]

    def _whole_checks(self, source: Source) -> list[Check]:
        if source.format in _CAD:
            return []
        mesh, checks = self._mesh(source), []
        if source.format == "3mf" and source.how == "declared":
            unit = source.unit.value if source.unit else ""
            checks.append(
                same(
                    "declared",
                    f"unit that {source.name} declares",
                    unit,
                    mesh.unit.value if mesh.unit else "",
                )
            )
        if source.triangles is not None:
            says = f"triangles of {source.name}, in bodies or set aside"
            checks.append(same("accounted", says, source.triangles + source.set_aside, mesh.count))
        checks += self._home_checks(source, mesh)
        if source.set_aside:
            most = mesh.idle()
            checks.append(
                judged(
                    "set-aside",
                    f"triangles of {source.name} set aside since they bound nothing or are there twice",
                    f"at most {most:,}",
                    f"{source.set_aside:,}",
                    float(max(0, source.set_aside - most)),
                    0.0,
                )
            )
        return checks

    def _home_checks(self, source: Source, mesh: ProofOriginal) -> list[Check]:
        """A file that was brought home stands on zero, in the middle of it; while all of it is as it came."""
        bodies = [
            body
            for body in self._job.bodies
            if body.source == source.id and body.division is None and not body.copied
        ]
        whole = sum(body.triangles for body in bodies) == source.triangles
        alone = not shares_frame(self._job, source)
        home = np.array(home_of(self._job, bodies[0])) if bodies else np.zeros(3)
        if not home.any() or source.replaced or not whole or not alone or any(body.remade for body in bodies):
            return []
        ends = np.array([[body.low for body in bodies], [body.high for body in bodies]])
        low, high = ends[0].min(axis=0) + home, ends[1].max(axis=0) + home
        turned = np.array([low, high]) @ upright(source.up).T
        bottom, top = turned.min(axis=0), turned.max(axis=0)
        off = float(max(abs(bottom[0] + top[0]) / 2, abs(bottom[1] + top[1]) / 2, abs(bottom[2])))
        limit = 1e-9 * float(abs(np.array([bodies[0].low, bodies[0].high])).max() + abs(home).max())
        return [
            judged("home", f"{source.name} was brought home to the origin", "0", f"{off:.3g}", off, limit)
        ]

    def volume_checks(self, parts: list[ProvenBody], volumes: list[float]) -> list[Check]:
        """Exact volumes of released solids against the kernel's exact ones of the originals, grown as
        asked.
        """
        checks = []
        for part, have in zip(parts, volumes, strict=True):
            per = MM[part.chain.source.declared] if part.chain.source.declared else 1.0
            box = np.array([part.body.low, part.body.high]) * per
            near = [
                kernel_solid
                for kernel_solid in self._cad(part.chain.source)
                if kernel_solid.volume is not None
            ]
            best = min(
                near,
                key=lambda candidate: float(abs(bounds(candidate.surface.points) - box).max()),
                default=None,
            )
            want = (
                (best.volume or 0.0 if best else 0.0) * abs(float(np.linalg.det(part.chain.matrix))) / per**3
            )
            says = f"exact volume of {part.body.name}"
            told = f"{want:.4f} mm³", f"{have:.4f} mm³"
            checks.append(judged("volume", says, *told, abs(want - have), 1e-6 * abs(want)))
        return checks

    def says(self, bodies: Iterable[Body]) -> str:
        """Say how the originals of some bodies were read."""
        formats = {source_of(self._job, body.source).format for body in bodies}
        reasons = []
        if formats - {*_CAD}:
            reasons.append("every vertex of the original by a second reader")
        if formats & {*_CAD}:
            reasons.append(
                "CAD by the kernel's plain reader at another tessellation: proves place, size and volume to "
                "within the facets, not the kernel itself"
            )
        return "; ".join(reasons)


def _matched(part: ProvenBody, mesh: ProofOriginal) -> ProvenBody:
    """Find the released triangles among those of the source that are within the bounds the job has for the
    body.
    """
    body = part.body
    low, high = np.array(body.low), np.array(body.high)
    grain = 1e-12 * max(float(abs(low).max()), float(abs(high).max()))
    numbers = mesh.surface.within(low - grain, high + grain)
    if mesh.piece.any():
        # Where the file sets a piece apart that is just so large, the body is that one, whatever lies on it.
        own = mesh.piece[mesh.polygon[numbers]]
        for piece in mesh.pieces_within(low, high, grain):
            part_of_it = _held(part, mesh, numbers[own == piece])
            if not part_of_it.strange and not torn(part_of_it):
                return part_of_it
    return _held(part, mesh, numbers)


def _held(part: ProvenBody, mesh: ProofOriginal, numbers: Numbers) -> ProvenBody:
    """Match a released body with some triangles of its source."""
    whole = len(numbers) == len(mesh.surface.faces)
    local = mesh.surface if whole else mesh.surface.some(numbers)
    asked = part.in_file(local.points)
    matched = match(asked[local.faces], part.found, part.limit)
    polygon = mesh.polygon[numbers]
    if len(matched.strangers) and not mesh.plain:
        local, polygon, matched = completed(mesh, local, polygon, asked, part.found, matched, part.limit)
    return replace(part, original=local, matched=matched, polygon=polygon, mesh=mesh)


def torn(part: ProvenBody) -> int:
    """Count edges between a polygon that the body has and one that was left out, and polygons it has in
    part.
    """
    assert part.matched is not None
    assert part.mesh is not None
    mesh, mine = part.mesh, part.matched.source
    if mesh.plain and not mesh.piece.any() and _pairs_up(part):
        return 0
    got = np.bincount(part.polygon[mine], minlength=len(mesh.corners))
    taken = got > 0
    # A second copy of a triangle that the body has was set aside: nothing was torn where it lies.
    there = taken | _copies_of_taken(part, taken)
    torn = int((there[mesh.neighbours[:, 0]] != there[mesh.neighbours[:, 1]]).sum())
    if mesh.plain:
        return torn
    corners = part.original.points[part.original.faces[mine]]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    sums = np.stack(
        [np.bincount(part.polygon[mine], sides[:, k], len(mesh.corners)) for k in range(3)], axis=1
    )
    off = abs(sums - mesh.vector_areas).max(axis=1) > 1e-6 * (1e-300 + abs(mesh.vector_areas).max(axis=1))
    against = np.bincount(
        part.polygon[mine],
        np.einsum("ij,ij->i", sides, mesh.vector_areas[part.polygon[mine]]) < 0,
        len(mesh.corners),
    )
    wrong = [
        polygon for polygon in np.flatnonzero(taken & (against > 0)).tolist() if mesh.has_a_right_cut(polygon)
    ]
    return torn + len(wrong) + int((taken & off & (mesh.corners > 3) & mesh.simple).sum())


def _copies_of_taken(part: ProvenBody, taken: Flags) -> Flags:
    """Which polygons have the three corners of one that the body has."""
    copies = np.zeros(len(taken), dtype=bool)
    corners = np.sort(point_numbers(part.original.points)[part.original.faces], axis=1)
    _, place = np.unique(corners, axis=0, return_inverse=True)
    had = np.zeros(int(place.max(initial=0)) + 1, dtype=bool)
    had[place.ravel()[taken[part.polygon]]] = True
    copies[part.polygon[had[place.ravel()]]] = True
    return copies


def _pairs_up(part: ProvenBody) -> bool:
    """Whether every edge of the triangles that a body has is used by an even number of those with area.

    Then none is shared by one of them and one that was left out, and no more: which is what is torn.
    """
    left = np.uint64(0)
    for faces in blocks(part.mine()):
        corners = part.original.points[faces]
        marks, _ = edge_marks(corners[np.any(crosses(corners), axis=0)])
        left ^= np.bitwise_xor.reduce(marks, axis=None)
    return not left


def _limit(chain: PointTransform, body: Body, claim: Claim, spacing: float) -> float:
    """How far a coordinate may be off, in mm: half a spacing of float32, and what float64 loses on the
    way.
    """
    reach = max(abs(value) for value in (*body.low, *body.high)) + max(abs(value) for value in chain.home)
    way = float(abs(chain.matrix).max()) * float(chain.grow.max()) * reach + float(abs(claim.place).max())
    return float(0.5 * spacing + 2**-44 * way)
