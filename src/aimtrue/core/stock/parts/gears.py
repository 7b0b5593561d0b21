"""This module makes spur gears of what was typed: the tooth space that a rack of ISO 53 generates.

The flank is an involute and the root the trochoid of the rack's rounded tip, so that teeth are undercut
where a rack would undercut them. Formulas: F. L. Litvin and A. Fuentes, Gear Geometry and Applied Theory, 2nd
edition, chapter 6; the basic rack is profile A of ISO 53:1998, modules ISO 54:1996, diametral pitches AGMA.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.lengths import parse_gap, parse_length
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.stock.parts.shapes import CurveRun, DifferenceShape, PrismShape, Shape, Vec2, cylinder
from aimtrue.core.stock.parts.typed import TypedPart, exact
from aimtrue.core.stock.parts.values import (
    StockBody,
    StockDimension,
    StockPart,
    ThreadCutting,
    unplaced,
    upright,
    wide,
)

ADDENDUM, DEDENDUM, TIP_RADIUS = 1.0, 1.25, 0.38
"""Of the basic rack, in modules; ISO 53, profile A."""
LEAST_TEETH = 5
_STEPS = 14
"""Points of a flank and of a fillet that their splines go through."""
_EXAMPLE = "gear m1 z20 w8"
_FIELD = re.compile(r"(?i)(dp|m|z|w|b|a|backlash|j)\s*(\d[\d.]*(?:\s*(?:mm|in|°|deg))?)\s*")
_MODULES = (
    0.3,
    0.4,
    0.5,
    0.6,
    0.7,
    0.8,
    0.9,
    1,
    1.125,
    1.25,
    1.375,
    1.5,
    1.75,
    2,
    2.25,
    2.5,
    2.75,
    3,
    3.5,
    4,
    4.5,
    5,
    6,
    8,
    10,
)
"""Modules of ISO 54 that are printed; others are made, and told."""


@dataclass(frozen=True)
class Gear:
    """A spur gear, in mm and radians.

    Attributes:
        module: pitch diameter over the number of teeth.
        teeth: how many.
        pressure: the pressure angle.
        width: of the face.
        bore: its diameter; 0 for none.
        backlash: of a pair, along the pitch circle; each gear has half of it.
        per_inch: the diametral pitch that was typed in place of the module; 0 where none was.
    """

    module: float
    teeth: int
    pressure: float
    width: float
    bore: float = 0.0
    backlash: float = 0.0
    per_inch: float = 0.0

    @property
    def pitch_radius(self) -> float:
        """M z / 2."""
        return self.module * self.teeth / 2

    @property
    def tip_radius(self) -> float:
        """One module outside the pitch circle."""
        return self.pitch_radius + ADDENDUM * self.module

    @property
    def root_radius(self) -> float:
        """1.25 modules inside the pitch circle."""
        return self.pitch_radius - DEDENDUM * self.module

    @property
    def base_radius(self) -> float:
        """Of the circle that the involute unwinds from."""
        return self.pitch_radius * math.cos(self.pressure)


def centre_distance(one: Gear, other: Gear) -> float:
    """Return how far apart two gears stand, in mm: (z1 + z2) m / 2.

    Raises:
        Refused: they do not mesh, since their modules or pressure angles differ.
    """
    if abs(one.module - other.module) > 1e-9 or abs(one.pressure - other.pressure) > 1e-9:
        raise Refused(
            "gears-differ",
            f"a gear of module {one.module:.6g} does not mesh with one of {other.module:.6g}",
            remedy="give both the same module and pressure angle",
        )
    return one.pitch_radius + other.pitch_radius


def gear(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a spur gear: ``gear m1 z20 w8``, ``gear m1,z20,w8,5``, ``gear dp24 z32 w6 b5 a20 backlash 0.1``.

    Raises:
        Refused: it has under 5 teeth, its bore reaches its root, its teeth are pointed, or something is
        missing.
    """
    made = read_gear(typed.rest)
    shape: Shape = PrismShape(outline_of(made), 0.0, made.width)
    if made.bore:
        shape = DifferenceShape(shape, (cylinder(made.bore, -1.0, made.width + 1.0),))
    name = gear_name(made)
    return StockPart(
        "gear",
        name,
        f"ISO 53:1998, profile A; {'diametral pitch' if made.per_inch else 'ISO 54:1996'}",
        _dimensions(made),
        (StockBody(f"gear m{made.module:.4g} z{made.teeth}", shape),),
        notes=_notes(made),
        plan_at=made.width / 2,
    )


