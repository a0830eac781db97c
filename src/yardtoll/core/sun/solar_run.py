"""A solar run: what was harvested, against what the sun allowed, and what limited it when."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import Counter, Gap, best_mean_w, join_counter, trapezoid_wh
from yardtoll.core.electrical.load_span import LoadSpan
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.run_energy import (
    SampleLimits,
    energy_notices,
    energy_of_run,
    sample_limits,
)
from yardtoll.core.electrical.timebase import sampling_of
from yardtoll.core.electrical.trace import Code, FloatArray, Notice, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.sun.allowed import AvailablePower, capped
from yardtoll.core.sun.limits import LIMITS, Limit, Limits, SolarInput, find_limits
from yardtoll.core.sun.passings import Cloud, Recovery, find_clouds, find_recoveries

MOST_PERFORMANCE = 1.15
"""More than this share of what the sun allowed is no performance: something is entered wrongly."""
SUSTAINED_S = 300.0
"""Sustained power is the best mean over so long; a peak is another claim."""
GOOD_SUN_W_M2 = 600.0
_FEWEST = 5
_FINEST_S = 0.8
LONGEST_S = 60 * 86_400.0
"""A log over a longer time has a date that is wrong."""


@dataclass(frozen=True, kw_only=True)
class Span:
    """A stretch limited by one thing, s from the log's first sample."""

    start_s: float
    end_s: float
    limit: Limit


@dataclass(frozen=True, kw_only=True)
class SolarRun:
    """The results of a solar run.

    Attributes:
        sustained_w: best 5-minute mean; None for a log shorter than that.
        expected_wh: over the log's span, after the cap; None where the sun is not known.
        performance: harvest ÷ expected; None likewise.
        limited_by: share of the time with the sun above the horizon; None without any.
        usual_share: of what the sun allows, where nothing else limited.
        nameplate_share: of the nameplate per 1000 W/m² in good sun; None without any.
        time_s, power_w, expected_w, clear_w: (n,) for the picture; the latter two after the cap.
        free_w: (n,) W that the sun allowed, before any cap.
    """

    harvest_wh: float
    peak_w: float
    sustained_w: float | None
    expected_wh: float | None
    performance: float | None
    limited_by: dict[Limit, float] | None
    spans: tuple[Span, ...]
    recoveries: tuple[Recovery, ...]
    clouds: tuple[Cloud, ...]
    cap_w: float | None
    usual_share: float | None
    nameplate_share: float | None
    duration_s: float
    gaps: tuple[Gap, ...]
    sample_limits: SampleLimits
    notices: tuple[Notice, ...]
    time_s: FloatArray
    power_w: FloatArray
    expected_w: FloatArray | None
    clear_w: FloatArray | None
    free_w: FloatArray | None
    measured_sun: bool

    def while_taking(self) -> tuple[float, float]:
        """(s, Wh) of the time with the sun up in which no nearly full battery held it back."""
        seconds, energy_wh = 0.0, 0.0
        for span in self.spans:
            if span.limit is Limit.FULL:
                continue
            inside = (self.time_s >= span.start_s) & (self.time_s <= span.end_s)
            at = np.concatenate([[span.start_s], self.time_s[inside], [span.end_s]])
            seconds += span.end_s - span.start_s
            energy_wh += trapezoid_wh(at, np.interp(at, self.time_s, self.power_w))
        return seconds, energy_wh

    @property
    def clear_wh(self) -> float | None:
        """What a clear sky would have given over the log's span, after the cap."""
        return None if self.clear_w is None else trapezoid_wh(self.time_s, self.clear_w)


def solar_samples(trace: Trace) -> tuple[FloatArray, FloatArray]:
    """(n,) s and W of a solar log.

    Raises:
        UnusableDataError: it has no two power samples, or spans more than two months.
    """
    time_s, power_w = trace.valid(Quantity.POWER)
    if time_s.size and time_s[-1] - time_s[0] > LONGEST_S:
        days = (time_s[-1] - time_s[0]) / 86_400
        raise UnusableDataError(
            f"{trace.name} spans {days:.0f} days, more than {LONGEST_S / 86_400:.0f}: "
            "is a date wrong?"
        )
    if time_s.size < 2:
        raise UnusableDataError(
            f"{trace.name} has no two samples of power, so nothing says what limited the input"
        )
    return time_s, power_w


