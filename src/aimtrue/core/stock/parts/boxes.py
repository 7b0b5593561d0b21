"""This module makes a box with a lid of what was typed: inner size, wall, and what the lid is to have."""

from __future__ import annotations

import re
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import parse_gap, parse_length
from aimtrue.core.stock.parts.plain import AS_TYPED
from aimtrue.core.stock.parts.shapes import DifferenceShape, Shape, UnionShape, box, rounded
from aimtrue.core.stock.parts.typed import TypedPart, exact, sizes
from aimtrue.core.stock.parts.values import (
    StockBody,
    StockDimension,
    StockPart,
    ThreadCutting,
    level,
    unplaced,
    upright,
    wide,
)

_CLEARANCE = 0.3
"""Clearance of a lid where none is typed, in mm; a starting value for filament."""
_LIP = 4.0
_OPTION = re.compile(r"(?P<name>wall|clearance|lip|handle|corner)\s*(?P<value>.*)", re.IGNORECASE)
_EXAMPLE = "box 60x40x20,2,clearance 0.3,lip 4,handle 8"


@dataclass(frozen=True)
class BoxSizes:
    """What a box is made of, in mm.

    Attributes:
        x, y, z: inside.
        wall: of sides, bottom and lid.
        clearance: by how much the lip of the lid is narrower than the box.
        lip: how far the lip goes into the box.
        handle: the height of the handle; 0 for none.
        corner: radius of the inner upright corners; 0 for sharp ones.
    """

    x: float
    y: float
    z: float
    wall: float
    clearance: float
    lip: float
    handle: float
    corner: float


def box_with_lid(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a box with a lid: ``box 60x40x20,2`` or with more, ``box 60x40x20,2,clearance 0.3,handle 8``.

    Raises:
        Refused: a size does not go with the others; the message says which does.
    """
    made = _checked(_read(typed))
    outer_x, outer_y, rim = made.x + 2 * made.wall, made.y + 2 * made.wall, made.z + made.wall
    outer_corner = made.corner + made.wall if made.corner else 0.0
    inside = rounded(made.x, made.y, made.corner, made.wall, rim + 1.0)
    body = DifferenceShape(rounded(outer_x, outer_y, outer_corner, 0.0, rim), (inside,))
    name = f"box {exact(made.x)}x{exact(made.y)}x{exact(made.z)},{exact(made.wall)}"
    name += f",clearance {exact(made.clearance)},lip {exact(made.lip)}"
    name += f",handle {exact(made.handle)}" if made.handle else ""
    name += f",corner {exact(made.corner)}" if made.corner else ""
    return StockPart(
        "box",
        name,
        AS_TYPED,
        _dimensions(made, outer_x, outer_y, rim),
        (StockBody("box", body), StockBody("lid", _lid(made, outer_x, outer_y, rim))),
        plan_at=made.wall + made.z / 4,
    )


def _read(typed: TypedPart) -> BoxSizes:
    fields = [field.strip() for field in re.split(r",|;", typed.rest) if field.strip()]
    if not fields:
        raise Refused("stock-sizes", "a box has an inner size", remedy=f"write {_EXAMPLE}")
    x, y, z = sizes(fields[0], ("X", "Y", "Z"), _EXAMPLE)
    values: dict[str, str] = {}
    for field in fields[1:]:
        option = _OPTION.fullmatch(field)
        name, value = (option["name"].lower(), option["value"]) if option else ("wall", field)
        if name in values:
            raise Refused("stock-words", f"“{field}” tells {name} once more", remedy=f"write {_EXAMPLE}")
        values[name] = value.strip()
    wall = parse_length(values["wall"]) if values.get("wall") else 2.0
    handle = values.get("handle")
    return BoxSizes(
        x,
        y,
        z,
        wall,
        parse_gap(values["clearance"]) if values.get("clearance") else _CLEARANCE,
        parse_gap(values["lip"]) if values.get("lip") else min(_LIP, z / 2),
        0.0 if handle is None else parse_length(handle) if handle else 8.0,
        parse_gap(values["corner"]) if values.get("corner") else 0.0,
    )


def _checked(made: BoxSizes) -> BoxSizes:
    least = min(made.x, made.y)
    if made.wall > least / 2:
        raise Refused(
            "stock-wall",
            f"a wall of {made.wall:g} mm is over half of the {least:g} mm inside",
            remedy=f"take at most {least / 2:g} mm",
        )
    if made.lip >= made.z:
        raise Refused(
            "stock-lip",
            f"a lip of {made.lip:g} mm does not go into {made.z:g} mm",
            remedy="take a shorter lip",
        )
    if made.corner >= least / 2:
        raise Refused(
            "stock-corner",
            f"corners of {made.corner:g} mm radius need more than {least:g} mm",
            remedy=f"take less than {least / 2:g} mm",
        )
    if made.lip and 2 * made.wall + made.clearance >= least:
        raise Refused(
            "stock-lip",
            f"a lip with walls of {made.wall:g} mm has no room in {least:g} mm",
            remedy="take lip 0, or a thinner wall",
        )
    return made


def _lid(made: BoxSizes, outer_x: float, outer_y: float, rim: float) -> Shape:
    outer_corner = made.corner + made.wall if made.corner else 0.0
    parts: list[Shape] = [rounded(outer_x, outer_y, outer_corner, rim, rim + made.wall)]
    if made.lip:
        x, y = made.x - made.clearance, made.y - made.clearance
        corner = max(made.corner - made.clearance / 2, 0.0)
        inner = max(corner - made.wall, 0.0)
        lip = rounded(x, y, corner, rim - made.lip, rim)
        away = rounded(x - 2 * made.wall, y - 2 * made.wall, inner, rim - made.lip - 1.0, rim)
        parts.append(DifferenceShape(lip, (away,)))
    if made.handle:
        long, top = max(outer_x / 3, 2 * made.wall), rim + made.wall
        parts.append(box(long, max(2 * made.wall, outer_y / 8), top, top + made.handle))
    return UnionShape(tuple(parts))


def _dimensions(made: BoxSizes, outer_x: float, outer_y: float, rim: float) -> tuple[StockDimension, ...]:
    x, y, w = made.x / 2, made.y / 2, made.wall
    rows = [
        wide("X", "inside along X", made.x, w),
        upright("Y", "inside along Y", made.y, outer_x / 2, -y, view="plan"),
        upright("Z", "inside along Z", made.z, outer_x / 2, w),
        level("w", "wall", w, x, -outer_y / 2, view="plan"),
        unplaced("", "clearance of the lid", made.clearance),
        unplaced("", "lip", made.lip),
    ]
    if made.handle:
        top = rim + w
        rows.append(upright("", "handle", made.handle, outer_x / 2, top))
    return tuple(rows)
