"""`yardtoll compute wave`, `transfer`, `hold`, `ports`, `sound`: keys, codes, exits."""

from pathlib import Path

import numpy as np
import pytest
from scipy.io import wavfile

T = np.arange(10_000) / 20_000
VOLTS = 120 * np.sqrt(2) * np.sin(2 * np.pi * 60 * T)


@pytest.fixture
def scope(tmp_path):
    def written(volts, name="scope.csv"):
        path = tmp_path / name
        rows = zip(T, volts, strict=True)
        path.write_text("time,volts\n" + "".join(f"{t:.6f},{v:.4f}\n" for t, v in rows), "utf-8")
        return path

    return written


NOMINAL = ("--nominal-v", 120, "--nominal-hz", 60)


EXAMPLES = Path(__file__).parents[2] / "examples" / "outputs"


def test_the_examples(shell):
    found = shell("wave", EXAMPLES / "scope.csv", *NOMINAL)
    assert found["shape"] == "modified_sine" and found["hertz"] == pytest.approx(60, abs=0.05)
    held = shell("hold", EXAMPLES / "overload.csv", "--rated-w", 300)
    assert [round(s["share_of_rated"], 2) for s in held["steps"]] == [1.0, 1.05, 1.1, 1.5]
    assert held["trip"]["share_of_rated"] == pytest.approx(1.5, abs=0.01)


class TestWave:
    def test_keys_and_values(self, shell, scope):
        found = shell("wave", scope(VOLTS), *NOMINAL)
        assert set(found) == {
            "vrms", "hertz", "dc_v", "peak_v", "crest", "thd", "thd_method", "harmonics", "shape",
            "cycles", "volts_off_ratio", "hertz_off_ratio", "clock_gain_s_per_day", "relative",
            "arms", "watts", "va", "power_factor", "displacement_factor", "warnings",
        }  # fmt: skip
        assert found["vrms"] == pytest.approx(120, rel=1e-4) and found["shape"] == "sine"
        assert [h["order"] for h in found["harmonics"]] == list(range(2, 41))
        assert found["cycles"] == pytest.approx(30, abs=0.01) and found["arms"] is None

    def test_a_table_for_people(self, run, scope):
        code, out, _ = run("compute", "wave", scope(VOLTS), *NOMINAL)
        assert code == 0 and "120.00 V r.m.s." in out and "60.000 Hz" in out

    @pytest.mark.parametrize(
        ("arguments", "code", "said"),
        [
            (("--nominal-v", 0, "--nominal-hz", 60), 1, "--nominal-v"),
            (("--nominal-v", 120), 2, "--nominal-hz"),
            ((*NOMINAL, "--rate", -5), 1, "--rate -5 must be above 0"),
            ((*NOMINAL, "--map", "volts=none"), 1, 'no column "none"'),
            ((*NOMINAL, "--map", "volts"), 2, "should look like"),
        ],
    )
    def test_what_cannot_be_used(self, run, scope, arguments, code, said):
        found, out, err = run("compute", "wave", scope(VOLTS), *arguments)
        assert (found, out) == (code, "") and said in " ".join(err.split())

    def test_under_one_cycle(self, run, tmp_path):
        path = tmp_path / "short.csv"
        path.write_text("time,volts\n0,0\n0.001,60\n0.002,100\n0.003,120\n0.004,150\n", "utf-8")
        code, _, err = run("compute", "wave", path, *NOMINAL)
        assert code == 1 and "under one cycle" in err and len(err.strip().splitlines()) == 1


class TestTransfer:
    def test_a_gap_and_its_claim(self, shell, scope):
        path = scope(np.where((T > 0.2) & (T < 0.212), 0, VOLTS))
        found = shell("transfer", path, *NOMINAL, "--claim-ms", 10)
        (event,) = found["events"]
        assert set(event) == {"start_s", "gap_ms", "lowest_ratio", "phase_jump_deg", "curve"}
        assert event["gap_ms"] == pytest.approx(12, abs=0.5) and event["curve"] == "inside"
        assert found["claim"] == {"ms": 10.0, "verdict": "falls_short"}
        assert found["worst_gap_ms_U"] < 1

    def test_no_event_can_be_judged_by_nothing(self, shell, scope):
        found = shell("transfer", scope(VOLTS), *NOMINAL, "--claim-ms", 10)
        assert (found["events"], found["worst_gap_ms"], found["worst_gap_ms_U"]) == ([], None, None)
        assert found["claim"]["verdict"] == "cannot_be_judged"
        assert [w["code"] for w in found["warnings"]] == ["no_event"]

    def test_by_frames(self, shell):
        found = shell("transfer", "--frames-dark", 2, "--fps", 240, "--claim-ms", 20)
        assert found["gap_ms"] == pytest.approx(8.333, abs=1e-3)
        assert found["claim"]["verdict"] == "meets"
        assert set(found) == {"gap_ms", "gap_ms_low", "gap_ms_high", "claim", "warnings"}

    @pytest.mark.parametrize(
        "arguments", [(), ("--frames-dark", 2), ("x.csv",), ("--frames-dark", "two", "--fps", 3)]
    )
    def test_wrong_usage(self, run, arguments):
        assert run("compute", "transfer", *arguments)[0] == 2


