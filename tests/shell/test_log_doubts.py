"""What a log cannot be trusted for, from files as meters write them, and what that keeps back."""

import numpy as np
import pytest

HOUR = 3600.0


def written(tmp_path, name, columns, rows):
    path = tmp_path / name
    lines = [columns, *(",".join(f"{value:g}" for value in row) for row in rows)]
    path.write_text("\n".join(lines) + "\n")
    return path


def steady(hours=1.0, interval_s=10.0, watts=400.0, lead_s=120.0, seed=1):
    """(n,) s and W of a run whose last digits wander."""
    t = np.arange(0, hours * HOUR + 2 * lead_s, interval_s)
    wander = np.random.default_rng(seed).normal(0, 0.4, t.size).round(1)
    on = (t >= lead_s) & (t < lead_s + hours * HOUR)
    return t, np.where(on, watts + wander, 0.0)


def log(tmp_path, t, p, name="log.csv"):
    return written(tmp_path, name, "time (s),Power (W)", zip(t, p, strict=True))


def codes(found):
    return {w["code"] for w in found["warnings"]}


class TestFound:
    def test_a_plain_log_has_no_doubts(self, discharge, tmp_path):
        found = discharge(log(tmp_path, *steady()), "--rated-wh", 1000)
        assert codes(found) == set() and found["end_seen"] is True
        assert found["delivered_wh"] == pytest.approx(400, abs=0.5)

    def test_a_meter_that_froze(self, discharge, tmp_path):
        t, p = steady()
        frozen = p.copy()
        frozen[150:280] = frozen[150]
        found = discharge(log(tmp_path, t, frozen), "--rated-wh", 1000)
        assert codes(found) == {"frozen"}
        (message,) = [w["message"] for w in found["warnings"]]
        assert "nothing changes for" in message
        # A meter of whole watts on a resistive load repeats itself as well, from the beginning.
        found = discharge(log(tmp_path, t, np.round(p, -2)), "--rated-wh", 1000)
        assert "frozen" not in codes(found)

    def test_power_that_came_back(self, discharge, tmp_path):
        t, p = steady()
        t = np.append(t, t[-1] + np.arange(10, 2000, 10))
        p = np.append(p, np.where(np.arange(199) > 60, 400.0, 0.0))
        found = discharge(log(tmp_path, t, p), "--rated-wh", 1000)
        assert "restarted" in codes(found)
        assert found["delivered_wh"] == pytest.approx(400, abs=0.5)
        assert found["after_cutoff_wh"] == pytest.approx(400 * 1380 / HOUR, rel=0.02)

    def test_a_thermostat_does_not_end_the_run(self, discharge, tmp_path):
        t = np.arange(0, 4 * HOUR, 10.0)
        on = (t >= 60) & ((t % 900) < 600) & (t < 3.8 * HOUR)
        found = discharge(log(tmp_path, t, np.where(on, 800.0, 0.0)), "--rated-wh", 5000)
        assert "restarted" not in codes(found)
        assert found["duration_s"] > 3.6 * HOUR

    def test_a_wild_sample_is_left_out_and_an_inrush_stays(self, discharge, tmp_path):
        t, p = steady()
        wild = p.copy()
        wild[200] = 9999
        found = discharge(log(tmp_path, t, wild), "--rated-wh", 1000)
        assert codes(found) == {"spike"} and found["spikes"] == 1
        assert found["max_w"] < 410
        t, p = steady(interval_s=1.0)
        p[np.flatnonzero(p)[0]] = 3000  # a motor starts: at once the power is at a new level
        found = discharge(log(tmp_path, t, p), "--rated-wh", 1000)
        assert codes(found) == set() and found["spikes"] == 0 and found["max_w"] == 3000

    def test_power_that_flowed_backwards(self, discharge, tmp_path):
        t, p = steady()
        p[t > 3 * HOUR / 4] *= -1
        found = discharge(log(tmp_path, t, p), "--rated-wh", 1000)
        assert "negative_power" in codes(found)
        assert found["negative_wh"] == pytest.approx(400 * (3720 - 2700) / HOUR, rel=0.01)
        assert found["delivered_wh"] == pytest.approx(400 * (2700 - 120) / HOUR, rel=0.01)

    @pytest.mark.parametrize("interval_s", [600.0, 60.0])
    def test_too_few_samples(self, discharge, tmp_path, interval_s):
        t, p = steady(interval_s=interval_s, lead_s=1200)
        if interval_s == 60.0:  # enough of them, but every third is at another level
            p[::3] *= 0.3
        found = discharge(log(tmp_path, t, p), "--rated-wh", 1000)
        assert "sparse" in codes(found)

    def test_a_log_of_changes_is_held_between_them(self, discharge, tmp_path):
        random = np.random.default_rng(3)
        steps = np.concatenate([random.uniform(1, 4, 30), random.uniform(30, 400, 30)])
        random.shuffle(steps)
        t = np.concatenate([[0], 60 + np.cumsum(steps)])
        p = np.concatenate([[0], 400 + np.arange(60) % 7, []])
        p[-1] = 0
        found = discharge(log(tmp_path, t, p), "--rated-wh", 5000)
        assert "on_change" in codes(found) and found["gaps"] == []
        held = np.sum(p[:-1] * np.diff(t)) / HOUR
        assert found["delivered_wh"] == pytest.approx(held, rel=0.002)

    def test_on_change_may_be_said(self, discharge, tmp_path):
        t = np.array([0, 60, 660, 1260, 3660, 3700.0])
        p = np.array([0, 400, 380, 400, 0, 0.0])
        found = discharge(log(tmp_path, t, p), "--rated-wh", 1000, "--on-change")
        assert {"on_change"} <= codes(found)
        held = (400 * 600 + 380 * 600 + 400 * 2400) / HOUR
        assert found["delivered_wh"] == pytest.approx(held, rel=0.002)

    def test_more_than_rated(self, discharge, tmp_path):
        found = discharge(log(tmp_path, *steady()), "--rated-wh", 390)
        assert codes(found) == {"above_rated"}


