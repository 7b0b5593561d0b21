"""Turn a model file into a source and a body with its geometry."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import PurePosixPath

from aimtrue.core import geometry
from aimtrue.core.formats import read_model
from aimtrue.core.formats.contents import Contents, Limits
from aimtrue.core.frames import as_vec3
from aimtrue.core.job import Body, Health, Source
from aimtrue.core.mesh import Mesh
from aimtrue.core.progress import Progress


@dataclass(frozen=True, eq=False)
class Taken:
    """A file taken in: what goes into the job, and the blobs it names."""

    source: Source
    body: Body
    blobs: dict[str, bytes]


def take_in(
    key: str,
    name: str,
    data: bytes,
    *,
    limits: Limits | None = None,
    progress: Progress = lambda share, says: None,
) -> Taken:
    """Read a file into a source, one body and its geometry.

    All objects of the file are taken together, in their common place.

    Args:
        key: id of the new source; the body's id is made from it.
        name: the file's name.
        data: the whole file.
        limits: bounds for packed files.
        progress: told how far it is (0 to 1) and with what.

    Raises:
        UnreadableFile: with what is wrong, where, and what to do.
    """
    progress(0.1, "reading triangles")
    contents = read_model(name, data, limits)
    mesh = contents.whole()
    progress(0.5, "finding edges")
    health = health_of(mesh)
    progress(0.75, "keeping the geometry")
    kept, bench = geometry.to_bytes(mesh), geometry.bench_bytes(mesh)
    blobs = {geometry.name_of(kept): kept, geometry.name_of(bench): bench}
    kept_name, bench_name = blobs
    source = source_of(key, name, data, contents)
    body = _body_of(f"{key}-1", _body_name(name, contents), source, mesh, health, contents)
    body = body.model_copy(update={"geometry": kept_name, "bench": bench_name})
    return Taken(source, body, blobs)


def source_of(key: str, name: str, data: bytes, contents: Contents) -> Source:
    """Describe a file that was read; a declared unit is taken as it is."""
    return Source(
        id=key,
        name=name,
        sha256=geometry.name_of(data),
        bytes=len(data),
        format=contents.format,
        declared=contents.unit,
        unit=contents.unit,
        how="declared" if contents.unit else None,
        words=contents.words[:400],
    )


def health_of(mesh: Mesh) -> Health:
    """Count what keeps a mesh from being a closed solid."""
    edges = mesh.topology
    return Health(
        closed=edges.closed,
        open_edges=edges.open_edges,
        crowded_edges=edges.crowded_edges,
        turned_edges=edges.turned_edges,
        zero_area=int((mesh.areas == 0).sum()),
        shells=edges.shells,
    )


def _body_of(key: str, name: str, source: Source, mesh: Mesh, health: Health, contents: Contents) -> Body:
    low, high = mesh.bounds()
    return Body(
        id=key,
        name=name,
        source=source.id,
        geometry="",
        bench="",
        triangles=mesh.triangles,
        vertices=len(mesh.vertices),
        low=as_vec3(low),
        high=as_vec3(high),
        volume=mesh.volume(),
        area=mesh.area(),
        health=health,
        parts=tuple(part.name for part in contents.parts) if len(contents.parts) > 1 else (),
    )


def _body_name(name: str, contents: Contents) -> str:
    """Name a body after its only 3MF object, else after the file."""
    if contents.format == "3mf" and len(contents.parts) == 1 and contents.parts[0].name != "object 1":
        return contents.parts[0].name
    stem = PurePosixPath(name.replace("\\", "/")).stem
    return re.sub(r"[\s_-]+", " ", stem).strip() or "body"
