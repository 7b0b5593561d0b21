"""What a body that takes the place of another keeps of it: the decisions, not the facts.

One place for remedies, pieces, joined bodies, other facets and revisions, so that none forgets something.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.mesh.features.listed import Feature
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Kept

_NEAR = 0.02
"""Of the body's size: so near a bore's axis must be where it was."""
_PARALLEL = math.cos(math.radians(1))
_ALIKE = (0.8, 1.25)
"""How a bore's diameter may have changed and still be the same bore's."""


def with_decisions(body: Body, old: Body) -> Body:
    """Return a body with what was decided of one it takes the place of, or is a part of.

    Name, colour and material are the old one's only where the body goes on being that one; acceptances are
    looked at again, and kept bores found again, by whoever knows the new geometry.
    """
    return body.model_copy(
        update={
            "kit": old.kit,
            "correction": old.correction,
            "allowance": old.allowance,
            "seat": old.seat,
            "as_drawn": old.as_drawn,
            "alone": old.alone,
            "copied": old.copied,
        }
    )


def bores_again(body: Body, old: Body, shelf: Shelf) -> tuple[tuple[Kept, ...], int]:
    """Find kept bores again on other geometry.

    Args:
        body: with its new geometry.
        old: with the bores that were kept.
        shelf: gives the features of the new geometry; asked only when there are kept bores.

    Returns:
        The bores that are still there, with the diameters they have now, and how many are not.
    """
    if not old.kept:
        return (), 0
    if body.geometry == old.geometry:
        return old.kept, 0
    size = float(np.subtract(old.high, old.low).max())
    found = [_again(bore, shelf.features(body).listed, size) for bore in old.kept]
    here = tuple(one for one in found if one is not None)
    return here, len(found) - len(here)


def _again(bore: Kept, features: tuple[Feature, ...], size: float) -> Kept | None:
    axis, near = np.asarray(bore.direction), []
    for one in features:
        if one.kind != "bore" or abs(float(np.dot(one.direction, axis))) < _PARALLEL:
            continue
        away = np.subtract(one.point, bore.point)
        aside = float(np.linalg.norm(away - axis * (away @ axis)))
        if aside <= _NEAR * size and _ALIKE[0] < one.diameter / bore.diameter < _ALIKE[1]:
            near.append((float(np.linalg.norm(away)) + abs(one.diameter - bore.diameter), one))
    if not near:
        return None
    best = min(near, key=lambda row: row[0])[1]
    return Kept(point=best.point, direction=best.direction, diameter=best.diameter, depth=best.depth)
