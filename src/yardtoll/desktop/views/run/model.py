"""What the Run view and the run strip say, as text, from the run that is going."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import decimals_for, format_clock, format_span
from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.core.uncertainty.energy_budget import (
    discharge_budget,
    power_budget,
    stated_budget,
)
from yardtoll.running.session import RunSession
from yardtoll.store.records import Reading, ReadingKind
from yardtoll.store.site_time import local

# One bare key a mark.
MARK_KEYS: tuple[tuple[str, str], ...] = (
    ("F", "Fan on"),
    ("G", "Fan off"),
    ("W", "Warning"),
    ("H", "Hot, smell"),
    ("E", "Error code"),
    ("X", "Odd"),
)
END_KEY = "C"
"""Marks the moment a station shut off, or was full; there while the meter is read by eye."""
SPEEDS = (1, 10, 60, 600, 3600)
_ALARMS_SHOWN = 2


@dataclass(frozen=True, kw_only=True)
class RunFigures:
    """Everything the screen says of a run that is going."""

    station: str
    method: str
    headline: str
    watts: str
    watts_note: str
    energy: str
    energy_note: str
    elapsed: str
    elapsed_note: str
    volts: str
    volts_note: str
    share_done: float | None
    back_at: str
    watch: str
    watch_is_bad: bool
    budgets: Mapping[str, Budget]


def live_budgets(live: RunSession) -> dict[str, Budget]:
    """What the power and the energy of this moment may be off by, from the meter's accuracy."""
    found = {}
    accuracy = live.meter.accuracy
    watts = live.samples.latest(Quantity.POWER)
    if watts is not None and not live.typed:
        found["power"] = power_budget(watts, accuracy)
    if live.typed and live.mean_w_u:
        why = "the counter's last digit, and the moments it was read"
        line = Contribution(name="Read by eye", why=why, u=live.mean_w_u)
        found["power"] = Budget.of("W", [line])
    volts = live.samples.latest(Quantity.VOLTS)
    if volts is not None and live.meter.volts_share is not None:
        floor_v = live.meter.volts_floor_v or 0.0
        found["volts"] = stated_budget(volts, "V", live.meter.volts_share, floor_v, "volts")
    elapsed_s = live.elapsed_s()
    if live.delivered_wh > 0 and elapsed_s > 0:
        rating = Rating(rated_wh=live.station.rated_wh)
        so_far = discharge_from_energies([live.delivered_wh], rating, duration_s=elapsed_s)
        found["energy"] = discharge_budget(so_far, [accuracy])
    return found


def figures_of(live: RunSession, now: datetime) -> RunFigures:
    """The figures of a live run at a clock time."""
    samples = live.samples
    watts = samples.latest(Quantity.POWER)
    volts, hertz = samples.latest(Quantity.VOLTS), samples.latest(Quantity.HERTZ)
    delivered = live.delivered_wh
    back, when, share = _end(live, now)
    watch, bad = _watch(live)
    budgets = live_budgets(live)

    def shown(value: float, quantity: str) -> str:
        """No more digits than the meter's accuracy allows, and one at most."""
        found = budgets.get(quantity)
        return f"{value:.{min(decimals_for(found.expanded), 1) if found else 1}f}"

    return RunFigures(
        station=live.station.name,
        method=f"{live.method.title}, run {live.run.number}",
        headline=f"{live.method.title}, run {live.run.number}{when}",
        watts=shown(watts, "power") if watts is not None else "–",
        watts_note="mean between readings"
        if live.typed
        else _against_target(watts, live.run.target_w),
        energy=shown(delivered, "energy"),
        energy_note=_against_rated(live, delivered),
        elapsed=format_clock(live.elapsed_s()),
        elapsed_note=f"on since {local(live.run.started_at):%H:%M}"
        + (f" · bench clock ×{live.speed:g}" if live.speed != 1 else ""),
        volts=shown(volts, "volts") if volts is not None else "–",
        volts_note=_beside_volts(hertz, live.yard.readings(live.run_id)),
        share_done=share,
        back_at=back,
        watch=watch,
        watch_is_bad=bad,
        budgets=budgets,
    )


def in_steps(time_s: FloatArray, power_w: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means between readings as steps: each stretch flat at its mean, nothing made up inside."""
    if time_s.size < 2:
        return time_s, power_w
    edges = np.repeat(time_s, 2)[1:-1]
    # Times must rise; a millisecond is not seen.
    edges[2::2] += 1e-3
    return edges, np.repeat(power_w[1:], 2)


def parse_time_left(text: str) -> float | None:
    """Like "1:20", "0.9 h", "45 min" or "0.9" (hours) as s; None when it is none of these."""
    cleaned = text.strip().lower().replace(",", ".")
    try:
        if ":" in cleaned:
            hours, minutes = cleaned.split(":")
            return 3600.0 * int(hours) + 60.0 * int(minutes)
        if cleaned.endswith(("min", "m")):
            return 60.0 * float(cleaned.rstrip("min "))
        return 3600.0 * float(cleaned.rstrip("h "))
    except ValueError:
        return None


def parse_number(text: str, low: float, high: float) -> float | None:
    """A number within bounds; None when it is none."""
    try:
        value = float(text.strip().rstrip("%wW ").replace(",", "."))
    except ValueError:
        return None
    return value if low <= value <= high else None


def reading_text(reading: Reading) -> str:
    """A typed reading as shown."""
    if reading.kind == ReadingKind.SOC.value:
        return f"{reading.value:g} % shown"
    if reading.kind == ReadingKind.DISPLAY_W.value:
        return f"{reading.value:g} W shown"
    if reading.kind == ReadingKind.METER_WH.value:
        return f"{reading.value:g} Wh on the meter"
    if reading.kind == ReadingKind.IRRADIANCE.value:
        return f"{reading.value:g} W/m²"
    if reading.kind == ReadingKind.INPUT_W.value:
        return f"{reading.value:g} W coming in shown"
    return f"{format_span(reading.value)} left shown"


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
    return f"ends {back:%H:%M}{within}", f" – be back at {soon:%H:%M}", share


def clock_range(soon: datetime, late: datetime) -> str:
    """Like "16:31–16:46", or one time when both fall into one minute."""
    first, last = f"{soon:%H:%M}", f"{late:%H:%M}"
    return first if first == last else f"{first}–{last}"


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
        return "All quiet: power on target, meter and station within their ratings.", False
    return " ".join(alarm.text for alarm in found[:_ALARMS_SHOWN]), any(a.bad for a in found)
