"""Energy and end of noted runs against evenings whose truth is known, and what cannot be right."""

import pytest
from tests.core.notes.stations import evening

from yardtoll.core.charge.analysis import ChargeWindow
from yardtoll.core.charge.noted import recharge_of_notes
from yardtoll.core.discharge.analysis import Rating, analyse_discharge, discharge_from_energies
from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.read import read_notes
from yardtoll.core.uncertainty.accuracy import parse_accuracy
from yardtoll.core.uncertainty.energy_budget import discharge_budget, duration_budget

RATED = Rating(rated_wh=2048)


def discharged(text, rating=RATED, **options):
    return analyse_discharge([read_notes(text)], rating, **options)


class TestTruth:
    def test_read_by_eye_the_truth_is_within(self):
        """300 stations: energy inside U in 93 to 99 %, the end inside what the lines allow."""
        energy = end = 0
        for seed in range(300):
            truth = evening(seed)
            found = discharged(truth.notes, Rating(rated_wh=truth.rated_wh))
            budget = discharge_budget(found, [parse_accuracy(truth.meter)])
            energy += abs(found.delivered_wh - truth.delivered_wh) <= budget.expanded
            within_s = duration_budget(found.edges_s).expanded
            end += abs(found.duration_s - truth.duration_s) <= within_s
            assert found.end_seen == truth.end_seen
        assert 0.93 * 300 <= energy <= 0.99 * 300
        assert end >= 0.95 * 300

    def test_an_end_found_hours_later_is_placed_by_the_energy(self):
        found = discharged(
            "22:00 on 0 Wh\n22:30 410 W\n23:00 410 Wh 410 W\n07:00 found off 1845 Wh"
        )
        assert found.delivered_wh == 1845 and not found.end_seen
        assert found.duration_s == pytest.approx(4.5 * 3600, abs=60)
        assert duration_budget(found.edges_s).expanded < 900
        assert found.has(Code.END_NOT_SEEN)

    def test_a_meter_fed_by_the_station_draws_to_that_end_only(self):
        found = discharged("22:00 on 0 Wh 410 W\n23:00 410 Wh\n07:00 found off 1845 Wh",
                           own_draw_w=[2.0])  # fmt: skip
        assert found.own_draw_wh == pytest.approx(9.0, abs=0.1)

    def test_without_a_last_value_it_is_the_least(self):
        found = discharged("22:00 on 0 Wh 410 W\n23:00 410 Wh 410 W\n07:00 found off")
        assert found.delivered_wh == 410 and found.duration_s == pytest.approx(3600)
        assert duration_budget(found.edges_s).expanded > 8 * 3600
        assert found.limits[0].unread_wh > 3000

    def test_watts_and_a_clock_alone(self):
        found = discharged("ran 30 min 26 s at 500 W")
        assert found.delivered_wh == pytest.approx(500 * 1826 / 3600)
        assert found.duration_s == 1826 and found.end_seen

    def test_a_counter_read_once_more_after_the_end(self):
        found = discharged("10:00 on 0 Wh\n11:00 400 Wh\n14:27 off\n14:30 1800 Wh", own_draw_w=[2])
        assert found.duration_s == 16_020 and found.end_seen
        assert found.delivered_wh == pytest.approx(1800 + 2 * 16_020 / 3600)

    def test_a_compressor_that_rests_is_no_end(self):
        found = discharged("10:00 on 0 Wh 120 W\n12:00 150 Wh 0 W\n14:00 off 455 Wh")
        assert found.duration_s == 14_400 and found.end_seen
        dark = discharged("10:00 on 0 Wh 120 W\n12:00 240 Wh 120 W\n14:00 0 W 455 Wh")
        assert not dark.end_seen and dark.duration_s == pytest.approx(13_650, abs=60)

    def test_where_no_line_tells_of_an_end_the_last_stretch_is_the_doubt(self):
        found = discharged("10:00 0 Wh\n11:00 400 Wh\n14:30 1800 Wh")
        assert found.duration_s == 16_200 and found.has(Code.NO_CUTOFF)
        assert duration_budget(found.edges_s).expanded > 12_600

    def test_a_counter_that_falls_is_counted_on_and_told(self):
        found = discharged("10:00 on 0 Wh 400 W\n11:00 400 Wh\n12:00 90 Wh\n13:00 490 Wh off")
        assert found.delivered_wh == 890 and found.has(Code.COUNTER_RESET)
        assert found.limits[0].lost_wh > 280
        with pytest.raises(UnusableDataError, match="fall from 900 to 800: one of them is wrong"):
            discharged("10:00 on 0 Wh 400 W\n12:00 900 Wh\n12:30 800 Wh off")

    def test_nothing_to_work_with(self):
        with pytest.raises(UnusableDataError, match="no line has Wh of the meter or W"):
            discharged("10:00 on\n12:00 off")


