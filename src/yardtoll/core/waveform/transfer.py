"""A switch-over between two sources of volts: the gap, how deep, and the jump of the phase.

The r.m.s. of one cycle, refreshed each half cycle (IEC 61000-4-30), says how deep; the gap is
timed by the curve itself against what it should have been: the cycles before the event carried
on, and those after it carried back.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from yardtoll.core.conformance.verdict import Outcome
from yardtoll.core.electrical.stretches import stretches
from yardtoll.core.electrical.trace import Code, FloatArray, Notice
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.waveform.capture import Capture
from yardtoll.core.waveform.fundamental import Sines, find_hertz, fit_sines

_OFF_SHARE, _BACK_SHARE = 0.25, 0.05
"""Of the peak: a curve so far off has left; it is back, or still was there, within the second."""
_DEAD_SHARE = 0.10
_LEAST_PER_CYCLE = 16
_MOSTLY_DEAD = 0.3
_LEAST_GAP_MS, _LEAST_JUMP_DEG = 0.5, 15.0
_OFF_S = 0.0004
"""Shorter departures are edges of steps, or noise."""
_SMOOTH_S = 0.0003
_SAG = 0.90
_GOOD = (0.85, 1.15)
_TEMPLATE_CYCLES, _STEP_CYCLES = 6, 4
_FIT_HZ, _FIT_SAMPLES = 40_000.0, 1500

# ITIC curve (2000), from memory: nothing for 20 ms, 70 % for 0.5 s, 80 % for 10 s.
_ITIC = ((0.70, 0.020), (0.80, 0.5), (0.90, 10.0))


class Curve(StrEnum):
    """Where an event lies on the ITIC curve."""

    INSIDE = "inside"
    OUTSIDE = "outside"


@dataclass(frozen=True, kw_only=True)
class TransferEvent:
    """One switch-over or sag.

    Attributes:
        start_s: from the first sample, when the curve left.
        gap_ms: until it was back; 0 for a sag.
        lowest_ratio: the lowest r.m.s. of one cycle ÷ nominal.
        phase_jump_deg: of the fundamental, positive when it came back late; None where it did not.
        length_s: until the curve was back, be it a gap or a sag.
        ended: whether the volts came back within the capture.
    """

    start_s: float
    gap_ms: float
    lowest_ratio: float
    phase_jump_deg: float | None
    curve: Curve
    ended: bool = True
    length_s: float = 0.0


@dataclass(frozen=True, kw_only=True)
class TransferResult:
    """Every event of a capture.

    Attributes:
        worst_gap_ms, worst_gap_expanded_ms: None where nothing happened.
        half_cycle_s, rms_ratio: (m,) the r.m.s. of one cycle, each half cycle, for a picture.
    """

    name: str
    events: tuple[TransferEvent, ...]
    worst_gap_ms: float | None
    worst_gap_expanded_ms: float | None
    notices: tuple[Notice, ...]
    half_cycle_s: tuple[float, ...] = ()
    rms_ratio: tuple[float, ...] = ()


@dataclass(frozen=True, kw_only=True)
class FramesResult:
    """A gap by dark frames of a video."""

    gap_ms: float
    gap_ms_low: float
    gap_ms_high: float


def gap_of_frames(dark: int, fps: float) -> FramesResult:
    """Between one frame less and one more than were dark.

    Raises:
        ValueOutOfRangeError: a count below 0, or a rate not above 0.
    """
    if dark < 0:
        raise ValueOutOfRangeError("{frames_dark}", dark, "0 or more")
    if not (math.isfinite(fps) and fps > 0):
        raise ValueOutOfRangeError("{fps}", fps, "above 0")
    frame_ms = 1000 / fps
    return FramesResult(
        gap_ms=dark * frame_ms,
        gap_ms_low=max(dark - 1, 0) * frame_ms,
        gap_ms_high=(dark + 1) * frame_ms,
    )


def judge_gap(low_ms: float, high_ms: float, claim_ms: float) -> Outcome:
    """At most so many ms: met if all of the gap's range is within, not if none is."""
    if high_ms <= claim_ms:
        return Outcome.MEETS
    return Outcome.FALLS_SHORT if low_ms > claim_ms else Outcome.TOO_CLOSE


def analyse_transfer(capture: Capture, nominal_v: float, nominal_hz: float) -> TransferResult:
    """Find and measure every event.

    Raises:
        UnusableDataError: the capture is too short, or begins without volts.
        ValueOutOfRangeError: a nominal value is not above 0.
    """
    for name, value in (("nominal_v", nominal_v), ("nominal_hz", nominal_hz)):
        if not (math.isfinite(value) and value > 0):
            raise ValueOutOfRangeError(f"{{{name}}}", value, "above 0")
    return _Search(capture, nominal_v, nominal_hz).run()


