"""The other kinds of `compute`: mix, claims, recharge, losses, idle, array, sun."""

import json

import pytest


class TestMix:
    LOADS = json.dumps(
        [
            {"name": "Heater", "kind": "resistive", "count": 1,
             "settings": [{"name": "low", "watts": 412}, {"name": "high", "watts": 1500}]},
            {"name": "Lamp", "kind": "electronic", "count": 4,
             "settings": [{"name": "on", "watts": 60}]},
        ]
    )  # fmt: skip

    @pytest.fixture
    def loads(self, tmp_path):
        path = tmp_path / "loads.json"
        path.write_text(self.LOADS)
        return path

    def test_json(self, run, loads):
        code, out, err = run("compute", "mix", "--target-w", 410, "--loads", loads, "--json")
        found = json.loads(out)
        assert (code, err) == (0, "")
        assert list(found) == ["best", "optimal", "ruled_out", "warnings"]
        assert found["optimal"] is True and found["ruled_out"] == found["warnings"] == []
        assert found["best"][0] == {
            "loads": [{"name": "Heater", "setting": "low", "count": 1, "watts": 412.0}],
            "total_w": 412.0, "off_w": 2.0,
        }  # fmt: skip

    def test_a_circuit_over_hours_rules_out(self, run, loads):
        code, out, _ = run(
            "compute", "mix", "--target-w", 1500, "--loads", loads, "--circuit", "15 A 120 V",
            "--hours", 4, "--inverter-w", 3000, "--json",
        )  # fmt: skip
        found = json.loads(out)
        assert code == 0 and found["best"][0]["total_w"] == 652
        assert found["ruled_out"][0]["limit"].startswith("circuit 15 A 120 V, 80 %")
        assert found["warnings"][0]["code"] == "target_out_of_reach"

    def test_table(self, run, loads):
        _, out, _ = run("compute", "mix", "--target-w", 410, "--loads", loads)
        assert out.splitlines()[0] == "   412.0 W     +2.0 W  Heater, low"

    def test_bad_values(self, run, loads, tmp_path):
        base = ("compute", "mix", "--loads", loads)
        code, _, err = run(*base, "--target-w", -1)
        assert (code, err) == (1, "yardtoll: --target-w is -1; it must be above 0 W\n")
        assert run(*base, "--target-w", 400, "--circuit", "fifteen")[0] == 2
        assert run(*base)[0] == 2
        code, _, err = run("compute", "mix", "--target-w", 1, "--loads", tmp_path / "no.json")
        assert code == 1 and "no.json cannot be read" in err


class TestClaims:
    def test_json(self, run, tmp_path):
        path = tmp_path / "listing.txt"
        path.write_text("Capacity: 2,048 Wh\n0–80% in 45 mins\nPure sine\nSize: 30 cm\n", "utf-8")
        code, out, err = run("compute", "claims", path, "--json")
        found = json.loads(out)
        assert (code, err) == (0, "")
        keys = ["quantity", "value", "unit", "condition", "wording", "text", "confidence"]
        assert all(list(claim) == keys for claim in found["claims"])
        values = {c["quantity"]: (c["value"], c["unit"], c["condition"]) for c in found["claims"]}
        assert values == {
            "rated_wh": (2048.0, "Wh", ""),
            "recharge_min": (45.0, "min", "0–80 %"),
            "pure_sine": (True, "", ""),
        }
        assert found["unread"] == ["Size: 30 cm"]

    def test_table_marks_what_is_doubtful(self, run, tmp_path):
        path = tmp_path / "listing.txt"
        path.write_text("Surge: 500 W\nAC output: 2000 W")
        _, out, _ = run("compute", "claims", path)
        assert out.startswith("? Surge power       500 W\n? Continuous power  2000 W\n! The surge")

    def test_bad_files(self, run, tmp_path):
        (tmp_path / "empty.txt").write_text("")
        (tmp_path / "photo.png").write_bytes(b"\x89PNG\xff\xfe")
        for name, said in (("empty.txt", "the text is empty"), ("photo.png", "is not text"),
                           ("gone.txt", "No such file")):  # fmt: skip
            code, out, err = run("compute", "claims", tmp_path / name)
            assert (code, out) == (1, "") and said in err and name in err
            assert err.count("\n") == 1


