"""Hold released bytes against the original's bytes and the decisions of the job."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.job import AXES, Beside, Body, Job, Reading, Source
from aimtrue.core.lengths import Unit
from aimtrue.core.proof import kernel, originals, remade
from aimtrue.core.proof.chain import MM, Chain, chain_of, upright
from aimtrue.core.proof.matching import completed, match
from aimtrue.core.proof.parts import Claim, Part
from aimtrue.core.proof.readings import check as reading_check
from aimtrue.core.proof.readings import lengths, plain_factor, plain_length, plain_offset
from aimtrue.core.proof.released import read_back, reader_of
from aimtrue.core.proof.surface import Numbers, Points, Surface, area, bounds, bounds_a_volume, volume
from aimtrue.core.proof.values import Check, Proof, counted, length, same, within

COARSEST = 1e-3
"""Float32 spacing over the longest size from which a file is too coarse to carry a size."""
GAP_MM = 5.0
"""Between kits that stand side by side on a plate."""
_CAD = ("step", "iges", "brep")
_NOTHING = Surface(np.empty((0, 3)), np.empty((0, 3), np.int64))


class ProofBroken(AimTrueError):
    """Released bytes are not what was asked for; nothing of them is handed over."""

    def __init__(self, proof: Proof, name: str = "") -> None:
        broken = [check for check in proof.checks if not check.holds]
        told = "; ".join(f"{check.says}: asked {check.asked}, found {check.found}" for check in broken[:4])
        more = f"; and {counted(len(broken) - 4, 'more')}" if len(broken) > 4 else ""
        super().__init__(
            "proof-broken",
            f"what was written is not what was asked for: {told}{more}",
            where=name,
            remedy="nothing was handed over; choose another format, or report this with the file",
        )
        self.proof = proof

    def __reduce__(self) -> tuple[object, ...]:
        return ProofBroken, (self.proof, self.where)


@dataclass(frozen=True)
class Order:
    """What was written: the format, its unit, and whether bodies stand on the plate or where the file has
    them.
    """

    kind: str
    unit: Unit
    place: Literal["seated", "own"]


def prove(
    job: Job,
    bodies: tuple[Body, ...],
    order: Order,
    data: bytes,
    original: Callable[[Source | Beside], bytes],
    claims: dict[str, Claim],
) -> Proof:
    """Read released bytes back and compare them with what the decisions make of the originals.

    Args:
        job: with all decisions.
        bodies: those in the file, in the order written.
        order: how they were written.
        data: the released bytes.
        original: gives the bytes of a source, or of a file beside it.
        claims: per body what the sheets say of it, see :class:`Claim`.

    Raises:
        AimTrueError: the file or an original cannot be read by the second reader.
    """
    declared, objects = read_back(order.kind, data)
    checks: list[Check] = []
    if order.kind == "3mf":
        have = declared.value if declared else "none"
        checks.append(same("unit", "unit declared", order.unit.value, have))
        checks.append(same("objects", "objects", len(bodies), len(objects)))
    found = _by_body(order, bodies, objects)
    if found is None:
        total = sum(len(surface.faces) for surface in objects)
        wanted = sum(body.triangles for body in bodies)
        checks.append(same("triangles", "triangles", wanted, total))
        return _proof(order, checks, "", objects)
    found = [surface.moved(surface.points * MM[order.unit]) for surface in found]
    sources = _Sources(job, original)
    parts = [
        sources.part(body, order, surface, claims[body.id], _spacing(surface.points, order.unit))
        for body, surface in zip(bodies, found, strict=True)
    ]
    for source in dict.fromkeys(part.chain.source.id for part in parts):
        checks += sources.checks(source)
    longest = max(float(np.ptp(part.found.reshape(-1, 3), axis=0).max()) for part in parts)
    for part in parts:
        checks += _part_checks(part, longest)
    checks += _typed_checks(parts)
    checks += _reading_checks(job, parts)
    if order.place == "seated":
        checks += _plate_checks(job, parts)
    return _proof(order, checks, sources.says(), objects)


def _proof(order: Order, checks: list[Check], says: str, objects: list[Surface]) -> Proof:
    corners = np.concatenate([surface.corners.reshape(-1, 3) for surface in objects])
    x, y, z = (np.ptp(corners, axis=0) * MM[order.unit]).tolist()
    lengths_off = [one.off for one in checks if one.code in ("vertices", "extent", "size", "reading", "bore")]
    return Proof(
        holds=all(check.holds for check in checks),
        worst_mm=max(lengths_off, default=0.0),
        reader=reader_of(order.kind),
        checks=tuple(checks),
        original=says,
        size_mm=(x, y, z),
        triangles=len(corners) // 3,
    )


def _by_body(order: Order, bodies: tuple[Body, ...], objects: list[Surface]) -> list[Surface] | None:
    """Divide what was read back among the bodies; None when the counts do not allow it."""
    if order.kind == "3mf":
        return objects if len(objects) == len(bodies) else None
    (whole,) = objects
    if len(whole.faces) != sum(body.triangles for body in bodies):
        return None
    ends = np.cumsum([body.triangles for body in bodies])
    return [
        Surface(whole.points, whole.faces[end - body.triangles : end])
        for end, body in zip(ends, bodies, strict=True)
    ]


def _spacing(points: Points, unit: Unit) -> float:
    """Return the float32 spacing, in mm, at the greatest coordinate when it is written in ``unit``."""
    reach = float(abs(points).max()) / MM[unit]
    # The spacing doubles at powers of two; rounding may carry a coordinate just past one.
    return float(np.spacing(np.float32(reach * (1 + 2**-20)))) * MM[unit]


class _Sources:
    """The originals, each read a second time once."""

    def __init__(self, job: Job, original: Callable[[Source | Beside], bytes]) -> None:
        self._job, self._bytes = job, original
        self._meshes: dict[str, originals.Original] = {}
        self._solids: dict[str, list[kernel.Solid]] = {}
        self._shells: dict[str, remade.Shells] = {}

    def part(self, body: Body, order: Order, found: Surface, claim: Claim, spacing: float) -> Part:
        """Hold a released body against the triangles, or the solids, of its source."""
        chain = chain_of(self._job, body, seated=order.place == "seated")
        corners = found.corners
        limit = _limit(chain, body, claim, spacing)
        if chain.source.format in _CAD:
            shells = self._shells_of(chain.source)
            slack = remade.slack_of_cad(chain, body, max(one.deviation for one in self._cad(chain.source)))
            return Part(
                body, chain, claim, shells.near(body, slack / chain.most), corners, limit, slack=slack
            )
        mesh = self._mesh(chain.source)
        if not body.remade:
            part = _matched(Part(body, chain, claim, _NOTHING, corners, limit), mesh)
            # Of a body kept before it was noted whether it was made anew, the match tells.
            if body.remade is not None or not part.strange:
                return part
        slack, patch = remade.slack_of(chain, body, mesh.surface)
        near = self._shells_of(chain.source).near(body, (slack + patch) / chain.most)
        return Part(body, chain, claim, near, corners, limit, slack=slack, patch=patch)

    def _shells_of(self, source: Source) -> remade.Shells:
        if source.id not in self._shells:
            if source.format in _CAD:
                per = MM[source.declared] if source.declared else 1.0
                self._shells[source.id] = remade.Shells(
                    [one.surface.moved(one.surface.points / per) for one in self._cad(source)]
                )
            else:
                self._shells[source.id] = remade.Shells.of(self._mesh(source).surface)
        return self._shells[source.id]

    def _mesh(self, source: Source) -> originals.Original:
        if source.id not in self._meshes:
            self._meshes[source.id] = originals.read(source.format, self._bytes(source))
        return self._meshes[source.id]

    def _cad(self, source: Source) -> list[kernel.Solid]:
        if source.id not in self._solids:
            assert source.fineness is not None
            beside = {one.name: self._bytes(one) for one in source.beside}
            data = self._bytes(source)
            self._solids[source.id] = kernel.read(source.format, data, source.fineness, beside)
        return self._solids[source.id]

    def checks(self, key: str) -> list[Check]:
        """What concerns a source as a whole: its declared unit, and that every triangle is accounted for."""
        source = self._job.source(key)
        if source.format in _CAD:
            return []
        mesh, found = self._mesh(source), []
        if source.format == "3mf" and source.how == "declared":
            unit = source.unit.value if source.unit else ""
            found.append(
                same(
                    "declared",
                    f"unit that {source.name} declares",
                    unit,
                    mesh.unit.value if mesh.unit else "",
                )
            )
        if source.triangles is not None:
            says = f"triangles of {source.name}, in bodies or set aside"
            found.append(same("accounted", says, source.triangles + source.set_aside, mesh.count))
        found += self._home_checks(source, mesh)
        if source.set_aside:
            most = mesh.idle()
            found.append(
                Check(
                    code="set-aside",
                    says=f"triangles of {source.name} set aside since they bound nothing or are there twice",
                    asked=f"at most {most:,}",
                    found=f"{source.set_aside:,}",
                    off=float(max(0, source.set_aside - most)),
                    limit=0.0,
                    holds=source.set_aside <= most,
                )
            )
        return found

    def _home_checks(self, source: Source, mesh: originals.Original) -> list[Check]:
        """A file that was brought home stands on zero, in the middle of it; while all of it is as it came."""
        bodies = [body for body in self._job.bodies_of(source.id) if not body.copied]
        whole = sum(body.triangles for body in bodies) == source.triangles
        alone = len(self._job.framed_with(source.id)) == 1
        if (
            not any(source.home)
            or source.replaced
            or not whole
            or not alone
            or any(one.remade for one in bodies)
        ):
            return []
        ends = np.array([[one.low for one in bodies], [one.high for one in bodies]])
        low, high = ends[0].min(axis=0) + source.home, ends[1].max(axis=0) + source.home
        turned = np.array([low, high]) @ upright(source.up).T
        bottom, top = turned.min(axis=0), turned.max(axis=0)
        off = float(max(abs(bottom[0] + top[0]) / 2, abs(bottom[1] + top[1]) / 2, abs(bottom[2])))
        limit = 1e-9 * float(
            abs(np.array([bodies[0].low, bodies[0].high])).max() + abs(np.array(source.home)).max()
        )
        return [
            Check(
                code="home",
                says=f"{source.name} was brought home to the origin",
                asked="0",
                found=f"{off:.3g}",
                off=off,
                limit=limit,
                holds=off <= limit,
            )
        ]

    def says(self) -> str:
        """Say how the originals were read."""
        told = []
        if self._meshes:
            told.append("every vertex of the original by a second reader")
        if self._solids:
            told.append(
                "CAD by the kernel's plain reader at another tessellation: proves place, size and volume to "
                "within the facets, not the kernel itself"
            )
        return "; ".join(told)


def _matched(part: Part, mesh: originals.Original) -> Part:
    """Find the released triangles among those of the source that are within the bounds the job has for the
    body.
    """
    body, points = part.body, mesh.surface.points
    low, high = np.array(body.low), np.array(body.high)
    grain = 1e-12 * max(float(abs(low).max()), float(abs(high).max()))
    good = np.all((points >= low - grain) & (points <= high + grain), axis=1)
    numbers = np.flatnonzero(np.asarray(good)[mesh.surface.faces].all(axis=1))
    if mesh.piece.any():
        # Where the file sets a piece apart that is just so large, the body is that one, whatever lies on it.
        own = mesh.piece[mesh.polygon[numbers]]
        for one in mesh.pieces_within(low, high, grain):
            part_of_it = _held(part, mesh, numbers[own == one])
            if not part_of_it.strange and not _torn(part_of_it):
                return part_of_it
    return _held(part, mesh, numbers)


def _held(part: Part, mesh: originals.Original, numbers: Numbers) -> Part:
    """Match a released body with some triangles of its source."""
    whole = len(numbers) == len(mesh.surface.faces)
    local = mesh.surface if whole else mesh.surface.some(numbers)
    asked = part.in_file(local.points)
    found = match(asked[local.faces], part.found, part.limit)
    polygon = mesh.polygon[numbers]
    if len(found.strangers) and not mesh.plain:
        local, polygon, found = completed(mesh, local, polygon, asked, part.found, found, part.limit)
    return replace(part, original=local, matched=found, polygon=polygon, mesh=mesh)


def _limit(chain: Chain, body: Body, claim: Claim, spacing: float) -> float:
    """How far a coordinate may be off, in mm: half a spacing of float32, and what float64 loses on the
    way.
    """
    reach = max(abs(value) for value in (*body.low, *body.high)) + max(
        abs(value) for value in chain.source.home
    )
    way = float(abs(chain.matrix).max()) * float(chain.grow.max()) * reach + float(abs(claim.place).max())
    return 0.5 * spacing + 2**-44 * way


def _part_checks(part: Part, longest: float) -> list[Check]:
    body = part.body
    checks = [*_size_checks(part), *_untouched(part)]
    step = 2 * part.limit
    own = max(part.claim.sizes)
    limit = COARSEST * (longest if body.stray else own)
    checks.append(
        Check(
            code="resolution",
            says=f"fineness of the file at {body.name}",
            asked=f"under {limit:.2g} mm",
            found=f"{step:.2g} mm",
            off=step,
            limit=limit,
            holds=step <= limit,
        )
    )
    checks += _vertex_checks(part) if part.matched is not None else remade.checks(part)
    asked = part.asked_corners()
    if body.health.closed:
        want, have = volume(asked), volume(part.found)
        room = area(part.found) * max(part.limit * 2 * math.sqrt(3), 0.0) + 1e-9 * abs(want)
        if part.matched is not None:
            checks.append(
                Check(
                    code="volume",
                    says=f"volume of {body.name}",
                    asked=f"{want:.3f} mm³",
                    found=f"{have:.3f} mm³",
                    off=abs(want - have),
                    limit=room,
                    holds=abs(want - have) <= room,
                )
            )
        # Rounding may join corners, which leaves what is closed closed.
        checks.append(
            same("closed", f"{body.name} is a closed solid", "yes", _yes(bounds_a_volume(part.found)))
        )
    return [*checks, *_bore_checks(part), *_allowance_checks(part)]


def _untouched(part: Part) -> list[Check]:
    """A body that nothing was typed or read for has the size of its file."""
    correction = part.body.correction
    if correction.set_by or correction.readings:
        return []
    plain = set(correction.factors) == {1.0} and correction.along is None
    factors = "1" if plain else " / ".join(f"{factor:.9g}" for factor in correction.factors)
    return [same("factor", f"factor of {part.body.name}, as in its file", "1", factors)]


def _yes(value: bool) -> str:
    return "yes" if value else "no"


def _size_checks(part: Part) -> list[Check]:
    """Sizes by the chain against those in the file, and against those that the sheets show."""
    asked = part.asked_corners()
    tilted = not np.isin(np.round(part.chain.turn, 12), (-1.0, 0.0, 1.0)).all()
    loose = 2 * part.limit * (math.sqrt(3) if tilted else 1.0) + 2 * part.slack
    checks = []
    by_chain = part.claim.sizes if part.matched is None else part.sizes(asked)
    for axis, want, have in zip(AXES, by_chain, part.sizes(part.found), strict=True):
        checks.append(length("size", f"size {axis.upper()} of {part.body.name}", want, have, loose))
    if tilted:
        spans = np.ptp(asked.reshape(-1, 3), axis=0), np.ptp(part.found.reshape(-1, 3), axis=0)
        for axis, want, have in zip(AXES, *spans, strict=True):
            checks.append(length("extent", f"overall {axis.upper()} in the file", want, have, loose))
    if part.matched is not None:
        # Kept bores may reach past the sizes that factors alone give by what they were kept from shrinking.
        near = loose + 1e-9 * float(max(by_chain)) + (_bore_reach(part) if part.body.kept else 0.0)
        off = float(abs(np.array(part.claim.sizes) - np.array(by_chain)).max())
        shown = " × ".join(f"{size:.5f}" for size in part.claim.sizes)
        checks.append(
            Check(
                code="sheet",
                says=f"size of {part.body.name} as its sheets show it",
                asked=f"{shown} mm",
                found=" × ".join(f"{size:.5f}" for size in by_chain) + " mm",
                off=off,
                limit=near,
                holds=off <= near,
            )
        )
        checks.append(_numbers_check(part))
    return checks


def _bore_reach(part: Part) -> float:
    return max(part.chain.bore_mm(bore) for bore in part.body.kept)


def _numbers_check(part: Part) -> Check:
    """Whether the body spans, in numbers of its file, what its sheets start from."""
    assert part.matched is not None
    if part.strange and not len(part.original.faces):
        return same("numbers", f"{part.body.name} is found in its file", "yes", "no")
    ends = bounds(part.original.points[part.mine()])
    off = float(abs(ends - np.array([part.body.low, part.body.high])).max())
    grain = 1e-12 * float(abs(ends).max())
    return Check(
        code="numbers",
        says=f"numbers that {part.body.name} spans in its file",
        asked=" × ".join(
            f"{high - low:.6g}" for low, high in zip(part.body.low, part.body.high, strict=True)
        ),
        found=" × ".join(f"{size:.6g}" for size in ends[1] - ends[0]),
        off=off,
        limit=grain,
        holds=off <= grain,
    )


def _vertex_checks(part: Part) -> list[Check]:
    """Every vertex where it should be, none strange, none left out."""
    assert part.matched is not None
    name, strangers = part.body.name, part.matched.strangers
    checks = [same("triangles", f"triangles of {name}", part.body.triangles, len(part.found))]
    limit = part.limit * math.sqrt(3)
    says = f"every vertex of {name} where the original has it"
    if len(strangers):
        off = remade.worst_of(part, strangers)
        checks.append(
            Check(
                code="vertices",
                says=says,
                asked="all of the original",
                found=f"{counted(len(strangers), 'triangle')} not of the original",
                off=off,
                limit=limit,
                holds=False,
            )
        )
        return checks
    checks.append(within("vertices", says, "within float32", part.matched.worst, limit))
    checks.append(same("whole", f"edges at which {name} was torn from its original", 0, _torn(part)))
    return checks


def _torn(part: Part) -> int:
    """Count edges between a polygon that the body has and one that was left out, and polygons it has in
    part.
    """
    assert part.matched is not None
    assert part.mesh is not None
    mesh, mine = part.mesh, part.matched.source
    got = np.bincount(part.polygon[mine], minlength=len(mesh.corners))
    taken = got > 0
    torn = int((taken[mesh.neighbours[:, 0]] != taken[mesh.neighbours[:, 1]]).sum())
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
    wrong = [one for one in np.flatnonzero(taken & (against > 0)).tolist() if mesh.has_a_right_cut(one)]
    return torn + len(wrong) + int((taken & off & (mesh.corners > 3) & mesh.simple).sum())


def _bore_checks(part: Part) -> list[Check]:
    """Each kept bore: its diameter in the file, what makes up for shrinkage taken off."""
    checks = []
    for bore in part.body.kept:
        if part.matched is None:
            continue
        mine = np.flatnonzero(part.matched.source >= 0)
        faces = part.original.faces[part.matched.source[mine]]
        numbers = part.original.points[faces].reshape(-1, 3)
        here = part.chain.on_wall(numbers, bore)
        if not here.any():
            continue
        which, corner = np.flatnonzero(here) // 3, np.flatnonzero(here) % 3
        turned = (corner - part.matched.turned[mine[which]]) % 3
        points = part.chain.unturned(part.found[mine[which], turned] - part.claim.place)
        axis = part.chain.matrix @ np.array(bore.direction)
        axis = axis / np.linalg.norm(axis)
        middle = part.chain.matrix @ np.array(bore.point) + part.chain.shift
        away = points - middle
        across = 2 * np.linalg.norm(away - np.outer(away @ axis, axis), axis=1)
        want = part.chain.bore_mm(bore)
        limit = 4 * part.limit * math.sqrt(3)
        off = float(abs(across - want).max())
        checks.append(
            Check(
                code="bore",
                says=f"kept bore of {part.body.name}, as the file has it",
                asked=f"{want:.5f} mm",
                found=f"{across.mean():.5f} mm",
                off=off,
                limit=limit,
                holds=off <= limit,
            )
        )
    return checks


def _allowance_checks(part: Part) -> list[Check]:
    """Clearance and shrinkage: what they add to the size that the readings make true."""
    allowance, checks = part.body.allowance, []
    for axis, text, mm in zip(AXES, allowance.clearance_typed, allowance.clearance_mm, strict=True):
        typed = plain_offset(text)
        if typed is not None:
            says = f"clearance {axis.upper()} of {part.body.name} as it was typed, {text}"
            checks.append(length("clearance-typed", says, typed, mm, 1e-9))
    for axis, text, share in zip(AXES, allowance.shrinkage_typed, allowance.shrinkage, strict=True):
        percent = plain_offset(text.replace("%", ""))
        if percent is not None:
            good = math.isclose(percent / 100, share, rel_tol=1e-9, abs_tol=1e-12)
            says = f"shrinkage {axis.upper()} of {part.body.name} as it was typed"
            checks.append(same("shrinkage-typed", says, text, text if good else f"{100 * share:.6g} %"))
    if allowance.none:
        return checks
    if part.matched is None or part.strange:
        return checks
    # Kept bores take no part: where a body became small around one, they reach beyond it.
    plain = np.ones(3 * len(part.found), dtype=bool)
    for bore in part.body.kept:
        plain &= ~part.chain.on_wall(part.in_order(), bore)
    found = part.found.reshape(-1, 3)[plain]
    sizes = part.sizes(found)
    bare = np.ptp(part.true(part.in_file(part.in_order()[plain])), axis=0)
    limit = 4 * part.limit * math.sqrt(3) + 1e-9 * float(sizes.max())
    for i, axis in enumerate(AXES):
        share, more = allowance.shrinkage[i], allowance.clearance_mm[i]
        if more and bare[i] + more > 0:
            says = f"clearance {axis.upper()} of {part.body.name}"
            checks.append(length("clearance", says, more, sizes[i] * (1 - share) - bare[i], limit))
        if share:
            shrunk = 1 - (bare[i] + more) / sizes[i] if sizes[i] > 0 else share
            near = limit / max(float(sizes[i]), 1e-300)
            checks.append(
                Check(
                    code="shrinkage",
                    says=f"shrinkage {axis.upper()} of {part.body.name}",
                    asked=f"{100 * share:.4g} %",
                    found=f"{100 * shrunk:.4g} %",
                    off=abs(share - shrunk),
                    limit=near,
                    holds=bool(abs(share - shrunk) <= near),
                )
            )
    return checks


def _typed_checks(parts: list[Part]) -> list[Check]:
    """Hold sizes and factors that were typed and are in force against the file; typed alike for a kit,
    once.
    """
    by_body = {part.body.id: part for part in parts}
    checks: dict[tuple[str, ...], Check] = {}
    for part in parts:
        for one in part.body.correction.typed:
            key = (one.axis or "", one.text, *one.bodies)
            size = plain_length(one.text)
            if one.bodies and size is not None and set(one.bodies) <= set(by_body) and key not in checks:
                some = [by_body[body] for body in one.bodies]
                axis = AXES.index(one.axis or "x")
                ends = np.concatenate([each.true(each.found.reshape(-1, 3))[:, axis] for each in some])
                limit = 4 * max(each.limit for each in some) * math.sqrt(3) + 2 * max(
                    each.slack for each in some
                )
                says = f"{(one.axis or '').upper()} as it was typed, {one.text}"
                if not part.body.kept and not any(each.strange for each in some):
                    checks[key] = length("typed", says, size, float(np.ptp(ends)), limit)
            factor = None if one.bodies else plain_factor(one.text)
            if factor is not None:
                axes = (
                    [AXES.index(one.axis)]
                    if one.axis
                    else [i for i in range(3) if not part.body.correction.free[i]]
                )
                have = [part.body.correction.factors[i] for i in axes]
                good = all(math.isclose(value, factor, rel_tol=1e-9) for value in have)
                said = " / ".join(f"{value:.9g}" for value in have)
                row = same(
                    "typed",
                    f"factor of {part.body.name} as it was typed",
                    one.text,
                    one.text if good else said,
                )
                checks[(part.body.id, *key)] = row
    return list(checks.values())


def _reading_checks(job: Job, parts: list[Part]) -> list[Check]:
    by_body = {part.body.id: part for part in parts}
    checks = []
    for reading in job.readings:
        if not reading.told or reading.lost or reading.role == "ignore" or reading.body not in by_body:
            continue
        measured = _measured(job, reading, by_body)
        shown = by_body[reading.body].claim.lengths.get(reading.id)
        if measured is not None and shown is not None:
            met = by_body[reading.body].claim.met.get(reading.id)
            checks.append(reading_check(reading, shown, *measured, met))
    return checks


def _measured(
    job: Job, reading: Reading, parts: dict[str, Part]
) -> tuple[tuple[float, ...], tuple[float, ...], float] | None:
    """Return the lengths of a gauge by the chain and in the file, and how far they may be apart."""
    gauge, part = reading.gauge, parts[reading.body]
    slack = 2 * (4 * part.limit * math.sqrt(3) + 2 * part.slack)
    if gauge.kind == "extent":
        keys = [body.id for body in job.group(reading.body)] if gauge.kit else [reading.body]
        if not set(keys) <= set(parts):
            return None
        axis = AXES.index(gauge.axis or "x")
        asked = np.concatenate(
            [one.true(one.asked_corners().reshape(-1, 3)) for one in map(parts.get, keys) if one]
        )
        found = np.concatenate([one.true(one.found.reshape(-1, 3)) for one in map(parts.get, keys) if one])
        return (float(np.ptp(asked[:, axis])),), (float(np.ptp(found[:, axis])),), slack
    if gauge.kind == "angle" or _on_kept(part, reading):
        return None
    points = np.array(gauge.points, dtype=np.float64)
    other = parts.get(gauge.other) if gauge.other else part
    if other is None:
        return None
    halves = [(part, points)] if other is part else list(zip((part, other), np.split(points, 2), strict=True))
    carried = [one.carried(gauge, some) for one, some in halves]
    if any(some is None for some in carried):
        return None
    by_chain = np.concatenate([one.true(one.chain.plain(some) + one.claim.place) for one, some in halves])
    in_file = np.concatenate(
        [one.true(some) for (one, _), some in zip(halves, carried, strict=True) if some is not None]
    )
    want, have = lengths(gauge, by_chain), lengths(gauge, in_file)
    # A circle fitted to facets is as far off as its corners were in the file to begin with.
    fit = 2 * (gauge.off or 0.0) * float(abs(part.chain.matrix).max())
    return None if want is None or have is None else (want, have, slack + fit)


def _on_kept(part: Part, reading: Reading) -> bool:
    """Whether a round gauge is on a kept bore, which has a line of its own."""
    if reading.gauge.kind not in ("diameter", "radius"):
        return False
    near = 1e-6 * max(abs(value) for value in (*part.body.low, *part.body.high))
    return any(math.dist(bore.point, reading.gauge.points[0]) <= near for bore in part.body.kept)


def _plate_checks(job: Job, parts: list[Part]) -> list[Check]:
    """Whether kits stand on the plate, in the middle of it and clear of each other."""
    kits: dict[str, list[Part]] = {}
    for part in parts:
        kits.setdefault(part.body.kit or part.body.id, []).append(part)
    checks, spans = [], []
    for group in kits.values():
        name, limit = group[0].body.name, max(2 * part.limit + part.slack for part in group)
        ends = bounds(np.concatenate([part.found.reshape(-1, 3) for part in group]))
        whole = len(group) == len(job.group(group[0].body.id))
        if whole:
            checks.append(length("stands", f"lowest point of {name} over the plate", 0.0, ends[0, 2], limit))
            middle = job.machine.volume[1] / 2
            checks.append(
                length("centred", f"middle of {name} across the plate", middle, ends[:, 1].mean(), limit)
            )
        else:
            checks.append(
                same("stands", f"{name} is not below the plate", "yes", _yes(bool(ends[0, 2] >= -limit)))
            )
        spans.append((ends[0, 0], ends[1, 0], name, limit))
    spans.sort()
    for (_, end, a, limit), (start, _, b, _) in pairwise(spans):
        clear = bool(start - end >= GAP_MM - 2 * limit)
        checks.append(same("apart", f"{b} stands {GAP_MM:g} mm or more from {a}", "yes", _yes(clear)))
    return checks
