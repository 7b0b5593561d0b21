"""Take a file in: from bytes to sources and bodies with their geometry."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from math import inf
from pathlib import PurePosixPath

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import ending_of, read_model, stem_of, unpacked
from aimtrue.core.formats.archives import ArchivedFile
from aimtrue.core.formats.assemblies import parts_elsewhere
from aimtrue.core.formats.contents import FileObject, FileObjects, UnpackingLimits
from aimtrue.core.intake.bodies.congruence import groups_of_alike
from aimtrue.core.intake.bodies.discarded import set_aside
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.intake.bodies.separate import count_voids, separate
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.units.evidence import evidence_of, up_guess_of
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features import listed
from aimtrue.core.mesh.mesh import Mesh, weld
from aimtrue.core.mesh.reduced import REDUCED_FROM
from aimtrue.core.model.body import Body
from aimtrue.core.model.facets import Fineness, FinenessStep, Remark
from aimtrue.core.model.job import Kit
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.recipe import IntakeRecipe
from aimtrue.core.model.source import ReferencedFile, Source
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.progress import Progress

COARSE = Fineness(chord_mm=0.1, angle_deg=20)
MEDIUM = Fineness(chord_mm=0.03, angle_deg=12)
FINE = Fineness(chord_mm=0.01, angle_deg=6)
STEPS = (COARSE, MEDIUM, FINE)
_NAMING = ThreadPoolExecutor(1, "naming")
"""Hashing a large file takes a while and leaves the other processor free."""
_FROM_KERNEL = ("step", "iges", "brep")
STRAY = 0.02
"""A body shorter than this share of its file's longest side is a stray."""


def with_chord(chord_mm: float) -> Fineness:
    """Return the fineness of a chord alone: who asks for a coarse one does not want the finest angle with
    it.
    """
    step = max((one for one in STEPS if one.chord_mm <= chord_mm), key=lambda one: one.chord_mm, default=FINE)
    return Fineness(chord_mm=chord_mm, angle_deg=step.angle_deg)


@dataclass(frozen=True, eq=False)
class TakenFile:
    """A file taken in: what goes into the job, and the meshes its bodies name.

    Attributes:
        sources: one, or one per model file of an archive.
        bodies: of all sources; ``geometry`` names a mesh in ``meshes``.
        kits: one per source with several bodies.
        meshes: by name of geometry.
        originals: by hash, the bytes of files that came out of an archive.
    """

    sources: tuple[Source, ...]
    bodies: tuple[Body, ...]
    kits: tuple[Kit, ...]
    meshes: dict[str, Mesh]
    originals: dict[str, bytes] = field(default_factory=dict)


def take_in(  # noqa: PLR0913 - told apart by their names
    key: str,
    name: str,
    data: bytes,
    *,
    limits: UnpackingLimits | None = None,
    fineness: Fineness | None = None,
    sew: bool = False,
    beside: Mapping[str, bytes] | None = None,
    progress: Progress = lambda share, says: None,
    show: Callable[[Mesh], None] = lambda mesh: None,
) -> TakenFile:
    """Read a file into sources, bodies and their meshes.

    Args:
        key: id of the new source; ids of bodies and kits are made from it.
        name: the file's name.
        data: the whole file.
        limits: bounds for packed files.
        fineness: for CAD files; None for the usual, no finer than suits the size of the part.
        sew: whether loose surfaces of CAD files are sewn into solids.
        beside: by name, files that an assembly may name parts in; those of its own archive are found there.
        progress: told how far it is (0 to 1) and with what.
        show: given the triangles of a large file as soon as they are read, long before all is known.

    Raises:
        UnreadableFile: with what is wrong, where, and what to do.
    """
    files, parts = _assembled(unpacked(name, data, limits))
    parts.update(beside or {})
    alone = len(files) == 1 and files[0].data is data
    taken = []
    for number, packed in enumerate(files, 1):
        own = key if len(files) == 1 else f"{key}.{number}"
        share = (number - 1) / len(files)
        inner = _within(progress, share, 1 / len(files))
        one = _take_in_one(own, packed, limits, fineness, sew, inner, show, parts)
        if not alone:
            source = one.sources[0].model_copy(update={"packed_in": name})
            originals = {**one.originals, source.sha256: packed.data}
            one = replace(one, sources=(source,), originals=originals)
        taken.append(one)
    return _together(taken)