class TestRecharge:
    KEYS = (
        "drawn_wh", "start_s", "duration_s", "peak_w", "full_power_w", "mean_w", "phases", "to_soc",
        "round_trip", "charge_efficiency", "spikes", "gaps", "warnings",
    )  # fmt: skip

    def go(self, run, *arguments):
        code, out, err = run("compute", "recharge", *arguments, "--json")
        assert (code, err) == (0, "")
        return json.loads(out)

    def test_bare_figures(self, run):
        # Common practice, no source: 1560 Wh delivered, 1947 Wh drawn, 10 → 100 %.
        found = self.go(
            run, "--energy-wh", 1947, "--rated-wh", 2048, "--delivered-wh", 1560, "--soc-from", 10
        )
        assert tuple(found) == self.KEYS
        assert found["round_trip"] == pytest.approx(0.801, abs=0.0005)
        assert found["charge_efficiency"]["basis"] == "rated"
        assert found["mean_w"] is None and found["phases"] == []
        # A mean is no peak, and no full power.
        timed = self.go(run, "--energy-wh", 1947, "--rated-wh", 1800, "--duration", "2:00:00")
        assert timed["mean_w"] and timed["peak_w"] is None and timed["full_power_w"] is None

    def test_a_log_with_readings(self, run, tmp_path):
        log = tmp_path / "wall.csv"
        rows = [(t, 500 if 60 <= t <= 3660 else 0) for t in range(0, 3900, 10)]
        log.write_text("t [s],Power (W)\n" + "".join(f"{t},{p}\n" for t, p in rows))
        found = self.go(
            run, log, "--rated-wh", 480, "--reading", "0:00:00=0", "--reading", "0:30:00=50",
            "--reading", "1:00:00=100",
        )  # fmt: skip
        assert found["drawn_wh"] == pytest.approx(500 * 3610 / 3600) and found["start_s"] == 55
        assert [p["name"] for p in found["phases"]] == ["full_power"]
        assert [(a["soc"], pytest.approx(a["s"], abs=2)) for a in found["to_soc"]] == [
            (0, 0), (50, 1800), (80, 2880), (100, 3600),
        ]  # fmt: skip
        # Half a point, and a tenth of the 20 points to the nearest reading, at 36 s a point.
        assert found["to_soc"][2]["plus_minus_s"] == pytest.approx(2.5 * 36, rel=0.02)

    def test_wrong_usage_and_bad_values(self, run):
        assert run("compute", "recharge", "--rated-wh", 5)[0] == 2
        assert (
            run("compute", "recharge", "--rated-wh", 5, "--energy-wh", 5, "--reading", "x")[0] == 2
        )
        code, _, err = run("compute", "recharge", "--rated-wh", 5, "--energy-wh", -5)
        assert (code, err) == (1, "yardtoll: --energy-wh is -5; it must be 0 Wh or more\n")

    def test_table(self, run):
        _, out, _ = run("compute", "recharge", "--rated-wh", 2048, "--energy-wh", 1947,
                        "--delivered-wh", 1600, "--duration", "2:00:00")  # fmt: skip
        assert "Round trip" in out and "(delivered ÷ drawn)" in out
        # More out than in is no efficiency, and neither is more stored than drawn.
        _, out, _ = run("compute", "recharge", "--rated-wh", 2048, "--energy-wh", 1947,
                        "--delivered-wh", 2000, "--duration", "2:00:00")  # fmt: skip
        assert "Round trip" not in out and "Charge efficiency" not in out
        assert "[delivered_above_drawn]" in out and "[drawn_too_little]" in out


class TestLosses:
    RUNS = ("--run", "energy_wh=1865,duration=4:32:00", "--run", "energy_wh=1892,duration=2:21:00",
            "--run", "energy_wh=1896,duration=1:34:00,mean_sq_w2=1470000")  # fmt: skip

    def test_json(self, run):
        code, out, _ = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--json")
        found = json.loads(out)
        assert code == 0 and 1900 < found["e0_wh"] < 2048 and found["e0_wh_u"] > 0
        assert found["p1"] == 0 and found["euro_efficiency"] is None
        assert list(found) == [
            "e0_wh", "e0_wh_u", "p0_w", "p0_w_u", "p1", "p1_u", "p2_per_w", "p2_per_w_u",
            "intervals_95", "fixed", "euro_efficiency", "cec_efficiency",
            "euro_efficiency_at_most", "cec_efficiency_at_most", "residuals_wh", "warnings",
        ]  # fmt: skip
        assert [w["code"] for w in found["warnings"]] == ["conversion_unknown"]
        assert sum(map(abs, found["residuals_wh"])) < 1e-6

    def test_efficiencies_need_the_rated_power(self, run):
        _, out, _ = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--rated-w", 2000)
        assert "Euro efficiency" in out and "CEC efficiency" in out

    def test_a_meter_and_the_repeatability_enter_every_u(self, run):
        def u_of(*more):
            out = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, *more, "--json")[1]
            return json.loads(out)["e0_wh_u"]

        assert u_of("--repeatability", "1 %") == pytest.approx(2 * u_of(), rel=0.01)
        assert u_of("--meter", "1 % + 0.5 W") > u_of("--meter", "0.2 %") > u_of()
        assert run("compute", "losses", "--rated-wh", 2048, *self.RUNS,
                   "--repeatability", "half")[0] == 2  # fmt: skip

    def test_an_idle_test_that_does_not_fit_is_not_used(self, run):
        out = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--idle-w", 60, "--json")[1]
        found = json.loads(out)
        assert "idle_not_used" in [w["code"] for w in found["warnings"]] and found["p1"] == 0
        assert run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--idle-U", 1)[0] == 2

    def test_one_run(self, run):
        code, out, _ = run("compute", "losses", "--rated-wh", 2048, *self.RUNS[:2], "--json")
        found = json.loads(out)
        assert code == 0 and found["e0_wh"] is None
        assert [w["code"] for w in found["warnings"]] == ["not_separable"]

    @pytest.mark.parametrize(
        ("text", "code"),
        [("energy_wh=5", 2), ("energy_wh=x,duration=1:00:00", 2), ("rubbish", 2),
         ("energy_wh=5,duration=1:00:00,more=1", 2), ("energy_wh=-5,duration=1:00:00", 1)],
    )  # fmt: skip
    def test_runs_that_do_not_read(self, run, text, code):
        assert run("compute", "losses", "--rated-wh", 2048, "--run", text)[0] == code


