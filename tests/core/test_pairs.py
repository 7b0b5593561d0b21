"""Pairs of a job: taken from what is offered, and kept through whatever happens to their bodies."""

from __future__ import annotations

from types import SimpleNamespace
from typing import cast

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.fit.actions import MeanPair, PairUp, UnPair
from aimtrue.core.fit.detail import detail
from aimtrue.core.fit.offers import PairOffer, offers
from aimtrue.core.fit.room import survey_of
from aimtrue.core.fit.standing import PairState
from aimtrue.core.intake.actions import Delete, Paint, SettleUnit
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.ids import PairId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.pairs import PairSide
from aimtrue.core.model.shaping import DescribedFace
from aimtrue.core.proof.bodies import pair_sides
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.values import Check
from aimtrue.core.release.history import changes
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Format, Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import FreeAxis, KeepBores, SetAllowance, SetFactor, SizeAxis
from tests.core.test_fit import PIN, PLATE, TRAY, WEDGE, A, B, block, both, rod, settled
from tests.shapes import Bench, binary_stl, corners_of, threaded


def taken(offer: PairOffer) -> PairUp:
    return PairUp(kind=offer.kind, a=offer.a, b=offer.b, a_feature=offer.a_feature, b_feature=offer.b_feature)


def paired(bench: Bench) -> Bench:
    return bench.do(taken(offers(bench.job, bench)[0]))


def state(bench: Bench) -> PairState:
    (only,) = survey_of(bench.job, bench).pairs
    return only


def clearances(bench: Bench) -> list[float]:
    return [round(one.clearance_mm, 4) for one in state(bench).states]


def test_what_is_offered_is_taken_once() -> None:
    bench = both(PLATE, PIN)
    (offer,) = offers(bench.job, bench)
    assert (offer.kind, offer.names, offer.suits) == ("bore and shaft", ("pair 1", "pair 2"), "slides")
    paired(bench)
    assert offers(bench.job, bench) == ()
    assert clearances(bench) == [0.3, 0.3, 0.3]
    assert state(bench).states[-1].verdict == "holds"
    with pytest.raises(Refused, match="a pair already"):
        bench.do(taken(offer))
    with pytest.raises(Refused, match="not there any more"):
        bench.do(taken(offer.model_copy(update={"a_feature": 99})))


def test_a_correction_that_breaks_a_pair_is_a_finding_with_both_values_and_ways_out() -> None:
    bench = paired(both(PLATE, PIN)).do(SetFactor(body=A, typed="0.6"))
    assert clearances(bench) == [0.3, 0.18, 0.18]
    found = survey(bench.job, bench)
    (told,) = [finding for finding in found.findings if finding.code == "pair-broken"]
    assert "0.18 mm of clearance (was 0.3 as drawn), 0.3 to 0.5 mm is wanted" in told.says
    strip = {sheet.name: sheet for sheet in found.sheets}
    assert (strip["fit"].mark, strip["fit"].says) == ("look", "1 look")
    way = state(bench).ways[0]
    assert way.says == "Open pair 1 by 0.110 mm a side"
    bench.shape(way.asked, way.body)
    assert clearances(bench) == [0.3, pytest.approx(0.4, abs=1e-4), pytest.approx(0.4, abs=1e-4)]
    assert state(bench).states[-1].verdict == "holds"
    assert {sheet.name: sheet.says for sheet in survey(bench.job, bench).sheets}["fit"] == "2 of 2 hold"


