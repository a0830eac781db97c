"""The command line: JSON keys, exit codes, one clear line where something cannot be done."""

import json
import math
from pathlib import Path

import pytest

from yardtoll import __version__
from yardtoll.cli import main

EXAMPLES = Path(__file__).parents[1] / "examples"
# The contract of `compute discharge`, key by key.
KEYS = [
    "delivered_wh", "own_draw_wh", "logs", "start_s", "cutoff_s", "duration_s", "mean_w", "max_w",
    "c_rate", "usable_ratio", "usable_ratio_window", "volts_mean", "volts_min", "sag_ratio", "gaps",
    "warnings",
]  # fmt: skip


@pytest.fixture
def run(capsys):
    def go(*arguments):
        with pytest.raises(SystemExit) as stop:
            main([str(a) for a in arguments])
        said = capsys.readouterr()
        return stop.value.code or 0, said.out, said.err

    return go


@pytest.fixture
def discharge(run):
    def go(*arguments):
        code, out, err = run("compute", "discharge", *arguments, "--json")
        assert (code, err) == (0, "")

        def refuse(constant):
            raise AssertionError(f"JSON is not strict: {constant}")

        return json.loads(out, parse_constant=refuse)

    return go


# Check values: facts of the trade, common practice, no source.
@pytest.mark.parametrize(
    ("arguments", "expected"),
    [
        ("--energy-wh 1830 --rated-wh 2048", {"usable_ratio": 0.894}),
        (
            "--energy-wh 1870 --energy-wh 1870 --rated-wh 4500",
            {"delivered_wh": 3740, "usable_ratio": 0.831},
        ),
        ("--energy-wh 1407 --rated-wh 1536", {"usable_ratio": 0.916}),
        ("--energy-wh 1243 --rated-wh 1536", {"usable_ratio": 0.809}),
        ("--energy-wh 1669 --rated-wh 2000", {"usable_ratio": 0.8345}),
        (
            "--energy-wh 1560 --rated-wh 2048 --soc-from 100 --soc-to 10",
            {"usable_ratio": 0.762, "usable_ratio_window": 0.846},
        ),
        (
            "--energy-wh 254 --own-draw-w 2 --duration 0:50:00 --rated-wh 299.5",
            {"own_draw_wh": 1.667, "usable_ratio": 0.854},
        ),
    ],
)
def test_bare_figures(discharge, arguments, expected):
    found = discharge(*arguments.split())
    assert list(found) == KEYS
    for key, value in expected.items():
        assert found[key] == pytest.approx(value, abs=6e-4)
    assert found["start_s"] is None and found["gaps"] == [] and found["warnings"] == []


def test_time_based_figures_need_a_duration(discharge):
    without = discharge("--energy-wh", 1870, "--rated-wh", 2048)
    assert [without[k] for k in ("duration_s", "mean_w", "c_rate")] == [None, None, None]
    with_ = discharge("--energy-wh", 1870, "--rated-wh", 2048, "--duration", "1:15:00")
    assert with_["duration_s"] == 4500
    assert with_["mean_w"] == pytest.approx(1496)
    assert with_["c_rate"] == pytest.approx(1496 / 2048)


def test_a_log_gives_every_key(discharge):
    found = discharge(EXAMPLES / "plain-seconds.csv", "--rated-wh", 288)
    assert list(found) == KEYS
    assert found["logs"] == [{"file": "plain-seconds.csv", "delivered_wh": found["delivered_wh"]}]
    assert found["duration_s"] == found["cutoff_s"] - found["start_s"]
    assert found["mean_w"] == pytest.approx(found["delivered_wh"] / found["duration_s"] * 3600)
    assert 0.01 < found["sag_ratio"] < 0.03
    assert all(math.isfinite(found[k]) for k in ("volts_mean", "volts_min", "max_w"))


@pytest.mark.parametrize("name", sorted(p.name for p in EXAMPLES.glob("*.[ct]sv")))
def test_every_example_reads(discharge, name):
    found = discharge(EXAMPLES / name, "--rated-wh", 288)
    assert 0.7 < found["usable_ratio"] < 0.9
    assert [w["code"] for w in found["warnings"]] == (["gap"] if "gap" in name else [])


