"""What a curve says, against closed forms and against curves drawn with a known truth."""

import math

import numpy as np
import pytest
from tests.core.waveform.curves import capture, modified, sampled, sine, square, triangle

from yardtoll.core.electrical.trace import Code
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.waveform.analysis import analyse_wave
from yardtoll.core.waveform.capture import evenly_spaced
from yardtoll.core.waveform.fundamental import _normal_equations, find_hertz
from yardtoll.core.waveform.shape import Shape

ORDERS = np.arange(2, 41)


def thd_to_40(share_of_order):
    """THD of a series given by its terms, orders 2 to 40."""
    terms = np.array([share_of_order(int(n)) for n in ORDERS])
    return float(np.sqrt(np.sum(terms**2)))


def codes(result):
    return [notice.code for notice in result.notices]


def odd(n):
    return n % 2


class TestClosedForms:
    """Fourier series of textbooks; a square wave's whole THD is √(π²/8 − 1) = 48.34 %."""

    def test_the_series_themselves(self):
        whole = math.sqrt(sum(1 / n**2 for n in range(3, 200_001, 2)))
        assert whole == pytest.approx(math.sqrt(math.pi**2 / 8 - 1), abs=1e-5)
        assert whole == pytest.approx(0.4834, abs=5e-5)

    @pytest.mark.parametrize("cycles", [4.3, 10.0, 25.7])
    @pytest.mark.parametrize(
        ("curve", "shape", "share", "vrms", "crest"),
        [
            (square(170), Shape.SQUARE, lambda n: odd(n) / n, 170, 1.0),
            (triangle(170), Shape.OTHER, lambda n: odd(n) / n**2, 170 / 3**0.5, 3**0.5),
            (sine(170), Shape.SINE, lambda n: 0.0, 170 / 2**0.5, 2**0.5),
            *(
                (
                    modified(170, duty), Shape.MODIFIED_SINE,
                    lambda n, d=duty: odd(n) * math.sin(n * math.pi * d / 2)
                    / (n * math.sin(math.pi * d / 2)),
                    170 * duty**0.5, duty**-0.5,
                )
                for duty in (0.5, 2 / 3, 0.8)
            ),
        ],
    )  # fmt: skip
    def test_a_curve(self, curve, shape, share, vrms, crest, cycles):
        found = analyse_wave(sampled(curve, cycles=cycles, rate_hz=200_000.0), 120, 50)
        assert found.shape is shape
        assert found.distortion.thd == pytest.approx(thd_to_40(share), abs=0.002)
        assert found.vrms == pytest.approx(vrms, rel=1e-3)
        assert found.crest == pytest.approx(crest, rel=2e-3)
        assert found.hertz == pytest.approx(50, abs=0.01)
        assert found.distortion.method == ("least_squares" if cycles < 10 else "iec_61000_4_7")
        assert not codes(found)

    def test_a_clock_of_60_18_hertz(self):
        found = analyse_wave(sampled(sine(170), hertz=60.18), 120, 60)
        # Common practice, no source: 4.3 min a day.
        assert found.clock_gain_s_per_day == pytest.approx(259.2, abs=0.5)
        assert found.hertz_off_ratio == pytest.approx(0.003, abs=1e-6)

    def test_a_fast_capture_is_thinned_out_but_for_its_peak(self):
        fast = sampled(square(170), rate_hz=1_000_000.0)
        found = analyse_wave(fast, 120, 50)
        assert (found.peak_v, found.shape) == (170, Shape.SQUARE)
        assert found.distortion.thd == pytest.approx(thd_to_40(lambda n: odd(n) / n), abs=0.002)

    def test_phases_are_told_against_the_fundamentals_rising_crossing(self):
        turns = np.arange(9600) / 48_000 * 50 + 0.31
        volts = np.sin(2 * np.pi * turns) + 0.1 * np.sin(2 * np.pi * 3 * turns + 0.6)
        found = analyse_wave(capture(170 * volts, 48_000.0), 120, 50)
        third = found.distortion.harmonics[1]
        assert (third.order, third.share) == (3, pytest.approx(0.1, abs=1e-4))
        assert third.degrees == pytest.approx(math.degrees(0.6), abs=0.1)

    def test_a_clipped_sine_is_flattened(self):
        found = analyse_wave(
            sampled(lambda turn: np.clip(1.25 * sine(170)(turn), -170, 170)), 120, 50
        )
        assert found.shape is Shape.FLATTENED_SINE and codes(found) == [Code.CLIPPED]


