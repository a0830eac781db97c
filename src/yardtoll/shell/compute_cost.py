"""`yardtoll compute endurance` and `price`: will it last, and what does it cost."""

import math
import re
from collections.abc import Iterator
from datetime import datetime
from typing import TYPE_CHECKING, Annotated
from zoneinfo import ZoneInfo

import typer

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted
from yardtoll.shell.options import AsJson, duration_s, print_result
from yardtoll.shell.site_options import (
    Albedo,
    AltitudeM,
    AmbientC,
    ArrayWIfAny,
    AzimuthIfAny,
    CapW,
    Gamma,
    LatIfAny,
    LonIfAny,
    SunZoneIfAny,
    TiltIfAny,
    WindMs,
    WiringLoss,
    begin_of,
)

if TYPE_CHECKING:
    from yardtoll.core.electrical.trace import Notice
    from yardtoll.core.endurance.heat import Heating
    from yardtoll.core.endurance.outage import OutageLoad, SunSteps

_SUN_STEP_H = 1 / 12
_DEFAULT_HOURS = 72.0
_MOST_FACTOR = 50.0
"""An inrush up to this is a factor of the watts, above it watts."""
_HOUR = r"(\d{1,2}(?:\.\d+)?|\d{1,2}:[0-5]\d)(?:\s*h)?"
_NUMBER = r"\d+(?:\.\d+)?"
_LOAD = re.compile(
    rf"(?P<name>[^=]*[^=\s])\s*=\s*(?P<watts>-?{_NUMBER})\s*(?P<kilo>k?)W?(?P<rest>.*)",
    re.IGNORECASE,
)
_DUTY = re.compile(rf"\bduty\s*(-?{_NUMBER})\s*(%?)", re.IGNORECASE)
_HOURS = re.compile(rf"\bfrom\s+{_HOUR}\s+to\s+{_HOUR}(?![\d.:])", re.IGNORECASE)
_CLOCK = re.compile(r"\s*([01]?\d|2[0-3])(?::([0-5]\d))?(?:\s*h)?\s*")
_INRUSH = re.compile(rf"\binrush\s*({_NUMBER})\s*(k?W|×|x)?", re.IGNORECASE)
_HEAT = re.compile(
    rf"\s*({_NUMBER})\s*(?:l|kg|litres?|liters?)\s+from\s+(-?{_NUMBER})\s+to\s+({_NUMBER})"
    rf"\s*°?\s*([CF])?\s*(?:in|at|over)\s+({_NUMBER})\s*(%?)\s*",
    re.IGNORECASE,
)


