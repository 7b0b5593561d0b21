"""Take a file in: from bytes to sources and bodies with their geometry."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from math import inf
from pathlib import PurePosixPath

from aimtrue.core.formats import ending_of, read_model, stem_of, unpacked
from aimtrue.core.formats.archives import ArchivedFile
from aimtrue.core.formats.assemblies import parts_elsewhere
from aimtrue.core.formats.contents import FileObjects, UnpackingLimits
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.intake.taken_bodies import (
    FoundBody,
    alike_groups,
    bodies_of_contents,
    body_of,
    kept,
    without_idle,
)
from aimtrue.core.intake.units.evidence import evidence_of, up_guess_of
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM
from aimtrue.core.model.body import Body
from aimtrue.core.model.facets import Fineness, FinenessStep
from aimtrue.core.model.job import Kit
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.recipe import IntakeRecipe
from aimtrue.core.model.source import ReferencedFile, Source
from aimtrue.core.progress import Progress

COARSE = Fineness(chord_mm=0.1, angle_deg=20)
MEDIUM = Fineness(chord_mm=0.03, angle_deg=12)
FINE = Fineness(chord_mm=0.01, angle_deg=6)
STEPS = (COARSE, MEDIUM, FINE)
_NAMING = ThreadPoolExecutor(1, "naming")
"""Hashing a large file takes a while and leaves the other processor free."""


def with_chord(chord_mm: float) -> Fineness:
    """Return the fineness of a chord alone: who asks for a coarse one does not want the finest angle with
    it.
    """
    step = max(
        (fineness for fineness in STEPS if fineness.chord_mm <= chord_mm),
        key=lambda step: step.chord_mm,
        default=FINE,
    )
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
        taken_file = _take_in_one(own, packed, limits, fineness, sew, inner, show, parts)
        if not alone:
            source = taken_file.sources[0].model_copy(update={"packed_in": name})
            originals = {**taken_file.originals, source.sha256: packed.data}
            taken_file = replace(taken_file, sources=(source,), originals=originals)
        taken.append(taken_file)
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
        tuple(source for taken_file in taken for source in taken_file.sources),
        tuple(body for taken_file in taken for body in taken_file.bodies),
        tuple(kit for taken_file in taken for kit in taken_file.kits),
        {name: mesh for taken_file in taken for name, mesh in taken_file.meshes.items()},
        {name: data for taken_file in taken for name, data in taken_file.originals.items()},
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
    facts = {"overlaps": overlaps, "pairs_passed": passed, "triangles": counted, "set_aside": aside}
    named_parts, kept_parts = _parts_of(file, source, beside)
    source = source.model_copy(update={**facts, "beside": named_parts})
    bodies = [
        body.model_copy(update={"recipe": _recipe(source, number)}) for number, body in enumerate(bodies)
    ]
    return TakenFile((source,), tuple(bodies), kits, meshes, kept_parts)


def _described(
    source: Source, parts: list[FoundBody], kits: tuple[Kit, ...], progress: Progress
) -> tuple[list[Body], dict[str, Mesh]]:
    """Describe every body of a file, and return their meshes by the names that the bodies have for them."""
    bodies, meshes = [], {}
    alike = alike_groups([part.mesh for part in parts])
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
    wanted = {part.lower() for part in parts_elsewhere(file.data)} if source.fineness and beside else set()
    parts = {name: data for name, data in beside.items() if name.lower() in wanted}
    named = tuple(ReferencedFile(name=name, sha256=geometry.name_of(data)) for name, data in parts.items())
    return named, {referenced_file.sha256: parts[referenced_file.name] for referenced_file in named}


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

    others = [step for step in STEPS if step.chord_mm != fineness.chord_mm]
    per = MM_PER[contents.unit] if contents.unit else 1.0
    rows = cad.steps(contents.parts, fineness, others, per)
    return tuple(sorted(rows, key=lambda step: -step.fineness.chord_mm))


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
