"""This module says what a released body as a whole is held against: sizes, every vertex, volume,
closedness.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.model.value import AXES
from aimtrue.core.proof.bodies import division_checks, remade_bodies
from aimtrue.core.proof.bodies.decision_checks import allowance_checks, bore_checks
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.sources import torn
from aimtrue.core.proof.surface import area, bounds, bounds_a_volume, unsound, volume
from aimtrue.core.proof.values import Check, counted, judged, length, same, within, yes

COARSEST = 1e-3
"""Float32 spacing over the longest size from which a file is too coarse to carry a size."""


def part_checks(part: ProvenBody, longest: float) -> list[Check]:
    """Hold one released body against its original: sizes, points, surface, volume."""
    body = part.body
    checks = [*_size_checks(part), *_untouched(part)]
    step = 2 * part.limit
    own = max(part.claim.sizes)
    limit = COARSEST * (longest if body.stray else own)
    checks.append(
        judged(
            "resolution",
            f"rounding of the file at {body.name}",
            f"under {limit:.2g} mm",
            f"{step:.2g} mm",
            step,
            limit,
        )
    )
    if part.expected is not None:
        checks += division_checks.checks(
            part, part.expected, part.original if len(part.original.faces) else None
        )
    else:
        checks += _vertex_checks(part) if part.matched is not None else remade_bodies.checks(part)
    asked = part.asked_corners
    if body.health.closed:
        want, have = volume(asked), volume(part.found)
        room = area(part.found) * max(part.limit * 2 * math.sqrt(3), 0.0) + 1e-9 * abs(want)
        if part.matched is not None:
            checks.append(
                judged(
                    "volume",
                    f"volume of {body.name}",
                    f"{want:.3f} mm³",
                    f"{have:.3f} mm³",
                    abs(want - have),
                    room,
                )
            )
        # Rounding may join corners, which leaves what is closed closed.
        checks.append(
            same("closed", f"{body.name} is a closed solid", "yes", yes(bounds_a_volume(part.found)))
        )
    return [*checks, *_sound_checks(part), *bore_checks(part), *allowance_checks(part)]


def _sound_checks(part: ProvenBody) -> list[Check]:
    """A closed body that was made anew is sound as it was written: no face without area or upon another, and
    every edge of two faces but where it was so before.
    """
    body = part.body
    ours = body.division is not None or bool(body.remade)
    if not ours or not body.health.closed:
        return []
    empty, doubled, crowded = unsound(part.found)
    name, more = body.name, max(0, crowded - body.health.crowded_edges)
    return [
        same("sound", f"faces of {name} without area, as written", 0, empty),
        same("sound", f"faces of {name} that lie upon another, as written", 0, doubled),
        same(
            "sound",
            f"edges of {name} that more than two faces share, as written, and did not before",
            0,
            more,
        ),
    ]


def _untouched(part: ProvenBody) -> list[Check]:
    """A body that nothing was typed or read for has the size of its file."""
    correction = part.chain.correction
    if correction.set_by or correction.readings:
        return []
    plain = set(correction.factors) == {1.0} and correction.along is None
    factors = "1" if plain else " / ".join(f"{factor:.9g}" for factor in correction.factors)
    return [same("factor", f"factor of {part.body.name}, as in its file", "1", factors)]


def _size_checks(part: ProvenBody) -> list[Check]:
    """Sizes by the chain against those in the file, and against those that the sheets show."""
    asked = part.asked_corners
    tilted = not np.isin(np.round(part.chain.turn, 12), (-1.0, 0.0, 1.0)).all()
    loose = 2 * part.limit * (math.sqrt(3) if tilted else 1.0) + 2 * part.slack
    checks = []
    by_chain = part.claim.sizes if part.matched is None else part.sizes(asked)
    for axis, want, have in zip(AXES, by_chain, part.sizes(part.found), strict=True):
        checks.append(length("size", f"size {axis.upper()} of {part.body.name}", want, have, loose))
    if tilted:
        spans = np.ptp(asked.reshape(-1, 3), axis=0), np.ptp(part.found.reshape(-1, 3), axis=0)
        for axis, want, have in zip(AXES, *spans, strict=True):
            checks.append(length("extent", f"overall {axis.upper()} in the file", want, have, loose))
    if part.matched is not None:
        # Kept bores may reach past the sizes that factors alone give by what they were kept from shrinking.
        near = loose + 1e-9 * float(max(by_chain)) + (_bore_reach(part) if part.body.kept else 0.0)
        off = float(abs(np.array(part.claim.sizes) - np.array(by_chain)).max())
        shown = " × ".join(f"{size:.5f}" for size in part.claim.sizes)
        checks.append(
            judged(
                "sheet",
                f"size of {part.body.name} as its sheets show it",
                f"{shown} mm",
                " × ".join(f"{size:.5f}" for size in by_chain) + " mm",
                off,
                near,
            )
        )
        checks.append(_numbers_check(part))
    return checks


def _bore_reach(part: ProvenBody) -> float:
    return max(part.chain.bore_mm(bore) for bore in part.body.kept)


def _numbers_check(part: ProvenBody) -> Check:
    """Whether the body spans, in numbers of its file, what its sheets start from."""
    assert part.matched is not None
    if part.strange and not len(part.original.faces):
        return same("numbers", f"{part.body.name} is found in its file", "yes", "no")
    ends = bounds(part.original.points[part.mine()])
    off = float(abs(ends - np.array([part.body.low, part.body.high])).max())
    grain = 1e-12 * float(abs(ends).max())
    return judged(
        "numbers",
        f"numbers that {part.body.name} spans in its file",
        " × ".join(f"{high - low:.6g}" for low, high in zip(part.body.low, part.body.high, strict=True)),
        " × ".join(f"{size:.6g}" for size in ends[1] - ends[0]),
        off,
        grain,
    )


def _vertex_checks(part: ProvenBody) -> list[Check]:
    """Every vertex where it should be, none strange, none left out."""
    assert part.matched is not None
    name, strangers = part.body.name, part.matched.strangers
    checks = [same("triangles", f"triangles of {name}", part.body.triangles, len(part.found))]
    limit = part.limit * math.sqrt(3)
    says = f"every vertex of {name} where the original has it"
    if len(strangers):
        off = remade_bodies.worst_of(part, strangers)
        checks.append(
            Check(
                code="vertices",
                says=says,
                asked="all of the original",
                found=f"{counted(len(strangers), 'triangle')} not of the original",
                off=off,
                limit=limit,
                holds=False,
            )
        )
        return checks
    checks.append(within("vertices", says, "within float32", part.matched.worst, limit))
    checks.append(same("whole", f"edges at which {name} was torn from its original", 0, torn(part)))
    return checks
