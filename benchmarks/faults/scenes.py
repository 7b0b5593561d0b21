"""Small releases, from the bytes of a file to the bytes released, under which faults must show."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from typing import Any
from unittest.mock import patch

import manifold3d
import numpy as np

from aimtrue.core.actions import apply
from aimtrue.core.division.making import shape
from aimtrue.core.division.tasks import DivideTask
from aimtrue.core.fit.actions import PairUp
from aimtrue.core.fit.offers import offers
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import Accept, BringHome, SettleUnit, SetUp, TakeIn
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.tasks import JoinTask, MendTask
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features.listed import Features, features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    Asked,
    AskFaces,
    AskHollow,
    AskPieces,
    AskPins,
    AskSurface,
    AskThread,
)
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Format, Order
from aimtrue.core.room import TaskInputs
from aimtrue.core.seating.actions import (
    AddPlate,
    MirrorSeat,
    MoveSeat,
    PutOn,
    RestOn,
    SetCopies,
    StandApart,
    TurnSeat,
)
from aimtrue.core.tasks import Task, do
from aimtrue.core.truing.actions import (
    AddReading,
    AdjustReading,
    CorrectAlone,
    FreeAxis,
    KeepBores,
    SetAllowance,
    SetFactor,
    SetReading,
    SizeAxis,
    StretchAlong,
)
from tests.shapes import threaded


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
        self.store = _Shelf(taken.meshes, {taken.sources[0].sha256: data, **taken.originals})
        self.job = Job(name="fault")
        self.do(TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits))

    def do(self, *actions: Any) -> _Desk:
        for action in actions:
            self.job = apply(self.job, action, self.store)
        return self

    def work(self, task: Task) -> _Desk:
        key = f"m{len(self.store.kept)}"
        done = do(TaskInputs(key, self.job, self.store, b"", lambda share, says: None), task)
        self.store.kept.update(done.blobs)
        return self.do(done.action)

    def shape(self, asked: Asked, *bodies: str, instead: str = "") -> _Desk:
        task = DivideTask(bodies=bodies or (self.job.bodies[0].id,), asked=asked, instead=instead)
        done = shape(f"m{len(self.store.kept)}", self.job, task, self.store, lambda share, says: None)
        self.store.kept.update(done.blobs)
        return self.do(done.action)

    def pair_up(self) -> None:
        """Keep all pairs that are offered."""
        for offer in offers(self.job, self.store):
            self.do(PairUp(**offer.model_dump(include={"kind", "a", "b", "a_feature", "b_feature"})))

    def out(
        self, kind: Format, place: str = "seated", shape: str = "together", unit: Unit = Unit.MM
    ) -> list[bytes]:
        order = Order(format=kind, place=place, shape=shape, unit=unit)
        # Pictures prove nothing, and took most of the time.
        with patch("aimtrue.core.release.writing.picture", return_value=b""):
            return [file.data for file in release(self.job, self.store, order).files]


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
        AddReading(body="s1-1", spots=(PickedSpot(point=a), PickedSpot(point=b)), typed="2 3/8 in"),
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
    spots = (PickedSpot(body=one.id, point=(0.1, 0.2, 0.3)), PickedSpot(body=two.id, point=(6.0, 1.0, 0.75)))
    desk.do(AddReading(body=one.id, spots=spots, typed="60 [59..61]"))
    desk.do(
        AddReading(body=one.id, kind="extent", axis="x", kit=True, typed="58..62"),
        TurnSeat(body=one.id, axis="y", typed="12.5"),
        Accept(
            code="reading-missed", reason="both readings are to be proven, and one factor cannot meet them"
        ),
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
    holed.work(MendTask(bodies=("s1-1",), remedy="close-holes"))
    two = _Desk("two.stl", _stl(box, _box((8, 8, 20), (5, 5, 5)))).do(SettleUnit(source="s1", unit=Unit.MM))
    two.do(Accept(code="overlap")).work(JoinTask(bodies=("s1-1", "s1-2")))
    two.do(SizeAxis(body=two.job.bodies[0].id, axis="x", typed="33"))
    return [*holed.out("stl"), *two.out("3mf", "own")]


def _stretched() -> list[bytes]:
    """A stretch along a slanting gauge, with a clearance on top, and a diameter that is read."""
    desk = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    spots = (PickedSpot(point=(3.5, -7.25, 11.125)), PickedSpot(point=(63.5, 32.75, 17.125)))
    desk.do(AddReading(body="s1-1", spots=spots), AdjustReading(reading="r1", role="check"))
    desk.do(SetReading(reading="r1", typed="80"), StretchAlong(reading="r1"))
    desk.do(SetAllowance(body="s1-1", clearance=("0.25", "0.5", "-0.125")))
    bored = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    bore = next(
        feature for feature in bored.store.features(bored.job.bodies[0]).listed if feature.kind == "bore"
    )
    bored.do(
        AddReading(body="s1-1", kind="diameter", spots=(PickedSpot(feature=bore.id),), typed="5.6 ±0.05")
    )
    return [*desk.out("stl", "own"), *bored.out("3mf")]


def _filed() -> list[bytes]:
    """A kit of two, twice on its plate: copies as build items, put down at the origin, as one object, as
    PLY.
    """
    desk = _Desk("kit.3mf", _3mf())
    desk.do(TurnSeat(body=desk.job.bodies[0].id, axis="z", typed="90"))
    desk.do(
        SetCopies(body=desk.job.bodies[0].id, typed="2"),
        SetFactor(body=desk.job.bodies[0].id, typed="1.2345"),
    )
    return [
        *desk.out("3mf"),
        *desk.out("3mf", "origin"),
        *desk.out("stl", "origin", "each"),
        *desk.out("3mf", "own", "merged"),
        *desk.out("ply", "own"),
    ]


def _seats() -> list[bytes]:
    """Three copies: one mirrored and turned, one in a typed place and lifted, one on a plate of its own."""
    desk = _Desk("bracket.stl", _stl(_bracket())).do(
        SettleUnit(source="s1", unit=Unit.MM),
        SetCopies(body="s1-1", typed="3"),
        MirrorSeat(body="s1-1"),
        TurnSeat(body="s1-1", axis="z", typed="30"),
        MoveSeat(body="s1-1", copy_number=2, x="180", y="60", lift="4.5"),
        AddPlate(),
        PutOn(body="s1-1", copy_number=3, plate="p2"),
        RestOn(body="s1-1", copy_number=3, down=(0.6, 0.0, -0.8)),
    )
    return [*desk.out("3mf"), *desk.out("stl", shape="each")]


def _hollowed() -> list[bytes]:
    """A hollow block with a drain."""
    hollow = _Desk("block.stl", _stl(_box((40, 30, 30), (1, 2, 3)))).do(SettleUnit(source="s1", unit=Unit.MM))
    hollow.shape(AskHollow(wall="2", drains=("4",)))
    return hollow.out("stl", "own")


def _with_moved_faces() -> list[bytes]:
    """A plate with a bore that is opened, and one with all its faces moved."""
    plate = manifold3d.Manifold.cube((40, 30, 8)) - manifold3d.Manifold.cylinder(
        20, 2.65, 2.65, 48
    ).translate((12, 15, -5))
    opened = _Desk("plate.stl", _stl(_mesh(plate))).do(
        SettleUnit(source="s1", unit=Unit.MM), SetFactor(body="s1-1", typed="1.2")
    )
    body = opened.job.bodies[0]
    bore = next(feature for feature in opened.store.features(body).listed if feature.kind == "bore")
    opened.shape(AskSurface(picks=(PickedFace(face=bore.face, point=bore.point),), amount="-0.2"))
    grown = _Desk("plate.stl", _stl(_mesh(plate))).do(SettleUnit(source="s1", unit=Unit.MM))
    grown.shape(AskSurface(amount="0.3"))
    return [*opened.out("stl", "own"), *grown.out("3mf", "own")]


def _with_threads() -> list[bytes]:
    """A plate with a thread cut into its bore, left-hand and with clearance, and one with ridges on its
    boss.
    """
    plate = manifold3d.Manifold.cube((40, 30, 8))
    bored = plate - manifold3d.Manifold.cylinder(20, 2.1, 2.1, 96).translate((12, 15, -5))
    cut = _Desk("plate.stl", _stl(_mesh(bored))).do(SettleUnit(source="s1", unit=Unit.MM))
    bore = next(feature for feature in cut.store.features(cut.job.bodies[0]).listed if feature.kind == "bore")
    picks = (PickedFace(face=bore.face, point=bore.point),)
    cut.shape(AskThread(picks=picks, size="M5", length="6", clearance="0.2", left=True))
    raised = plate + manifold3d.Manifold.cylinder(14, 3.2, 3.2, 96).translate((20, 15, 0))
    added = _Desk("plate.stl", _stl(_mesh(raised))).do(SettleUnit(source="s1", unit=Unit.MM))
    boss = next(
        feature for feature in added.store.features(added.job.bodies[0]).listed if feature.kind == "boss"
    )
    added.shape(AskThread(picks=(PickedFace(face=boss.face, point=boss.point),), size="M8", add=True))
    return [*cut.out("stl", "own"), *added.out("3mf", "own")]


def _paired() -> list[bytes]:
    """A pin in a bore and a tab in a slot, as pairs, corrected and shrinking."""
    plate = manifold3d.Manifold.cube((40, 30, 20)) - manifold3d.Manifold.cube((60, 10.4, 12)).translate(
        (-5, 9.8, 10)
    )
    plate -= manifold3d.Manifold.cylinder(20, 2.65, 2.65, 48).translate((12, 15, -5))
    pin = manifold3d.Manifold.cylinder(12, 2.5, 2.5, 48).translate((12, 15, -4))
    tab = manifold3d.Manifold.cube((10, 10, 15)).translate((26, 10, 11))
    desk = _Desk("pair.stl", _stl(_mesh(plate), _mesh(pin), _mesh(tab))).do(
        SettleUnit(source="s1", unit=Unit.MM),
        SetFactor(body="s1-1", typed="1.3"),
        SetAllowance(body="s1-1", shrinkage=("0.4", "0.5", "0.3"), clearance=None),
    )
    desk.pair_up()
    return [*desk.out("3mf", "own"), *desk.out("stl", shape="each")]


def _paired_otherwise() -> list[bytes]:
    """A pin in a bore that are stretched to ovals, and a threaded rod in its nut."""
    plate = manifold3d.Manifold.cube((40, 30, 8)) - manifold3d.Manifold.cylinder(
        20, 2.65, 2.65, 48
    ).translate((12, 15, -5))
    pin = manifold3d.Manifold.cylinder(12, 2.5, 2.5, 48).translate((12, 15, -4))
    oval = _Desk("oval.stl", _stl(_mesh(plate), _mesh(pin))).do(
        SettleUnit(source="s1", unit=Unit.MM),
        FreeAxis(body="s1-1", axis="x", free=True),
        SizeAxis(body="s1-1", axis="x", typed="44"),
    )
    oval.pair_up()
    nut = manifold3d.Manifold.cube((14, 14, 3)).translate((-7, -7, 1.7)) - threaded(4.2, 1.25, 1.3, 6)
    screwed = _Desk("nut.stl", _stl(_mesh(nut), _mesh(threaded(4, 1.25, 1.4, 5.5)))).do(
        SettleUnit(source="s1", unit=Unit.MM), SetFactor(body="s1-1", typed="1.02")
    )
    screwed.pair_up()
    return [*oval.out("3mf", "own"), *screwed.out("stl", "own")]


def _parted() -> list[bytes]:
    """A mark off a plate, a block split by another, and an open box cut on purpose."""
    bar = manifold3d.Manifold.cube((6, 2, 1)).translate((8, 4, 4))
    marked = _Desk("marked.stl", _stl(_mesh(manifold3d.Manifold.cube((40, 30, 4)) + bar)))
    marked.do(SettleUnit(source="s1", unit=Unit.MM), SetFactor(body="s1-1", typed="1.2"))
    mesh = marked.store.mesh(marked.job.bodies[0].geometry)
    top = int(mesh.vertices[mesh.faces][:, :, 2].min(axis=1).argmax())
    marked.shape(AskFaces(picks=(PickedFace(face=top, point=(0, 0, 0)),), depth="0.6"))
    whole = _box((40, 30, 20), (1, 2, 3))
    lid = (whole.vertices[whole.faces][:, :, 2] > 22.9).all(axis=1)
    gaping = _Desk("open.stl", _stl(Mesh(whole.vertices, whole.faces[~lid]))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    gaping.shape(AskPieces(planes=("z=12", "x=20"), open=True))
    gaping.do(Accept(code="open-edges", reason="open on purpose"))
    two = _Desk("two.stl", _stl(whole, _box((8, 8, 30), (5, 5, 8)))).do(SettleUnit(source="s1", unit=Unit.MM))
    two.do(Accept(code="overlap")).shape(AskCombination(how="split"), "s1-1", "s1-2")
    return [*marked.out("3mf", "own"), *gaping.out("stl", "own", "each"), *two.out("3mf", "own")]


def _cut() -> list[bytes]:
    """A bracket cut off at a height, and one by a plane that ends at another."""
    parted = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    parted.shape(AskAbove(at="20"))
    limited = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    limited.shape(AskPieces(planes=("z=16", "x=37 tilted 10 about z where below A")))
    return [*parted.out("stl", "own", "each"), *limited.out("stl", "own", "each")]


def _pinned() -> list[bytes]:
    """Pieces with dowels and with fixed pins of a corrected, shrinking bracket."""
    desk = _Desk("bracket.stl", _stl(_bracket())).do(
        SettleUnit(source="s1", unit=Unit.MM),
        SetFactor(body="s1-1", typed="1.1"),
        SetAllowance(body="s1-1", shrinkage=("0.4", "0.5", "0.3"), clearance=None),
    )
    pins = AskPins(diameter="2", depth="4", clearance="0.2", count=1)
    desk.shape(AskPieces(planes=("x=37", "0,0.6,0.8 @ 20"), pins=pins))
    out = [*desk.out("3mf", "own"), *desk.out("stl", shape="each")]
    fixed = pins.model_copy(update={"kind": "fixed", "keyed": True})
    desk.shape(AskPieces(planes=("x=37",), pins=fixed), instead=desk.job.divisions[0].id)
    return [*out, *desk.out("3mf", "own")]


def _owned() -> list[bytes]:
    """A kit that lies far away, brought home; one of its bodies alone; its bodies apart, and copied; a
    split.
    """
    desk = _Desk("pair.stl", _stl(_box((20, 20, 20), (900, 0, 300)), _box((5, 6, 7), (940, 0, 300))))
    one, two = (body.id for body in desk.job.bodies)
    kit = desk.job.kits[0].id
    desk.do(
        SettleUnit(source="s1", unit=Unit.MM),
        BringHome(source="s1"),
        CorrectAlone(body=two, on=True),
        SetFactor(body=two, typed="1.25"),
        SetFactor(body=one, typed="0.9"),
        SetAllowance(body=one, shrinkage=("0.4", "0.4", "0.2"), clearance=None),
        AddReading(body=one, kind="extent", axis="x", kit=True, typed="18 ±0.2"),
        AdjustReading(reading="r1", role="check"),
    )
    out = [*desk.out("stl", "own"), *desk.out("3mf")]
    desk.do(StandApart(kit=kit, apart=True), SetCopies(body=two, typed="2"))
    desk.do(MoveSeat(body=two, x="60", y="70"), TurnSeat(body=one, axis="z", typed="30"))
    out += desk.out("3mf")
    lone = _Desk("bracket.stl", _stl(_bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    lone.do(MoveSeat(body="s1-1", x="120", y="90"))
    lone.shape(AskAbove(at="20"))
    return [*out, *lone.out("3mf")]


SCENES: tuple[Callable[[], list[bytes]], ...] = (
    _trued,
    _sized,
    _kit,
    _polygons,
    _shells,
    _remade,
    _stretched,
    _seats,
    _filed,
    _parted,
    _hollowed,
    _with_moved_faces,
    _with_threads,
    _paired,
    _paired_otherwise,
    _owned,
    _cut,
    _pinned,
)
"""What is made soonest comes first: most faults are caught before the others are made."""
