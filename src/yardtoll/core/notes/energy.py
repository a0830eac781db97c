"""The energy of a noted run: by a counter read now and then, or by watts and time."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.course import Course, Series

DRIFT_SHARE = 0.02
"""A load may draw so much more or less between two readings (common practice, no source)."""
ONE_READING_SHARE = 0.05
"""… and so much where its watts were read only once (common practice, no source)."""

RESTART_SHARE = 1.1
"""A counter that restarted shows at most this share of what the watts seen make since."""
_KILO = 1000.0


@dataclass(frozen=True, kw_only=True)
class NotedEnergy:
    """What was taken from or put into a station, by notes.

    Attributes:
        energy_wh: from start to end.
        source: "counter" or "power".
        end_s, end_limit_s: best estimate of the end, s from the first line, and ±.
        curve: (n,) s and (n,) Wh since the start, for what was used by when.
        restarts: times in s at which the counter fell.
        assumed_zero: the counter was not read at the start.
    """

    energy_wh: float
    source: str
    end_s: float
    end_limit_s: float
    limits: SampleLimits
    curve: tuple[FloatArray, FloatArray]
    restarts: tuple[float, ...] = ()
    assumed_zero: bool = False

    def used_wh(self, s: float) -> float:
        """Wh since the start, by a time."""
        return float(np.interp(s, *self.curve))


@dataclass(frozen=True, kw_only=True)
class Watts:
    """The watts seen in a run: their usual, lowest and highest."""

    usual: float
    low: float
    high: float


def watts_seen(course: Course, power: Series, counter: Series) -> Watts | None:
    """From the watts noted and from the counter's rise; None where neither tells.

    The bounds leave room for the last digits and for a load's drift between readings.
    """
    end_s = course.last_seen_s
    inside = power.within(course.start_s, end_s)
    inside = _above_nothing(inside)
    counted = counter.within(course.start_s, end_s)
    rates, edges = _rates(counted)
    values = np.concatenate([inside.values, rates])
    if values.size == 0:
        return None
    doubts = np.concatenate([inside.steps / 2, edges])
    share = ONE_READING_SHARE if values.size == 1 else DRIFT_SHARE
    usual = float(np.mean(inside.values)) if inside.size else float(np.mean(rates))
    if counted.size > 1 and not np.any(np.diff(counted.values) < 0):
        took_h = float(counted.s[-1] - counted.s[0]) / SECONDS_PER_HOUR
        risen = float(counted.values[-1] - counted.values[0])
        step = float(max(counted.steps[-1], counted.steps[0]))
        if risen > 20 * step and took_h > 0:
            usual = risen / took_h
    sharp = doubts <= 3 * float(np.min(doubts))
    low = float(np.min((values - doubts)[sharp])) * (1 - share)
    high = float(np.max((values + doubts)[sharp])) * (1 + share)
    return Watts(usual=usual, low=max(low, 0.1 * usual), high=max(high, usual))


def _above_nothing(series: Series) -> Series:
    keep = series.values > 0
    return Series(s=series.s[keep], values=series.values[keep], steps=series.steps[keep])


def _rates(counted: Series) -> tuple[FloatArray, FloatArray]:
    """Mean W between readings of the counter, and ± of each from digits and stamps."""
    if counted.size < 2:
        return np.empty(0), np.empty(0)
    took_s, risen = np.diff(counted.s), np.diff(counted.values)
    used = (took_s > 0) & (risen > 0)
    took_s, risen = took_s[used], risen[used]
    steps = np.maximum(counted.steps[1:], counted.steps[:-1])[used]
    rates = risen / took_s * SECONDS_PER_HOUR
    doubts = steps / took_s * SECONDS_PER_HOUR + rates * np.minimum(60.0 / took_s, 1.0)
    # Two looks within moments of each other say nothing of the power.
    known = doubts < rates / 2
    return rates[known], doubts[known]


def energy_by_counter(
    course: Course,
    counter: Series,
    watts: Watts | None,
    step_wh: float | None = None,
    *,
    tapers: bool = False,
) -> NotedEnergy:
    """From a counter's first and last values.

    A value read after the end is the final one: what a meter shows when it is powered again. Where
    the end was not seen it lies so long after the last line that saw the run as the rest of the
    energy takes at the watts seen.

    Args:
        step_wh: its last digit where that is known better than the digits written.
        tapers: the watts fall towards the end, as a charge's do.
    """
    s, risen, restarts = _joined(counter)
    at_start = float(np.interp(course.start_s, s, risen))
    first_s = float(s[0])
    assumed_zero = first_s > course.start_s
    if assumed_zero:
        # Zeroed at the start, unless the first value is more than can have been drawn since.
        could_wh = _wh(watts.high if watts else np.inf, first_s - course.start_s)
        offset = float(counter.values[0]) if counter.values[0] <= 1.1 * could_wh else _wh(
            watts.usual if watts else 0.0, first_s - course.start_s
        )  # fmt: skip
        risen, at_start = risen + offset, 0.0
        s, risen = np.append(course.start_s, s), np.append(0.0, risen)
    used = risen - at_start
    ends_at_s = course.off_s if course.off_s is not None else course.found_s
    last_s, last_wh = float(s[-1]), float(used[-1])
    steps = _end_steps(counter) if step_wh is None else (step_wh, step_wh)
    half_wh = float(np.hypot(*steps)) / 2
    seen = s <= course.last_seen_s
    end_s, end_limit_s, rest_wh, rest_limit_wh = course.last_seen_s, course.off_limit_s, 0.0, 0.0
    if ends_at_s is None:
        end_s = max(last_s, course.last_seen_s)
        end_limit_s = max(end_limit_s, end_s - course.seen_before_s)
    elif course.off_s is not None:
        end_s = course.off_s
        if watts is not None and last_s < end_s:
            rest_wh = _wh(watts.usual, end_s - last_s)
            rest_limit_wh = _wh(
                max(watts.high - watts.usual, watts.usual - watts.low), end_s - last_s
            )
            rest_limit_wh += _wh(watts.usual, course.off_limit_s)
    elif last_s > course.last_seen_s:
        before_s = float(s[seen][-1]) if seen.any() else course.start_s
        left_wh = last_wh - (float(used[seen][-1]) if seen.any() else 0.0)
        end_s, end_limit_s = _end(course, None if tapers else watts, before_s, left_wh, half_wh)
    else:
        # The counter was last read while it ran: energy and end both stand at that line, at least.
        end_limit_s = ends_at_s - course.last_seen_s + course.off_limit_s
        rest_limit_wh = _wh(watts.high if watts else 0.0, ends_at_s - last_s)
    energy = last_wh + rest_wh
    inside = s < end_s
    curve = (np.append(s[inside], end_s), np.append(np.clip(used[inside], 0, energy), energy))
    return NotedEnergy(
        energy_wh=energy,
        source="counter",
        end_s=end_s,
        end_limit_s=end_limit_s,
        limits=SampleLimits(
            resolution_wh=half_wh,
            resolution_why=f"read to {max(steps):g} Wh, at either end",
            of_counter=True,
            lost_wh=_lost(counter, restarts, watts),
            unread_wh=rest_limit_wh,
        ),
        curve=curve,
        restarts=restarts,
        assumed_zero=assumed_zero,
    )


def _end(
    course: Course, watts: Watts | None, before_s: float, left_wh: float, half_wh: float
) -> tuple[float, float]:
    """The end that was not seen, and ±: after the rest of the energy, at the watts seen."""
    assert course.found_s is not None
    earliest, latest = course.last_seen_s, course.found_s
    if watts is None:
        return (earliest + latest) / 2, (latest - earliest) / 2 + course.off_limit_s
    soonest = before_s + max(left_wh - half_wh, 0.0) / watts.high * SECONDS_PER_HOUR
    slowest = before_s + (left_wh + half_wh) / watts.low * SECONDS_PER_HOUR
    low = min(max(soonest - course.start_limit_s, earliest), latest)
    high = max(min(slowest + course.start_limit_s, latest), low)
    best = before_s + left_wh / watts.usual * SECONDS_PER_HOUR
    best = min(max(best, low), high)
    return best, max(best - low, high - best, course.off_limit_s if high == latest else 0.0)


def energy_by_watts(
    course: Course, power: Series, *, tapers: bool = False, most_wh: float = np.inf
) -> NotedEnergy:
    """Watts × time: a line through the watts noted, the first and the last held to the ends.

    Args:
        tapers: what was read last falls to nothing by the end, as a charge's watts do.
        most_wh: more than this there cannot have been: an end that was not seen came before.
    """
    told_s = course.off_s if course.off_s is not None else course.found_s
    if course.found_s is not None:
        told_s = _latest_end_s(course, power, most_wh)
    end_s, end_limit_s = course.last_seen_s, course.off_limit_s
    if course.off_s is not None:
        end_s = course.off_s
    elif told_s is not None:
        end_s = (course.last_seen_s + told_s) / 2
        end_limit_s += (told_s - course.last_seen_s) / 2
    inside = _above_nothing(power.within(course.start_s, end_s))
    if inside.size == 0:
        inside = _above_nothing(power)
    s = np.concatenate([[course.start_s], np.clip(inside.s, course.start_s, end_s), [end_s]])
    w = np.concatenate([inside.values[:1], inside.values, inside.values[-1:]])
    if tapers:
        w[-1] = 0.0
    used = (
        np.concatenate([[0.0], np.cumsum(0.5 * (w[1:] + w[:-1]) * np.diff(s))]) / SECONDS_PER_HOUR
    )
    took_s = end_s - course.start_s
    share = ONE_READING_SHARE if inside.size == 1 else DRIFT_SHARE
    drift_wh = share * float(used[-1])
    between = np.abs(np.diff(w)) * np.diff(s) / SECONDS_PER_HOUR / np.sqrt(12)
    step_w = float(np.max(inside.steps))
    return NotedEnergy(
        energy_wh=float(used[-1]),
        source="power",
        end_s=end_s,
        end_limit_s=end_limit_s,
        limits=SampleLimits(
            resolution_wh=_wh(step_w / 2, took_s),
            resolution_why=f"watts read to {step_w:g} W",
            sampling_u_wh=float(np.hypot(drift_wh / np.sqrt(3), np.sqrt(np.sum(between**2)))),
            edges_wh=(
                _wh(float(w[0]), course.start_limit_s),
                _wh(float(w[-1]), end_limit_s),
            ),
        ),
        curve=(s, used),
    )


def _latest_end_s(course: Course, power: Series, most_wh: float) -> float:
    """When it was found off, or when all there can be was gone, if that was before."""
    assert course.found_s is not None
    inside = _above_nothing(power.within(course.start_s, course.last_seen_s))
    inside = inside if inside.size else _above_nothing(power)
    usual = float(np.mean(inside.values))
    empty_s = course.start_s + most_wh / usual * SECONDS_PER_HOUR
    return float(min(course.found_s, max(empty_s, course.last_seen_s)))


def noted_energy(
    name: str,
    course: Course,
    counter: Series,
    power: Series,
    step_wh: float | None = None,
    *,
    tapers: bool = False,
    most_wh: float = np.inf,
) -> NotedEnergy:
    """By the counter where it was read, else by the watts.

    Raises:
        UnusableDataError: neither was noted, or the counter falls though it cannot have restarted.
    """
    _refuse_falling(name, counter, power)
    watts = watts_seen(course, power, counter)
    counted = counter.size > 1 or (counter.size == 1 and counter.s[0] > course.start_s)
    if counted:
        return energy_by_counter(course, counter, watts, step_wh, tapers=tapers)
    if watts is None and counter.size:
        raise UnusableDataError(f"{name}: the meter's Wh were read only once, and no W")
    if watts is None:
        raise UnusableDataError(
            f"{name}: no line has Wh of the meter or W, so there is no energy in it"
        )
    return energy_by_watts(course, power, tapers=tapers, most_wh=most_wh)


def _wh(watts: float, seconds: float) -> float:
    return float(watts * seconds / SECONDS_PER_HOUR)


def _joined(counter: Series) -> tuple[FloatArray, FloatArray, tuple[float, ...]]:
    """The counter's rise since its first value; where it falls it counts from nothing again."""
    steps = np.diff(counter.values)
    fell = np.flatnonzero(steps < 0)
    steps = np.where(steps < 0, counter.values[1:], steps)
    risen = np.concatenate([[0.0], np.cumsum(steps)])
    return counter.s, risen, tuple(float(counter.s[i + 1]) for i in fell)


