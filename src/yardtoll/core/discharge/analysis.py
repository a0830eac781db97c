"""Energy delivered by a discharge to empty: from traces of one or more meters, or bare figures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from yardtoll.core.discharge.meter_log import DisplayEntry, MeterLog, analyse_log
from yardtoll.core.electrical.energy import (
    SECONDS_PER_HOUR,
    Gap,
    slice_between,
)
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.electrical.trace import Code, Notice, Trace
from yardtoll.core.errors import FieldError, UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import format_span

if TYPE_CHECKING:
    from yardtoll.core.notes.read import Notes

_LEAST_FIT, _MOST_FIT = 0.3, 1.2
"""Shares of the rating that a whole discharge delivers, to tell a slip of kWh for Wh."""


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
            raise ValueOutOfRangeError("rated_wh", self.rated_wh, "above 0 Wh")
        for name, value in (("soc_from", self.soc_from), ("soc_to", self.soc_to)):
            if not 0 <= value <= 100:
                raise ValueOutOfRangeError(name, value, "between 0 and 100 %")
        if self.soc_from <= self.soc_to:
            raise FieldError(
                f"{{soc_from}} {self.soc_from:g} % must be above {{soc_to}} {self.soc_to:g} %: "
                "a discharge runs downwards"
            )

    @property
    def window(self) -> float:
        """Share of the rated energy between the two states of charge."""
        return (self.soc_from - self.soc_to) / 100.0


@dataclass(frozen=True, kw_only=True)
class DischargeResult:
    """Figures of one discharge; None where a figure is not known.

    Times are s from the first log's first sample. ``delivered_wh`` is the sum of the logs and
    the meters' own draw; ``mean_w`` is delivered ÷ duration; ``c_rate`` is mean W ÷ rated Wh
    in 1/h. ``limits`` is one a log; for bare figures by their last digit. ``edges_s`` are the
    limits ± of load-on and cut-off; ``is_noted`` where they rest on a person's notes.
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
    edges_s: tuple[float, float] = (0.0, 0.0)
    limits: tuple[SampleLimits, ...] = ()
    spikes: int = 0
    negative_wh: float = 0.0
    after_cutoff_wh: float | None = None
    power_factor: float | None = None
    display: tuple[DisplayEntry, ...] = ()
    is_noted: bool = False

    @property
    def reserve_wh(self) -> float | None:
        """What was delivered after the display first said 0 %; None where it was not seen to."""
        empty = self._shown_empty
        return None if empty is None else empty.energy_left_wh

    @property
    def reserve_s(self) -> float | None:
        """How long it lasted after the display first said 0 %."""
        empty = self._shown_empty
        return None if empty is None else empty.true_left_s

    @property
    def _shown_empty(self) -> DisplayEntry | None:
        return next((e for e in self.display if e.shown_soc is not None and e.shown_soc <= 0), None)

    @property
    def end_seen(self) -> bool:
        """Whether the end of the run is in what was logged or noted."""
        return not (self.has(Code.NO_CUTOFF) or self.has(Code.END_NOT_SEEN))

    def has(self, code: Code) -> bool:
        """Whether a notice of this kind was made."""
        return any(notice.code is code for notice in self.notices)


def discharge_from_energies(
    energies_wh: Sequence[float],
    rating: Rating,
    *,
    duration_s: float | None = None,
    own_draw_w: Sequence[float] = (),
    steps_wh: Sequence[float] = (),
) -> DischargeResult:
    """A discharge from figures read off one or several meters.

    Args:
        steps_wh: the last digit of each figure; without it they are taken as exact.

    Raises:
        ValueOutOfRangeError: an energy or own draw below 0, or a duration not above 0.
        UnusableDataError: own draw is given without the time it lasted.
    """
    for energy in energies_wh:
        if not (np.isfinite(energy) and energy >= 0):
            raise ValueOutOfRangeError("energy_wh", energy, "0 Wh or more")
    if duration_s is not None and duration_s <= 0:
        raise ValueOutOfRangeError("duration", duration_s, "longer than 0 s")
    if own_draw_w and duration_s is None:
        raise FieldError("{own_draw_w} needs {duration}: W times the hours they were drawn")
    return _result(
        rating,
        logs=tuple((None, float(energy)) for energy in energies_wh),
        own_draw_w=own_draw_w,
        duration_s=duration_s,
        limits=tuple(read_to(step) for step in steps_wh),
    )