def gear_name(made: Gear) -> str:
    """Return a gear as it can be typed again."""
    size = f"dp{exact(made.per_inch)}" if made.per_inch else f"m{exact(made.module)}"
    name = f"gear {size} z{made.teeth} w{exact(made.width)}"
    name += f" b{exact(made.bore)}" if made.bore else ""
    name += f" a{math.degrees(made.pressure):.10g}"
    return name + (f" backlash {exact(made.backlash)}" if made.backlash else "")


def read_gear(text: str) -> Gear:
    """Read a gear as typed, after the word.

    Raises:
        Refused: something is missing, or does not go together.
    """
    fields: dict[str, str] = {}
    bore = ""
    for part in (part.strip() for part in re.split(r"[,;]", text)):
        if re.fullmatch(r"\d[\d.]*(\s*(mm|in))?", part):
            bore = part
            continue
        left = _FIELD.sub(lambda match: fields.setdefault(match[1].lower(), match[2].strip()) and "", part)
        if left.strip():
            raise Refused(
                "stock-words", f"“{left.strip()}” is not understood of a gear", remedy=f"write {_EXAMPLE}"
            )
    missing = [
        says
        for says, given in (
            ("a module (m1) or a diametral pitch (dp24)", "m" in fields or "dp" in fields),
            ("a number of teeth (z20)", "z" in fields),
            ("a width (w8)", "w" in fields),
        )
        if not given
    ]
    if missing:
        raise Refused("stock-sizes", f"a gear wants {', '.join(missing)}", remedy=f"write {_EXAMPLE}")
    per_inch = 0.0 if "m" in fields else parse_number(fields["dp"])
    module = 25.4 / per_inch if per_inch else parse_length(fields["m"])
    return _checked(
        Gear(
            module,
            _teeth(fields["z"]),
            math.radians(parse_degrees(fields.get("a", "20"))),
            parse_length(fields["w"]),
            parse_length(bore or fields["b"]) if bore or "b" in fields else 0.0,
            parse_gap(fields.get("backlash") or fields.get("j") or "0"),
            per_inch,
        )
    )


def _teeth(typed: str) -> int:
    number = parse_number(typed)
    if number != int(number) or number < LEAST_TEETH:
        raise Refused(
            "stock-teeth",
            f"a gear has {LEAST_TEETH} teeth or more, and whole ones; not {typed}",
            remedy=f"take z{LEAST_TEETH} or more; below z17 teeth are undercut",
        )
    if number > 400:
        raise Refused("stock-teeth", f"{typed} teeth are over 400", remedy="take fewer")
    return int(number)


def _checked(made: Gear) -> Gear:
    if not math.radians(10) <= made.pressure <= math.radians(35):
        raise Refused(
            "stock-angle",
            f"a pressure angle of {math.degrees(made.pressure):g}° makes no teeth",
            remedy="take 14.5°, 20° or 25°",
        )
    if made.bore >= 2 * made.root_radius:
        raise Refused(
            "stock-bore",
            f"a bore of {made.bore:g} mm reaches the root, which has {2 * made.root_radius:.4g} mm",
            remedy="take a smaller bore, more teeth or a larger module",
        )
    thick = math.pi * made.module / 2
    if made.backlash >= thick / 2:
        raise Refused(
            "stock-backlash",
            f"a backlash of {made.backlash:g} mm is over half of a tooth, which is {thick:.4g} mm thick",
            remedy="take a tenth of the module or less",
        )
    if _half_angle_at(made, made.tip_radius) >= math.pi / made.teeth:
        raise Refused(
            "stock-teeth",
            f"{made.teeth} teeth at {math.degrees(made.pressure):g}° are pointed below their tips",
            remedy="take more teeth, or a smaller pressure angle",
        )
    return made