class TestTwoLogs:
    def clocked(self, tmp_path, name, begins, t, p):
        rows = [f"2026-05-14T{begins + int(s) // 3600:02d}:{int(s) % 3600 // 60:02d}:"
                f"{int(s) % 60:02d}Z,{w:g}" for s, w in zip(t, p, strict=True)]  # fmt: skip
        path = tmp_path / name
        path.write_text("\n".join(["time,Power (W)", *rows]) + "\n")
        return path

    def test_an_hour_between_two_clocks(self, discharge, tmp_path):
        t, p = steady()
        _, q = steady(watts=300, seed=2)
        one, two = (
            self.clocked(tmp_path, name, begins, t, w)
            for name, begins, w in (("a.csv", 9, p), ("b.csv", 10, q))
        )
        found = discharge(one, two, "--rated-wh", 1000)
        assert "clocks_differ" in codes(found)
        assert found["delivered_wh"] == pytest.approx(700, abs=1)

    def test_logs_one_after_another(self, discharge, tmp_path):
        t, p = steady()
        t2, q = steady(hours=0.4, watts=300, seed=2)
        one = self.clocked(tmp_path, "a.csv", 9, t, p)
        two = self.clocked(tmp_path, "b.csv", 13, t2, q)
        found = discharge(one, two, "--rated-wh", 1000)
        assert "not_side_by_side" in codes(found)

    def test_side_by_side_is_no_doubt(self, discharge, tmp_path):
        t, p = steady()
        _, q = steady(watts=300, seed=2)
        one = self.clocked(tmp_path, "a.csv", 9, t, p)
        two = self.clocked(tmp_path, "b.csv", 9, t, q)
        assert codes(discharge(one, two, "--rated-wh", 1000)) == set()


class TestVoltsTimesAmps:
    @pytest.fixture
    def ac(self, tmp_path):
        t, p = steady()
        volts = np.full(t.size, 120.0)
        amps = np.round(p / 120 / 0.8, 4)
        return written(tmp_path, "va.csv", "s,Voltage (V),Current (A)",
                       zip(t, volts, amps, strict=True))  # fmt: skip

    def test_without_a_power_factor_it_is_apparent_power(self, discharge, ac):
        found = discharge(ac, "--rated-wh", 1000)
        assert codes(found) == {"volts_amps_without_pf"}
        assert found["delivered_wh"] == pytest.approx(500, abs=1)

    def test_with_one_it_is_power(self, discharge, ac):
        found = discharge(ac, "--rated-wh", 1000, "--pf", 0.8)
        assert codes(found) == set()
        assert found["delivered_wh"] == pytest.approx(400, abs=1)

    def test_on_dc_it_is_power(self, discharge, ac, tmp_path):
        assert codes(discharge(ac, "--rated-wh", 1000, "--dc")) == set()
        t, p = steady(watts=100)
        rows = zip(t, np.full(t.size, 13.1), np.round(p / 13.1, 4), strict=True)
        low = written(tmp_path, "dc.csv", "s,Voltage (V),Current (A)", rows)
        assert codes(discharge(low, "--rated-wh", 1000)) == set()


