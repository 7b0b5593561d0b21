"""Hold released bytes against the original's bytes and the decisions of the job."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Beside, Source
from aimtrue.core.proof.chain import MM
from aimtrue.core.proof.checks import part_checks
from aimtrue.core.proof.decided import reading_checks, typed_checks
from aimtrue.core.proof.order import Order
from aimtrue.core.proof.parts import Claim
from aimtrue.core.proof.plate import plate_checks
from aimtrue.core.proof.released import read_back, reader_of
from aimtrue.core.proof.sources import Sources, spacing_of
from aimtrue.core.proof.surface import Surface
from aimtrue.core.proof.values import Check, Proof, counted, same


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


def prove(
    job: Job,
    bodies: tuple[Body, ...],
    order: Order,
    data: bytes,
    original: Callable[[Source | Beside], bytes],
    claims: Sequence[Claim],
) -> Proof:
    """Read released bytes back and compare them with what the decisions make of the originals.

    Args:
        job: with all decisions.
        bodies: those in the file, in the order written.
        order: how they were written.
        data: the released bytes.
        original: gives the bytes of a source, or of a file beside it.
        claims: what the sheets say of each of these bodies, see :class:`Claim`.

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
    sources = Sources(job, original)
    parts = [
        sources.part(body, surface, claim, spacing_of(surface.points, order.unit))
        for body, surface, claim in zip(bodies, found, claims, strict=True)
    ]
    for source in dict.fromkeys(part.chain.source.id for part in parts):
        checks += sources.checks(source)
    longest = max(float(np.ptp(part.found.reshape(-1, 3), axis=0).max()) for part in parts)
    for part in parts:
        checks += part_checks(part, longest)
    checks += typed_checks(parts)
    checks += reading_checks(job, parts)
    if order.place == "seated":
        checks += plate_checks(job, parts)
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
