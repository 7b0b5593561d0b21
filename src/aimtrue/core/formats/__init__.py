"""Model files: bytes to meshes, and meshes to bytes.

Each format has a module with ``read`` and, where it is released, ``write``.
:func:`read_model` picks the reader from the name and the bytes.
"""

from __future__ import annotations

from pathlib import PurePosixPath

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import stl, threemf
from aimtrue.core.formats.contents import Contents, Limits

LATER = {".step", ".stp", ".iges", ".igs", ".brep", ".obj", ".ply", ".gz", ".zip"}
"""Endings that a coming version takes; said so rather than called unknown."""

READ_ENDINGS = (".stl", ".3mf")


def ending_of(name: str) -> str:
    """Return the lower-case ending of a file name, with its dot."""
    return PurePosixPath(name.replace("\\", "/")).suffix.lower()


def refuse_unreadable_ending(name: str) -> None:
    """Raise :class:`UnreadableFile` when a file's ending already tells it cannot be taken."""
    ending = ending_of(name)
    if ending in READ_ENDINGS:
        return
    if ending in LATER:
        raise UnreadableFile(
            "format-later",
            f"{ending.removeprefix('.').upper()} files cannot be read yet",
            remedy="export the part as STL or 3MF",
        )
    shown = f"the ending “{ending}” is not known here" if ending else "the file's name has no ending"
    raise UnreadableFile("format-unknown", shown, remedy="give an .stl or .3mf file")


def read_model(name: str, data: bytes, limits: Limits | None = None) -> Contents:
    """Read a model file.

    Args:
        name: the file's name; its ending chooses the format.
        data: the whole file.
        limits: how much an archive may unpack to.

    Raises:
        UnreadableFile: with what is wrong, where, and what to do.
    """
    refuse_unreadable_ending(name)
    if not data:
        raise UnreadableFile("file-empty", "the file is empty (0 bytes)", remedy="export it again")
    if ending_of(name) == ".stl":
        return stl.read(data)
    return threemf.read(data, limits or Limits())
