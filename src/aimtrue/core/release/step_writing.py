"""Bodies that are still exact CAD, written as STEP."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import TYPE_CHECKING

import numpy as np

from aimtrue.core.chain.seat_turns import seat_matrix
from aimtrue.core.division.sections.kernel_sections import exact_of
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.release.filing import FileBody, FileContents
from aimtrue.core.release.order import Order

if TYPE_CHECKING:
    from aimtrue.core.formats import cad


def refuse_inexact(job: Job, bodies: tuple[Body, ...], order: Order) -> None:
    """Refuse STEP of bodies that are not exact CAD any more, and say which and why.

    Raises:
        Refused: one came as a mesh, was made of others or mended, or is not only scaled alike on all axes.
    """
    if order.format != "step":
        return
    if order.shape == "merged":
        raise Refused("step-merged", "solids in STEP stay apart", remedy="choose together, or another format")
    odd = [body.name for body in bodies if exact_of(job, body) is None]
    if odd:
        raise Refused(
            "step-inexact",
            f"{', '.join(odd[:6])}{' and more' if len(odd) > 6 else ''}: not exact CAD any more",
            remedy="STEP is for bodies that came as CAD, whole, with one factor for all axes and no "
            "allowance; release these as a mesh",
        )


def written(job: Job, file: FileContents, store: GeometryStore, order: Order) -> bytes:
    """Return the bodies of a file as STEP; the kernel takes seconds to load, and is loaded here."""
    from aimtrue.core.formats import cad

    return cad.write([_solid(job, item, store) for item in file.items], order.unit, job.name)


def _solid(job: Job, item: FileBody, store: GeometryStore) -> cad.PlacedSolid:
    from aimtrue.core.formats import cad

    body, source = item.body, job.source_of(item.body)
    exact = exact_of(job, body)
    assert exact is not None
    turn = np.eye(3) if item.seat is None else seat_matrix(item.seat)
    matrix = np.column_stack([turn @ exact.linear / exact.per, turn @ exact.shift + item.shift])
    return cad.PlacedSolid(
        PurePosixPath(source.name).suffix.lower(),
        store.original(source.sha256),
        {file.name: store.original(file.sha256) for file in source.beside},
        exact.per * np.array([body.low, body.high]),
        matrix,
        item.name,
        body.colour,
    )
