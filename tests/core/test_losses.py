"""The loss split against known truth and hand-made efficiencies, its refusals; idle draw."""

import numpy as np
import pytest

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.idle import idle_draw
from yardtoll.core.losses import EURO, RunAtLoad, fit_losses
from yardtoll.core.trace import Code

TRUTH = {"e0": 2000.0, "p0": 18.0, "p1": 0.05, "p2": 1.5e-5}


def run(power_w, noise=0.0, truth=TRUTH):
    """A whole discharge at a steady load, by the model itself."""
    battery = power_w * (1 + truth["p1"]) + truth["p0"] + truth["p2"] * power_w**2
    hours = truth["e0"] / battery
    return RunAtLoad(energy_wh=power_w * hours * (1 + noise), duration_s=3600 * hours)


class TestExact:
    def test_three_runs_without_idle_are_as_seen_at_the_outlet(self):
        split = fit_losses([run(p) for p in (100, 500, 1500)], 2048)
        seen = 1 + TRUTH["p1"]
        assert split.e0_wh.value == pytest.approx(TRUTH["e0"] / seen)
        assert split.p0_w.value == pytest.approx(TRUTH["p0"] / seen)
        assert split.p2_per_w.value == pytest.approx(TRUTH["p2"] / seen)
        assert split.p1.value == 0 and split.e0_wh.u is None
        assert split.fixed == (
            ("p1", "cannot be told from the store without an idle test: held at 0"),
        )
        assert split.delivered_wh(700) == pytest.approx(run(700).energy_wh)

    def test_an_idle_test_sets_the_scale(self):
        split = fit_losses([run(p) for p in (100, 500, 1500)], 2048, idle_w=18)
        assert split.e0_wh.value == pytest.approx(2000, rel=1e-6)
        assert split.p1.value == pytest.approx(0.05, rel=1e-5)
        assert split.p2_per_w.value == pytest.approx(1.5e-5, rel=1e-5)
        assert split.p0_w.value == 18 and split.fixed == (("p0", "known from the idle test"),)

    def test_two_runs_give_store_and_overhead(self):
        flat = {**TRUTH, "p1": 0.0, "p2": 0.0}
        split = fit_losses([run(p, truth=flat) for p in (100, 500)], 2048)
        assert split.e0_wh.value == pytest.approx(2000)
        assert split.p0_w.value == pytest.approx(18)
        assert dict(split.fixed)["p2"].startswith("needs runs at three loads")

    def test_the_mean_square_counts_where_a_load_is_switched(self):
        # Half the time at 800 W, half at none: mean 400 W, mean square 320 000 W².
        switched = RunAtLoad(energy_wh=400, duration_s=3600, mean_sq_w2=320_000)
        assert switched.square_w2h == pytest.approx(320_000)
        assert RunAtLoad(energy_wh=400, duration_s=3600).square_w2h == pytest.approx(160_000)
        with pytest.raises(ValueOutOfRangeError, match="mean_sq_w2"):
            RunAtLoad(energy_wh=400, duration_s=3600, mean_sq_w2=100_000)


class TestRefusals:
    def test_one_run_tells_nothing(self):
        split = fit_losses([run(400)], 2048, rated_w=2000)
        assert split.has(Code.NOT_SEPARABLE)
        assert [t.value for t in (split.e0_wh, split.p0_w, split.p1, split.p2_per_w)] == [None] * 4
        assert split.euro_efficiency is None and split.delivered_wh(400) is None

    def test_runs_at_one_load_tell_nothing_apart(self):
        split = fit_losses([run(400), run(402), run(405)], 2048)
        assert split.has(Code.NOT_SEPARABLE) and "at about one load" in split.notices[0].message

    def test_a_negative_overhead_is_held_at_its_bound_and_told(self):
        # A slow run that delivers more than a quick one.
        runs = [RunAtLoad(energy_wh=1900, duration_s=19 * 3600),
                RunAtLoad(energy_wh=1800, duration_s=2 * 3600)]  # fmt: skip
        split = fit_losses(runs, 2048)
        assert split.p0_w.value == 0 and split.has(Code.BOUND_REACHED)
        assert split.has(Code.POOR_FIT)

    def test_a_store_above_the_rating_points_at_a_bad_run(self):
        split = fit_losses([run(p) for p in (100, 500, 1500)], 1500)
        assert split.has(Code.STORE_ABOVE_RATED) and not split.has(Code.POOR_FIT)

    def test_values_out_of_range(self):
        for bad in ({"rated_wh": 0}, {"rated_wh": 1, "idle_w": -1}, {"rated_wh": 1, "rated_w": 0}):
            with pytest.raises(ValueOutOfRangeError):
                fit_losses([run(100)], **bad)
        with pytest.raises(UnusableDataError):
            fit_losses([], 2048)
        with pytest.raises(ValueOutOfRangeError):
            RunAtLoad(energy_wh=0, duration_s=1)


class TestCoverage:
    def test_the_95_percent_intervals_hold_the_truth_as_often_as_they_say(self):
        random = np.random.default_rng(5)
        inside = {"e0_wh": [], "p0_w": []}
        for _ in range(200):
            rated = random.uniform(250, 5000)
            rated_w = rated * random.uniform(0.6, 1.2)
            truth = {
                "e0": rated * random.uniform(0.93, 0.99),
                "p0": rated * random.uniform(0.004, 0.015),
                "p1": random.uniform(0.02, 0.08), "p2": random.uniform(0.01, 0.05) / rated_w,
            }  # fmt: skip
            count = int(random.integers(3, 7))
            loads = rated_w * random.choice(np.arange(0.05, 1.0, 0.06), count, replace=False)
            runs = [run(p, random.normal(0, 0.003), truth) for p in loads]
            split = fit_losses(runs, rated)
            seen = 1 + truth["p1"]
            for name, true in (("e0_wh", truth["e0"] / seen), ("p0_w", truth["p0"] / seen)):
                term = getattr(split, name)
                if term.low is not None:
                    inside[name].append(term.low <= true <= term.high)
        for held in inside.values():
            assert len(held) > 100 and 0.90 <= np.mean(held) <= 0.99


