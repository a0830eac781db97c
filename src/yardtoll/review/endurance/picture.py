"""An outage's answer as it is drawn."""

from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime, timedelta
from itertools import pairwise

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.endurance.outage import changes_of
from yardtoll.report.charts.outage import Lane, OutagePicture, Stretch
from yardtoll.review.endurance.answer import Answer
from yardtoll.review.endurance.tried import Tried
from yardtoll.store.shown_region import clock

_EVEN = 1e-9
_SEEN = 0.02
"""A share of the sun that is spilled is drawn from here on."""


def picture_of(answer: Answer, tried: Tried | None = None) -> OutagePicture:
    """Store, band, the moment it is empty, and a lane for each thing that took or gave.

    Args:
        tried: how it really was; None where it was not tried.
    """
    begins, spread, asked = answer.inputs.begins, answer.spread, answer.asked
    empty_h = answer.result.hours
    highest = max((point.high_wh for point in spread.band), default=asked.store_wh)
    return OutagePicture(
        title=_title(answer),
        hours=asked.hours,
        begin_hour=asked.begins_h,
        course=tuple((point.hour, point.wh) for point in answer.result.course),
        band=tuple((p.hour, p.low_wh, p.high_wh) for p in spread.band),
        lanes=tuple(_lanes(answer)),
        full_wh=max(asked.store_wh, highest),
        empty_h=empty_h,
        empty_low_h=spread.low_h,
        empty_high_h=spread.high_h,
        empty_words=f"empty {clock(begins + timedelta(hours=empty_h))}" if empty_h else "",
        days=tuple(_days(begins, asked.hours)),
        clock_words=tuple(clock(datetime(2026, 1, 1, hour)) for hour in range(24)),
        tried=tried.course if tried is not None else (),
        tried_words=f"as it was in run {tried.number}" if tried is not None else "",
    )


def _title(answer: Answer) -> str:
    lasts = answer.result.hours
    took = "; ".join(f"{name} {wh:.0f} Wh" for name, wh in answer.result.taken_wh.items())
    ends = f"empty after {lasts:.1f} h" if lasts is not None else "never empty"
    return (
        f"The store through an outage of {answer.asked.hours:g} h: {ends}. Overhead "
        f"{answer.result.overhead_wh:.0f} Wh; {took}"
    )


def _days(begins: datetime, hours: float) -> Iterator[tuple[float, str]]:
    yield 0.0, f"{begins:%A}"
    midnight = begins.replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=1)
    while (hour := (midnight - begins) / timedelta(hours=1)) < hours:
        yield hour, f"{midnight:%A}"
        midnight += timedelta(days=1)


def _lanes(answer: Answer) -> Iterator[Lane]:
    """What gives first, then the station itself, then what takes."""
    asked, result = answer.asked, answer.result
    whole = Stretch(from_h=0.0, to_h=asked.hours)
    if asked.sun is not None:
        yield Lane(
            name="Sun", wh=result.sun_wh, energy=EnergyKind.SUN, kind="sun",
            stretches=tuple(_sun(answer)),
        )  # fmt: skip
    for feed in asked.feeds:
        on = [feed.is_on(asked.begins_h + h) for h in _middles(answer)]
        yield Lane(
            name=feed.name, wh=result.fed_wh / len(asked.feeds), energy=EnergyKind.WALL,
            kind="feed", stretches=tuple(_runs(answer, on)),
        )  # fmt: skip
    yield Lane(
        name="Overhead",
        wh=result.overhead_wh,
        energy=EnergyKind.OVERHEAD,
        kind="overhead",
        stretches=tuple(_served([whole], result.off)),
    )
    for load in asked.loads:
        on = [load.is_on(asked.begins_h + h) for h in _middles(answer)]
        yield Lane(
            name=load.name,
            wh=result.taken_wh[load.name],
            energy=EnergyKind.DELIVERED,
            stretches=tuple(_served(_runs(answer, on), result.off, 0.35 + 0.65 * load.duty)),
        )


def _middles(answer: Answer) -> list[float]:
    return [(begin + end) / 2 for begin, end in pairwise(changes_of(answer.asked))]


def _runs(answer: Answer, on: Sequence[bool]) -> Iterator[Stretch]:
    """Steps that are on, those that follow each other as one."""
    begin = end = None
    for (left, right), is_on in zip(pairwise(changes_of(answer.asked)), on, strict=True):
        if is_on and begin is None:
            begin = left
        if is_on:
            end = right
        if not is_on and begin is not None and end is not None:
            yield Stretch(from_h=begin, to_h=end)
            begin = None
    if begin is not None and end is not None:
        yield Stretch(from_h=begin, to_h=end)


def _served(
    parts: Iterable[Stretch], off: Sequence[tuple[float, float]], share: float = 1.0
) -> Iterator[Stretch]:
    """Filled while it is served, an outline where the outlet is off."""
    for part in parts:
        at = part.from_h
        for begin, end in off:
            left, right = max(begin, part.from_h), min(end, part.to_h)
            if right - left <= _EVEN:
                continue
            if left - at > _EVEN:
                yield Stretch(from_h=at, to_h=left, share=share)
            yield Stretch(from_h=left, to_h=right, share=share, is_off=True)
            at = right
        if part.to_h - at > _EVEN:
            yield Stretch(from_h=at, to_h=part.to_h, share=share)


def _sun(answer: Answer) -> Iterator[Stretch]:
    """How much comes in, as a height of each step; an outline where the cap, or a full store,
    keeps the rest out.
    """
    sun = answer.asked.sun
    if sun is None:
        return
    steps = list(pairwise(changes_of(answer.asked)))
    given = [sun.efficiency * sun.given((left + right) / 2) for left, right in steps]
    most = max(given, default=0.0)
    course = {point.hour: point.wh for point in answer.result.course}
    full_wh = answer.asked.store_wh * (1 - _EVEN)
    for (left, right), at in zip(steps, given, strict=True):
        if at <= 0.01 * most:
            continue
        taken = sun.at((left + right) / 2)
        if course[left] >= full_wh and course[right] >= full_wh:
            # Full: only what the loads use finds room.
            taken = min(taken, answer.asked.drain_w((left + right) / 2))
        if taken < at * (1 - _SEEN):
            yield Stretch(from_h=left, to_h=right, share=at / most, is_off=True)
        yield Stretch(from_h=left, to_h=right, share=taken / most)
