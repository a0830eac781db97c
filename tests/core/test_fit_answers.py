"""How fitted terms and a ledger's figures answer to their makings, against plain differences."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.ledger.cycle import Cycle, cycle_ledger
from yardtoll.core.ledger.loss_fit import IdleDraw, RunAtLoad
from yardtoll.core.ledger.losses import Term, fit_losses
from yardtoll.core.ledger.sensitivities import loss_fit_sensitivities
from yardtoll.core.uncertainty.budget import Budget, Evaluation, linear, rectangular

LOADS = (100.0, 400.0, 900.0, 1500.0)
NAMES = ("e0_wh", "p0_w", "p1", "p2_per_w")


def run(power_w, gain=0.0, e0=2000.0, p0=18.0, p1=0.05, p2=1.5e-5):
    hours = e0 / (power_w * (1 + p1) + p0 + p2 * power_w**2)
    return RunAtLoad(energy_wh=power_w * hours * (1 + gain), duration_s=3600 * hours)


def idle_of(watts):
    return None if watts is None else IdleDraw(watts=watts, u_w=0.1)


def terms(split):
    return np.array([getattr(split, name).value for name in NAMES])


@pytest.mark.parametrize("idle_w", [None, 18.0])
def test_the_sensitivities_are_what_a_second_fit_gives(idle_w):
    runs = [run(p, gain) for p, gain in zip(LOADS, (0.002, -0.001, 0.001, -0.002), strict=True)]
    split = fit_losses(runs, 2048, idle=idle_of(idle_w))
    by_run, by_idle = loss_fit_sensitivities(runs, split)
    for i, one in enumerate(runs):
        moved = replace(one, energy_wh=one.energy_wh + 0.01)
        again = fit_losses([*runs[:i], moved, *runs[i + 1 :]], 2048, idle=idle_of(idle_w))
        change = (terms(again) - terms(split)) / 0.01
        np.testing.assert_allclose(by_run[:, i], change, rtol=2e-3, atol=1e-9)
    if idle_w is None:
        assert not by_idle.any()
    else:
        change = (terms(fit_losses(runs, 2048, idle=idle_of(18.01))) - terms(split)) / 0.01
        np.testing.assert_allclose(by_idle, change, rtol=2e-3, atol=1e-9)


def test_one_load_answers_to_nothing():
    runs = [run(400.0)]
    by_run, by_idle = loss_fit_sensitivities(runs, fit_losses(runs, 2048))
    assert by_run.shape == (4, 1) and not by_run.any() and not by_idle.any()


def test_a_meter_that_is_one_percent_off_finds_everything_one_percent_off():
    """All energies × 1.01 is a station of 1.01 the store and overhead: the fit must scale."""
    runs = [run(p) for p in LOADS]
    by_run, _ = loss_fit_sensitivities(runs, fit_losses(runs, 2048))
    moved = by_run @ np.array([one.energy_wh for one in runs])
    e0, p0, _, p2 = terms(fit_losses(runs, 2048))
    np.testing.assert_allclose(moved, [e0, p0, 0.0, -p2], rtol=1e-4, atol=1e-9)


def test_the_budget_of_the_overhead_covers_the_truth():
    """Meters of ±1 % + 0.5 W, drawn at random within those limits: U must hold about 95 %."""
    random, inside = np.random.default_rng(3), 0
    for _ in range(400):
        gain = random.uniform(-0.01, 0.01)
        floors = random.uniform(-0.5, 0.5, len(LOADS))
        runs = []
        for power, floor in zip(LOADS, floors, strict=True):
            true = run(power, p1=0.0)
            watts = true.mean_w * (1 + gain) + floor
            runs.append(replace(true, energy_wh=watts * true.hours))
        split = fit_losses(runs, 2048)
        by_run, _ = loss_fit_sensitivities(runs, split)
        parts = []
        for i, one in enumerate(runs):
            lines = [
                rectangular("Meter gain", 0.01 * one.energy_wh, "", shared="gain"),
                rectangular("Meter floor", 0.5 * one.hours, ""),
            ]
            parts.append((Budget.of("Wh", lines), float(by_run[1, i])))
        inside += abs(split.p0_w.value - 18.0) <= linear("W", parts).expanded
    assert 0.93 <= inside / 400 <= 1.0


def test_lines_of_one_name_are_gathered_and_shared_ones_added():
    gain = rectangular("Gain", 1.0, "", shared="m")
    parts = [
        (Budget.of("Wh", [rectangular("Floor", 3.0, "a"), gain]), 1.0),
        (Budget.of("Wh", [rectangular("Floor", 4.0, "b"), gain]), -1.0),
    ]
    found = linear("Wh", parts)
    # 3 and 4 in quadrature are 5; one meter's gain falls out of a difference.
    (line,) = found.lines
    assert line.name == "Floor" and line.u == pytest.approx(5 / np.sqrt(3))
    assert line.why == "b, and of 1 more" and line.evaluation is Evaluation.B


@settings(max_examples=60, deadline=None)
@given(
    drawn=st.one_of(st.none(), st.floats(1800, 3000)),
    load=st.floats(80, 1500),
    floor=st.sampled_from([0.0, 10.0]),
    told=st.booleans(),
)
def test_a_ledger_answers_as_its_own_differences_say(drawn, load, floor, told):
    """Every stage and toll, by drawn, delivered and each fitted term; stages and tolls add up."""
    true = run(load)
    result = discharge_from_energies(
        [true.energy_wh], Rating(rated_wh=2048, soc_to=floor), duration_s=true.duration_s
    )
    split = fit_losses([run(p) for p in LOADS], 2048, idle=idle_of(18.0)) if told else None
    cycle = Cycle(discharge=result, drawn_wh=drawn, split=split, mean_sq_w2=result.mean_w**2)
    base = cycle_ledger(cycle)
    assert base.stages[-1].energy_wh == base.delivered_wh

    def check(moved, step, name):
        for before, after in zip(base.places, cycle_ledger(moved).places, strict=True):
            change = (after.energy_wh - before.energy_wh) / step
            expected = getattr(before.sensitivities, name)
            assert change == pytest.approx(expected, rel=1e-3, abs=1e-3), (before.title, name)

    if drawn is not None:
        check(replace(cycle, drawn_wh=drawn + 0.1), 0.1, "drawn")
    more = result.delivered_wh * 1e-5
    share = 1 + 1e-5
    moved = replace(result, delivered_wh=result.delivered_wh + more, mean_w=result.mean_w * share)
    check(
        replace(cycle, discharge=moved, mean_sq_w2=cycle.mean_sq_w2 * share**2), more, "delivered"
    )
    for name in NAMES if split is not None else ():
        value = getattr(split, name).value
        step = 1e-4 * value
        moved_split = replace(split, **{name: Term(value=value + step)})
        check(replace(cycle, split=moved_split), step, name)
