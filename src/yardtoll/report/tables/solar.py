"""A solar run as JSON with unit-bearing keys, and as a table."""

from typing import Any

from yardtoll.core.formatting import format_span
from yardtoll.core.sun.limits import LIMITS
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.report.tables.rows import table, warnings_json

LIMIT_WORDS = {
    "sun": "the sun",
    "array": "the array",
    "cap": "the station's cap",
    "full": "a nearly full battery",
    "shade": "shade",
}


def solar_json(run: SolarRun) -> dict[str, Any]:
    """The keys of `yardtoll compute solar --json`."""
    return {
        "harvest_wh": run.harvest_wh,
        "peak_w": run.peak_w,
        "sustained_w": run.sustained_w,
        "expected_wh": run.expected_wh,
        "performance": run.performance,
        "limited_by": {
            limit.value: run.limited_by[limit] if run.limited_by is not None else None
            for limit in LIMITS
        },
        "recoveries": [
            {"start_s": r.start_s, "drop_w": r.drop_w, "recover_s": r.recover_s}
            for r in run.recoveries
        ],
        "warnings": warnings_json(run.notices),
    }


def solar_table(run: SolarRun) -> str:
    """Harvest and what held it back."""
    rows = [("Harvested", f"{run.harvest_wh:.1f} Wh"), ("Peak", f"{run.peak_w:.0f} W")]
    if run.sustained_w is not None:
        rows.append(("Best 5 minutes", f"{run.sustained_w:.0f} W"))
    if run.expected_wh is not None:
        by = "by the sensor" if run.measured_sun else "clear sky"
        rows.append((f"Expected, {by}", f"{run.expected_wh:.1f} Wh"))
    if run.performance is not None:
        rows.append(("Of the expected", f"{100 * run.performance:.1f} %"))
    if run.limited_by is not None:
        rows += [
            (f"Limited by {LIMIT_WORDS[limit.value]}", f"{100 * share:.1f} % of the time")
            for limit, share in run.limited_by.items()
            if share > 0
        ]
    for drop in run.recoveries:
        back = f"back in {drop.recover_s:.0f} s" if drop.recover_s is not None else "not back"
        at = format_span(drop.start_s)
        rows.append((f"Shade after {at}", f"−{drop.drop_w:.0f} W, {back}"))
    return table(rows, run.notices)