def _notes(made: Gear) -> tuple[str, ...]:
    notes = []
    least = 2 / math.sin(made.pressure) ** 2
    if made.teeth < math.floor(least):
        notes.append(f"under {math.ceil(least)} teeth a rack undercuts the roots, and so they are here")
    if not made.per_inch and not any(abs(made.module - module) < 1e-6 for module in _MODULES):
        notes.append(f"ISO 54 has no module of {made.module:.6g} mm; it is made by what was typed")
    if made.bore and made.root_radius - made.bore / 2 < 1.25 * made.module:
        notes.append(f"{made.root_radius - made.bore / 2:.3g} mm are left between the bore and the root")
    return tuple(notes)


def outline_of(made: Gear) -> tuple[CurveRun, ...]:
    """Return the closed outline of a gear about the origin, counter-clockwise, a tooth on +X."""
    runs: list[CurveRun] = []
    fillet, flank, root_angle = _space_side(made)
    step = 2 * math.pi / made.teeth
    for number in range(made.teeth):
        turn = step * (number + 0.5) - math.pi / 2
        right, right_flank = _turned(fillet, turn), _turned(flank, turn)
        # Counter-clockwise a space begins with its right side: down the flank, along the root, and up.
        mirrored, mirrored_flank = _turned(_mirror(fillet), turn), _turned(_mirror(flank), turn)
        runs.append(CurveRun("spline", _points(right_flank[::-1])))
        runs.append(CurveRun("spline", _points(right[::-1])))
        if root_angle > 1e-6:
            runs.append(CurveRun("arc", _arc(made.root_radius, turn - root_angle, turn + root_angle)))
        runs.append(CurveRun("spline", _points(mirrored)))
        runs.append(CurveRun("spline", _points(mirrored_flank)))
        tip = math.atan2(flank[-1][0], flank[-1][1])
        runs.append(CurveRun("arc", _arc(made.tip_radius, turn + tip, turn + step - tip)))
    return tuple(runs)


def _arc(radius: float, start: float, end: float) -> tuple[Vec2, ...]:
    """Three points of a circle, by angles from +Y, counter-clockwise."""
    return tuple(
        (-radius * math.sin(angle), radius * math.cos(angle)) for angle in (start, (start + end) / 2, end)
    )


def _mirror(points: Floats) -> Floats:
    return np.asarray(points * np.array([-1.0, 1.0]))


def _turned(points: Floats, angle: float) -> Floats:
    cosine, sine = math.cos(angle), math.sin(angle)
    return np.asarray(points @ np.array([[cosine, sine], [-sine, cosine]]))


def _points(points: Floats) -> tuple[Vec2, ...]:
    return tuple((float(x), float(y)) for x, y in points)


def _rack(made: Gear) -> tuple[float, float, float, float]:
    """The rack's tooth: its half width on the pitch line, and its tip's rounding: radius, and centre (x,
    y).
    """
    tangent, m = math.tan(made.pressure), made.module
    half = math.pi * m / 4 + made.backlash / 4
    # The rounding must not be wider than the tip is.
    fullest = (half / m - DEDENDUM * tangent) * math.cos(made.pressure) / (1 - math.sin(made.pressure))
    radius = min(TIP_RADIUS, 0.98 * fullest) * m
    y = -DEDENDUM * m + radius
    return half, radius, half + y * tangent - radius / math.cos(made.pressure), y


def _generated(made: Gear, x: Floats, y: Floats, normal: Floats) -> Floats:
    """Return where points of the rack with their normals touch the gear, (n, 2) about its centre.

    A point touches where its normal passes through the pitch point; by then the rack has gone ``s`` along,
    and the gear has turned by ``s`` over the pitch radius.
    """
    s = y * normal[:, 0] / normal[:, 1] - x
    turn = s / made.pitch_radius
    at_x, at_y = x + s, y + made.pitch_radius
    return np.stack(
        [at_x * np.cos(turn) - at_y * np.sin(turn), at_x * np.sin(turn) + at_y * np.cos(turn)], axis=1
    )


