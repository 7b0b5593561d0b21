"""Faults on purpose: one at a time is put into the core, and a proof or a refusal must catch it.

A fault takes the place of one function or table, in every module of the core that uses it but those of the
proof. Small releases are made under it, from the bytes of a file to the bytes released. It is *caught* when
one of them is refused or not proven, and *escapes* when a file goes out as proven that differs from the
right one.
"""

from __future__ import annotations

import contextlib
import io
import sys
import time
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from importlib import import_module
from typing import Any

import manifold3d
import numpy as np

from aimtrue.core import geometry
from aimtrue.core.actions import (
    Accept,
    AddReading,
    AdjustReading,
    BringHome,
    FreeAxis,
    KeepBores,
    SetAllowance,
    SetFactor,
    SetReading,
    SettleUnit,
    SetUp,
    SizeAxis,
    StretchAlong,
    TakeIn,
    TurnSeat,
    apply,
)
from aimtrue.core.errors import AimTrueError
from aimtrue.core.features.listed import Features, features_of
from aimtrue.core.formats.contents import Contents
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.job import Body, Job
from aimtrue.core.lengths import Unit
from aimtrue.core.mending.remake import Join, Mend, Work, remake
from aimtrue.core.mesh import Mesh
from aimtrue.core.release.make import Format, Order, release
from aimtrue.core.truing.gauges import Spot

_CORE = "aimtrue.core."
_PROOF = "aimtrue.core.proof"
Wrong = Callable[[Any], Any]


@dataclass(frozen=True)
class Fault:
    """What is put in the place of what.

    Attributes:
        room: of the core that it is in.
        says: in words.
        at: module and name within the core; a name with a dot is a method.
        wrong: makes the wrong thing of the right one.
    """

    room: str
    says: str
    at: str
    wrong: Wrong


@contextlib.contextmanager
def put_in(fault: Fault) -> Iterator[None]:
    """Put a fault into the core for a while."""
    module_name, _, name = fault.at.partition(":")
    module = import_module(_CORE + module_name)
    holder, _, attribute = name.rpartition(".")
    right = getattr(getattr(module, holder) if holder else module, attribute)
    wrong = fault.wrong(right)
    places: list[tuple[Any, str]] = []
    if holder:
        places.append((getattr(module, holder), attribute))
    else:
        for key, other in list(sys.modules.items()):
            if key.startswith(_CORE) and not key.startswith(_PROOF):
                places += [(other, word) for word, value in vars(other).items() if value is right]
    for place, word in places:
        setattr(place, word, wrong)
    try:
        yield
    finally:
        for place, word in places:
            setattr(place, word, right)


class _Shelf:
    """Geometry as the application keeps it: written to bytes and read again."""

    def __init__(self, meshes: dict[str, Mesh], originals: dict[str, bytes]) -> None:
        self.kept = {name: geometry.to_bytes(mesh) for name, mesh in meshes.items()}
        self.originals = originals

    def mesh(self, name: str) -> Mesh:
        return geometry.from_bytes(self.kept[name])

    def features(self, body: Body) -> Features:
        return features_of(self.mesh(body.geometry))

    def original(self, sha256: str) -> bytes:
        return self.originals[sha256]


class _Desk:
    """A job being worked on."""

    def __init__(self, name: str, data: bytes) -> None:
        taken = take_in("s1", name, data)
        self.shelf = _Shelf(taken.meshes, {taken.sources[0].sha256: data, **taken.originals})
        self.job = Job(name="fault")
        self.do(TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits))

    def do(self, *actions: Any) -> _Desk:
        for action in actions:
            self.job = apply(self.job, action, self.shelf)
        return self

    def work(self, work: Work) -> _Desk:
        done = remake(f"m{len(self.shelf.kept)}", self.job, work, self.shelf, b"", lambda share, says: None)
        self.shelf.kept.update(done.blobs)
        return self.do(done.action)

    def out(
        self, kind: Format, place: str = "seated", shape: str = "together", unit: Unit = Unit.MM
    ) -> list[bytes]:
        order = Order(format=kind, place=place, shape=shape, unit=unit)  # type: ignore[arg-type]
        return [made.data for made in release(self.job, self.shelf, order).files]


