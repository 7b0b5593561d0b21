"""Planes as they stand in the text that was typed: their parts, and what is changed of them by hand.

A plane that is laid out is kept as its text; what a text means is in :mod:`.planes`.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from aimtrue.core.division.cutting.planes import (
    as_typed,
    letter_of,
    parted,
    sides_of,
    sides_said,
    typed_plane,
)
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.division import AskPieces, Division
from aimtrue.core.model.lengths import written
from aimtrue.core.model.shaping import PieceCut, PlaneSide
from aimtrue.core.model.value import AXES, Axis, Value

_ACROSS = re.compile(r"\s*([xyz])\s*=\s*(.*?)\s*", re.IGNORECASE)
_TURN = re.compile(r"\s*(\S+?)\s*(?:°|deg)?\s+about\s+([xyz])\s*", re.IGNORECASE)

_QUARTER = 1e-6
"""A share of its distance below which a tilted plane does not move with what is typed."""


@dataclass(frozen=True)
class TypedPlane:
    """A plane in the parts of its text.

    Attributes:
        text: the whole, as it is kept.
        letter: by which it is named.
        axis: that it is across before it is tilted; None of one along any direction.
        place: where on that axis; of one along any direction, the direction and where on it.
        tilts: degrees about each axis, as typed; an axis that it is not tilted about is left out.
        where: what it is limited to, as typed; empty where it cuts everything.
        says: how it lies, in words.
    """

    text: str
    letter: str
    axis: Axis | None
    place: str
    tilts: dict[Axis, str]
    where: str
    says: str


class AddPlane(Value):
    """One more plane, as it is typed."""

    do: Literal["add"] = "add"
    text: str


class AddMiddlePlane(Value):
    """One more plane, across an axis through the middle of the body."""

    do: Literal["add-middle"] = "add-middle"
    axis: Axis


class PlacePlane(Value):
    """A place typed for a plane; a length alone is one across the axis that the plane is across now."""

    do: Literal["place"] = "place"
    number: int
    text: str


class TiltPlane(Value):
    """How far a plane is tilted about an axis, in degrees as typed; zero is not at all."""

    do: Literal["tilt"] = "tilt"
    number: int
    axis: Axis
    degrees: str


class LimitPlane(Value):
    """What a plane is limited to, such as ``above A``; empty for nothing."""

    do: Literal["limit"] = "limit"
    number: int
    where: str


class DragPlane(Value):
    """A plane moved along its normal, in mm."""

    do: Literal["drag"] = "drag"
    number: int
    by_mm: float


class RemovePlane(Value):
    """A plane taken away; what was limited by it cuts everything, and letters move up."""

    do: Literal["remove"] = "remove"
    number: int


PlaneEdit = Annotated[
    AddPlane | AddMiddlePlane | PlacePlane | TiltPlane | LimitPlane | DragPlane | RemovePlane,
    Field(discriminator="do"),
]


@dataclass(frozen=True)
class _Parts:
    """What a text is made of; ``turns`` are degrees and axes in the order in which they are done."""

    place: str
    turns: tuple[tuple[str, Axis], ...] = ()
    where: str = ""

    def text(self) -> str:
        turns = " and ".join(f"{degrees} about {axis}" for degrees, axis in self.turns)
        return (
            self.place
            + (f" tilted {turns}" if turns else "")
            + (f" where {self.where}" if self.where else "")
        )


def typed_planes(texts: Sequence[str]) -> tuple[TypedPlane, ...]:
    """Return planes in their parts, by their texts."""
    return tuple(shown_typed(number, text) for number, text in enumerate(texts))


def shown_typed(number: int, text: str) -> TypedPlane:
    """Return a plane in its parts, by its number and its text."""
    parts = _parts(text)
    across = _ACROSS.fullmatch(parts.place)
    axis = _axis(across[1]) if across else None
    lies = f"{'tilted' if parts.turns else 'across'} {axis.upper()}" if axis else "tilted"
    return TypedPlane(
        text=text,
        letter=letter_of(number),
        axis=axis,
        place=across[2] if across else parts.place,
        tilts={turn_axis: degrees for degrees, turn_axis in parts.turns},
        where=parts.where,
        says=f"{lies}, in part" if parts.where else lies,
    )


def texts_of(division: Division) -> tuple[str, ...]:
    """Return the planes of a division as they were typed, or as a machine that was asked for placed them."""
    if isinstance(division.asked, AskPieces) and division.asked.fit is None:
        return division.asked.planes
    return tuple(map(as_typed, division.shaping.planes)) if isinstance(division.shaping, PieceCut) else ()


def edited(texts: Sequence[str], edit: PlaneEdit, bounds: Floats) -> tuple[str, ...]:
    """Return planes after something was changed of one of them.

    Args:
        texts: as they are.
        edit: what is changed.
        bounds: (2, 3) of the body in mm.

    Raises:
        Refused: there is no such plane, or what is typed makes none.
    """
    if isinstance(edit, AddPlane):
        return (*texts, _read(edit.text.strip(), bounds))
    if isinstance(edit, AddMiddlePlane):
        return (*texts, _middle(edit.axis, bounds))
    if not 0 <= edit.number < len(texts):
        raise Refused("plane", "this plane is not there any more", remedy="choose one that is")
    if isinstance(edit, RemovePlane):
        return tuple(
            _without(text, edit.number) for number, text in enumerate(texts) if number != edit.number
        )
    old = texts[edit.number]
    text = dragged(old, edit.by_mm, bounds) if isinstance(edit, DragPlane) else _typed(old, edit)
    return (*texts[: edit.number], _read(text, bounds), *texts[edit.number + 1 :])


def dragged(text: str, by_mm: float, bounds: Floats) -> str:
    """Return the text of a plane that is moved along its normal, to a hundredth of a millimetre.

    A plane turns about its foot, the place on it that is straight from the middle of the body. By each turn
    its distance from the middle is multiplied by the cosine of that turn's angle between the two normals, so
    how far it is in the end is in proportion to how far it was typed.

    Raises:
        Refused: it is tilted by a quarter, so that it goes through the middle wherever it is typed.
    """
    parts, plane, middle = _parts(text), typed_plane(text, bounds), bounds.mean(axis=0)
    start = float(np.asarray(typed_plane(parts.place, bounds).normal) @ middle)
    one_off = typed_plane(_moved_to(parts, f"{start + 1:.9f}").text(), bounds)
    share = one_off.at - float(np.asarray(one_off.normal) @ middle)
    if abs(share) < _QUARTER:
        raise Refused(
            "plane",
            "tilted by a quarter it goes through the middle of the body wherever it is put",
            remedy="type a plane across another axis, and move that",
        )
    off = plane.at + by_mm - float(np.asarray(plane.normal) @ middle)
    return _moved_to(parts, _hundredths(start + off / share)).text()


def _moved_to(parts: _Parts, place: str) -> _Parts:
    """Return parts with another place along the axis or the direction that they name."""
    across = _ACROSS.fullmatch(parts.place)
    if across:
        return replace(parts, place=f"{_axis(across[1])}={place}")
    return replace(parts, place=f"{parts.place.partition('@')[0].strip()} @ {place}")


def _hundredths(value: float) -> str:
    """Write a place without zeros that say nothing."""
    return f"{float(written(value)):.12g}"


def _middle(axis: Axis, bounds: Floats) -> str:
    return f"{axis}={_hundredths(float(bounds[:, AXES.index(axis)].mean()))}"


def _read(text: str, bounds: Floats) -> str:
    """Return a text if it is one of a plane; else it is refused."""
    typed_plane(text, bounds)
    return text


def _typed(text: str, edit: PlacePlane | TiltPlane | LimitPlane) -> str:
    parts = _parts(text)
    match edit:
        case PlacePlane():
            return _placed(parts, edit.text).text()
        case TiltPlane():
            degrees = edit.degrees.strip().removesuffix("°").strip() or "0"
            others = [turn for turn in parts.turns if turn[1] != edit.axis]
            at = next((i for i, turn in enumerate(parts.turns) if turn[1] == edit.axis), len(others))
            if parse_degrees(degrees, zero=True):
                others.insert(at, (degrees, edit.axis))
            return replace(parts, turns=tuple(others)).text()
        case LimitPlane():
            return replace(parts, where=edit.where.strip()).text()


def _placed(parts: _Parts, text: str) -> _Parts:
    """Return parts with another place; tilts and limits that are typed with it take the place of old ones."""
    typed = _parts(text)
    if not typed.place:
        raise Refused("plane", "a plane needs a place", remedy="type for example 120, or z=120")
    across = _ACROSS.fullmatch(parts.place)
    bare = "=" not in typed.place and "@" not in typed.place
    place = f"{_axis(across[1])}={typed.place}" if bare and across else typed.place
    return _Parts(place, typed.turns or parts.turns, typed.where or parts.where)


def _without(text: str, gone: int) -> str:
    """Return the text of a plane after another was taken away, in the letters that are left."""
    parts = _parts(text)
    if not parts.where:
        return text
    try:
        sides = sides_of(parts.where, text)
    except Refused:
        return text  # What cannot be read is left as it was typed, and told with the planes.
    kept = [
        PlaneSide(plane=side.plane - (side.plane > gone), above=side.above)
        for side in sides
        if side.plane != gone
    ]
    return replace(parts, where=sides_said(kept)).text()


def _parts(text: str) -> _Parts:
    rest, _, where = parted(text, " where ")
    place, _, tilts = parted(rest, " tilted ")
    turns = tuple(
        (turn[1], _axis(turn[2])) if (turn := _TURN.fullmatch(tilt)) else _no_turn(text)
        for tilt in (re.split(r"\band\b|,", tilts) if tilts else ())
    )
    return _Parts(place.strip(), turns, where.strip())


def _no_turn(text: str) -> tuple[str, Axis]:
    raise Refused(
        "plane", f"“{text}” is tilted in no way", remedy="write for example z=120 tilted 10 about x"
    )


def _axis(letter: str) -> Axis:
    return AXES["xyz".index(letter.lower())]