def _fillet(made: Gear, angles: Floats) -> Floats:
    """Return the trochoid by the angle of the rounding's normal from straight down to that of the flank."""
    _, radius, x, y = _rack(made)
    normal = np.stack([np.sin(angles), -np.cos(angles)], axis=1)
    points = np.array([x, y]) + radius * normal
    return _generated(made, points[:, 0], points[:, 1], normal)


def _half_angle_at(made: Gear, radius: float) -> float:
    """Return the half angle of the space that the involute leaves at a radius: pi / 2z + ... - inv(a) +
    inv(b).
    """

    def involute(angle: float) -> float:
        return math.tan(angle) - angle

    at_pitch = (math.pi * made.module / 4 + made.backlash / 4) / made.pitch_radius
    at = math.acos(min(1.0, made.base_radius / radius))
    return at_pitch + involute(at) - involute(made.pressure)


def _involute(made: Gear, radii: Floats) -> Floats:
    angles = np.array([_half_angle_at(made, float(radius)) for radius in radii])
    return np.stack([radii * np.sin(angles), radii * np.cos(angles)], axis=1)


def _space_side(made: Gear) -> tuple[Floats, Floats, float]:
    """Return the right side of a tooth space: fillet and flank from the root outward, and half the root's
    angle.

    Where the rack undercuts, the fillet ends where it crosses the involute.
    """
    last = math.pi / 2 - made.pressure
    end, start = last, float(np.hypot(*_fillet(made, np.array([last]))[0]))
    undercut = made.module * DEDENDUM - _rack(made)[1] * (1 - math.sin(made.pressure)) > (
        made.pitch_radius * math.sin(made.pressure) ** 2
    )
    if undercut:
        end = _crossing(made, last)
        start = float(np.hypot(*_fillet(made, np.array([end]))[0]))
    fillet = _fillet(made, np.linspace(0.0, end, _STEPS))
    # Denser near the base circle, where an involute bends most.
    share = np.linspace(0.0, 1.0, _STEPS) ** 2
    flank = _involute(made, start + (made.tip_radius - start) * share)
    flank[0] = fillet[-1]
    return fillet, flank, abs(math.atan2(fillet[0][0], fillet[0][1]))


def _crossing(made: Gear, last: float) -> float:
    """Return the angle of the rounding at which the trochoid crosses the involute."""

    def beside(angle: float) -> float:
        x, y = _fillet(made, np.array([angle]))[0]
        radius = math.hypot(x, y)
        if radius <= made.base_radius:
            return float(
                math.atan2(x, y) - _half_angle_at(made, made.base_radius) + (made.base_radius - radius)
            )
        return float(math.atan2(x, y) - _half_angle_at(made, radius))

    angles = np.linspace(0.0, last, 400)
    values = np.array([beside(float(angle)) for angle in angles])
    radii = np.hypot(*_fillet(made, angles).T)
    outside = np.flatnonzero((values[:-1] > 0) & (values[1:] <= 0) & (radii[1:] > made.base_radius))
    if not len(outside):
        return last
    at = int(outside[0])
    return float(brentq(beside, angles[at], angles[at + 1], xtol=1e-12))


def _dimensions(made: Gear) -> tuple[StockDimension, ...]:
    tip, root = made.tip_radius, made.root_radius
    rows = [
        unplaced("m", "module", made.module),
        wide("da", "tip circle", 2 * tip, 0.0, round=True),
        unplaced("d", "pitch circle", 2 * made.pitch_radius, round=True),
        unplaced("df", "root circle", 2 * root, round=True),
        upright("b", "width", made.width, tip, 0.0),
    ]
    if made.bore:
        rows.append(wide("", "bore", made.bore, made.width, round=True))
    if made.backlash:
        rows.append(unplaced("j", "backlash of a pair", made.backlash))
    return tuple(rows)