def _mesh(solid: manifold3d.Manifold) -> Mesh:
    made = solid.to_mesh64()
    return Mesh(np.asarray(made.vert_properties)[:, :3].copy(), np.asarray(made.tri_verts).astype(np.int32))


def _bracket() -> Mesh:
    """A plate with a lip and two bores for M5 bolts, away from the origin."""
    plate = manifold3d.Manifold.cube((60, 40, 6)) + manifold3d.Manifold.cube((6, 40, 25))
    for x in (20, 45):
        plate -= manifold3d.Manifold.cylinder(20, 2.75, 2.75, 40).translate((x, 20, -5))
    return _mesh(plate.translate((3.5, -7.25, 11.125)))


def _box(size: tuple[float, float, float], at: tuple[float, float, float]) -> Mesh:
    return _mesh(manifold3d.Manifold.cube(size).translate(at))


def _stl(*meshes: Mesh) -> bytes:
    corners = np.concatenate([mesh.vertices[mesh.faces] for mesh in meshes]).astype("<f4")
    rows = np.zeros(len(corners), np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("s", "<u2")]))
    rows["c"] = corners
    return bytes(80) + np.uint32(len(corners)).tobytes() + rows.tobytes()


def _ascii(mesh: Mesh) -> bytes:
    rows = ["solid knob"]
    for triangle in mesh.vertices[mesh.faces].tolist():
        rows += [
            "facet normal 0 0 0",
            "outer loop",
            *(f"vertex {x:.9e} {y:.9e} {z:.9e}" for x, y, z in triangle),
        ]
        rows += ["endloop", "endfacet"]
    return "\n".join([*rows, "endsolid knob", ""]).encode()


def _3mf() -> bytes:
    """Two objects in centimetres, one placed through a component that mirrors it and turns it."""

    def lists(mesh: Mesh) -> str:
        points = "".join(f'<vertex x="{x!r}" y="{y!r}" z="{z!r}"/>' for x, y, z in mesh.vertices.tolist())
        faces = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in mesh.faces.tolist())
        return f"<mesh><vertices>{points}</vertices><triangles>{faces}</triangles></mesh>"

    core = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
    model = (
        f'<?xml version="1.0"?><model unit="centimeter" xmlns="{core}"><resources>'
        f'<object id="1" name="lid" type="model">{lists(_box((3.1, 2.2, 0.5), (0.1, 0.2, 0.3)))}</object>'
        f'<object id="2" name="wedge" type="model">{lists(_wedge())}</object>'
        '<object id="3"><components>'
        '<component objectid="2" transform="-1 0 0 0 1 0 0 0 1 0.5 0 0"/></components>'
        '</object></resources><build><item objectid="1"/>'
        '<item objectid="3" transform="0 0 1 1 0 0 0 1 0 6 1 0.25"/></build></model>'
    )
    kind = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
    relations = "http://schemas.openxmlformats.org/package/2006/relationships"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr("3D/3dmodel.model", model)
        package.writestr(
            "_rels/.rels",
            f'<Relationships xmlns="{relations}">'
            f'<Relationship Id="r" Type="{kind}" Target="/3D/3dmodel.model"/></Relationships>',
        )
    return out.getvalue()


def _wedge() -> Mesh:
    points = np.array([[0, 0, 0], [2, 0, 0], [0, 1, 0], [0, 0, 0.75]], dtype=float)
    return Mesh(points, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]], np.int32))


def _obj() -> bytes:
    """Two groups of polygons: a bar of quads, with numbers that count back, and a cap with a hollow
    outline.
    """
    lines, at = ["g bar"], [(0, 0, 0), (20, 0, 0), (20, 4, 0), (0, 4, 0)]
    lines += [f"v {x} {y} {z}" for z in (0, 3.5) for x, y, _ in at]
    lines += ["f -8 -5 -6 -7", "f -4 -3 -2 -1", "f 1 2 6 5", "f 2 3 7 6", "f 3 4 8 7", "f 4 1 5 8", "g cap"]
    outline = [(30, 0), (40, 0), (40, 10), (35, 4), (30, 10)]
    lines += [f"v {x} {y} {z}" for z in (0, 2) for x, y in outline]
    lines += ["f 13 12 11 10 9", "f 14 15 16 17 18"]
    lines += [f"f {9 + i} {9 + (i + 1) % 5} {14 + (i + 1) % 5} {14 + i}" for i in range(5)]
    return "\n".join(lines).encode()


