"""Loads carried: steps, surges, and what ended them."""

import numpy as np
import pytest

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.notes.read import read_notes
from yardtoll.core.output.hold import StepEnd, analyse_hold, lowered_volts
from yardtoll.core.output.noted import held_trace


def ladder(*levels, interval_s=1.0, noise=0.0, volts=None, seed=1):
    """(seconds, W) one after another."""
    power = np.concatenate([np.full(round(s / interval_s), float(w)) for s, w in levels])
    rng = np.random.default_rng(seed)
    power = np.where(power > 0, power + noise * rng.normal(0, 1, power.size), 0.0)
    columns = {Quantity.POWER: power}
    if volts is not None:
        columns[Quantity.VOLTS] = volts(power)
    return Trace(name="ladder.csv", time_s=interval_s * np.arange(power.size), columns=columns)


def test_a_ladder_to_its_trip():
    log = ladder((60, 0), (120, 1000), (120, 1050), (60, 1100), (60, 1200), (12, 1500), (60, 0),
                 noise=1.0, volts=lambda w: 120 - 0.003 * w)  # fmt: skip
    found = analyse_hold(log, 1000)
    shares = [round(step.share_of_rated, 2) for step in found.steps]
    assert shares == [1.0, 1.05, 1.1, 1.2, 1.5]
    assert [round(s.seconds) for s in found.steps] == [120, 120, 60, 60, 12]
    assert [s.ended_by for s in found.steps] == [StepEnd.NEXT_STEP] * 4 + [StepEnd.TRIP]
    assert found.trip.share_of_rated == pytest.approx(1.5, abs=0.002)
    assert found.trip.at_s == pytest.approx(431.5)
    assert 252 <= found.trip.seconds_above_rated <= 260
    assert found.longest_at_rated_s == pytest.approx(372, abs=1)
    assert found.highest_held_w == pytest.approx(1200, abs=1)
    assert found.volts_at_rated == pytest.approx(117, abs=0.01)
    assert found.sag_ratio == pytest.approx(3 / 120, abs=1e-4)
    assert [n.code for n in found.notices] == [Code.TOO_SLOW_FOR_SURGE] and found.surge_at_least


@pytest.mark.parametrize(
    ("interval_s", "at_least"), [(0.1, False), (0.2, False), (0.25, True), (1.0, True)]
)
def test_an_inrush_is_seen_by_a_fast_log_alone(interval_s, at_least):
    found = analyse_hold(
        ladder((10, 0), (1, 2600), (60, 900), (10, 0), interval_s=interval_s), 1000
    )
    assert found.surge_w == 2600 and found.surge_at_least is at_least
    assert found.surge_s == pytest.approx(1.0)
    assert (Code.TOO_SLOW_FOR_SURGE in [n.code for n in found.notices]) is at_least


def test_over_ten_seconds_it_is_an_overload_and_no_surge():
    found = analyse_hold(ladder((5, 0), (11, 1300), (5, 0), interval_s=0.1), 1000)
    assert found.surge_w is None and found.trip.from_w == 1300
    assert found.trip.seconds_above_rated == pytest.approx(11)


class TestWhatEndedIt:
    FULL = ((10, 0), (3600, 1000), (20, 0))

    @pytest.mark.parametrize(
        ("levels", "facts", "ended"),
        [
            (FULL, {}, StepEnd.UNKNOWN),
            (FULL, {"rated_wh": 1100}, StepEnd.BATTERY),
            (FULL, {"rated_wh": 5000}, StepEnd.UNKNOWN),
            (FULL, {"ended_by": StepEnd.HAND}, StepEnd.HAND),
            (FULL, {"ended_by": StepEnd.TRIP}, StepEnd.TRIP),
            # Within the rating and most of the energy gone: the battery, whatever was thought.
            (FULL, {"ended_by": StepEnd.TRIP, "rated_wh": 1100}, StepEnd.BATTERY),
            (((10, 0), (60, 1030), (20, 0)), {}, StepEnd.TRIP),
            (((10, 0), (60, 1015), (20, 0)), {}, StepEnd.UNKNOWN),
            (((10, 0), (60, 1200), (20, 0)), {"ended_by": StepEnd.HAND}, StepEnd.HAND),
            (((10, 0), (60, 1200)), {}, StepEnd.LOG_END),
        ],
    )
    def test_by_what_is_known(self, levels, facts, ended):
        found = analyse_hold(ladder(*levels), 1000, **facts)
        assert found.steps[-1].ended_by is ended
        assert (found.trip is not None) is (ended is StepEnd.TRIP)

    @pytest.mark.parametrize("seed", range(20))
    def test_nothing_within_the_rating_is_called_an_overload(self, seed):
        rng = np.random.default_rng(seed)
        levels = [(int(rng.integers(30, 400)), float(rng.uniform(200, 1019))) for _ in range(4)]
        found = analyse_hold(ladder((5, 0), *levels, (5, 0), noise=0.3), 1000, rated_wh=400)
        assert found.trip is None


def test_a_slow_ramp_is_one_stretch_and_noise_makes_no_steps():
    t = np.arange(0, 900.0)
    power = np.where(t < 10, 0.0, 1000 * (1 + 0.01 * np.sin(t)))
    log = Trace(name="x", time_s=t, columns={Quantity.POWER: power})
    assert len(analyse_hold(log, 1000).steps) == 1


def test_without_watts_or_rating():
    with pytest.raises(UnusableDataError, match="no load was ever on"):
        analyse_hold(ladder((60, 0)), 1000)
    with pytest.raises(UnusableDataError, match="no power column"):
        analyse_hold(Trace(name="v", time_s=np.arange(5.0), columns={}), 1000)
    with pytest.raises(ValueOutOfRangeError):
        analyse_hold(ladder((60, 9)), 0)


class TestNoted:
    def test_lines_stand_until_the_next(self):
        notes = read_notes("10:00 on 2000 W 118 V\n10:15 2200 W\n10:16:20 tripped, error 4")
        trace, ended = held_trace(notes)
        found = analyse_hold(trace, 2000, ended_by=ended)
        assert [round(s.seconds) for s in found.steps] == [900, 80]
        assert found.steps[-1].ended_by is StepEnd.TRIP
        assert found.trip.share_of_rated == pytest.approx(1.1)
        assert found.volts_at_rated == 118

    def test_switched_off_by_hand_is_no_trip(self):
        trace, ended = held_trace(read_notes("10:00 on 2300 W\n10:02 I switched off\n10:02 off"))
        assert analyse_hold(trace, 2000, ended_by=ended).trip is None

    @pytest.mark.parametrize("text", ["10:00 on\n10:10 off", "10:00 on 500 W"])
    def test_notes_that_say_too_little(self, text):
        with pytest.raises(UnusableDataError):
            held_trace(read_notes(text))


def test_voltage_lowering_follows_the_square():
    # Common practice, no source: 3400 W of heaters held at 2400 W from 120 V.
    assert lowered_volts(120, 3400, 2400) == pytest.approx(100.8, abs=0.05)
    assert lowered_volts(120, 1000, 2400) == 120
