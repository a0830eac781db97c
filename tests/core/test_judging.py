"""Uncertainty, verdicts, yardsticks, the ledger, and numbers as shown."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.conditions import mismatch_reason, read_condition
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.settling import what_would_settle
from yardtoll.core.conformance.verdict import Direction, Outcome, Rule, judge
from yardtoll.core.conformance.yardsticks import (
    SHIPPED_YARDSTICKS,
    Basis,
    Yardstick,
    judge_discharge,
)
from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import (
    decimals_for,
    format_clock,
    format_power,
    format_probability,
    format_span,
    format_with_uncertainty,
)
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.uncertainty.accuracy import MeterAccuracy, parse_accuracy
from yardtoll.core.uncertainty.budget import (
    Budget,
    Contribution,
    Measured,
    display_step,
    rectangular,
)
from yardtoll.core.uncertainty.energy_budget import discharge_budget

AT_LEAST, AT_MOST = Direction.AT_LEAST, Direction.AT_MOST


class TestAccuracy:
    @pytest.mark.parametrize(
        ("text", "share", "floor"),
        [
            ("1% + 0.5 W", 0.01, 0.5),
            ("±0.5 % of reading + 100 mW", 0.005, 0.1),
            ("2%", 0.02, 0),
            ("0.2 W", 0, 0.2),
            ("1 % rdg + 3W", 0.01, 3),
        ],
    )
    def test_as_makers_write_it(self, text, share, floor):
        found = parse_accuracy(text)
        assert (found.reading_share, found.floor_w) == pytest.approx((share, floor))

    @pytest.mark.parametrize("text", ["", "good", "1 + 2", "1% + 2% + 3 W", "-1%"])
    def test_what_does_not_read_is_refused(self, text):
        with pytest.raises(UnusableDataError, match="should look like"):
            parse_accuracy(text)

    def test_impossible_limits_are_refused(self):
        with pytest.raises(ValueOutOfRangeError):
            MeterAccuracy(reading_share=1.2, floor_w=0)
        with pytest.raises(ValueOutOfRangeError):
            MeterAccuracy(reading_share=0.1, floor_w=math.nan)


class TestBudget:
    RATING = Rating(rated_wh=2048)

    def test_gain_scales_the_energy_and_floor_the_time(self):
        result = discharge_from_energies([1800], self.RATING, duration_s=4 * 3600)
        budget = discharge_budget(result, [MeterAccuracy(reading_share=0.01, floor_w=0.5)])
        by_name = {line.name: line.u for line in budget.lines}
        # Rectangular limits, JCGM 100:2008, 4.3.7: u = a ÷ √3, worked by hand.
        # Half of the gain's variance is common, half this level's own: √½ of it each.
        assert by_name["Meter gain, common"] == pytest.approx(18 / math.sqrt(6))
        assert by_name["Meter gain, at this level"] == pytest.approx(18 / math.sqrt(6))
        assert by_name["Meter floor"] == pytest.approx(2 / math.sqrt(3))
        assert budget.u == pytest.approx(math.hypot(18, 2) / math.sqrt(3))
        assert budget.expanded == pytest.approx(2 * budget.u)
        assert budget.lines[0].of_gain and budget.lines[1].of_gain

    def test_two_meters_are_independent(self):
        result = discharge_from_energies([900, 900], self.RATING, duration_s=3600)
        one = MeterAccuracy(reading_share=0.01, floor_w=0)
        budget = discharge_budget(result, [one])
        assert budget.u == pytest.approx(math.hypot(9, 9) / math.sqrt(3))
        assert discharge_budget(result, [one, one]).u == budget.u
        with pytest.raises(UnusableDataError, match="3 meter accuracies are given for 2 logs"):
            discharge_budget(result, [one] * 3)

    def test_monte_carlo_agrees(self):
        rng = np.random.default_rng(7)
        n = 200_000
        true_wh, hours = 1500.0, 5.0
        seen = true_wh * (1 + rng.uniform(-0.01, 0.01, n)) + rng.uniform(-1, 1, n) * hours
        result = discharge_from_energies([true_wh], self.RATING, duration_s=hours * 3600)
        budget = discharge_budget(result, [MeterAccuracy(reading_share=0.01, floor_w=1)])
        assert budget.u == pytest.approx(float(np.std(seen)), rel=0.01)


class TestVerdict:
    def test_the_breakdown_voltage_example(self):
        # JCGM 106:2012, § 7: −5.47 V, u 0.05 V, limit ≤ −5.40 V → 0.92 (figures from memory).
        verdict = judge(-5.47, 0.10, -5.40, AT_MOST)
        assert verdict.probability == pytest.approx(0.92, abs=0.005)
        assert verdict.margin == pytest.approx(0.07)
        assert verdict.outcome is Outcome.TOO_CLOSE

    @pytest.mark.parametrize(
        ("value", "u", "direction", "outcome"),
        [
            (0.90, 0.04, AT_LEAST, Outcome.MEETS),
            (0.90, 0.05, AT_LEAST, Outcome.MEETS),  # exactly clear of it
            (0.90, 0.0501, AT_LEAST, Outcome.TOO_CLOSE),
            (0.80, 0.05, AT_LEAST, Outcome.FALLS_SHORT),
            (0.80, 0.0501, AT_LEAST, Outcome.TOO_CLOSE),
            (0.85, 0.0, AT_LEAST, Outcome.MEETS),
            (0.80, 0.04, AT_MOST, Outcome.MEETS),
            (0.90, 0.04, AT_MOST, Outcome.FALLS_SHORT),
        ],
    )
    def test_guarded(self, value, u, direction, outcome):
        assert judge(value, u, 0.85, direction).outcome is outcome

    def test_simple_and_likely_never_hesitate(self):
        for rule in (Rule.SIMPLE, Rule.LIKELY):
            assert judge(0.86, 0.5, 0.85, AT_LEAST, rule).outcome is Outcome.MEETS
            assert judge(0.84, 0.5, 0.85, AT_LEAST, rule).outcome is Outcome.FALLS_SHORT
            assert judge(0.85, 0.5, 0.85, AT_LEAST, rule).outcome is Outcome.MEETS

    @given(st.floats(0.5, 1.5), st.floats(0, 0.3), st.floats(0.5, 1.5))
    def test_guarded_says_yes_only_where_simple_does(self, value, u, limit):
        guarded = judge(value, u, limit, AT_LEAST).outcome
        simple = judge(value, u, limit, AT_LEAST, Rule.SIMPLE).outcome
        assert guarded in (simple, Outcome.TOO_CLOSE)

    def test_false_accepts_at_the_limit_stay_below_two_and_a_half_percent(self):
        rng = np.random.default_rng(11)
        seen = 0.85 + rng.normal(0, 0.01, 20_000)
        accepted = sum(judge(v, 0.02, 0.85, AT_LEAST).outcome is Outcome.MEETS for v in seen)
        assert accepted / seen.size <= 0.025

    def test_a_negative_u_is_refused(self):
        with pytest.raises(ValueOutOfRangeError):
            judge(1, -0.1, 1, AT_LEAST)


class TestConditions:
    @pytest.mark.parametrize(
        ("condition", "soc", "load", "held", "left"),
        [
            ("0–80 %", (0, 80), None, None, ""),
            ("at 1.2 kW for 15 min", None, 1200, 900, ""),
            ("AC on", None, None, None, ""),
            ("2 ports", None, None, None, ""),
            ("400 W, 20 to 80 %", (20, 80), 400, None, ""),
            ("for 5 s", None, None, 5, ""),
            ("at 25 °C", None, None, None, "25 °C"),
            ("boost mode", None, None, None, "boost mode"),
        ],
    )
    def test_what_a_claim_asks_of_a_run(self, condition, soc, load, held, left):
        found = read_condition(Claim(kind="usable_wh", value=1, condition=condition))
        assert (found.soc, found.load_w, found.held_s, found.open) == (soc, load, held, left)

    def finding(self, **facts):
        return Finding(kind="usable_wh", value=1, budget=None, runs=(3,), **facts)

    def test_a_finding_that_does_not_fit_says_why(self):
        claim = Claim(kind="usable_wh", value=1, condition="at 400 W, 0–80 %")
        asked = read_condition(claim)
        assert mismatch_reason(claim, asked, self.finding(load_w=410, soc=(0.5, 80))) == ""
        assert (
            mismatch_reason(claim, asked, self.finding(load_w=600))
            == "run 3 was at 600 W, not at 400 W"
        )
        assert "went from 10 to 80 %" in mismatch_reason(claim, asked, self.finding(soc=(10, 80)))
        hold = Claim(kind="continuous_w", value=2000, condition="for 30 min")
        asked = read_condition(hold)

        def said(**facts):
            return mismatch_reason(hold, asked, self.finding(**facts))

        assert said(load_w=1990, held_s=900) == (
            "run 3 lasted 15 min, not 30 min, and what ended it is not known: say so under Edit "
            "the run"
        )
        assert said(load_w=1990, held_s=900, ended_by="battery").endswith("the battery was empty")
        assert said(load_w=1990, held_s=900, ended_by="hand").endswith("stopped by hand")
        assert said(load_w=1990, held_s=900, ended_by="trip") == ""
        assert said(load_w=2300, held_s=1800) == ""  # more than claimed, and held
        assert "over the claimed 2000 W" in said(load_w=2300, held_s=900, ended_by="trip")
        assert said(load_w=1900, held_s=1800) == "run 3 was at 1900 W, not at 2000 W"


class TestSettling:
    def budget(self, gain, other, name="Cut-off timing"):
        return Budget.of(
            "Wh",
            [
                rectangular("Meter gain", gain, "±1 %", of_gain=True),
                rectangular(name, other, "one interval"),
            ],
        )

    def test_the_least_meter_that_would_do(self):
        # By hand: 5 Wh must be U, so u = 2.5; 1 Wh ÷ √3 is taken; 2.43·√3 of 860 are 0.49 %.
        assert what_would_settle(860, self.budget(8.6, 1), 5) == (
            "A meter of ±0.2 % would make this verdict conclusive."
        )

    def test_no_meter_would(self):
        said = what_would_settle(860, self.budget(1, 8.6), 2)
        assert said.startswith("The largest share of its uncertainty, 99%, is cut-off timing")
        steps = Budget.of("W", [display_step("Display steps", 2, "±½ point")])
        stepped = what_would_settle(20, steps, 1)
        assert stepped.endswith("a longer run makes it smaller.")
        assert what_would_settle(1, Budget.of("Wh", []), 1) == ""


class TestJudgedDischarge:
    PASS = Yardstick(name="Pass", limit=0.85)

    def judge(self, wh, u, yardstick=None, rule=Rule.GUARDED, doubts=(), **rating):
        result = discharge_from_energies([wh], Rating(rated_wh=2000, **rating))
        windowed = yardstick is not None and yardstick.basis is Basis.OF_WINDOW
        rated_wh = 2000 * (result.rating.window if windowed else 1)
        line = Contribution(name="U", why="", u=u / 2 / rated_wh)
        measured = Measured(value=wh / rated_wh, budget=Budget.of("", [line]))
        return judge_discharge(result, measured, yardstick or self.PASS, rule, doubts)

    def test_reasons_in_words_each_with_its_probability(self):
        assert self.judge(1800, 20).reasons == (
            "90.0 ± 1.0 % of rated delivered: 100 Wh above 85 %, more than the uncertainty of "
            "20 Wh. Probability of conformity >99.9 %.",
        )
        short = self.judge(1600, 20).reasons[0]
        assert short.startswith("80.0 ± 1.0 % of rated delivered: 100 Wh below")
        assert short.endswith("Probability of conformity <0.1 %.")
        assert self.judge(1710, 20).reasons == (
            "85.5 ± 1.0 % of rated delivered: 10 Wh above 85 %, which the uncertainty of 20 Wh "
            "does not settle. Probability of conformity 84 %.",
        )
        alone = self.judge(1710, 20, rule=Rule.SIMPLE).reasons[0]
        assert "the numbers alone" in alone and "conformity 84 %" in alone
        assert "conformity" not in self.judge(1710, 0, rule=Rule.SIMPLE).reasons[0]
        assert "conformity 84 %" in self.judge(1710, 20, rule=Rule.LIKELY).reasons[0]

    def test_of_rated_and_of_window_are_never_mixed(self):
        window = Yardstick(name="W", limit=0.85, basis=Basis.OF_WINDOW)
        rated = self.judge(1600, 5, soc_to=10)
        assert rated.verdict.outcome is Outcome.FALLS_SHORT
        assert "could not be reached" in rated.reasons[1]
        over_window = self.judge(1600, 5, window, soc_to=10)
        assert over_window.verdict.outcome is Outcome.MEETS
        assert "of the rated window" in over_window.reasons[0] and len(over_window.reasons) == 1

    def test_more_than_rated_is_doubted(self):
        found = self.judge(2100, 5, doubts=(Code.ABOVE_RATED,))
        assert found.verdict.outcome is Outcome.CANNOT_BE_JUDGED
        assert "More energy came out than is rated: explain it" in found.reasons[0]
        assert "input left plugged in" in found.reasons[1]
        # Explained it may meet; falling short and the simple rule are kept from nothing.
        assert self.judge(2100, 5).verdict.outcome is Outcome.MEETS
        doubted = {"doubts": (Code.FROZEN,)}
        assert self.judge(1600, 5, **doubted).verdict.outcome is Outcome.FALLS_SHORT
        simple = self.judge(2100, 5, rule=Rule.SIMPLE, **doubted)
        assert simple.verdict.outcome is Outcome.MEETS

    def test_the_schools_are_shipped(self):
        limits = {yardstick.name: yardstick.limit for yardstick in SHIPPED_YARDSTICKS}
        # Common practice, no source: ≥ 80 % good, ≥ 85 % pass, ≥ 90 % excellent.
        assert (limits["Good"], limits["Pass"], limits["Excellent"]) == (0.80, 0.85, 0.90)


class TestLedger:
    @given(
        st.floats(50, 5000),
        st.floats(0, 1.3),
        st.floats(51, 100),
        st.floats(0, 50),
    )
    def test_it_always_adds_up(self, rated, share, soc_from, soc_to):
        rating = Rating(rated_wh=rated, soc_from=soc_from, soc_to=soc_to)
        ledger = discharge_ledger(discharge_from_energies([share * rated], rating))
        assert abs(ledger.imbalance_wh) <= 1e-9 * rated

    def test_a_whole_window_has_one_gate(self):
        ledger = discharge_ledger(discharge_from_energies([1830], Rating(rated_wh=2048)))
        (toll,) = ledger.tolls
        assert (toll.title, toll.kind, toll.energy_wh) == (
            "Not delivered",
            EnergyKind.UNACCOUNTED,
            218,
        )

    def test_a_floor_is_held_back_by_choice(self):
        rating = Rating(rated_wh=2000, soc_to=10)
        floor, missing = discharge_ledger(discharge_from_energies([1600], rating)).tolls
        assert (floor.kind, floor.energy_wh) == (EnergyKind.FLOOR, pytest.approx(200))
        assert missing.energy_wh == pytest.approx(200)

    def test_more_than_rated_is_a_surplus_not_a_loss(self):
        (toll,) = discharge_ledger(discharge_from_energies([2100], Rating(rated_wh=2000))).tolls
        assert toll.title == "More than rated" and toll.energy_wh == pytest.approx(-100)
        assert "100 Wh more came out" in toll.evidence


class TestFigures:
    @pytest.mark.parametrize(
        ("value", "u", "text"),
        [
            (89.43, 0.52, "89.43 ± 0.52"),
            (1830.4, 11.2, "1830 ± 11"),
            (1830.4, 23, "1830 ± 23"),
            (1913.2, 128.0, "1910 ± 130"),
            (48_213.0, 2560.0, "48200 ± 2600"),
            (234.91, 1.44, "234.9 ± 1.4"),
            (0.123456, 0.00071, "0.12346 ± 0.00071"),
            (1.234e-4, 2e-6, "(1.234 ± 0.020)·10⁻⁴"),
            (0, 2.3e-5, "(0.0 ± 2.3)·10⁻⁵"),
            (5, 0, "5.0"),
        ],
    )
    def test_no_more_digits_than_the_uncertainty_allows(self, value, u, text):
        assert format_with_uncertainty(value, u) == text

    def test_decimals(self):
        # Two figures, also where rounding makes one more: 0.0996 is 0.10.
        asked = (20, 2, 0.2, 0.15, 0.0996, 0, math.nan)
        assert [decimals_for(u) for u in asked] == [0, 1, 2, 2, 2, 0, 0]

    @pytest.mark.parametrize(
        ("seconds", "clock", "span"),
        [
            (0, "0:00:00", "0 s"),
            (59.9, "0:00:59", "60 s"),
            (3600, "1:00:00", "1 h 00 min"),
            (11_112, "3:05:12", "3 h 05 min"),
            (360_000, "100:00:00", "100 h 00 min"),
            (720, "0:12:00", "12 min"),
            (-1, "–", "–"),
            (math.inf, "–", "–"),
        ],
    )
    def test_times(self, seconds, clock, span):
        assert (format_clock(seconds), format_span(seconds)) == (clock, span)

    @pytest.mark.parametrize(
        ("share", "text"),
        [(0.84, "84 %"), (0.992, "99.2 %"), (0.9995, ">99.9 %"), (1.0, ">99.9 %"),
         (0.004, "0.4 %"), (0.0, "<0.1 %")],
    )  # fmt: skip
    def test_certainty_is_never_claimed(self, share, text):
        assert format_probability(share) == text

    def test_watts(self):
        assert [format_power(w) for w in (7.24, 411.34, 1195.9)] == ["7.2", "411.3", "1196"]