def _bare_result(
    notes: Notes, rating: Rating, own_draw_w: Sequence[float], step_wh: float | None
) -> DischargeResult:
    """Of an energy that was noted without times: how long it took from the watts, if at all."""
    from yardtoll.core.notes.energy import ONE_READING_SHARE
    from yardtoll.core.notes.quantities import NoteQuantity
    from yardtoll.core.notes.unread import notes_notices

    ((_, energy),) = notes.values(NoteQuantity.ENERGY)
    watts = [value.value for _, value in notes.values(NoteQuantity.POWER)]
    took_s = energy.value / watts[0] * SECONDS_PER_HOUR if watts and watts[0] > 0 else None
    result = discharge_from_energies(
        [energy.value],
        rating,
        duration_s=took_s or None,
        own_draw_w=own_draw_w if took_s else (),
        steps_wh=[step_wh or energy.step],
    )
    edge_s = ONE_READING_SHARE * took_s / math.sqrt(2) if took_s else 0.0
    return replace(
        result,
        edges_s=(edge_s, edge_s),
        notices=(*notes_notices(notes), *result.notices),
        is_noted=True,
    )


def _analysed_notes(notes: Notes, rating: Rating, step_wh: float | None) -> MeterLog:
    from yardtoll.core.discharge.noted import analyse_notes

    return analyse_notes(notes, step_wh=step_wh, rated_wh=rating.rated_wh * rating.window)


def read_to(step_wh: float) -> SampleLimits:
    """What the last digit of a figure read by eye leaves open."""
    return SampleLimits(
        resolution_wh=step_wh / 2, resolution_why=f"read to {step_wh:g} Wh", of_counter=True
    )