class TestPower:
    def test_a_current_that_is_late(self):
        turns = np.arange(9600) / 48_000 * 50
        volts, amps = 170 * np.sin(2 * np.pi * turns), 3 * np.sin(2 * np.pi * turns - math.pi / 3)
        found = analyse_wave(capture(volts, 48_000.0, amps), 120, 50)
        assert found.watts == pytest.approx(170 * 3 / 2 * 0.5, rel=1e-3)
        assert found.power_factor == pytest.approx(0.5, abs=1e-3)
        assert found.displacement_factor == pytest.approx(0.5, abs=1e-3)

    def test_a_peaky_current_has_a_power_factor_below_its_displacement(self):
        turns = (np.arange(9600) / 48_000 * 50) % 1
        amps = 8.0 * (np.abs(turns - 0.25) < 0.04) - 8.0 * (np.abs(turns - 0.75) < 0.04)
        found = analyse_wave(capture(170 * np.sin(2 * np.pi * turns), 48_000.0, amps), 120, 50)
        assert found.displacement_factor == pytest.approx(1, abs=1e-3)
        assert 0.4 < found.power_factor < 0.6


class TestWhatCannotBeTold:
    def test_too_short_too_few_and_too_slow(self):
        with pytest.raises(UnusableDataError, match="too_short"):
            analyse_wave(sampled(sine(170), cycles=0.8), 120, 50)
        assert Code.FEW_CYCLES in codes(analyse_wave(sampled(sine(170), cycles=2.2), 120, 50))
        slow = analyse_wave(sampled(sine(170), rate_hz=1600.0), 120, 50)
        assert Code.LOW_SAMPLE_RATE in codes(slow)
        unknown = [h.order for h in slow.distortion.harmonics if h.share is None]
        assert unknown == list(range(unknown[0], 41)) and 14 <= unknown[0] <= 16

    def test_noise_repeats_in_no_cycle(self):
        noise = np.random.default_rng(1).normal(0, 50, 9600)
        found = analyse_wave(capture(noise, 48_000.0), 120, 50)
        assert (found.hertz, found.distortion) == (None, None)
        assert codes(found) == [Code.NOT_PERIODIC] and found.vrms == pytest.approx(50, rel=0.05)

    def test_a_sound_card_without_a_scale_gives_ratios_alone(self):
        found = analyse_wave(capture(0.5 * np.sin(np.arange(9600) / 48_000 * 100 * np.pi),
                                     48_000.0, relative=True, full_scale=1.0), 120, 50)  # fmt: skip
        assert (found.vrms, found.peak_v, found.volts_off_ratio) == (None, None, None)
        assert found.crest == pytest.approx(2**0.5, rel=1e-3) and found.distortion.thd < 1e-3

    def test_full_scale_reached_is_clipped(self):
        volts = np.clip(1.2 * np.sin(np.arange(9600) / 48_000 * 100 * np.pi), -1, 1)
        found = analyse_wave(capture(volts, 48_000.0, full_scale=1.0), 1, 50)
        assert Code.CLIPPED in codes(found)

    @pytest.mark.parametrize(("volts", "hertz"), [(0, 50), (120, -1), (math.nan, 50)])
    def test_nominal_values_must_be_some(self, volts, hertz):
        with pytest.raises(ValueOutOfRangeError):
            analyse_wave(sampled(sine(170)), volts, hertz)

    def test_times_that_do_not_rise(self):
        with pytest.raises(UnusableDataError, match="do not rise"):
            evenly_spaced("x", np.array([0.0, 1, 0.5, 2]), np.zeros(4))


