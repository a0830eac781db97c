"""`--meter` and `compute verdict`."""

import json
import math

import pytest


class TestUncertainty:
    def test_a_stated_meter_gives_u_and_a_budget(self, run):
        asked = (
            "compute", "discharge", "--energy-wh", "1830", "--rated-wh", "2048",
            "--duration", "4:30:00", "--meter", "1% + 0.5 W",
        )  # fmt: skip
        made = json.loads(run(*asked, "--json")[1])
        # By hand: ±18.3 Wh, ±2.25 Wh and the last digit's ±0.5 Wh, rectangular, U = 2u.
        expected = 2 * math.hypot(18.3, 2.25, 0.5) / math.sqrt(3)
        assert made["delivered_wh_U"] == pytest.approx(expected)
        assert made["usable_ratio_U"] == pytest.approx(expected / 2048)
        assert [(b["name"], b["kind"]) for b in made["budget"]] == [
            ("Meter gain, common", "B"), ("Meter gain, at this level", "B"), ("Meter floor", "B"),
            ("Meter resolution", "B"),
        ]  # fmt: skip
        assert sum(b["share"] for b in made["budget"]) == pytest.approx(1)
        assert "± 21 Wh" in run(*asked)[1]

    def test_a_recharge_too(self, run):
        _, out, _ = run(
            "compute", "recharge", "--energy-wh", "1947", "--rated-wh", "2048",
            "--meter", "1%", "--json",
        )  # fmt: skip
        assert json.loads(out)["drawn_wh_U"] == pytest.approx(
            2 * math.hypot(19.47, 0.5) / math.sqrt(3)
        )

    def test_a_round_trip_keeps_what_is_not_common(self, run):
        def trip_u(meter):
            found = json.loads(run(
                "compute", "recharge", "--energy-wh", "2000", "--rated-wh", "1800",
                "--delivered-wh", "1600", "--meter", meter, "--json",
            )[1])  # fmt: skip
            return found["round_trip_U"]

        # By hand: √(2·(1 − share)) of one figure's 2 · 1 % ÷ √3, of 80 %; the digit is 0.5 of 2000.
        digit = 2 * 0.5 / 2000 / math.sqrt(3)
        one = 2 * 0.01 / math.sqrt(3)
        for meter, share in (("1 %", 0.5), ("1 %, 0 % common", 0), ("80 % common, 1 %", 0.8)):
            expected = 0.8 * math.hypot(math.sqrt(2 * (1 - share)) * one, digit)
            assert trip_u(meter) == pytest.approx(expected, rel=1e-6)

    def test_what_a_meter_may_state_further(self, run):
        def u(*meter):
            found = json.loads(run(
                "compute", "discharge", "--energy-wh", "500", "--rated-wh", "600", "--json",
                "--duration", "1:00:00", "--pf", "0.6", "--meter", *meter,
            )[1])  # fmt: skip
            return found["delivered_wh_U"]

        assert u("1 %, steps 10 Wh") > u("1 %")
        # By hand: tan(acos 0.6) · 0.3° = 4/3 · 0.005236 of 500 Wh, rectangular.
        phase = 500 * 4 / 3 * math.radians(0.3)
        expected = 2 * math.hypot(5, phase, 0.5) / math.sqrt(3)
        assert u("phase 0.3 deg, 1 %") == pytest.approx(expected)
        assert run("compute", "discharge", "--energy-wh", "5", "--rated-wh", "9", "--meter", "1 %",
                   "--pf", "2")[0] == 1  # fmt: skip

    @pytest.mark.parametrize(
        ("arguments", "code", "words"),
        [
            (("--meter", "good"), 2, "should look like"),
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
                ("--claim", "v <= -5.40", "--value", "-5.47", "--U", "0.1", "--rule", "likely"),
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