def compute_endurance(
    store_wh: Annotated[
        float | None, typer.Option("--store-wh", help="Wh in the full store, at the battery.")
    ] = None,
    overhead_w: Annotated[
        float | None, typer.Option("--overhead-w", help="W of the station's own, outlet on.")
    ] = None,
    conversion: Annotated[
        float, typer.Option("--conversion", help="Share of the output lost on its way.")
    ] = 0.0,
    load: Annotated[
        list[str] | None,
        typer.Option(
            "--load",
            metavar='"NAME=W[ duty D][ from H to H][ inrush N]"',
            help="An appliance (repeatable).",
        ),
    ] = None,
    hours: Annotated[
        float | None, typer.Option("--hours", help="Must it last so long? Else 72 h are looked at.")
    ] = None,
    surge_w: Annotated[
        float | None, typer.Option("--surge-w", help="W the station gives for a moment.")
    ] = None,
    heat: Annotated[
        str | None,
        typer.Option("--heat", metavar='"1 L from 20 to 100 C in 0.85"', help="Warm water once."),
    ] = None,
    pack: Annotated[
        list[float] | None, typer.Option("--pack", help="Wh of a further pack (repeatable).")
    ] = None,
    parallel: Annotated[int, typer.Option("--parallel", help="So many stations together.")] = 1,
    start: Annotated[
        str | None,
        typer.Option("--start", metavar="[YYYY-MM-DDT]hh:mm", help="When it begins."),
    ] = None,
    date: Annotated[
        str | None,
        typer.Option("--date", metavar="YYYY-MM-DD", help="The day, if --start is an hour."),
    ] = None,
    shown: Annotated[
        float | None, typer.Option("--shown", help="The display says so many % now.")
    ] = None,
    after: Annotated[
        float | None,
        typer.Option("--after", parser=duration_s, metavar="H:MM:SS", help="Since full."),
    ] = None,
    lat: LatIfAny = None,
    lon: LonIfAny = None,
    tz: SunZoneIfAny = None,
    tilt: TiltIfAny = None,
    azimuth: AzimuthIfAny = None,
    array_w: ArrayWIfAny = None,
    cap_w: CapW = None,
    altitude_m: AltitudeM = 0.0,
    ambient_c: AmbientC = 20.0,
    wind_ms: WindMs = 1.0,
    gamma: Gamma = -0.0037,
    wiring_loss: WiringLoss = 0.02,
    albedo: Albedo = 0.25,
    as_json: AsJson = False,
) -> None:
    """How long a store lasts with these loads, its own overhead, and some sun."""
    from yardtoll.core.endurance.display import hours_more
    from yardtoll.core.endurance.outage import Outage, through_outage
    from yardtoll.report.tables.endurance import endurance_json, endurance_table

    _refuse_halves(shown, after, store_wh, overhead_w)
    if parallel < 1:
        raise typer.BadParameter("--parallel must be 1 or more")
    _refuse_below(("--pack", min(pack or [1.0])), ("--surge-w", surge_w))
    loads = [_load(text) for text in load or ()]
    heat_wh = _heat(heat).from_outlet_wh if heat is not None else 0.0
    begins, looked_at = _start(start, date, tz), hours if hours is not None else _DEFAULT_HOURS
    panels = _panels(lat, lon, tilt, azimuth, array_w)
    result, sun = None, None
    if store_wh is not None and overhead_w is not None:
        if panels is not None:
            begins = begins or datetime.now(tz)
            sun = _sun_steps(
                begins, tz, looked_at, panels, cap_w=cap_w, altitude_m=altitude_m, albedo=albedo,
                gamma=gamma, wiring_loss=wiring_loss, ambient_c=ambient_c, wind_ms=wind_ms,
            )  # fmt: skip
        asked = Outage(
            store_wh=parallel * store_wh + sum(pack or ()),
            overhead_w=parallel * overhead_w,
            conversion=conversion,
            loads=tuple(loads),
            begins_h=begins.hour + begins.minute / 60 if begins is not None else 0.0,
            hours=looked_at,
            heat_wh=heat_wh,
            sun=sun,
        )
        result = through_outage(asked)
    more = hours_more(shown, after) if shown is not None and after is not None else None
    made = (endurance_json if as_json else endurance_table)(
        result,
        hours_asked=hours,
        heat_wh=heat_wh,
        by_sun=sun is not None,
        more=more,
        notices=tuple(_over_surge(loads, surge_w)),
    )
    print_result(made)


def compute_price(
    price: Annotated[float, typer.Option("--price", help="What one costs.")],
    rated_wh: Annotated[float, typer.Option("--rated-wh", help="Its rated energy, Wh.")],
    usable_wh: Annotated[
        float | None, typer.Option("--usable-wh", help="What it delivers, Wh.")
    ] = None,
    inverter_w: Annotated[
        float | None, typer.Option("--inverter-w", help="Rated W of its inverter.")
    ] = None,
    solar_w: Annotated[
        float | None, typer.Option("--solar-w", help="W of its solar input.")
    ] = None,
    cycles: Annotated[float | None, typer.Option("--cycles", help="Cycles it is to live.")] = None,
    tariff: Annotated[float | None, typer.Option("--tariff", help="Money for a kWh.")] = None,
    round_trip: Annotated[
        float, typer.Option("--round-trip", help="Delivered ÷ drawn, for a charge.")
    ] = 1.0,
    units: Annotated[int | None, typer.Option("--units", help="So many together.")] = None,
    as_json: AsJson = False,
) -> None:
    """What a price is per Wh, per W, per charge, over a lifetime; for one and for several."""
    from yardtoll.core.cost.price import Bought, price_of
    from yardtoll.report.tables.endurance import price_json, price_table

    if units is not None and units < 1:
        raise typer.BadParameter("--units must be 1 or more")
    bought = Bought(
        rated_wh=rated_wh,
        usable_wh=usable_wh,
        inverter_w=inverter_w,
        solar_w=solar_w,
        cycles=cycles,
        tariff=tariff,
        round_trip=round_trip,
    )
    one = price_of(price, bought)
    several = (units, price_of(units * price, bought.times(units))) if units is not None else None
    print_result((price_json if as_json else price_table)(one, several))


