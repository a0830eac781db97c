"""How claims are meant: by their kind, by their words, or as the reviewer reads them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim
from yardtoll.core.claims.meaning import (
    LimitType,
    choices_for,
    demand_of,
    meaning_of,
    read_kept,
)
from yardtoll.core.claims.reading.read import read_claims
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.judging import Standing, judge_claim
from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.uncertainty.budget import Budget, rectangular


# What a claim allows, row by row of the trade's table (common practice, no source).
@pytest.mark.parametrize(("kind", "value", "wording", "low", "high"), [
    ("recharge_w", 1400, "up to", None, 1428),
    ("solar_w", 600, "max", None, 612),
    ("wall_a", 15, "", None, 16.5),
    ("wall_a", 15, "max", None, 15.3),
    ("recharge_w", 1400, "", 1330, 1540),
    ("car_in_w", 100, "", 95, 110),
    ("combined_in_w", 1800, "", 1710, 1980),
    ("solar_w", 600, "", 570, None),
    ("continuous_w", 2000, "", 1960, None),
    ("ac_v", 120, "", 114, 126),
    ("car_out_v", 12, "", 10.5, 15),
    ("dc_v", 24, "", 21, 30),
    ("car_out_v", 12, "regulated", 11.4, 12.6),
    ("car_out_v", 12.6, "", 11.97, 13.23),
    ("weight_kg", 10, "", None, 10.5),
    ("idle_w", 15, "", None, 15),
    ("recharge_min", 40, "", None, 40.5),
    ("recharge_min", 126, "rounded to 0.1 h", None, 129),
    ("car_in_h", 2.1, "", None, 2.15),
    ("recharge_min", 40, "about", None, 42),
    ("recharge_w", 1400, "±3 %", 1358, 1442),
    ("usable_wh", 800, "", 800, None),
])  # fmt: skip
def test_what_a_claim_allows(kind, value, wording, low, high):
    meaning = meaning_of(Claim(kind=kind, value=value, wording=wording))
    assert (meaning.low is None, meaning.high is None) == (low is None, high is None)
    assert [meaning.low or 0, meaning.high or 0] == pytest.approx([low or 0, high or 0])
    assert meaning.words  # each is shown with how it is read


def test_yes_no_and_counts_are_as_seen():
    for kind, value in (("pure_sine", 1), ("ac_outlets", 4)):
        meaning = meaning_of(Claim(kind=kind, value=value))
        assert meaning.limit is LimitType.AS_SEEN and choices_for(kind) == ()


class TestChosen:
    @given(
        limit=st.sampled_from([x for x in LimitType if x is not LimitType.AS_SEEN]),
        value=st.floats(0.1, 1e4),
    )
    def test_what_is_kept_reads_back(self, limit, value):
        first = read_kept(f"{limit.value} -5 % +10 %", value)
        again = read_kept(first.kept, value)
        assert (again.limit, again.low, again.high) == (first.limit, first.low, first.high)
        assert again.chosen and again.words.endswith("as read here")

    @pytest.mark.parametrize("text", ["at best", "within 5", "at_least 5 percent", "<script>"])
    def test_what_is_none_is_refused(self, text):
        with pytest.raises(UnusableDataError, match="not a known way to judge"):
            read_kept(text, 100)

    def test_the_reviewer_goes_before_the_words(self):
        claim = Claim(kind="recharge_w", value=1400, wording="up to", judged_as="at_least")
        assert meaning_of(claim).low == 1400 and meaning_of(claim).high is None


class TestWordsOfAListing:
    @pytest.mark.parametrize(("text", "kind", "wording"), [
        ("AC input: up to 1400 W", "recharge_w", "up to"),
        ("Solar input: max. 600 W", "solar_w", "max"),
        ("AC input: about 1400 W", "recharge_w", "about"),
        ("AC output: 120 V ±5 %", "ac_v", "±5 %"),
        ("Wall charging time: 2.1 h", "recharge_min", "rounded to 0.1 h"),
        ("Wall charging time: 2 hours", "recharge_min", "rounded to 1 h"),
    ])  # fmt: skip
    def test_they_are_kept_as_data(self, text, kind, wording):
        (claim,) = [c for c in read_claims(text).claims if c.quantity == kind]
        assert claim.wording == wording

    def test_a_surge_keeps_its_seconds(self):
        found = {c.quantity: c.value for c in read_claims("Surge power: 4000 W for 5 s").claims}
        assert (found["surge_w"], found["surge_s"]) == (4000, 5)

    def test_they_stand_in_what_is_demanded(self):
        assert demand_of(Claim(kind="recharge_w", value=1400, wording="up to")) == "up to 1400 W"
        assert demand_of(Claim(kind="recharge_min", value=58, condition="0–80 %")).startswith(
            "≤ 58"
        )


def finding(kind, value, limit=0.0, **more):
    budget = Budget.of(CLAIM_KINDS[kind].unit, [rectangular("Meter", limit, "±")])
    return Finding(kind=kind, value=value, budget=budget, runs=(1,), seen="measured", **more)


class TestJudged:
    def test_not_drawing_an_upper_bound_is_no_failure(self):
        claim = Claim(kind="recharge_w", value=1400, wording="up to")
        assert judge_claim(claim, [finding("recharge_w", 900, 5)]).standing is Standing.MEETS
        over = judge_claim(claim, [finding("recharge_w", 1500, 5)])
        assert over.standing is Standing.FALLS_SHORT

    def test_a_count_that_was_seen_is_a_count(self):
        claim = Claim(kind="ac_outlets", value=4)
        seen = finding("ac_outlets", 1.0, agrees=True)
        judged = judge_claim(claim, [seen])
        assert judged.standing is Standing.MEETS and judged.figure == "yes"
        judged = judge_claim(claim, [finding("ac_outlets", 0.0, agrees=False)])
        assert judged.standing is Standing.FALLS_SHORT

    def test_both_ends_of_volts_count(self):
        claim = Claim(kind="ac_v", value=120)
        inside = finding("ac_v", 118, 0.3, ends=(115.0, 121.0))
        assert judge_claim(claim, [inside]).standing is Standing.MEETS
        low = finding("ac_v", 118, 0.3, ends=(112.0, 121.0))
        assert judge_claim(claim, [low]).standing is Standing.FALLS_SHORT
        near = finding("ac_v", 118, 0.3, ends=(114.1, 121.0))
        assert judge_claim(claim, [near]).standing is Standing.TOO_CLOSE

    def test_an_uncertainty_wider_than_the_tolerance_settles_nothing(self):
        claim = Claim(kind="ac_v", value=120)
        judged = judge_claim(claim, [finding("ac_v", 120, 8, ends=(119.9, 120.1))])
        assert judged.standing is Standing.TOO_CLOSE
        assert "tolerance" in judged.sentence

    @pytest.mark.parametrize("code", [Code.ABOVE_RATED, Code.FROZEN, Code.RESTARTED])
    def test_a_doubt_keeps_it_from_being_met(self, code):
        claim = Claim(kind="usable_wh", value=800)
        sure = finding("usable_wh", 900, 5)
        assert judge_claim(claim, [sure]).standing is Standing.MEETS
        doubted = judge_claim(claim, [finding("usable_wh", 900, 5, doubts=(code,))])
        assert doubted.standing is Standing.CANNOT_BE_JUDGED and "explain it" in doubted.sentence
        short = judge_claim(claim, [finding("usable_wh", 700, 5, doubts=(code,))])
        assert short.standing is Standing.FALLS_SHORT

    def test_more_than_was_asked_of_a_port_is_not_known(self):
        claim = Claim(kind="car_out_a", value=10)
        bound = {"lower_bound": True, "why_bound": "No higher load was tried."}
        judged = judge_claim(claim, [finding("car_out_a", 6, 0.1, **bound)])
        assert judged.standing is Standing.CANNOT_BE_JUDGED
        assert judged.sentence.endswith("No higher load was tried.")
        met = judge_claim(claim, [finding("car_out_a", 10.4, 0.1, **bound)])
        assert met.standing is Standing.MEETS
