"""What a discharge to empty delivered: from traces of one or several meters, or bare figures."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yardtoll.core.energy import (
    SECONDS_PER_HOUR,
    Gap,
    join_counter,
    slice_between,
)
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.load_span import LoadSpan, span_of_counter, span_of_power
from yardtoll.core.quantities import Quantity
from yardtoll.core.run_energy import Fineness, energy_notices, energy_of_run, fineness_of
from yardtoll.core.timebase import Sampling, sampling_of
from yardtoll.core.trace import Code, FloatArray, Notice, Trace

NO_LOAD_WINDOW_S = 60.0
"""No-load volts are the median of this long before load-on."""


@dataclass(frozen=True, kw_only=True)
class Rating:
    """What a delivered energy is held against.

    Attributes:
        rated_wh: the maker's rated energy in Wh, > 0.
        soc_from, soc_to: state of charge in % at the start and the end, 100 ≥ from > to ≥ 0.

    Raises:
        ValueOutOfRangeError: a value is outside these ranges.
    """

    rated_wh: float
    soc_from: float = 100.0
    soc_to: float = 0.0

    def __post_init__(self) -> None:
        if not (np.isfinite(self.rated_wh) and self.rated_wh > 0):
            raise ValueOutOfRangeError("--rated-wh", self.rated_wh, "above 0 Wh")
        for name, value in (("--soc-from", self.soc_from), ("--soc-to", self.soc_to)):
            if not 0 <= value <= 100:
                raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
        if self.soc_from <= self.soc_to:
            raise UnusableDataError(
                f"--soc-from {self.soc_from:g} % must lie above --soc-to {self.soc_to:g} %: "
                "a discharge runs downwards"
            )

    @property
    def window(self) -> float:
        """Share of the rated energy between the two states of charge."""
        return (self.soc_from - self.soc_to) / 100.0


@dataclass(frozen=True, kw_only=True)
class MeterLog:
    """What one meter's trace says of the run, times in s from its own first sample.

    Attributes:
        source: "counter" or "power", whichever gave the energy.
        volts_mean_v, volts_min_v, loaded_s: of the loaded samples; None without volts.
        no_load_v: median of the last minute before load-on; None when not logged.
        fineness: how finely the log tells its energy.
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
    fineness: Fineness


@dataclass(frozen=True, kw_only=True)
class DischargeResult:
    """Figures of one discharge; None where something cannot be told.

    Times are s from the first log's first sample. ``delivered_wh`` is the sum of the logs and
    the meters' own draw; ``mean_w`` is delivered ÷ duration; ``c_rate`` is mean W ÷ rated Wh
    in 1/h. ``fineness`` is one a log; empty for bare figures.
    """

    rating: Rating
    delivered_wh: float
    own_draw_wh: float
    logs: tuple[tuple[str | None, float], ...]
    start_s: float | None
    cutoff_s: float | None
    duration_s: float | None
    mean_w: float | None
    max_w: float | None
    c_rate: float | None
    usable_ratio: float
    usable_ratio_window: float
    volts_mean: float | None = None
    volts_min: float | None = None
    sag_ratio: float | None = None
    gaps: tuple[Gap, ...] = ()
    notices: tuple[Notice, ...] = ()
    edge_s: float = 0.0
    fineness: tuple[Fineness, ...] = ()

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)


def discharge_from_energies(
    energies_wh: Sequence[float],
    rating: Rating,
    *,
    duration_s: float | None = None,
    own_draw_w: Sequence[float] = (),
) -> DischargeResult:
    """A discharge from figures read off one or several meters.

    Raises:
        ValueOutOfRangeError: an energy or own draw below 0, or a duration not above 0.
        UnusableDataError: own draw is given without the time it lasted.
    """
    for energy in energies_wh:
        if not (np.isfinite(energy) and energy >= 0):
            raise ValueOutOfRangeError("--energy-wh", energy, "0 Wh or more")
    if duration_s is not None and duration_s <= 0:
        raise ValueOutOfRangeError("--duration", duration_s, "longer than 0 s")
    if own_draw_w and duration_s is None:
        raise UnusableDataError("--own-draw-w needs --duration: W times the hours they were drawn")
    return _result(
        rating,
        logs=tuple((None, float(energy)) for energy in energies_wh),
        own_draw_w=own_draw_w,
        duration_s=duration_s,
    )


