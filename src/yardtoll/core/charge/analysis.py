"""Energy drawn and times to a state of charge of a recharge, from a trace or bare figures."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.charge.phases import Phase, PhaseName, find_phases, full_power_w
from yardtoll.core.charge.soc_times import (
    SOC_HALF_STEP,
    EnergyCurve,
    SocReading,
    ToSoc,
    logged_readings,
    rising_readings,
    shown_ends,
    times_to_soc,
)
from yardtoll.core.electrical.doubts import cleaned, frozen_from, is_sparse, without_gaps
from yardtoll.core.electrical.energy import (
    SECONDS_PER_HOUR,
    Counter,
    Gap,
    join_counter,
    slice_between,
)
from yardtoll.core.electrical.load_span import (
    LoadSpan,
    refined_by_counter,
    span_of_counter,
    span_of_power,
)
from yardtoll.core.electrical.medians import median
from yardtoll.core.electrical.parts import differences, step_parts
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.run_energy import (
    SampleLimits,
    energy_notices,
    energy_of_run,
    sample_limits,
)
from yardtoll.core.electrical.timebase import Sampling, sampling_of
from yardtoll.core.electrical.trace import Code, FloatArray, Notice, Trace
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import format_clock

END_SHARE = 0.02
"""A charge ends with the last power above this share of full power …"""
END_FLOOR_W = 2.0
"""… and above this many W."""
_LOST_W = 0.5
_CURVE_SAMPLES, _CURVE_POINTS = 5, 4000


@dataclass(frozen=True, kw_only=True)
class ChargeWindow:
    """What is known beside the log.

    Attributes:
        rated_wh: > 0.
        soc_from, soc_to: % at start and end; None for what the display said there, else 0 and
            100 %.
        delivered_wh: what a discharge over the same window gave; None where there is none.
        stored_wh: a fitted store over the window, where runs at several loads gave one.

    Raises:
        ValueOutOfRangeError: a figure is outside its range.
    """

    rated_wh: float
    soc_from: float | None = None
    soc_to: float | None = None
    delivered_wh: float | None = None
    stored_wh: float | None = None

    def __post_init__(self) -> None:
        if not (np.isfinite(self.rated_wh) and self.rated_wh > 0):
            raise ValueOutOfRangeError("rated_wh", self.rated_wh, "above 0 Wh")
        for name, value in (("soc_from", self.soc_from), ("soc_to", self.soc_to)):
            if value is not None and not 0 <= value <= 100:
                raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
        if self.delivered_wh is not None and not (
            np.isfinite(self.delivered_wh) and self.delivered_wh >= 0
        ):
            raise ValueOutOfRangeError("delivered_wh", self.delivered_wh, "0 Wh or more")


@dataclass(frozen=True, kw_only=True)
class RechargeResult:
    """Figures of one recharge; None where a figure is not known, the energy too.

    ``start_s``, phases and gaps are s from the log's first sample, ``readings``, ``to_soc`` and
    ``curve`` from charge start; ``soc`` is % at start and end. ``peak_w`` is the highest sample,
    ``full_power_w`` the highest level held steadily; a mean is neither. ``edges_s`` are the limits
    ± of start and end.
    """

    window: ChargeWindow
    soc: tuple[float, float]
    drawn_wh: float | None
    start_s: float | None
    duration_s: float | None
    peak_w: float | None
    full_power_w: float | None
    mean_w: float | None
    phases: tuple[Phase, ...]
    readings: tuple[SocReading, ...]
    to_soc: tuple[ToSoc, ...]
    round_trip: float | None
    charge_efficiency: float | None
    efficiency_basis: Literal["rated", "fitted_store"]
    gaps: tuple[Gap, ...] = ()
    notices: tuple[Notice, ...] = ()
    edges_s: tuple[float, float] = (0.0, 0.0)
    limits: SampleLimits | None = None
    curve: EnergyCurve | None = None
    spikes: int = 0
    power_factor: float | None = None
    is_noted: bool = False

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)


def recharge_from_energy(
    drawn_wh: float,
    window: ChargeWindow,
    *,
    duration_s: float | None = None,
    readings: Sequence[SocReading] = (),
    limits: SampleLimits | None = None,
) -> RechargeResult:
    """A recharge from a figure read off a meter.

    Args:
        limits: what the figure's last digit leaves open; None for one taken as exact.

    Raises:
        ValueOutOfRangeError: energy below 0, or a duration not above 0.
    """
    if not (np.isfinite(drawn_wh) and drawn_wh >= 0):
        raise ValueOutOfRangeError("energy_wh", drawn_wh, "0 Wh or more")
    if duration_s is not None and not duration_s > 0:
        raise ValueOutOfRangeError("duration", duration_s, "longer than 0 s")
    return _result(window, drawn_wh, readings, duration_s=duration_s, limits=limits)


def analyse_recharge(
    trace: Trace,
    window: ChargeWindow,
    readings: Sequence[SocReading] = (),
    *,
    on_the_log: bool = False,
    on_change: bool | None = None,
) -> RechargeResult:
    """A recharge from a meter's trace; its own state-of-charge column counts as readings.

    Args:
        on_the_log: the readings' times count from the log's first sample, not from charge start;
            those before the start then say where the charge began.
        on_change: True for a log that holds only changes; None to find out.

    Raises:
        UnusableDataError: the trace has neither power nor counter, or nothing was drawn.
    """
    clean = cleaned(trace, on_change)
    trace = clean.trace
    power = trace.valid(Quantity.POWER)
    counted = trace.valid(Quantity.ENERGY)
    has_power = power[0].size > 1
    if not has_power and counted[0].size < 2:
        raise UnusableDataError(
            f"{trace.name} has neither two power samples nor two readings of an energy counter"
        )
    counter = join_counter(*counted, power if has_power else None) if counted[0].size > 1 else None
    if not has_power:
        assert counter is not None
        power = _power_of_counter(counter)
    sampling = sampling_of(power[0] if has_power else counted[0])
    if clean.on_change:
        sampling = without_gaps(sampling)
    span = _charge_span(trace.name, power, counter, sampling, has_power=has_power)
    if on_the_log:
        readings = [SocReading(s=max(r.s - span.start_s, 0.0), soc=r.soc) for r in readings]
    readings = [*readings, *logged_readings(*trace.valid(Quantity.SOC), span.start_s)]
    onwards = power[1] if power[1].min() >= 0 else np.maximum(power[1], 0.0)
    metered = (power[0], onwards) if has_power else None
    drawn, source, gaps = energy_of_run(sampling, metered, counter, span)
    within = slice_between(power[0], span.start_s, span.cutoff_s)
    phases = find_phases(*power, span.start_s, span.cutoff_s)
    notices = [
        *trace.notices,
        *clean.notices,
        *_log_notices(trace, span, phases),
        *energy_notices(trace.name, sampling, metered, counter, span, gaps),
    ]
    frozen = None if clean.on_change else frozen_from(trace, counter, span)
    notices += [frozen] if frozen is not None else []
    if source == "power" and not clean.on_change and is_sparse(*power, span):
        message = f"{trace.name}: the samples are too few to follow the charge"
        notices.append(Notice(code=Code.SPARSE, message=message))
    factors = trace.valid(Quantity.POWER_FACTOR)
    inside = factors[1][slice_between(factors[0], span.first_s, span.last_s)]
    return _result(
        window,
        drawn,
        readings,
        duration_s=span.cutoff_s - span.start_s,
        start_s=span.start_s,
        peak_w=float(np.max(power[1][within])) if has_power else None,
        phases=phases,
        gaps=gaps,
        notices=notices,
        edges_s=span.edges_s,
        limits=sample_limits(source, metered, counter, span, gaps),
        curve=_energy_curve(metered, counter, span),
        spikes=clean.spikes,
        power_factor=median(inside) if inside.size else None,
    )


def recharge_from_notes(
    window: ChargeWindow,
    drawn_wh: float | None,
    readings: Sequence[SocReading],
    *,
    duration_s: float | None,
    start_s: float,
    peak_w: float | None,
    notices: Sequence[Notice],
    edges_s: tuple[float, float],
    limits: SampleLimits | None,
    curve: EnergyCurve | None,
) -> RechargeResult:
    """A recharge from what notes say of it; see :mod:`yardtoll.core.charge.noted`."""
    return _result(
        window,
        drawn_wh,
        readings,
        duration_s=duration_s,
        start_s=start_s,
        peak_w=peak_w,
        notices=notices,
        edges_s=edges_s,
        limits=limits,
        curve=curve,
        is_noted=True,
    )


def _energy_curve(
    power: tuple[FloatArray, FloatArray] | None, counter: Counter | None, span: LoadSpan
) -> EnergyCurve | None:
    """What was drawn by when, in at most some thousand points."""
    if power is not None:
        within = slice_between(power[0], span.start_s, span.cutoff_s)
        t, p = power[0][within], power[1][within]
        drawn = None
    elif counter is not None:
        within = slice_between(counter.time_s, span.start_s, span.cutoff_s)
        t, drawn = counter.time_s[within], counter.energy_wh[within]
    if t.size < _CURVE_SAMPLES:
        return None
    stride = max(1, t.size // _CURVE_POINTS)
    at = np.unique(np.append(np.arange(0, t.size, stride), t.size - 1))
    energy_wh = drawn[at] if drawn is not None else _drawn_at(at, t, p)
    return EnergyCurve(s=t[at] - span.start_s, energy_wh=energy_wh)


def _drawn_at(at: NDArray[np.intp], t: FloatArray, p: FloatArray) -> FloatArray:
    """Wh up to each of some samples, by the trapezoid rule."""
    found, twice_ws = [], 0.0
    for part, _ in step_parts(t.size):
        watts = p[part]
        steps = (watts[1:] + watts[:-1]) * differences(t[part])
        own = at[np.searchsorted(at, part.start) : np.searchsorted(at, part.stop - 1)] - part.start
        # Sums from each of them to the next; what comes before the first belongs to the one before.
        edges = np.concatenate([[0], own[own > 0]])
        sums = twice_ws + np.cumsum(np.add.reduceat(steps, edges))
        found.append(sums[:-1] if own.size == 0 or own[0] > 0 else [twice_ws, *sums[:-1]])
        twice_ws = float(sums[-1])
    found.append([twice_ws] * int(np.count_nonzero(at == t.size - 1)))
    return np.concatenate(found) / 2 / SECONDS_PER_HOUR


def _power_of_counter(counter: Counter) -> tuple[FloatArray, FloatArray]:
    """Mean W between a counter's ticks, at the ends of the stretches."""
    ticks = np.flatnonzero(np.diff(counter.energy_wh) > 0) + 1
    at = counter.time_s[np.concatenate([[0], ticks])]
    energy = counter.energy_wh[np.concatenate([[0], ticks])]
    if at.size < 2:
        return counter.time_s, np.zeros_like(counter.time_s)
    watts = np.diff(energy) / np.diff(at) * SECONDS_PER_HOUR
    return at, np.concatenate([watts[:1], watts])


