"""Results of one meter's trace of a discharge: span, energy, volts, and its doubts."""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yardtoll.core.electrical.doubts import Cleaned, cleaned, frozen_from, is_sparse, without_gaps
from yardtoll.core.electrical.energy import (
    Counter,
    Gap,
    integral,
    join_counter,
    slice_between,
    trapezoid_wh,
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
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted, format_span

NO_LOAD_WINDOW_S = 60.0
"""No-load volts are the median of this long before load-on."""


@dataclass(frozen=True, kw_only=True)
class DisplayEntry:
    """What the station's display showed at a moment of a discharge, beside the truth.

    Attributes:
        at_s: s from the first log's first sample.
        energy_left_wh: what was still delivered after it, by the meter.
        meter_w: by the meter at that moment; None without power samples.
    """

    at_s: float
    shown_soc: float | None
    energy_left_wh: float | None
    shown_w: float | None = None
    meter_w: float | None = None
    shown_left_s: float | None = None
    true_left_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class MeterLog:
    """What one meter's trace says of the run, times in s from its own first sample.

    Attributes:
        source: "counter" or "power", whichever gave the energy.
        volts_mean_v, volts_min_v, loaded_s: of the loaded samples; None without volts.
        no_load_v: median of the last minute before load-on; None when not logged.
        limits: what its samples leave open in its energy.
        negative_wh: what flowed backwards, at or above 0; left out of ``delivered_wh``.
        after_cutoff_wh: what came after power returned; None where it did not.
        power_factor: median under load; None where it was not logged.
        power: (n,) s and (n,) W as used; None without a power column.
        display: each step of a logged state of charge.
    """

    name: str
    delivered_wh: float
    source: str
    span: LoadSpan
    max_w: float | None
    gaps: tuple[Gap, ...]
    notices: tuple[Notice, ...]
    volts_mean_v: float | None
    volts_min_v: float | None
    loaded_s: float
    no_load_v: float | None
    limits: SampleLimits
    spikes: int = 0
    negative_wh: float = 0.0
    after_cutoff_wh: float | None = None
    power_factor: float | None = None
    power: tuple[FloatArray, FloatArray] | None = field(default=None, compare=False, repr=False)
    display: tuple[DisplayEntry, ...] = ()


def analyse_log(trace: Trace, *, on_change: bool | None = None) -> MeterLog:
    """Load-on, cut-off, energy and volts of one meter's trace.

    Raises:
        UnusableDataError: the trace has neither power nor counter, or no load in it.
    """
    clean = cleaned(trace, on_change)
    trace = clean.trace
    power = trace.valid(Quantity.POWER)
    readings = trace.valid(Quantity.ENERGY)
    has_power = power[0].size > 1
    if not has_power and readings[0].size < 2:
        raise UnusableDataError(
            f"{trace.name} has neither two power samples nor two readings of an energy counter"
        )
    counter = (
        join_counter(*readings, power if has_power else None) if readings[0].size > 1 else None
    )
    sampling = sampling_of(power[0] if has_power else readings[0])
    if clean.on_change:
        sampling = without_gaps(sampling)
    if has_power:
        span = span_of_power(trace.name, *power, sampling, ends_at_restart=True)
        span = refined_by_counter(span, counter) if counter is not None else span
    else:
        assert counter is not None
        span = span_of_counter(trace.name, counter)
    flows_back = has_power and power[1].min() < 0
    onwards = np.maximum(power[1], 0.0) if flows_back else power[1]
    metered = (power[0], onwards) if has_power else None
    delivered, source, gaps = energy_of_run(sampling, metered, counter, span)
    negative_wh = _negative_wh(power) if flows_back else 0.0
    after_wh = _after_wh(span, metered, counter, source)
    volts = _volts(clean, sampling, power if has_power else None, span)
    return MeterLog(
        name=trace.name,
        delivered_wh=delivered,
        source=source,
        span=span,
        max_w=_max_w(power, span) if has_power else None,
        gaps=gaps,
        notices=(
            *trace.notices,
            *clean.notices,
            *_span_notices(trace.name, span, after_wh),
            *energy_notices(trace.name, sampling, metered, counter, span, gaps),
            *_doubt_notices(trace, power, counter, span, source, clean, flows_back=flows_back),
        ),
        volts_mean_v=volts[0],
        volts_min_v=volts[1],
        loaded_s=volts[2],
        no_load_v=volts[3],
        limits=sample_limits(source, metered, counter, span, gaps),
        spikes=clean.spikes,
        negative_wh=negative_wh,
        after_cutoff_wh=after_wh,
        power_factor=_power_factor(trace, span),
        power=metered,
        display=_display(trace, span, metered, counter, delivered),
    )


def _display(
    trace: Trace,
    span: LoadSpan,
    power: tuple[FloatArray, FloatArray] | None,
    counter: Counter | None,
    delivered_wh: float,
) -> tuple[DisplayEntry, ...]:
    """Each step of the log's state of charge within the run, beside the energy then left."""
    time_s, soc = trace.valid(Quantity.SOC)
    within = slice_between(time_s, span.start_s, span.cutoff_s)
    t, shown = time_s[within], soc[within]
    if t.size == 0:
        return ()
    found = []
    for i in [0, *(np.flatnonzero(np.diff(shown)) + 1)]:
        at_s = float(t[i])
        if counter is not None:
            used = counter.at(at_s) - counter.at(span.start_s)
        else:
            assert power is not None
            before = slice_between(power[0], span.start_s, at_s)
            used = trapezoid_wh(power[0][before], power[1][before])
        found.append(
            DisplayEntry(
                at_s=at_s,
                shown_soc=float(shown[i]),
                energy_left_wh=max(delivered_wh - used, 0.0),
                meter_w=float(np.interp(at_s, *power)) if power is not None else None,
                true_left_s=max(span.cutoff_s - at_s, 0.0),
            )
        )
    return tuple(found)


def _negative_wh(power: tuple[FloatArray, FloatArray]) -> float:
    """What flowed backwards, at any time of the log."""
    return trapezoid_wh(power[0], np.maximum(-power[1], 0.0))


def _after_wh(
    span: LoadSpan,
    power: tuple[FloatArray, FloatArray] | None,
    counter: Counter | None,
    source: str,
) -> float | None:
    """What came after power returned; None where it did not."""
    if span.returns_s is None or power is None:
        return None
    if source == "counter" and counter is not None:
        return float(counter.energy_wh[-1]) - counter.at(span.cutoff_s)
    after = slice_between(power[0], span.returns_s, float(power[0][-1]))
    return trapezoid_wh(power[0][after], power[1][after])


def _power_factor(trace: Trace, span: LoadSpan) -> float | None:
    time_s, factors = trace.valid(Quantity.POWER_FACTOR)
    inside = factors[slice_between(time_s, span.first_s, span.last_s)]
    return median(inside) if inside.size else None


def _doubt_notices(
    trace: Trace,
    power: tuple[FloatArray, FloatArray],
    counter: Counter | None,
    span: LoadSpan,
    source: str,
    clean: Cleaned,
    *,
    flows_back: bool,
) -> list[Notice]:
    """What the log cannot be trusted for; see ``core/doubts.py``."""
    found = []
    frozen = None if clean.on_change else frozen_from(trace, counter, span)
    if frozen is not None:
        found.append(frozen)
    if power[0].size < 2:
        return found
    backwards = int(np.count_nonzero(power[1] < -span.limit_w)) if flows_back else 0
    if backwards:
        message = (
            f"{trace.name}: {counted(backwards, 'sample')} of power flowing backwards left out; "
            "is the meter turned round, or does an input feed through?"
        )
        found.append(Notice(code=Code.NEGATIVE_POWER, message=message))
    if source == "power" and not clean.on_change and is_sparse(*power, span):
        message = (
            f"{trace.name}: the samples are too few, or the load switches too often for them, to "
            "follow the power"
        )
        found.append(Notice(code=Code.SPARSE, message=message))
    return found


def _max_w(power: tuple[FloatArray, FloatArray], span: LoadSpan) -> float:
    return float(np.max(power[1][slice_between(power[0], span.start_s, span.cutoff_s)]))


def _volts(
    clean: Cleaned,
    sampling: Sampling,
    power: tuple[FloatArray, FloatArray] | None,
    span: LoadSpan,
) -> tuple[float | None, float | None, float, float | None]:
    """Loaded mean (time-weighted), loaded minimum, loaded s, and no-load volts."""
    trace = clean.trace
    time_s, volts = trace.valid(Quantity.VOLTS)
    if time_s.size == 0:
        return None, None, 0.0, None
    rested = np.searchsorted(time_s, [span.start_s - NO_LOAD_WINDOW_S, span.start_s])
    at_rest = volts[rested[0] : rested[1]]
    no_load = median(at_rest) if at_rest.size else None
    under_load, gaps = None, sampling.gap_starts
    if power is not None:
        under_load = _under_load(trace, power, span.limit_w)
    is_alike = power is not None and time_s is power[0]
    # Where power has no gap, volts with a value in each line have none; nor where values are held.
    no_gaps = gaps.size == 0 and (clean.on_change or time_s is trace.time_s)
    if not (is_alike or no_gaps):
        gaps = sampling_of(time_s).gap_starts
    within = slice_between(time_s, span.start_s, span.cutoff_s)
    found = _loaded_volts(
        time_s[within],
        volts[within],
        None if under_load is None else under_load[within],
        gaps - within.start,
    )
    return (*found, no_load)


def _under_load(
    trace: Trace, power: tuple[FloatArray, FloatArray], limit_w: float
) -> NDArray[np.bool_]:
    """For each value of the volts whether the newest power was above the limit."""
    time_s, _ = trace.valid(Quantity.VOLTS)
    if time_s is power[0]:
        return power[1] > limit_w
    missing, newest = trace.missing(Quantity.POWER)
    flags = trace.columns[Quantity.POWER] > limit_w
    flags[missing] = flags[newest]
    if time_s is trace.time_s:
        return flags
    return flags[np.isfinite(trace.columns[Quantity.VOLTS])]


def _loaded_volts(
    time_s: FloatArray,
    volts: FloatArray,
    under_load: NDArray[np.bool_] | None,
    gap_starts: NDArray[np.intp],
) -> tuple[float | None, float | None, float]:
    """Mean by time, minimum, and s under load, of the (n,) samples of a run.

    Args:
        under_load: (n,); None for all of them.
        gap_starts: steps that nothing is known of; some may be outside.
    """
    if under_load is not None and under_load.all():
        under_load = None
    if time_s.size == 0 or (under_load is not None and not under_load.any()):
        return None, None, 0.0
    lowest, loaded_s, mean_times_s = math.inf, 0.0, 0.0
    for part, _ in step_parts(time_s.size):
        t, of_part = time_s[part], volts[part]
        gaps = gap_starts[(gap_starts >= part.start) & (gap_starts < part.stop - 1)] - part.start
        flags = None if under_load is None else under_load[part]
        loaded = of_part if flags is None or flags.all() else of_part[flags]
        lowest = min(lowest, float(loaded.min(initial=math.inf)))
        if gaps.size == 0 and loaded is of_part:
            loaded_s += float(t[-1] - t[0])
            mean_times_s += integral(t, of_part)
            continue
        weights = differences(t)
        weights[gaps] = 0.0
        if flags is not None:
            weights *= flags[1:] & flags[:-1]
        loaded_s += float(np.sum(weights))
        mean_times_s += float(np.sum(weights * (of_part[1:] + of_part[:-1]))) / 2
    if loaded_s == 0:
        loaded = volts if under_load is None else volts[under_load]
        return float(np.mean(loaded)), float(loaded.min()), 0.0
    return mean_times_s / loaded_s, lowest, loaded_s


def _span_notices(name: str, span: LoadSpan, after_wh: float | None) -> list[Notice]:
    """What the log does not hold of the run, and what it holds beyond it."""
    found = []
    if span.starts_loaded:
        message = f"{name}: the log begins under load, so what came before is not in it"
        found.append(Notice(code=Code.STARTS_LOADED, message=message))
    if span.no_cutoff:
        message = f"{name}: the log ends under load, so the station may hold more"
        found.append(Notice(code=Code.NO_CUTOFF, message=message))
    if span.returns_s is not None:
        pause = format_span(span.returns_s - span.last_s)
        message = (
            f"{name}: power came back {pause} after the cut-off; {after_wh or 0:.0f} Wh after it "
            "are not counted: was it the wall's, or another run?"
        )
        found.append(Notice(code=Code.RESTARTED, message=message))
    return found