def _ply(mesh: Mesh) -> bytes:
    head = f"ply\nformat binary_big_endian 1.0\nelement vertex {len(mesh.vertices)}\nproperty double x\n"
    head += f"property double y\nproperty double z\nelement face {mesh.triangles}\n"
    head += "property list uchar int vertex_indices\nend_header\n"
    rows = np.zeros(mesh.triangles, np.dtype([("n", "u1"), ("v", ">i4", 3)]))
    rows["n"], rows["v"] = 3, mesh.faces
    return head.encode() + mesh.vertices.astype(">f8").tobytes() + rows.tobytes()


def _trued() -> list[bytes]:
    """Inches, Y up, brought home, made true by a reading, kept bores, allowance, turned; seated and as it
    lies.
    """
    a, b = (3.5, -7.25, 11.125), (63.5, -7.25, 11.125)
    desk = _Desk("bracket.stl", _stl(_bracket())).do(
        SettleUnit(source="s1", unit=Unit.MM),
        KeepBores(bodies=("s1-1",)),
        SetUp(source="s1", up="y"),
        BringHome(source="s1"),
        AddReading(body="s1-1", spots=(Spot(point=a), Spot(point=b)), typed="2 3/8 in"),
        AdjustReading(reading="r1", clearance="0.2"),
        SetAllowance(body="s1-1", shrinkage=("0.4", "0.5", "0.3"), clearance=("0.3", "-0.2", "0")),
        TurnSeat(body="s1-1", axis="x", typed="33"),
        TurnSeat(body="s1-1", axis="z", typed="90"),
    )
    return [*desk.out("3mf"), *desk.out("stl", "own"), *desk.out("obj", unit=Unit.IN)]


def _sized() -> list[bytes]:
    """Metres in text, X up, a typed size on a freed axis and a typed factor; every format."""
    desk = _Desk("knob.stl", _ascii(_bracket())).do(
        SettleUnit(source="s1", unit=Unit.CM), SetUp(source="s1", up="x")
    )
    desk.do(FreeAxis(body="s1-1", axis="z", free=True), SizeAxis(body="s1-1", axis="z", typed="6 3/4 in"))
    desk.do(SizeAxis(body="s1-1", axis="x", typed="2 ft 5"))
    out = [*desk.out("stl-ascii", "own"), *desk.out("obj", "own"), *desk.out("stl")]
    return [*out, *desk.do(SetFactor(body="s1-1", axis="y", typed="72.5 %")).out("3mf", unit=Unit.CM)]


def _kit() -> list[bytes]:
    """A 3MF that declares its unit, a kit of two, a reading between them; together and each."""
    desk = _Desk("kit.3mf", _3mf())
    one, two = desk.job.bodies
    spots = (Spot(body=one.id, point=(0.1, 0.2, 0.3)), Spot(body=two.id, point=(6.0, 1.0, 0.75)))
    desk.do(AddReading(body=one.id, spots=spots, typed="60 [59..61]"))
    desk.do(
        AddReading(body=one.id, kind="extent", axis="x", kit=True, typed="58..62"),
        TurnSeat(body=one.id, axis="y", typed="12.5"),
    )
    return [*desk.out("3mf"), *desk.out("stl", shape="each"), *desk.out("obj", "own")]


def _polygons() -> list[bytes]:
    desk = _Desk("bar.obj", _obj()).do(SettleUnit(source="s1", unit=Unit.MM))
    return [*desk.out("3mf"), *desk.out("obj", "own", "each"), *desk.out("stl-ascii")]


def _shells() -> list[bytes]:
    """Two bodies, a hollow in one, specks without area, a triangle twice; double precision in a PLY
    besides.
    """
    outer, inner = _box((20, 20, 20), (0, 0, 0)), _box((8, 8, 8), (6, 6, 6))
    hollow = Mesh(inner.vertices, np.ascontiguousarray(inner.faces[:, ::-1]))
    other = _box((5, 6, 7), (40, 0, 0))
    flat = Mesh(np.array([[1.0, 1, 1], [2, 2, 2], [3, 3, 3]]), np.array([[0, 1, 2], [0, 0, 1]], np.int32))
    twice = Mesh(outer.vertices, outer.faces[:1])
    desk = _Desk("box.stl", _stl(outer, flat, hollow, other, twice)).do(SettleUnit(source="s1", unit=Unit.IN))
    fine = _Desk("fine.ply", _ply(_bracket())).do(
        SettleUnit(source="s1", unit=Unit.FT), SetUp(source="s1", up="y")
    )
    return [*desk.out("stl"), *desk.out("3mf", shape="each"), *fine.out("stl", "own")]


