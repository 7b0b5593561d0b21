"""Read released bytes back with readers that share no code with the writers.

STL and OBJ are read by trimesh, 3MF by lib3mf, the format's reference implementation.
"""

from __future__ import annotations

import ctypes
import io
from functools import lru_cache
from typing import Any

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Floats, Mesh, weld

_LIB3MF_UNITS = (Unit.UM, Unit.MM, Unit.CM, Unit.IN, Unit.FT, Unit.M)
"""In the order of lib3mf's enumeration."""


def read_back(kind: str, data: bytes) -> tuple[Unit | None, list[Mesh]]:
    """Read released bytes.

    Args:
        kind: ``stl``, ``stl-ascii``, ``obj`` or ``3mf``.
        data: the bytes of the file.

    Returns:
        The declared unit (None for STL and OBJ) and one mesh per object, faces in the file's order,
        coordinates in the file's unit.

    Raises:
        AimTrueError: the second reader cannot read the file at all.
    """
    try:
        unit, meshes = _by_lib3mf(data) if kind == "3mf" else (None, [_by_trimesh(kind, data)])
    except Exception as error:  # whatever a foreign reader throws, the release must not go out
        raise AimTrueError(
            "read-back-failed",
            f"the released file cannot be read back: {error}",
            remedy="report this; nothing was handed over",
        ) from error
    if not meshes or any(mesh.triangles == 0 for mesh in meshes):
        raise AimTrueError(
            "read-back-failed",
            "the released file holds nothing when it is read back",
            remedy="report this; nothing was handed over",
        )
    return unit, meshes


def _by_trimesh(kind: str, data: bytes) -> Mesh:
    import trimesh

    file_type = "obj" if kind == "obj" else "stl"
    loaded: Any = trimesh.load(
        io.BytesIO(data), file_type=file_type, process=False, force="mesh", maintain_order=True
    )
    # Text carries the digits that bring a float32 back; that number is what is in the file.
    vertices = np.asarray(loaded.vertices, dtype=np.float32).astype(np.float64)
    corners = vertices[np.asarray(loaded.faces)]
    return weld(corners)


def _by_lib3mf(data: bytes) -> tuple[Unit | None, list[Mesh]]:
    wrapper = _wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    _read_buffer(wrapper, reader, data)
    meshes = []
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        resource = model.GetMeshObjectByID(item.GetObjectResourceID())
        meshes.append(_placed(_mesh_of(wrapper, resource), item))
    return _LIB3MF_UNITS[int(model.GetUnit())], meshes


@lru_cache(maxsize=1)
def _wrapper() -> Any:
    import lib3mf

    return lib3mf.get_wrapper()


def _read_buffer(wrapper: Any, reader: Any, data: bytes) -> None:
    buffer = (ctypes.c_uint8 * len(data)).from_buffer_copy(data)
    wrapper.checkError(
        reader, wrapper.lib.lib3mf_reader_readfrombuffer(reader._handle, ctypes.c_uint64(len(data)), buffer)
    )


def _mesh_of(wrapper: Any, resource: Any) -> Mesh:
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
    return Mesh(vertices, np.frombuffer(faces, np.uint32).reshape(-1, 3).astype(np.int32))


def _placed(mesh: Mesh, item: Any) -> Mesh:
    if not item.HasObjectTransform():
        return mesh
    fields: Floats = np.array([list(row) for row in item.GetObjectTransform().Fields], dtype=np.float64)
    return mesh.mapped(lambda points: points @ fields[:3] + fields[3])
