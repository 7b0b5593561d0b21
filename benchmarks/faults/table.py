"""The faults: in units, up axes, placing, correction, allowance, bores, seats, writers, readers, bodies,
remedies.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from aimtrue.core.formats.contents import FileObjects
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import TracedSolids
from aimtrue.core.model.body import Body
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import group_of
from aimtrue.core.model.pairs import PairSide
from aimtrue.core.model.seats import Seat
from benchmarks.faults.put_in import Fault, Wrong


def _scaled(times: Any) -> Wrong:
    return lambda right: lambda *told, **more: right(*told, **more) * times


def _with(**entries: Any) -> Wrong:
    return lambda right: {
        **right,
        **{next(key for key in right if str(key) == name): value for name, value in entries.items()},
    }


def _on_points(change: Callable[[np.ndarray[Any, Any]], Any]) -> Wrong:
    return lambda right: lambda *told, **more: change(right(*told, **more))


def _moved(by: Any) -> Wrong:
    return _on_points(lambda points: points + np.asarray(by))


def _on_part(change: Callable[[Mesh], Mesh]) -> Wrong:
    def made(right: Any) -> Any:
        def read(*told: Any, **more: Any) -> FileObjects:
            contents: FileObjects = right(*told, **more)
            first = contents.parts[0]
            return replace(contents, parts=(replace(first, mesh=change(first.mesh)), *contents.parts[1:]))

        return read

    return made


def _on_written_mesh(change: Callable[[Mesh], Mesh]) -> Wrong:
    return lambda right: lambda mesh, *more: right(change(mesh), *more)


def _on_sides(change: Callable[[PairSide], dict[str, Any]]) -> Wrong:
    return lambda right: lambda *told: [side.model_copy(update=change(side)) for side in right(*told)]


def _on_items(change: Callable[[list[Any]], list[Any]]) -> Wrong:
    return lambda right: lambda items, *more, **named: right(change(items), *more, **named)


def _remeshed(made: TracedSolids, change: Callable[[Mesh], Mesh]) -> TracedSolids:
    return replace(made, mesh=change(made.mesh))


def _fewer(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.faces[:-1])


def _rounded(digits: int) -> Callable[[Mesh], Mesh]:
    return lambda mesh: mesh.mapped(lambda points: np.round(points, digits))


def _mirrored(mesh: Mesh) -> Mesh:
    return mesh.mapped(lambda points: points * [-1.0, 1.0, 1.0])


def _turned_over(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))


def _left_over(mesh: Mesh, seat: Seat | None) -> Mesh:
    return _turned_over(mesh) if seat is not None and seat.mirrored else mesh


def _shaken(mesh: Mesh) -> Mesh:
    vertices = mesh.vertices.copy()
    vertices[len(vertices) // 2] += 2e-3 * mesh.extents().max()
    return Mesh(vertices, mesh.faces)


def _values(change: Callable[[tuple[float, ...]], tuple[float, ...]]) -> Wrong:
    return lambda right: lambda *told, **more: change(right(*told, **more))


def _correction(change: Callable[[Any], dict[str, Any]]) -> Wrong:
    def made(right: Any) -> Any:
        def wrong(*told: Any, **more: Any) -> Any:
            got = right(*told, **more)
            return None if got is None else got.model_copy(update=change(got))

        return wrong

    return made


def _times(factors: Any, by: tuple[float, float, float]) -> tuple[float, ...]:
    return tuple(factor * one for factor, one in zip(factors, by, strict=True))


def _text_digits(right: Any) -> Any:
    """A writer of text that writes five digits where nine are needed."""

    def wrong(*told: Any) -> bytes:
        text: str = right(*told).decode()
        return "".join(_short_number(word) for word in _words(text)).encode()

    return wrong


def _words(text: str) -> list[str]:
    import re

    return re.split(r"(\s+)", text)


def _short_number(word: str) -> str:
    return f"{float(word):.5g}" if "." in word and word.lstrip("-")[:1].isdigit() else word


FAULTS: tuple[Fault, ...] = (
    # units and lengths
    Fault("unit", "an inch is 25 mm", "model.lengths:MM_PER", _with(**{"in": 25.0})),
    Fault("unit", "a centimetre is 1 mm", "model.lengths:MM_PER", _with(cm=1.0)),
    Fault("unit", "a foot is 300 mm", "model.lengths:MM_PER", _with(ft=300.0)),
    Fault("unit", "typed lengths are a thousandth long", "model.lengths:parse_length", _scaled(1.001)),
    Fault("unit", "typed feet are metres", "model.lengths:_EXACT_MM", _with(ft=1000)),
    Fault("unit", "typed inches are centimetres", "model.lengths:_EXACT_MM", _with(**{"in": 10})),
    Fault("unit", "typed factors are per mille", "model.lengths:parse_factor", _scaled(1.001)),
    Fault(
        "unit",
        "a 3MF's unit is not read",
        "formats.threemf.model:_declared_unit",
        lambda right: lambda attributes: Unit.MM,
    ),
    Fault(
        "unit",
        "a size stays when the unit is settled anew",
        "chain.correction:for_other_unit",
        lambda right: (
            lambda now, old, new: now.model_copy(update={"factors": _times(now.factors, (1.01,) * 3)})
        ),
    ),
    # up axis and home
    Fault(
        "up",
        "Y up turns the wrong way",
        "chain.transforms:_TURN_UP",
        _with(y=np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])),
    ),
    Fault(
        "up",
        "Y up mirrors",
        "chain.transforms:_TURN_UP",
        _with(y=np.array([[1.0, 0, 0], [0, 0, 1], [0, 1, 0]])),
    ),
    Fault(
        "up",
        "X up is Y up",
        "chain.transforms:_TURN_UP",
        _with(x=np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])),
    ),
    Fault("up", "up is not turned at all", "chain.transforms:turn_up", lambda right: lambda up: np.eye(3)),
    Fault(
        "home",
        "home is a millimetre off",
        "chain.sizes:home_of",
        lambda right: lambda *told: tuple(np.add(right(*told), (0, 0, 1.0)).tolist()),
    ),
    Fault("home", "points are not brought home", "chain.transforms:drawn_points", _moved((0.0, 0.0, 0.75))),
    # placing
    Fault("placing", "points are drawn a thousandth large", "chain.transforms:base_points", _scaled(1.001)),
    Fault("placing", "corrected points are moved", "chain.transforms:true_points", _moved((0.01, 0, 0))),
    Fault(
        "placing",
        "factors act on the wrong axes",
        "chain.transforms:base_points",
        _on_points(lambda points: points[:, [1, 0, 2]]),
    ),
    Fault("placing", "released points are moved", "chain.allowance:allowed_points", _moved((0, 0.005, 0))),
    Fault(
        "placing",
        "one axis is mirrored",
        "chain.allowance:allowed_points",
        _on_points(lambda points: points * [1.0, -1.0, 1.0]),
    ),
    Fault(
        "placing",
        "two axes are exchanged",
        "chain.allowance:allowed_points",
        _on_points(lambda points: points[:, [0, 2, 1]]),
    ),
    Fault(
        "placing",
        "points are sheared",
        "chain.allowance:allowed_points",
        _on_points(lambda points: points + 1e-3 * points[:, [1, 2, 0]] * [1.0, 0, 0]),
    ),
    Fault(
        "placing",
        "coordinates lose digits",
        "chain.allowance:allowed_points",
        _on_points(lambda points: np.round(points, 3)),
    ),
    # correction
    Fault(
        "correction",
        "a typed size is a tenth of a millimetre off",
        "chain.correction:scaled_to_size",
        _correction(lambda got: {"factors": _times(got.factors, (1.001,) * 3)}),
    ),
    Fault(
        "correction",
        "a typed size scales another axis",
        "chain.correction:scaled_to_size",
        _correction(lambda got: {"factors": (got.factors[2], got.factors[0], got.factors[1])}),
    ),
    Fault(
        "correction",
        "a typed factor is inverted",
        "chain.correction:with_factor",
        _correction(lambda got: {"factors": tuple(1 / factor for factor in got.factors)}),
    ),
    Fault(
        "correction",
        "readings are met a thousandth too large",
        "truing.solving.solve:solve",
        lambda right: lambda *told: replace(right(*told), factors=_times(right(*told).factors, (1.002,) * 3)),
    ),
    Fault(
        "correction",
        "a gauge between points is measured short",
        "gauges.forms:SpanForm.lengths",
        _values(lambda got: tuple(0.999 * one for one in got)),
    ),
    Fault(
        "correction",
        "a diameter is taken for a radius",
        "gauges.forms:CircleForm.lengths",
        _values(lambda got: tuple(one / 2 for one in got)),
    ),
    Fault(
        "correction",
        "gauges are measured on the file's numbers",
        "gauges.measure:base_points",
        lambda right: lambda job, body, points: points,
    ),
    Fault(
        "correction",
        "a band takes no clearance of its reading",
        "gauges.bands:band_of",
        lambda right: lambda reading: right(reading.model_copy(update={"clearance_mm": 0.0})),
    ),
    Fault(
        "correction",
        "a stretch is taken square to its gauge",
        "chain.transforms:along_matrix",
        lambda right: lambda along: 2 * np.eye(3) - right(along) if along else np.eye(3),
    ),
    Fault(
        "correction",
        "a stretch is left out",
        "chain.transforms:along_matrix",
        lambda right: lambda along: np.eye(3),
    ),
    Fault(
        "correction",
        "the stretch along a gauge is inverted",
        "truing.solving.directional_stretch:stretched_along",
        _correction(lambda got: {"along": got.along.model_copy(update={"factor": 1 / got.along.factor})}),
    ),
    # allowance
    Fault(
        "allowance",
        "a clearance counts twice",
        "chain.allowance:cleared",
        lambda right: lambda job, body: (2 * right(job, body)[0] - 1, 2 * right(job, body)[1]),
    ),
    Fault(
        "allowance",
        "a clearance is taken about the origin",
        "chain.allowance:cleared",
        lambda right: lambda job, body: (right(job, body)[0], np.zeros(3)),
    ),
    Fault(
        "allowance",
        "a clearance is left out",
        "chain.allowance:cleared",
        lambda right: lambda job, body: (np.ones(3), np.zeros(3)),
    ),
    Fault(
        "allowance",
        "clearances are on the wrong axes",
        "chain.allowance:cleared",
        lambda right: lambda job, body: tuple(np.roll(one, 1) for one in right(job, body)),
    ),
    Fault(
        "allowance",
        "shrinkage is taken the other way",
        "chain.allowance:grown",
        lambda right: lambda job, body: 1 / right(job, body),
    ),
    Fault(
        "allowance",
        "shrinkage is added, not divided by",
        "chain.allowance:grown",
        lambda right: lambda job, body: 1 + np.asarray(job.shrinkage_of(body).shares),
    ),
    Fault(
        "allowance",
        "shrinkage is left out",
        "chain.allowance:grown",
        lambda right: lambda job, body: np.ones(3),
    ),
    Fault("allowance", "a typed percentage is a share", "truing.allowances:_share", _scaled(10.0)),
    Fault(
        "allowance",
        "a typed clearance loses its sign",
        "model.lengths:parse_offset",
        lambda right: lambda text: abs(right(text)),
    ),
    # kept bores
    Fault(
        "kept bores",
        "kept bores scale",
        "chain.kept_bores:with_kept_bores",
        lambda right: lambda points, *told: points,
    ),
    Fault(
        "kept bores",
        "kept bores get a radius for a diameter",
        "chain.kept_bores:with_kept_bores",
        lambda right: lambda *told: right(*told[:-1], told[-1] * 2),
    ),
    Fault(
        "kept bores",
        "kept bores do not know their unit",
        "chain.kept_bores:with_kept_bores",
        lambda right: lambda *told: right(*told[:-1], 1.01),
    ),
    Fault(
        "kept bores",
        "kept bores are moved",
        "chain.kept_bores:with_kept_bores",
        lambda right: (
            lambda points, file, bores, linear, shift, per: right(
                points, file, bores, linear, shift + 0.05, per
            )
        ),
    ),
    Fault("kept bores", "kept bores are found too narrowly", "chain.kept_bores:_ON_WALL", lambda right: -1.0),
    # seat
    Fault(
        "seat",
        "turns are done in the wrong order",
        "chain.seat_turns:seat_matrix",
        lambda right: lambda seat: right(seat.model_copy(update={"turns": seat.turns[::-1]})),
    ),
    Fault(
        "seat",
        "turns go the other way",
        "chain.seat_turns:turn_matrix",
        lambda right: lambda turn: right(turn).T,
    ),
    Fault(
        "seat",
        "degrees are taken for gradians",
        "chain.seat_turns:turn_matrix",
        lambda right: lambda turn: right(turn.model_copy(update={"degrees": turn.degrees * 0.9})),
    ),
    Fault(
        "seat",
        "a degree of tilt",
        "chain.seat_turns:seat_matrix",
        lambda right: lambda seat: right(seat.model_copy(update={"turns": (*seat.turns, _tilt())})),
    ),
    Fault(
        "seat",
        "bodies float",
        "seating.placement.side_by_side:row_moves",
        lambda right: lambda *told: [np.add(one, (0, 0, 0.2)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "bodies are sunk",
        "seating.placement.side_by_side:row_moves",
        lambda right: lambda *told: [np.subtract(one, (0, 0, 0.01)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "bodies stand aside",
        "seating.placement.side_by_side:row_moves",
        lambda right: lambda *told: [np.add(one, (0, 3.0, 0)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "a mirrored part is not mirrored",
        "chain.seat_turns:seat_matrix",
        lambda right: lambda seat: right(seat.model_copy(update={"mirrored": False})),
    ),
    Fault(
        "seat",
        "a mirrored part is left inside out",
        "release.writing:_placed",
        lambda right: lambda job, item, *told: _left_over(right(job, item, *told), item.seat),
    ),
    Fault(
        "seat",
        "a lift is forgotten",
        "seating.placement.side_by_side:row_moves",
        lambda right: (
            lambda seats, *told: right([seat.model_copy(update={"lift": 0.0}) for seat in seats], *told)
        ),
    ),
    Fault(
        "seat",
        "a typed place is missed",
        "seating.placement.side_by_side:row_moves",
        lambda right: (
            lambda seats, *told: right(
                [seat if seat.x is None else seat.model_copy(update={"x": seat.x + 0.05}) for seat in seats],
                *told,
            )
        ),
    ),
    Fault(
        "seat",
        "a worked out turn is a little short",
        "chain.seat_turns:turn_matrix",
        lambda right: (
            lambda turn: right(
                turn.model_copy(update={"degrees": turn.degrees - (0.02 if turn.about else 0.0)})
            )
        ),
    ),
    Fault(
        "seat",
        "bodies of a kit come apart",
        "release.writing:_placed",
        lambda right: (
            lambda job, item, store, shift, order: right(
                job, item, store, shift + np.array([0.5 * (item.body.id[-1] == "2"), 0, 0]), order
            )
        ),
    ),
    # what the sheets say
    Fault(
        "sheets",
        "the sheet shows another size",
        "chain.allowance:allowed_sizes",
        lambda right: lambda *told: _times(right(*told), (1.001, 1, 1)),
    ),
    Fault(
        "sheets",
        "the sheet shows another reading",
        "gauges.measure:lengths_of",
        _values(lambda got: tuple(one * 1.001 for one in got)),
    ),
    Fault(
        "sheets",
        "bounds of bodies are wrong",
        "intake.taken_bodies:body_of",
        lambda right: lambda *told: _with_wrong_bounds(right(*told)),
    ),
    # writers
    Fault(
        "writers",
        "a binary STL loses its last triangle",
        "formats.stl:write_binary",
        _on_written_mesh(_fewer),
    ),
    Fault(
        "writers",
        "a binary STL is rounded to hundredths",
        "formats.stl:write_binary",
        _on_written_mesh(_rounded(2)),
    ),
    Fault("writers", "a binary STL is mirrored", "formats.stl:write_binary", _on_written_mesh(_mirrored)),
    Fault(
        "writers", "a binary STL is turned over", "formats.stl:write_binary", _on_written_mesh(_turned_over)
    ),
    Fault(
        "writers", "one vertex of a binary STL is off", "formats.stl:write_binary", _on_written_mesh(_shaken)
    ),
    Fault("writers", "an ASCII STL has five digits", "formats.stl:write_ascii", _text_digits),
    Fault(
        "writers", "an ASCII STL loses its last triangle", "formats.stl:write_ascii", _on_written_mesh(_fewer)
    ),
    Fault("writers", "an OBJ has five digits", "formats.obj:write", _text_digits),
    Fault("writers", "one vertex of an OBJ is off", "formats.obj:write", _on_written_mesh(_shaken)),
    Fault(
        "writers",
        "a 3MF says another unit",
        "formats.threemf.writing:UNIT_WORDS",
        lambda right: {unit: "inch" for unit in right},
    ),
    Fault(
        "writers",
        "a 3MF loses an object",
        "formats.threemf.writing:write",
        _on_items(lambda items: items[:-1] or items * 2),
    ),
    Fault(
        "writers",
        "one vertex of a 3MF is off",
        "formats.threemf.writing:write",
        _on_items(lambda items: [replace(item, mesh=_shaken(item.mesh)) for item in items]),
    ),
    Fault(
        "writers",
        "objects of a 3MF are exchanged",
        "formats.threemf.writing:write",
        _on_items(
            lambda items: items[::-1] if len(items) > 1 else [replace(items[0], mesh=_fewer(items[0].mesh))]
        ),
    ),
    Fault(
        "writers",
        "the unit written is multiplied by",
        "release.writing:MM_PER",
        lambda right: {unit: 1 / value for unit, value in right.items()},
    ),
    Fault(
        "writers",
        "a copy in a 3MF is placed 0.02 mm off",
        "formats.threemf.writing:_item_xml",
        lambda right: lambda number, move: right(number, None if move is None else move + 0.02),
    ),
    Fault(
        "writers",
        "a copy in a 3MF is not placed",
        "formats.threemf.writing:_item_xml",
        lambda right: lambda number, move: right(number, None),
    ),
    Fault(
        "writers",
        "numbers are printed with two decimals",
        "formats.columns:rows_of_floats",
        lambda right: lambda rows, **how: right(np.round(rows, 2), **how),
    ),
    Fault(
        "writers",
        "a PLY is written with two decimals",
        "formats.ply:write",
        lambda right: lambda mesh, comment: right(Mesh(np.round(mesh.vertices, 2), mesh.faces), comment),
    ),
    Fault(
        "filing",
        "what is put down at the origin is 0.05 mm off",
        "release.filing:_put_down",
        lambda right: (
            lambda file: replace(
                right(file), items=tuple(item.moved(np.array([0.05, 0, 0])) for item in right(file).items)
            )
        ),
    ),
    Fault(
        "filing",
        "a body is left out of its file",
        "release.filing:filed",
        lambda right: (
            lambda job, store, order: tuple(
                replace(file, items=file.items[:-1] or file.items) for file in right(job, store, order)
            )
        ),
    ),
    Fault(
        "filing",
        "the first body stands for all",
        "release.filing:filed",
        lambda right: (
            lambda job, store, order: tuple(
                replace(file, items=file.items[:1] * len(file.items)) for file in right(job, store, order)
            )
        ),
    ),
    # readers
    Fault("readers", "a binary STL loses a triangle", "formats.stl:_read_binary", _on_part(_fewer)),
    Fault(
        "readers",
        "corners of an STL are joined too widely",
        "formats.stl:_read_binary",
        _on_part(_rounded(1)),
    ),
    Fault("readers", "one vertex of an STL is off", "formats.stl:_read_binary", _on_part(_shaken)),
    Fault(
        "readers",
        "an STL is mirrored",
        "formats.stl:_read_binary",
        _on_part(lambda mesh: _turned_over(_mirrored(mesh))),
    ),
    Fault(
        "readers",
        "an ASCII STL loses digits",
        "formats.stl:_read_ascii",
        _on_part(
            lambda mesh: mesh.mapped(
                lambda points: np.asarray([[float(f"{x:.4g}") for x in row] for row in points])
            )
        ),
    ),
    Fault(
        "readers",
        "numbers of an OBJ that count back are off by one",
        "formats.obj:_face",
        lambda right: (
            lambda group, rest, known, number: right(group, rest, known - 1 if "-" in rest else known, number)
        ),
    ),
    Fault(
        "readers",
        "a group of an OBJ is passed over",
        "formats.obj:read",
        lambda right: lambda data: replace(right(data), parts=right(data).parts[:1]),
    ),
    Fault(
        "readers",
        "polygons lose their last corner",
        "mesh.polygons:triangles_of",
        lambda right: lambda polygons, vertices: right(polygons, vertices)[:-1],
    ),
    Fault(
        "readers",
        "hollow polygons are cut as fans",
        "mesh.polygons:_hollow",
        lambda right: lambda *told: np.zeros_like(right(*told)),
    ),
    Fault(
        "readers",
        "a PLY is read in single precision",
        "formats.ply:read",
        _on_part(lambda mesh: mesh.mapped(lambda points: points.astype(np.float16).astype(np.float64))),
    ),
    Fault(
        "readers",
        "transforms of a 3MF are passed over",
        "formats.threemf.package:_moved",
        lambda right: lambda mesh, transform: mesh,
    ),
    Fault(
        "readers",
        "transforms of a 3MF are transposed",
        "formats.threemf.package:_moved",
        lambda right: lambda mesh, transform: right(mesh, np.vstack([transform[:3].T, transform[3]])),
    ),
    Fault(
        "readers",
        "components are placed in the wrong order",
        "formats.threemf.package:_chained",
        lambda right: lambda first, then: right(then, first),
    ),
    Fault(
        "readers",
        "mirrored objects are not turned over",
        "formats.threemf.package:_moved",
        lambda right: (
            lambda mesh, transform: mesh.mapped(lambda points: points @ transform[:3] + transform[3])
        ),
    ),
    # bodies and geometry
    Fault(
        "bodies",
        "a hollow is lost",
        "intake.taken_bodies:separate",
        lambda right: lambda mesh: right(mesh)[:1],
    ),
    Fault(
        "bodies",
        "a triangle of a body is lost",
        "intake.taken_bodies:separate",
        lambda right: (
            lambda mesh: [replace(right(mesh)[0], mesh=_fewer(right(mesh)[0].mesh)), *right(mesh)[1:]]
        ),
    ),
    Fault(
        "bodies",
        "good triangles are set aside",
        "intake.taken_bodies:set_aside",
        lambda right: (
            lambda mesh: replace(right(mesh), mesh=_fewer(right(mesh).mesh), empty=right(mesh).empty + 1)
        ),
    ),
    Fault(
        "bodies",
        "geometry is kept in half precision",
        "mesh.serialization:to_bytes",
        lambda right: (
            lambda mesh: right(mesh.mapped(lambda points: points.astype(np.float16).astype(np.float64)))
        ),
    ),
    Fault(
        "bodies",
        "kept geometry comes back moved",
        "mesh.serialization:from_bytes",
        lambda right: lambda data: right(data).mapped(lambda points: points + 1e-3),
    ),
    # remedies
    Fault(
        "remedies",
        "a joined body is moved",
        "intake.mending.regroup:joined",
        lambda right: (
            lambda meshes: _remeshed(
                right(meshes), lambda mesh: mesh.mapped(lambda points: np.add(points, (0.1, 0, 0)))
            )
        ),
    ),
    Fault(
        "remedies",
        "joining loses one of the bodies",
        "intake.mending.regroup:joined",
        lambda right: lambda meshes: _remeshed(right(meshes), lambda mesh: meshes[0]),
    ),
    Fault(
        "remedies",
        "closing a hole moves the rest",
        "intake.mending.mend:mended",
        lambda right: lambda mesh, *told: right(mesh, *told).mapped(lambda points: points * 1.01),
    ),
    # divisions
    Fault(
        "divisions",
        "planes are 0.02 beside where they were typed",
        "division.cutting.pieces:cut_by",
        lambda right: (
            lambda solid, planes, *told, **open: right(
                solid, [plane.model_copy(update={"at": plane.at + 0.02}) for plane in planes], *told, **open
            )
        ),
    ),
    Fault(
        "divisions",
        "pieces are swapped",
        "division.cutting.pieces:cut_by",
        lambda right: (
            lambda *told, **open: [
                replace(one, made=one.solid.mirror((1, 0, 0))) for one in right(*told, **open)
            ]
        ),
    ),
    Fault(
        "divisions",
        "holes are as wide as their pins",
        "division.pins.solids:peg",
        lambda right: lambda pins, low, high, *, hole: right(pins, low, high, hole=False),
    ),
    Fault(
        "divisions",
        "holes are half as deep",
        "division.pins.solids:peg",
        lambda right: lambda pins, low, high, *, hole: right(pins, low / 2, high / 2, hole=hole),
    ),
    Fault(
        "divisions",
        "no holes are made",
        "division.pins.solids:pinned",
        lambda right: lambda pieces, planes, pins: list(pieces),
    ),
    Fault(
        "divisions",
        "pins stand where they were not placed",
        "division.pins.solids:pinned",
        lambda right: (
            lambda pieces, planes, pins: right(
                pieces,
                planes,
                pins.model_copy(
                    update={
                        "places": tuple(
                            place.model_copy(
                                update={"point": (place.point[0], place.point[1] + 0.1, place.point[2])}
                            )
                            for place in pins.places
                        )
                    }
                ),
            )
        ),
    ),
    Fault(
        "divisions",
        "a body in numbers of the file goes back by its whole correction",
        "division.frames:in_numbers",
        lambda right: lambda frame, mesh: right(frame, mesh).mapped(lambda points: points * 1.0005),
    ),
    Fault(
        "divisions",
        "the frame leaves the correction out",
        "division.frames:in_mm",
        lambda right: lambda frame, mesh: mesh,
    ),
    Fault(
        "divisions",
        "what is above a height is what is below",
        "division.cutting.split:above",
        lambda right: lambda solid, split: right(solid, split)[::-1],
    ),
    Fault(
        "divisions",
        "a height is split a little higher",
        "division.cutting.split:above",
        lambda right: lambda solid, split: right(solid, split.model_copy(update={"at": split.at + 0.02})),
    ),
    Fault(
        "divisions",
        "the wall of a hollow is thinner than asked",
        "division.cutting.hollow:hollow_in",
        lambda right: lambda mesh, wall, spacing: right(mesh, wall * 0.98, spacing),
    ),
    Fault(
        "divisions",
        "a hollow has no drain",
        "division.cutting.hollow:drilled",
        lambda right: lambda solid, drains, wall: solid,
    ),
    Fault(
        "threads",
        "the flanks of a thread are a degree steeper",
        "model.threads:profile_of",
        lambda right: (
            lambda d, pitch, *, internal, play=0.0: _steeper(right(d, pitch, internal=internal, play=play))
        ),
    ),
    Fault(
        "threads",
        "a thread has no clearance",
        "model.threads:profile_of",
        lambda right: lambda d, pitch, *, internal, play=0.0: right(d, pitch, internal=internal),
    ),
    Fault(
        "threads",
        "the pitch of a thread is a hundredth longer",
        "division.cutting.threads:_rod",
        lambda right: lambda cut: right(cut.model_copy(update={"pitch": 1.01 * cut.pitch})),
    ),
    Fault(
        "threads",
        "a left-hand thread is cut right-hand",
        "division.cutting.threads:_rod",
        lambda right: lambda cut: right(cut.model_copy(update={"left": False})),
    ),
    Fault(
        "threads",
        "a thread ends half a millimetre early",
        "division.cutting.threads:_rod",
        lambda right: lambda cut: right(cut.model_copy(update={"low": cut.low + 0.5})),
    ),
    Fault(
        "threads",
        "a thread begins an eighth of a turn on",
        "division.cutting.threads:_in_place",
        lambda right: lambda made, cut: right(made.rotate((0, 0, 45)), cut),
    ),
    Fault(
        "threads",
        "a thread is beside its bore",
        "division.cutting.threads:_in_place",
        lambda right: lambda made, cut: right(made.translate((0.05, 0, 0)), cut),
    ),
    Fault(
        "fit",
        "faces are moved by a little more",
        "fit.moving:_moved",
        lambda right: lambda mesh, features, chosen, amount: right(mesh, features, chosen, 1.05 * amount),
    ),
    Fault(
        "fit",
        "faces are moved the other way",
        "fit.moving:_moved",
        lambda right: lambda mesh, features, chosen, amount: right(mesh, features, chosen, -amount),
    ),
    Fault(
        "fit",
        "all faces are moved instead of those picked",
        "fit.moving:_chosen",
        lambda right: lambda mesh, features, faces, name: np.ones(mesh.triangles, bool),
    ),
    Fault(
        "fit",
        "faces are not moved along Z",
        "fit.moving:_solved",
        lambda right: (
            lambda corner, normal, wanted, count: (
                right(corner, normal, wanted, count) * np.array([1.0, 1.0, 0.0])
            )
        ),
    ),
    Fault(
        "fit",
        "a bore is told a little wider than it is",
        "fit.faces:_diameters",
        lambda right: lambda *told: (1.001 * right(*told)[0], 1.001 * right(*told)[1], right(*told)[2]),
    ),
    Fault(
        "fit",
        "an oval is told turned by a few degrees",
        "fit.faces:_diameters",
        lambda right: lambda *told: (*right(*told)[:2], right(*told)[2] + 0.05 * np.roll(right(*told)[2], 1)),
    ),
    Fault(
        "fit",
        "a thread is told a little wider than it is",
        "fit.sides:_threads",
        _on_sides(lambda side: {"size_mm": 1.001 * side.size_mm}),
    ),
    Fault(
        "fit",
        "a thread is told to be of the other hand",
        "fit.sides:_threads",
        _on_sides(lambda side: {"pitch_mm": -side.pitch_mm}),
    ),
    Fault(
        "fit",
        "a thread is told a coarser pitch",
        "mesh.features.threads:thread_of",
        lambda right: (
            lambda *told: (
                replace(thread, pitch=1.05 * thread.pitch) if (thread := right(*told)) is not None else None
            )
        ),
    ),
    Fault(
        "fit",
        "the size of a pair is told of other faces",
        "fit.sides:_described",
        lambda right: (
            lambda face: (described := right(face)).model_copy(
                update={"point": (described.point[0], described.point[1] + 0.02, described.point[2])}
            )
        ),
    ),
    Fault(
        "fit",
        "the axis of a bore is told a little aside",
        "fit.faces:_round",
        lambda right: lambda *told: replace(right(*told), point=right(*told).point + np.array([0.01, 0, 0])),
    ),
    Fault(
        "fit",
        "a slot is told a little wider than it is",
        "fit.sides:_sides",
        lambda right: (
            lambda kind, faces: [
                side.model_copy(update={"size_mm": 1.001 * side.size_mm}) for side in right(kind, faces)
            ]
        ),
    ),
    Fault(
        "fit",
        "faces are not moved at all",
        "fit.moving:_moved",
        lambda right: lambda mesh, features, chosen, amount: right(mesh, features, chosen, 0.0),
    ),
    Fault(
        "divisions",
        "a plane cuts more than it is limited to",
        "division.cutting.pieces:_divided",
        lambda right: (
            lambda cell, part, plane, gaping: right(cell, part, plane.model_copy(update={"only": ()}), gaping)
        ),
    ),
    Fault(
        "divisions",
        "what is raised is cut off a little over its foot",
        "division.cutting.raised_faces:parted_by",
        lambda right: (
            lambda solid, prisms: right(
                solid, [prism.model_copy(update={"low": prism.low + 0.02}) for prism in prisms]
            )
        ),
    ),
    Fault(
        "divisions",
        "what is raised and the rest are swapped",
        "division.cutting.raised_faces:parted_by",
        lambda right: lambda solid, prisms: right(solid, prisms)[::-1],
    ),
    Fault(
        "divisions",
        "of an open body that is cut a triangle is left out",
        "division.cutting.halves:parted",
        lambda right: (
            lambda part, plane, *, gaping=False: right(
                replace(part, faces=part.faces[1:]) if gaping else part, plane, gaping=gaping
            )
        ),
    ),
    Fault(
        "divisions",
        "the two parts of a body that is split by another are swapped",
        "division.cutting.steps:together",
        lambda right: lambda one, other, how: right(one, other, how)[::-1],
    ),
    Fault(
        "divisions",
        "a dowel is longer than its holes are deep",
        "division.pins.solids:dowel",
        lambda right: lambda pins: right(pins).scale((1, 1, 1.05)),
    ),
    Fault(
        "kits",
        "a body that is alone has the correction of its kit",
        "model.job:Job.in_force",
        lambda right: _in_force(right, decisions=lambda job, body, own: _kit_of(job, body, own, "shared")),
    ),
    Fault(
        "kits",
        "a body of a kit has a correction of its own",
        "model.job:Job.in_force",
        lambda right: _in_force(right, decisions=lambda job, body, own: body.own),
    ),
    Fault(
        "kits",
        "a body of a kit is not brought home with it",
        "model.job:Job.in_force",
        lambda right: _in_force(right, home=lambda job, body, home: body.home),
    ),
    Fault(
        "kits",
        "a body that is alone is not brought home with its kit",
        "model.job:Job.in_force",
        lambda right: _in_force(right, home=lambda job, body, home: body.home if body.alone else home),
    ),
    Fault(
        "kits",
        "a kit is brought home by twice as much",
        "model.job:Job.in_force",
        lambda right: _in_force(right, home=lambda job, body, home: tuple(2 * one for one in home)),
    ),
    Fault(
        "kits",
        "shrinkage is the first kit's for all bodies",
        "model.job:Job.shrinkage_of",
        lambda right: lambda job, body: job.kits[0].shared.shrinkage if job.kits else right(job, body),
    ),
    Fault(
        "kits",
        "correction is the last body's of a kit",
        "model.job:Job.correction_of",
        lambda right: lambda job, body: right(job, group_of(job, body.id)[-1]),
    ),
    Fault(
        "kits",
        "bodies of a free kit stand as one",
        "model.ownership:subject_of",
        lambda right: lambda job, body: body.kit if body.kit and body.division is None else right(job, body),
    ),
    Fault(
        "kits",
        "bodies of a kit stand each by itself",
        "model.ownership:subject_of",
        lambda right: lambda job, body: body.id,
    ),
    Fault(
        "kits",
        "what a split made stands each by itself",
        "model.ownership:subject_of",
        lambda right: lambda job, body: body.id if body.division else right(job, body),
    ),
    Fault(
        "kits",
        "only the first copy is seated",
        "model.job:Job.seats_of",
        lambda right: lambda job, subject: right(job, subject)[:1],
    ),
    Fault(
        "kits",
        "seats that somebody touched are forgotten",
        "model.job:Job.seats_of",
        lambda right: lambda job, subject: (Seat(subject=subject, plate=job.plates[0].id),),
    ),
    Fault(
        "kits",
        "a whole stands beside its pieces",
        "model.ownership:in_use",
        lambda right: lambda job, bodies: tuple(bodies),
    ),
    Fault(
        "kits",
        "a kit is measured without its last body",
        "model.ownership:group_of",
        lambda right: lambda job, key: right(job, key)[:-1] or right(job, key),
    ),
)


def _in_force(right: Any, **changes: Callable[[Any, Any, Any], Any]) -> Any:
    """What is in force for a body, its decisions or its home taken by a wrong rule."""

    def wrong(job: Any, body: Any) -> Any:
        same, decisions, source, home = right(job, body)
        if "decisions" in changes:
            decisions = changes["decisions"](job, body, decisions)
        if "home" in changes:
            home = changes["home"](job, body, home)
        return same, decisions, source, home

    return wrong


def _kit_of(job: Any, body: Any, otherwise: Any, field: str) -> Any:
    kit = job.kit_of(body)
    return otherwise if kit is None else getattr(kit, field)


def _steeper(pieces: Any) -> Any:
    """The flanks of a thread's profile, narrower by a fiftieth of their run."""
    crest, down, root, up = pieces
    by = 0.04 * (down.heights[1] - down.heights[0])
    return (
        crest,
        replace(down, heights=(down.heights[0], down.heights[1] - by)),
        replace(root, heights=(root.heights[0] - by, root.heights[1] + by)),
        replace(up, heights=(up.heights[0] + by, up.heights[1])),
    )


def _tilt() -> Any:
    from aimtrue.core.model.seats import Turn

    return Turn(axis="y", degrees=1.0)


def _with_wrong_bounds(body: Body) -> Body:
    x, y, z = body.high
    return body.model_copy(update={"high": (x * 1.001, y, z)})
