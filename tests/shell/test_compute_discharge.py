"""`compute discharge`: every key, exit codes, one clear line where something cannot be done."""

import math

import pytest
from tests.records import EXAMPLES

from yardtoll import __version__

# The contract of `compute discharge`, key by key.
KEYS = [
    "delivered_wh", "own_draw_wh", "logs", "start_s", "cutoff_s", "duration_s", "mean_w", "max_w",
    "c_rate", "usable_ratio", "usable_ratio_window", "volts_mean", "volts_min", "sag_ratio",
    "end_seen", "after_cutoff_wh", "negative_wh", "spikes", "display", "reserve_wh", "reserve_s",
    "gaps", "warnings",
]  # fmt: skip


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


DISCHARGES = [p.name for p in EXAMPLES.glob("*.[ct]sv") if not p.name.startswith("solar")]


@pytest.mark.parametrize("name", sorted(DISCHARGES))
def test_every_discharge_of_the_examples_reads(discharge, name):
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
    assert code == 0 and "[gap]" in out and "V, lowest 11" in out


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
                "yardtoll: --soc-from 10 % must be above --soc-to 90 %: a discharge runs downwards",
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
