"""This module says what the facets of a CAD source come to, and what other finenesses would: estimated, not
made.
"""

from __future__ import annotations

import math
from typing import Any

from aimtrue.core.formats.contents import FileObject
from aimtrue.core.model.facets import ANGLE_DEG, CHORD_MM, Fineness, FinenessStep

USUAL = Fineness(chord_mm=0.01, angle_deg=6)
"""What facets are cut to when nobody says otherwise, where the size of the part allows it."""
_RELATIVE = 1e-5
"""A chord under this share of a part's size shows nothing more of the part."""
_LOOK = Fineness(chord_mm=CHORD_MM[1], angle_deg=25)
_MOST = 1_500_000
"""Triangles that the usual fineness may come to."""


def usual(shapes: list[Any]) -> Fineness:
    """Return the usual fineness for shapes, coarser where they are very large or would come to too many
    facets.

    A quick look at coarse facets tells how many fine ones there would be: those on surfaces curved both
    ways go with the square of the runs along an edge.
    """
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib

    from aimtrue.core.formats.cad.facets import triangulate

    box = Bnd_Box()
    for shape in shapes:
        BRepBndLib.Add_s(shape, box, False)
    size = 0.0 if box.IsVoid() else math.sqrt(box.SquareExtent())
    chord = min(max(USUAL.chord_mm, _RELATIVE * size), CHORD_MM[1])
    wanted = Fineness(chord_mm=chord, angle_deg=USUAL.angle_deg)
    look = Fineness(chord_mm=min(max(chord, 1e-3 * size), CHORD_MM[1]), angle_deg=_LOOK.angle_deg)
    for shape in shapes:
        triangulate(shape, look)
    flat, curved = _counted(shapes)
    finer = _turn(look, size / 8) / _turn(wanted, size / 8)
    if flat + curved * finer**2 <= _MOST:
        return wanted
    coarser = math.sqrt(curved * finer**2 / max(_MOST - flat, _MOST / 10))
    return Fineness(
        chord_mm=min(chord * coarser**2, CHORD_MM[1]),
        angle_deg=min(USUAL.angle_deg * coarser, ANGLE_DEG[1] / 2),
    )


def _counted(shapes: list[Any]) -> tuple[int, int]:
    """Count the facets on flat and cylindrical faces, and those on faces that may be curved both ways."""
    from OCP.BRep import BRep_Tool
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Cylinder, GeomAbs_Plane
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    from aimtrue.core.formats.cad.bores import inside

    flat = curved = 0
    for shape in shapes:
        for face in map(TopoDS.Face, inside(shape, TopAbs_FACE)):
            net = BRep_Tool.Triangulation_s(face, TopLoc_Location())
            count = net.NbTriangles() if net is not None else 0
            exact = BRep_Tool.Surface_s(face) is not None
            plain = not exact or BRepAdaptor_Surface(face).GetType() in (GeomAbs_Plane, GeomAbs_Cylinder)
            flat, curved = (flat + count, curved) if plain else (flat, curved + count)
    return flat, curved


def steps(
    parts: tuple[FileObject, ...], fineness: Fineness, others: list[Fineness], per: float
) -> list[FinenessStep]:
    """Return what the facets come to, and an estimate for each of other finenesses.

    A round edge of radius r is cut into runs that turn by at most the angle, and by at most 2 acos(1 -
    chord / r), which a run of that chord does. Facets go with the number of runs, on faces curved both ways
    with its square; what they lose goes down with the square.

    Args:
        parts: as they were cut.
        fineness: how finely that was.
        others: finenesses to estimate.
        per: mm per number of the file.
    """
    facets = [part.facets for part in parts if part.facets]
    bores = [bore for facet in facets for bore in facet.bores]
    widest = max(bores, key=lambda bore: bore.diameter, default=None)
    triangles = sum(part.mesh.triangles for part in parts)
    curved, twice = sum(facet.curved for facet in facets), sum(facet.twice for facet in facets)
    now = FinenessStep(
        fineness=fineness,
        triangles=triangles,
        deviation=max((facet.deviation for facet in facets), default=0.0),
        loss=max((bore.loss for bore in bores), default=0.0),
        widest=widest.diameter if widest else 0.0,
        sides=widest.sides if widest else 0,
    )
    size = max((float(part.mesh.extents().max()) for part in parts), default=1.0) * per
    radii = sorted((one.radius, part.mesh.triangles) for part in parts if (one := part.facets) and one.radius)
    radius = max(radii, key=lambda row: row[1])[0] * per if radii else size / 8
    rows = [now]
    for other in others:
        finer = _turn(fineness, radius) / _turn(other, radius)
        rows.append(
            FinenessStep(
                fineness=other,
                triangles=round((triangles - twice) * (finer if curved else 1.0) + twice * finer**2),
                deviation=now.deviation / finer**2,
                loss=now.loss / finer**2,
                widest=now.widest,
                sides=round(now.sides * finer),
                estimated=True,
            )
        )
    return rows


def _turn(fineness: Fineness, radius: float) -> float:
    """By how much a run of facets around a radius in mm turns."""
    by_chord = 2 * math.acos(max(0.0, 1 - fineness.chord_mm / radius)) if radius > 0 else math.pi
    return min(math.radians(fineness.angle_deg), by_chord)
