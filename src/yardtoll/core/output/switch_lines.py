"""Switch-overs from wall to battery and back: several tries, by scope, video or what stayed on.

Three kinds of evidence that are never mixed: a scope times a gap, frames of a video bound it, and
a device that stayed on or flickered tells what that device did and no milliseconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

if TYPE_CHECKING:
    from yardtoll.core.waveform.transfer import TransferResult


class By(StrEnum):
    """What a gap was told by."""

    SCOPE = "scope"
    FRAMES = "frames"
    STAYED_ON = "stayed_on"

    @property
    def words(self) -> str:
        """As shown."""
        return {"scope": "scope", "frames": "video", "stayed_on": "what stayed on"}[self.value]


class Way(StrEnum):
    """Which way the switch went."""

    TO_BATTERY = "to_battery"
    TO_WALL = "to_wall"

    @property
    def words(self) -> str:
        """As shown."""
        return {"to_battery": "wall pulled", "to_wall": "wall back"}[self.value]


class Stayed(StrEnum):
    """What a device did."""

    ON = "on"
    FLICKERED = "flickered"
    OFF = "off"

    @property
    def words(self) -> str:
        """As shown."""
        return {"on": "stayed on", "flickered": "flickered", "off": "went off"}[self.value]


FIELDS = (
    EntryField(
        key="way", title="Switch", choices=tuple((w.value, w.words) for w in Way),
        needed=True, default=Way.TO_BATTERY.value,
    ),
    EntryField(key="load_w", title="Load", unit="W", needed=True, default=0.0),
    EntryField(
        key="by", title="Told by", choices=tuple((b.value, b.words) for b in By), needed=True,
        default=By.SCOPE.value, told=True,
    ),
    EntryField(
        key="gap_ms", title="Gap on the scope", unit="ms", decimals=1, high=60_000, told=True,
        only_with=("by", By.SCOPE.value),
    ),
    EntryField(
        key="within_ms", title="Read to ±", unit="ms", decimals=1, high=1000, in_list=False,
        told=True, only_with=("by", By.SCOPE.value),
    ),
    EntryField(
        key="frames_dark", title="Frames dark", unit="", high=100_000, told=True,
        only_with=("by", By.FRAMES.value),
    ),
    EntryField(
        key="fps", title="Frames a second", unit="", high=10_000, default=240.0, in_list=False,
        told=True, only_with=("by", By.FRAMES.value),
    ),
    EntryField(
        key="device", title="Device", hint="desktop computer, lamp", told=True,
        only_with=("by", By.STAYED_ON.value),
    ),
    EntryField(
        key="stayed", title="What it did", choices=tuple((s.value, s.words) for s in Stayed),
        told=True, only_with=("by", By.STAYED_ON.value),
    ),
)  # fmt: skip
USUAL_READING_MS = 1.0
"""± of a gap read off a screen, where nothing better is said (common practice, no source)."""


@dataclass(frozen=True, kw_only=True)
class Switch:
    """One try.

    Attributes:
        low_ms, high_ms: the gap is between them; None for what only stayed on or not.
        lowest_ratio, phase_jump_deg: of a capture.
        came_back: whether the volts came back within the capture.
    """

    way: Way
    by: By
    load_w: float
    low_ms: float | None
    high_ms: float | None
    gap_ms: float | None
    inside_itic: bool | None
    lowest_ratio: float | None = None
    phase_jump_deg: float | None = None
    device: str = ""
    stayed: Stayed | None = None
    came_back: bool = True
    capture: TransferResult | None = None


@dataclass(frozen=True, kw_only=True)
class Switches:
    """Every try.

    Attributes:
        worst: the longest gap timed by a scope, else bounded by frames; None without either.
        spread_ms: from the shortest to the longest gap of the worst one's evidence and way; None
            for one try.
        stayed_on: tries of devices alone.
    """

    tries: tuple[Switch, ...]
    worst: Switch | None
    spread_ms: float | None
    both_ways: bool
    under_load: bool
    stayed_on: tuple[Switch, ...]


def switch_of(line: Fields, capture: TransferResult | None = None) -> Switch | None:
    """A line with what its capture shows; None where it says nothing."""
    way, by = word_in(line, "way"), word_in(line, "by")
    if by not in list(By):
        return None
    known = {
        "way": Way(way) if way in list(Way) else Way.TO_BATTERY,
        "by": By(by),
        "load_w": number_in(line, "load_w") or 0.0,
        "device": word_in(line, "device").strip(),
        "stayed": Stayed(s) if (s := word_in(line, "stayed")) in list(Stayed) else None,
    }
    if By(by) is By.STAYED_ON:
        if known["stayed"] is None:
            return None
        return Switch(low_ms=None, high_ms=None, gap_ms=None, inside_itic=None, **known)  # type: ignore[arg-type]
    if By(by) is By.FRAMES:
        return _by_frames(line, known)
    return _by_scope(line, capture, known)


def _by_frames(line: Fields, known: dict[str, object]) -> Switch | None:
    from yardtoll.core.waveform.transfer import gap_of_frames

    dark, fps = number_in(line, "frames_dark"), number_in(line, "fps")
    if dark is None or not fps:
        return None
    try:
        frames = gap_of_frames(int(dark), fps)
    except ValueOutOfRangeError:
        return None
    return Switch(
        low_ms=frames.gap_ms_low, high_ms=frames.gap_ms_high, gap_ms=frames.gap_ms,
        inside_itic=_itic(frames.gap_ms_low, frames.gap_ms_high), **known,  # type: ignore[arg-type]
    )  # fmt: skip


def _by_scope(
    line: Fields, capture: TransferResult | None, known: dict[str, object]
) -> Switch | None:
    if capture is None:
        gap_ms = number_in(line, "gap_ms")
        if gap_ms is None:
            return None
        within = number_in(line, "within_ms") or USUAL_READING_MS
        low, high = max(gap_ms - within, 0.0), gap_ms + within
        return Switch(
            low_ms=low, high_ms=high, gap_ms=gap_ms, inside_itic=_itic(low, high), **known,  # type: ignore[arg-type]
        )  # fmt: skip
    if not capture.events or capture.worst_gap_ms is None:
        return Switch(
            low_ms=0.0, high_ms=0.0, gap_ms=0.0, inside_itic=True, capture=capture, **known,  # type: ignore[arg-type]
        )  # fmt: skip
    worst = max(capture.events, key=lambda event: event.gap_ms)
    within = capture.worst_gap_expanded_ms or 0.0
    return Switch(
        low_ms=max(worst.gap_ms - within, 0.0),
        high_ms=worst.gap_ms + within if worst.ended else float("inf"),
        gap_ms=worst.gap_ms,
        inside_itic=worst.curve.value == "inside",
        lowest_ratio=worst.lowest_ratio,
        phase_jump_deg=worst.phase_jump_deg,
        came_back=worst.ended,
        capture=capture,
        **known,  # type: ignore[arg-type]
    )


def _itic(low_ms: float, high_ms: float) -> bool | None:
    """Whether a whole gap is within 20 ms of the ITIC curve; None where it may or may not be."""
    if high_ms <= _ITIC_MS:
        return True
    return False if low_ms > _ITIC_MS else None


_ITIC_MS = 20.0


def all_switches(tries: Sequence[Switch]) -> Switches:
    """What the tries say together."""
    timed = [t for t in tries if t.by is By.SCOPE]
    bounded = [t for t in tries if t.by is By.FRAMES]
    best = timed or bounded
    worst = max(best, key=lambda t: t.high_ms or 0.0, default=None)
    same_way = [t for t in best if worst is not None and t.way is worst.way]
    gaps = [t.gap_ms for t in same_way if t.gap_ms is not None]
    return Switches(
        tries=tuple(tries),
        worst=worst,
        spread_ms=max(gaps) - min(gaps) if len(gaps) > 1 else None,
        both_ways=len({t.way for t in tries}) > 1,
        under_load=any(t.load_w > 0 for t in tries),
        stayed_on=tuple(t for t in tries if t.by is By.STAYED_ON),
    )
