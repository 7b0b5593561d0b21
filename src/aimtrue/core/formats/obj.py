"""Wavefront OBJ: vertices and polygons as text, divided into objects and groups. It carries no unit.

Read here: ``v``, ``f``, ``o``, ``g``, ``usemtl``; normals, texture places and everything else
are passed over. Polygons are cut into triangles: fans where that is right, ears where it is not.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.columns import rows_of_floats, rows_of_whole
from aimtrue.core.formats.contents import (
    FileObject,
    FileObjects,
    as_text,
    faces_passed_over,
    refuse_bad_numbers,
    refuse_no_surface,
    told_once,
)
from aimtrue.core.mesh.mesh import Mesh, compacted, merged, weld
from aimtrue.core.mesh.polygons import Polygons, triangles_of

_MOST_PARTS = 4096


@dataclass
class _Group:
    name: str
    material: str = ""
    corners: list[int] = field(default_factory=list)
    counts: list[int] = field(default_factory=list)


@dataclass
class _Text:
    """What the lines of a file say."""

    points: list[str] = field(default_factory=list)
    point_lines: list[int] = field(default_factory=list)
    objects: list[_Group] = field(default_factory=list)
    groups: list[_Group] = field(default_factory=list)
    comments: list[str] = field(default_factory=list)
    by_object: bool = False
    few: int = 0
    """Faces of under three corners, which bound nothing."""


def read(data: bytes) -> FileObjects:
    """Read an OBJ file.

    Raises:
        UnreadableFile: not text, a number or vertex that does not exist, or no faces.
    """
    text = _lines(as_text(data, "OBJ"))
    vertices = _vertices(text)
    groups = [group for group in text.groups if group.counts]
    if not groups:
        raise UnreadableFile(
            "no-triangles",
            f"the OBJ has {len(vertices)} vertices and no faces",
            remedy="export it as a surface, not as points or lines",
        )
    if len(groups) > _MOST_PARTS:
        groups = [_as_one(groups)]
    parts = [_part(group, vertices, respected=len(groups) > 1) for group in groups]
    refuse_no_surface(merged([part.mesh for part in parts]))
    polygons = sum(count > 3 for group in groups for count in group.counts)
    remarks = told_once(
        "polygons-cut",
        polygons,
        "1 polygon with more than three corners was cut into triangles",
        "{} polygons with more than three corners were cut into triangles",
    )
    remarks += faces_passed_over(text.few)
    return FileObjects("obj", tuple(parts), None, " ".join(text.comments)[:400], remarks)


def _as_one(groups: list[_Group]) -> _Group:
    whole = _Group("")
    for group in groups:
        whole.corners += group.corners
        whole.counts += group.counts
    return whole


def _lines(text: str) -> _Text:
    lines = _Text()
    object_name, group_name, material = "", "", ""
    group: _Group | None = None
    here: dict[tuple[str, str], _Group] = {}
    for number, line in enumerate(io.StringIO(text.replace("\\\r\n", " ").replace("\\\n", " ")), 1):
        word, *more = line.strip().split(None, 1)[:2] or [""]
        rest = more[0] if more else ""
        if word == "v":
            lines.points.append(rest)
            lines.point_lines.append(number)
        elif word == "f":
            if group is None:
                key = (object_name, "" if lines.by_object else group_name)
                group = here.setdefault(key, _Group(object_name or group_name, material))
            lines.few += not _face(group, rest, len(lines.points), number)
        elif word == "o":
            object_name, group, lines.by_object = rest.strip(), None, True
        elif word == "g":
            group_name = rest.strip()
            group = group if lines.by_object else None
        elif word == "usemtl":
            material = rest.strip()
            if group is not None and not group.counts:
                group.material = material
        elif word.startswith("#") and len(lines.comments) < 12:
            lines.comments.append(line.strip("# \t\r\n"))
    lines.groups += here.values()
    return lines


_MOST_VERTICES = 2**31
"""More than that no file has that is read here; a greater number is a slip, however it is kept."""


def _face(group: _Group, rest: str, known: int, number: int) -> bool:
    """Take a face into a group; tell whether it has three corners or more."""
    corners = rest.split("#")[0].split()
    if len(corners) < 3:
        return False
    for corner in corners:
        try:
            index = int(corner.split("/")[0])
        except ValueError:
            raise UnreadableFile(
                "obj-number",
                f"“{corner[:40]}” is not the number of a vertex",
                where=f"line {number}",
                remedy="export it again",
            ) from None
        # Negative numbers count back from the vertex given last (OBJ specification, B1-9).
        at = index - 1 if index > 0 else known + index
        if index == 0 or not 0 <= at < _MOST_VERTICES:
            raise UnreadableFile(
                "obj-missing-vertex",
                f"a face names vertex {index}, which does not exist",
                where=f"line {number}",
                remedy="export it again",
            )
        group.corners.append(at)
    group.counts.append(len(corners))
    return True


def _vertices(text: _Text) -> NDArray[np.float64]:
    if not text.points:
        return np.empty((0, 3))
    try:
        vertices = np.array([point.split()[:3] for point in text.points], dtype=object).astype(np.float64)
        if vertices.ndim != 2 or vertices.shape[1] != 3:
            raise ValueError
    except ValueError:
        raise _odd_vertex(text) from None
    refuse_bad_numbers(vertices, 1, "vertex")
    return vertices


def _odd_vertex(text: _Text) -> UnreadableFile:
    for point, number in zip(text.points, text.point_lines, strict=True):
        try:
            if len([float(n) for n in point.split()[:3]]) == 3:
                continue
        except ValueError:
            pass
        return UnreadableFile(
            "obj-number",
            f"“{point.strip()[:40]}” is not a vertex of three numbers",
            where=f"line {number}",
            remedy="export it again",
        )
    return UnreadableFile("obj-number", "a vertex is not three numbers", remedy="export it again")


def _part(group: _Group, vertices: NDArray[np.float64], *, respected: bool) -> FileObject:
    polygons = Polygons(np.array(group.corners, np.int64), np.array(group.counts, np.int64))
    greatest = int(polygons.corners.max())
    if greatest >= len(vertices):
        raise UnreadableFile(
            "obj-missing-vertex",
            f"a face names vertex {greatest + 1}; there are {len(vertices)}",
            where=f"in {group.name}" if group.name else "",
            remedy="export it again",
        )
    faces = triangles_of(polygons, vertices)
    mesh = compacted(vertices, faces)
    return FileObject(group.name, _welded(mesh), respected, material=group.material)


def _welded(mesh: Mesh) -> Mesh:
    """Join vertices of the very same place: many programs write each one again for every face."""
    return weld(mesh.vertices[mesh.faces])


def write(mesh: Mesh, names: list[tuple[str, int]], comment: str) -> bytes:
    """Write an OBJ of one object per body.

    Args:
        mesh: all bodies in one, coordinates in the unit of the file; with the digits that bring every
            float32 back.
        names: name and number of triangles of each body, in order.
        comment: put on the first line; the place to say the unit, since OBJ has none.
    """
    lines = [f"# {' '.join(comment.split())}\n".encode()]
    start, used = 0, 0
    for name, triangles in names:
        part = compacted(mesh.vertices, mesh.faces[start : start + triangles])
        # Readers in use look for that word anywhere in a line, and would take the name for a material.
        lines.append((f"o {' '.join(name.split())}".replace("usemtl ", "usemtl_") + "\n").encode())
        lines.append(rows_of_floats(part.vertices, start="v ", between=(" ", " "), end="\n"))
        lines.append(rows_of_whole(part.faces + 1 + used, start="f ", between=(" ", " "), end="\n"))
        start += triangles
        used += len(part.vertices)
    return b"".join(lines)
