"""A 3MF package: its parts, and the meshes that its build items place."""

from __future__ import annotations

import io
import zipfile
import zlib
from dataclasses import dataclass
from posixpath import normpath

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import (
    FileObject,
    FileObjects,
    UnpackingLimits,
    refuse_bad_numbers,
    refuse_no_surface,
    told_once,
)
from aimtrue.core.formats.threemf.model import IDENTITY, ModelObject, ModelPart, parse, run
from aimtrue.core.formats.threemf.names import MODEL_TYPE, USUAL_MODEL
from aimtrue.core.mesh.mesh import Mesh

_DEEPEST = 32
_MOST_PLACED = 4096
"""Greatest number of placed meshes one file may ask for; components can multiply without end."""


def read(data: bytes, limits: UnpackingLimits) -> FileObjects:
    """Read a 3MF package.

    Every mesh that the build items place, directly or through components, is a part of its own.

    Raises:
        UnreadableFile: not a ZIP, no model part, unsafe XML, unpacks to far too much,
            a component or vertex that does not exist, circular components, no triangles.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            _refuse_bomb(package, len(data), limits)
            return _contents(_Package(package, limits))
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        NotImplementedError,
        EOFError,
        RuntimeError,
        OSError,
        ValueError,
        UnicodeError,
    ) as error:
        raise UnreadableFile(
            "3mf-not-zip",
            "the file is not a 3MF: it is not a readable ZIP package",
            where=str(error)[:120],
            remedy="copy or export it again",
        ) from None
    except zlib.error as error:
        raise UnreadableFile(
            "3mf-damaged",
            "the package is damaged inside",
            where=str(error)[:120],
            remedy="copy or export it again",
        ) from None


def _contents(package: _Package) -> FileObjects:
    placed = package.placed()
    if not placed:
        raise UnreadableFile(
            "no-triangles",
            "the 3MF holds no object to build",
            remedy="check that a body was selected when it was exported",
        )
    parts = []
    for thing in placed:
        refuse_no_surface(thing.mesh)
        parts.append(FileObject(thing.name, thing.mesh, len(placed) > 1, thing.colour, thing.material))
    remarks = told_once(
        "colours-left-out",
        package.coloured,
        "1 object of the 3MF has triangles in several colours, which a body does not carry on: it has one",
        "{} objects of the 3MF have triangles of several colours, which bodies do not carry on: one each",
    ) + told_once(
        "supports-left-out",
        package.supports,
        "1 support object of the 3MF is not taken in as a body",
        "{} support objects of the 3MF are not taken in as bodies",
    )
    return FileObjects("3mf", tuple(parts), package.root.unit, package.root.title, remarks)


def _refuse_bomb(package: zipfile.ZipFile, packed: int, limits: UnpackingLimits) -> None:
    unpacked = sum(entry.file_size for entry in package.infolist())
    too_big = unpacked > limits.unpacked_bytes
    too_dense = unpacked > 64 * 1024**2 and unpacked > limits.ratio * packed
    if too_big or too_dense:
        raise _bomb(packed, unpacked)


def _bomb(packed: int, unpacked: int) -> UnreadableFile:
    return UnreadableFile(
        "3mf-unpacks-too-far",
        f"the package of {packed / 1e6:.3g} MB unpacks to at least {unpacked / 1e6:.3g} MB",
        remedy="this is not a usual model; have the file checked, or export it again",
    )


def _unpacked(package: zipfile.ZipFile, name: str, limits: UnpackingLimits) -> bytes:
    """Read one member, trusting the bytes that come and not the size that is declared."""
    chunks, total, declared = [], 0, package.getinfo(name).file_size
    with package.open(name) as member:
        while chunk := member.read(1 << 20):
            total += len(chunk)
            if total > min(limits.unpacked_bytes, declared):
                raise _bomb(package.getinfo(name).compress_size, total)
            chunks.append(chunk)
    return b"".join(chunks)


def _model_name(package: zipfile.ZipFile, names: dict[str, str]) -> str:
    """Find the root model part by the package's relationships, else at its usual place."""
    target = USUAL_MODEL
    if "_rels/.rels" in names:
        target = _related_model(package.read(names["_rels/.rels"])[: 1 << 20]) or target
    part = names.get(normpath(target.lstrip("/")).lower())
    if part is None:
        raise UnreadableFile(
            "3mf-no-model",
            "the package has no 3D model part",
            where=f"{target} is missing",
            remedy="export it again as 3MF",
        )
    return part


