"""Read released bytes back: STL, OBJ and PLY by trimesh, 3MF by its reference implementation, lib3mf, and
STEP by the CAD kernel's plain reader.
"""

from __future__ import annotations

import ctypes
import io
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof import kernel
from aimtrue.core.proof.surface import Points, Surface

SAYS_UNIT = ("3mf", "step")
"""Formats that say their unit, and hold objects apart."""
_LIB3MF_UNITS = (Unit.UM, Unit.MM, Unit.CM, Unit.IN, Unit.FT, Unit.M)
"""In the order of lib3mf's enumeration."""


def reader_of(kind: str) -> str:
    """Name the reader of a released format."""
    return {"3mf": "lib3mf", "step": "the CAD kernel's plain reader"}.get(kind, "trimesh")


@dataclass(frozen=True, eq=False)
class ReadBackFile:
    """A released file as it was read back.

    Attributes:
        unit: the one it declares; None for STL, OBJ and PLY.
        objects: one surface for each, faces in the file's order, coordinates in the file's unit.
        grains: per object the spacing of float32 there, in that unit; of one that is placed by a move, of
            its own coordinates and of the move together.
        volumes: exact ones of solids, in mm³, where the file has such.
    """

    unit: Unit | None
    objects: list[Surface]
    grains: list[float]
    volumes: list[float] | None = None

    def in_mm(self, per: float) -> ReadBackFile:
        """Return the same with every number so many times as large."""
        if per == 1.0:
            return self
        objects = [surface.moved(surface.points * per) for surface in self.objects]
        return ReadBackFile(self.unit, objects, [grain * per for grain in self.grains], self.volumes)


def read_back(kind: str, data: bytes, fineness: Fineness | None = None) -> ReadBackFile:
    """Read released bytes.

    Args:
        kind: ``stl``, ``stl-ascii``, ``obj``, ``ply``, ``3mf`` or ``step``.
        data: the bytes of the file.
        fineness: at which exact solids were cut into facets.

    Raises:
        AimTrueError: the second reader cannot read the file at all.
    """
    try:
        file = _by(kind, data, fineness)
    except Exception as error:  # Whatever a foreign reader raises, the release must not go out.
        raise AimTrueError(
            "read-back-failed",
            f"the written {kind.upper()} cannot be read back by {reader_of(kind)}: {_reason(error)}",
            remedy="nothing was handed over; choose another format, or report this with the file",
        ) from error
    if not file.objects or any(not len(surface.faces) for surface in file.objects):
        raise AimTrueError(
            "read-back-failed",
            "the released file holds nothing when it is read back",
            remedy="nothing was handed over; report this with the file",
        )
    return file


def _by(kind: str, data: bytes, fineness: Fineness | None) -> ReadBackFile:
    if kind == "3mf":
        return _by_lib3mf(data)
    if kind == "step":
        return _by_kernel(data, fineness or Fineness())
    surface = _by_trimesh(kind, data)
    return ReadBackFile(None, [surface], [grain_of(surface.points)])


def grain_of(points: Points) -> float:
    """Return the spacing of float32 at the greatest coordinate of (n, 3) points."""
    # The spacing doubles at powers of two; rounding may carry a coordinate just past one.
    return float(np.spacing(np.float32(float(abs(points).max()) * (1 + 2**-20)))) if len(points) else 0.0


def _by_kernel(data: bytes, fineness: Fineness) -> ReadBackFile:
    """Exact solids, in mm; the kernel brings the numbers of any unit there."""
    solids = kernel.read("step", data, fineness)
    return ReadBackFile(
        kernel.declared(data),
        [solid.surface for solid in solids],
        [grain_of(solid.surface.points) for solid in solids],
        [solid.volume or 0.0 for solid in solids],
    )


def _reason(error: Exception) -> str:
    return str(error).strip() or type(error).__name__


def _by_trimesh(kind: str, data: bytes) -> Surface:
    import trimesh

    if kind in ("obj", "ply"):
        loaded: Any = trimesh.load(
            io.BytesIO(data), file_type=kind, process=False, force="mesh", maintain_order=True
        )
        vertices, faces = loaded.vertices, loaded.faces
    else:
        from trimesh.exchange.stl import load_stl

        # The reader itself: making a mesh of what it reads copies all of it three times over.
        read = load_stl(io.BytesIO(data))
        vertices, faces = read["vertices"], read["faces"]
    # Text carries the digits that bring a float32 back; that number is what is in the file.
    points = np.asarray(vertices, dtype=np.float32).astype(np.float64)
    return Surface(points, np.asarray(faces, dtype=np.int64))


def _by_lib3mf(data: bytes) -> ReadBackFile:
    wrapper = _wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    _read_buffer(wrapper, reader, data)
    surfaces, grains = [], []
    meshes: dict[int, Surface] = {}
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        own = item.GetObjectTransform() if item.HasObjectTransform() else None
        for number, inner in _meshes_of(model, item.GetObjectResource()):
            if number not in meshes:
                meshes[number] = _surface_of(wrapper, model.GetMeshObjectByID(number))
            placed, move = _moved(meshes[number], [matrix for matrix in (*inner, own) if matrix is not None])
            surfaces.append(placed)
            grains.append(grain_of(meshes[number].points) + move)
    return ReadBackFile(_LIB3MF_UNITS[int(model.GetUnit())], surfaces, grains)


@lru_cache(maxsize=1)
def _wrapper() -> Any:  # noqa: ANN401 - of any type, or of none that is known
    import lib3mf

    return lib3mf.get_wrapper()


def _read_buffer(wrapper: Any, reader: Any, data: bytes) -> None:  # noqa: ANN401 - of any type, or of none that is known
    buffer = (ctypes.c_uint8 * len(data)).from_buffer_copy(data)
    wrapper.checkError(
        reader, wrapper.lib.lib3mf_reader_readfrombuffer(reader._handle, ctypes.c_uint64(len(data)), buffer)
    )


def _surface_of(wrapper: Any, resource: Any) -> Surface:  # noqa: ANN401 - of any type, or of none that is known
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


def _meshes_of(model: Any, resource: Any) -> list[tuple[int, tuple[Any, ...]]]:  # noqa: ANN401 - of any type, or of none that is known
    """The meshes that an object is, or is put together from, each with what moves it, the innermost first."""
    number = resource.GetResourceID()
    if resource.IsMeshObject():
        return [(number, ())]
    whole, objects = model.GetComponentsObjectByID(number), []
    for at in range(whole.GetComponentCount()):
        component = whole.GetComponent(at)
        own = (component.GetTransform(),) if component.HasTransform() else ()
        objects += [
            (inner, (*moves, *own)) for inner, moves in _meshes_of(model, component.GetObjectResource())
        ]
    return objects


def _moved(surface: Surface, moves: list[Any]) -> tuple[Surface, float]:
    """A surface where its build item has it, and the spacing of float32 in what moves it."""
    grain = 0.0
    for move in moves:
        fields = np.array([list(row) for row in move.Fields], dtype=np.float64)
        surface = surface.moved(surface.points @ fields[:3] + fields[3])
        grain += grain_of(fields[3:])
    return surface, grain
