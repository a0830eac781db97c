"""Lines of tests at the outlets: what they come to, and what they leave open."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.methods import TABLES
from yardtoll.core.output.appliances import Started, analyse_tries
from yardtoll.core.output.entries import EntryField, entry_is_wrong, number_in, word_in
from yardtoll.core.output.heat import analyse_heat
from yardtoll.core.output.pass_through import Carried, analyse_pass_through
from yardtoll.core.output.port_lines import analyse_port_lines
from yardtoll.core.output.resets import reset_words
from yardtoll.core.output.switch_lines import By, all_switches, switch_of
from yardtoll.core.output.wave_lines import against_load, wave_point
from yardtoll.core.sound.lines import all_levels, level_line
from yardtoll.core.waveform.shape import Shape


class TestEntries:
    TABLE = (
        EntryField(key="load_w", title="Load", unit="W", needed=True),
        EntryField(key="mode", title="Mode", choices=(("eco", "eco mode"),)),
        EntryField(key="name", title="Name"),
    )

    @pytest.mark.parametrize(
        ("line", "said"),
        [
            ({}, "Load is missing."),
            ({"load_w": "x"}, "Load must be a number."),
            ({"load_w": math.inf}, "Load must be a number."),
            ({"load_w": -1.0}, "Load must be from 0 to 100000 W."),
            ({"load_w": 1.0, "mode": "sport"}, "not one of its choices"),
            ({"load_w": 1.0, "name": 3.0}, "Name must be words."),
            ({"load_w": 1.0, "name": "x" * 300}, "longer than 200"),
            ({"load_w": 0.0, "mode": "eco", "name": "kettle", "beside": 1.0}, ""),
        ],
    )
    def test_a_line_is_refused_in_a_sentence(self, line, said):
        wrong = entry_is_wrong(self.TABLE, line)
        assert said in wrong if said else wrong == ""

    def test_values_of_the_wrong_sort_are_none(self):
        assert number_in({"a": "1"}, "a") is None and number_in({"a": True}, "a") is None
        assert word_in({"a": 1.0}, "a") == "" and number_in({"a": 2}, "a") == 2.0

    def test_words_and_units_are_shown(self):
        load, mode, _ = self.TABLE
        assert (load.shown(410.0), mode.shown("eco")) == ("410 W", "eco mode")

    @given(st.dictionaries(
        st.sampled_from(sorted({f.key for m in TABLES.values() for f in m.entry_fields})),
        st.one_of(st.floats(), st.text(max_size=8), st.sampled_from(
            ["scope", "frames", "to_wall", "on", "off", "tripped", "sine", "fan_on", "refused"]
        )),
    ))  # fmt: skip
    def test_no_line_of_any_kind_breaks_the_arithmetic(self, line):
        """A package from elsewhere may hold anything in a line."""
        lines = [line, line]
        analyse_tries(lines, 100.0)
        analyse_pass_through(lines)
        analyse_heat(lines)
        against_load([p for x in lines if (p := wave_point(x))])
        all_switches([s for x in lines if (s := switch_of(x))])
        try:
            all_levels([found for x in lines if (found := level_line(x))])
            analyse_port_lines(lines, [Claim(kind="usb_c_w", value=100)])
        except ValueError as error:
            assert str(error)


class TestAppliances:
    def tried(self, started, **known):
        return {"appliance": "Saw", "started": started, "mode": "normal", **known}

    def test_tries_of_one_thing_are_counted_together(self):
        first, second = analyse_tries(
            [
                self.tried("turned"), self.tried("started", appliance="saw "),
                self.tried("turned", mode="lowering"), {"appliance": "", "started": "started"},
                {"appliance": "Drill", "started": "flew"},
            ]
        )  # fmt: skip
        assert (first.starts, len(first.tries), first.ran) == (1, 2, True)
        # Another mode is another test.
        assert (second.mode, second.ran, second.ran_elsewhere) == ("lowering", False, True)

    def test_what_was_missing_is_known_only_where_both_are(self):
        (one,) = analyse_tries([self.tried("tripped", inrush_w=5000, peak_w=3200)])
        assert one.missing_w == 1800 and one.missing_at_most
        (fast,) = analyse_tries(
            [self.tried("tripped", inrush_w=5000, peak_w=3200, reading_every_s=0.01)]
        )
        assert fast.missing_w == 1800 and not fast.missing_at_most
        # What anything else was started with, the station can give.
        (other,) = analyse_tries([self.tried("tripped", inrush_w=5000, peak_w=3200)], 4000.0)
        assert other.missing_w == 1000
        for known in ({"inrush_w": 5000}, {"peak_w": 3200}, {"inrush_w": 3000, "peak_w": 3200}):
            assert analyse_tries([self.tried("tripped", **known)])[0].missing_w is None

    def test_one_that_ran_on_another_outlet_missed_no_surge(self):
        cord, short = analyse_tries(
            [
                self.tried("turned", outlet="15 m cord", inrush_w=5000, peak_w=2900),
                self.tried("started", outlet="AC 1", inrush_w=5000, peak_w=3300),
            ]
        )
        assert cord.missing_w is None and cord.ran_elsewhere and short.ran
        assert cord.name == "Saw on 15 m cord"
        assert Started("no_start").words == "did not start"


class TestPassThrough:
    def test_the_battery_gives_what_the_wall_does_not(self):
        found = analyse_pass_through(
            [
                {"output_w": 1800, "input_w": 1440, "charging_w": -360},
                {"output_w": 400, "input_w": 900, "charging_w": 470},
                {"output_w": 900, "input_w": 5},
                {"output_w": 300},
            ]
        )
        assert [s.carried for s in found.steps] == [Carried.WALL, Carried.BATTERY, Carried.BOTH]
        assert (found.carried_w, found.gave_way_w) == (400, 900)
        low, _, high = found.steps
        assert (low.open_w, low.closes, low.battery_w) == (30, True, 0)
        assert (high.battery_w, high.open_w) == (360, 0) and high.battery_share == 0.2
        assert found.worst_open_w == 30

    def test_a_balance_that_does_not_close_is_told(self):
        (step,) = analyse_pass_through([{"output_w": 400, "input_w": 900, "charging_w": 100}]).steps
        assert step.open_w == 400 and step.closes is False
        (step,) = analyse_pass_through([{"output_w": 400, "input_w": 900, "charging_w": 700}]).steps
        assert step.closes is False

    def test_without_a_load_nothing_is_known(self):
        found = analyse_pass_through([{"output_w": 0, "input_w": 900}])
        assert not found.was_loaded and not found.passes_through

    def test_what_was_seen_goes_before_the_watts(self):
        (step,) = analyse_pass_through(
            [{"output_w": 400, "input_w": 400, "carried": "off", "priority": "sun"}]
        ).steps
        assert step.carried is Carried.OFF and step.priority == "sun"


class TestHeat:
    LINES = (
        {"minute_min": 0, "temperature_c": 22, "where": "exhaust"},
        {"minute_min": 12, "seen": "fan_on", "load_w": 800},
        {"minute_min": 11, "temperature_c": 39, "where": "exhaust"},
        {"minute_min": 40, "temperature_c": 51, "where": "Exhaust", "load_w": 800},
        {"minute_min": 41, "temperature_c": 48, "where": "case"},
        {"minute_min": 60, "seen": "fan_off"},
        {"minute_min": 61, "seen": "refused"},
        {"minute_min": 95, "seen": "charged_again"},
        {"seen": "fan_on"},
    )

    def test_the_highest_its_rise_and_the_rest(self):
        found = analyse_heat(self.LINES)
        assert found.highest.temperature_c == 51 and found.rise_k == 29
        assert found.fans == ((12, 60, 800, 39),)
        assert (found.refused, found.rested_min, found.refused_at_c) == (True, 34, None)

    def test_another_place_is_no_beginning(self):
        found = analyse_heat(
            [
                {"minute_min": 0, "temperature_c": 22, "where": "case"},
                {"minute_min": 9, "temperature_c": 50, "where": "plug"},
            ]
        )
        assert found.rise_k is None
        with_air = analyse_heat([{"minute_min": 9, "temperature_c": 50, "ambient_c": 20}])
        assert with_air.rise_k == 30

    def test_fans_that_are_not_seen_to_stop_have_no_end(self):
        found = analyse_heat([{"minute_min": 3, "seen": "fan_on", "temperature_c": 40}])
        assert found.fans == ((3, None, None, 40),)


class TestPorts:
    CLAIMS = (
        Claim(kind="usb_c_w", value=100, condition="1 port"),
        Claim(kind="usb_c_w", value=30, condition="2 ports"),
        Claim(kind="usb_shared_w", value=120),
    )

    def line(self, port, watts, together=0, sink=200.0):
        return {"port": port, "watts_w": watts, "together": together, "sink_w": sink}

    def test_a_small_port_is_not_met_by_a_large_one(self):
        found = analyse_port_lines(
            [self.line("USB-C 100 W", 99), self.line("USB-C 30 W 1", 27)], self.CLAIMS
        )
        by_claim = {f.claimed_w: f.measured_w for f in found.findings}
        assert by_claim == {100: 99, 30: 27}
        # Without its rating in its name nobody knows which port it is.
        assert analyse_port_lines([self.line("USB-C 1", 99)], self.CLAIMS).findings == ()

    def test_a_tablet_was_the_limit_and_not_the_port(self):
        only = [Claim(kind="usb_c_w", value=100)]
        (found,) = analyse_port_lines([self.line("usb c1", 15, sink=15)], only).findings
        assert found.sink_was_limit
        (unknown,) = analyse_port_lines([self.line("USB-C", 15, sink=None)], only).findings
        assert unknown.sink_was_limit
        (strong,) = analyse_port_lines([self.line("USB-C", 60)], only).findings
        assert not strong.sink_was_limit
        (enough,) = analyse_port_lines([self.line("USB-C", 100, sink=15)], only).findings
        assert not enough.sink_was_limit

    def test_the_common_limit_needs_loads_that_ask_for_it(self):
        shared = [Claim(kind="usb_shared_w", value=120)]
        alone = [self.line("USB-C", 100, sink=100), self.line("USB-A", 18, sink=18)]
        together = [self.line("USB-C", 92, 1, 100), self.line("USB-A", 18, 1, 18)]
        (found,) = analyse_port_lines(alone + together, shared).findings
        assert found.measured_w == 110 and not found.sink_was_limit
        weak = [self.line("USB-C", 60, 1, 60), self.line("USB-A", 18, 1, 18)]
        (found,) = analyse_port_lines(weak, shared).findings
        assert found.sink_was_limit
        assert analyse_port_lines(alone, shared).findings == ()

    def test_the_hottest_plug_and_the_lowest_volts(self):
        found = analyse_port_lines(
            [
                {"port": "12 V", "watts_w": 100, "volts_v": 13.1, "plug_c": 48},
                {"port": "12 V", "watts_w": 110, "volts_v": 12.4, "plug_c": 61, "together": 1},
            ]
        )
        assert found.hottest_plug == ("12 V", 61) and found.volts == {"12 V": 12.4}


class TestSwitches:
    def test_three_kinds_of_evidence_are_never_mixed(self):
        tries = [
            switch_of({"way": "to_battery", "by": "frames", "frames_dark": 3, "fps": 240}),
            switch_of({"way": "to_battery", "by": "stayed_on", "device": "PC", "stayed": "on"}),
            switch_of({"way": "to_wall", "by": "scope", "gap_ms": 4, "within_ms": 0.5}),
            switch_of({"way": "to_wall", "by": "scope", "gap_ms": 6}),
        ]
        found = all_switches(tries)
        assert found.worst is tries[3] and found.spread_ms == 2 and found.both_ways
        assert found.stayed_on == (tries[1],) and tries[1].high_ms is None
        frames = tries[0]
        assert (round(frames.low_ms, 2), round(frames.high_ms, 2)) == (8.33, 16.67)
        assert frames.inside_itic and frames.by is By.FRAMES

    def test_what_may_be_either_is_neither(self):
        near = switch_of({"way": "to_wall", "by": "scope", "gap_ms": 20, "within_ms": 1})
        assert near.inside_itic is None
        assert switch_of({"way": "to_wall", "by": "scope", "gap_ms": 25}).inside_itic is False

    @pytest.mark.parametrize(
        "line",
        [
            {}, {"by": "guess"}, {"by": "scope"}, {"by": "frames", "frames_dark": 3},
            {"by": "frames", "frames_dark": -1, "fps": 240}, {"by": "stayed_on", "device": "PC"},
        ],
    )  # fmt: skip
    def test_a_line_that_says_nothing_is_left_out(self, line):
        assert switch_of(line) is None


class TestWaves:
    def test_sag_regulation_and_shape(self):
        points = [
            wave_point({"load_w": 1800, "volts_v": 113, "thd_percent": 3.1, "shape": "sine"}),
            wave_point({"load_w": 0, "volts_v": 120, "hertz_hz": 60.02, "shape": "sine"}),
            wave_point({"volts_v": 1.0}),
        ]
        found = against_load([p for p in points if p])
        assert found.sag == pytest.approx(7 / 120) and found.sag_at_w == 1800
        assert (found.volts_range, found.hertz_range) == ((113, 120), (60.02, 60.02))
        assert found.is_sine and found.worst_thd.load_w == 1800

    @pytest.mark.parametrize(
        ("line", "is_sine"),
        [
            ({"load_w": 1, "shape": "modified_sine"}, False),
            ({"load_w": 1, "thd_percent": 6, "shape": "sine"}, False),
            ({"load_w": 1, "shape": "flattened_sine"}, False),
            ({"load_w": 1, "volts_v": 120}, None),
        ],
    )
    def test_only_a_sine_at_every_load_is_one(self, line, is_sine):
        assert against_load([wave_point(line)]).is_sine is is_sine
        assert wave_point(line).shape in (None, *Shape)


class TestLevels:
    def test_at_one_metre_without_background(self):
        # 20·log10(2) = 6.02 dB from half a metre to one; 50 dB over 40 dB of background is 49.54.
        line = level_line({"level_db": 50, "background_db": 40, "distance_m": 0.5})
        assert line.at_1m_db == pytest.approx(50 - 0.458 - 6.021, abs=0.01)
        assert not line.at_most and not line.no_background

    def test_too_close_to_the_background_is_a_bound(self):
        line = level_line({"level_db": 41, "background_db": 40, "distance_m": 1})
        assert line.at_most and line.at_1m_db == 38
        # What is left of 41 over 40 dB is 34.1 dB: under the bound.
        assert line.at_1m_db > 10 * math.log10(10**4.1 - 10**4.0)
        assert level_line({"level_db": 41}).no_background


def test_how_it_came_back_is_a_sentence_a_trip():
    (said,) = reset_words(
        [{"step_w": 2400, "error_code": "E7", "reset": "cooled", "after_min": 12,
          "temperature_c": 61}, {"step_w": 1.0}]
    )  # fmt: skip
    assert said == (
        "At 2400 W it showed E7, came back after cooling after 12 min, the station was at 61 °C."
    )
