"""Traces refuse what does not fit; load-on and cut-off by counter."""

import numpy as np
import pytest

from yardtoll.core.electrical.energy import join_counter
from yardtoll.core.electrical.load_span import load_limit_w, span_of_counter, span_of_power
from yardtoll.core.electrical.quantities import QUANTITIES, Quantity
from yardtoll.core.electrical.timebase import sampling_of
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.errors import UnusableDataError


@pytest.mark.parametrize(
    ("time_s", "power", "message"),
    [
        ([], [], "holds no samples"),
        ([0, 1, 1], [1, 1, 1], "do not rise"),
        ([0, 2, 1], [1, 1, 1], "do not rise"),
        ([0, np.nan], [1, 1], "do not rise"),
        ([0, 1], [1], "has 1 values for 2 times"),
    ],
)
def test_a_trace_that_does_not_fit_is_refused(time_s, power, message):
    with pytest.raises(UnusableDataError, match=message):
        Trace(
            name="x",
            time_s=np.array(time_s, float),
            columns={Quantity.POWER: np.array(power, float)},
        )


def test_valid_leaves_missing_values_out():
    trace = Trace(
        name="x", time_s=np.arange(3.0), columns={Quantity.POWER: np.array([1, np.nan, 3])}
    )
    time_s, power = trace.valid(Quantity.POWER)
    assert time_s.tolist() == [0, 2] and power.tolist() == [1, 3]
    assert trace.valid(Quantity.VOLTS)[0].size == 0


def test_every_quantity_is_declared():
    assert set(QUANTITIES) == set(Quantity)


class TestLimit:
    def test_two_watts_or_five_percent_of_the_loaded_median(self):
        assert load_limit_w(np.array([0, 0, 400, 400, 410])) == 20
        assert load_limit_w(np.array([0, 10, 10])) == 2
        assert load_limit_w(np.array([0, 1.0])) == 2

    def test_idle_samples_do_not_lower_it(self):
        power = np.concatenate([np.full(1000, 1.5), np.full(10, 400.0)])
        assert load_limit_w(power) == 20


class TestCounterSpan:
    def counter(self, watts=317.3, before=5, loaded=60, after=30, step=0.0):
        rate = np.concatenate([np.zeros(before), np.full(loaded, watts), np.zeros(after)])
        energy = np.concatenate([[0], np.cumsum(rate)]) / 60
        if step:
            energy = np.floor(energy / step + 1e-9) * step
        return join_counter(60.0 * np.arange(energy.size), energy, None)

    def test_begins_and_ends_with_the_rise(self):
        span = span_of_counter("c", self.counter())
        # The first and last rise are those of a whole interval: the edges lie on its samples.
        assert (span.start_s, span.cutoff_s) == (pytest.approx(300), pytest.approx(3900))
        assert not span.starts_loaded and not span.no_cutoff

    def test_coarse_ticks_are_good_to_a_tick(self):
        span = span_of_counter("c", self.counter(step=10))
        assert span.start_s == pytest.approx(300, abs=120)
        assert span.cutoff_s == pytest.approx(3900, abs=120)
        assert max(span.edges_s) <= 120

    def test_loaded_from_first_to_last(self):
        span = span_of_counter("c", self.counter(before=0, after=0))
        assert span.starts_loaded and span.no_cutoff

    def test_standby_alone_is_no_run(self):
        with pytest.raises(UnusableDataError, match="never rises faster than 2 W"):
            span_of_counter("c", self.counter(watts=1.5))
        with pytest.raises(UnusableDataError, match="never rises, so"):
            span_of_counter("c", self.counter(watts=0))


def test_a_single_loaded_sample_is_a_run_of_one_interval():
    t = np.arange(3.0)
    span = span_of_power("x", t, np.array([0, 400.0, 0]), sampling_of(t))
    assert (span.start_s, span.cutoff_s, span.first_s, span.last_s) == (0.5, 1.5, 1, 1)
