"""This module says what inspect and release share: reading a file from disk into a job of its own."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from enum import IntEnum
from functools import wraps
from pathlib import Path

from pydantic import ValidationError

from aimtrue.cli.failures import complain
from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats import CAD_ENDINGS, READ_ENDINGS, archives, ending_of, unpacked
from aimtrue.core.formats.assemblies import parts_elsewhere
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.joining import join_files
from aimtrue.core.intake.take_in import TakenFile, take_in, with_chord
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features.listed import Features, features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.facets import CHORD_MM, Fineness
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.source import Source
from aimtrue.core.progress import Progress
from aimtrue.settings import settings


class ExitCode(IntEnum):
    """Exit codes; stable, scripts rely on them."""

    DONE = 0
    USAGE = 2
    UNREADABLE = 3
    UNSETTLED = 4
    UNPROVEN = 5
    UNWRITABLE = 6


class CommandFailure(Exception):
    """Ends a command with a line on standard error and an exit code."""

    def __init__(self, code: ExitCode, says: str) -> None:
        super().__init__(says)
        self.code, self.says = code, says


@dataclass(frozen=True, eq=False)
class LoadedFile:
    """A file as a job, with its meshes at hand; also the shelf the core fetches them from."""

    path: str
    job: Job
    meshes: dict[str, Mesh]
    originals: dict[str, bytes]
    listed: dict[str, Features] = field(default_factory=dict)

    def mesh(self, name: str) -> Mesh:
        """Return a mesh by the name its body has for it."""
        return self.meshes[name]

    def features(self, body: Body) -> Features:
        """Return the flat and round faces of a body's mesh."""
        if body.geometry not in self.listed:
            self.listed[body.geometry] = features_of(self.meshes[body.geometry])
        return self.listed[body.geometry]

    def original(self, sha256: str) -> bytes:
        """Return the bytes of a source, as they were given."""
        return self.originals[sha256]


def every_file(paths: list[str]) -> list[str]:
    """Return the files, and of folders all model files in them, in order.

    Raises:
        Failure: a folder has none.
    """
    file_paths = []
    for path in paths:
        if not Path(path).is_dir():
            file_paths.append(path)
            continue
        here = sorted(p for p in Path(path).rglob("*") if ending_of(p.name) in READ_ENDINGS and p.is_file())
        if not here:
            raise CommandFailure(ExitCode.UNREADABLE, f"{path}: there is no model file in this folder")
        parts = _parts_of_assemblies(here)
        file_paths += [str(p) for p in here if p not in parts]
    return file_paths


def _parts_of_assemblies(files: list[Path]) -> set[Path]:
    """Return the files of a folder that an assembly among them names parts in: they come in with that."""
    steps = [path for path in files if ending_of(path.name) in (".step", ".stp")]
    return {part for path in steps for part in _parts_beside(str(path), path.read_bytes()).values()}


def load_together(paths: list[str], asked: argparse.Namespace) -> LoadedFile:
    """Read several files into one job, and settle what the options tell.

    Raises:
        Failure: a file cannot be read, or a unit is not settled.
    """
    whole = load(paths[0], asked)
    for number, path in enumerate(paths[1:], start=2):
        more = load(path, asked, f"s{number}")
        taken = TakeIn(sources=more.job.sources, bodies=more.job.bodies, kits=more.job.kits)
        store = replace(
            whole, meshes={**whole.meshes, **more.meshes}, originals={**whole.originals, **more.originals}
        )
        whole = replace(store, job=join_files(whole.job, taken, store))
    for source in whole.job.sources:
        if source.unit is None:
            raise CommandFailure(
                ExitCode.UNSETTLED, f"{source.name}: the unit is not settled; tell it with --unit"
            )
    return whole


def load(path: str, asked: argparse.Namespace, key: str = "s1") -> LoadedFile:
    """Read a file and settle what the options tell.

    Raises:
        Failure: the file cannot be read; the text says which, where and why.
    """
    try:
        data = _bytes_of(path)
        taken = _taken(path, data, asked, key)
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNREADABLE, f"{path}: {error.line()}") from None
    whole = [source.sha256 for source in taken.sources if not source.packed_in]
    originals = {whole[0] if whole else geometry.name_of(data): data, **taken.originals}
    loaded = LoadedFile(path, Job(name=Path(path).stem), taken.meshes, originals)
    sources = tuple(source.model_copy(update={"up": asked.up}) for source in taken.sources)
    if asked.unit is not None:
        sources = tuple(source.model_copy(update=_told(source, asked.unit)) for source in sources)
    joining = TakeIn(sources=sources, bodies=taken.bodies, kits=taken.kits)
    job = join_files(loaded.job, joining, loaded)
    return LoadedFile(path, job, taken.meshes, originals)


