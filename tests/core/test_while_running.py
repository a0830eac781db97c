"""Foreseeing the end of a run, and deciding that it has come."""

from typing import ClassVar

import numpy as np
import pytest

from yardtoll.core.live.cutoff_watch import watch_auto_off, watch_cutoff
from yardtoll.core.live.forecast import forecast_end


class TestForecast:
    BASE: ClassVar = {"expected_wh": 1740.0, "half_width_wh": 100.0, "basis": "typical"}

    def test_what_is_left_over_the_load(self):
        found = forecast_end(delivered_wh=940, mean_w=400, **self.BASE)
        assert found.remaining_s == pytest.approx(2 * 3600)
        assert found.earliest_s == pytest.approx(1.75 * 3600)
        assert found.latest_s == pytest.approx(2.25 * 3600)

    def test_no_load_no_forecast(self):
        assert forecast_end(delivered_wh=0, mean_w=0, **self.BASE) is None

    def test_overdue_is_now_and_never_negative(self):
        found = forecast_end(delivered_wh=1900, mean_w=400, **self.BASE)
        assert (found.remaining_s, found.earliest_s, found.latest_s) == (0, 0, 0)

    def test_the_display_takes_over_when_it_is_surer(self):
        found = forecast_end(delivered_wh=900, mean_w=400, display_soc=(100, 40, 900), **self.BASE)
        assert found.basis == "the display's SOC over this run"
        assert found.remaining_s == pytest.approx(40 * 15 / 400 * 3600)

    @pytest.mark.parametrize("soc", [(100, 99, 15), (100, 100, 0), (50, 60, 100), (100, 95, 80)])
    def test_a_display_that_has_hardly_moved_is_not_believed(self, soc):
        found = forecast_end(delivered_wh=80, mean_w=400, display_soc=soc, **self.BASE)
        assert found.basis == "typical"


def trace(*stretches):
    """(seconds, W, V) one after another at one sample a second."""
    power = np.concatenate([np.full(n, w, float) for n, w, _ in stretches])
    volts = np.concatenate([np.full(n, v, float) for n, _, v in stretches])
    return np.arange(power.size, dtype=float), power, volts


class TestCutoffWatch:
    def test_a_dark_outlet_ends_the_run_soon(self):
        assert not watch_cutoff(*trace((600, 400, 120), (10, 0, 0))).ended
        state = watch_cutoff(*trace((600, 400, 120), (20, 0, 0)))
        assert state.ended and state.since_s == 599
        assert state.reason == "the outlet switched off"

    def test_a_dc_port_is_dark_lower_down(self):
        run = trace((600, 80, 13.2), (60, 0, 13.0))
        assert watch_cutoff(*run).ended and not watch_cutoff(*run, dark_v=2.0).ended
        assert watch_cutoff(*trace((600, 80, 13.2), (60, 0, 0.1)), dark_v=2.0).ended

    def test_a_dip_of_seconds_does_not(self):
        assert not watch_cutoff(*trace((600, 400, 120), (5, 0, 0), (10, 400, 120))).ended

    def test_a_thermostats_pause_does_not(self):
        cycles = [(600, 900, 120), (900, 0, 120)] * 3
        assert not watch_cutoff(*trace(*cycles)).ended

    def test_a_live_outlet_without_load_ends_it_after_half_an_hour(self):
        assert not watch_cutoff(*trace((600, 400, 120), (1750, 0, 120))).ended
        state = watch_cutoff(*trace((600, 400, 120), (1900, 0, 120)))
        assert state.ended and "though the outlet is live" in state.reason

    def test_long_pauses_earlier_make_it_more_patient(self):
        cycles = [(600, 900, 120), (1200, 0, 120), (600, 900, 120), (2400, 0, 120)]
        assert not watch_cutoff(*trace(*cycles)).ended

    def test_without_volts_patience_is_all(self):
        t, p, _ = trace((600, 400, 120), (1000, 0, 0))
        assert not watch_cutoff(t, p, None).ended

    def test_before_the_load_nothing_ends(self):
        assert not watch_cutoff(*trace((4000, 0.5, 120))).ended
        assert not watch_cutoff(*trace((4000, 0, 0))).ended

    def test_a_lost_sample_is_no_load_but_not_the_end(self):
        t, p, v = trace((600, 400, 120), (3, 400, 120))
        p[-3:] = np.nan
        assert not watch_cutoff(t, p, v).ended


class TestAutoOff:
    def test_a_live_outlet_that_goes_dark_has_switched_itself_off(self):
        t, _, volts = trace((600, 0, 120), (20, 0, 0))
        state = watch_auto_off(t, volts, 20.0)
        assert state.ended and state.since_s == 599 and "by itself" in state.reason
        assert not watch_auto_off(t[:605], volts[:605], 20.0).ended

    def test_one_that_is_live_or_meant_to_be_off_goes_on(self):
        t, _, volts = trace((600, 0, 120))
        assert not watch_auto_off(t, volts, 20.0).ended
        assert not watch_auto_off(t, np.zeros(600), 20.0).ended
        assert not watch_auto_off(t, np.zeros(600), None).ended
        assert not watch_auto_off(t, np.full(600, np.nan), 20.0).ended