def analyse_discharge(
    traces: Sequence[Trace | Notes],
    rating: Rating,
    *,
    own_draw_w: Sequence[float] = (),
    on_change: bool | None = None,
    step_wh: float | None = None,
) -> DischargeResult:
    """A discharge from the traces of one or several meters, or notes of them, added up.

    Several are aligned by clock time when all carry it, else by load-on.

    Args:
        on_change: True for logs that hold only changes; None to find out.
        step_wh: last digit of a noted counter, where it is not the last digit written.

    Raises:
        UnusableDataError: no trace, a trace without power or counter, or one without load.
        ValueOutOfRangeError: an own draw below 0.
    """
    if not traces:
        raise UnusableDataError("there is no log to analyse")
    if len(traces) == 1 and not isinstance(traces[0], Trace) and traces[0].is_bare:
        return _bare_result(traces[0], rating, own_draw_w, step_wh)
    meters = [
        analyse_log(trace, on_change=on_change)
        if isinstance(trace, Trace)
        else _analysed_notes(trace, rating, step_wh)
        for trace in traces
    ]
    shifts, said = _alignment(traces, meters)
    start = min(m.span.start_s + s for m, s in zip(meters, shifts, strict=True))
    cutoff = max(m.span.cutoff_s + s for m, s in zip(meters, shifts, strict=True))
    volts_mean, no_load = _pooled_volts(meters)
    lowest = [m.volts_min_v for m in meters if m.volts_min_v is not None]
    after = [m.after_cutoff_wh for m in meters if m.after_cutoff_wh is not None]
    factors = [m.power_factor for m in meters if m.power_factor is not None]
    return _result(
        rating,
        logs=tuple((m.name, m.delivered_wh) for m in meters),
        own_draw_w=own_draw_w,
        duration_s=cutoff - start,
        start_s=start,
        cutoff_s=cutoff,
        max_w=_highest_sum_w(meters, shifts),
        volts_mean=volts_mean,
        volts_min=min(lowest) if lowest else None,
        sag_ratio=(no_load - volts_mean) / no_load if no_load and volts_mean is not None else None,
        gaps=tuple(_shifted(gap, s) for m, s in zip(meters, shifts, strict=True) for gap in m.gaps),
        notices=(*(notice for m in meters for notice in m.notices), *said),
        edges_s=(
            max(m.span.edges_s[0] for m in meters),
            max(m.span.edges_s[1] for m in meters),
        ),
        limits=tuple(m.limits for m in meters),
        spikes=sum(m.spikes for m in meters),
        negative_wh=sum(m.negative_wh for m in meters),
        after_cutoff_wh=sum(after) if after else None,
        power_factor=min(factors) if factors else None,
        display=meters[0].display if len(meters) == 1 else (),
        is_noted=any(not isinstance(trace, Trace) for trace in traces),
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
    edges_s: tuple[float, float] = (0.0, 0.0),
    limits: tuple[SampleLimits, ...] = (),
    spikes: int = 0,
    negative_wh: float = 0.0,
    after_cutoff_wh: float | None = None,
    power_factor: float | None = None,
    display: tuple[DisplayEntry, ...] = (),
    is_noted: bool = False,
) -> DischargeResult:
    """Sums and ratios common to traces and bare figures."""
    for draw in own_draw_w:
        if not (np.isfinite(draw) and draw >= 0):
            raise ValueOutOfRangeError("own_draw_w", draw, "0 W or more")
    hours = duration_s / SECONDS_PER_HOUR if duration_s else None
    own_draw_wh = float(sum(own_draw_w)) * (hours or 0.0)
    delivered = sum(energy for _, energy in logs) + own_draw_wh
    mean_w = delivered / hours if hours else None
    if max_w is not None:
        # A counter that reads above its power column, and a meter's own draw, raise the mean.
        max_w = max(max_w, mean_w or 0.0)
    if delivered > rating.rated_wh * rating.window:
        notices = (*notices, _above_rated(rating, delivered))
    notices = (*notices, *_kilo_slip(rating, delivered, notices))
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
        edges_s=edges_s,
        limits=limits,
        spikes=spikes,
        negative_wh=negative_wh,
        after_cutoff_wh=after_cutoff_wh,
        power_factor=power_factor,
        display=display,
        is_noted=is_noted,
    )


def _kilo_slip(rating: Rating, delivered_wh: float, said: Sequence[Notice]) -> list[Notice]:
    """A figure that would fit the rating if it were kWh, or Wh written as kWh."""
    if any(notice.code is Code.UNITS_SUSPECT for notice in said):
        return []
    expected = rating.rated_wh * rating.window
    for factor in (1000.0, 0.001):
        if _LEAST_FIT <= delivered_wh * factor / expected <= _MOST_FIT:
            message = (
                f"{delivered_wh:g} Wh is {delivered_wh / expected:.2g} of what is rated: "
                f"was it {delivered_wh * factor:g} Wh?"
            )
            return [Notice(code=Code.UNITS_SUSPECT, message=message)]
    return []


def _above_rated(rating: Rating, delivered_wh: float) -> Notice:
    window = "" if rating.window == 1 else f" for {rating.soc_from:g} → {rating.soc_to:g} %"
    return Notice(
        code=Code.ABOVE_RATED,
        message=f"{delivered_wh:.1f} Wh were delivered, more than the "
        f"{rating.rated_wh * rating.window:g} Wh rated{window}: was an input left plugged in, "
        "or is the rating or the meter wrong?",
    )


