"""What the views say, without a window: plans, verdict pages, ledgers, lanes, readings."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from tests.records import METER, STATION
from tests.runs import analysed, shown_of

from yardtoll.bench.samples import SampleBlock
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Basis, Yardstick
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.desktop.views.run.model import (
    MARK_KEYS,
    clock_range,
    in_steps,
)
from yardtoll.desktop.views.verdicts.model import claims_page, yardstick_page
from yardtoll.desktop.views.yard.model import yard_page
from yardtoll.review.conformance import judged_claims, yardstick_rows
from yardtoll.review.pages import run_caption, run_page
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import station_runs
from yardtoll.running.live_samples import LiveSamples
from yardtoll.running.reading_text import parse_number, parse_time_left, reading_text
from yardtoll.store.records import (
    Conditions,
    Observation,
    Override,
    Reading,
    Receiving,
    Run,
)

START = datetime(2026, 5, 14, 10, tzinfo=UTC)


def run(number=1, **changes) -> Run:
    made = Run(
        id=number, station_id=1, number=number, method="capacity_ac", state="finished",
        origin="live", started_at=START.isoformat(), meter_id=1,
    )  # fmt: skip
    return replace(made, **changes)


def analysis(watts=200.0, hours=4.3, number=1, meter=METER, **changes) -> RunAnalysis:
    t = np.arange(0, hours * 3600 + 120, 10)
    p = np.where((t >= 60) & (t <= 60 + hours * 3600), watts, 0.0)
    trace = Trace(name="t", time_s=t, columns={Quantity.POWER: p})
    return analysed(run(number, **changes), STATION, trace, meter)


class TestYardsticks:
    PASS = Yardstick(name="Pass", limit=0.85)

    def page(self, analyses, yardstick=PASS, rule=Rule.GUARDED, receiving=None):
        return yardstick_page(
            yardstick_rows(station_runs(analyses), yardstick, rule, receiving), yardstick
        )

    def test_rows_words_and_headline(self):
        page = self.page(
            [
                analysis(200, hours=4.5),
                analysis(250, hours=3.2, number=2),
                analysis(300, hours=2.85, number=3),
                analysis(number=4, state="void", void_reason="door open"),
                analysis(400, hours=2.1, number=5, meter=None),
            ]
        )
        assert [row.row.word for row in page.rows] == [
            "meets", "falls short", "too close to call", "void", "cannot be judged",
        ]  # fmt: skip
        assert page.headline == (
            "≥ 85 % of rated: 1 meets it, 1 falls short, 1 is too close to call"
        )
        assert page.rows[3].sentence == "Void and kept: door open."
        assert "No meter is stated" in page.rows[4].sentence
        assert page.rows[0].row.low < 0.79 and page.rows[0].row.high > 0.91
        assert "more repeats make it smaller" in page.rows[2].advice
        assert page.rows[0].advice == "" and page.rows[0].run_number == 1

    def test_a_run_stopped_early_is_a_lower_bound_and_falls_short_of_nothing(self):
        def stopped(hours):
            whole = analysis(hours=hours)
            keep = whole.trace.time_s <= hours * 3600
            trace = Trace(
                name="t",
                time_s=whole.trace.time_s[keep],
                columns={q: v[keep] for q, v in whole.trace.columns.items()},
            )
            return analysed(whole.run, STATION, trace, METER)

        page = self.page([stopped(2), stopped(4.6)])
        assert [row.row.word for row in page.rows] == ["cannot be judged", "meets"]
        assert page.rows[0].row.figure == "at least 39.7 %"
        assert page.rows[0].sentence.startswith("The run ends under load")

    def test_the_simple_rule_needs_no_meter(self):
        page = self.page([analysis(meter=None)], rule=Rule.SIMPLE)
        assert page.rows[0].row.outcome == "meets" and page.rows[0].row.whisker is None

    def test_ac_dc_full_load_and_a_hold_are_never_mixed(self):
        runs = [
            analysis(method="hold"),
            analysis(number=2, method="capacity_dc"),
            analysis(number=3),
            analysis(watts=790, hours=1, number=4),
        ]

        def titles(basis):
            page = self.page(runs, Yardstick(name="x", limit=0.8, basis=basis))
            return [row.row.title for row in page.rows]

        assert titles(Basis.OF_RATED) == ["Run 3 at 200 W", "Run 4 at 790 W"]
        assert titles(Basis.OF_RATED_DC) == ["Run 2 at 200 W, DC"]
        assert titles(Basis.FULL_LOAD) == ["Run 4 at 790 W"]

    def test_a_price_is_at_most(self):
        yardstick = Yardstick(name="Price", limit=0.8, basis=Basis.PRICE_PER_WH)
        bought = Receiving(station_id=1, price=700, currency="EUR")
        page = self.page([analysis()], yardstick, receiving=bought)
        assert page.headline == "≤ 0.8 per rated Wh: 1 meets it"
        assert page.rows[0].sentence == "0.70 per rated Wh: 0.1 below 0.8."
        assert self.page([analysis()], yardstick).rows == ()

    def test_nothing_to_judge(self):
        assert self.page([]).headline == "Nothing to hold against ≥ 85 % of rated yet"


class TestClaims:
    def page(self, analyses, claims, receiving=None, seen=()):
        return claims_page(judged_claims(station_runs(analyses), claims, receiving, seen))

    def test_each_word_and_what_is_only_stated(self):
        claims = [
            Claim(kind="usable_wh", value=840, source="label"),
            Claim(kind="usable_wh", value=900, source="box"),
            Claim(kind="usable_wh", value=865, source="app"),
            Claim(kind="rated_wh", value=1000),
            Claim(kind="surge_w", value=1600),
            Claim(kind="pure_sine", value=1),
            Claim(kind="cycle_life", value=3000),
            Claim(kind="cell_v", value=3.2),
        ]
        page = self.page([analysis(hours=4.3)], claims)
        assert page.headline == (
            "1 claim is met, 1 falls short, 1 is too close to call; 2 not tested"
        )
        assert [row.row.word for row in page.rows] == [
            "falls short", "too close to call", "meets", "cannot be judged", "not tested",
            "not tested",
        ]  # fmt: skip
        assert page.below == (
            "Said by the maker, not tested here: Cycle life 3000 cycles; Cell volts 3.2 V."
        )
        short, close, met, energy, surge, sine = page.rows
        assert short.row.subtitle == "≥ 900 Wh · box" and short.row.good == (900, None)
        assert "861 ± 14 Wh delivered at 200 W: 39 Wh below 900 Wh" in short.sentence
        assert close.advice.endswith("assumed: one run): more repeats make it smaller.")
        assert met.run_number == 1 and "Meter gain, common" in [
            line.name for line in met.budget.lines
        ]
        assert "the rated energy is in the cells" in energy.sentence.lower()
        assert surge.plan_method == "overload" and sine.note_claim.kind == "pure_sine"

    def test_a_condition_is_judged_only_by_runs_that_meet_it(self):
        runs = [analysis(hours=4.3), analysis(watts=400, hours=2.0, number=2)]
        at_400 = Claim(kind="usable_wh", value=780, condition="at 400 W")
        at_600 = Claim(kind="usable_wh", value=790, condition="at 600 W")
        cold = Claim(kind="usable_wh", value=790, condition="at 0 °C")
        page = self.page(runs, [at_400])
        assert page.rows[0].run_number == 2 and page.rows[0].row.word == "meets"
        (row,) = self.page(runs, [at_600]).rows
        assert row.row.word == "cannot be judged"
        assert row.sentence == "Run 2 was at 400 W, not at 600 W; Run 1 was at 200 W, not at 600 W."
        assert (row.plan_method, row.plan_w) == ("capacity_ac", 600)
        (row,) = self.page(runs, [cold]).rows
        assert row.row.word == "cannot be judged" and "0 °C" in row.sentence

    def test_power_held_and_a_station_that_gives_up(self):
        claim = Claim(kind="continuous_w", value=800)
        sized = {"conditions": Conditions(size="15min")}
        held = analysis(watts=815, hours=0.25, method="hold", **sized)
        assert self.page([held], [claim]).rows[0].row.word == "meets"
        # Nobody said what ended it: a hand, a trip and an empty battery look alike in a log.
        ended = analysis(watts=805, hours=0.1, method="hold", **sized)
        (row,) = self.page([ended], [claim]).rows
        assert row.row.word == "cannot be judged" and "what ended it is not known" in row.sentence
        for by, word in (("hand", "cannot be judged"), ("battery", "cannot be judged"),
                         ("trip", "falls short")):  # fmt: skip
            told = analysis(watts=805, hours=0.1, method="hold", ended_by=by, **sized)
            (row,) = self.page([told], [claim]).rows
            assert row.row.word == word, by
        assert row.sentence == (
            "The station tripped after 6 min at 805 W, before 15 min were over."
        )
        over = analysis(watts=850, hours=0.1, method="hold", ended_by="trip", **sized)
        (row,) = self.page([over], [claim]).rows
        assert row.row.word == "cannot be judged"
        assert row.sentence == "Run 1 was at 850 W, over the claimed 800 W, and ended early."
        weak = analysis(watts=500, hours=0.25, method="hold", **sized)
        (row,) = self.page([weak], [claim]).rows
        assert row.sentence == "Run 1 was at 500 W, not at 800 W." and row.plan_w == 800

    @pytest.mark.parametrize(("top_w", "seconds", "ended_by", "word", "why"), [
        (1650, 5, "", "meets", "1650 ± 26 W for 5 s"),
        (1500, 5, "trip", "cannot be judged", "went to 1500 W, not to 1600 W"),
        (1650, 10, "", "cannot be judged", "what ended it is not known"),
        (1650, 10, "hand", "cannot be judged", "did not trip: it was not asked for longer"),
        (1650, 10, "trip", "falls short", "1109 ± 18 W for 10 s"),
    ])  # fmt: skip
    def test_surge_watts_and_seconds_are_one_claim(self, top_w, seconds, ended_by, word, why):
        """A base of 300 W, then the surge for six seconds, then nothing."""
        t = np.arange(0, 40, 0.1)
        p = np.select([t < 1, t < 20, t < 26], [0.0, 300.0, float(top_w)], 0.0)
        trace = Trace(name="t", time_s=t, columns={Quantity.POWER: p})
        surge = analysed(run(method="overload", ended_by=ended_by), STATION, trace, METER)
        claims = [Claim(kind="surge_w", value=1600), Claim(kind="surge_s", value=seconds)]
        rows = {row.row.title: row for row in self.page([surge], claims).rows}
        for row in (rows["Surge power"], rows["Surge duration"]):
            assert row.row.word == word and why in row.sentence
            assert row.row.figure.endswith(" W")  # seconds are judged by the watts held so long
        assert rows["Surge duration"].sentence.startswith("With 1600 W: ")

    def test_repeats_at_one_load_are_averaged_with_their_scatter(self):
        runs = [analysis(hours=h, number=n) for n, h in enumerate((4.30, 4.34, 4.26), start=1)]
        (row,) = self.page(runs, [Claim(kind="usable_wh", value=800)]).rows
        assert "mean of 3 runs" in row.sentence and row.run_number == 3
        (line,) = [line for line in row.budget.lines if line.name == "Run to run"]
        # The scatter (0.93 %, 2 degrees) and the named prior (0.5 %, 6 degrees), pooled.
        pooled = np.sqrt((2 * 0.0093**2 + 6 * 0.005**2) / 8)
        assert line.u / 860.6 == pytest.approx(pooled / np.sqrt(3), rel=0.02)
        assert line.degrees_of_freedom == 8 and row.budget.coverage_factor > 2

    def test_void_runs_and_missing_meters_say_why(self):
        claim = Claim(kind="usable_wh", value=800)
        void = analysis(state="void", void_reason="door open", method="capacity_ac")
        assert self.page([void], [claim]).rows[0].sentence == "Run 1 is void: door open."
        (row,) = self.page([analysis(meter=None)], [claim]).rows
        assert row.row.word == "cannot be judged" and row.sentence.startswith("No meter")

    def test_what_was_seen_and_weighed(self):
        claims = [Claim(kind="pure_sine", value=1), Claim(kind="ups", value=1)]
        claims.append(Claim(kind="weight_kg", value=10))
        seen = [
            Observation(station_id=1, subject="pure_sine", agrees=True, words="on a scope",
                        observed_on="2026-05-14"),
            Observation(station_id=1, subject="ups", agrees=False, observed_on="2026-05-14"),
            Observation(station_id=1, subject="informative_display", agrees=True),
        ]  # fmt: skip
        page = self.page([], claims, Receiving(station_id=1, weight_kg=10.2), seen)
        by_title = {row.row.title: row for row in page.rows}
        assert by_title["Pure sine"].row.word == "meets"
        assert by_title["Pure sine"].sentence == (
            "Seen to be so on 2026-05-14: on a scope; claimed: yes."
        )
        assert by_title["UPS function"].row.word == "falls short"
        weight = by_title["Weight"]
        assert weight.row.figure == "10.200 ± 0.058 kg" and weight.row.good == (None, 10.5)

    def test_no_claims(self):
        assert self.page([], []).headline == "No claims yet"


class TestLedgerPage:
    def test_figures_with_their_uncertainty(self):
        page = run_page(analysis(hours=4.3))
        assert page.headline == "Of every 100 rated Wh, 86 reach the load"
        figures = shown_of(page)
        assert figures["Delivered"] == "861 ± 10 Wh"
        assert figures["Of rated"] == "86.1 ± 1.0 %"
        assert figures["Mean power"] == "200.0 ± 2.4 W · 0.20 C"
        assert [name.split(",")[0] for name, _ in page.budget] == [
            "Meter gain", "Meter gain", "Meter floor", "Load-on timing", "Cut-off timing",
        ]  # fmt: skip

    def test_the_budget_on_screen_adds_up_to_the_u_on_screen(self):
        found = analysis()
        shown = [float(value.split()[0]) for _, value in run_page(found).budget]
        assert np.hypot.reduce(shown) == pytest.approx(found.main_figure.expanded, abs=0.2)

    def test_without_a_meter_the_uncertainty_is_unknown_not_zero(self):
        page = run_page(analysis(meter=None))
        assert not any(page.places) and page.budget[0][0] == "Unknown"

    def test_a_run_that_tells_nothing_says_why(self):
        empty = analysed(run(), STATION)
        page = run_page(empty)
        assert page.ledger is None and page.notices == ("no samples were recorded",)
        assert run_caption(empty) == "Run 1 · no result"

    def test_what_was_overridden_stands_in_the_subtitle(self):
        override = Override(reason="only a trial", checks=("Cautions read?",))
        page = run_page(analysis(conditions=Conditions(override=override)))
        assert page.subtitle.endswith("started anyway: only a trial")

    def test_captions(self):
        assert run_caption(analysis(hours=4)) == "Run 1 · 800.6 ± 9.5 Wh at 200 W"
        assert run_caption(analysis(hours=4, state="void")).endswith("(void)")


class TestYardPage:
    def test_lanes_and_headline(self):
        now = START + timedelta(days=1)
        found = analysis(hours=4)
        page = yard_page([STATION], [found.run], [found], (), now)
        assert page.headline == "1 run of 1 station; nothing is running"
        (lane,) = page.lanes
        assert lane.subtitle == "1000 Wh · 1 run"
        # Half an interval at either end: the load came on, and went off, between two samples.
        assert lane.runs[0].end - lane.runs[0].start == timedelta(hours=4, seconds=10)
        assert lane.runs[0].caption == "800.6 ± 9.5 Wh"

    def test_empty_yards(self):
        assert yard_page([], [], [], (), START).headline.startswith("The yard is empty")
        assert yard_page([STATION], [], [], (), START).headline == "Ready for the first run"


class TestTypedReadings:
    @pytest.mark.parametrize(
        ("text", "seconds"),
        [
            ("1:20", 4800),
            ("0.9 h", 3240),
            ("0,9", 3240),
            ("45 min", 2700),
            ("45m", 2700),
            ("12", 43_200),
            ("soon", None),
            ("1:2:3", None),
            ("", None),
        ],
    )
    def test_time_left(self, text, seconds):
        assert parse_time_left(text) == (None if seconds is None else pytest.approx(seconds))

    @pytest.mark.parametrize(
        ("text", "value"), [("71", 71), ("71 %", 71), ("7,5", 7.5), ("140", None), ("x", None)]
    )
    def test_numbers_within_bounds(self, text, value):
        assert parse_number(text, 0, 100) == value

    def test_as_shown(self):
        texts = [
            reading_text(Reading(run_id=1, time_s=0, kind=kind, value=value))
            for kind, value in (("soc", 71), ("display_w", 410), ("time_left_s", 5400))
        ]
        assert texts == ["71 % shown", "410 W shown", "1 h 30 min left shown"]

    def test_each_mark_has_a_key_of_its_own(self):
        keys = [key for key, _ in MARK_KEYS]
        assert len(set(keys)) == len(keys) and all(len(key) == 1 for key in keys)


def test_means_between_readings_are_drawn_as_steps():
    t, p = in_steps(np.array([0.0, 100.0, 300.0]), np.array([0.0, 40.0, 60.0]))
    assert p.tolist() == [40, 40, 60, 60] and np.all(np.diff(t) > 0)
    assert t == pytest.approx([0, 100, 100, 300], abs=0.01)
    assert in_steps(np.array([5.0]), np.array([1.0]))[0].tolist() == [5.0]


def test_a_range_of_clock_times():
    assert clock_range(START, START + timedelta(minutes=15)) == "10:00–10:15"
    assert clock_range(START, START + timedelta(seconds=20)) == "10:00"


class TestSampleBuffer:
    def block(self, start, stop, watts=360.0, **columns):
        t = np.arange(float(start), float(stop))
        return SampleBlock(
            time_s=t,
            columns={Quantity.POWER: np.full(t.size, watts)}
            | {Quantity(k): np.asarray(v, float) for k, v in columns.items()},
        )

    def test_energy_is_carried_on_over_blocks_whatever_their_size(self):
        for cuts in ([0, 5000], [0, 1, 2, 700, 4097, 5000]):
            buffer = LiveSamples()
            for start, stop in pairwise(cuts):
                buffer.add(self.block(start + 50, stop + 50))
            assert len(buffer) == 5000
            assert buffer.time_s[0] == 0 and buffer.time_s[-1] == 4999
            assert buffer.energy_wh[-1] == pytest.approx(360 * 4999 / 3600)

    def test_a_counter_goes_before_the_power(self):
        buffer = LiveSamples()
        buffer.add(self.block(0, 3, energy=[100, 101, 102]))
        buffer.add(self.block(3, 5, energy=[103, 104]))
        assert buffer.energy_wh.tolist() == [0, 1, 2, 3, 4]

    def test_a_missing_sample_is_no_energy(self):
        buffer = LiveSamples()
        block = self.block(0, 4)
        block.columns[Quantity.POWER][2] = np.nan
        buffer.add(block)
        assert np.isfinite(buffer.energy_wh).all()

    def test_the_recent_mean_is_of_two_minutes(self):
        buffer = LiveSamples()
        assert buffer.recent_mean_w() == 0 and buffer.latest(Quantity.POWER) is None
        buffer.add(self.block(0, 1000, watts=100))
        buffer.add(self.block(1000, 1130, watts=300))
        assert buffer.recent_mean_w() == pytest.approx(300)
        assert buffer.latest(Quantity.VOLTS) is None
