"""Sections across any axis, and their outlines as drawings: SVG and DXF, in mm."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import shapely

from aimtrue.core.chain.allowance import allowed_points
from aimtrue.core.division.sections import arcs
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import as_outline, outline_of, rings_of
from aimtrue.core.mesh.sections import rings_at, sections_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Axis

SHOWN: Final[dict[Axis, tuple[int, int, int]]] = {"x": (1, 2, 0), "y": (2, 0, 1), "z": (0, 1, 2)}
"""Which axes are to the right, up, and along the cut; right-handed, so that outlines keep their way round."""


@dataclass(frozen=True, eq=False)
class SectionOutlines:
    """One section: what it comes to over all bodies, and its outlines, material to the left.

    ``rings`` are (k, 2) in mm: Y and Z across X, Z and X across Y, X and Y across Z. ``curves`` are the same
    with their arcs, where these are known, as :mod:`~aimtrue.core.division.sections.arcs` has them.
    """

    axis: Axis
    at_mm: float
    area_mm2: float
    outline_mm: float
    islands: int
    holes: int
    rings: tuple[Floats, ...]
    curves: tuple[Floats, ...] = ()

    @property
    def drawn(self) -> tuple[Floats, ...]:
        """(k, 3) each: its rings with their bulges, none where arcs are not known."""
        return self.curves or tuple(np.column_stack([ring, np.zeros(len(ring))]) for ring in self.rings)


def as_released(job: Job, body: Body, store: GeometryStore) -> Mesh:
    """Return a body in mm: corrected, with its allowances."""
    mesh = store.mesh(body.geometry)
    return Mesh(allowed_points(job, body, mesh.vertices), mesh.faces)


def with_arcs(cut: SectionOutlines, curves: Sequence[Floats]) -> SectionOutlines:
    """Return a section with its arcs, and with the area and the length that it has with them."""
    rings, outer = arcs.oriented(curves)
    return replace(
        cut,
        area_mm2=float(sum(arcs.area_of(ring) for ring in rings)),
        outline_mm=float(sum(arcs.length_of(ring) for ring in rings)),
        islands=outer,
        holes=len(rings) - outer,
        curves=tuple(rings),
    )


def together(cuts: Sequence[SectionOutlines]) -> SectionOutlines:
    """Return what the same section of several bodies comes to; where they overlap, both count."""
    return SectionOutlines(
        cuts[0].axis,
        cuts[0].at_mm,
        sum(cut.area_mm2 for cut in cuts),
        sum(cut.outline_mm for cut in cuts),
        sum(cut.islands for cut in cuts),
        sum(cut.holes for cut in cuts),
        tuple(ring for cut in cuts for ring in cut.rings),
        tuple(ring for cut in cuts for ring in cut.drawn),
    )


def in_section_axes(mesh: Mesh, axis: Axis) -> Mesh:
    """Return a mesh with an axis as its third, the others to the right and up."""
    return Mesh(np.ascontiguousarray(mesh.vertices[:, list(SHOWN[axis])]), mesh.faces)


def silhouette_along(meshes: list[Mesh], axis: Axis) -> SectionOutlines:
    """Return what bodies in mm cover, seen along an axis, in the same form as a section."""
    shape = as_outline(shapely.union_all([outline_of(in_section_axes(mesh, axis)) for mesh in meshes]))
    rings = rings_of(shape)
    parts = [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon"]
    return SectionOutlines(
        axis,
        0.0,
        float(shape.area),
        float(shape.length),
        len(parts),
        sum(len(part.interiors) for part in parts),
        tuple(rings),
    )


def cut_across(meshes: list[Mesh], axis: Axis, at: Floats, *, drawn: bool = False) -> list[SectionOutlines]:
    """Cut bodies in mm square to an axis.

    Args:
        meshes: of the bodies; where they overlap, both count.
        axis: that the planes are square to.
        at: (k,) where on it.
        drawn: whether the outlines themselves are wanted.
    """
    turned = [in_section_axes(mesh, axis) for mesh in meshes]
    rising = np.sort(at)
    sections_of_bodies = [sections_of(mesh, rising) for mesh in turned]
    return [
        SectionOutlines(
            axis,
            float(height),
            float(sum(sections.areas[i] for sections in sections_of_bodies)),
            float(sum(sections.outlines[i] for sections in sections_of_bodies)),
            int(sum(sections.islands[i] for sections in sections_of_bodies)),
            int(sum(sections.holes[i] for sections in sections_of_bodies)),
            tuple(ring for mesh in turned for ring in rings_at(mesh, float(height))) if drawn else (),
        )
        for i, height in enumerate(rising)
    ]


def svg_of(cuts: list[SectionOutlines]) -> str:
    """Return sections as an SVG of true size in mm, a group each; up is up."""
    points = [arcs.as_polygon(ring) for cut in cuts for ring in cut.drawn]
    low, high = _ends(points)
    wide, deep = (high - low).tolist()
    groups = "\n".join(_svg_group(cut) for cut in cuts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.6g}mm" height="{deep:.6g}mm" '
        f'viewBox="{low[0]:.6f} {-high[1]:.6f} {wide:.6f} {deep:.6f}">\n{groups}\n</svg>\n'
    )


def _svg_group(cut: SectionOutlines) -> str:
    path = " ".join(map(_svg_path, cut.drawn))
    name = f"{cut.axis} = {cut.at_mm:.6g} mm"
    return (
        f'<g id="{cut.axis}-{cut.at_mm:.6g}"><title>{name}</title>'
        f'<path d="{path}" fill="#22262b" fill-opacity="0.12" fill-rule="evenodd" '
        f'stroke="#22262b" stroke-width="0.1"/></g>'
    )


def _svg_path(ring: Floats) -> str:
    """A ring as a path; up is down there, so arcs turn the other way."""
    steps = [f"M{ring[0, 0]:.6f} {-ring[0, 1]:.6f}"]
    angles, radii = arcs.angles_of(ring), arcs.radii_of(ring)
    for i, (x, y, _) in enumerate(np.roll(ring, -1, axis=0)):
        if angles[i]:
            large, sweep = int(abs(angles[i]) > np.pi + 1e-12), int(angles[i] < 0)
            steps.append(f"A{radii[i]:.6f} {radii[i]:.6f} 0 {large} {sweep} {x:.6f} {-y:.6f}")
        else:
            steps.append(f"L{x:.6f} {-y:.6f}")
    return f"{''.join(steps)}Z"


def dxf_of(cuts: list[SectionOutlines]) -> str:
    """Return sections as a DXF in mm: closed polylines, arcs in them as arcs, a layer for each section."""
    import ezdxf.document  # The library is large, and is needed for this alone.
    from ezdxf import units

    drawing = ezdxf.document.Drawing.new("R2000")
    drawing.units = units.MM
    space = drawing.modelspace()
    for cut in cuts:
        layer = f"{cut.axis.upper()} {cut.at_mm:.6g}"
        if layer not in drawing.layers:
            drawing.layers.add(layer)
        for ring in cut.drawn:
            space.add_lwpolyline(ring.tolist(), format="xyb", close=True, dxfattribs={"layer": layer})
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()


def _ends(rings: list[Floats]) -> tuple[Floats, Floats]:
    if not rings:
        return np.zeros(2), np.ones(2)
    points = np.concatenate(rings)
    return points.min(axis=0), points.max(axis=0)
