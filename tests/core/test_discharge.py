"""Delivered energy, load-on and cut-off, counters, volts and ratios of a discharge."""

import math

import numpy as np
import pytest

from yardtoll.core.discharge.analysis import Rating, analyse_discharge, discharge_from_energies
from yardtoll.core.discharge.meter_log import analyse_log
from yardtoll.core.electrical.quantities import Quantity as Q
from yardtoll.core.electrical.trace import ClockBasis, Code, Trace
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError


def make(time_s, name="a.csv", clock_s=None, **columns) -> Trace:
    return Trace(
        name=name,
        time_s=np.asarray(time_s, dtype=float),
        columns={Q(k): np.asarray(v, dtype=float) for k, v in columns.items()},
        clock_s=clock_s,
        clock_basis=None if clock_s is None else ClockBasis.UTC,
    )


def block(load_w=400.0, on_s=60.0, off_s=3660.0, end_s=4000.0, step_s=10.0):
    """A load first seen at ``on_s`` and last seen at ``off_s``: on for an interval longer."""
    t = np.arange(0.0, end_s + step_s / 2, step_s)
    return t, np.where((t >= on_s) & (t <= off_s), load_w, 0.0)


RATED = Rating(rated_wh=2048)


class TestEnergyAgainstKnownFunctions:
    """Integrals worked out by hand."""

    def test_constant_power_is_power_times_time(self):
        t, p = block()
        result = analyse_discharge([make(t, power=p)], RATED)
        # Half an interval of 10 s outside the first and last sample: 3610 s.
        assert result.delivered_wh == pytest.approx(400.0 * 3610 / 3600, rel=1e-12)
        assert (result.start_s, result.cutoff_s, result.duration_s) == (55, 3665, 3610)
        assert result.edges_s == (5, 5)
        assert result.mean_w == pytest.approx(400.0) and result.max_w >= result.mean_w
        assert result.c_rate == pytest.approx(400 / 2048)

    def test_a_ramp_is_exact_by_trapezoid(self):
        t = np.linspace(0, 7200, 73)
        result = analyse_discharge([make(t, power=100 + t / 72)], RATED)
        assert result.delivered_wh == pytest.approx(2 * 150, rel=1e-12)  # mean of 100 and 200 W

    def test_half_a_sine_converges(self):
        t = np.linspace(0, 3600, 3601)
        p = 500 * np.sin(math.pi * t / 3600)
        result = analyse_discharge([make(t, power=p)], RATED)
        # ∫ sin over half a period is 2/π; the part under the load limit is below 0.2 %.
        assert result.delivered_wh == pytest.approx(500 * 2 / math.pi, rel=2e-3)

    def test_uneven_sampling_changes_nothing(self):
        rng = np.random.default_rng(5)
        t = np.unique(np.concatenate([[0, 3600], rng.uniform(0, 3600, 700)]))
        result = analyse_discharge([make(t, power=np.full(t.size, 250.0))], RATED)
        assert result.delivered_wh == pytest.approx(250.0, rel=1e-12)