def _has_happened(event: TransferEvent) -> bool:
    """A curve that is only met a little early or late has not been away."""
    jump = abs(event.phase_jump_deg or 0.0)
    return (
        not event.ended
        or event.gap_ms >= _LEAST_GAP_MS
        or jump >= _LEAST_JUMP_DEG
        or event.lowest_ratio < _SAG
    )


class _Search:
    """Goes through a capture from good cycles to good cycles."""

    def __init__(self, capture: Capture, nominal_v: float, nominal_hz: float) -> None:
        self.name, self.rate_hz = capture.name, capture.rate_hz
        self.volts = np.asarray(capture.volts, dtype=float)
        self.cycle = self.rate_hz / nominal_hz
        self.nominal_hz = nominal_hz
        if self.volts.size < 2.5 * self.cycle:
            raise UnusableDataError(f"{self.name}: under two and a half cycles (too_short)")
        if self.cycle < _LEAST_PER_CYCLE:
            raise UnusableDataError(
                f"{self.name}: {self.rate_hz:.4g} samples a second are too few to see a gap"
            )
        self.half = max(round(self.cycle / 2), 1)
        self.at, self.rms = self._rms()
        if not np.any(self.rms > 0):
            raise UnusableDataError(f"{self.name}: there are no volts")
        usual = float(np.median(self.rms[self.rms > 0.5 * self.rms.max()]))
        # A capture without a scale, or of an outlet that is low throughout, is its own measure.
        is_near = _GOOD[0] < usual / nominal_v < _GOOD[1]
        self.reference = nominal_v if is_near and not capture.relative else usual
        self.least = _SAG * min(usual, self.reference) / self.reference
        self.off_count = max(int(_OFF_S * self.rate_hz), 2)
        self._hidden_s = math.asin(_BACK_SHARE) / (2 * math.pi * nominal_hz)
        self.smooth = max(int(_SMOOTH_S * self.rate_hz) // 2 * 2 + 1, 1)

    def run(self) -> TransferResult:
        events: list[TransferEvent] = []
        begin = self._good_from(0)
        if begin is None:
            raise UnusableDataError(f"{self.name}: no two cycles of it are alike")
        while True:
            found = self._next(begin)
            if found is None:
                break
            event, begin_next = found
            if _has_happened(event):
                events.append(event)
            if begin_next is None:
                break
            begin = begin_next
        events = sorted([*events, *self._sags(events)], key=lambda e: e.start_s)
        return self._result(events)

    def _result(self, events: list[TransferEvent]) -> TransferResult:
        notices = []
        if not events:
            notices.append(
                Notice(code=Code.NO_EVENT, message=f"{self.name}: the volts never left their curve")
            )
        if any(not event.ended for event in events):
            said = f"{self.name}: the volts had not come back at its end: at least so long"
            notices.append(Notice(code=Code.STILL_DARK, message=said))
        worst = max((event.gap_ms for event in events), default=None)
        return TransferResult(
            name=self.name,
            events=tuple(events),
            worst_gap_ms=worst,
            worst_gap_expanded_ms=None if worst is None else self._expanded_ms(),
            notices=tuple(notices),
            half_cycle_s=tuple(float(s) for s in self.at / self.rate_hz),
            rms_ratio=tuple(float(r) for r in self.rms / self.reference),
        )

    def _expanded_ms(self) -> float:
        """Two edges, each within a sample and within what the threshold hides near a crossing."""
        hidden_s = self._hidden_s
        u_edge_s = math.hypot(1 / self.rate_hz, hidden_s) / math.sqrt(3)
        return 1000 * 2 * math.sqrt(2) * u_edge_s

    def _rms(self) -> tuple[FloatArray, FloatArray]:
        """(m,) place of the middle and r.m.s. of one cycle, each half cycle."""
        squares = np.concatenate([[0.0], np.cumsum(self.volts**2)])
        places = np.arange(0.0, self.volts.size - self.cycle + 1e-6, self.cycle / 2)
        grid = np.arange(squares.size)
        ends = np.interp(places + self.cycle, grid, squares)
        means = (ends - np.interp(places, grid, squares)) / self.cycle
        return places + self.cycle / 2, np.sqrt(np.maximum(means, 0))

    def _good_from(self, place: int) -> int | None:
        """Where a cycle and a half begin that have their volts and agree with the next."""
        span = round(self.cycle)
        step = max(span // 16, 1)
        for at in range(place, self.volts.size - int(2 * span), step):
            first, second = (self.volts[at + k * span : at + (k + 1) * span] for k in (0, 1))
            size = math.sqrt(float(np.mean(first**2)))
            if size < self.least * self.reference:
                continue
            again = math.sqrt(float(np.mean(second**2)))
            differs = math.sqrt(float(np.mean((first - second) ** 2)))
            if abs(again / size - 1) < 0.1 and differs < 0.25 * size and self._has_no_hole(at):
                return at
        return None

    def _has_no_hole(self, at: int) -> bool:
        """Whether a cycle is one throughout: its halves mirror each other."""
        half = self.half
        first, second = self.volts[at : at + half], self.volts[at + half : at + 2 * half]
        size = min(first.size, second.size)
        apart = math.sqrt(float(np.mean((first[:size] + second[:size]) ** 2)))
        return apart < 0.5 * math.sqrt(float(np.mean(self.volts[at : at + 2 * half] ** 2)))

    def _next(self, begin: int) -> tuple[TransferEvent, int | None] | None:
        """The next event after good cycles that begin here, and where good ones begin again."""
        left = self._leaves(begin)
        if left is None:
            return None
        away, before = left
        peak = self._look_at(before)
        start = self._last_near(away, before, peak, begin)
        back = self._good_from(away + 1)
        if back is None:
            length_s = (self.volts.size - start) / self.rate_hz
            return self._event(start, length_s, None, ended=False), None
        # The first cycle found may still begin in the gap; the next one does not.
        back = min(back + round(self.cycle), self.volts.size - int(self.cycle))
        after = self._template(
            back, min(back + int(_TEMPLATE_CYCLES * self.cycle), self.volts.size)
        )
        after_peak = self._look_at(after)
        end = self._first_near(back, after, peak, start)
        jump = self._jump(before, after, end)
        made = self._event(start, max(end - start, 0) / self.rate_hz, jump, ended=True)
        # Volts that are low but there are a sag, however far off their curve they are.
        dead = self._dead(start, end, min(peak, after_peak)) if end > start else np.ones(1)
        if float(np.mean(dead)) < _MOSTLY_DEAD:
            inside = self._is_inside(start, end)
            made = replace(made, gap_ms=0.0, curve=Curve.INSIDE if inside else Curve.OUTSIDE)
        return made, back

    def _look_at(self, curve: Sines) -> float:
        """Peak V of a curve; how long it is near nothing, which hides an edge, is kept."""
        turn = np.abs(curve.at(np.arange(2 * self.half) / self.rate_hz))
        peak = float(np.max(turn))
        # Half of what a crossing takes; the curve goes through zero twice a cycle.
        near_zero = float(np.mean(turn <= 2 * _BACK_SHARE * peak)) * self.cycle / 4
        self._hidden_s = max(self._hidden_s, near_zero / self.rate_hz)
        return peak

    def _leaves(self, begin: int) -> tuple[int, Sines] | None:
        """Where the curve leaves the one it was, and that one; looked at a few cycles at a time."""
        at = begin
        before = self._template(at, at + int(2 * self.cycle))
        ahead = 2
        while at < self.volts.size:
            stop = min(at + int(ahead * self.cycle), self.volts.size)
            off = self._off(at, stop, before)
            if off is not None:
                return off, before
            if stop == self.volts.size:
                return None
            # Carry the template along: the frequency of an engine or an inverter wanders.
            at, ahead = stop, _STEP_CYCLES
            first = max(begin, at - int(_TEMPLATE_CYCLES * self.cycle))
            before = self._template(first, at)
        return None

    def _template(self, first: int, last: int) -> Sines:
        """The curve of some good cycles, to be carried on in either direction."""
        last = min(last, self.volts.size)
        values = self.volts[first:last]
        hertz = find_hertz(values, self.rate_hz, self.nominal_hz, _FIT_SAMPLES) or self.nominal_hz
        stride = max(int(self.rate_hz / _FIT_HZ), 1)
        orders = max(min(40, int(0.4 * self.rate_hz / stride / hertz)), 1)
        time_s = np.arange(first, last, stride) / self.rate_hz
        return fit_sines(time_s, values[::stride], hertz, orders)

    def _deviation(self, first: int, last: int, curve: Sines) -> FloatArray:
        """(n,) V off a curve, single wild samples and edges of steps taken out."""
        from scipy import ndimage

        time_s = np.arange(first, last) / self.rate_hz
        off = np.abs(self.volts[first:last] - curve.at(time_s))
        return np.asarray(ndimage.median_filter(off, self.smooth)) if self.smooth > 1 else off

    def _off(self, first: int, last: int, curve: Sines) -> int | None:
        """The first sample from which the curve stays off for a while."""
        peak = float(np.max(np.abs(curve.at(np.arange(2 * self.half) / self.rate_hz))))
        ahead = min(last + self.off_count, self.volts.size)
        flags = self._deviation(first, ahead, curve) > _OFF_SHARE * peak
        for start, stop in stretches(flags):
            if stop - start >= self.off_count:
                return int(first + start)
        return None

    def _last_near(self, away: int, before: Sines, peak: float, begin: int) -> int:
        """The end of the curve before: the last sample that was on it."""
        first = max(begin, away - self.half)
        off = self._deviation(first, away + 1, before)
        near = np.flatnonzero(off <= _BACK_SHARE * peak)
        start = int(first + near[-1] + 1) if near.size else away
        # Where the curve itself goes through zero, dead volts are on it for a moment again.
        dead = self._dead(first, start, peak)
        begun = int(np.flatnonzero(~dead)[-1] + 1) if np.any(~dead) else 0
        left = np.flatnonzero(off[begun : start - first] > _BACK_SHARE * peak)
        return int(first + begun + left[0]) if left.size else start

    def _dead(self, first: int, last: int, peak: float) -> np.ndarray:
        """(n,) where the volts are next to nothing."""
        from scipy import ndimage

        size = np.abs(self.volts[first:last])
        smooth = ndimage.median_filter(size, self.smooth) if self.smooth > 1 else size
        return np.asarray(smooth < _DEAD_SHARE * peak)

    def _first_near(self, back: int, after: Sines, peak: float, start: int) -> int:
        """The beginning of the curve after: carried back from good cycles until it was off."""
        if back <= start:
            return start
        off = self._deviation(start, back, after)
        flags = off > _OFF_SHARE * peak
        last = None
        for begin, stop in stretches(flags):
            if stop - begin >= self.off_count:
                last = int(stop)
        if last is None:
            return start
        near = np.flatnonzero(off[last:] <= _BACK_SHARE * peak)
        end = last + (int(near[0]) if near.size else 0)
        dead = self._dead(start + end, back, peak)
        lives = int(np.flatnonzero(~dead)[0]) if np.any(~dead) else dead.size
        away = np.flatnonzero(off[end : end + lives] > _BACK_SHARE * peak)
        return start + end + (int(away[-1]) + 1 if away.size else 0)

    def _jump(self, before: Sines, after: Sines, end: int) -> float:
        """Degrees by which the fundamental came back late."""
        at_s = end / self.rate_hz
        was, came = (
            float(np.angle(curve.phasors[1])) + 2 * math.pi * curve.hertz * at_s
            for curve in (before, after)
        )
        return (math.degrees(was - came) + 180.0) % 360.0 - 180.0

    def _event(
        self, start: int, length_s: float, jump: float | None, *, ended: bool
    ) -> TransferEvent:
        gap_ms = 1000 * length_s
        near = (self.at > start - self.cycle) & (
            self.at < start + length_s * self.rate_hz + self.cycle
        )
        lowest = float(np.min(self.rms[near])) / self.reference if np.any(near) else 0.0
        inside = length_s <= _ITIC[0][1] and self._within_itic(near)
        return TransferEvent(
            start_s=start / self.rate_hz,
            gap_ms=gap_ms,
            lowest_ratio=lowest,
            phase_jump_deg=jump,
            curve=Curve.INSIDE if inside else Curve.OUTSIDE,
            ended=ended,
            length_s=length_s,
        )

    def _is_inside(self, start: int, end: int) -> bool:
        """Whether a sag is inside the ITIC curve, by the times under each level."""
        near = (self.at > start - self.cycle) & (self.at < end + self.cycle)
        ratios = self.rms[near] / self.reference
        half_s = self.half / self.rate_hz
        return all(np.sum(ratios < ratio) * half_s <= most_s for ratio, most_s in _ITIC)

    def _within_itic(self, near: np.ndarray) -> bool:
        """Sags by the time that the r.m.s. was under 80 % and 90 %; the gap is timed by itself."""
        ratios = self.rms[near] / self.reference
        half_s = self.half / self.rate_hz
        return all(np.sum(ratios < ratio) * half_s <= most_s for ratio, most_s in _ITIC[1:])

    def _sags(self, events: list[TransferEvent]) -> list[TransferEvent]:
        """Half cycles of low r.m.s. that belong to no gap."""
        low = (
            self.rms < _SAG * self.reference
            if self.least >= _SAG
            else self.rms < (self.least * self.reference)
        )
        for event in events:
            first = event.start_s * self.rate_hz - 1.5 * self.cycle
            last = (event.start_s + event.length_s) * self.rate_hz + 1.5 * self.cycle
            low &= ~((self.at >= first) & (self.at <= last))
        made = []
        for start, stop in stretches(low):
            ratios = self.rms[start:stop] / self.reference
            half_s = self.half / self.rate_hz
            inside = all(np.sum(ratios < r) * half_s <= most_s for r, most_s in _ITIC)
            made.append(
                TransferEvent(
                    start_s=float(self.at[start] - self.cycle / 2) / self.rate_hz,
                    gap_ms=0.0,
                    lowest_ratio=float(np.min(ratios)),
                    phase_jump_deg=0.0,
                    curve=Curve.INSIDE if inside else Curve.OUTSIDE,
                    length_s=(stop - start) * half_s,
                )
            )
        return made
