"""This module says what a proof is, as it is kept and shown."""

from __future__ import annotations

from aimtrue.core.model.value import Value, Vec3


class Check(Value):
    """One comparison. ``asked`` and ``found`` are written out with their unit where they have one."""

    code: str
    says: str
    asked: str
    found: str
    off: float
    limit: float
    holds: bool


class Proof(Value):
    """All checks of a release. ``worst_mm`` is the greatest difference of any length or vertex, in mm.

    ``reader`` read the released bytes, and found ``triangles`` that are ``size_mm`` overall; ``original``
    says how the bytes of the sources were read a second time. ``accepted`` are findings that would have
    stopped the release and were accepted on purpose, in words.
    """

    holds: bool
    worst_mm: float
    reader: str
    checks: tuple[Check, ...]
    original: str = ""
    size_mm: Vec3 = (0.0, 0.0, 0.0)
    triangles: int = 0
    accepted: tuple[str, ...] = ()


def length(code: str, says: str, want: float, have: float, limit: float) -> Check:
    """Compare two lengths in mm."""
    off = abs(float(want) - float(have))
    limit = limit + 1e-12 * abs(float(want))
    return judged(code, says, f"{want:.5f} mm", f"{have:.5f} mm", off, limit)


def same(code: str, says: str, want: object, have: object) -> Check:
    """Compare two things that must be equal."""
    return Check(
        code=code,
        says=says,
        asked=str(want),
        found=str(have),
        off=0.0 if want == have else 1.0,
        limit=0.0,
        holds=want == have,
    )


def judged(code: str, says: str, asked: str, found: str, off: float, limit: float) -> Check:
    """Let a check hold when what is off is no more than the limit."""
    return Check(
        code=code, says=says, asked=asked, found=found, off=off, limit=limit, holds=bool(off <= limit)
    )


def within(code: str, says: str, asked: str, off: float, limit: float) -> Check:
    """Compare a distance in mm with what it may be at most."""
    return judged(code, says, asked, small(off), off, limit)


def small(mm: float) -> str:
    """Write a small length in a unit that suits it."""
    if not mm < 1e-3:
        return f"{mm:.4g} mm"
    return f"{mm * 1e6:.3g} nm"


def counted(count: int, one: str, many: str = "") -> str:
    """Say a number of things: ``1 triangle``, ``2 triangles``."""
    return f"{count:,} {one if count == 1 else many or one + 's'}"


def yes(value: bool) -> str:
    """Say yes or no."""
    return "yes" if value else "no"
