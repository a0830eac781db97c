"""The present figures of a run, their expected values, and its alarms."""

import math
from dataclasses import dataclass
from datetime import datetime, timedelta

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.formatting import decimals_for, format_clock
from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.core.uncertainty.energy_budget import (
    discharge_budget,
    power_budget,
    stated_budget,
)
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.running.session import RunSession
from yardtoll.store.records import Reading, ReadingKind
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import local

_ALARMS_SHOWN = 2


@dataclass(frozen=True, kw_only=True)
class LiveFigures:
    """Everything that is said of a run in progress.

    Attributes:
        power, volts: of the latest sample; None before the first.
        energy: delivered or drawn so far.
        elapsed: h:mm:ss.
        share_done: of the time it is expected to take; None where that is not known.
        ends: when, in a few words.
        watch: what is wrong, or that all is quiet.
    """

    station: str
    method: str
    headline: str
    power: Figure | None
    power_note: str
    energy: Figure
    energy_note: str
    elapsed: str
    elapsed_note: str
    volts: Figure | None
    volts_note: str
    share_done: float | None
    ends: str
    watch: str
    watch_is_bad: bool


def live_figures(live: RunSession, now: datetime) -> LiveFigures:
    """The figures of a run in progress, at a clock time."""
    power = _power(live)
    ends, when, share = _end(live, now)
    watch, bad = _watch(live)
    return LiveFigures(
        station=live.station.name,
        method=f"{live.method.title}, run {live.run.number}",
        headline=f"{live.method.title}, run {live.run.number}{when}",
        power=power,
        power_note="mean between readings"
        if live.typed
        else _against_target(power.value if power is not None else None, live.run.target_w),
        energy=_energy(live),
        energy_note=_against_rated(live, live.delivered_wh),
        elapsed=format_clock(live.elapsed_s()),
        elapsed_note=f"on since {clock(local(live.run.started_at))}"
        + (f" · bench clock ×{live.speed:g}" if live.speed != 1 else ""),
        volts=_volts(live),
        volts_note=_beside_volts(
            live.samples.latest(Quantity.HERTZ), live.yard.readings(live.run_id)
        ),
        share_done=share,
        ends=ends,
        watch=watch,
        watch_is_bad=bad,
    )


def value_text(figure: Figure | None) -> str:
    """The value alone: no more digits than its ± allows, and one decimal at most."""
    if figure is None:
        return "–"
    return f"{figure.value:.{_decimals(figure)}f}"


def within_text(figure: Figure | None) -> str:
    """Its ± alone, like "± 2.4", with the value's decimals, rounded up; "" where not known."""
    if figure is None or figure.budget is None:
        return ""
    expanded, decimals = figure.expanded, _decimals(figure)
    if decimals_for(expanded) > decimals:
        expanded = math.ceil(expanded * 10**decimals) / 10**decimals
    return f"± {expanded:.{decimals}f}"


def _decimals(figure: Figure) -> int:
    """Live figures change twice a second: a second decimal would only flicker."""
    return 1 if figure.budget is None else min(decimals_for(figure.expanded), 1)


def _power(live: RunSession) -> Figure | None:
    watts, budget = live.samples.latest(Quantity.POWER), None
    if live.typed and live.mean_w_u:
        why = "the counter's last digit, and the moments it was read"
        line = Contribution(name="Read by eye", why=why, u=live.mean_w_u)
        budget = Budget.of("W", [line])
    if watts is None:
        return None
    if not live.typed:
        budget = power_budget(watts, live.meter.accuracy)
    return Figure(key="power_w", title="Power", value=watts, unit="W", budget=budget)


def _energy(live: RunSession) -> Figure:
    energy_wh, elapsed_s, budget = live.delivered_wh, live.elapsed_s(), None
    if energy_wh > 0 and elapsed_s > 0:
        rating = Rating(rated_wh=live.station.rated_wh)
        so_far = discharge_from_energies([energy_wh], rating, duration_s=elapsed_s)
        budget = discharge_budget(so_far, [live.meter.accuracy])
    return Figure(key="energy_wh", title="So far", value=energy_wh, unit="Wh", budget=budget)


def _volts(live: RunSession) -> Figure | None:
    volts, budget = live.samples.latest(Quantity.VOLTS), None
    if volts is None:
        return None
    if live.meter.volts_share is not None:
        floor_v = live.meter.volts_floor_v or 0.0
        budget = stated_budget(volts, "V", live.meter.volts_share, floor_v, "volts")
    return Figure(key="volts", title="Voltage", value=volts, unit="V", budget=budget)


def _end(live: RunSession, now: datetime) -> tuple[str, str, float | None]:
    """For the strip, for the headline, and the share done."""
    forecast = live.forecast()
    if live.is_over:
        return "finishing", " – finishing", 1.0
    if forecast is None:
        return "waiting for a load", "", None
    back, soon, late = (
        now + timedelta(seconds=s / live.speed)
        for s in (forecast.remaining_s, forecast.earliest_s, forecast.latest_s)
    )
    half_min = max((late - soon).total_seconds() / 120, 0.0)
    elapsed = live.elapsed_s()
    share = elapsed / (elapsed + forecast.remaining_s) if elapsed + forecast.remaining_s else None
    within = f" ± {half_min:.0f} min" if half_min >= 1 else ""
    if forecast.remaining_s == 0:
        return "due now", " – due to end now", share
    return f"ends {clock(back)}{within}", f" – be back at {clock(soon)}", share


def _against_target(watts: float | None, target_w: float | None) -> str:
    if not target_w:
        return "no target set"
    if watts is None or watts < 2:
        return f"target {target_w:g} W"
    return f"target {target_w:g} · {100 * (watts / target_w - 1):+.1f} %"


def _against_rated(live: RunSession, delivered_wh: float) -> str:
    return f"{100 * delivered_wh / live.station.rated_wh:.1f} % of {live.station.rated_wh:g} rated"


def _beside_volts(hertz: float | None, readings: list[Reading]) -> str:
    """Frequency, and what the display last said."""
    typed = [r for r in readings if r.kind == ReadingKind.SOC.value]
    display = f"display last said {typed[-1].value:g} %" if typed else "display not read yet"
    return f"{hertz:.2f} Hz · {display}" if hertz is not None else display


def _watch(live: RunSession) -> tuple[str, bool]:
    """What is wrong in words, or that all is quiet."""
    if live.typed and not len(live.samples):
        return "Read by eye: press Space, type the meter's Wh, Enter.", False
    found = live.watch()
    if live.typed and not found:
        return "Read by eye. Press C the moment the station shuts off.", False
    if not found:
        watts = live.samples.latest(Quantity.POWER) or 0.0
        if live.method.may_exceed_rating and watts > live.station.rated_w:
            return "Above the rating, as this test means it; the meter is within its own.", False
        return "All quiet: power on target, meter and station within their ratings.", False
    return " ".join(alarm.text for alarm in found[:_ALARMS_SHOWN]), any(a.bad for a in found)
