"""The simulated charge against its own truth, and what the analysis finds of it."""

import numpy as np
import pytest

from yardtoll.bench.simulated.charging import ChargerModel
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    on_dc_port,
    station_model_for,
)
from yardtoll.core.charge.analysis import ChargeWindow, analyse_recharge
from yardtoll.core.charge.phases import PhaseName
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace

EXACT = MeterModel(noise_w=0.0, power_step_w=0.001, energy_step_wh=0.0001)


def bench(charger, start_share=0.0, seed=1, **station):
    return BenchModel(
        seed=seed,
        station=station_model_for(1000, 800, seed),
        load=LoadModel(watts=0.0),
        meter=EXACT,
        charger=charger,
        start_share=start_share,
    )


def played(model, hours=6):
    simulation = Simulation(model)
    columns = simulation.advance(hours * 3600)
    trace = Trace(
        name="wall",
        time_s=columns["time"],
        columns={q: columns[q.value] for q in (Quantity.POWER, Quantity.VOLTS, Quantity.ENERGY)},
    )
    return simulation, trace


def test_what_is_drawn_fills_the_store_at_the_chargers_efficiency():
    simulation, trace = played(bench(ChargerModel(full_w=500, efficiency=0.9)))
    store = simulation.model.station.store_wh
    assert simulation.left_wh == pytest.approx(store)
    result = analyse_recharge(trace, ChargeWindow(rated_wh=1000))
    assert result.drawn_wh == pytest.approx(store / 0.9, rel=0.002)
    names = [phase.name for phase in result.phases]
    assert names[:3] == [PhaseName.RAMP_IN, PhaseName.FULL_POWER, PhaseName.TAPER]
    assert result.peak_w == pytest.approx(500, rel=0.001)


def test_a_pause_for_heat_is_seen_as_one():
    charger = ChargerModel(full_w=500, hot_at=0.5, hot_s=1200)
    _, trace = played(bench(charger))
    result = analyse_recharge(trace, ChargeWindow(rated_wh=1000))
    (pause,) = [p for p in result.phases if p.name is PhaseName.PAUSED]
    assert pause.end_s - pause.start_s == pytest.approx(1200, abs=60)
    assert not result.notices


def test_a_half_full_station_takes_half():
    simulation, _ = played(bench(ChargerModel(full_w=500, efficiency=0.9), start_share=0.5))
    store = simulation.model.station.store_wh
    assert simulation.delivered_wh == pytest.approx(0.5 * store / 0.9, rel=0.01)


@pytest.mark.parametrize("seed", range(12))
def test_the_analysis_agrees_with_the_truth_of_random_chargers(seed):
    random = np.random.default_rng(seed)
    charger = ChargerModel(
        full_w=random.uniform(150, 1500), efficiency=random.uniform(0.85, 0.93),
        ramp_s=random.uniform(0, 300), taper_from=random.uniform(0.75, 0.9),
    )  # fmt: skip
    simulation, trace = played(bench(charger, seed=seed), hours=14)
    result = analyse_recharge(trace, ChargeWindow(rated_wh=1000))
    standby = 1.2 * (trace.time_s[-1] - result.start_s - result.duration_s) / 3600
    assert result.drawn_wh == pytest.approx(simulation.delivered_wh - standby, rel=0.003)


def test_an_idle_station_uses_its_overhead():
    model = BenchModel(seed=1, station=station_model_for(1000, 800, 1), load=LoadModel(watts=0.0))
    simulation = Simulation(model)
    columns = simulation.advance(10 * 3600)
    assert simulation.used_wh == pytest.approx(10 * model.station.overhead_w, rel=0.001)
    assert columns["power"].max() == 0 and columns["volts"].min() > 100


def test_a_dc_port_has_tolls_of_its_own():
    station = station_model_for(1000, 800, 1)
    port = on_dc_port(station)
    assert port.store_wh == station.store_wh and port.overhead_w < station.overhead_w
    assert 12 < port.nominal_v < 14 and port.hertz == 0
