"""Flat sections of CAD shapes with their arcs: what the kernel cuts, as rings of straight and round runs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepBndLib import BRepBndLib
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.gp import gp_Dir, gp_Pln, gp_Pnt
from OCP.TopAbs import TopAbs_EDGE, TopAbs_SOLID
from OCP.TopoDS import TopoDS

from aimtrue.core.formats.cad.bores import inside
from aimtrue.core.formats.cad.reading import shapes_in
from aimtrue.core.formats.runs import OutlineRun
from aimtrue.core.mesh.mesh import Floats

_JOINED_MM = 1e-5
"""Ends of runs that are so near are one place."""
_FINE_MM = 2e-3
"""A line that stands for a curve which is no arc stays this near to it."""
_SAME_BOX = 2e-3
"""A shape is the body whose box differs from its own by less than this share of the size, however it was
tessellated.
"""


def section(
    ending: str,
    data: bytes,
    box: Floats,
    normal: Floats,
    at: float,
    beside: Mapping[str, bytes] | None = None,
) -> list[list[OutlineRun]] | None:
    """Cut a solid of a CAD file by a plane.

    Args:
        ending, data, beside: the file, as for :func:`~aimtrue.core.formats.cad.reading.read`.
        box: (2, 3) the bounds of the solid in mm, by which it is found.
        normal: (3,) unit, of the plane.
        at: how far it is from the origin along that, in mm.

    Returns:
        The closed rings of the section; None where the solid is not found, or the section does not close.
    """
    for shape in shapes_in(ending, data, beside or {}):
        for solid in inside(shape, TopAbs_SOLID):
            if is_in(solid, box):
                return _rings(list(_runs(solid, normal, at)))
    return None


def is_in(solid: Any, box: Floats) -> bool:
    """Whether a solid has these bounds, (2, 3) in mm, as far as facets tell them."""
    bounds = Bnd_Box()
    BRepBndLib.AddOptimal_s(solid, bounds, False, False)
    ends = np.array([[end.X(), end.Y(), end.Z()] for end in (bounds.CornerMin(), bounds.CornerMax())])
    return bool(np.abs(ends - box).max() <= _SAME_BOX * max(float(np.ptp(box, axis=0).max()), 1e-9) + 0.02)


def _runs(solid: Any, normal: Floats, at: float) -> Iterator[OutlineRun]:
    foot = gp_Pnt(*(at * normal).tolist())
    cut = BRepAlgoAPI_Section(solid, gp_Pln(foot, gp_Dir(*normal.tolist())), False)
    cut.Approximation(False)
    cut.Build()
    for edge in inside(cut.Shape(), TopAbs_EDGE):
        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        first, last = curve.FirstParameter(), curve.LastParameter()
        if curve.GetType() == GeomAbs_Line:
            yield OutlineRun(_place(curve, first), _place(curve, last))
        elif curve.GetType() == GeomAbs_Circle:
            # In two halves, so that a whole circle has ends, too, and no arc is longer than half of one.
            for start, end in ((first, (first + last) / 2), ((first + last) / 2, last)):
                yield OutlineRun(_place(curve, start), _place(curve, end), _place(curve, (start + end) / 2))
        else:
            places = GCPnts_QuasiUniformDeflection(curve, _FINE_MM)
            points = [places.Value(number) for number in range(1, places.NbPoints() + 1)]
            along = [np.array([point.X(), point.Y(), point.Z()]) for point in points]
            for start, end in pairwise(along):
                yield OutlineRun(start, end)


def _place(curve: Any, parameter: float) -> Floats:
    point = curve.Value(parameter)
    return np.array([point.X(), point.Y(), point.Z()])


def _rings(runs: Sequence[OutlineRun]) -> list[list[OutlineRun]] | None:
    """Join runs end to end into closed rings; None where one does not close."""
    left = [run for run in runs if np.linalg.norm(run.end - run.start) > _JOINED_MM]
    rings: list[list[OutlineRun]] = []
    while left:
        ring = [left.pop()]
        while np.linalg.norm(ring[-1].end - ring[0].start) > _JOINED_MM:
            following = _next(left, ring[-1].end)
            if following is None:
                return None
            ring.append(following)
        rings.append(ring)
    return rings


def _next(left: list[OutlineRun], place: Floats) -> OutlineRun | None:
    """Take the run that goes on from a place, turned so that it does."""
    for number, outline_run in enumerate(left):
        for run in (outline_run, outline_run.turned()):
            if np.linalg.norm(run.start - place) <= _JOINED_MM:
                del left[number]
                return run
    return None