def _remade() -> list[bytes]:
    """A hole closed, and two boxes joined."""
    box = _box((20, 30, 10), (0, 0, 0))
    holed = _Desk("holed.stl", _stl(Mesh(box.vertices, box.faces[2:]))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    holed.work(Mend(bodies=("s1-1",), remedy="close-holes"))
    two = _Desk("two.stl", _stl(box, _box((8, 8, 20), (5, 5, 5)))).do(SettleUnit(source="s1", unit=Unit.MM))
    two.do(Accept(code="overlap")).work(Join(bodies=("s1-1", "s1-2")))
    two.do(SizeAxis(body=two.job.bodies[0].id, axis="x", typed="33"))
    return [*holed.out("stl"), *two.out("3mf", "own")]


def _stretched() -> list[bytes]:
    """A stretch along a slanting gauge, with a clearance on top, and a diameter that is read."""
    desk = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    spots = (Spot(point=(3.5, -7.25, 11.125)), Spot(point=(63.5, 32.75, 17.125)))
    desk.do(AddReading(body="s1-1", spots=spots), AdjustReading(reading="r1", role="check"))
    desk.do(SetReading(reading="r1", typed="80"), StretchAlong(reading="r1"))
    desk.do(SetAllowance(body="s1-1", clearance=("0.25", "0.5", "-0.125")))
    bored = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    bore = next(one for one in bored.shelf.features(bored.job.bodies[0]).listed if one.kind == "bore")
    bored.do(AddReading(body="s1-1", kind="diameter", spots=(Spot(feature=bore.id),), typed="5.6 ±0.05"))
    return [*desk.out("stl", "own"), *bored.out("3mf")]


SCENES: tuple[Callable[[], list[bytes]], ...] = (
    _trued,
    _sized,
    _kit,
    _polygons,
    _shells,
    _remade,
    _stretched,
)


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
        def read(*told: Any, **more: Any) -> Contents:
            contents: Contents = right(*told, **more)
            first = contents.parts[0]
            return replace(contents, parts=(replace(first, mesh=change(first.mesh)), *contents.parts[1:]))

        return read

    return made


def _on_written_mesh(change: Callable[[Mesh], Mesh]) -> Wrong:
    return lambda right: lambda mesh, *more: right(change(mesh), *more)


def _on_items(change: Callable[[list[Any]], list[Any]]) -> Wrong:
    return lambda right: lambda items, *more: right(change(items), *more)


def _fewer(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.faces[:-1])


def _rounded(digits: int) -> Callable[[Mesh], Mesh]:
    return lambda mesh: mesh.mapped(lambda points: np.round(points, digits))


def _mirrored(mesh: Mesh) -> Mesh:
    return mesh.mapped(lambda points: points * [-1.0, 1.0, 1.0])


def _turned_over(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))


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
    Fault("unit", "an inch is 25 mm", "lengths:MM_PER", _with(**{"in": 25.0})),
    Fault("unit", "a centimetre is 1 mm", "lengths:MM_PER", _with(cm=1.0)),
    Fault("unit", "a foot is 300 mm", "lengths:MM_PER", _with(ft=300.0)),
    Fault("unit", "typed lengths are a thousandth long", "lengths:parse_length", _scaled(1.001)),
    Fault("unit", "typed feet are metres", "lengths:_EXACT_MM", _with(ft=1000)),
    Fault("unit", "typed inches are centimetres", "lengths:_EXACT_MM", _with(**{"in": 10})),
    Fault("unit", "typed factors are per mille", "lengths:parse_factor", _scaled(1.001)),
    Fault(
        "unit",
        "a 3MF's unit is not read",
        "formats.threemf.model:_declared_unit",
        lambda right: lambda attributes: Unit.MM,
    ),
    Fault(
        "unit",
        "a size stays when the unit is settled anew",
        "truing.correction:for_other_unit",
        lambda right: (
            lambda now, old, new: now.model_copy(update={"factors": _times(now.factors, (1.01,) * 3)})
        ),
    ),
    # up axis and home
    Fault(
        "up",
        "Y up turns the wrong way",
        "frames:_TURN_UP",
        _with(y=np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])),
    ),
    Fault("up", "Y up mirrors", "frames:_TURN_UP", _with(y=np.array([[1.0, 0, 0], [0, 0, 1], [0, 1, 0]]))),
    Fault("up", "X up is Y up", "frames:_TURN_UP", _with(x=np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]]))),
    Fault("up", "up is not turned at all", "frames:turn_up", lambda right: lambda up: np.eye(3)),
    Fault(
        "home",
        "home is a millimetre off",
        "frames:home_of",
        lambda right: lambda *told: tuple(np.add(right(*told), (0, 0, 1.0)).tolist()),
    ),
    Fault("home", "points are not brought home", "frames:drawn_points", _moved((0.0, 0.0, 0.75))),
    # placing
    Fault("placing", "points are drawn a thousandth large", "frames:base_points", _scaled(1.001)),
    Fault("placing", "corrected points are moved", "frames:true_points", _moved((0.01, 0, 0))),
    Fault(
        "placing",
        "factors act on the wrong axes",
        "frames:base_points",
        _on_points(lambda points: points[:, [1, 0, 2]]),
    ),
    Fault("placing", "released points are moved", "frames:allowed_points", _moved((0, 0.005, 0))),
    Fault(
        "placing",
        "one axis is mirrored",
        "frames:allowed_points",
        _on_points(lambda points: points * [1.0, -1.0, 1.0]),
    ),
    Fault(
        "placing",
        "two axes are exchanged",
        "frames:allowed_points",
        _on_points(lambda points: points[:, [0, 2, 1]]),
    ),
    Fault(
        "placing",
        "points are sheared",
        "frames:allowed_points",
        _on_points(lambda points: points + 1e-3 * points[:, [1, 2, 0]] * [1.0, 0, 0]),
    ),
    Fault(
        "placing",
        "coordinates lose digits",
        "frames:allowed_points",
        _on_points(lambda points: np.round(points, 3)),
    ),
    # correction
    Fault(
        "correction",
        "a typed size is a tenth of a millimetre off",
        "truing.correction:scaled_to_size",
        _correction(lambda got: {"factors": _times(got.factors, (1.001,) * 3)}),
    ),
    Fault(
        "correction",
        "a typed size scales another axis",
        "truing.correction:scaled_to_size",
        _correction(lambda got: {"factors": (got.factors[2], got.factors[0], got.factors[1])}),
    ),
    Fault(
        "correction",
        "a typed factor is inverted",
        "truing.correction:with_factor",
        _correction(lambda got: {"factors": tuple(1 / factor for factor in got.factors)}),
    ),
    Fault(
        "correction",
        "readings are met a thousandth too large",
        "truing.truth:solve",
        lambda right: lambda *told: replace(right(*told), factors=_times(right(*told).factors, (1.002,) * 3)),
    ),
    Fault(
        "correction",
        "a gauge between points is measured short",
        "truing.forms:Span.lengths",
        _values(lambda got: tuple(0.999 * one for one in got)),
    ),
    Fault(
        "correction",
        "a diameter is taken for a radius",
        "truing.forms:Circle.lengths",
        _values(lambda got: tuple(one / 2 for one in got)),
    ),
    Fault(
        "correction",
        "gauges are measured on the file's numbers",
        "truing.gauges:base_points",
        lambda right: lambda job, body, points: points,
    ),
    Fault(
        "correction",
        "a band takes no clearance of its reading",
        "truing.bands:band_of",
        lambda right: lambda reading: right(reading.model_copy(update={"clearance_mm": 0.0})),
    ),
    Fault(
        "correction",
        "a stretch is taken square to its gauge",
        "frames:along_matrix",
        lambda right: lambda body: 2 * np.eye(3) - right(body) if body.correction.along else np.eye(3),
    ),
    Fault("correction", "a stretch is left out", "frames:along_matrix", lambda right: lambda body: np.eye(3)),
    Fault(
        "correction",
        "the stretch along a gauge is inverted",
        "truing.along:stretched_along",
        _correction(lambda got: {"along": got.along.model_copy(update={"factor": 1 / got.along.factor})}),
    ),
    # allowance
    Fault(
        "allowance",
        "a clearance counts twice",
        "frames:_cleared",
        lambda right: lambda job, body: (2 * right(job, body)[0] - 1, 2 * right(job, body)[1]),
    ),
    Fault(
        "allowance",
        "a clearance is taken about the origin",
        "frames:_cleared",
        lambda right: lambda job, body: (right(job, body)[0], np.zeros(3)),
    ),
    Fault(
        "allowance",
        "a clearance is left out",
        "frames:_cleared",
        lambda right: lambda job, body: (np.ones(3), np.zeros(3)),
    ),
    Fault(
        "allowance",
        "clearances are on the wrong axes",
        "frames:_cleared",
        lambda right: lambda job, body: tuple(np.roll(one, 1) for one in right(job, body)),
    ),
    Fault(
        "allowance",
        "shrinkage is taken the other way",
        "frames:_grown",
        lambda right: lambda body: 1 / right(body),
    ),
    Fault(
        "allowance",
        "shrinkage is added, not divided by",
        "frames:_grown",
        lambda right: lambda body: 1 + np.asarray(body.allowance.shrinkage),
    ),
    Fault("allowance", "shrinkage is left out", "frames:_grown", lambda right: lambda body: np.ones(3)),
    Fault("allowance", "a typed percentage is a share", "actions.truing:_share", _scaled(10.0)),
    Fault(
        "allowance",
        "a typed clearance loses its sign",
        "lengths:parse_offset",
        lambda right: lambda text: abs(right(text)),
    ),
    # kept bores
    Fault(
        "kept bores",
        "kept bores scale",
        "truing.keep:with_kept_bores",
        lambda right: lambda points, *told: points,
    ),
    Fault(
        "kept bores",
        "kept bores get a radius for a diameter",
        "truing.keep:with_kept_bores",
        lambda right: lambda *told: right(*told[:-1], told[-1] * 2),
    ),
    Fault(
        "kept bores",
        "kept bores do not know their unit",
        "truing.keep:with_kept_bores",
        lambda right: lambda *told: right(*told[:-1], 1.01),
    ),
    Fault(
        "kept bores",
        "kept bores are moved",
        "truing.keep:with_kept_bores",
        lambda right: (
            lambda points, file, bores, linear, shift, per: right(
                points, file, bores, linear, shift + 0.05, per
            )
        ),
    ),
    Fault("kept bores", "kept bores are found too narrowly", "truing.keep:_ON_WALL", lambda right: -1.0),
    # seat
    Fault(
        "seat",
        "turns are done in the wrong order",
        "frames:seat_matrix",
        lambda right: lambda seat: right(seat.model_copy(update={"turns": seat.turns[::-1]})),
    ),
    Fault("seat", "turns go the other way", "frames:turn_matrix", lambda right: lambda turn: right(turn).T),
    Fault(
        "seat",
        "degrees are taken for gradians",
        "frames:turn_matrix",
        lambda right: lambda turn: right(turn.model_copy(update={"degrees": turn.degrees * 0.9})),
    ),
    Fault(
        "seat",
        "a degree of tilt",
        "frames:seat_matrix",
        lambda right: lambda seat: right(seat.model_copy(update={"turns": (*seat.turns, _tilt())})),
    ),
    Fault(
        "seat",
        "bodies float",
        "frames:seat_shifts",
        lambda right: lambda *told: [np.add(one, (0, 0, 0.2)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "bodies are sunk",
        "frames:seat_shifts",
        lambda right: lambda *told: [np.subtract(one, (0, 0, 0.01)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "bodies stand aside",
        "frames:seat_shifts",
        lambda right: lambda *told: [np.add(one, (0, 3.0, 0)) for one in right(*told)],
    ),
    Fault(
        "seat",
        "bodies of a kit come apart",
        "seating.places:seated_points",
        lambda right: (
            lambda job, body, points, place: np.add(
                right(job, body, points, place), (0.5 * (body.id[-1] == "2"), 0, 0)
            )
        ),
    ),
    # what the sheets say
    Fault(
        "sheets",
        "the sheet shows another size",
        "frames:allowed_sizes",
        lambda right: lambda *told: _times(right(*told), (1.001, 1, 1)),
    ),
    Fault(
        "sheets",
        "the sheet shows another reading",
        "truing.gauges:lengths_of",
        _values(lambda got: tuple(one * 1.001 for one in got)),
    ),
    Fault(
        "sheets",
        "bounds of bodies are wrong",
        "intake.take_in:body_of",
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
        _on_items(lambda items: [replace(one, mesh=_shaken(one.mesh)) for one in items]),
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
        "release.make:MM_PER",
        lambda right: {unit: 1 / value for unit, value in right.items()},
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
        "formats.polygons:triangles_of",
        lambda right: lambda polygons, vertices: right(polygons, vertices)[:-1],
    ),
    Fault(
        "readers",
        "hollow polygons are cut as fans",
        "formats.polygons:_hollow",
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
        "bodies", "a hollow is lost", "intake.take_in:separate", lambda right: lambda mesh: right(mesh)[:1]
    ),
    Fault(
        "bodies",
        "a triangle of a body is lost",
        "intake.take_in:separate",
        lambda right: (
            lambda mesh: [replace(right(mesh)[0], mesh=_fewer(right(mesh)[0].mesh)), *right(mesh)[1:]]
        ),
    ),
    Fault(
        "bodies",
        "good triangles are set aside",
        "intake.take_in:set_aside",
        lambda right: (
            lambda mesh: replace(right(mesh), mesh=_fewer(right(mesh).mesh), empty=right(mesh).empty + 1)
        ),
    ),
    Fault(
        "bodies",
        "geometry is kept in half precision",
        "geometry:to_bytes",
        lambda right: (
            lambda mesh: right(mesh.mapped(lambda points: points.astype(np.float16).astype(np.float64)))
        ),
    ),
    Fault(
        "bodies",
        "kept geometry comes back moved",
        "geometry:from_bytes",
        lambda right: lambda data: right(data).mapped(lambda points: points + 1e-3),
    ),
    # remedies
    Fault(
        "remedies",
        "a joined body is moved",
        "mending.remake:joined",
        lambda right: lambda meshes: right(meshes).mapped(lambda points: np.add(points, (0.1, 0, 0))),
    ),
    Fault(
        "remedies",
        "joining loses one of the bodies",
        "mending.remake:joined",
        lambda right: lambda meshes: meshes[0],
    ),
    Fault(
        "remedies",
        "closing a hole moves the rest",
        "mending.remake:mended",
        lambda right: lambda mesh, *told: right(mesh, *told).mapped(lambda points: points * 1.01),
    ),
)


def _tilt() -> Any:
    from aimtrue.core.job import Turn

    return Turn(axis="y", degrees=1.0)


def _with_wrong_bounds(body: Body) -> Body:
    x, y, z = body.high
    return body.model_copy(update={"high": (x * 1.001, y, z)})


@dataclass(frozen=True)
class Outcome:
    """How a fault fared: ``caught`` with what it was told by, ``escaped``, or ``without effect``."""

    fault: Fault
    how: str
    told: str = ""


def right_files() -> list[list[bytes]]:
    """Make the releases of all scenes without a fault."""
    return [scene() for scene in SCENES]


def tried(fault: Fault, right: list[list[bytes]]) -> Outcome:
    """Put in a fault and make the scenes until one catches it.

    Args:
        fault: to put in.
        right: what the scenes give without one.
    """
    escaped = False
    for scene, wanted in zip(SCENES, right, strict=True):
        try:
            with put_in(fault):
                made = scene()
        except AimTrueError as error:
            return Outcome(fault, "caught", error.code)
        except Exception as error:
            return Outcome(fault, "caught", f"stopped by {type(error).__name__}")
        escaped |= made != wanted
    return Outcome(fault, "escaped" if escaped else "without effect")


def report() -> int:
    """Try every fault and print what became of it; return how many were not caught."""
    started = time.perf_counter()
    right = right_files()
    outcomes = [tried(fault, right) for fault in FAULTS]
    print(f"{'room':<12} {'fault':<50} {'outcome':<16} told by")
    for one in outcomes:
        print(f"{one.fault.room:<12} {one.fault.says:<50} {one.how:<16} {one.told}")
    missed = [one for one in outcomes if one.how != "caught"]
    took = time.perf_counter() - started
    print(f"{len(outcomes)} faults, {len(outcomes) - len(missed)} caught, in {took:.0f} s")
    return len(missed)