def _charge_span(
    name: str,
    power: tuple[FloatArray, FloatArray],
    counter: Counter | None,
    sampling: Sampling,
    *,
    has_power: bool,
) -> LoadSpan:
    """Charge start by the load's rule; end = last power above 2 % of full power, and 2 W."""
    if not has_power and counter is not None:
        return span_of_counter(name, counter)
    limit = max(END_FLOOR_W, END_SHARE * full_power_w(power[1]))
    span = span_of_power(name, *power, sampling, end_limit_w=limit)
    return refined_by_counter(span, counter) if counter is not None else span


def _log_notices(trace: Trace, span: LoadSpan, phases: Sequence[Phase]) -> list[Notice]:
    """What is missing from the log of the charge, and when the wall had no power."""
    found = []

    def say(code: Code, message: str) -> None:
        found.append(Notice(code=code, message=f"{trace.name}: {message}"))

    if span.starts_loaded:
        say(Code.STARTS_LOADED, "the log begins while charging, so what came before is not in it")
    if span.no_cutoff:
        say(Code.NO_END, "the log ends while charging, so the station may have taken more")
    for phase in phases:
        if phase.name is PhaseName.PAUSED and _input_was_lost(trace, phase):
            at, lasted = phase.start_s - span.start_s, phase.end_s - phase.start_s
            say(
                Code.INPUT_LOST,
                f"the input stopped {format_clock(at)} after the start, for {lasted / 60:.1f} min",
            )
    return found


