"""The proof: what was asked for, what the released bytes hold, and whether they agree.

Coordinates are released as float32. Rounding moves a coordinate ``c`` by at most half
the spacing of float32 numbers at ``|c|`` (IEEE 754, round to nearest), so a size may
differ by one full spacing at the greatest coordinate, and by that times the square
root of 3 along a turned axis. These are the limits the checks are held to: nothing is
allowed beyond what the file format itself imposes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from aimtrue.core.job import AXES, Gauge, Value
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Floats, Mesh, merged, weld
from aimtrue.core.truing.gauges import in_release

COARSEST = 1e-3
"""Float32 spacing over the longest size from which a file is too coarse to carry a size."""


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
    """All checks of a release. ``worst_mm`` is the greatest difference of any length, in mm."""

    holds: bool
    worst_mm: float
    reader: str
    checks: tuple[Check, ...]


@dataclass(frozen=True, eq=False)
class GaugeAsked:
    """A gauge with a reading: where its points should be in the file, and its length there, in mm."""

    name: str
    gauge: Gauge
    points: Floats
    length: float


@dataclass(frozen=True, eq=False)
class AcrossBodies:
    """A gauge over several bodies of a file, whose anchors count their faces one after the other.

    Attributes:
        gauge: with its length.
        of: numbers of the bodies, in the order written.
    """

    gauge: GaugeAsked
    of: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Asked:
    """What a released body must be.

    Attributes:
        mesh: the body in mm as it was meant to be written, float64.
        turn: (3, 3) rotation from the body's own axes to those of the file.
        sizes: (3,) asked sizes in mm along the body's own axes.
        closed: whether the body was closed.
        readings: gauges that have a reading; measured on the released points.
    """

    mesh: Mesh
    turn: Floats
    sizes: Floats
    closed: bool
    readings: tuple[GaugeAsked, ...] = ()


def spacing_mm(mesh: Mesh, unit: Unit) -> float:
    """Return the float32 spacing, in mm, at the greatest coordinate when written in ``unit``."""
    reach = float(np.abs(mesh.vertices).max()) / MM_PER[unit]
    # The spacing doubles at powers of two; rounding may carry a coordinate just past one.
    spacing = float(np.spacing(np.float32(reach * (1 + 2**-20))))
    # Beside it, what float64 loses in getting there is nothing, but not zero.
    return (spacing + 2**-48 * reach) * MM_PER[unit]


def prove(
    kind: str,
    asked: list[Asked],
    unit: Unit,
    declared: Unit | None,
    found: list[Mesh],
    across: list[AcrossBodies] | None = None,
) -> Proof:
    """Compare what was asked with what the second reader found.

    Args:
        kind: format written.
        asked: one entry per body, in the order written.
        unit: unit written.
        declared: unit the second reader found declared; None when the format has none.
        found: one mesh per object read back, in ``unit``.
        across: gauges over several bodies.
    """
    checks: list[Check] = []
    if kind == "3mf":
        checks.append(_same("unit", "unit declared", unit.value, declared.value if declared else "none"))
        checks.append(_same("objects", "objects", len(asked), len(found)))
        whole = found
    else:
        whole = found if len(asked) == 1 else _split(asked, found[0])
    if len(whole) == len(asked):
        whole = [mesh.mapped(lambda v: v * MM_PER[unit]) for mesh in whole]
        for body, mesh in zip(asked, whole, strict=True):
            checks += _body_checks(body, mesh, unit)
        for one in across or []:
            checks.append(_across_check(one, asked, whole, unit))
    lengths = [check.off for check in checks if check.code in ("extent", "size", "reading")]
    return Proof(
        holds=all(check.holds for check in checks),
        worst_mm=max(lengths, default=0.0),
        reader="lib3mf" if kind == "3mf" else "trimesh",
        checks=tuple(checks),
    )


def _split(asked: list[Asked], found: Mesh) -> list[Mesh]:
    """Divide one mesh into those it was put together from; faces keep their order in a file."""
    cuts = np.cumsum([body.mesh.triangles for body in asked])[:-1]
    return [Mesh(found.vertices, faces) for faces in np.split(found.faces, cuts)]


def _body_checks(asked: Asked, found: Mesh, unit: Unit) -> list[Check]:
    checks = [_same("triangles", "triangles", asked.mesh.triangles, found.triangles)]
    if found.triangles == 0:
        return checks
    step = spacing_mm(asked.mesh, unit)
    checks.append(_resolution_check(asked, step))
    for axis, want, have in zip(AXES, asked.mesh.extents(), found.extents(), strict=True):
        checks.append(_length("extent", f"overall {axis.upper()} in the file", want, have, step))
    own = found.mapped(lambda v: v @ asked.turn).extents()
    loose = step if _is_permutation(asked.turn) else step * math.sqrt(3)
    for axis, want, have in zip(AXES, asked.sizes, own, strict=True):
        checks.append(_length("size", f"size {axis.upper()} of the body", want, have, loose))
    checks += [_reading_check(one, found, asked.turn, 2 * step * math.sqrt(3)) for one in asked.readings]
    checks.append(_volume_check(asked, found, step))
    # Corners that agree to float32 are one point in the file, so both are welded alike.
    checks.append(_same("closed", "closed solid", _yes(asked.closed), _yes(_welded(found).topology.closed)))
    return checks


def _across_check(one: AcrossBodies, asked: list[Asked], whole: list[Mesh], unit: Unit) -> Check:
    step = max(spacing_mm(asked[number].mesh, unit) for number in one.of)
    together = merged([whole[number] for number in one.of])
    return _reading_check(one.gauge, together, asked[one.of[0]].turn, 2 * step * math.sqrt(3))


def _resolution_check(asked: Asked, step: float) -> Check:
    """Whether the file can hold the size at all: float32 is coarse far from the origin of the file."""
    longest = float(asked.sizes.max())
    limit = COARSEST * longest
    return Check(
        code="resolution",
        says="fineness",
        asked=f"{limit:.2g} mm",
        found=f"{step:.2g} mm",
        off=step,
        limit=limit,
        holds=step <= limit,
    )


def _reading_check(asked: GaugeAsked, found: Mesh, turn: Floats, limit: float) -> Check:
    measured = in_release(asked.gauge, asked.points, found, turn)
    have = max(measured) if measured else math.nan
    # A cylinder fitted to facets is as far off as its corners were in the file to begin with.
    limit += 2 * (asked.gauge.off or 0.0) * asked.length / max(_drawn_length(asked.gauge), 1e-300)
    return _length("reading", f"reading {asked.name}", asked.length, have, limit)


def _drawn_length(gauge: Gauge) -> float:
    if len(gauge.points) < 2:
        return math.inf
    return 2 * math.dist(gauge.points[0], gauge.points[1])


def _volume_check(asked: Asked, found: Mesh, step: float) -> Check:
    want, have = asked.mesh.volume(), found.volume()
    # Moving every point by up to half a spacing on each axis changes the volume by at most area x move.
    limit = asked.mesh.area() * step * math.sqrt(3) + 1e-9 * abs(want)
    return Check(
        code="volume",
        says="volume",
        asked=f"{want:.3f} mm³",
        found=f"{have:.3f} mm³",
        off=abs(want - have),
        limit=limit,
        holds=abs(want - have) <= limit,
    )


def _length(code: str, says: str, want: float, have: float, limit: float) -> Check:
    off = abs(float(want) - float(have))
    limit = limit + 1e-12 * abs(float(want))
    return Check(
        code=code,
        says=says,
        asked=f"{want:.5f} mm",
        found=f"{have:.5f} mm",
        off=off,
        limit=limit,
        holds=off <= limit,
    )


def _same(code: str, says: str, want: object, have: object) -> Check:
    return Check(
        code=code,
        says=says,
        asked=str(want),
        found=str(have),
        off=0.0 if want == have else 1.0,
        limit=0.0,
        holds=want == have,
    )


def _welded(mesh: Mesh) -> Mesh:
    return weld(mesh.vertices[mesh.faces])


def _is_permutation(turn: Floats) -> bool:
    return bool(np.isin(turn, (-1.0, 0.0, 1.0)).all())


def _yes(value: bool) -> str:
    return "yes" if value else "no"
