"""`--meter` and `compute verdict`."""

import json
import math
from pathlib import Path

import pytest

EXAMPLES = Path(__file__).parents[2] / "examples"


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