def analyse_discharge(
    traces: Sequence[Trace], rating: Rating, *, own_draw_w: Sequence[float] = ()
) -> DischargeResult:
    """A discharge from the traces of one or several meters, added up.

    Several traces are aligned by clock time when all carry it, else by load-on.

    Raises:
        UnusableDataError: no trace, a trace without power or counter, or one without load.
        ValueOutOfRangeError: an own draw below 0.
    """
    if not traces:
        raise UnusableDataError("there is no log to analyse")
    meters = [analyse_log(trace) for trace in traces]
    shifts = _alignment(traces, meters)
    start = min(m.span.start_s + s for m, s in zip(meters, shifts, strict=True))
    cutoff = max(m.span.cutoff_s + s for m, s in zip(meters, shifts, strict=True))
    volts_mean, no_load = _pooled_volts(meters)
    lowest = [m.volts_min_v for m in meters if m.volts_min_v is not None]
    return _result(
        rating,
        logs=tuple((m.name, m.delivered_wh) for m in meters),
        own_draw_w=own_draw_w,
        duration_s=cutoff - start,
        start_s=start,
        cutoff_s=cutoff,
        max_w=_highest_sum_w(traces, meters, shifts),
        volts_mean=volts_mean,
        volts_min=min(lowest) if lowest else None,
        sag_ratio=(no_load - volts_mean) / no_load if no_load and volts_mean is not None else None,
        gaps=tuple(_shifted(gap, s) for m, s in zip(meters, shifts, strict=True) for gap in m.gaps),
        notices=tuple(notice for m in meters for notice in m.notices),
        edge_s=max(m.span.edge_s for m in meters),
        fineness=tuple(m.fineness for m in meters),
    )


def analyse_log(trace: Trace) -> MeterLog:
    """Load-on, cut-off, energy and volts of one meter's trace.

    Raises:
        UnusableDataError: the trace has neither power nor counter, or no load in it.
    """
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
    if has_power:
        span = span_of_power(trace.name, *power, sampling.interval_s)
    else:
        assert counter is not None
        span = span_of_counter(trace.name, counter)
    delivered, source, gaps = energy_of_run(sampling, power if has_power else None, counter, span)
    volts = _volts(trace, sampling, power if has_power else None, span)
    return MeterLog(
        name=trace.name,
        delivered_wh=delivered,
        source=source,
        span=span,
        max_w=_max_w(power, span) if has_power else None,
        gaps=gaps,
        notices=(
            *trace.notices,
            *_span_notices(trace.name, span),
            *energy_notices(
                trace.name, sampling, power if has_power else None, counter, span, gaps
            ),
        ),
        volts_mean_v=volts[0],
        volts_min_v=volts[1],
        loaded_s=volts[2],
        no_load_v=volts[3],
        fineness=fineness_of(source, power if has_power else None, counter, span),
    )


def _result(
    rating: Rating,
    *,
    logs: tuple[tuple[str | None, float], ...],
    own_draw_w: Sequence[float],
    duration_s: float | None,
    start_s: float | None = None,
    cutoff_s: float | None = None,
    max_w: float | None = None,
    volts_mean: float | None = None,
    volts_min: float | None = None,
    sag_ratio: float | None = None,
    gaps: tuple[Gap, ...] = (),
    notices: tuple[Notice, ...] = (),
    edge_s: float = 0.0,
    fineness: tuple[Fineness, ...] = (),
) -> DischargeResult:
    """Sums and ratios common to traces and bare figures."""
    for draw in own_draw_w:
        if not (np.isfinite(draw) and draw >= 0):
            raise ValueOutOfRangeError("--own-draw-w", draw, "0 W or more")
    hours = duration_s / SECONDS_PER_HOUR if duration_s else None
    own_draw_wh = float(sum(own_draw_w)) * (hours or 0.0)
    delivered = sum(energy for _, energy in logs) + own_draw_wh
    mean_w = delivered / hours if hours else None
    if delivered > rating.rated_wh * rating.window:
        notices = (*notices, _above_rated(rating, delivered))
    return DischargeResult(
        rating=rating,
        delivered_wh=delivered,
        own_draw_wh=own_draw_wh,
        logs=logs,
        start_s=start_s,
        cutoff_s=cutoff_s,
        duration_s=duration_s,
        mean_w=mean_w,
        max_w=max_w,
        c_rate=mean_w / rating.rated_wh if mean_w is not None else None,
        usable_ratio=delivered / rating.rated_wh,
        usable_ratio_window=delivered / (rating.rated_wh * rating.window),
        volts_mean=volts_mean,
        volts_min=volts_min,
        sag_ratio=sag_ratio,
        gaps=gaps,
        notices=notices,
        edge_s=edge_s,
        fineness=fineness,
    )


def _above_rated(rating: Rating, delivered_wh: float) -> Notice:
    window = "" if rating.window == 1 else f" for {rating.soc_from:g} → {rating.soc_to:g} %"
    return Notice(
        code=Code.ABOVE_RATED,
        message=f"{delivered_wh:.1f} Wh were delivered, more than the "
        f"{rating.rated_wh * rating.window:g} Wh rated{window}: was an input left plugged in, "
        "or is the rating or the meter wrong?",
    )


