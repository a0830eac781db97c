"""An array check and a clear day as JSON with unit-bearing keys, and as tables."""

from datetime import datetime, tzinfo
from typing import Any

from yardtoll.core.sun.array_check import ArrayCheck, Connect
from yardtoll.core.sun.clear_day import ClearDay
from yardtoll.report.tables.rows import table, warnings_json

_CONNECT_WORDS = {
    Connect.NEVER: "never",
    Connect.TOO_LOW: "no: the volts fall below what the input needs",
    Connect.OVER_PANELLED: "yes, over-panelled: what is over the limit is clipped",
    Connect.OK: "yes",
}


def array_json(check: ArrayCheck) -> dict[str, Any]:
    """The keys of `yardtoll compute array --json`."""
    return {
        "voc_stc_v": check.voc_stc_v,
        "voc_cold_v": check.voc_cold_v,
        "vmp_hot_v": check.vmp_hot_v,
        "isc_a": check.isc_a,
        "power_stc_w": check.power_stc_w,
        "connect": check.connect.value,
        "max_series": check.max_series,
        "warnings": warnings_json(check.notices),
    }


def array_table(check: ArrayCheck) -> str:
    """Whether it may be connected, and the string's figures."""
    rows = [
        ("Connect it", _CONNECT_WORDS[check.connect]),
        ("Open circuit, 25 °C", f"{check.voc_stc_v:.1f} V"),
        ("Open circuit, cold", f"{check.voc_cold_v:.1f} V"),
        ("Full power, hot", f"{check.vmp_hot_v:.1f} V"),
        ("Short circuit", f"{check.isc_a:.1f} A"),
        ("Nameplate", f"{check.power_stc_w:.0f} W"),
        ("In series, at most", f"{check.max_series}"),
    ]
    return table(rows, check.notices)


def sun_json(day: ClearDay, zone: tzinfo) -> dict[str, Any]:
    """The keys of `yardtoll compute sun --json`; times are ISO 8601 with their offset."""
    return {
        "expected_wh": day.expected_wh,
        "peak_w": day.peak_w,
        "clipped_wh": day.clipped_wh,
        "window": [
            {"start": start.isoformat(), "end": end.isoformat()}
            for start, end in _windows(day, zone)
        ],
        "warnings": warnings_json(day.notices),
    }


def sun_table(day: ClearDay, zone: tzinfo) -> str:
    """The day's sum, its peak, and the hours worth testing in."""
    rows = [
        ("Expected, clear sky", f"{day.expected_wh:.0f} Wh"),
        ("Peak", f"{day.peak_w:.0f} W"),
        ("Clipped by the cap", f"{day.clipped_wh:.0f} Wh"),
    ]
    windows = _windows(day, zone)
    rows += [("Worth testing", f"{start:%H:%M} – {end:%H:%M}") for start, end in windows]
    return table(rows, day.notices)


def _windows(day: ClearDay, zone: tzinfo) -> list[tuple[datetime, datetime]]:
    """The hours worth testing in, by the clocks of a zone."""
    return [
        (datetime.fromtimestamp(start, zone), datetime.fromtimestamp(end, zone))
        for start, end in day.window_s
    ]