def test_two_logs_are_added_and_own_draw_counted_once_each(discharge):
    log = EXAMPLES / "plain-seconds.csv"
    one = discharge(log, "--rated-wh", 600)
    two = discharge(log, log, "--rated-wh", 600, "--own-draw-w", 2, "--own-draw-w", 1)
    assert len(two["logs"]) == 2
    assert two["own_draw_wh"] == pytest.approx(3 * two["duration_s"] / 3600)
    assert two["delivered_wh"] == pytest.approx(2 * one["delivered_wh"] + two["own_draw_wh"])
    assert two["max_w"] == pytest.approx(2 * one["max_w"])


def test_map_and_zone(discharge, tmp_path):
    log = tmp_path / "a.csv"
    log.write_text(
        "when,left, right\n"
        + "".join(f"2026-10-25 0{h}:{m:02d}:00,100,400\n" for h in (0, 1, 1, 2) for m in range(60))
    )
    plain = ["--rated-wh", 2000, "--map", "time=when,power=left"]
    assert discharge(log, *plain)["warnings"][0]["code"] == "time_not_monotonic"
    zoned = discharge(log, *plain, "--tz", "Europe/Lisbon")
    assert "time_not_monotonic" not in [w["code"] for w in zoned["warnings"]]
    assert zoned["duration_s"] == 239 * 60


def test_a_table_for_people(run):
    code, out, err = run(
        "compute", "discharge", "--energy-wh", 1560, "--rated-wh", 2048, "--soc-to", 10
    )
    assert (code, err) == (0, "")
    assert out.splitlines() == [
        "Delivered      1560.0 Wh",
        "Of rated       76.2 % of 2048 Wh",
        "Of the window  84.6 % of 100 → 10 %",
    ]
    code, out, _ = run("compute", "discharge", EXAMPLES / "volts-amps-with-a-gap.csv",
                       "--rated-wh", 288)  # fmt: skip
    assert code == 0 and "[gap]" in out and "Lowest volts" in out


class TestCannot:
    """Exit 1: one line that names the file, option, line or column; nothing else."""

    @pytest.mark.parametrize(
        ("arguments", "said"),
        [
            ("none.csv --rated-wh 5", "yardtoll: none.csv does not exist"),
            ("--energy-wh 5 --rated-wh -5", "yardtoll: --rated-wh is -5; it must be above 0 Wh"),
            ("--energy-wh -5 --rated-wh 5", "yardtoll: --energy-wh is -5; it must be 0 Wh or more"),
            (
                "--energy-wh 5 --rated-wh 5 --soc-from 10 --soc-to 90",
                "yardtoll: --soc-from 10 % must lie above --soc-to 90 %: "
                "a discharge runs downwards",
            ),
            (
                "--energy-wh 5 --rated-wh 5 --duration 0:00:00",
                "yardtoll: --duration is 0; it must be longer than 0 s",
            ),
        ],
    )
    def test_values(self, run, arguments, said):
        assert run("compute", "discharge", *arguments.split()) == (1, "", said + "\n")

    def test_files(self, run, tmp_path):
        log = tmp_path / "nan.csv"
        log.write_text("time,power\n0,NaN\n1,NaN\n")
        code, out, err = run("compute", "discharge", log, "--rated-wh", 5)
        assert (code, out) == (1, "")
        assert err.startswith('yardtoll: nan.csv, line 2: the column "power" holds no number')
        assert err.count("\n") == 1
        code, _, err = run("compute", "discharge", log, "--rated-wh", 5, "--map", "power=watts")
        assert (code, err) == (
            1, 'yardtoll: nan.csv has no column "watts"; it has time, power\n',
        )  # fmt: skip


class TestWrongUsage:
    @pytest.mark.parametrize(
        "arguments",
        [
            "--rated-wh 5",
            "--energy-wh 5",
            "--energy-wh five --rated-wh 5",
            "--energy-wh 5 --rated-wh 5 --duration 75",
            "--energy-wh 5 --rated-wh 5 --no-such-option",
            "--energy-wh 5 --rated-wh 5 --own-draw-w 2",
            "a.csv --energy-wh 5 --rated-wh 5",
            "a.csv --rated-wh 5 --duration 1:00:00",
            "a.csv --rated-wh 5 --tz Nowhere/Land",
            "a.csv --rated-wh 5 --map power",
            "a.csv --rated-wh 5 --map colour=power",
            "--energy-wh 5 --rated-wh 5 --tz UTC",
        ],
    )
    def test_exit_two(self, run, arguments):
        code, out, err = run("compute", "discharge", *arguments.split())
        assert (code, out) == (2, "")
        assert "Traceback" not in err and "Error" in err

    def test_unknown_commands_and_options(self, run):
        assert run("compute", "magic")[0] == 2
        assert run("--no-such-option")[0] == 2
        assert run("one.yard", "two.yard")[0] == 2