def analyse_solar(
    trace: Trace, sun: AvailablePower | None, array_w: float, cap_w: float | None = None
) -> SolarRun:
    """Harvest, peak, sustained, and what limited it.

    Args:
        sun: at the samples of :func:`solar_samples`; None where neither site nor irradiance is
            known.
        array_w: nameplate.
        cap_w: what the station takes at most; one that shows in the samples is found.

    Raises:
        UnusableDataError: the trace has no two power samples.
    """
    time_s, power_w = solar_samples(trace)
    harvest, counter, gaps, source, span = _harvest(trace, time_s, power_w)
    sampling = sampling_of(time_s)
    open_wh = sample_limits(source, (time_s, power_w), counter, span, gaps)
    notices = [
        *trace.notices,
        *energy_notices(trace.name, sampling, (time_s, power_w), counter, span, gaps),
    ]
    peak_w, soc = float(power_w.max()), _soc(trace)
    if sampling.interval_s < _FINEST_S:
        time_s, power_w, soc, sun = _by_seconds(time_s, power_w, soc, sun)
    seen = (
        None
        if sun is None
        else SolarInput(
            time_s=time_s,
            power_w=power_w,
            free_w=sun.free_w,
            measured_sun=sun.measured,
            array_w=array_w,
            cap_w=cap_w,
            soc=soc,
        )
    )
    limits = find_limits(seen) if seen is not None else None
    known_cap = limits.cap_w if limits is not None else cap_w
    expected = None if sun is None else capped(sun.free_w, known_cap)
    expected_wh = None if expected is None else trapezoid_wh(time_s, expected)
    share = None if sun is None or limits is None else _shares(time_s, sun, limits)
    performance, wrong = _performance(trace.name, harvest, expected_wh)
    notices += wrong
    if sun is not None and share is None:
        message = f"{trace.name}: the sun was below the horizon all the time"
        notices.append(Notice(code=Code.NO_SUN, message=message))
    return SolarRun(
        harvest_wh=harvest,
        peak_w=peak_w,
        sustained_w=best_mean_w(time_s, power_w, SUSTAINED_S),
        expected_wh=expected_wh,
        performance=performance,
        limited_by=share,
        spans=() if limits is None or sun is None else _spans(time_s, sun, limits),
        recoveries=() if limits is None else find_recoveries(time_s, power_w, limits, expected),
        clouds=() if sun is None or limits is None else find_clouds(time_s, power_w, sun, limits),
        cap_w=known_cap,
        usual_share=limits.usual_share if limits is not None else None,
        nameplate_share=_nameplate_share(power_w, sun, limits, array_w),
        duration_s=float(time_s[-1] - time_s[0]),
        gaps=gaps,
        sample_limits=open_wh,
        notices=tuple(notices),
        time_s=time_s,
        power_w=power_w,
        expected_w=expected,
        clear_w=None if sun is None or sun.clear_w is None else capped(sun.clear_w, known_cap),
        free_w=None if sun is None else sun.free_w,
        measured_sun=bool(sun is not None and sun.measured),
    )


def _performance(
    name: str, harvest_wh: float, expected_wh: float | None
) -> tuple[float | None, list[Notice]]:
    """Harvest ÷ expected; none, but a notice, where it is more than can be."""
    if not expected_wh:
        return None, []
    performance = harvest_wh / expected_wh
    if performance <= MOST_PERFORMANCE:
        return performance, []
    message = (
        f"{name}: {harvest_wh:.0f} Wh is {performance:.0%} of what the sun allowed, which cannot "
        "be: the clock, the place, or how the panels stood is wrong"
    )
    return None, [Notice(code=Code.CLOCK_OR_AIM_WRONG, message=message)]