def _assembled(files: list[ArchivedFile]) -> tuple[list[ArchivedFile], dict[str, bytes]]:
    """Leave out the files that an assembly among them names parts in; return those by name, to be put
    together.
    """
    by_name = {PurePosixPath(file.name).name: file.data for file in files}
    if len(files) < 2:
        return files, {}
    wanted = {
        name.lower()
        for file in files
        if ending_of(file.name) in (".step", ".stp")
        for name in parts_elsewhere(file.data)
    }
    parts = {name: data for name, data in by_name.items() if name.lower() in wanted}
    return [file for file in files if PurePosixPath(file.name).name not in parts] or files, parts


def _within(progress: Progress, start: float, width: float) -> Progress:
    return lambda share, says: progress(start + width * share, says)


def _together(taken: list[TakenFile]) -> TakenFile:
    if len(taken) == 1:
        return taken[0]
    return TakenFile(
        tuple(source for one in taken for source in one.sources),
        tuple(body for one in taken for body in one.bodies),
        tuple(kit for one in taken for kit in one.kits),
        {name: mesh for one in taken for name, mesh in one.meshes.items()},
        {name: data for one in taken for name, data in one.originals.items()},
    )


def _take_in_one(  # noqa: PLR0913 - told apart by their names
    key: str,
    file: ArchivedFile,
    limits: UnpackingLimits | None,
    fineness: Fineness | None,
    sew: bool,
    progress: Progress,
    show: Callable[[Mesh], None],
    beside: Mapping[str, bytes],
) -> TakenFile:
    progress(0.05, f"reading {file.name}")
    named = _NAMING.submit(geometry.name_of, file.data)
    contents = read_model(file.name, file.data, limits, fineness, sew=sew, beside=beside)
    largest = max((part.mesh for part in contents.parts), key=lambda mesh: mesh.triangles)
    if largest.triangles >= REDUCED_FROM:
        show(largest)
        largest.primed()
    progress(0.45, "separating bodies")
    contents, aside = without_idle(contents)
    parts = bodies_of_contents(contents, stem_of(file.name))
    progress(0.6, "looking them over")
    solid = [part.mesh for part in parts if not part.stray]
    source = _source_of(key, file, contents, solid, named.result())
    kits = (Kit(id=f"k{key}", name=stem_of(file.name)),) if len(parts) > 1 else ()
    bodies, meshes = _described(source, parts, kits, progress)
    overlaps, passed = overlaps_of(
        [(body.id, meshes[body.geometry]) for body in bodies if body.health.closed]
    )
    counted = None if source.fineness else sum(body.triangles for body in bodies)
    told = {"overlaps": overlaps, "pairs_passed": passed, "triangles": counted, "set_aside": aside}
    named_parts, kept_parts = _parts_of(file, source, beside)
    source = source.model_copy(update={**told, "beside": named_parts})
    bodies = [
        body.model_copy(update={"recipe": _recipe(source, number)}) for number, body in enumerate(bodies)
    ]
    return TakenFile((source,), tuple(bodies), kits, meshes, kept_parts)


def _described(
    source: Source, parts: list[FoundBody], kits: tuple[Kit, ...], progress: Progress
) -> tuple[list[Body], dict[str, Mesh]]:
    """Describe every body of a file, and return their meshes by the names that the bodies have for them."""
    bodies, meshes = [], {}
    alike = _alike([part.mesh for part in parts])
    kit = kits[0].id if kits else None
    for number, (part, group) in enumerate(zip(parts, alike, strict=True), 1):
        body = body_of(f"{source.id}-{number}", source.id, part)
        same = f"{source.id}{group}" if group else None
        bodies.append(body.model_copy(update={"kit": kit, "alike": same}))
        meshes[body.geometry] = part.mesh
        progress(0.6 + 0.35 * number / len(parts), f"looking over {part.name}")
    return bodies, meshes