def test_without_a_display_the_window_is_refused_in_one_sentence(run, monkeypatch):
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    for arguments in ((), ("--demo",), ("bench.yard",)):
        code, out, err = run(*arguments)
        assert (code, out) == (1, "")
        assert err.startswith("yardtoll: there is no display to open a window on;")


def test_version_and_help(run):
    assert run("--version") == (0, f"yardtoll {__version__}\n", "")
    code, out, _ = run("--help")
    assert code == 0 and "compute" in out and "import" in out


def test_import_into_a_yard(run, tmp_path):
    yard = tmp_path / "bench.yard"
    log = EXAMPLES / "plain-seconds.csv"
    code, _, err = run("import", log, "-o", yard, "--station", "Sorrel 300")
    assert code == 1 and "--rated-wh and --rated-w" in err and not yard.exists()
    code, _, err = run("import", log, "-o", yard, "--station", "S", "--rated-wh", -1,
                       "--rated-w", 3)  # fmt: skip
    assert (code, err) == (1, "yardtoll: --rated-wh is -1; it must be above 0\n")
    code, out, _ = run("import", log, EXAMPLES / "counter-only.tsv", "-o", yard, "--station",
                       "Sorrel 300", "--rated-wh", 288, "--rated-w", 300)  # fmt: skip
    assert code == 0
    assert [line.split(",")[0] for line in out.splitlines()] == [
        "plain-seconds.csv: run 1 of Sorrel 300", "counter-only.tsv: run 2 of Sorrel 300",
    ]  # fmt: skip
    code, _, err = run("import", log, "-o", log, "--station", "x")
    assert (code, err) == (
        1, "yardtoll: plain-seconds.csv is not a yard file; nothing was changed\n",
    )  # fmt: skip


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
        keys = ["quantity", "value", "unit", "condition", "text", "confidence"]
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
        for name, said in (("empty.txt", "the text is empty"), ("photo.png", "is no text"),
                           ("gone.txt", "No such file")):  # fmt: skip
            code, out, err = run("compute", "claims", tmp_path / name)
            assert (code, out) == (1, "") and said in err and name in err
            assert err.count("\n") == 1