def _input_was_lost(trace: Trace, pause: Phase) -> bool:
    """Whether a pause is the wall's: no volts in it, or not even a waiting station's standby."""
    middle = (pause.start_s + pause.end_s) / 2
    reach = max((pause.end_s - pause.start_s) / 4, 1.0)
    for quantity, low in ((Quantity.VOLTS, 20.0), (Quantity.POWER, _LOST_W)):
        time_s, values = trace.valid(quantity)
        inside = values[(time_s > middle - reach) & (time_s < middle + reach)]
        if inside.size:
            return median(inside) < low
    return False


def _result(
    window: ChargeWindow,
    drawn_wh: float | None,
    readings: Sequence[SocReading],
    *,
    duration_s: float | None,
    start_s: float | None = None,
    peak_w: float | None = None,
    phases: tuple[Phase, ...] = (),
    gaps: tuple[Gap, ...] = (),
    notices: Sequence[Notice] = (),
    edges_s: tuple[float, float] = (0.0, 0.0),
    limits: SampleLimits | None = None,
    curve: EnergyCurve | None = None,
    spikes: int = 0,
    power_factor: float | None = None,
    is_noted: bool = False,
) -> RechargeResult:
    shown_soc, said = rising_readings(readings)
    shown = shown_ends(shown_soc, duration_s)
    soc = _ends(window, shown)
    said += _window_notices(window, soc, shown)
    round_trip = None
    if window.delivered_wh is not None and drawn_wh:
        round_trip = window.delivered_wh / drawn_wh
        said += round_trip_notices(window.delivered_wh, drawn_wh)
        if round_trip > 1:
            round_trip = None
    stored, basis = _stored_wh(window, soc)
    efficiency = stored / drawn_wh if stored is not None and drawn_wh else None
    if stored is not None and drawn_wh is not None and (efficiency is None or efficiency > 1):
        said.append(_too_little(drawn_wh, stored, soc))
        efficiency = None
    to_soc, left_out = times_to_soc(shown_soc, curve)
    return RechargeResult(
        window=window,
        soc=soc,
        drawn_wh=drawn_wh,
        start_s=start_s,
        duration_s=duration_s,
        peak_w=peak_w,
        full_power_w=max(
            (p.mean_w for p in phases if p.name is PhaseName.FULL_POWER), default=None
        ),
        mean_w=None
        if drawn_wh is None or not duration_s
        else drawn_wh / duration_s * SECONDS_PER_HOUR,
        phases=phases,
        readings=tuple(shown_soc),
        to_soc=to_soc,
        round_trip=round_trip,
        charge_efficiency=efficiency,
        efficiency_basis=basis,
        gaps=gaps,
        notices=(*notices, *said, *left_out),
        edges_s=edges_s,
        limits=limits,
        curve=curve,
        spikes=spikes,
        power_factor=power_factor,
        is_noted=is_noted,
    )