def _parts_of(
    file: ArchivedFile, source: Source, beside: Mapping[str, bytes]
) -> tuple[tuple[ReferencedFile, ...], dict[str, bytes]]:
    """Return the files beside an assembly that it names parts in, by name and by hash."""
    wanted = {one.lower() for one in parts_elsewhere(file.data)} if source.fineness and beside else set()
    parts = {name: data for name, data in beside.items() if name.lower() in wanted}
    named = tuple(ReferencedFile(name=name, sha256=geometry.name_of(data)) for name, data in parts.items())
    return named, {one.sha256: parts[one.name] for one in named}


def _recipe(source: Source, number: int) -> IntakeRecipe:
    """How a body that was just read can be read again."""
    return IntakeRecipe(
        name=source.name,
        sha256=source.sha256,
        number=number,
        fineness=source.fineness,
        sewn=source.sewn,
        beside=tuple((file.name, file.sha256) for file in source.beside),
    )


def without_idle(contents: FileObjects) -> tuple[FileObjects, int]:
    """Set aside triangles that bound nothing, and say so; return how many they were.

    What the kernel makes of CAD has none to begin with. A part of a 3MF whose triangles share no corners is
    welded first, as every other format is.

    Raises:
        UnreadableFile: there is nothing else in the file.
    """
    if contents.format in _FROM_KERNEL:
        return contents, 0
    parts, empty, double = [], 0, 0
    for part in contents.parts:
        done = set_aside(_hanging_together(part.mesh))
        empty, double = empty + done.empty, double + done.double
        if done.mesh.triangles:
            parts.append(replace(part, mesh=done.mesh))
    aside = empty + double
    if not parts:
        raise UnreadableFile(
            "nothing-bounded",
            f"the file holds nothing: all of its {aside:,} triangles are without area, or there twice",
            remedy="export it again",
        )
    if not aside:
        return replace(contents, parts=tuple(parts)), 0
    told = [f"{empty:,} without area"] * bool(empty) + [f"{double:,} that are there twice"] * bool(double)
    many = "1 triangle was" if aside == 1 else f"{aside:,} triangles were"
    says = f"{many} set aside, since they bound nothing: {' and '.join(told)}; the file itself is unchanged"
    remark = Remark(code="set-aside", severity="note", says=says)
    return replace(contents, parts=tuple(parts), remarks=(*contents.remarks, remark)), aside


def _hanging_together(mesh: Mesh) -> Mesh:
    """Join corners of the very same place where triangles hang apart without it."""
    if not mesh.topology.open_edges:
        return mesh
    joined = weld(mesh.vertices[mesh.faces])
    return joined if joined.topology.open_edges < mesh.topology.open_edges else mesh


@dataclass(frozen=True, eq=False)
class FoundBody:
    """A body as it was found in a file."""

    name: str
    mesh: Mesh
    voids: int
    stray: bool
    part: FileObject


def bodies_of_contents(contents: FileObjects, stem: str) -> list[FoundBody]:
    """Return the bodies of a file.

    What the file itself sets apart stays one body; any other mesh is divided into its shells.
    """
    label = re.sub(r"[\s_-]+", " ", stem).strip() or "body"
    pieces: list[tuple[FileObject, Mesh, int]] = []
    for part in contents.parts:
        if part.respected:
            pieces.append((part, part.mesh, count_voids(part.mesh)))
        else:
            pieces += [(part, one.mesh, one.voids) for one in separate(part.mesh)]
    sizes = [float(mesh.extents().max()) for _, mesh, _ in pieces]
    strays = [
        not part.respected and size < STRAY * max(sizes)
        for (part, _, _), size in zip(pieces, sizes, strict=True)
    ]
    several = len(pieces) - sum(strays) > 1
    found, numbers = [], {False: 0, True: 0}
    for (part, mesh, voids), stray in zip(pieces, strays, strict=True):
        numbers[stray] += 1
        name = (
            f"{label} speck {numbers[True]}" if stray else f"{label} {numbers[False]}" if several else label
        )
        if (part.respected and part.name) or (part.name and len(pieces) == 1 and contents.format == "3mf"):
            name = part.name if part.name != "object 1" or several else label
        found.append(FoundBody(name, mesh, voids, stray, part))
    return found