class TestCutoff:
    """Load-on is the first, cut-off the last sample above max(2 W, 5 % of the median)."""

    def test_a_thermostats_pauses_do_not_end_the_run(self):
        t = np.arange(0, 7201.0, 10)
        p = np.where((t // 600) % 2 == 0, 900.0, 0.0)
        p[t > 6500] = 0
        result = analyse_discharge([make(t, power=p)], RATED)
        assert result.cutoff_s == 6505 and not result.has(Code.RESTARTED)
        assert result.delivered_wh == pytest.approx(900 * np.trapezoid(p / 900, t) / 3600, rel=1e-2)

    def test_a_dip_of_seconds_does_not_end_the_run(self):
        t, p = block()
        p[100:102] = 0
        assert analyse_discharge([make(t, power=p)], RATED).cutoff_s == 3665

    def test_standby_after_the_end_is_not_counted(self):
        t, p = block(load_w=400)
        p[t > 3660] = 1.9
        p[t < 60] = 15.0  # under 5 % of 400 W
        result = analyse_discharge([make(t, power=p)], RATED)
        assert (result.start_s, result.cutoff_s) == (55, 3665)

    def test_a_log_that_never_ends_says_so(self):
        t, p = block(off_s=1e9)
        assert analyse_discharge([make(t, power=p)], RATED).has(Code.NO_CUTOFF)

    def test_a_log_that_starts_under_load_says_so(self):
        t, p = block(on_s=0)
        result = analyse_discharge([make(t, power=p)], RATED)
        assert result.has(Code.STARTS_LOADED) and not result.has(Code.NO_CUTOFF)

    def test_a_meter_turned_round_is_named(self):
        t, p = block()
        with pytest.raises(UnusableDataError, match="is the meter turned round"):
            analyse_discharge([make(t, power=-p)], RATED)

    def test_no_load_at_all_is_refused_in_one_sentence(self):
        with pytest.raises(UnusableDataError, match=r"^a\.csv: the power never rises above 2 W"):
            analyse_discharge([make([0, 1, 2], power=[0, 1, 2])], RATED)


class TestCounter:
    """An energy counter gives the energy unless it is too coarse."""

    def counted(self, step_wh=0.01, start_wh=0.0, scale=1.0):
        t, p = block()
        energy = scale * np.concatenate([[0], np.cumsum((p[1:] + p[:-1]) / 2 * 10 / 3600)])
        return t, p, start_wh + np.floor(energy / step_wh + 1e-9) * step_wh

    def test_counter_alone(self):
        t, _, e = self.counted()
        result = analyse_discharge([make(t, energy=e)], RATED)
        assert result.delivered_wh == pytest.approx(e[-1], abs=0.02)
        assert result.duration_s == pytest.approx(3600, abs=20)
        assert result.max_w is None and not result.notices

    def test_a_counter_not_at_zero_is_offset(self):
        t, p, e = self.counted(start_wh=512.5)
        assert analyse_discharge([make(t, power=p, energy=e)], RATED).delivered_wh == pytest.approx(
            401.11, abs=0.02
        )

    def test_a_coarse_counter_gives_way_to_power(self):
        t, p, e = self.counted(step_wh=10)
        log = analyse_log(make(t, power=p, energy=e))
        assert log.source == "power" and log.delivered_wh == pytest.approx(400 * 3610 / 3600)

    def test_a_fine_counter_logged_rarely_is_not_coarse(self):
        t, p, e = self.counted()
        log = analyse_log(make(t[::60], power=p[::60], energy=e[::60]))
        assert log.source == "counter"

    def test_disagreement_above_one_percent_is_reported(self):
        t, p, e = self.counted(scale=1.03)
        result = analyse_discharge([make(t, power=p, energy=e)], RATED)
        assert result.has(Code.COUNTER_DISAGREES)
        t, p, e = self.counted(scale=1.005)
        assert not analyse_discharge([make(t, power=p, energy=e)], RATED).notices

    def test_a_restart_in_mid_run_is_joined_and_reported(self):
        t, p, e = self.counted()
        whole = analyse_discharge([make(t, power=p, energy=e)], RATED).delivered_wh
        e[t >= 1800] -= e[t >= 1800][0]
        result = analyse_discharge([make(t, power=p, energy=e)], RATED)
        assert result.has(Code.COUNTER_RESET)
        assert result.delivered_wh == pytest.approx(whole, abs=0.05)

    def test_jitter_is_no_restart(self):
        t, p, e = self.counted()
        e[200] -= 0.02
        assert not analyse_discharge([make(t, power=p, energy=e)], RATED).has(Code.COUNTER_RESET)


class TestGaps:
    """A gap is bridged by the counter, else by a line, and what it could hide is stated."""

    def test_bridged_by_a_line(self):
        t, p = block()
        keep = (t < 1000) | (t > 1500)
        result = analyse_discharge([make(t[keep], power=p[keep])], RATED)
        (gap,) = result.gaps
        assert (gap.start_s, gap.end_s, gap.bridged_by) == (990, 1510, "line")
        # 400 W were counted; nothing may have flowed.
        assert gap.could_hide_wh == pytest.approx(400 * 520 / 3600)
        assert result.delivered_wh == pytest.approx(400 * 3610 / 3600)
        assert result.has(Code.GAP)

    def test_a_coarse_counter_still_bridges(self):
        t, p = block()
        energy = np.floor(np.concatenate([[0], np.cumsum(p[:-1] / 360)]) / 10) * 10
        keep = (t < 1000) | (t > 1500)
        p[(t >= 990) & (t <= 1510)] *= 0.5  # the line would give half
        result = analyse_discharge([make(t[keep], power=p[keep], energy=energy[keep])], RATED)
        assert result.gaps[0].bridged_by == "counter"
        assert result.delivered_wh == pytest.approx(400, abs=10)

    def test_a_gap_at_the_end_counts_nothing_but_is_told(self):
        t, p = block()
        keep = (t <= 3000) | (t > 3700)
        result = analyse_discharge([make(t[keep], power=p[keep])], RATED)
        assert result.cutoff_s == 3005 and result.gaps[0].bridged_by == "line"
        assert result.gaps[0].energy_wh == 0
        assert result.gaps[0].could_hide_wh == pytest.approx(400 * 710 / 3600)
        assert result.edges_s[1] == pytest.approx(705), "up to the next sample"

    @pytest.mark.parametrize("digit_wh", [None, 5.0, 10.0])
    @pytest.mark.parametrize("hidden_s", [50, 900, 1750])
    @pytest.mark.parametrize("end", ["load-on", "cut-off"])
    def test_a_load_that_comes_or_goes_in_a_gap(self, end, hidden_s, digit_wh):
        """600 W for an hour that is seen and a while that is not: what is published covers it."""
        t = np.concatenate([np.arange(0, 600, 10.0), np.arange(2400, 6000, 10.0)])
        seen, on_s = t >= 2400, 2400 - hidden_s
        energy = np.clip(t - on_s, 0, None) / 6
        if end == "cut-off":  # the same told from its end
            t, seen = 6000 - t[::-1], seen[::-1]
            energy = energy[-1] - energy[::-1]
        counter = {} if digit_wh is None else {"energy": np.floor(energy / digit_wh) * digit_wh}
        result = analyse_discharge([make(t, power=np.where(seen, 600.0, 0), **counter)], RATED)
        (gap,) = result.gaps
        open_wh = gap.could_hide_wh + max(result.limits[0].edges_wh)
        assert abs(result.delivered_wh - energy.max()) <= open_wh * (1 if digit_wh is None else 1.5)
        if digit_wh is not None:
            assert result.delivered_wh == pytest.approx(energy.max(), abs=digit_wh)
        lasted_s = 3590 + hidden_s
        assert abs(result.duration_s - lasted_s) <= sum(result.edges_s)

    def test_gaps_outside_the_run_do_not_matter(self):
        t, p = block()
        keep = t < 3700
        result = analyse_discharge(
            [make(np.append(t[keep], 9000), power=np.append(p[keep], 0))], RATED
        )
        assert not result.gaps


class TestSeveralMeters:
    def test_aligned_by_clock_and_added(self):
        t, p = block()
        later = make(t, name="b.csv", clock_s=1_000_030.0, power=p / 4)
        result = analyse_discharge([make(t, clock_s=1_000_000.0, power=p), later], RATED)
        assert result.delivered_wh == pytest.approx(500 * 3610 / 3600)
        assert (result.start_s, result.cutoff_s) == (55, 3695)  # the second one's clock is 30 s on
        assert not result.has(Code.CLOCKS_DIFFER)
        assert result.max_w == pytest.approx(500)

    def test_aligned_by_load_on_without_clocks(self):
        t, p = block()
        t2, p2 = block(load_w=100, on_s=200, off_s=3800)
        result = analyse_discharge([make(t, power=p), make(t2, name="b.csv", power=p2)], RATED)
        assert result.duration_s == pytest.approx(3610)

    def test_own_draw_is_added_once_each_over_the_run(self):
        t, p = block()
        result = analyse_discharge([make(t, power=p)], RATED, own_draw_w=[2, 1])
        hours = 3610 / 3600
        assert result.own_draw_wh == pytest.approx(3 * hours)
        assert result.delivered_wh == pytest.approx(403 * hours)
        assert result.logs == (("a.csv", pytest.approx(400 * hours)),)
        assert result.max_w == pytest.approx(403) and result.mean_w == pytest.approx(403)


class TestVolts:
    def test_loaded_mean_minimum_and_sag(self):
        t, p = block()
        v = np.where(p > 0, 118.0, 120.0)
        v[200] = 115.0
        result = analyse_discharge([make(t, power=p, volts=v)], RATED)
        assert result.volts_min == 115
        assert result.volts_mean == pytest.approx(118, abs=0.02)
        assert result.sag_ratio == pytest.approx((120 - result.volts_mean) / 120)

    def test_no_sag_where_the_log_starts_loaded(self):
        t, p = block(on_s=0)
        assert analyse_discharge([make(t, power=p, volts=p * 0 + 230)], RATED).sag_ratio is None


# Check values: facts of the trade, common practice, no source.
@pytest.mark.parametrize(
    ("energies", "rated", "window", "ratio", "ratio_window"),
    [
        ([1830], 2048, (100, 0), 0.894, 0.894),
        ([1870, 1870], 4500, (100, 0), 0.831, 0.831),
        ([1407], 1536, (100, 0), 0.916, 0.916),
        ([1243], 1536, (100, 0), 0.809, 0.809),
        ([1669], 2000, (100, 0), 0.8345, 0.8345),
        ([1560], 2048, (100, 10), 0.762, 0.846),
    ],
)
def test_check_values_of_the_trade(energies, rated, window, ratio, ratio_window):
    rating = Rating(rated_wh=rated, soc_from=window[0], soc_to=window[1])
    result = discharge_from_energies(energies, rating)
    assert result.usable_ratio == pytest.approx(ratio, abs=5e-4)
    assert result.usable_ratio_window == pytest.approx(ratio_window, abs=5e-4)
    assert result.duration_s is None and result.c_rate is None


def test_a_meters_own_two_watts_for_fifty_minutes():
    result = discharge_from_energies([254], Rating(rated_wh=299.5), duration_s=3000, own_draw_w=[2])
    assert result.own_draw_wh == pytest.approx(1.7, abs=0.04)
    assert result.usable_ratio == pytest.approx(0.854, abs=5e-4)


def test_more_than_rated_is_a_warning_not_an_error():
    assert discharge_from_energies([2100], RATED).has(Code.ABOVE_RATED)


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        ({"rated_wh": -5}, "the rated energy is -5; it must be above 0 Wh"),
        ({"rated_wh": math.nan}, "the rated energy is nan; it must be above 0 Wh"),
        (
            {"rated_wh": 9, "soc_to": 130},
            "the state of charge at the end is 130; it must be between 0 and 100 %",
        ),
        (
            {"rated_wh": 9, "soc_from": 10, "soc_to": 90},
            "the state of charge at the start 10 % must be above the state of charge at the end "
            "90 %: a discharge runs downwards",
        ),
    ],
)
def test_impossible_ratings_are_refused(arguments, message):
    with pytest.raises(UnusableDataError) as error:
        Rating(**arguments)
    assert str(error.value) == message


def test_impossible_figures_are_refused():
    with pytest.raises(ValueOutOfRangeError):
        discharge_from_energies([-1], RATED)
    with pytest.raises(ValueOutOfRangeError):
        discharge_from_energies([1], RATED, duration_s=0)
    with pytest.raises(UnusableDataError, match="needs the duration"):
        discharge_from_energies([1], RATED, own_draw_w=[2])
    with pytest.raises(UnusableDataError, match="neither"):
        analyse_discharge([make([0, 1], volts=[1, 1])], RATED)