class TestWeightedEfficiency:
    # IEC 61683, EN 50530 and CEC weights (from memory); the table is worked by hand.
    def test_against_a_hand_made_table(self):
        truth = {"e0": 1000.0, "p0": 10.0, "p1": 0.0, "p2": 0.0}
        split = fit_losses([run(p, truth=truth) for p in (100, 800)], 1000, rated_w=1000)
        eta = {s: s * 10 / (s * 10 + 10) for s in (5, 10, 20, 30, 50, 75, 100)}
        euro = (0.03 * eta[5] + 0.06 * eta[10] + 0.13 * eta[20] + 0.10 * eta[30]
                + 0.48 * eta[50] + 0.20 * eta[100])  # fmt: skip
        cec = (0.04 * eta[10] + 0.05 * eta[20] + 0.12 * eta[30] + 0.21 * eta[50]
               + 0.53 * eta[75] + 0.05 * eta[100])  # fmt: skip
        assert split.euro_efficiency == pytest.approx(euro)
        assert split.cec_efficiency == pytest.approx(cec)

    def test_no_losses_are_100_percent(self):
        none = {"e0": 1000.0, "p0": 0.0, "p1": 0.0, "p2": 0.0}
        split = fit_losses([run(p, truth=none) for p in (100, 800)], 1000, rated_w=1000)
        assert split.euro_efficiency == pytest.approx(1) and split.cec_efficiency == pytest.approx(
            1
        )


class TestIdle:
    # Common practice, no source: 15 % in 10 h of 1280 Wh.
    def test_draw(self):
        found = idle_draw(1280, 100, 85, 36_000)
        assert found.idle_w == pytest.approx(19.2) and found.percent_per_hour == pytest.approx(1.5)
        assert found.hours_to_empty == pytest.approx(66.67, abs=0.01)
        # By hand: two readings of ± 0.5 point, rectangular: 2·√2·0.5/√3 points of 12.8 Wh in 10 h.
        assert found.idle_w_expanded == pytest.approx(2 * np.sqrt(2) * 0.5 / np.sqrt(3) * 1.28)

    def test_nothing_used(self):
        assert idle_draw(1280, 90, 90, 3600).hours_to_empty is None

    def test_values_out_of_range(self):
        with pytest.raises(UnusableDataError, match="rose from 80 to 85 %"):
            idle_draw(1280, 80, 85, 3600)
        for bad in ((0, 100, 90, 1), (1, 101, 90, 1), (1, 100, -1, 1), (1, 100, 90, 0)):
            with pytest.raises(ValueOutOfRangeError):
                idle_draw(*bad)


class TestUncertaintyOfWhatFollows:
    """The curve's ± and the weighted efficiency's, from the terms' covariance."""

    LOADS = (100, 300, 700, 1100, 1600)

    def noisy(self, seed):
        random = np.random.default_rng(seed)
        return fit_losses(
            [run(p, noise=random.normal(0, 0.004)) for p in self.LOADS], 2048, rated_w=2000
        )

    def test_an_exact_fit_has_no_uncertainty_to_tell(self):
        split = fit_losses([run(p) for p in (100, 500, 1500)], 2048, rated_w=2000)
        assert split.scatter_u(split.delivered_gradient(500)) is None
        assert fit_losses([run(400)], 2048).covariance is None

    def test_the_curve_against_the_other_package(self):
        import uncertainties

        split = self.noisy(1)
        terms = [split.e0_wh.value, split.p0_w.value, split.p1.value, split.p2_per_w.value]
        e0, p0, p1, p2 = uncertainties.correlated_values(terms, split.covariance)
        for power in (150.0, 800.0, 1900.0):
            delivered = e0 * power / (power + p0 + p1 * power + p2 * power**2)
            u = split.scatter_u(split.delivered_gradient(power))
            assert u == pytest.approx(delivered.std_dev, rel=1e-6)
        weights = ((5, 0.03), (10, 0.06), (20, 0.13), (30, 0.10), (50, 0.48), (100, 0.20))
        euro = sum(
            w * (20 * s) / (20 * s + p0 + p1 * 20 * s + p2 * (20 * s) ** 2) for s, w in weights
        )
        assert split.euro_efficiency == pytest.approx(euro.nominal_value)
        u = split.scatter_u(split.weighted_gradient(EURO))
        assert u == pytest.approx(euro.std_dev, rel=1e-6)

    def test_the_curve_holds_the_truth_as_often_as_it_says(self):
        # 95 % of a Student's t with 2 degrees of freedom is 4.30 u on either side (by table).
        inside = 0
        for seed in range(200):
            split = self.noisy(seed)
            off = abs(split.delivered_wh(500) - run(500).energy_wh)
            inside += off <= 4.30 * split.scatter_u(split.delivered_gradient(500))
        assert 0.90 <= inside / 200 <= 0.995

    def test_a_load_of_nothing_has_no_answer(self):
        split = self.noisy(1)
        assert split.delivered_wh(0) is None