def _refuse_falling(name: str, counter: Series, power: Series) -> None:
    """A counter zeroed on the way has counted no more since than the load can have drawn."""
    fell = np.flatnonzero(np.diff(counter.values) < 0)
    for index in fell:
        before, after = float(counter.values[index]), float(counter.values[index + 1])
        took_s = float(counter.s[index + 1] - counter.s[index])
        rates, _ = _rates(counter)
        usual = float(np.max(power.values, initial=0.0))
        if not usual and rates.size > 1:
            usual = float(np.median(rates))
        is_slip_of_k = before > _KILO / 2 * after
        if after > RESTART_SHARE * _wh(usual, took_s) and not is_slip_of_k:
            raise UnusableDataError(
                f"{name}: the meter's Wh fall from {before:g} to {after:g}: one of them is wrong"
            )


def _lost(counter: Series, restarts: tuple[float, ...], watts: Watts | None) -> float:
    """Limit of what a counter may have lost when it fell: what was drawn since the line before."""
    lost = 0.0
    for at_s in restarts:
        index = int(np.searchsorted(counter.s, at_s))
        could = _wh(watts.usual if watts else 0.0, at_s - float(counter.s[index - 1]))
        lost += max(could - float(counter.values[index]), 0.0)
    return lost


def _end_steps(counter: Series) -> tuple[float, float]:
    """The last digits of the first and the last value; a bare 0 says nothing of its digits."""
    last = float(counter.steps[-1])
    first = last if counter.values[0] == 0 else float(counter.steps[0])
    return first, last
