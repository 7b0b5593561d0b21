"""This module reads 3MF a second time, by XML alone."""

from __future__ import annotations

import io
import posixpath
import xml.etree.ElementTree as Xml
import zipfile

import numpy as np

from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.originals.proof_original import (
    ProofOriginal,
    of_triangles,
)
from aimtrue.core.proof.surface import Numbers, Points, Surface

_UNITS_3MF = {
    "micron": Unit.UM,
    "millimeter": Unit.MM,
    "centimeter": Unit.CM,
    "inch": Unit.IN,
    "foot": Unit.FT,
    "meter": Unit.M,
}


_OBJECT, _ITEM = ("resources", "object"), ("build", "item")
"""Where objects and build items are in a model part."""


class _Model:
    """A model part, its objects by their ids and its build items found once."""

    def __init__(self, root: Xml.Element) -> None:
        self.unit = root.get("unit", "millimeter")
        under = [(_tag(part), element) for part in root for element in part]
        self.objects = {
            element.attrib["id"]: element for part, element in under if (part, _tag(element)) == _OBJECT
        }
        self.items = [element for part, element in under if (part, _tag(element)) == _ITEM]
        self._lists: dict[str, tuple[Points, Numbers] | None] = {}

    def lists(self, key: str) -> tuple[Points, Numbers] | None:
        """Return the vertices and triangles of an object, read once however often it is placed."""
        if key not in self._lists:
            mesh = next((element for element in self.objects[key] if _tag(element) == "mesh"), None)
            self._lists[key] = None if mesh is None else _lists(mesh)
        return self._lists[key]


def read_threemf(data: bytes) -> ProofOriginal:
    """Read a 3MF package: build items, components and transforms, in double precision."""
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        parts = {name.lower().lstrip("/"): name for name in package.namelist()}
        models: dict[str, _Model] = {}

        def model(path: str) -> _Model:
            key = posixpath.normpath(path.lstrip("/")).lower()
            if key not in models:
                models[key] = _Model(Xml.fromstring(package.read(parts[key])))
            return models[key]

        root_path = _root_model(package, parts)
        root = model(root_path)
        points: list[Points] = []
        faces: list[Numbers] = []
        used = 0

        def place(path: str, key: str, matrix: Points, depth: int) -> None:
            nonlocal used
            if depth > 64:
                raise ValueError("components contain each other")
            item = model(path).objects[key]
            if item.get("type") in ("support", "solidsupport", "other"):
                return
            lists = model(path).lists(key)
            if lists is not None:
                own, index = lists
                points.append(own @ matrix[:3] + matrix[3])
                faces.append((index[:, ::-1] if np.linalg.det(matrix[:3]) < 0 else index) + used)
                used += len(own)
                return
            for component in item.iter():
                if _tag(component) == "component":
                    inner = _matrix(component)
                    chained = np.vstack([inner[:3] @ matrix[:3], inner[3] @ matrix[:3] + matrix[3]])
                    place(_path(component) or path, component.attrib["objectid"], chained, depth + 1)

        for item in root.items:
            place(_path(item) or root_path, item.attrib["objectid"], _matrix(item), 0)
    every = np.concatenate(faces) if faces else np.empty((0, 3), np.int64)
    surface = Surface(np.concatenate(points) if points else np.empty((0, 3)), every)
    piece = np.repeat(np.arange(len(faces)), [len(face) for face in faces])
    return of_triangles(_UNITS_3MF[root.unit], surface, piece)


def _root_model(package: zipfile.ZipFile, parts: dict[str, str]) -> str:
    if "_rels/.rels" in parts:
        for relation in Xml.fromstring(package.read(parts["_rels/.rels"])).iter():
            if relation.get("Type", "").endswith("/3dmodel"):
                return relation.attrib["Target"]
    return "3D/3dmodel.model"


def _tag(element: Xml.Element) -> str:
    return element.tag.rpartition("}")[2]


def _path(element: Xml.Element) -> str:
    return next((value for name, value in element.attrib.items() if name.endswith("}path")), "")


def _matrix(element: Xml.Element) -> Points:
    written = element.get("transform", "1 0 0 0 1 0 0 0 1 0 0 0")
    return np.array([float(word) for word in written.split()]).reshape(4, 3)


def _lists(mesh: Xml.Element) -> tuple[Points, Numbers]:
    lists = {_tag(element): element for element in mesh}
    corners = [element.attrib for element in lists["vertices"] if _tag(element) == "vertex"]
    sides = [element.attrib for element in lists["triangles"] if _tag(element) == "triangle"]
    points = [(float(v["x"]), float(v["y"]), float(v["z"])) for v in corners]
    faces = [(int(t["v1"]), int(t["v2"]), int(t["v3"])) for t in sides]
    return np.array(points).reshape(-1, 3), np.array(faces, dtype=np.int64).reshape(-1, 3)
