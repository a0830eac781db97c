"""What the Run view shows beside the figures: marks by key, paces, steps, spans of the clock."""

from datetime import datetime

import numpy as np

from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import format_clock
from yardtoll.core.live.hold_watch import HoldNow
from yardtoll.store.shown_region import clock

# One bare key a mark.
MARK_KEYS: tuple[tuple[str, str], ...] = (
    ("F", "Fan on"),
    ("G", "Fan off"),
    ("W", "Warning"),
    ("H", "Hot, smell"),
    ("E", "Error code"),
    ("X", "Odd"),
)
ENDING_KEYS: tuple[tuple[str, EndedBy], ...] = (
    ("1", EndedBy.TRIP),
    ("2", EndedBy.HAND),
    ("3", EndedBy.BATTERY),
)
"""One key for each ending of a test of power."""
END_KEY = "C"
"""Marks the moment a station shut off, or was full; there while the meter is read by eye."""
NOTE_KEY = "N"
SPEEDS = (1, 10, 60, 600, 3600)


def in_steps(time_s: FloatArray, power_w: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means between readings as steps: each stretch flat at its mean, nothing made up inside."""
    if time_s.size < 2:
        return time_s, power_w
    edges = np.repeat(time_s, 2)[1:-1]
    # Times must rise; a millisecond is not seen.
    edges[2::2] += 1e-3
    return edges, np.repeat(power_w[1:], 2)


def clock_range(soon: datetime, late: datetime) -> str:
    """Like "16:31–16:46", or one time when both fall into one minute."""
    first, last = clock(soon), clock(late)
    return first if first == last else f"{first}–{last}"


def step_text(seconds: float) -> str:
    """Seconds to be read from afar: "42 s", "12:05", "1:02:05"."""
    whole = int(seconds)
    if whole < 100:
        return f"{whole} s"
    clock_text = format_clock(whole)
    return clock_text.removeprefix("0:") if whole < 3600 else clock_text


def step_note(now: HoldNow) -> str:
    """What is over the rating, and the step to come."""
    over = f"{step_text(now.over_s)} above the rating" if now.over_s else "at this load"
    if now.next_share is None or now.next_w is None:
        return f"{over} · the last step"
    return f"{over} · next {100 * now.next_share:.0f} %: {now.next_w:.0f} W"


def ending_words(ended_by: EndedBy) -> str:
    """On a narrow button."""
    short = {EndedBy.TRIP: "Tripped", EndedBy.HAND: "Stopped", EndedBy.BATTERY: "Empty"}
    return short[ended_by]