def _refuse_halves(
    shown: float | None, after: float | None, store_wh: float | None, overhead_w: float | None
) -> None:
    if (shown is None) != (after is None):
        raise typer.BadParameter("--shown and --after belong together")
    if (store_wh is None) != (overhead_w is None):
        raise typer.BadParameter("--store-wh and --overhead-w belong together")
    if store_wh is None and shown is None:
        raise typer.BadParameter("give --store-wh and --overhead-w, or --shown and --after")


def _refuse_below(*named: tuple[str, float | None]) -> None:
    for name, value in named:
        if value is not None and not 0 < value < math.inf:
            raise UnusableDataError(f"{name} is {value:g}; it must be above 0")


def _load(text: str) -> "OutageLoad":
    """Like "fridge=90 duty 0.4", "lamp=12 from 18 to 23:30", "pump=400 inrush 4"."""
    from yardtoll.core.endurance.outage import OutageLoad

    found = _LOAD.fullmatch(text.strip())
    if found is None:
        raise typer.BadParameter(f'{quoted(text)} should look like "fridge=90 duty 0.4"')
    rest = found["rest"]
    watts = float(found["watts"]) * (1000.0 if found["kilo"] else 1.0)
    duty, hours, inrush = (p.search(rest) for p in (_DUTY, _HOURS, _INRUSH))
    left = _INRUSH.sub("", _HOURS.sub("", _DUTY.sub("", rest)))
    if left.strip(" ,;"):
        raise typer.BadParameter(f"{quoted(left.strip())} in {quoted(text)} is not understood")
    return OutageLoad(
        name=found["name"].strip(),
        watts=watts,
        duty=float(duty[1]) / (100.0 if duty[2] else 1.0) if duty else 1.0,
        from_h=_clock_h(hours[1]) if hours else None,
        to_h=_clock_h(hours[2]) if hours else None,
        inrush_w=_inrush_w(inrush[1], inrush[2] or "", watts) if inrush else None,
    )


def _clock_h(text: str) -> float:
    """Like "18", "18.5", "18:30"."""
    hour, _, minute = text.partition(":")
    return float(hour) + (float(minute) / 60 if minute else 0.0)


def _inrush_w(number: str, unit: str, watts: float) -> float:
    """A factor of the watts, unless it is said, or too large, to be one."""
    value = float(number)
    if unit.lower() == "kw":
        return 1000.0 * value
    is_watts = unit.lower() == "w" or (not unit and value > _MOST_FACTOR)
    return value if is_watts else value * watts


def _heat(text: str) -> "Heating":
    """Like "1 L from 20 to 100 C in 0.85"."""
    from yardtoll.core.endurance.heat import Heating

    found = _HEAT.fullmatch(text)
    if found is None:
        raise typer.BadParameter(f'{quoted(text)} should look like "1 L from 20 to 100 C in 0.85"')
    low, high = float(found[2]), float(found[3])
    if (found[4] or "C").upper() == "F":
        low, high = ((f - 32) / 1.8 for f in (low, high))
    efficiency = float(found[5]) / (100.0 if found[6] else 1.0)
    return Heating(litres=float(found[1]), from_c=low, to_c=high, efficiency=efficiency)