def _harvest(
    trace: Trace, time_s: FloatArray, power_w: FloatArray
) -> tuple[float, Counter | None, tuple[Gap, ...], str, LoadSpan]:
    """The energy over the whole log, by counter or power."""
    counted = trace.valid(Quantity.ENERGY)
    counter = join_counter(*counted, (time_s, power_w)) if counted[0].size > 1 else None
    sampling = sampling_of(time_s)
    span = LoadSpan(
        start_s=float(time_s[0]),
        cutoff_s=float(time_s[-1]),
        first_s=float(time_s[0]),
        last_s=float(time_s[-1]),
        starts_loaded=True,
        no_cutoff=True,
        limit_w=0.0,
        edges_s=(0.0, 0.0),
    )
    harvest, source, gaps = energy_of_run(sampling, (time_s, power_w), counter, span)
    return harvest, counter, gaps, source, span


def _soc(trace: Trace) -> FloatArray | None:
    """(n,) % at the power samples; None where it is not logged."""
    soc = trace.columns.get(Quantity.SOC)
    return None if soc is None else soc[np.isfinite(trace.columns[Quantity.POWER])]


def _by_seconds(
    time_s: FloatArray, power_w: FloatArray, soc: FloatArray | None, sun: AvailablePower | None
) -> tuple[FloatArray, FloatArray, FloatArray | None, AvailablePower | None]:
    """Means of whole seconds: neither cloud nor tracker needs a finer look."""
    starts = np.flatnonzero(np.diff(np.floor(time_s), prepend=-1.0))
    if starts.size < 2:
        return time_s, power_w, soc, sun
    counts = np.diff(np.append(starts, time_s.size))

    def mean(values: FloatArray) -> FloatArray:
        return np.asarray(np.add.reduceat(values, starts) / counts)

    seconds, watts = mean(time_s), mean(power_w)
    # The log's own ends stay, so that its span does.
    seconds[0], seconds[-1] = time_s[0], time_s[-1]
    if sun is not None:
        sun = AvailablePower(
            free_w=mean(sun.free_w),
            clear_w=mean(sun.clear_w) if sun.clear_w is not None else None,
            up=sun.up[starts],
            plane_w_m2=mean(sun.plane_w_m2),
            measured=sun.measured,
        )
    return seconds, watts, soc[starts] if soc is not None else None, sun


def _weights(time_s: FloatArray) -> FloatArray:
    """(n,) s of each sample: half of the way to either neighbour."""
    steps = np.diff(time_s)
    weights = np.zeros(time_s.size)
    weights[:-1] += steps / 2
    weights[1:] += steps / 2
    return weights


def _shares(time_s: FloatArray, sun: AvailablePower, limits: Limits) -> dict[Limit, float] | None:
    """Fractions of the time with the sun up, which add to 1."""
    weights = _weights(time_s) * sun.up
    total = float(weights.sum())
    if total <= 0:
        return None
    spent = np.bincount(limits.which, weights=weights, minlength=len(LIMITS))
    return {limit: float(spent[i]) / total for i, limit in enumerate(LIMITS)}


def _nameplate_share(
    power_w: FloatArray, sun: AvailablePower | None, limits: Limits | None, array_w: float
) -> float | None:
    """Median of P ÷ nameplate at 1000 W/m², in good sun and with nothing else in the way."""
    if sun is None or limits is None:
        return None
    own = np.isin(limits.which, [LIMITS.index(Limit.SUN), LIMITS.index(Limit.ARRAY)])
    good = own & (sun.plane_w_m2 > GOOD_SUN_W_M2)
    if np.count_nonzero(good) < _FEWEST:
        return None
    return float(np.median(power_w[good] / (array_w * sun.plane_w_m2[good] / 1000)))


def _spans(time_s: FloatArray, sun: AvailablePower, limits: Limits) -> tuple[Span, ...]:
    """Stretches of one limit while the sun is up, from middle to middle between samples."""
    edges = np.concatenate([[time_s[0]], (time_s[1:] + time_s[:-1]) / 2, [time_s[-1]]])
    state = np.where(sun.up, limits.which, -1)
    changes = np.flatnonzero(np.diff(state)) + 1
    starts = np.concatenate([[0], changes])
    ends = np.concatenate([changes, [state.size]])
    return tuple(
        Span(start_s=float(edges[a]), end_s=float(edges[b]), limit=LIMITS[int(state[a])])
        for a, b in zip(starts.tolist(), ends.tolist(), strict=True)
        if state[a] >= 0
    )