def _too_little(drawn_wh: float, stored_wh: float, soc: tuple[float, float]) -> Notice:
    message = (
        f"{drawn_wh:.0f} Wh drawn cannot have filled {stored_wh:.0f} Wh from {soc[0]:g} to "
        f"{soc[1]:g} %: another window, a second input, or a wrong meter; no efficiency is given"
    )
    return Notice(code=Code.DRAWN_TOO_LITTLE, message=message)


def round_trip_notices(delivered_wh: float, drawn_wh: float) -> list[Notice]:
    """More out than in cannot be: said, not hidden."""
    if delivered_wh <= drawn_wh:
        return []
    message = (
        f"{delivered_wh:g} Wh delivered is more than the {drawn_wh:.1f} Wh drawn: "
        "another window, a second input, or a wrong meter"
    )
    return [Notice(code=Code.DELIVERED_ABOVE_DRAWN, message=message)]


def _stored_wh(
    window: ChargeWindow, soc: tuple[float, float]
) -> tuple[float | None, Literal["rated", "fitted_store"]]:
    """An estimate of what was stored, and what it rests on; None for a window that falls."""
    if window.stored_wh is not None:
        return window.stored_wh, "fitted_store"
    risen = (soc[1] - soc[0]) / 100
    return (window.rated_wh * risen if risen > 0 else None), "rated"


def _ends(window: ChargeWindow, shown: tuple[float | None, float | None]) -> tuple[float, float]:
    """State of charge in % at start and end: as stated, else as shown, else from 0 to 100."""
    start = window.soc_from if window.soc_from is not None else shown[0]
    end = window.soc_to if window.soc_to is not None else shown[1]
    return 0.0 if start is None else start, 100.0 if end is None else end


def _window_notices(
    window: ChargeWindow, soc: tuple[float, float], shown: tuple[float | None, float | None]
) -> list[Notice]:
    found = []
    if soc[1] <= soc[0]:
        message = f"the charge ends at {soc[1]:g} %, not above the {soc[0]:g} % it began at"
        found.append(Notice(code=Code.ENDS_BELOW_START, message=message))
    for seen, stated, word in (
        (shown[0], window.soc_from, "begins"),
        (shown[1], window.soc_to, "ends"),
    ):
        if seen is not None and stated is not None and abs(seen - stated) > 2 * SOC_HALF_STEP:
            message = f"the display says the charge {word} at {seen:g} %, not at {stated:g} %"
            found.append(Notice(code=Code.WINDOWS_DIFFER, message=message))
    return found