def _told(source: Source, unit: Unit) -> dict[str, object]:
    return {"unit": unit, "how": "declared" if unit == source.declared else "told"}


def _taken(path: str, data: bytes, asked: argparse.Namespace, key: str) -> TakenFile:
    fineness = None
    if asked.deflection is not None:
        try:
            fineness = with_chord(asked.deflection)
        except ValidationError:
            raise CommandFailure(
                ExitCode.USAGE,
                f"--deflection {asked.deflection:g} is not between {CHORD_MM[0]:g} and {CHORD_MM[1]:g} mm",
            ) from None
    limits = UnpackingLimits(unpacked_bytes=settings().unpacked_mb * 1_000_000)
    beside = {name: _bytes_of(str(part)) for name, part in _parts_beside(path, data).items()}
    if not _holds_cad(path, data):
        return take_in(key, Path(path).name, data, limits=limits, fineness=fineness)
    from aimtrue.work import sandbox

    # The CAD kernel is native code: what a bad file does to it must not end this process.
    bounds = sandbox.TaskLimits(seconds=settings().task_seconds, memory_bytes=settings().task_memory_bytes)
    taken: TakenFile = sandbox.run(
        _isolated, key, Path(path).name, data, limits, fineness, beside, limits=bounds
    )
    return taken


def _isolated(  # noqa: PLR0913 - told apart by their names
    key: str,
    name: str,
    data: bytes,
    limits: UnpackingLimits,
    fineness: Fineness | None,
    beside: dict[str, bytes],
    progress: Progress,
) -> TakenFile:
    return take_in(key, name, data, limits=limits, fineness=fineness, beside=beside, progress=progress)


def _parts_beside(path: str, data: bytes) -> dict[str, Path]:
    """Return, by name, the files of the same folder that an assembly names parts in."""
    wanted = (
        {name.lower() for name in parts_elsewhere(data)} if ending_of(path) in (".step", ".stp") else set()
    )
    if not wanted:
        return {}
    return {
        entry.name: entry
        for entry in Path(path).parent.iterdir()
        if entry.name.lower() in wanted and entry.is_file()
    }


def _holds_cad(path: str, data: bytes) -> bool:
    if ending_of(path) in archives.ENDINGS:
        inner = unpacked(
            Path(path).name, data, UnpackingLimits(unpacked_bytes=settings().unpacked_mb * 1_000_000)
        )
        return any(ending_of(packed.name) in CAD_ENDINGS for packed in inner)
    return ending_of(path) in CAD_ENDINGS


def _bytes_of(path: str) -> bytes:
    try:
        size = Path(path).stat().st_size
        if size > settings().upload_bytes:
            raise UnreadableFile(
                "file-too-large",
                f"the file has {size / 1e6:.0f} MB; the limit is {settings().upload_bytes / 1e6:.0f} MB",
                remedy="raise AIMTRUE_UPLOAD_MB",
            )
        return Path(path).read_bytes()
    except OSError as error:
        raise UnreadableFile("file-unreadable", f"the file cannot be opened: {error.strerror}") from None


def complaining(command: Callable[[argparse.Namespace], int]) -> Callable[[argparse.Namespace], int]:
    """Let a command say what ends it in one line on standard error, and end with the exit code of that."""

    @wraps(command)
    def told(asked: argparse.Namespace) -> int:
        try:
            return command(asked)
        except CommandFailure as failure:
            complain(failure.says)
            return failure.code
        except AimTrueError as error:
            complain(f"{asked.files[0]}: {error.line()}")
            return ExitCode.USAGE

    return told


def write_new(name: str, content: bytes, *, replace: bool) -> None:
    """Write a file that is not there yet, or may be replaced.

    Raises:
        CommandFailure: it is there already, or cannot be written.
    """
    path = Path(name)
    if path.exists() and not replace:
        raise CommandFailure(ExitCode.UNWRITABLE, f"{path} exists already; use --replace to replace it")
    try:
        path.write_bytes(content)
    except OSError as error:
        says = f"{path}: cannot be written: {error.strerror or error}"
        raise CommandFailure(ExitCode.UNWRITABLE, says) from None