class TestHold:
    def test_keys(self, shell, tmp_path):
        path = tmp_path / "hold.csv"
        watts = [0] * 20 + [1000] * 120 + [1100] * 90 + [0] * 20
        path.write_text(
            "time,power,volts\n" + "".join(f"{n},{w},120\n" for n, w in enumerate(watts)), "utf-8"
        )
        found = shell("hold", path, "--rated-w", 1000)
        assert set(found) == {
            "steps", "longest_at_rated_s", "highest_held_w", "surge_w", "surge_s",
            "surge_at_least", "trip", "volts_at_rated", "sag_ratio", "warnings",
        }  # fmt: skip
        assert found["trip"] == {
            "at_s": 229.5, "from_w": 1100.0, "share_of_rated": 1.1, "seconds_above_rated": 90.0,
        }  # fmt: skip
        by_hand = shell("hold", path, "--rated-w", 1000, "--ended-by", "hand")
        assert by_hand["trip"] is None and by_hand["steps"][-1]["ended_by"] == "hand"

    def test_of_notes(self, shell, tmp_path):
        path = tmp_path / "evening.txt"
        path.write_text("10:00 on 2000 W\n10:15 2200 W\n10:16:20 tripped\n", "utf-8")
        found = shell("hold", path, "--rated-w", 2000)
        assert [s["seconds"] for s in found["steps"]] == [900, 80]

    def test_an_odd_end(self, run, tmp_path):
        path = tmp_path / "h.csv"
        path.write_text("time,power\n0,5\n1,5\n2,5\n", "utf-8")
        assert run("compute", "hold", path, "--rated-w", 9, "--ended-by", "cat")[0] == 2
        assert run("compute", "hold", path, "--rated-w", -9)[0] == 1


class TestPortsAndSound:
    def test_ports(self, shell):
        found = shell(
            "ports", "--reading", "usb_c1=18.0 W", "--reading", "usb_a1=17", "--together",
            "usb_c1=17.8,usb_a1=14,car=36", "--limit", "usb_c1=18", "--limit", "usb_c2=18",
            "--shared", "usb=60",
        )  # fmt: skip
        assert found["alone"] == {"usb_c1": 18.0, "usb_a1": 17.0}
        assert found["together"][0]["total_w"] == found["total_w"] == pytest.approx(67.8)
        (yields,) = found["yields"]
        assert yields["port"] == "usb_a1" and yields["share"] == pytest.approx(14 / 17)
        assert [c["port"] for c in found["claims"]] == ["usb_c1", "usb"]
        assert found["not_measured"] == ["usb_c2"]

    @pytest.mark.parametrize(
        ("arguments", "code"),
        [((), 2), (("--reading", "usb"), 2), (("--reading", "usb=-4"), 1),
         (("--together", "a=1,a=2"), 2), (("--reading", "a=1", "--limit", "a=0"), 1)],
    )  # fmt: skip
    def test_odd_ports(self, run, arguments, code):
        assert run("compute", "ports", *arguments)[0] == code

    def test_a_level(self, shell):
        found = shell("sound", "--level", 52, "--distance-m", 0.5, "--background", 41)
        assert found["without_background_db"] == pytest.approx(51.64, abs=0.01)
        assert found["at_1m_db"] == pytest.approx(45.62, abs=0.01)

    def test_a_recording(self, shell, tmp_path):
        path = tmp_path / "fan.wav"
        tone = 0.12 * np.sqrt(2) * np.sin(2 * np.pi * 1000 * np.arange(48_000) / 48_000)
        wavfile.write(path, 48_000, tone.astype(np.float32))
        found = shell("sound", path, "--calibration", "94 dB = 0.12", "--distance-m", 2)
        assert found["level_db"] == pytest.approx(94, abs=0.05)
        assert found["at_1m_db"] == pytest.approx(100.02, abs=0.05) and not found["relative"]
        bare = shell("sound", path)
        assert bare["relative"] and bare["level_db"] is None

    @pytest.mark.parametrize(
        ("arguments", "code"),
        [((), 2), (("--level", 400), 1), (("--level", 50, "--distance-m", 0), 1),
         (("x.wav", "--calibration", "loud"), 2), (("none.wav",), 1)],
    )  # fmt: skip
    def test_odd_sound(self, run, arguments, code):
        assert run("compute", "sound", *arguments)[0] == code