class TestRefused:
    @pytest.mark.parametrize("header", [
        "time,Humidity (%)", "time,CO2 (ppm)", "time,Temperature (°C)", "time,Pressure (hPa)",
        "time,Fan (RPM)",
    ])  # fmt: skip
    def test_a_log_of_something_else_is_not_watts(self, refused, tmp_path, header):
        path = tmp_path / "other.csv"
        rows = [f"{s * 10},{400 + s % 7}" for s in range(100)]
        path.write_text("\n".join([header, *rows]) + "\n")
        said = refused("discharge", path, "--rated-wh", 1000)
        assert "other.csv" in said and "power" in said

    def test_a_log_that_does_not_say_which_column_is_power(self, refused, tmp_path):
        path = tmp_path / "bare.csv"
        path.write_text("\n".join(f"{s * 10},{400 + s % 7},{20 + s % 3}" for s in range(100)))
        said = refused("discharge", path, "--rated-wh", 1000)
        assert "--map" in said


class TestWhatTheyKeepBack:
    def verdict(self, shell, *more):
        return shell("verdict", "--claim", "usable_ratio >= 0.85", "--value", 0.9, "--U", 0.01,
                     *more)  # fmt: skip

    @pytest.mark.parametrize("code", ["above_rated", "frozen", "restarted", "end_not_seen"])
    def test_meets_is_not_said_until_it_is_explained(self, shell, code):
        assert self.verdict(shell)["verdict"] == "meets"
        found = self.verdict(shell, "--doubt", code)
        assert found["verdict"] == "cannot_be_judged" and found["reason"]
        assert self.verdict(shell, "--doubt", code, "--explained", code)["verdict"] == "meets"

    def test_a_shortfall_and_the_simple_rule_are_kept_from_nothing(self, shell):
        short = shell("verdict", "--claim", "usable_ratio >= 0.95", "--value", 0.9, "--U", 0.01,
                      "--doubt", "frozen")  # fmt: skip
        assert short["verdict"] == "falls_short"
        assert self.verdict(shell, "--doubt", "frozen", "--rule", "simple")["verdict"] == "meets"

    def test_a_doubt_there_is_none_of_is_wrong_usage(self, wrong_usage):
        wrong_usage("verdict", "--claim", "x >= 1", "--value", 2, "--U", 0.1, "--doubt", "weather")

    def test_few_repeats_take_students_t(self, shell):
        # Three runs: t(0.975-ish, 2) widens the tail. Φ(1.5·…) against T of 2 degrees, by table.
        wide = shell("verdict", "--claim", "x >= 100", "--value", 101, "--U", 4.303, "--dof", 2)
        # u = U/t(2, 95.45 %) = 4.303/4.527; t = 1/0.9505 = 1.052: P(T2 < 1.052) = 0.799.
        assert wide["probability"] == pytest.approx(0.799, abs=0.005)
        normal = shell("verdict", "--claim", "x >= 100", "--value", 101, "--U", 4.303)
        assert normal["probability"] == pytest.approx(0.679, abs=0.001)  # Φ(1 / 2.1515)

    def test_likely_is_what_shared_was(self, shell):
        for rule in ("likely", "shared"):
            found = shell("verdict", "--claim", "x >= 100", "--value", 101, "--U", 4, "--rule",
                          rule)  # fmt: skip
            assert found["verdict"] == "meets" and found["rule"] == "likely"

    def test_an_uncertainty_wider_than_the_tolerance_decides_nothing(self, shell):
        for rule in ("guarded", "likely"):
            found = shell("verdict", "--claim", "x = 100 ± 2", "--value", 100, "--U", 3, "--rule",
                          rule)  # fmt: skip
            assert found["verdict"] == "too_close_to_call"
            assert codes(found) == {"uncertainty_exceeds_tolerance"}
