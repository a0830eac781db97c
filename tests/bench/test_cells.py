"""The simulated LFP store against a published cell model (Doyle–Fuller–Newman, parameters of Prada
et al. 2013, as PyBaMM solves it; stored by script/reference).
"""

import csv
from pathlib import Path

import numpy as np
import pytest

from yardtoll.bench.simulated.cells import CELLS, LFP, NMC
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    Simulation,
    on_dc_port,
    station_model_for,
)
from yardtoll.core.ledger.loss_fit import RunAtLoad
from yardtoll.core.ledger.losses import fit_losses


@pytest.fixture(scope="module")
def reference():
    """Rate → (depths, volts, energy in Wh, hours)."""
    with (Path(__file__).parent / "lfp_reference.csv").open(encoding="utf-8") as file:
        rows = [{k: float(v) for k, v in row.items()} for row in csv.DictReader(file)]
    rates = sorted({row["c_rate"] for row in rows})
    return {
        rate: (
            np.array([r["depth"] for r in rows if r["c_rate"] == rate]),
            np.array([r["volts"] for r in rows if r["c_rate"] == rate]),
            next(r["energy_wh"] for r in rows if r["c_rate"] == rate),
            next(r["hours"] for r in rows if r["c_rate"] == rate),
        )
        for rate in rates
    }


def test_volts_over_the_discharge(reference):
    for rate, (depths, volts, _, _) in reference.items():
        plateau = depths <= 0.8
        ours = LFP.volts(depths, rate)
        assert np.abs(ours - volts)[plateau].max() < 0.04, rate
        assert np.abs(ours - volts)[~plateau].max() < 0.15, rate


def test_the_loss_split_holds_for_real_cells(reference):
    """Store and ohmic toll describe the cell's energy at every rate within 2 %."""
    runs = [
        RunAtLoad(energy_wh=energy_wh, duration_s=3600 * hours)
        for _, _, energy_wh, hours in reference.values()
    ]
    split = fit_losses(runs, 7.4)
    assert (
        max(abs(r) / run.energy_wh for r, run in zip(split.residuals_wh, runs, strict=True)) < 0.02
    )
    assert split.p2_per_w.value > 0 and split.e0_wh.value == pytest.approx(7.3, abs=0.15)


def test_both_chemistries_fall_all_the_way_and_nmc_steeper():
    for cell in CELLS.values():
        assert list(cell.open_volts) == sorted(cell.open_volts, reverse=True)
        assert cell.depths[0] == 0 and cell.depths[-1] == 1

    def slope(cell):
        at_20, at_80 = cell.volts(np.array([0.2, 0.8]), 0.0)
        return (at_20 - at_80) / cell.nominal_v

    assert slope(NMC) > 2 * slope(LFP)


def test_an_unregulated_port_follows_its_cells_and_a_regulated_one_does_not():
    def volts(unregulated):
        station = on_dc_port(station_model_for(300, 300, 3), unregulated)
        simulation = Simulation(BenchModel(seed=3, station=station, load=LoadModel(watts=60)))
        found = simulation.advance(6 * 3600)["volts"]
        return found[found > 5][10:]

    assert np.ptp(volts("")) / 13.2 < 0.05
    assert np.ptp(volts("NMC")) / 10.8 > 0.15 and volts("NMC").max() < 13