def drawn(seed):
    """A capture with noise, DC, harmonics and a frequency that drifts; and its truth."""
    rng = np.random.default_rng(seed)
    nominal, volts = float(rng.choice([50.0, 60.0])), float(rng.choice([120.0, 230.0]))
    hertz = nominal * (1 + rng.uniform(-0.01, 0.01))
    rate = float(rng.choice([10e3, 25e3, 48e3, 100e3]) * rng.uniform(0.9, 1.1))
    count = int(rng.uniform(3, 30) / hertz * rate)
    t = np.arange(count) / rate
    drift, length = rng.uniform(-0.02, 0.02), count / rate
    turn = 2 * np.pi * (hertz * t + drift * (t - length / 2) ** 2 / 2 / length)
    turn += rng.uniform(0, 2 * np.pi)
    shares = rng.uniform(0, 0.05, 6) * rng.choice([0.2, 1.0])
    curve = np.sin(turn)
    for order, share in zip(rng.choice(np.arange(2, 30), 6, replace=False), shares, strict=True):
        curve += share * np.sin(order * turn + rng.uniform(0, 2 * np.pi))
    dc, noise = rng.uniform(-0.01, 0.01) * volts, rng.uniform(0, 0.005) * volts
    made = volts * math.sqrt(2) * curve + dc + rng.normal(0, 1, count) * noise
    thd = math.sqrt(float(np.sum(shares**2)))
    rms = math.sqrt(volts**2 * (1 + thd**2) + dc**2 + noise**2)
    return capture(made, rate), volts, nominal, hertz, rms, thd


def assert_as_drawn(seed):
    made, volts, nominal, hertz, rms, thd = drawn(seed)
    found = analyse_wave(made, volts, nominal)
    assert found.hertz == pytest.approx(hertz, abs=0.01), seed
    assert found.vrms == pytest.approx(rms, rel=1e-3), seed
    assert found.distortion.thd == pytest.approx(thd, abs=0.002), seed


@pytest.mark.parametrize("seed", range(12))
def test_a_drawn_curve_is_told(seed):
    assert_as_drawn(seed)


@pytest.mark.study
@pytest.mark.parametrize("first", range(1000, 2000, 100))
def test_a_thousand_drawn_curves_are_told(first):
    for seed in range(first, first + 100):
        assert_as_drawn(seed)


def test_the_equations_of_a_fit_are_plain_sums_of_products():
    """Worked out without the sines themselves: here each is made, and each product summed."""
    random = np.random.default_rng(5)
    for count, orders in ((41, 1), (500, 7), (5999, 15)):
        turns = 0.4 / orders if count == 41 else 1.7 / count
        values = random.normal(3, 5, count)
        angles = [2 * np.pi * turns * order * np.arange(count) for order in range(1, orders + 1)]
        columns = [np.ones(count), *map(np.cos, angles), *map(np.sin, angles)]
        against, gram = _normal_equations(values, turns, orders)
        for row, one in enumerate(columns):
            assert against[row] == pytest.approx(math.fsum(one * values), abs=1e-8 * count)
            for column, other in enumerate(columns):
                assert gram[row, column] == pytest.approx(math.fsum(one * other), abs=1e-9 * count)


@pytest.mark.parametrize("hertz", [43.2, 49.987, 50.0, 61.3, 72.0])
def test_a_frequency_is_found_to_parts_in_a_million(hertz):
    times = np.arange(9_000) / 20_000
    volts = 325 * np.sin(2 * np.pi * hertz * times + 0.7)
    volts += 60 * np.sin(6 * np.pi * hertz * times) + 20 * np.sin(22 * np.pi * hertz * times + 1)
    nominal = 60.0 if hertz > 55 else 50.0
    assert find_hertz(volts, 20_000, nominal) == pytest.approx(hertz, rel=5e-6)