def _alignment(
    traces: Sequence[Trace | Notes], meters: Sequence[MeterLog]
) -> tuple[list[float], list[Notice]]:
    """Seconds to add to each trace's times to bring them onto the first's, and what to say.

    By clock where all carry one; by load-on where none does, or where the clocks of two logs that
    look alike stand apart by whole minutes or hours.
    """
    first = traces[0].clock_s
    by_load_on = [meters[0].span.start_s - meter.span.start_s for meter in meters]
    if len(traces) == 1 or first is None or len({trace.clock_basis for trace in traces}) > 1:
        return by_load_on, []
    shifts = [(trace.clock_s or 0.0) - first for trace in traces]
    for i in range(1, len(traces)):
        late_s = meters[i].span.start_s + shifts[i] - meters[0].span.start_s
        ends_s = meters[i].span.cutoff_s + shifts[i] - meters[0].span.cutoff_s
        within_s = meters[0].span.edges_s[0] + meters[i].span.edges_s[0] + 1.0
        if (
            isinstance(traces[i], Trace)
            and _is_whole(late_s, within_s)
            and abs(late_s - ends_s) <= 2 * within_s
        ):
            message = (
                f"{traces[i].name} looks like {traces[0].name} but for a clock "
                f"{format_span(abs(late_s))} {'ahead' if late_s > 0 else 'behind'}; put together "
                "by load-on"
            )
            return by_load_on, [Notice(code=Code.CLOCKS_DIFFER, message=message)]
    spans = sorted(
        (meter.span.start_s + shift, meter.span.cutoff_s + shift)
        for meter, shift in zip(meters, shifts, strict=True)
    )
    if any(after[0] >= before[1] for before, after in pairwise(spans)):
        message = "the logs follow one another in time: they are parts of one run, or two runs"
        return shifts, [Notice(code=Code.NOT_SIDE_BY_SIDE, message=message)]
    return shifts, []


def _is_whole(late_s: float, within_s: float) -> bool:
    """Whether a shift is one of whole hours, or of whole minutes where the samples show it."""
    for unit_s in (3600.0, 60.0):
        nearest_s = unit_s * round(late_s / unit_s)
        if nearest_s and within_s < unit_s / 4 and abs(late_s - nearest_s) <= within_s:
            return True
    return False


def _shifted(gap: Gap, shift_s: float) -> Gap:
    return replace(gap, start_s=gap.start_s + shift_s, end_s=gap.end_s + shift_s)


def _pooled_volts(meters: Sequence[MeterLog]) -> tuple[float | None, float | None]:
    """Loaded mean weighted by loaded time, and mean no-load volts, of the meters with volts."""
    with_volts = [(m.volts_mean_v, m.loaded_s) for m in meters if m.volts_mean_v is not None]
    no_load = [m.no_load_v for m in meters if m.no_load_v is not None]
    mean = None
    if with_volts:
        weights = [weight or 1e-9 for _, weight in with_volts]
        mean = float(np.average([volts for volts, _ in with_volts], weights=weights))
    return mean, float(np.mean(no_load)) if no_load else None


def _highest_sum_w(meters: Sequence[MeterLog], shifts: Sequence[float]) -> float | None:
    """Highest power of all meters together; None when one of them has no power column."""
    axes = [meter.power for meter in meters if meter.power is not None]
    if len(axes) < len(meters):
        return None
    if len(meters) == 1:
        return meters[0].max_w
    times = np.unique(np.concatenate([t + s for (t, _), s in zip(axes, shifts, strict=True)]))
    total = np.zeros(times.size)
    for (time_s, power_w), shift in zip(axes, shifts, strict=True):
        total += np.interp(times, time_s + shift, power_w, left=0.0, right=0.0)
    start = min(m.span.start_s + s for m, s in zip(meters, shifts, strict=True))
    cutoff = max(m.span.cutoff_s + s for m, s in zip(meters, shifts, strict=True))
    inside = total[slice_between(times, start, cutoff)]
    return float(np.max(inside)) if inside.size else None
