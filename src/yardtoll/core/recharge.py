"""What a recharge drew and when it reached which state of charge; from a trace or bare figures."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from yardtoll.core.charge_phases import Phase, PhaseName, find_phases, full_power_w
from yardtoll.core.energy import (
    SECONDS_PER_HOUR,
    Counter,
    Gap,
    join_counter,
    slice_between,
)
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.figures import format_clock
from yardtoll.core.load_span import LoadSpan, span_of_counter, span_of_power
from yardtoll.core.quantities import Quantity
from yardtoll.core.run_energy import Fineness, energy_notices, energy_of_run, fineness_of
from yardtoll.core.soc_times import (
    SOC_HALF_STEP,
    SocReading,
    ToSoc,
    rising_readings,
    shown_ends,
    times_to_soc,
)
from yardtoll.core.timebase import Sampling, sampling_of
from yardtoll.core.trace import Code, FloatArray, Notice, Trace

END_SHARE = 0.02
"""A charge ends with the last power above this share of full power …"""
END_FLOOR_W = 2.0
"""… and above this many W."""
_LOST_W = 0.5


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
            raise ValueOutOfRangeError("--rated-wh", self.rated_wh, "above 0 Wh")
        for name, value in (("--soc-from", self.soc_from), ("--soc-to", self.soc_to)):
            if value is not None and not 0 <= value <= 100:
                raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
        if self.delivered_wh is not None and not (
            np.isfinite(self.delivered_wh) and self.delivered_wh >= 0
        ):
            raise ValueOutOfRangeError("--delivered-wh", self.delivered_wh, "0 Wh or more")


@dataclass(frozen=True, kw_only=True)
class RechargeResult:
    """Figures of one recharge; None where something cannot be told.

    ``start_s``, phases and gaps are s from the log's first sample, ``readings`` and ``to_soc`` from
    charge start; ``soc`` is % at start and end.
    """

    window: ChargeWindow
    soc: tuple[float, float]
    drawn_wh: float
    start_s: float | None
    duration_s: float | None
    peak_w: float | None
    mean_w: float | None
    phases: tuple[Phase, ...]
    readings: tuple[SocReading, ...]
    to_soc: tuple[ToSoc, ...]
    round_trip: float | None
    charge_efficiency: float | None
    efficiency_basis: Literal["rated", "fitted_store"]
    gaps: tuple[Gap, ...] = ()
    notices: tuple[Notice, ...] = ()
    edge_s: float = 0.0
    fineness: Fineness | None = None

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)


def recharge_from_energy(
    drawn_wh: float,
    window: ChargeWindow,
    *,
    duration_s: float | None = None,
    readings: Sequence[SocReading] = (),
) -> RechargeResult:
    """A recharge from a figure read off a meter.

    Raises:
        ValueOutOfRangeError: energy below 0, or a duration not above 0.
    """
    if not (np.isfinite(drawn_wh) and drawn_wh >= 0):
        raise ValueOutOfRangeError("--energy-wh", drawn_wh, "0 Wh or more")
    if duration_s is not None and not duration_s > 0:
        raise ValueOutOfRangeError("--duration", duration_s, "longer than 0 s")
    return _result(window, drawn_wh, readings, duration_s=duration_s)


def analyse_recharge(
    trace: Trace,
    window: ChargeWindow,
    readings: Sequence[SocReading] = (),
    *,
    on_the_log: bool = False,
) -> RechargeResult:
    """A recharge from a meter's trace.

    Args:
        on_the_log: the readings' times count from the log's first sample, not from charge start;
            those before the start then say where the charge began.

    Raises:
        UnusableDataError: the trace has neither power nor counter, or nothing was drawn.
    """
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
    span = _charge_span(trace.name, power, counter if not has_power else None, sampling)
    if on_the_log:
        readings = [SocReading(s=max(r.s - span.start_s, 0.0), soc=r.soc) for r in readings]
    metered = power if has_power else None
    drawn, source, gaps = energy_of_run(sampling, metered, counter, span)
    within = slice_between(power[0], span.start_s, span.cutoff_s)
    phases = find_phases(*power, span.start_s, span.cutoff_s)
    notices = [
        *trace.notices,
        *_log_notices(trace, span, phases),
        *energy_notices(trace.name, sampling, metered, counter, span, gaps),
    ]
    return _result(
        window,
        drawn,
        readings,
        duration_s=span.cutoff_s - span.start_s,
        start_s=span.start_s,
        peak_w=float(np.max(power[1][within])),
        phases=phases,
        gaps=gaps,
        notices=notices,
        edge_s=span.edge_s,
        fineness=fineness_of(source, metered, counter, span),
    )


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
) -> LoadSpan:
    """Charge start by the load's rule; end = last power above 2 % of full power, and 2 W."""
    if counter is not None:
        return span_of_counter(name, counter)
    span = span_of_power(name, *power, sampling.interval_s)
    limit = max(END_FLOOR_W, END_SHARE * full_power_w(power[1]))
    drawing = np.flatnonzero(power[1] > limit)
    last = int(drawing[-1])
    return LoadSpan(
        start_s=span.start_s,
        cutoff_s=float(power[0][last]),
        starts_loaded=span.starts_loaded,
        no_cutoff=last == power[0].size - 1,
        limit_w=limit,
        edge_s=span.edge_s,
    )


def _log_notices(trace: Trace, span: LoadSpan, phases: Sequence[Phase]) -> list[Notice]:
    """What the log does not hold of the charge, and where the wall was gone."""
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
                f"the input was gone {format_clock(at)} after the start, for {lasted / 60:.1f} min",
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
            return float(np.median(inside)) < low
    return False


def _result(
    window: ChargeWindow,
    drawn_wh: float,
    readings: Sequence[SocReading],
    *,
    duration_s: float | None,
    start_s: float | None = None,
    peak_w: float | None = None,
    phases: tuple[Phase, ...] = (),
    gaps: tuple[Gap, ...] = (),
    notices: Sequence[Notice] = (),
    edge_s: float = 0.0,
    fineness: Fineness | None = None,
) -> RechargeResult:
    shown_soc, said = rising_readings(readings)
    shown = shown_ends(shown_soc, duration_s)
    soc = _ends(window, shown)
    said += _window_notices(window, soc, shown)
    round_trip = None
    if window.delivered_wh is not None and drawn_wh > 0:
        round_trip = window.delivered_wh / drawn_wh
        said += round_trip_notices(window.delivered_wh, drawn_wh)
    stored, basis = _stored_wh(window, soc)
    return RechargeResult(
        window=window,
        soc=soc,
        drawn_wh=drawn_wh,
        start_s=start_s,
        duration_s=duration_s,
        peak_w=peak_w,
        mean_w=drawn_wh / duration_s * SECONDS_PER_HOUR if duration_s else None,
        phases=phases,
        readings=tuple(shown_soc),
        to_soc=times_to_soc(shown_soc),
        round_trip=round_trip,
        charge_efficiency=stored / drawn_wh if stored is not None and drawn_wh > 0 else None,
        efficiency_basis=basis,
        gaps=gaps,
        notices=(*notices, *said),
        edge_s=edge_s,
        fineness=fineness,
    )


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
