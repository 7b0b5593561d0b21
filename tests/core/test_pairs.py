"""Pairs of a job: taken from what is offered, and kept through whatever happens to their bodies."""

from __future__ import annotations

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
from aimtrue.core.release.history import changes
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Format, Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import FreeAxis, KeepBores, SetAllowance, SetFactor, SizeAxis
from tests.core.test_fit import PIN, PLATE, A, B, block, both, rod, settled
from tests.shapes import Bench, binary_stl, corners_of


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
