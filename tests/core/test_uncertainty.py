"""Budgets against published examples, another package and Monte Carlo; verdicts by simulation."""

import math

import numpy as np
import pytest
import uncertainties
from uncertainties import umath

from yardtoll.core.charge.analysis import ChargeWindow, recharge_from_energy
from yardtoll.core.conformance.verdict import Direction, Outcome, Rule, judge
from yardtoll.core.discharge.analysis import Rating, analyse_discharge, discharge_from_energies
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.budget import (
    Budget,
    Contribution,
    Evaluation,
    Measured,
    ratio,
    rectangular,
    station_mean,
    total,
)
from yardtoll.core.uncertainty.energy_budget import (
    discharge_budget,
    recharge_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.core.uncertainty.propagation import propagate

ONE_PERCENT = MeterAccuracy(reading_share=0.01, floor_w=0.5)


def line(name, u, degrees_of_freedom=math.inf, shared=""):
    return Contribution(
        name=name, why="", u=u, degrees_of_freedom=degrees_of_freedom, shared=shared
    )


class TestPublishedExamples:
    def test_jcgm_100_h1_end_gauge(self):
        # JCGM 100:2008, H.1.7 (figures from memory): u in nm with degrees of freedom.
        lines = [line("standard", 25, 18), line("difference", 9.7, 25.6)]
        lines += [line("expansion", 2.9, 50), line("temperature", 16.6, 2)]
        budget = Budget.of("nm", lines)
        assert budget.u == pytest.approx(32, abs=0.5)
        assert math.floor(budget.degrees_of_freedom) == 16
        assert budget.lines[0].name == "standard"
        assert sum(budget.share(part) for part in budget.lines) == pytest.approx(1)

    def test_jcgm_100_h2_simultaneous_resistance_and_reactance(self):
        # JCGM 100:2008, H.2 (figures from memory): V, I, φ with their correlations → R, X, Z.
        v, i, phi = 4.9990, 19.6610e-3, 1.04446
        u = np.array([0.0032, 0.0095e-3, 0.00075])
        r = np.array([[1, -0.36, 0.86], [-0.36, 1, -0.65], [0.86, -0.65, 1]])
        z = v / i
        gradient = np.array(
            [
                [math.cos(phi) / i, -z / i * math.cos(phi), -z * math.sin(phi)],
                [math.sin(phi) / i, -z / i * math.sin(phi), z * math.cos(phi)],
                [1 / i, -z / i, 0],
            ]
        )
        found = propagate(gradient, r * np.outer(u, u))
        assert (z * math.cos(phi), z * math.sin(phi), z) == pytest.approx(
            (127.732, 219.847, 254.260), abs=0.02
        )
        assert np.sqrt(np.diag(found)) == pytest.approx([0.071, 0.295, 0.236], abs=0.002)
        # The same by another package.
        inputs = uncertainties.correlated_values([v, i, phi], r * np.outer(u, u))
        other = [
            inputs[0] / inputs[1] * umath.cos(inputs[2]),
            inputs[0] / inputs[1] * umath.sin(inputs[2]),
            inputs[0] / inputs[1],
        ]
        assert np.sqrt(np.diag(found)) == pytest.approx([o.std_dev for o in other], rel=1e-6)

    def test_few_repeats_widen_k_by_students_t(self):
        # Student's t for 95.45 % and 4 degrees of freedom is 2.87 (JCGM 100:2008, table G.2).
        budget = Budget.of("Wh", [line("repeats", 3.0, 4)])
        assert budget.coverage_factor == pytest.approx(2.87, abs=0.005)
        assert Budget.of("Wh", [line("limits", 3.0)]).coverage_factor == 2.0
        mixed = Budget.of("Wh", [line("repeats", 1.0, 4), line("limits", 10.0)])
        assert mixed.coverage_factor == pytest.approx(2.0, abs=0.01)


class TestBudgets:
    @pytest.mark.parametrize("seed", range(50))
    def test_random_budgets_against_another_package_and_monte_carlo(self, seed):
        """A round trip with gains that may be shared, floors and timings that are not."""
        random = np.random.default_rng(seed)
        out_wh, in_wh = random.uniform(200, 4000), random.uniform(4000, 6000)
        one_meter = bool(seed % 2)
        gains = random.uniform(0.002, 0.02, 2)
        own = random.uniform(0.5, 20, 2)
        budgets = [
            Budget.of(
                "Wh",
                [
                    rectangular("Meter gain", gain * energy, "", shared=f"gain of {meter}"),
                    rectangular("Floor", limit, ""),
                ],
            )
            for gain, energy, limit, meter in (
                (gains[0], out_wh, own[0], "a"),
                (gains[0] if one_meter else gains[1], in_wh, own[1], "a" if one_meter else "b"),
            )
        ]
        parts = [Measured(value=v, budget=b) for v, b in zip((out_wh, in_wh), budgets, strict=True)]
        found = ratio(*parts, names=("Delivered", "Drawn"))

        first = uncertainties.ufloat(1, gains[0] / math.sqrt(3))
        second = first if one_meter else uncertainties.ufloat(1, gains[1] / math.sqrt(3))
        floors = [uncertainties.ufloat(0, limit / math.sqrt(3)) for limit in own]
        other = (out_wh * first + floors[0]) / (in_wh * second + floors[1])
        assert found.budget.u == pytest.approx(other.std_dev, rel=1e-6)
        summed = total(parts)
        assert summed.budget.u == pytest.approx(
            ((out_wh * first + floors[0]) + (in_wh * second + floors[1])).std_dev, rel=1e-6
        )

        # JCGM 101: propagation of the distributions themselves.
        n = 20_000
        a = random.uniform(-gains[0], gains[0], n)
        b = a if one_meter else random.uniform(-gains[1], gains[1], n)
        drawn = (out_wh * (1 + a) + random.uniform(-own[0], own[0], n)) / (
            in_wh * (1 + b) + random.uniform(-own[1], own[1], n)
        )
        assert found.budget.u == pytest.approx(float(np.std(drawn)), rel=0.03)

    def test_what_one_meters_gain_has_in_common_falls_out_of_a_round_trip(self):
        window = ChargeWindow(rated_wh=2048)
        out = discharge_from_energies([1800], Rating(rated_wh=2048), duration_s=4 * 3600)
        back = recharge_from_energy(2100, window, duration_s=2 * 3600)

        def round_trip(meters):
            return ratio(
                Measured(value=1800, budget=discharge_budget(out, [ONE_PERCENT], [meters[0]])),
                Measured(value=2100, budget=recharge_budget(back, ONE_PERCENT, meters[1])),
                names=("Delivered", "Drawn"),
            )

        same, apart = round_trip("aa"), round_trip("ab")
        # By hand: floors of 0.5 W over 4 h and 2 h remain.
        floors = math.hypot(2 / 1800, 1 / 2100) / math.sqrt(3) * 1800 / 2100
        # Half of the gain's variance belongs to each level: √(2·½) of one run's stays.
        levels = math.sqrt(2 * 0.5) * 0.01 / math.sqrt(3) * 1800 / 2100
        assert same.budget.u == pytest.approx(math.hypot(levels, floors), rel=1e-9)
        gains = math.sqrt(2) * 0.01 / math.sqrt(3) * 1800 / 2100
        assert apart.budget.u == pytest.approx(math.hypot(gains, floors), rel=1e-9)
        assert not [part for part in same.budget.lines if "common" in part.name and part.u]

    def test_two_logs_of_one_meter_are_off_together(self):
        result = discharge_from_energies([900, 900], Rating(rated_wh=2048), duration_s=3600)
        bare = MeterAccuracy(reading_share=0.01, floor_w=0)
        together = discharge_budget(result, [bare], ["m", "m"])
        assert together.u == pytest.approx(18 / math.sqrt(3))
        assert {part.name for part in together.lines} == {
            "Meter gain, common", "Meter gain, at this level",
        }  # fmt: skip
        assert together.of_its_own().lines == ()

    def test_the_ends_matter_to_power_samples_and_not_to_a_counter(self):
        t = np.arange(0, 3700, 10.0)
        power = np.where((t >= 60) & (t <= 3660), 361.7, 0.0)
        counted = np.concatenate([[0.0], np.cumsum((power[1:] + power[:-1]) / 2 * 10 / 3600)])
        samples = Trace(name="p", time_s=t, columns={Quantity.POWER: power})
        both = {Quantity.POWER: power, Quantity.ENERGY: np.round(counted, 2)}
        counter = Trace(name="c", time_s=t, columns=both)
        exact = MeterAccuracy(reading_share=0, floor_w=0)

        def lines(trace):
            result = analyse_discharge([trace], Rating(rated_wh=500))
            budget = discharge_budget(result, [exact])
            return {part.name: part.u for part in budget.lines}

        # Half an interval of 10 s at 361.7 W, at either end; steps of 0.01 Wh: 0.005.
        found = lines(samples)
        half = 5 * 361.7 / 3600 / math.sqrt(3)
        assert found["Cut-off timing"] == found["Load-on timing"] == pytest.approx(half)
        counted_lines = lines(counter)
        assert counted_lines == {"Meter resolution": pytest.approx(0.005 * math.sqrt(2 / 3))}

    @pytest.mark.parametrize(
        ("levels", "step_w"),
        [((400.0, 200.0), 1.0), (np.arange(300.0, 500.0, 5.0), 5.0),
         (np.arange(300.0, 310.0, 0.1), 0.1), ((400.0,), 0.0)],
    )  # fmt: skip
    def test_the_digits_of_a_meter_are_read_off_its_watts(self, levels, step_w):
        t = np.arange(0, 7300, 10.0)
        power = np.where((t >= 60) & (t <= 7260), np.resize(np.round(levels, 1), t.size), 0.0)
        trace = Trace(name="p", time_s=t, columns={Quantity.POWER: power})
        (fine,) = analyse_discharge([trace], Rating(rated_wh=5000)).limits
        assert fine.resolution_wh == pytest.approx(step_w / 2 * 7210 / 3600, rel=1e-6)

    def test_coarse_samples_of_a_load_that_switches_are_doubted(self):
        t = np.arange(0, 7200, 60.0)
        power = np.where((t >= 120) & (t < 7000), np.where((t // 300) % 2 < 1, 800.0, 3.0), 0.0)
        trace = Trace(name="p", time_s=t, columns={Quantity.POWER: power})
        result = analyse_discharge([trace], Rating(rated_wh=2000))
        (fine,) = result.limits
        # By hand: 23 changes of 797 W, each somewhere in its minute: √23 · 797 · 60 ÷ √12.
        assert fine.sampling_u_wh == pytest.approx(23**0.5 * 797 / 60 / 12**0.5, rel=0.1)
        steady = np.where((t >= 120) & (t < 7000), 400.0, 0.0)
        level = Trace(name="p", time_s=t, columns={Quantity.POWER: steady})
        assert analyse_discharge([level], Rating(rated_wh=2000)).limits[0].sampling_u_wh == 0

    @pytest.mark.parametrize("count", [1, 2, 3, 6])
    def test_what_a_station_does_from_run_to_run_pools_a_prior_with_the_scatter(self, count):
        """By hand: 0.5 % with 6 degrees, and the runs' own with one less than there are."""
        values = 1000 + 10 * np.arange(count)
        gain = rectangular("Meter gain, common", 5.0, "±", shared="gain of 1", of_gain=True)
        runs = [Measured(value=float(v), budget=Budget.of("Wh", [gain])) for v in values]
        found = station_mean(runs, 0.005, 6.0)
        assert found.value == pytest.approx(values.mean())
        squares = float(((values - values.mean()) ** 2).sum())
        degrees_of_freedom = 6 + count - 1
        pooled = math.sqrt((6 * (0.005 * values.mean()) ** 2 + squares) / degrees_of_freedom)
        lines = {part.name: part for part in found.budget.lines}
        assert lines["Run to run"].u == pytest.approx(pooled / math.sqrt(count))
        assert lines["Run to run"].degrees_of_freedom == degrees_of_freedom
        # What all readings of the meter have in common does not shrink with repeats.
        assert lines["Meter gain, common"].u == pytest.approx(5 / math.sqrt(3))
        assert found.budget.coverage_factor > 2

    def test_own_draw_is_known_to_a_tenth(self):
        result = discharge_from_energies(
            [254], Rating(rated_wh=299.5), duration_s=3000, own_draw_w=[2]
        )
        budget = discharge_budget(result, [MeterAccuracy(reading_share=0, floor_w=0)])
        assert [(part.name, part.why) for part in budget.lines] == [("Own draw", "±10 % of 1.7 Wh")]
        assert budget.u == pytest.approx(0.1 * 2 * 50 / 60 / math.sqrt(3))

    def test_a_window_adds_the_displays_steps(self):
        result = discharge_from_energies(
            [1560], Rating(rated_wh=2048, soc_to=10), duration_s=4 * 3600
        )
        budget = discharge_budget(result, [MeterAccuracy(reading_share=0, floor_w=0.5)])
        window = usable_ratio_window(result, budget)
        step = window.value * 0.005 / 0.9 / math.sqrt(3)
        floor = 2 / math.sqrt(3) / (2048 * 0.9)
        assert window.budget.u == pytest.approx(math.hypot(step, floor))
        assert [part.name for part in window.budget.lines] == ["Display step, end", "Meter floor"]
        rated = usable_ratio(result, budget)
        assert rated.budget.u == pytest.approx(2 / math.sqrt(3) / 2048)

    def test_kinds_of_evaluation(self):
        assert rectangular("x", 1, "").evaluation is Evaluation.B
        assert Budget.of("W", [line("nothing", 0.0)]).lines == ()
        assert Budget.of("W", []).expanded == 0.0


class TestVerdictsBySimulation:
    def test_the_guarded_rule_passes_a_station_on_the_limit_at_most_once_in_forty(self):
        # JCGM 106:2012, 8.3.2: a guard band of U leaves 2.3 % for a true value on the limit.
        random = np.random.default_rng(11)
        u, limit, n = 0.004, 0.85, 20_000
        seen = random.normal(limit, u, n)
        passed = sum(
            judge(float(v), 2 * u, limit, Direction.AT_LEAST).outcome is Outcome.MEETS for v in seen
        )
        assert 0.019 < passed / n <= 0.025
        simple = sum(
            judge(float(v), 2 * u, limit, Direction.AT_LEAST, Rule.SIMPLE).outcome is Outcome.MEETS
            for v in seen
        )
        assert simple / n == pytest.approx(0.5, abs=0.02)

    def test_a_wider_k_leaves_the_probability_as_it_is(self):
        # The same u = 0.005 as U of k = 2 and of k = 4.3: Φ(2) = 0.9772 by table.
        for k in (2.0, 4.3):
            found = judge(0.86, 0.005 * k, 0.85, Direction.AT_LEAST, coverage_factor=k)
            assert found.probability == pytest.approx(0.9772, abs=1e-4)

    def test_within_a_tolerance_both_sides_count(self):
        found = judge(120.0, 4.0, 120.0, Direction.WITHIN, tolerance=6.0)
        # Φ(3) − Φ(−3) by table.
        assert found.probability == pytest.approx(0.9973, abs=1e-4)
        assert found.outcome is Outcome.MEETS and found.margin == 6.0
        assert judge(113.0, 2.0, 120.0, Direction.WITHIN, tolerance=6.0).outcome is (
            Outcome.TOO_CLOSE
        )
        below = judge(110.0, 2.0, 120.0, Direction.WITHIN, tolerance=6.0)
        assert below.outcome is Outcome.FALLS_SHORT and below.margin == -4.0


def test_a_meter_without_limits_does_not_claim_to_have_none():
    assert str(MeterAccuracy(reading_share=0, floor_w=0)) == "(no limits in W stated)"
    assert str(MeterAccuracy(reading_share=0.005, floor_w=0)) == "±(0.5 % + 0 W)"
