"""Results as JSON and as a table: every figure is there, and passes through unchanged."""

import json

import numpy as np

from yardtoll.core.discharge.analysis import Rating, analyse_discharge, discharge_from_energies
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.report.tables.discharge import discharge_json, discharge_table


def gappy():
    t = np.arange(0, 4000.0, 10)
    t = t[(t < 1000) | (t > 1500)]
    power = np.where((t >= 60) & (t <= 3660), 400.0, 0.0)
    columns = {Quantity.POWER: power, Quantity.VOLTS: np.where(power > 0, 118.0, 120.0)}
    trace = Trace(name="a.csv", time_s=t, columns=columns)
    return analyse_discharge([trace], Rating(rated_wh=380, soc_to=5), own_draw_w=[2])


def test_json_carries_the_result_unchanged():
    result = gappy()
    found = json.loads(json.dumps(discharge_json(result), allow_nan=False))
    for key in ("delivered_wh", "own_draw_wh", "start_s", "cutoff_s", "duration_s", "mean_w",
                "max_w", "c_rate", "usable_ratio", "usable_ratio_window", "volts_mean",
                "volts_min", "sag_ratio"):  # fmt: skip
        assert found[key] == getattr(result, key), key
    (gap,) = found["gaps"]
    assert (gap["start_s"], gap["end_s"], gap["bridged_by"]) == (990, 1510, "line")
    assert {w["code"] for w in found["warnings"]} == {"gap", "above_rated"}
    assert all(w["message"] for w in found["warnings"])


def test_the_table_shows_all_figures_with_units():
    lines = discharge_table(gappy()).splitlines()
    assert lines[:3] == [
        "Delivered           403.1 Wh",
        "Of rated            106.1 % of 380 Wh",
        "Of the window       111.7 % of 100 → 5 %",
    ]
    assert any(line.startswith("Meter's own draw") and "Wh, added" in line for line in lines)
    names = [line.split("  ")[0] for line in lines]
    for name in ("Duration", "Mean power", "Peak power", "Voltage under load", "Sag"):
        assert name in names
    assert lines[-2].endswith("[gap]") and lines[-1].endswith("[above_rated]")


def test_what_cannot_be_told_is_null_and_left_out_of_the_table():
    result = discharge_from_energies([100, 50], Rating(rated_wh=200))
    found = discharge_json(result)
    unknown = ("start_s", "cutoff_s", "duration_s", "mean_w", "max_w", "c_rate", "volts_mean")
    assert all(found[key] is None for key in unknown)
    assert found["logs"] == [
        {"file": None, "delivered_wh": 100.0}, {"file": None, "delivered_wh": 50.0},
    ]  # fmt: skip
    assert discharge_table(result).splitlines() == [
        "Delivered  150.0 Wh",
        "  meter 1  100.0 Wh",
        "  meter 2  50.0 Wh",
        "Of rated   75.0 % of 200 Wh",
    ]