class TestBareResults:
    @pytest.mark.parametrize(
        ("text", "delivered_wh", "hours"),
        [
            ("1830 of 2048 Wh at 410 W, 2024", 1830, 1830 / 410),
            ("1.83 kWh", 1830, None),
            ("1669 Wh at 8 A on 13.5 V", 1669, None),
            ("3.74 of 4.5 kWh", 3740, None),
        ],
    )
    def test_a_result_without_times(self, text, delivered_wh, hours):
        found = discharged(text, Rating(rated_wh=4500))
        assert found.delivered_wh == delivered_wh
        assert found.duration_s == (None if hours is None else pytest.approx(hours * 3600))
        assert not found.notices
        assert found.limits[0].resolution_wh > 0


class TestSuspicion:
    @pytest.mark.parametrize(
        ("text", "meant"),
        [
            ("10:00 on 0 Wh 410 W\n12:00 0.82 Wh\n14:30 off 1.845 Wh", "1845 Wh"),
            ("10:00 0 Wh 410 W\n11:00 410 Wh 0.411 W\n14:30 off 1845 Wh", "411 W"),
            ("10:00 0 Wh 410 W\n11:00 410 Wh\n12:00 0.82 Wh\n14:30 off 1845 Wh", "820 Wh"),
            ("23:00 on 0 Wh 410 W\n00:30 615 W\n01:30 1025 Wh 411 W\n03:00 off 1640 Wh", "615 Wh"),
            ("10:00 410 Wh 410 W\n12:00 412 Wh 412 W\n14:30 411 Wh off", "are they W"),
        ],
    )
    def test_units_mixed_up(self, text, meant):
        said = [n.message for n in discharged(text).notices if n.code is Code.UNITS_SUSPECT]
        assert said and meant in said[0]

    @pytest.mark.parametrize(
        "text",
        [
            "10:00 on 0 Wh 410 W\n12:00 820 Wh 405 W\n14:30 off 1835 Wh",
            # A fridge that is off most of the time.
            "10:00 on 0 Wh 120 W\n16:00 230 Wh 118 W\n22:00 off 455 Wh",
            "10:00 on 0.00 kWh 1 W\n10:01 1500 W\n11:00 1.48 kWh off",
        ],
    )
    def test_what_is_sound_is_left_alone(self, text):
        assert not discharged(text).has(Code.UNITS_SUSPECT)

    def test_a_bare_figure_in_the_wrong_unit(self):
        assert discharge_from_energies([1.83], RATED).has(Code.UNITS_SUSPECT)
        assert not discharge_from_energies([1830], RATED).has(Code.UNITS_SUSPECT)

    def test_what_is_not_understood_is_told(self):
        said = [n.message for n in discharged("10:00 0 Wh\n10:30 83 Ah\n14:00 off 1600 Wh").notices]
        assert any("line 2" in message and "83 Ah" in message for message in said)


class TestDisplay:
    def test_every_reading_beside_the_truth(self):
        found = discharged(
            "10:00 on 0 Wh 100 %\n12:00 820 Wh 410 W shows 398 W 70 % 3.0 h left\n"
            "14:00 1640 Wh 0 %\n14:30 off 1845 Wh"
        )
        middle = found.display[1]
        assert (middle.shown_soc, middle.shown_w, middle.meter_w) == (70, 398, 410)
        assert middle.energy_left_wh == pytest.approx(1025)
        assert (middle.shown_left_s, middle.true_left_s) == (10_800, 9000)
        assert found.reserve_wh == pytest.approx(205) and found.reserve_s == 1800


class TestRecharge:
    def test_clock_and_percent_are_enough(self):
        found = recharge_of_notes(
            read_notes("13:00 on 0 %\n13:20 22 %\n14:00 78 %\n14:10 84 %\n15:05 100 % full"),
            ChargeWindow(rated_wh=2048),
        )
        assert found.drawn_wh is None and found.mean_w is None and found.round_trip is None
        assert found.duration_s == 7500
        eighty = next(at for at in found.to_soc if at.soc == 80)
        assert 3600 < eighty.s < 4200 and eighty.plus_minus_s <= 400

    def test_with_a_meter_in_the_wall(self):
        found = recharge_of_notes(
            read_notes("13:00 on 0 Wh 0 %\n13:30 600 W in\n14:30 full 2300 Wh 100 %"),
            ChargeWindow(rated_wh=2048, delivered_wh=1830),
        )
        assert found.drawn_wh == 2300 and found.round_trip == pytest.approx(1830 / 2300)
        assert found.peak_w == 600 and found.full_power_w is None

    def test_one_look_at_the_watts_does_not_make_an_energy_sure(self):
        found = recharge_of_notes(
            read_notes("13:00 on 600 W\n15:00 full"), ChargeWindow(rated_wh=2048)
        )
        assert found.limits.sampling_u_wh > 0.25 * found.drawn_wh