class TestIdle:
    def test_json_and_table(self, run):
        arguments = ("compute", "idle", "--rated-wh", 1280, "--soc-from", 100, "--soc-to", 85,
                     "--duration", "10:00:00")  # fmt: skip
        found = json.loads(run(*arguments, "--json")[1])
        assert found["idle_w"] == pytest.approx(19.2)
        assert found["percent_per_hour"] == pytest.approx(1.5)
        assert set(found) == {
            "idle_w", "percent_per_hour", "idle_w_U", "hours_to_empty", "warnings",
        }  # fmt: skip
        assert run(*arguments)[1].startswith("Idle draw       19.2 ± 1.5 W (k = 2)")
        fitted = json.loads(run(*arguments, "--store-wh", 1200, "--store-U", 0, "--json")[1])
        assert fitted["idle_w"] == pytest.approx(18)
        assert run(*arguments, "--store-U", 5)[0] == 2

    def test_rising(self, run):
        code, _, err = run("compute", "idle", "--rated-wh", 1280, "--soc-from", 80, "--soc-to", 85,
                           "--duration", "1:00:00")  # fmt: skip
        assert code == 1 and "rose from 80 to 85 %" in err


class TestSunInTheShell:
    ARRAY = ("--voc", 24.2, "--vmp", 20.1, "--isc", 10.6, "--imp", 9.95, "--beta-voc", -0.0029,
             "--series", 2, "--tmin", -20, "--tmax", 35)  # fmt: skip
    SUN = ("--lat", 43.1, "--lon", -88.4, "--tz", "America/Chicago", "--tilt", 30,
           "--azimuth", 180, "--array-w", 400)  # fmt: skip

    def test_array(self, run):
        code, out, _ = run("compute", "array", *self.ARRAY, "--limit-v", 60, "--json")
        found = json.loads(out)
        assert code == 0 and (found["connect"], found["max_series"]) == ("ok", 2)
        assert list(found) == [
            "voc_stc_v", "voc_cold_v", "vmp_hot_v", "isc_a", "power_stc_w", "connect",
            "max_series", "warnings",
        ]  # fmt: skip
        _, out, _ = run("compute", "array", *self.ARRAY, "--limit-v", 50)
        assert out.startswith("Connect it           never")

    def test_an_array_within_a_labels_tolerance_of_the_limit_is_to_be_measured(self, run):
        # 48.4 V with −0.29 %/K at −20 °C: 54.7 V; 3 % more is over 56 V, and under 57 V.
        for limit, expected in ((56, ["voltage_near_limit"]), (57, [])):
            _, out, _ = run("compute", "array", *self.ARRAY, "--limit-v", limit, "--json")
            found = json.loads(out)
            assert found["connect"] == "ok"
            assert [w["code"] for w in found["warnings"]] == expected
            assert all("measure Voc" in w["message"] for w in found["warnings"])

    def test_array_misread(self, run):
        code, out, err = run("compute", "array", *self.ARRAY, "--limit-v", 60, "--voc", 19)
        assert (code, out) == (1, "") and "voc_below_vmp" in err and err.count("\n") == 1

    def test_sun(self, run):
        asked = ("compute", "sun", *self.SUN, "--date", "2026-06-21", "--cap-w", 300)
        code, out, _ = run(*asked, "--json")
        found = json.loads(out)
        assert code == 0 and found["peak_w"] == 300 and found["clipped_wh"] > 0
        assert found["window"][0]["start"].endswith("-05:00") and found["warnings"] == []
        assert "Worth testing" in run(*asked)[1]

    @pytest.mark.parametrize(
        ("extra", "code"),
        [(("--date", "tomorrow"), 2), (("--date", "2026-06-21", "--tz", "Mars/Base"), 2),
         (("--date", "2026-06-21", "--lat", 95), 1), ((), 2)],
    )  # fmt: skip
    def test_sun_that_cannot_be(self, run, extra, code):
        assert run("compute", "sun", *self.SUN, *extra)[0] == code