def test_a_pair_is_of_a_typed_band_or_a_fit() -> None:
    bench = paired(both(PLATE, PIN))
    key = state(bench).id
    bench.do(MeanPair(pair=key, intent="slides", typed="0.35..0.45"))
    assert state(bench).states[-1].verdict == "does not hold"
    bench.do(MeanPair(pair=key, intent="slides", typed="H7/g6"))
    assert state(bench).band_high_mm == pytest.approx(0.024)
    for text, says in (
        ("0.4..0.2", "0.4 down to 0.2"),
        ("tight", "neither a band nor a fit"),
        ("H7/z9", "z"),
    ):
        with pytest.raises(Refused, match=says):
            bench.do(MeanPair(pair=key, intent="slides", typed=text))
    bench.do(MeanPair(pair=key, intent="apart"))
    assert state(bench).band_says == "at least 0.5 mm"
    bench.do(UnPair(pair=key))
    assert bench.job.pairs == ()
    with pytest.raises(Refused):
        bench.do(UnPair(pair=key))


def test_a_pair_goes_with_a_new_revision_and_another_unit() -> None:
    bench = paired(both(PLATE, PIN))
    thinner = np.concatenate([corners_of(mesh_of(PLATE)), corners_of(mesh_of(rod(4.8, 20, (12, 15, -6))))])
    bench.revise("pair.stl", binary_stl(thinner))
    assert clearances(bench) == [0.5, 0.5, 0.5]
    bench.do(SettleUnit(source="s1", unit=Unit.CM))
    assert clearances(bench)[0] == 5.0


def test_a_pair_that_is_gone_is_told_and_one_without_a_body_goes() -> None:
    bench = paired(both(PLATE, PIN))
    plain = np.concatenate([corners_of(mesh_of(block(40, 30, 8))), corners_of(mesh_of(PIN))])
    bench.revise("pair.stl", binary_stl(plain))
    assert state(bench).states == ()
    assert "pair-lost" in {finding.code for finding in survey(bench.job, bench).findings}
    bench.do(Delete(bodies=(bench.job.bodies[1].id,)))
    assert bench.job.pairs == ()


def test_its_detail_shows_both_bodies_and_the_gap() -> None:
    bench = paired(both(PLATE, PIN))
    drawn = detail(bench.job, state(bench).id, bench)
    assert drawn.side_mm == pytest.approx(0.15, abs=1e-5)
    # Facets lie within their circles, so in a section the walls are a little off.
    reach = [max(x for ring in rings for x, _ in ring) for rings in (drawn.a, drawn.b)]
    assert reach[0] == pytest.approx(drawn.half_mm)
    assert reach[1] == pytest.approx(drawn.ends[0][0], abs=5e-3)
    with pytest.raises(Refused):
        detail(bench.job, PairId("f9"), bench)


def test_a_release_says_what_pairs_changed() -> None:
    before = both(PLATE, PIN).job
    after = paired(both(PLATE, PIN)).job
    rows = {(row.of, row.what, row.after) for row in changes(before, after)}
    assert ("pair 1", "pairs", "bore and shaft slides") in rows


def test_what_is_alone_offers_nothing() -> None:
    bench = settled("plate.stl", corners_of(mesh_of(PLATE)))
    assert offers(bench.job, bench) == ()
    far = both(PLATE, Manifold.cube((5, 5, 5)).translate((90, 0, 0)))
    assert offers(far.job, far) == ()
    assert B not in {offer.a for offer in offers(far.job, far)}


@pytest.mark.parametrize("kind", ["3mf", "stl"])
def test_the_proof_measures_both_sides_of_a_pair_on_the_released_bytes(kind: Format) -> None:
    bench = paired(both(PLATE, PIN)).do(SetFactor(body=A, typed="1.5"))
    bench.do(SetAllowance(body=A, shrinkage=("0.5", "0.7", "0.6"), clearance=None))
    bench.do(Paint(bodies=(A,), colour="#aabbcc"))
    for order in (Order(format=kind, place="own", shape="each"), Order(format=kind, place="seated")):
        files = release(bench.job, bench, order).files
        checks = [check for file in files for check in file.file.proof.checks if check.code == "pair"]
        assert [check.says.split(" of ")[0] for check in checks] == ["bore", "shaft"]
        assert all(check.holds for check in checks)


