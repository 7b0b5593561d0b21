"""Read released bytes back: STL and OBJ by trimesh, 3MF by lib3mf, the format's reference implementation."""

from __future__ import annotations

import ctypes
import io
from functools import lru_cache
from typing import Any

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.surface import Surface

_LIB3MF_UNITS = (Unit.UM, Unit.MM, Unit.CM, Unit.IN, Unit.FT, Unit.M)
"""In the order of lib3mf's enumeration."""


def reader_of(kind: str) -> str:
    """Name the reader of a released format."""
    return "lib3mf" if kind == "3mf" else "trimesh"


def read_back(kind: str, data: bytes) -> tuple[Unit | None, list[Surface]]:
    """Read released bytes.

    Args:
        kind: ``stl``, ``stl-ascii``, ``obj`` or ``3mf``.
        data: the bytes of the file.

    Returns:
        The declared unit (None for STL and OBJ) and one surface per object, faces in the file's order,
        coordinates in the file's unit.

    Raises:
        AimTrueError: the second reader cannot read the file at all.
    """
    try:
        unit, found = _by_lib3mf(data) if kind == "3mf" else (None, [_by_trimesh(kind, data)])
    except Exception as error:  # whatever a foreign reader throws, the release must not go out
        raise AimTrueError(
            "read-back-failed",
            f"the written {kind.upper()} cannot be read back by {reader_of(kind)}: {_reason(error)}",
            remedy="nothing was handed over; choose another format, or report this with the file",
        ) from error
    if not found or any(not len(surface.faces) for surface in found):
        raise AimTrueError(
            "read-back-failed",
            "the released file holds nothing when it is read back",
            remedy="nothing was handed over; report this with the file",
        )
    return unit, found


def _reason(error: Exception) -> str:
    return str(error).strip() or type(error).__name__


def _by_trimesh(kind: str, data: bytes) -> Surface:
    import trimesh

    file_type = "obj" if kind == "obj" else "stl"
    loaded: Any = trimesh.load(
        io.BytesIO(data), file_type=file_type, process=False, force="mesh", maintain_order=True
    )
    # Text carries the digits that bring a float32 back; that number is what is in the file.
    points = np.asarray(loaded.vertices, dtype=np.float32).astype(np.float64)
    return Surface(points, np.asarray(loaded.faces, dtype=np.int64))


def _by_lib3mf(data: bytes) -> tuple[Unit | None, list[Surface]]:
    wrapper = _wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    _read_buffer(wrapper, reader, data)
    found = []
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        resource = model.GetMeshObjectByID(item.GetObjectResourceID())
        found.append(_placed(_surface_of(wrapper, resource), item))
    return _LIB3MF_UNITS[int(model.GetUnit())], found


@lru_cache(maxsize=1)
def _wrapper() -> Any:
    import lib3mf

    return lib3mf.get_wrapper()


def _read_buffer(wrapper: Any, reader: Any, data: bytes) -> None:
    buffer = (ctypes.c_uint8 * len(data)).from_buffer_copy(data)
    wrapper.checkError(
        reader, wrapper.lib.lib3mf_reader_readfrombuffer(reader._handle, ctypes.c_uint64(len(data)), buffer)
    )


def _surface_of(wrapper: Any, resource: Any) -> Surface:
    import lib3mf

    points = (lib3mf.Position * resource.GetVertexCount())()
    faces = (lib3mf.Triangle * resource.GetTriangleCount())()
    needed = ctypes.c_uint64(0)
    # The convenience calls build a Python object per vertex; the library fills our buffers directly.
    wrapper.checkError(
        resource,
        wrapper.lib.lib3mf_meshobject_getvertices(
            resource._handle, ctypes.c_uint64(len(points)), needed, points
        ),
    )
    wrapper.checkError(
        resource,
        wrapper.lib.lib3mf_meshobject_gettriangleindices(
            resource._handle, ctypes.c_uint64(len(faces)), needed, faces
        ),
    )
    vertices = np.frombuffer(points, np.float32).reshape(-1, 3).astype(np.float64)
    return Surface(vertices, np.frombuffer(faces, np.uint32).reshape(-1, 3).astype(np.int64))


def _placed(surface: Surface, item: Any) -> Surface:
    if not item.HasObjectTransform():
        return surface
    fields = np.array([list(row) for row in item.GetObjectTransform().Fields], dtype=np.float64)
    return surface.moved(surface.points @ fields[:3] + fields[3])
