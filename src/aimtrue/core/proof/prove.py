"""Hold released bytes against the original's bytes and the decisions of the job."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.body import Body
from aimtrue.core.model.facets import Fineness
from aimtrue.core.proof.bodies import pair_sides
from aimtrue.core.proof.bodies.checks import part_checks
from aimtrue.core.proof.bodies.decision_checks import reading_checks, typed_checks
from aimtrue.core.proof.bodies.point_transform import MM
from aimtrue.core.proof.bodies.proven_body import Claim
from aimtrue.core.proof.order import FileLayout
from aimtrue.core.proof.ownership import OwnedValues
from aimtrue.core.proof.plate import origin_checks, plate_checks
from aimtrue.core.proof.released import SAYS_UNIT, ReadBackFile, grain_of, read_back, reader_of
from aimtrue.core.proof.sources import ProofSources
from aimtrue.core.proof.surface import Surface, bounds
from aimtrue.core.proof.values import Check, Proof, counted, same


class ProofBroken(AimTrueError):
    """Released bytes are not what was asked for; nothing of them is handed over."""

    def __init__(self, proof: Proof, name: str = "") -> None:
        broken = [check for check in proof.checks if not check.holds]
        broken_checks = "; ".join(
            f"{check.says}: asked {check.asked}, found {check.found}" for check in broken[:4]
        )
        more = f"; and {counted(len(broken) - 4, 'more')}" if len(broken) > 4 else ""
        super().__init__(
            "proof-broken",
            f"what was written is not what was asked for: {broken_checks}{more}",
            where=name,
            remedy="nothing was handed over; choose another format, or report this with the file",
        )
        self.proof = proof

    def __reduce__(self) -> tuple[object, ...]:
        return ProofBroken, (self.proof, self.where)


def prove(
    job: OwnedValues,
    bodies: tuple[Body, ...],
    order: FileLayout,
    data: bytes,
    sources: ProofSources,
    claims: Sequence[Claim],
) -> Proof:
    """Read released bytes back and compare them with what the decisions make of the originals.

    Args:
        job: with all decisions.
        bodies: those in the file, in the order written.
        order: how they were written.
        data: the released bytes.
        sources: the originals of the job; those of several files of one release are read once.
        claims: what the sheets say of each of these bodies, see :class:`Claim`.

    Raises:
        AimTrueError: the file or an original cannot be read by the second reader.
    """
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        # The originals are read while the released bytes are: neither waits for the other.
        reading = pool.submit(sources.read, bodies)
        back = read_back(order.kind, data, _fineness(job, bodies))
        reading.result()
        return _compared(job, bodies, order, back.in_mm(_per(order)), claims, sources, pool)


_AT_ONCE = 2
"""Bodies that are held against their originals at the same time."""


def _per(order: FileLayout) -> float:
    """Millimetres to a number as it is read back: the kernel brings STEP of any unit to mm itself."""
    return 1.0 if order.kind == "step" else MM[order.unit]


def _compared(  # noqa: PLR0913 - told apart by their names
    job: OwnedValues,
    bodies: tuple[Body, ...],
    order: FileLayout,
    back: ReadBackFile,
    claims: Sequence[Claim],
    sources: ProofSources,
    pool: ThreadPoolExecutor,
) -> Proof:
    """Compare what was read back, in mm, with what the decisions make of the originals."""
    checks: list[Check] = []
    if order.kind in SAYS_UNIT:
        checks.append(
            same("unit", "unit declared", order.unit.value, back.unit.value if back.unit else "none")
        )
        checks.append(same("objects", "objects", _objects_asked(order, bodies), len(back.objects)))
    counts = [claim.count(body) for claim, body in zip(claims, bodies, strict=True)]
    by_body = _by_body(order, counts, back, _per(order))
    if by_body is None:
        total = sum(len(surface.faces) for surface in back.objects)
        wanted = sum(counts)
        checks.append(same("triangles", "triangles", wanted, total))
        return _proof(order, checks, "", back)
    surfaces, grains = zip(*by_body, strict=True)
    parts = list(pool.map(sources.part, bodies, surfaces, claims, grains))
    for source in dict.fromkeys(part.chain.source.id for part in parts):
        checks += sources.checks(source)
    longest = max(float(np.ptp(bounds(part.found), axis=0).max()) for part in parts)
    for rows in pool.map(lambda part: part_checks(part, longest), parts):
        checks += rows
    for part in parts:
        checks += pair_sides.checks(part)
    checks += typed_checks(parts)
    checks += reading_checks(job, parts)
    if back.volumes is not None:
        checks += sources.volume_checks(parts, back.volumes)
    if order.place == "seated":
        checks += plate_checks(job, parts)
    if order.place == "origin":
        checks += origin_checks(parts)
    return _proof(order, checks, sources.says(bodies), back)


def _fineness(job: OwnedValues, bodies: tuple[Body, ...]) -> Fineness | None:
    sources = {source.id: source for source in job.sources}
    return next((sources[body.source].fineness for body in bodies), None)


def _objects_asked(order: FileLayout, bodies: tuple[Body, ...]) -> int:
    return 1 if order.merged else len(bodies)


def _proof(order: FileLayout, checks: list[Check], says: str, back: ReadBackFile) -> Proof:
    ends = np.array([surface.bounds() for surface in back.objects])
    x, y, z = (ends[:, 1].max(axis=0) - ends[:, 0].min(axis=0)).tolist()
    lengths_off = [
        check.off for check in checks if check.code in ("vertices", "extent", "size", "reading", "bore")
    ]
    return Proof(
        holds=all(check.holds for check in checks),
        worst_mm=max(lengths_off, default=0.0),
        reader=reader_of(order.kind),
        checks=tuple(checks),
        original=says,
        size_mm=(x, y, z),
        triangles=sum(len(surface.faces) for surface in back.objects),
    )


def _by_body(
    order: FileLayout, counts: list[int], back: ReadBackFile, per: float
) -> list[tuple[Surface, float]] | None:
    """Divide what was read back among the bodies, each with its grain; None when the counts do not allow
    it.
    """
    if order.kind in SAYS_UNIT and not order.merged:
        same_count = len(back.objects) == len(counts)
        return list(zip(back.objects, back.grains, strict=True)) if same_count else None
    whole = back.objects[0]
    if len(back.objects) > 1 or len(whole.faces) != sum(counts):
        return None
    runs = [whole.faces[end - count : end] for end, count in zip(np.cumsum(counts), counts, strict=True)]
    return [(Surface(whole.points, run), per * grain_of(whole.points[run] / per)) for run in runs]
