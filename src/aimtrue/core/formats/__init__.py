"""Model files: bytes to meshes, and meshes to bytes.

Each format has a module with ``read`` and, where it is released, ``write``.
:func:`read_model` picks the reader from the name and the bytes.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping
from dataclasses import replace
from pathlib import PurePosixPath

from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats import archives, obj, ply, stl, threemf
from aimtrue.core.formats.archives import ArchivedFile
from aimtrue.core.formats.contents import FileObjects, UnpackingLimits
from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.text import plain

log = logging.getLogger("aimtrue.formats")
MESH_ENDINGS = (".stl", ".3mf", ".obj", ".ply")
CAD_ENDINGS = (".step", ".stp", ".iges", ".igs", ".brep", ".brp")
MODEL_ENDINGS = (*MESH_ENDINGS, *CAD_ENDINGS)
_LONGEST_NAME = 200
"""Characters of what a file calls its parts."""
READ_ENDINGS = (*MODEL_ENDINGS, *archives.ENDINGS)


def ending_of(name: str) -> str:
    """Return the lower-case ending of a file name, with its dot."""
    return PurePosixPath(name.replace("\\", "/")).suffix.lower()


def stem_of(name: str) -> str:
    """Return a file's name without folders and endings."""
    base = PurePosixPath(name.replace("\\", "/")).name
    while ending_of(base) in READ_ENDINGS:
        base = base[: -len(ending_of(base))]
    return base


def refuse_unreadable_ending(name: str) -> None:
    """Raise :class:`UnreadableFile` when a file's ending already tells it cannot be taken."""
    ending = ending_of(name)
    if ending in READ_ENDINGS:
        return
    shown = f"the ending “{ending}” is not known here" if ending else "the file's name has no ending"
    raise UnreadableFile(
        "format-unknown", shown, remedy="give a STEP, IGES, BREP, STL, 3MF, OBJ or PLY file, or a ZIP of such"
    )


def unpacked(name: str, data: bytes, limits: UnpackingLimits | None = None) -> list[ArchivedFile]:
    """Return the model files that a file holds: itself, or what an archive packs.

    Raises:
        UnreadableFile: an ending that is not taken, an empty file, or an archive that is not sound.
    """
    refuse_unreadable_ending(name)
    if not data:
        raise UnreadableFile("file-empty", "the file is empty (0 bytes)", remedy="export it again")
    if ending_of(name) not in archives.ENDINGS:
        return [ArchivedFile(name, data)]
    archived_files = archives.unpack(name, data, limits or UnpackingLimits(), MODEL_ENDINGS)
    for packed in archived_files:
        if ending_of(packed.name) in archives.ENDINGS:
            raise UnreadableFile(
                "archive-nested",
                "the archive holds another archive",
                where=packed.name,
                remedy="unpack it once",
            )
        refuse_unreadable_ending(packed.name)
    return archived_files


def read_model(
    name: str,
    data: bytes,
    limits: UnpackingLimits | None = None,
    fineness: Fineness | None = None,
    *,
    sew: bool = False,
    beside: Mapping[str, bytes] | None = None,
) -> FileObjects:
    """Read one model file.

    Args:
        name: the file's name; its ending chooses the format.
        data: the whole file.
        limits: how much a packed file may unpack to.
        fineness: how finely CAD surfaces become facets; None for the usual, as suits the size of the part.
        sew: whether loose CAD surfaces are sewn into solids.
        beside: by name, files that a CAD assembly may name parts in.

    Raises:
        UnreadableFile: with what is wrong, where, and what to do.
    """
    refuse_unreadable_ending(name)
    if not data:
        raise UnreadableFile("file-empty", "the file is empty (0 bytes)", remedy="export it again")
    try:
        contents = _read(name, data, limits, fineness, sew=sew, beside=beside)
    except (AimTrueError, MemoryError):
        raise
    except Exception as error:
        # A file can be wrong in more ways than readers ask for; what they trip over then is still the file's.
        log.warning("%s: %s: %s", name, type(error).__name__, error, exc_info=True)
        raise _damaged(name, error) from error
    return _with_plain_names(contents)


def _damaged(name: str, error: Exception) -> UnreadableFile:
    """Say of a file that a reader tripped over it, and over what where that says anything."""
    if ending_of(name) in CAD_ENDINGS:
        says = "the CAD kernel cannot read this file: it is damaged, or holds what the kernel does not know"
    else:
        over = plain(str(error) or type(error).__name__, 120)
        says = f"the file is damaged, or written in a way that is not known here ({over})"
    return UnreadableFile("file-damaged", says, remedy="export it again; the original is kept")


def _with_plain_names(contents: FileObjects) -> FileObjects:
    parts = tuple(
        replace(part, name=plain(part.name, _LONGEST_NAME), material=plain(part.material, _LONGEST_NAME))
        for part in contents.parts
    )
    return replace(contents, parts=parts, words=plain(contents.words, len(contents.words)))


def _read(
    name: str,
    data: bytes,
    limits: UnpackingLimits | None,
    fineness: Fineness | None,
    *,
    sew: bool,
    beside: Mapping[str, bytes] | None,
) -> FileObjects:
    match ending_of(name):
        case ".stl":
            return stl.read(data)
        case ".obj":
            return obj.read(data)
        case ".ply":
            return ply.read(data)
        case ".3mf":
            return threemf.read(data, limits or UnpackingLimits())
        case ending if ending in CAD_ENDINGS:
            # The kernel is slow to load, so it is loaded only when it is needed.
            from aimtrue.core.formats import cad

            return cad.read(ending, data, fineness, sew=sew, beside=beside)
    inner = unpacked(name, data, limits)
    if len(inner) > 1:
        raise UnreadableFile(
            "archive-several", f"the archive holds {len(inner)} files", remedy="take them one by one"
        )
    return read_model(inner[0].name, inner[0].data, limits, fineness, sew=sew)
