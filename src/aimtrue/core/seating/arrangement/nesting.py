"""Nesting: true outlines laid out on plates of any shape, with a gap, on as few plates as possible.

Plates and parts are drawn as grids of small cells, a cell taken when the shape reaches into it at all. Where
a part may go is then one correlation of its cells with those that are taken, worked out for all places at
once by a Fourier transform. So a plate may have any shape, a part may go into the opening of another, and
what is found is clear of the others by the gap and never less. Parts go in from the largest on, each where it
lies lowest; then other orders are tried for as long as there is time, and the best is kept. Cells take up to
one of their size more than there is: what fills a plate, and rows of boxes, are laid exactly (:mod:`.tight`).
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
import scipy
import shapely
import shapely.affinity
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.outlines import Outline
from aimtrue.core.seating.arrangement.tight_fits import TightPlacement, fine_turns, fit_of, in_rows

Turns = Literal["any", "quarters", "none"]
_Cells = NDArray[np.bool_]
_CELLS = 320
"""Along the longer side of a plate."""
_FINEST_MM = 0.2
_STEP_DEGREES = 30
_FINE_STEP_DEGREES = 3
_LEFT = 0.12
"""How much farther left counts against farther down."""
_TOUCH = 0.5**0.5
"""The distance from the middle of a cell to its corners, as a share of its side."""


@dataclass(frozen=True, eq=False)
class NestingPart:
    """Something to be laid out: its outline in mm, about any point, and a key that the same parts share."""

    id: str
    outline: Outline
    key: str


@dataclass(frozen=True)
class PartPlacement:
    """Where a part was laid: number of the plate, turn about Z in degrees, and the middle of its box."""

    id: str
    plate: int
    turn: float
    x: float
    y: float


@dataclass(frozen=True)
class Layout:
    """An arrangement; ``unplaced`` are parts that fit on no empty plate."""

    laid: tuple[PartPlacement, ...]
    unplaced: tuple[str, ...]
    plates: int
    used: float
    """Depth of the last plate that is used, as a share: the less, the more room is left in one piece."""

    def better_than(self, other: Layout | None) -> bool:
        """Whether it is on fewer plates, or on as many with more room left."""
        mine = (len(self.unplaced), self.plates, self.used)
        return other is None or mine < (len(other.unplaced), other.plates, other.used)


def nest(
    parts: Sequence[NestingPart],
    plate: Floats,
    gap: float,
    turns: Turns = "any",
    seconds: float = 5.0,
    tell: Callable[[float, str, Layout], bool] = lambda share, says, best: True,
) -> Layout:
    """Lay parts out.

    Args:
        parts: with their outlines.
        plate: (k, 2) corners of the room on a plate, in mm.
        gap: between parts, in mm.
        turns: which turns about Z are allowed.
        seconds: how long other orders are tried after the first.
        tell: told how far it is and the best so far; returns False to stop with that.

    Returns:
        The best layout found; the same for the same parts while there is time for as many tries.
    """
    bench = _Bench(plate, gap, turns)
    rng = np.random.default_rng(1)
    order = sorted(range(len(parts)), key=lambda i: (-_reach(parts[i].outline), parts[i].key, parts[i].id))
    best = bench.lay([parts[i] for i in order])
    rows = _in_rows(parts, plate, gap, turns)
    if rows is not None and rows.better_than(best):
        best = rows
    started, tries = time.monotonic(), 0
    while len(parts) > 1 and time.monotonic() - started < seconds:
        share = (time.monotonic() - started) / seconds
        if not tell(share, f"{best.plates} {'plate' if best.plates == 1 else 'plates'} so far", best):
            break
        weights = np.arange(len(order)) + rng.normal(0, 0.6 + 0.25 * len(order) * rng.random(), len(order))
        layout = bench.lay([parts[order[i]] for i in np.argsort(weights)])
        tries += 1
        if layout.better_than(best):
            best = layout
    return _centred(best, parts, plate)


def _in_rows(parts: Sequence[NestingPart], plate: Floats, gap: float, turns: Turns) -> Layout | None:
    """Lay parts out by the boxes around them; None on a plate that is no box."""
    if len(plate) != 4:
        return None
    boxes = [_box_of(part.outline, turns) for part in parts]
    packed = in_rows([size for _, size in boxes], plate, gap, turned=turns != "none")
    if not packed:
        return None
    laid = tuple(
        PartPlacement(
            parts[packed_box.number].id,
            packed_box.plate,
            (boxes[packed_box.number][0] + packed_box.turn) % 360,
            packed_box.x,
            packed_box.y,
        )
        for packed_box in packed
    )
    there = {part_placement.id for part_placement in laid}
    last = max(packed_box.plate for packed_box in packed)
    deep = max(
        packed_box.y + sizes[::-1][int(packed_box.turn == 0)] / 2
        for packed_box in packed
        if packed_box.plate == last
        for sizes in (boxes[packed_box.number][1],)
    )
    low, high = plate.min(axis=0)[1], plate.max(axis=0)[1]
    unplaced = tuple(part.id for part in parts if part.id not in there)
    return Layout(laid, unplaced, last + 1, float((deep - low) / (high - low)))


def _box_of(outline: Outline, turns: Turns) -> tuple[float, tuple[float, float]]:
    """The least box around an outline in the turns that are allowed, and the turn it has that in."""
    angles = [0.0]
    if turns == "any":
        box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(outline))
        along = box[1] - box[0]
        angles.append(round(-float(np.degrees(np.arctan2(along[1], along[0]))) % 360, 9))
    rows = []
    for angle in angles:
        turned = shapely.affinity.rotate(outline, angle, origin=(0, 0)) if angle else outline
        x0, y0, x1, y1 = turned.bounds
        rows.append(((x1 - x0) * (y1 - y0), angle, (x1 - x0, y1 - y0)))
    _, angle, size = min(rows)
    return angle, size


def _centred(layout: Layout, parts: Sequence[NestingPart], plate: Floats) -> Layout:
    """Move what is laid on each plate to the middle of it, as a whole, where the plate has room there."""
    outlines, room = {part.id: part.outline for part in parts}, shapely.Polygon(plate).buffer(1e-9)
    there = [_placed(outlines[part_placement.id], part_placement) for part_placement in layout.laid]
    laid = list(layout.laid)
    middle = (plate.min(axis=0) + plate.max(axis=0)) / 2
    for number in range(layout.plates):
        here = [i for i, part_placement in enumerate(laid) if part_placement.plate == number]
        whole = shapely.GeometryCollection([there[i] for i in here])
        x, y = (middle - np.array(whole.bounds).reshape(2, 2).mean(axis=0)).tolist()
        for i in here if room.contains(shapely.affinity.translate(whole, x, y)) else ():
            laid[i] = replace(laid[i], x=laid[i].x + x, y=laid[i].y + y)
    return replace(layout, laid=tuple(laid))


def _placed(outline: Outline, placement: PartPlacement) -> Outline:
    turned = shapely.affinity.rotate(outline, placement.turn, origin=(0, 0))
    x0, y0, x1, y1 = turned.bounds
    return shapely.affinity.translate(turned, placement.x - (x0 + x1) / 2, placement.y - (y0 + y1) / 2)


def _reach(outline: Outline) -> float:
    """How much room a part asks for: its area and the box around it count alike."""
    x0, y0, x1, y1 = outline.bounds
    return float(outline.area + (x1 - x0) * (y1 - y0) + max(x1 - x0, y1 - y0) ** 2 / 2)


@dataclass(frozen=True, eq=False)
class _Stamp:
    """A part turned a way, as cells.

    Attributes:
        turn: in degrees.
        own: its cells.
        own_seen, wide_seen: transforms of these, and of those with the gap around them, for a correlation.
        middle: (2,) of its box, in mm from the first corner of ``own``.
    """

    turn: float
    own: _Cells
    own_seen: NDArray[np.complex64]
    wide_seen: NDArray[np.complex64]
    middle: Floats


@dataclass(eq=False)
class _Filling:
    """One plate being filled: the cells that are taken, and their transform."""

    taken: _Cells
    seen: NDArray[np.complex64]
    deep: float = 0.0
    full_for: set[str] = field(default_factory=set)


class _Bench:
    """A plate as cells, and the stamps of parts."""

    def __init__(self, plate: Floats, gap: float, turns: Turns) -> None:
        self._plate, self._low = plate, plate.min(axis=0)
        self._alone: dict[str, TightPlacement | None] = {}
        size = np.ptp(plate, axis=0)
        self._cell = max(_FINEST_MM, float(size.max()) / _CELLS)
        self._gap, self._turns = gap, turns
        self._shape = tuple(int(np.ceil(side / self._cell)) for side in size[::-1])
        self._lead = int(np.ceil(gap / self._cell)) + 1
        # Room for the gap around, so that what hangs out at one side does not come in again at the other.
        self._wide = tuple(
            scipy.fft.next_fast_len(side + 2 * self._lead + 2, real=True) for side in self._shape
        )
        outside = np.ones(self._wide, bool)
        room = shapely.Polygon(plate).buffer(-self._cell * _TOUCH + 1e-9)
        outside[: self._shape[0], : self._shape[1]] = ~self._drawn(room, self._low, self._shape)
        self._outside = self._seen(outside)
        self._stamps: dict[str, list[_Stamp]] = {}

    def lay(self, parts: Sequence[NestingPart]) -> Layout:
        """Lay parts in the order given."""
        fillings: list[_Filling] = []
        laid, unplaced = [], []
        for part in parts:
            part_placement = self._on_any(part, fillings)
            if part_placement is None:
                unplaced.append(part.id)
            else:
                laid.append(part_placement)
        used = fillings[-1].deep / self._shape[0] if fillings else 0.0
        return Layout(tuple(laid), tuple(unplaced), len(fillings), used)

    def _on_any(self, part: NestingPart, fillings: list[_Filling]) -> PartPlacement | None:
        for number, filling in enumerate(fillings):
            placement = self._put(part, filling)
            if placement is not None:
                return PartPlacement(part.id, number, *placement)
        empty = _Filling(np.zeros(self._wide, bool), np.zeros_like(self._outside))
        placement = self._put(part, empty)
        if placement is None:
            return self._on_its_own(part, fillings)
        fillings.append(empty)
        return PartPlacement(part.id, len(fillings) - 1, *placement)

    def _on_its_own(self, part: NestingPart, fillings: list[_Filling]) -> PartPlacement | None:
        """Put a part that is too tight for cells on a plate of its own, exactly."""
        if part.key not in self._alone:
            self._alone[part.key] = self._fit(part.outline)
        fit = self._alone[part.key]
        if fit is None:
            return None
        fillings.append(
            _Filling(np.ones(self._wide, bool), self._seen(np.ones(self._wide, bool)), self._shape[0])
        )
        return PartPlacement(part.id, len(fillings) - 1, fit.turn, fit.x, fit.y)

    def _fit(self, outline: Outline) -> TightPlacement | None:
        tight_placement = fit_of(outline, self._plate, self._angles(outline))
        if tight_placement is None and self._turns == "any":
            tight_placement = fit_of(outline, self._plate, fine_turns())
        return tight_placement

    def _put(self, part: NestingPart, filling: _Filling) -> tuple[float, float, float] | None:
        """Put a part where it lies lowest, and at the left of that; None where it does not fit."""
        if part.key in filling.full_for or not self._stamps_of(part):
            return None
        best: tuple[float, float, _Stamp, int, int] | None = None
        stamps = self._stamps_of(part)
        for stamp, hits in zip(stamps, self._hits(stamps, filling), strict=True):
            at = self._lowest(stamp, hits)
            if at is not None:
                row, column = at
                top = row + stamp.own.shape[0]
                key = (top + _LEFT * (column + stamp.own.shape[1]), column)
                if best is None or key < best[:2]:
                    best = (*key, stamp, row, column)
        if best is None:
            filling.full_for.add(part.key)  # A plate only gets fuller.
            return None
        _, _, stamp, row, column = best
        rows, columns = stamp.own.shape
        filling.taken[row : row + rows, column : column + columns] |= stamp.own
        filling.seen = self._seen(filling.taken)
        filling.deep = max(filling.deep, row + rows)
        x, y = (self._low + self._cell * np.array([column, row]) + stamp.middle).tolist()
        return stamp.turn, x, y

    def _hits(self, stamps: list[_Stamp], filling: _Filling) -> NDArray[np.float32]:
        """How many cells of each stamp would be on taken ones, or off the plate, wherever it is put."""
        own = np.stack([stamp.own_seen for stamp in stamps])
        if filling.deep:
            return self._back(
                self._outside * own + filling.seen * np.stack([stamp.wide_seen for stamp in stamps])
            )
        return self._back(self._outside * own)

    def _back(self, seen: NDArray[np.complex64]) -> NDArray[np.float32]:
        return np.asarray(scipy.fft.irfft2(seen, self._wide, overwrite_x=True, workers=-1))

    def _lowest(self, stamp: _Stamp, hits: NDArray[np.float32]) -> tuple[int, int] | None:
        """Where a stamp lies lowest, and at the left of that."""
        rows, columns = (room - own + 1 for room, own in zip(self._shape, stamp.own.shape, strict=True))
        if rows <= 0 or columns <= 0:
            return None
        free = hits[:rows, :columns] < 0.5
        first = free.argmax(axis=1)
        some = np.flatnonzero(free[np.arange(rows), first])
        if not len(some):
            return None
        row = int(some[(some + _LEFT * first[some]).argmin()])
        return row, int(first[row])

    def _stamps_of(self, part: NestingPart) -> list[_Stamp]:
        if part.key not in self._stamps:
            stamps = [self._stamp(part.outline, turn) for turn in self._angles(part.outline)]
            if self._turns == "any" and not any(stamps):  # Something long may go in aslant.
                stamps = [
                    self._stamp(part.outline, float(turn)) for turn in range(0, 180, _FINE_STEP_DEGREES)
                ]
            self._stamps[part.key] = [stamp for stamp in stamps if stamp is not None]
        return self._stamps[part.key]

    def _angles(self, outline: Outline) -> list[float]:
        if self._turns == "none":
            return [0.0]
        quarters = [0.0, 90.0, 180.0, 270.0]
        if self._turns == "quarters":
            return quarters
        box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(outline))
        along = box[1] - box[0]
        straight = -float(np.degrees(np.arctan2(along[1], along[0])))
        more = [straight + quarter for quarter in quarters]
        angles = [*quarters, *more, *range(0, 360, _STEP_DEGREES)]
        return list(dict.fromkeys(round(float(angle) % 360, 6) % 360 for angle in angles))

    def _stamp(self, outline: Outline, turn: float) -> _Stamp | None:
        turned = shapely.affinity.rotate(outline, turn, origin=(0, 0)) if turn else outline
        low = np.array(turned.bounds[:2]) - 1e-9
        size = np.array(turned.bounds[2:]) - low + 1e-9
        rows, columns = (max(1, int(np.ceil(side / self._cell))) for side in size[::-1])
        if rows > self._shape[0] or columns > self._shape[1]:
            return None
        lead = self._lead
        own = self._drawn(turned.buffer(self._cell * _TOUCH, quad_segs=4), low, (rows, columns))
        # The room that is asked for is as far from the cells of the others as their shapes are to be.
        around = turned.buffer(self._gap + self._cell * _TOUCH, quad_segs=8)
        wide = self._drawn(around, low - lead * self._cell, (rows + 2 * lead, columns + 2 * lead))
        middle = (low + np.array(turned.bounds[2:])) / 2 - low
        return _Stamp(turn, own, self._about(own, 0), self._about(wide, lead), middle)

    def _drawn(self, shape: shapely.Geometry, low: Floats, cells: tuple[int, ...]) -> _Cells:
        """Which cells have their middle in a shape."""
        rows, columns = cells
        x = low[0] + (np.arange(columns) + 0.5) * self._cell
        y = low[1] + (np.arange(rows) + 0.5) * self._cell
        shapely.prepare(shape)
        return np.asarray(shapely.contains_xy(shape, *np.meshgrid(x, y)))

    def _about(self, cells: _Cells, lead: int) -> NDArray[np.complex64]:
        """The transform of cells for a correlation, their ``lead`` first ones before the origin."""
        whole = np.zeros(self._wide, np.float32)
        whole[: cells.shape[0], : cells.shape[1]] = cells
        seen = scipy.fft.rfft2(np.roll(whole, (-lead, -lead), axis=(0, 1)))
        return np.asarray(np.conj(seen), np.complex64)

    def _seen(self, cells: _Cells) -> NDArray[np.complex64]:
        return np.asarray(scipy.fft.rfft2(cells.astype(np.float32)), np.complex64)