def proven_sides(bench: Bench, kind: Format = "3mf") -> list[Check]:
    """What the proof of a release says of the sides of pairs, as it is and as it is seated."""
    rows = []
    for order in (Order(format=kind, place="own", shape="each"), Order(format=kind, place="seated")):
        files = release(bench.job, bench, order).files
        rows += [check for file in files for check in file.file.proof.checks if check.code == "pair"]
    return rows


def test_the_proof_measures_threads_with_their_pitch_and_hand() -> None:
    nut = block(14, 14, 3).translate((-7, -7, 1.7)) - threaded(4.2, 1.25, 1.3, 6)
    bolt = threaded(4, 1.25, 1.4, 5.5)
    for mirrored in (1, -1):
        solids = [solid.scale((mirrored, 1, 1)).rotate((30, 10, 0)) for solid in (nut, bolt)]
        bench = both(*solids)
        threads = [offer for offer in offers(bench.job, bench) if offer.kind == "thread and thread"]
        bench.do(taken(threads[0]), SetFactor(body=A, typed="1.02"))
        bench.do(SetAllowance(body=A, shrinkage=("0.5", "0.5", "0.5"), clearance=None))
        rows = proven_sides(bench)
        assert len(rows) == 8
        assert all(row.holds for row in rows)
        assert {row.asked for row in rows if "pitch" not in row.says} == {"8.56800 mm", "8.16000 mm"}
        hand = "right" if mirrored > 0 else "left"
        assert {row.found for row in rows if "pitch" in row.says} <= {
            f"{pitch:.3f} mm, {hand}-hand" for pitch in np.arange(1.27, 1.2805, 0.001)
        }


def test_the_proof_measures_oval_bores_and_where_flat_faces_are() -> None:
    bench = paired(both(PLATE, PIN))
    bench.do(FreeAxis(body=A, axis="x", free=True), SizeAxis(body=A, axis="x", typed="44"))
    rows = proven_sides(bench)
    assert [row.says.split(" of ")[0] for row in rows] == ["oval bore", "oval shaft"] * 2
    assert all(row.holds for row in rows)
    assert rows[0].asked == "5.83000 mm"
    wedge = both(TRAY, WEDGE)
    for offer in offers(wedge.job, wedge):
        wedge.do(taken(offer))
    wedge.do(SetFactor(body=A, typed="1.25"))
    rows = proven_sides(wedge, "stl")
    assert {row.says.split(" of ")[0] for row in rows} == {"flat face"}
    assert len(rows) >= 8
    assert all(row.holds for row in rows)


def test_sides_that_are_not_as_claimed_are_told() -> None:
    """What the proof measures is asked of surfaces that differ a little from what is claimed."""

    def off(claimed: PairSide, solid: Manifold) -> list[bool]:
        mesh = mesh_of(solid)
        part = SimpleNamespace(
            claim=SimpleNamespace(sides=(claimed,), place=np.zeros(3)),
            found=mesh.vertices[mesh.faces],
            chain=SimpleNamespace(unturned=lambda points: points),
            body=SimpleNamespace(name="part"),
            limit=1e-6,
        )
        return [check.holds for check in pair_sides.checks(cast(ProvenBody, part))]

    bolt = threaded(4, 1.25, 1.4, 5.5)
    low, high = (-4.0, -4.0, 1.4), (4.0, 4.0, 5.5)
    about = DescribedFace(kind="round", point=(0, 0, 3), way=(0, 0, 1), diameter=8, low=low, high=high)
    thread = PairSide(says="thread", kind="thread", faces=(about,), size_mm=8, pitch_mm=1.25)
    assert off(thread, bolt) == [True, True]
    assert off(thread, bolt.scale((1.001, 1.001, 1))) == [False, True]
    assert off(thread, bolt.scale((1, 1, 1.04))) == [True, False]
    assert off(thread, bolt.scale((-1, 1, 1))) == [True, False]
    assert off(thread, block(8, 8, 8)) == [False]
    rod_ = Manifold.cylinder(6, 3, circular_segments=64).scale((1.1, 1, 1)).rotate((0, 0, 30))
    ways = (np.cos(np.pi / 6), 0.5, 0.0)
    about = DescribedFace(
        kind="round", point=(0, 0, 3), way=(0, 0, 1), diameter=6.6, low=(-3.3, -3.3, 0), high=(3.3, 3.3, 6)
    )
    oval = PairSide(says="oval shaft", kind="oval", faces=(about,), size_mm=6.6, least_mm=6, across=ways)
    assert off(oval, rod_) == [True]
    for scale in ((1.001, 1, 1), (1, 0.999, 1), (1.0005, 1.0005, 1)):
        assert off(oval, rod_.scale(scale)) == [False]
    face = DescribedFace(kind="flat", point=(4, 4, 8), way=(0, 0, 1), low=(0, 0, 8), high=(8, 8, 8))
    flat = PairSide(says="flat face", kind="plane", faces=(face,), size_mm=8)
    assert off(flat, block(8, 8, 8)) == [True]
    assert off(flat, block(8, 8, 8.0001)) == [False]
    assert off(flat, block(8, 8, 9)) == [False]