def _related_model(xml: bytes) -> str:
    targets: list[str] = []

    def start(_: str, attributes: dict[str, str]) -> None:
        if attributes.get("Type") == MODEL_TYPE:
            targets.append(attributes.get("Target", ""))

    run(xml, start, lambda _: None, "_rels/.rels")
    return targets[0] if targets else ""


@dataclass(frozen=True, eq=False)
class _Placed:
    name: str
    mesh: Mesh
    colour: str | None
    material: str


class _Package:
    """All model parts of a package; further ones are read when a component or item names them."""

    def __init__(self, package: zipfile.ZipFile, limits: UnpackingLimits) -> None:
        self._package, self._limits = package, limits
        self._names = {name.lower(): name for name in package.namelist()}
        self._models: dict[str, ModelPart] = {}
        self.supports = 0
        """Objects passed over since they are supports."""
        self.root_name = _model_name(package, self._names)
        self.root = self._model(self.root_name)

    @property
    def coloured(self) -> int:
        """How many objects that were read have triangles of more than one colour."""
        items = [item for model in self._models.values() for item in model.objects.values()]
        return sum(item.is_many_coloured for item in items)

    def placed(self) -> list[_Placed]:
        """Every mesh that is built, in its place."""
        result: list[_Placed] = []
        for number, (path, key, transform) in enumerate(self.root.items, 1):
            self._place(self._part(path, self.root_name), key, transform, (), f"object {number}", result)
        return result

    def _place(
        self,
        part: str,
        key: str,
        transform: NDArray[np.float64],
        above: tuple[str, ...],
        name: str,
        result: list[_Placed],
    ) -> None:
        model = self._model(part)
        if key not in model.objects:
            raise UnreadableFile(
                "3mf-missing-object", f"object {key} is used but does not exist", remedy="export it again"
            )
        step = f"{part}#{key}"
        if step in above or len(above) >= _DEEPEST:
            raise UnreadableFile(
                "3mf-circular",
                f"object {key} contains itself",
                where=" > ".join(ancestor.rpartition("#")[2] for ancestor in (*above, step)),
                remedy="export it again",
            )
        item = model.objects[key]
        if item.support:
            self.supports += 1
            return
        name = item.name or name
        if item.table.triangles is not None or len(item.triangles):
            if len(result) >= _MOST_PLACED:
                raise UnreadableFile(
                    "3mf-too-many",
                    f"the file places over {_MOST_PLACED} objects",
                    remedy="export fewer bodies at once",
                )
            material, colour = model.look_of(item)
            result.append(_Placed(name, _moved(_mesh_of(item, key), transform), colour, material))
            return
        for path, inner, move in item.components:
            self._place(
                self._part(path, part), inner, _chained(move, transform), (*above, step), name, result
            )

    def _part(self, path: str, own: str) -> str:
        if not path:
            return own
        part = self._names.get(normpath(path.lstrip("/")).lower())
        if part is None:
            raise UnreadableFile(
                "3mf-missing-part",
                "the 3MF names a model part that is not in the package",
                where=path[:80],
                remedy="export it again",
            )
        return part

    def _model(self, name: str) -> ModelPart:
        if name not in self._models:
            self._models[name] = parse(_unpacked(self._package, name, self._limits))
        return self._models[name]


def _mesh_of(item: ModelObject, key: str) -> Mesh:
    if item.table.vertices is not None:
        vertices = item.table.vertices
    else:
        vertices = np.array(item.vertices, dtype=np.float64).reshape(-1, 3)
    if item.table.triangles is not None:
        faces = item.table.triangles
    else:
        faces = np.array(item.triangles, dtype=np.int64).reshape(-1, 3)
    absent = ((faces < 0) | (faces >= len(vertices))).any(axis=1)
    if absent.any():
        first = int(np.flatnonzero(absent)[0])
        raise UnreadableFile(
            "3mf-missing-vertex",
            f"{int(absent.sum())} triangles name a vertex that does not exist",
            where=f"first: triangle {first + 1} of object {key}",
            remedy="export it again",
        )
    refuse_bad_numbers(vertices, 1, "vertex")
    return Mesh(vertices, faces.astype(np.int32))


def _moved(mesh: Mesh, transform: NDArray[np.float64]) -> Mesh:
    if np.array_equal(transform, IDENTITY):
        return mesh
    mirrored = bool(np.linalg.det(transform[:3]) < 0)
    return mesh.mapped(lambda points: points @ transform[:3] + transform[3], flips=mirrored)


def _chained(first: NDArray[np.float64], then: NDArray[np.float64]) -> NDArray[np.float64]:
    """Compose two 4x3 row-vector transforms."""
    return np.vstack([first[:3] @ then[:3], first[3] @ then[:3] + then[3]])
