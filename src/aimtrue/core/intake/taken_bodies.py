"""This module makes bodies of what a file holds: their facts, and the bytes that are kept of them."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import FileObject, FileObjects
from aimtrue.core.intake.bodies.congruence import groups_of_alike
from aimtrue.core.intake.bodies.discarded import set_aside
from aimtrue.core.intake.bodies.separate import count_voids, separate
from aimtrue.core.intake.health import health_of
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features import listed
from aimtrue.core.mesh.mesh import Mesh, weld
from aimtrue.core.model.body import Body
from aimtrue.core.model.facets import Remark
from aimtrue.core.model.vectors import as_vec3

_FROM_KERNEL = ("step", "iges", "brep")


STRAY = 0.02
"""A body shorter than this share of its file's longest side is a stray."""


def without_idle(contents: FileObjects) -> tuple[FileObjects, int]:
    """Set aside triangles that bound nothing, and say so; return how many they were.

    What the kernel makes of CAD has none to begin with. A part of a 3MF whose triangles share no corners is
    welded first, as every other format is.

    Raises:
        UnreadableFile: there is nothing else in the file.
    """
    if contents.format in _FROM_KERNEL:
        return contents, 0
    parts, empty, double = [], 0, 0
    for part in contents.parts:
        done = set_aside(_hanging_together(part.mesh))
        empty, double = empty + done.empty, double + done.double
        if done.mesh.triangles:
            parts.append(replace(part, mesh=done.mesh))
    aside = empty + double
    if not parts:
        raise UnreadableFile(
            "nothing-bounded",
            f"the file holds nothing: all of its {aside:,} triangles are without area, or there twice",
            remedy="export it again",
        )
    if not aside:
        return replace(contents, parts=tuple(parts)), 0
    discarded = [f"{empty:,} without area"] * bool(empty) + [f"{double:,} that are there twice"] * bool(
        double
    )
    many = "1 triangle was" if aside == 1 else f"{aside:,} triangles were"
    says = (
        f"{many} set aside, since they bound nothing: {' and '.join(discarded)}; the file itself is unchanged"
    )
    remark = Remark(code="set-aside", severity="note", says=says)
    return replace(contents, parts=tuple(parts), remarks=(*contents.remarks, remark)), aside


def _hanging_together(mesh: Mesh) -> Mesh:
    """Join corners of the very same place where triangles hang apart without it."""
    if not mesh.topology.open_edges:
        return mesh
    joined = weld(mesh.vertices[mesh.faces])
    return joined if joined.topology.open_edges < mesh.topology.open_edges else mesh


@dataclass(frozen=True, eq=False)
class FoundBody:
    """A body as it was found in a file."""

    name: str
    mesh: Mesh
    voids: int
    stray: bool
    part: FileObject


def bodies_of_contents(contents: FileObjects, stem: str) -> list[FoundBody]:
    """Return the bodies of a file.

    What the file itself sets apart stays one body; any other mesh is divided into its shells.
    """
    label = re.sub(r"[\s_-]+", " ", stem).strip() or "body"
    pieces: list[tuple[FileObject, Mesh, int]] = []
    for part in contents.parts:
        if part.respected:
            pieces.append((part, part.mesh, count_voids(part.mesh)))
        else:
            pieces += [
                (part, separated_body.mesh, separated_body.voids) for separated_body in separate(part.mesh)
            ]
    sizes = [float(mesh.extents().max()) for _, mesh, _ in pieces]
    strays = [
        not part.respected and size < STRAY * max(sizes)
        for (part, _, _), size in zip(pieces, sizes, strict=True)
    ]
    several = len(pieces) - sum(strays) > 1
    named, numbers = [], {False: 0, True: 0}
    for (part, mesh, voids), stray in zip(pieces, strays, strict=True):
        numbers[stray] += 1
        name = (
            f"{label} speck {numbers[True]}" if stray else f"{label} {numbers[False]}" if several else label
        )
        if (part.respected and part.name) or (part.name and len(pieces) == 1 and contents.format == "3mf"):
            name = part.name if part.name != "object 1" or several else label
        named.append(FoundBody(name, mesh, voids, stray, part))
    return named


def alike_groups(meshes: list[Mesh]) -> list[str]:
    """Return a group name per mesh, empty for one that is like no other."""
    groups = groups_of_alike(meshes)
    return [f"~{group + 1}" if groups.count(group) > 1 else "" for group in groups]


def body_of(key: str, source: str, shell: FoundBody) -> Body:
    """Describe a body; its mesh is named by the body's own id until it is kept."""
    mesh = shell.mesh
    low, high = mesh.bounds()
    return Body(
        id=key,
        name=shell.name[:80],
        drawn=shell.part.name[:80] if shell.part.respected else "",
        source=source,
        geometry=key,
        bench=key,
        triangles=mesh.triangles,
        vertices=len(mesh.vertices),
        low=as_vec3(low),
        high=as_vec3(high),
        volume=mesh.volume(),
        area=mesh.area(),
        health=health_of(mesh),
        colour=shell.part.colour,
        material=shell.part.material[:80],
        voids=shell.voids,
        stray=shell.stray,
        facets=shell.part.facets,
        remade=(),
    )


def kept(body: Body, mesh: Mesh, *, faces: bool = True) -> tuple[Body, dict[str, bytes]]:
    """Return a body that names its geometry by hash, and the blobs it names.

    Without ``faces`` its flat and round faces are left to be listed later, see ``ListFaces``.
    """
    parts = {"geometry": geometry.to_bytes(mesh), "bench": geometry.drawn_bytes(mesh)}
    if faces:
        parts["features"] = listed.to_bytes(listed.features_of(mesh))
    names = {part: geometry.name_of(data) for part, data in parts.items()}
    return body.model_copy(update=names), {names[part]: data for part, data in parts.items()}