def test_what_was_opened_once_is_opened_further_not_on_top_of_it() -> None:
    bench = paired(both(PLATE, PIN)).do(SetFactor(body=A, typed="0.6"))
    first = state(bench).ways[0]
    bench.shape(first.asked, first.body)
    bench.do(MeanPair(pair=state(bench).id, intent="apart"))
    further = state(bench).ways[0]
    assert (further.body, further.asked.amount) == (A, "-0.16")
    bench.shape(further.asked, further.body, instead=further.instead)
    assert clearances(bench)[-1] == pytest.approx(0.5, abs=1e-4)
    files = release(bench.job, bench, Order(place="own", shape="each")).files
    (moved,) = [check for file in files for check in file.file.proof.checks if check.code == "moved"]
    assert moved.asked == "-0.16000 mm"


def test_a_kept_bore_is_closed_though_its_rim_was_folded() -> None:
    bench = paired(both(PLATE, PIN)).do(KeepBores(bodies=(A,)), SetFactor(body=A, typed="0.6"))
    assert clearances(bench) == [0.3, 2.3, 2.3]
    way = state(bench).ways[0]
    assert way.says == "Close pair 1 by 0.950 mm a side"
    bench.shape(way.asked, way.body)
    assert clearances(bench)[-1] == pytest.approx(0.4, abs=1e-4)
    assert release(bench.job, bench, Order(place="own")).files


def test_of_what_is_oval_and_of_pieces_there_is_no_way() -> None:
    bench = paired(both(PLATE, PIN))
    bench.do(FreeAxis(body=A, axis="x", free=True), SizeAxis(body=A, axis="x", typed="44"))
    assert "the bore is oval, 5.3 × 5.83" in state(bench).says
    assert state(bench).ways == ()
    cut = paired(both(PLATE, PIN)).do(SetFactor(body=A, typed="0.6"))
    way = state(cut).ways[0]
    cut.shape(AskPieces(planes=("z=2",)), A)
    assert [pair_way.body for pair_way in state(cut).ways] == [B]
    # Where a plane has cut its facets a bore has corners on chords, too; it is as wide as it was.
    assert clearances(cut) == [0.3, 0.18, 0.18]
    files = release(cut.job, cut, Order(place="own", shape="each")).files
    checks = [check for file in files for check in file.file.proof.checks if check.code == "pair"]
    assert {check.asked for check in checks} == {"3.18000 mm", "3.00000 mm"}
    piece = next(body.id for body in cut.job.bodies if body.division)
    with pytest.raises(Refused, match="was made of another body"):
        cut.shape(way.asked.model_copy(update={"geometry": ""}), piece)