def _alike(meshes: list[Mesh]) -> list[str]:
    """Return a group name per mesh, empty for one that is like no other."""
    groups = groups_of_alike(meshes)
    return [f"~{group + 1}" if groups.count(group) > 1 else "" for group in groups]


def _source_of(
    key: str, file: ArchivedFile, contents: FileObjects, meshes: list[Mesh], sha256: str
) -> Source:
    return Source(
        id=key,
        name=file.name,
        sha256=sha256,
        bytes=len(file.data),
        format=contents.format,
        declared=contents.unit,
        unit=contents.unit,
        how="declared" if contents.unit else None,
        words=contents.words[:400],
        up_guess=up_guess_of(meshes),
        evidence=evidence_of(meshes),
        remarks=contents.remarks,
        fineness=contents.fineness,
        steps=_steps(contents, contents.fineness) if contents.fineness else (),
    )


def _steps(contents: FileObjects, fineness: Fineness) -> tuple[FinenessStep, ...]:
    """Say what each named fineness would come to, so that one can be chosen knowingly."""
    from aimtrue.core.formats import cad

    others = [one for one in STEPS if one.chord_mm != fineness.chord_mm]
    per = MM_PER[contents.unit] if contents.unit else 1.0
    rows = cad.steps(contents.parts, fineness, others, per)
    return tuple(sorted(rows, key=lambda step: -step.fineness.chord_mm))


def body_of(key: str, source: str, found: FoundBody) -> Body:
    """Describe a body; its mesh is named by the body's own id until it is kept."""
    mesh = found.mesh
    low, high = mesh.bounds()
    return Body(
        id=key,
        name=found.name[:80],
        drawn=found.part.name[:80] if found.part.respected else "",
        source=source,
        geometry=key,
        bench=key,
        triangles=mesh.triangles,
        vertices=len(mesh.vertices),
        low=as_vec3(low),
        high=as_vec3(high),
        volume=mesh.volume(),
        area=mesh.area(),
        health=health_of(mesh),
        colour=found.part.colour,
        material=found.part.material[:80],
        voids=found.voids,
        stray=found.stray,
        facets=found.part.facets,
        remade=(),
    )


def kept(body: Body, mesh: Mesh, *, faces: bool = True) -> tuple[Body, dict[str, bytes]]:
    """Return a body that names its geometry by hash, and the blobs it names.

    Without ``faces`` its flat and round faces are left to be listed later, see ``ListFaces``.
    """
    parts = {"geometry": geometry.to_bytes(mesh), "bench": geometry.drawn_bytes(mesh)}
    if faces:
        parts["features"] = listed.to_bytes(listed.features_of(mesh))
    names = {part: geometry.name_of(data) for part, data in parts.items()}
    return body.model_copy(update=names), {names[part]: data for part, data in parts.items()}


def all_kept(taken: TakenFile, faces_up_to: float = inf) -> tuple[tuple[Body, ...], dict[str, bytes]]:
    """Return all bodies naming their geometry by hash, and all blobs to keep.

    Of bodies of so many triangles and more the faces are not listed yet.
    """
    blobs: dict[str, bytes] = dict(taken.originals)
    bodies = []
    for body in taken.bodies:
        mesh = taken.meshes[body.geometry]
        done, named = kept(body, mesh, faces=mesh.triangles < faces_up_to)
        bodies.append(done)
        blobs.update(named)
    return tuple(bodies), blobs