def _start(text: str | None, date: str | None, tz: ZoneInfo | None) -> datetime | None:
    """A day, a day and a time, or a time where the site is: of the day given, else of today."""
    day = begin_of(date) if date is not None else None
    if text is None:
        return day
    clock = _CLOCK.fullmatch(text)
    if clock is not None:
        at = day if day is not None else datetime.now(tz)
        return at.replace(hour=int(clock[1]), minute=int(clock[2] or 0), second=0, microsecond=0)
    begins = begin_of(text)
    # Hours of the clock are those where the site is.
    begins = begins.astimezone(tz) if tz is not None and begins.tzinfo is not None else begins
    if day is not None and day.date() != begins.date():
        raise typer.BadParameter(f"--start {quoted(text)} is not on --date {quoted(date or '')}")
    return begins


def _panels(*values: float | None) -> tuple[float, ...] | None:
    """Latitude, longitude, tilt, azimuth and W; None where there are no panels."""
    names = ("--lat", "--lon", "--tilt", "--azimuth", "--array-w")
    missing = [name for name, value in zip(names, values, strict=True) if value is None]
    if len(missing) == len(names):
        return None
    if missing:
        raise typer.BadParameter(f"the sun needs {', '.join(missing)} too")
    return tuple(value for value in values if value is not None)


def _sun_steps(
    begins: datetime,
    tz: ZoneInfo | None,
    hours: float,
    panels: tuple[float, ...],
    *,
    cap_w: float | None,
    altitude_m: float,
    albedo: float,
    gamma: float,
    wiring_loss: float,
    ambient_c: float,
    wind_ms: float,
) -> "SunSteps":
    """What a clear sky gives through the panels, five minutes a step."""
    import numpy as np

    from yardtoll.core.endurance.outage import LONGEST_H, SunSteps
    from yardtoll.core.sun.allowed import capped
    from yardtoll.core.sun.clear_day import free_power_w
    from yardtoll.core.sun.panels import SunArray
    from yardtoll.core.sun.sky import SunSite

    if not 0 < hours <= LONGEST_H:
        raise UnusableDataError(f"--hours is {hours:g}; it must be above 0 and at most a year")
    lat, lon, tilt, azimuth, array_w = panels
    site = SunSite(
        latitude=lat, longitude=lon, tilt=tilt, azimuth=azimuth, altitude_m=altitude_m,
        albedo=albedo,
    )  # fmt: skip
    array = SunArray(
        power_stc_w=array_w, cap_w=cap_w, gamma=gamma, wiring_loss=wiring_loss,
        ambient_c=ambient_c, wind_ms=wind_ms,
    )  # fmt: skip
    # Without a zone it is this computer's, as for the clock on the wall.
    zoned = begins.replace(tzinfo=tz) if tz is not None else begins.astimezone()
    here = begins if begins.tzinfo is not None else zoned
    count = math.ceil(hours / _SUN_STEP_H)
    # The middle of each step stands for it.
    middle_h = (np.arange(count) + 0.5) * _SUN_STEP_H
    clock_s = np.asarray(here.timestamp() + 3600 * middle_h, dtype=np.float64)
    watts = capped(free_power_w([(site, array)], clock_s), cap_w)
    return SunSteps(step_h=_SUN_STEP_H, watts=tuple(float(w) for w in watts))


def _over_surge(loads: "list[OutageLoad]", surge_w: float | None) -> Iterator["Notice"]:
    """Loads whose start is more than the station gives."""
    from yardtoll.core.electrical.trace import Code, Notice

    for load in loads:
        if surge_w is not None and load.inrush_w is not None and load.inrush_w > surge_w:
            said = (
                f"{load.name} takes {load.inrush_w:.0f} W to start, over the {surge_w:g} W of surge"
            )
            yield Notice(code=Code.INRUSH_OVER_SURGE, message=said)


KINDS = {
    command.__name__.removeprefix("compute_"): command
    for command in (compute_endurance, compute_price)
}
