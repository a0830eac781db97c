"""What a figure says of how it was worked out: the sums it shows come out as it says."""

import re

import numpy as np
import pytest
from written_sums import comes_out

from yardtoll.core.charge.analysis import ChargeWindow, SocReading, analyse_recharge
from yardtoll.core.charge.figures import charge_figures
from yardtoll.core.discharge.analysis import (
    Rating,
    analyse_discharge,
    discharge_from_energies,
)
from yardtoll.core.discharge.figures import discharge_figures
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.ledger import worked
from yardtoll.core.ledger.idle import Store, idle_draw
from yardtoll.core.ledger.idle_figures import idle_figures
from yardtoll.core.ledger.loss_figures import loss_figures
from yardtoll.core.ledger.loss_fit import IdleDraw, RunAtLoad
from yardtoll.core.ledger.losses import CEC, EURO, fit_losses
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.energy_budget import discharge_budget
from yardtoll.core.uncertainty.figure import by_key


def trace(watts: float, hours: float) -> Trace:
    time_s = np.arange(0.0, hours * 3600 + 240, 10.0)
    loaded = (time_s > 60) & (time_s < hours * 3600 + 60)
    return Trace(
        name="log",
        time_s=time_s,
        columns={
            Quantity.POWER: np.where(loaded, watts, 0.0),
            Quantity.VOLTS: np.where(loaded, 118.0, 120.0),
        },
    )


def test_the_sums_of_a_discharge_come_out():
    result = analyse_discharge([trace(400.0, 2.0)], Rating(rated_wh=1000, soc_to=10))
    budget = discharge_budget(result, [MeterAccuracy(reading_share=0.005, floor_w=0.2)])
    figures = by_key(discharge_figures(result, budget))
    for key in ("usable_ratio", "usable_ratio_window", "mean_w", "sag_ratio"):
        assert comes_out(figures[key].worked.put_in), figures[key].worked.put_in
    assert figures["delivered_wh"].worked.formula.startswith("E = Σ")
    assert figures["delivered_wh"].shown_budget.worked is figures["delivered_wh"].worked
    assert figures["usable_ratio"].shown_budget.worked.put_in.endswith("%")
    assert "0:01:" in figures["duration_s"].worked.put_in


def test_two_meters_and_an_own_draw_are_added_as_written():
    result = discharge_from_energies(
        [1870.0, 1870.0], Rating(rated_wh=4500), own_draw_w=[2.0], duration_s=3000.0
    )
    delivered = by_key(discharge_figures(result, None))["delivered_wh"].worked
    assert delivered.formula == "E = what the meters showed, added"
    assert "1870.0 + 1870.0 + 1.7 (the meter's own) Wh = 3741.7 Wh" in delivered.put_in
    assert comes_out(delivered.put_in)


def test_the_sums_of_a_charge_and_of_an_idle_test_come_out():
    time_s = np.arange(0.0, 7500.0, 10.0)
    power = np.where((time_s > 60) & (time_s < 7260), 500.0, 0.0)
    charged = analyse_recharge(
        Trace(name="log", time_s=time_s, columns={Quantity.POWER: power}),
        ChargeWindow(rated_wh=1000),
        [SocReading(s=3600.0, soc=60), SocReading(s=5400.0, soc=90)],
    )
    figures = by_key(charge_figures(charged, None))
    assert comes_out(figures["mean_w"].worked.put_in)
    assert figures["to_soc_80_s"].worked.put_in.startswith("80 % at 1:2")
    idle = idle_figures(
        idle_draw(Store(energy_wh=1280.0, u_wh=0.0, basis="rating"), 100, 85, 36_000.0)
    )
    assert by_key(idle)["idle_w"].worked.put_in.endswith("= 19.20 W")
    assert comes_out(by_key(idle)["idle_w"].worked.put_in)


def test_the_terms_of_a_fit_satisfy_the_equation_they_show():
    runs = [RunAtLoad(energy_wh=e, duration_s=t) for e, t in ((1047.6, 37_714), (1086.4, 9_778))]
    split = fit_losses(runs, 1200.0, rated_w=1000.0)
    figures = by_key(loss_figures(split))
    said = figures["e0_wh"].worked.put_in
    assert said.startswith("from 2 runs: ") and "(held, not fitted)" in said
    found = {name: float(value) for name, value in re.findall(r"(E₀|p₀|p₁|p₂) = ([-\d.e]+)", said)}
    for run in runs:
        share = 1 + found.get("p₁", 0.0) / 100
        store = run.energy_wh * share + found["p₀"] * run.hours
        store += found.get("p₂", 0.0) * run.square_w2h
        assert store == pytest.approx(found["E₀"], rel=5e-3)
    assert figures["p0_w"].shown_budget.worked is figures["p0_w"].worked


def test_a_fit_that_an_idle_test_set_says_so():
    hours = [2048 / (1.05 * watts + 18) for watts in (100, 500, 1500)]
    runs = [
        RunAtLoad(energy_wh=watts * h, duration_s=3600 * h)
        for watts, h in zip((100, 500, 1500), hours, strict=True)
    ]
    split = fit_losses(runs, 2048, idle=IdleDraw(watts=18, u_w=0.0))
    assert split.idle_w == 18
    told = worked.fitted(split).put_in
    assert told.startswith("from 3 runs and an idle draw of 18.00 W: ")
    assert "p₁ = 5.00 %" in told
    assert "idle" not in worked.fitted(fit_losses(runs, 2048)).put_in


def test_an_efficiency_shows_all_of_its_weights():
    runs = [RunAtLoad(energy_wh=e, duration_s=t) for e, t in ((1047.6, 37_714), (1086.4, 9_778))]
    split = fit_losses(runs, 1200.0, rated_w=1000.0)
    for name, weights in (("Euro", EURO), ("CEC", CEC)):
        shown = worked.weighted(split, name, weights).formula
        parts = re.findall(r"([\d.]+)·η\((\d+) %\)", shown)
        assert sum(float(weight) for weight, _ in parts) == pytest.approx(1.0)
        assert len(parts) == len(weights)