def _max_w(power: tuple[FloatArray, FloatArray], span: LoadSpan) -> float:
    return float(np.max(power[1][slice_between(power[0], span.start_s, span.cutoff_s)]))


def _volts(
    trace: Trace,
    sampling: Sampling,
    power: tuple[FloatArray, FloatArray] | None,
    span: LoadSpan,
) -> tuple[float | None, float | None, float, float | None]:
    """Loaded mean (time-weighted), loaded minimum, loaded s, and no-load volts."""
    time_s, volts = trace.valid(Quantity.VOLTS)
    if time_s.size == 0:
        return None, None, 0.0, None
    loaded = np.zeros(time_s.size, dtype=bool)
    loaded[slice_between(time_s, span.start_s, span.cutoff_s)] = True
    if power is not None:
        watts = power[1]
        if time_s is not power[0]:
            nearest = np.clip(np.searchsorted(power[0], time_s, side="right") - 1, 0, None)
            watts = watts[nearest]
        loaded &= watts > span.limit_w
    at_rest = volts[
        np.searchsorted(time_s, span.start_s - NO_LOAD_WINDOW_S) : np.searchsorted(
            time_s, span.start_s
        )
    ]
    no_load = float(np.median(at_rest)) if at_rest.size else None
    if not loaded.any():
        return None, None, 0.0, no_load
    both = loaded[1:] & loaded[:-1]
    same = power is not None and time_s is power[0]
    both[(sampling if same else sampling_of(time_s)).gap_starts] = False
    lowest = float(np.min(volts, where=loaded, initial=np.inf))
    weights = np.diff(time_s) * both
    loaded_s = float(np.sum(weights))
    if loaded_s == 0:
        return float(np.mean(volts[loaded])), lowest, 0.0, no_load
    mean = float(weights @ volts[1:] + weights @ volts[:-1]) / (2 * loaded_s)
    return mean, lowest, loaded_s, no_load


def _span_notices(name: str, span: LoadSpan) -> list[Notice]:
    """What the log does not hold of the run."""
    found = []
    if span.starts_loaded:
        message = f"{name}: the log begins under load, so what came before is not in it"
        found.append(Notice(code=Code.STARTS_LOADED, message=message))
    if span.no_cutoff:
        message = f"{name}: the log ends under load, so the station may have had more to give"
        found.append(Notice(code=Code.NO_CUTOFF, message=message))
    return found


def _alignment(traces: Sequence[Trace], meters: Sequence[MeterLog]) -> list[float]:
    """Seconds to add to each trace's times to bring them onto the first's."""
    first = traces[0].clock_s
    if first is not None and len({trace.clock_basis for trace in traces}) == 1:
        return [(trace.clock_s or 0.0) - first for trace in traces]
    return [meters[0].span.start_s - meter.span.start_s for meter in meters]


def _shifted(gap: Gap, shift_s: float) -> Gap:
    return Gap(
        start_s=gap.start_s + shift_s,
        end_s=gap.end_s + shift_s,
        bridged_by=gap.bridged_by,
        energy_wh=gap.energy_wh,
        could_hide_wh=gap.could_hide_wh,
    )


def _pooled_volts(meters: Sequence[MeterLog]) -> tuple[float | None, float | None]:
    """Loaded mean weighted by loaded time, and mean no-load volts, of the meters with volts."""
    with_volts = [(m.volts_mean_v, m.loaded_s) for m in meters if m.volts_mean_v is not None]
    no_load = [m.no_load_v for m in meters if m.no_load_v is not None]
    mean = None
    if with_volts:
        weights = [weight or 1e-9 for _, weight in with_volts]
        mean = float(np.average([volts for volts, _ in with_volts], weights=weights))
    return mean, float(np.mean(no_load)) if no_load else None


def _highest_sum_w(
    traces: Sequence[Trace], meters: Sequence[MeterLog], shifts: Sequence[float]
) -> float | None:
    """Highest power of all meters together; None when one of them has no power column."""
    if any(meter.max_w is None for meter in meters):
        return None
    if len(traces) == 1:
        return meters[0].max_w
    axes = [trace.valid(Quantity.POWER) for trace in traces]
    times = np.unique(np.concatenate([t + s for (t, _), s in zip(axes, shifts, strict=True)]))
    total = np.zeros(times.size)
    for (time_s, power_w), shift in zip(axes, shifts, strict=True):
        total += np.interp(times, time_s + shift, power_w, left=0.0, right=0.0)
    return float(np.max(total))
