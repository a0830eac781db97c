"""The simulated station obeys its own laws, whatever its parameters."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    StationModel,
    station_model_for,
)
from yardtoll.running.simulated_bench import model_from_conditions

EXACT = MeterModel(noise_w=0, power_step_w=1e-9, energy_step_wh=1e-9)
stations = st.builds(
    StationModel,
    store_wh=st.floats(50, 300),
    overhead_w=st.floats(0, 20),
    proportional=st.floats(0, 0.1),
    ohmic_per_w=st.floats(0, 1e-4),
    rated_w=st.just(2000.0),
    sag_ratio=st.floats(0, 0.05),
)
loads = st.builds(
    LoadModel,
    watts=st.floats(50, 1500),
    on_s=st.floats(0, 60),
    thermostat_period_s=st.sampled_from([0.0, 120.0]),
    thermostat_duty=st.floats(0.3, 0.9),
)


def bench(station, load, seed=1, meter=EXACT) -> BenchModel:
    return BenchModel(seed=seed, station=station, load=load, meter=meter)


@settings(max_examples=40, deadline=None)
@given(stations, loads)
def test_energy_is_conserved(station, load):
    """store used = delivered·(1 + p1) + p0·t + p2·∫P²dt, the model's own equation."""
    sim = Simulation(bench(station, load))
    columns = sim.advance(3600)
    on = columns["volts"] > 0
    power = columns["power"]
    hours = 1 / 3600
    used = np.sum(
        (power * (1 + station.proportional) + station.overhead_w + station.ohmic_per_w * power**2)[
            on
        ]
    )
    assert sim.used_wh == pytest.approx(used * hours, rel=1e-6, abs=1e-6)
    assert sim.used_wh <= station.store_wh + 1e-9
    assert sim.delivered_wh == pytest.approx(np.sum(power[on]) * hours, rel=1e-6, abs=1e-6)


@settings(max_examples=25, deadline=None)
@given(stations, loads, st.lists(st.integers(1, 900), min_size=1, max_size=8))
def test_how_time_is_cut_changes_nothing(station, load, cuts):
    whole = Simulation(bench(station, load, meter=MeterModel())).advance(float(sum(cuts)))
    pieces = Simulation(bench(station, load, meter=MeterModel()))
    at, parts = 0.0, []
    for cut in cuts:
        at += cut
        parts.append(pieces.advance(at))
    for name, values in whole.items():
        # Sums run in another order, so a rounded figure may fall on its other side.
        joined = np.concatenate([part[name] for part in parts])
        np.testing.assert_allclose(joined, values, atol=0.11)


def test_a_dark_outlet_stays_dark_and_the_counter_stands():
    station = StationModel(
        store_wh=5, overhead_w=1, proportional=0, ohmic_per_w=0, rated_w=300, sag_ratio=0
    )
    sim = Simulation(bench(station, LoadModel(watts=100, on_s=0, cold_share=0)))
    columns = sim.advance(600)
    off = int(sim.shut_off_s) - 1
    assert sim.shut_off_s == pytest.approx(5 / 101 * 3600, abs=1.5)
    assert not columns["power"][off:].any() and not columns["volts"][off:].any()
    assert np.ptp(columns["energy"][off:]) == 0
    assert sim.left_wh < 101 / 3600


def test_the_meters_errors_are_in_what_it_shows_and_not_in_the_truth():
    station = StationModel(
        store_wh=500, overhead_w=1, proportional=0, ohmic_per_w=0, rated_w=300, sag_ratio=0
    )
    load = LoadModel(watts=100, on_s=0, cold_share=0)
    meter = MeterModel(gain_error=0.02, offset_w=1, noise_w=0)
    sim = Simulation(bench(station, load, meter=meter))
    shown = sim.advance(3600)
    assert shown["power"][-1] == pytest.approx(103)
    assert shown["energy"][-1] == pytest.approx(103, abs=0.02)
    assert sim.delivered_wh == pytest.approx(100)


def test_volts_sag_with_the_load_and_power_with_the_square_of_volts():
    station = StationModel(
        store_wh=500, overhead_w=1, proportional=0, ohmic_per_w=0, rated_w=1000, sag_ratio=0.04
    )
    sim = Simulation(bench(station, LoadModel(watts=500, on_s=5, cold_share=0)))
    columns = sim.advance(20)
    assert columns["volts"][2] == pytest.approx(120, abs=0.3)
    assert columns["volts"][-1] == pytest.approx(120 * 0.98, abs=0.3)
    assert columns["power"][-1] == pytest.approx(500 * 0.98**2, rel=1e-6)


def test_a_cold_load_draws_more_and_settles():
    load = LoadModel(watts=400, cold_share=0.1, warm_up_s=60, on_s=0)
    power = load.nominal_w(np.array([-1.0, 0, 60, 600]))
    assert power.tolist() == pytest.approx([0, 440, 400 + 40 / np.e, 400], rel=1e-4)


@pytest.mark.parametrize(("left", "shown"), [(100, 100), (50, 50), (0.4, 0), (-3, 0), (140, 100)])
def test_an_honest_display_shows_the_share_left(left, shown):
    station = StationModel(
        store_wh=100, overhead_w=0, proportional=0, ohmic_per_w=0, rated_w=1, display_bend=1
    )
    assert station.display_soc(left) == shown


def test_a_station_for_a_rating_is_believable_and_the_same_for_its_seed():
    assert station_model_for(1000, 800, 3) == station_model_for(1000, 800, 3)
    for seed in range(50):
        station = station_model_for(1000, 800, seed)
        assert 900 < station.store_wh < 1050
        power = np.array([160.0, 800.0])
        efficiency = power / station.battery_w(power)
        assert np.all((efficiency > 0.8) & (efficiency < 0.97))


def test_a_bench_survives_being_written_down():
    from dataclasses import asdict

    model = bench(station_model_for(1000, 800, 3), LoadModel(watts=10), seed=7, meter=MeterModel())
    assert model_from_conditions(asdict(model)) == model