class TestRecharge:
    KEYS = (
        "drawn_wh", "start_s", "duration_s", "peak_w", "mean_w", "phases", "to_soc", "round_trip",
        "charge_efficiency", "gaps", "warnings",
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

    def test_a_log_with_readings(self, run, tmp_path):
        log = tmp_path / "wall.csv"
        rows = [(t, 500 if 60 <= t <= 3660 else 0) for t in range(0, 3900, 10)]
        log.write_text("t [s],Power (W)\n" + "".join(f"{t},{p}\n" for t, p in rows))
        found = self.go(
            run, log, "--rated-wh", 480, "--reading", "0:00:00=0", "--reading", "0:30:00=50",
            "--reading", "1:00:00=100",
        )  # fmt: skip
        assert found["drawn_wh"] == pytest.approx(500) and found["start_s"] == 60
        assert [p["name"] for p in found["phases"]] == ["full_power"]
        assert [(a["soc"], a["s"]) for a in found["to_soc"]] == [
            (0, 0), (50, 1800), (80, 2880), (100, 3600),
        ]  # fmt: skip

    def test_wrong_usage_and_bad_values(self, run):
        assert run("compute", "recharge", "--rated-wh", 5)[0] == 2
        assert (
            run("compute", "recharge", "--rated-wh", 5, "--energy-wh", 5, "--reading", "x")[0] == 2
        )
        code, _, err = run("compute", "recharge", "--rated-wh", 5, "--energy-wh", -5)
        assert (code, err) == (1, "yardtoll: --energy-wh is -5; it must be 0 Wh or more\n")

    def test_table(self, run):
        _, out, _ = run("compute", "recharge", "--rated-wh", 2048, "--energy-wh", 1947,
                        "--delivered-wh", 2000, "--duration", "2:00:00")  # fmt: skip
        assert "Round trip" in out and "(delivered ÷ drawn)" in out
        assert "[delivered_above_drawn]" in out


class TestLosses:
    RUNS = ("--run", "energy_wh=1865,duration=4:32:00", "--run", "energy_wh=1892,duration=2:21:00",
            "--run", "energy_wh=1896,duration=1:34:00,mean_sq_w2=1470000")  # fmt: skip

    def test_json(self, run):
        code, out, _ = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--json")
        found = json.loads(out)
        assert code == 0 and 1900 < found["e0_wh"] < 2048 and found["e0_wh_u"] is None
        assert found["p1"] == 0 and found["euro_efficiency"] is None
        assert list(found) == [
            "e0_wh", "e0_wh_u", "p0_w", "p0_w_u", "p1", "p1_u", "p2_per_w", "p2_per_w_u",
            "intervals_95", "fixed", "euro_efficiency", "cec_efficiency", "residuals_wh",
            "warnings",
        ]  # fmt: skip
        assert sum(map(abs, found["residuals_wh"])) < 1e-6

    def test_efficiencies_need_the_rated_power(self, run):
        _, out, _ = run("compute", "losses", "--rated-wh", 2048, *self.RUNS, "--rated-w", 2000)
        assert "Euro efficiency" in out and "CEC efficiency" in out

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
        assert run(*arguments)[1].startswith("Idle draw       19.2 ± 1.0 W (k = 2)")

    def test_rising(self, run):
        code, _, err = run("compute", "idle", "--rated-wh", 1280, "--soc-from", 80, "--soc-to", 85,
                           "--duration", "1:00:00")  # fmt: skip
        assert code == 1 and "rose from 80 to 85 %" in err


def test_a_recharge_log_is_imported_as_one(run, tmp_path):
    log, yard = tmp_path / "wall.csv", tmp_path / "a.yard"
    log.write_text("t,power\n" + "".join(f"{i * 10},{500 if i < 360 else 0}\n" for i in range(400)))
    arguments = ("import", log, "-o", yard, "--station", "Clover", "--rated-wh", 480,
                 "--rated-w", 500)  # fmt: skip
    assert run(*arguments, "--method", "dancing")[0] == 2 and not yard.exists()
    code, out, _ = run(*arguments, "--method", "recharge_wall")
    assert code == 0 and out.startswith("wall.csv: run 1 of Clover, 498.6 Wh")
    from yardtoll.store.yard_file import YardFile

    with YardFile.open(yard) as opened:
        (kept,) = opened.runs()
        assert (kept.method, kept.soc_from, kept.soc_to) == ("recharge_wall", 0, 100)


class TestUncertainty:
    def test_a_stated_meter_gives_u_and_a_budget(self, run):
        asked = (
            "compute", "discharge", "--energy-wh", "1830", "--rated-wh", "2048",
            "--duration", "4:30:00", "--meter", "1% + 0.5 W",
        )  # fmt: skip
        made = json.loads(run(*asked, "--json")[1])
        # By hand: ±18.3 Wh and ±2.25 Wh, rectangular, U = 2u.
        expected = 2 * math.hypot(18.3, 2.25) / math.sqrt(3)
        assert made["delivered_wh_U"] == pytest.approx(expected)
        assert made["usable_ratio_U"] == pytest.approx(expected / 2048)
        assert [(b["name"], b["kind"]) for b in made["budget"]] == [
            ("Meter gain", "B"), ("Meter floor", "B"),
        ]  # fmt: skip
        assert sum(b["share"] for b in made["budget"]) == pytest.approx(1)
        assert "± 21 Wh" in run(*asked)[1]

    def test_a_recharge_too(self, run):
        _, out, _ = run(
            "compute", "recharge", "--energy-wh", "1947", "--rated-wh", "2048",
            "--meter", "1%", "--json",
        )  # fmt: skip
        assert json.loads(out)["drawn_wh_U"] == pytest.approx(2 * 19.47 / math.sqrt(3))

    @pytest.mark.parametrize(
        ("arguments", "code", "words"),
        [
            (("--meter", "good"), 2, "does not read like"),
            (("--meter", "150% + 1 W"), 1, "share of reading"),
            (("--meter", "1%", "--meter", "1%", "--meter", "1%"), 1, "3 meter accuracies"),
        ],
    )
    def test_what_is_no_accuracy(self, run, arguments, code, words):
        found = run("compute", "discharge", "--energy-wh", "5", "--rated-wh", "9", *arguments)
        assert found[0] == code and words in found[2]

    @pytest.mark.parametrize(
        ("arguments", "verdict"),
        [
            (("--claim", "usable_ratio >= 0.85", "--value", "0.894", "--U", "0.01"), "meets"),
            (("--claim", "any.name <= 2", "--value", "3", "--U", "0.5"), "falls_short"),
            (("--claim", "x >= 1", "--value", "1.1", "--U", "0.2"), "too_close_to_call"),
            (("--claim", "v = 120 ± 6", "--value", "119", "--U", "2"), "meets"),
            (
                ("--claim", "v <= -5.40", "--value", "-5.47", "--U", "0.1", "--rule", "shared"),
                "meets",
            ),
        ],
    )
    def test_verdicts(self, run, arguments, verdict):
        _, out, _ = run("compute", "verdict", *arguments, "--json")
        assert json.loads(out)["verdict"] == verdict
        assert verdict.replace("_", " ") in run("compute", "verdict", *arguments)[1]

    @pytest.mark.parametrize(
        ("arguments", "code"),
        [
            (("--claim", "x = 120", "--value", "1", "--U", "1"), 2),
            (("--claim", "x > 1", "--value", "1", "--U", "1"), 2),
            (("--claim", "x >= 1", "--value", "nan", "--U", "1"), 1),
            (("--claim", "x >= 1", "--value", "1", "--U", "-1"), 1),
            (("--claim", "x >= 1", "--value", "1", "--U", "1", "--rule", "kind"), 2),
            (("--claim", "x >= 1", "--value", "1"), 2),
        ],
    )
    def test_a_verdict_that_cannot_be_given(self, run, arguments, code):
        assert run("compute", "verdict", *arguments, "--json")[0] == code


class TestYardsInTheShell:
    @pytest.fixture
    def yard(self, run, tmp_path):
        path = tmp_path / "bench.yard"
        code, _, err = run(
            "import", EXAMPLES / "semicolon-decimal-comma.csv", "-o", path, "--station", "Clover",
            "--rated-wh", "288", "--rated-w", "300",
        )  # fmt: skip
        assert (code, err) == (0, "")
        return path

    def test_report_export_and_import(self, run, yard, tmp_path):
        html, pdf = tmp_path / "sheet.html", tmp_path / "sheet.pdf"
        code, out, _ = run("report", yard, "--station", "clover", "-o", html)
        assert code == 0 and "of the rated energy reaches the outlet" in out
        assert html.read_text("utf-8").startswith("<!DOCTYPE html>")
        assert run("report", yard, "--station", "Clover", "-o", pdf)[0] == 0
        assert pdf.read_bytes().startswith(b"%PDF")
        code, out, _ = run("export", yard, tmp_path / "package", "--parquet")
        assert code == 0 and (tmp_path / "package" / "results.json").exists()
        assert (tmp_path / "package" / "traces" / "run-1.parquet").exists()
        again = tmp_path / "again.yard"
        assert run("import", tmp_path / "package", "-o", again)[0] == 0
        other = tmp_path / "other.html"
        assert run("report", again, "--station", "Clover", "-o", other)[0] == 0
        assert other.read_bytes() == html.read_bytes()

    def test_what_cannot_be_done(self, run, yard, tmp_path):
        code, _, err = run("report", yard, "--station", "Basil", "-o", tmp_path / "x.html")
        assert (code, err.strip()) == (
            1, 'yardtoll: bench.yard holds no station "Basil"; there are: Clover'
        )  # fmt: skip
        assert run("report", yard, "--station", "Clover", "-o", tmp_path / "x.doc")[0] == 2
        assert run("export", yard, tmp_path)[0] == 1
        assert run("import", tmp_path, "-o", tmp_path / "n.yard")[0] == 1
        assert run("import", tmp_path, "-o", tmp_path / "n.yard", "--station", "x")[0] == 2
        assert run("import", "log.csv", "-o", tmp_path / "n.yard")[0] == 2


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
