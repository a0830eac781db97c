"""Results of endurance and prices, as JSON with unit-bearing keys and as tables."""

from typing import Any

from yardtoll.core.cost.price import PriceResult
from yardtoll.core.electrical.trace import Notice
from yardtoll.core.endurance.display import HoursMore
from yardtoll.core.endurance.outage import OutageResult
from yardtoll.core.formatting import decimals_for, format_span
from yardtoll.report.tables.rows import table, warnings_json

_HOUR_S = 3600.0


def endurance_json(
    result: OutageResult | None,
    *,
    hours_asked: float | None,
    heat_wh: float = 0.0,
    by_sun: bool = False,
    more: HoursMore | None = None,
    notices: tuple[Notice, ...] = (),
) -> dict[str, Any]:
    """The keys of `yardtoll compute endurance --json`."""
    made: dict[str, Any] = {}
    if result is not None:
        made |= {
            "hours": result.hours,
            "left": [{"hour": at.hour, "wh": at.wh} for at in result.left],
            "total_w": result.total_w,
            "overhead_share": result.overhead_share,
        }
        if heat_wh:
            made["heat_wh"] = heat_wh
        if by_sun:
            made["spilled_wh"] = result.spilled_wh
        if hours_asked is not None:
            made["lasts"] = result.lasts
            if result.lasts:
                made["left_wh"] = result.left_wh
            else:
                made["short_wh"] = result.short_wh
                made["add"] = {"wh": result.more_wh, "sun_wh": result.more_sun_wh}
    if more is not None:
        made |= {"hours_more": more.hours, "hours_more_U": more.expanded_h}
    return made | {"warnings": warnings_json(notices)}


def endurance_table(
    result: OutageResult | None,
    *,
    hours_asked: float | None,
    heat_wh: float = 0.0,
    by_sun: bool = False,
    more: HoursMore | None = None,
    notices: tuple[Notice, ...] = (),
) -> str:
    """The answer first."""
    rows: list[tuple[str, str]] = []
    if result is not None:
        rows += _outage_rows(result, hours_asked)
        if heat_wh:
            rows.append(("Heat", f"{heat_wh:.1f} Wh at the outlet, once"))
        if by_sun:
            rows.append(("Spilled", f"{result.spilled_wh:.0f} Wh of sun that found the store full"))
    if more is not None:
        decimals = decimals_for(more.expanded_h)
        shown = f"{more.hours:.{decimals}f} ± {more.expanded_h:.{decimals}f} h"
        rows.append(("Goes on for", f"{shown} at the pace so far"))
    return table(rows, notices)


def _outage_rows(result: OutageResult, hours_asked: float | None) -> list[tuple[str, str]]:
    rows = []
    if result.hours is not None:
        rows.append(("Empty after", format_span(result.hours * _HOUR_S)))
    else:
        rows.append(("Lasts", f"with {result.left_wh:.0f} Wh left at the end"))
    share = result.overhead_share
    overhead = f", {100 * share:.0f} % of it the station's own" if share is not None else ""
    rows.append(("Out of the battery", f"{result.total_w:.1f} W in the mean{overhead}"))
    rows += [(f"  {name}", f"{wh:.0f} Wh") for name, wh in result.taken_wh.items()]
    if hours_asked is not None and not result.lasts:
        rows.append(("Not served", f"{result.short_wh:.0f} Wh until {hours_asked:g} h"))
        closes = f"{result.more_wh:.0f} Wh more store, or {result.more_sun_wh:.0f} Wh of sun"
        rows.append(("Closes the gap", closes))
    return rows


_PRICES = (
    ("per_rated_wh", "Per rated Wh"),
    ("per_usable_wh", "Per usable Wh"),
    ("per_inverter_w", "Per inverter W"),
    ("per_solar_w", "Per solar W"),
    ("three_way", "Three-way index"),
    ("per_lifetime_kwh", "Per kWh of its life"),
    ("per_charge", "A charge"),
)


def price_json(one: PriceResult, several: tuple[int, PriceResult] | None) -> dict[str, Any]:
    """The keys of `yardtoll compute price --json`."""
    made: dict[str, Any] = {key: getattr(one, key) for key, _ in _PRICES}
    if several is not None:
        count, together = several
        units = {"count": count, **{key: getattr(together, key) for key, _ in _PRICES}}
        made["units"] = units
    return made | {"warnings": []}


def price_table(one: PriceResult, several: tuple[int, PriceResult] | None) -> str:
    """A line for each that is known; a second figure for several units."""
    rows = []
    for key, title in _PRICES:
        values = [getattr(one, key), *([getattr(several[1], key)] if several else [])]
        if values[0] is not None:
            shown = " · ".join(f"{value:.3f}" for value in values if value is not None)
            rows.append((title, shown))
    if several is not None:
        rows.insert(0, ("", f"one unit · {several[0]} units"))
    return table(rows, ())
