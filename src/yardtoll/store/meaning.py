"""What a cell of a package may mean beyond its type: known words, times that are, sane figures."""

import math
from collections.abc import Callable
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from yardtoll.core.claims.kinds import CLAIM_KINDS, value_is_wrong
from yardtoll.core.claims.meaning import judged_as_will_do
from yardtoll.core.conformance.scorecard import SIGNS, ScorePoint
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Basis
from yardtoll.core.cost.prices import PRICE_KINDS
from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import ClockBasis, Code
from yardtoll.core.endurance.outage import LONGEST_H, Feed, OutageLoad
from yardtoll.core.endurance.weather import WEATHER
from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.methods import METHODS
from yardtoll.store.package.tables import LARGEST, shown
from yardtoll.store.records import OutageFeed, OutageUse, ReadingKind, RunState, SunFrom

_CODES = frozenset(code.value for code in Code)
_QUANTITIES = frozenset(quantity.value for quantity in Quantity)
_MOST_FIELDS = 60
_MOST_USES = 200
_MOST_SHARE = 1000.0
Check = tuple[Callable[[Any], bool], str]
"""Whether a value will do, and what it should be."""


def _is_time(text: str) -> bool:
    try:
        return datetime.fromisoformat(text).tzinfo is not None
    except ValueError:
        return False


def _one_of(words: Any) -> Check:
    known = [str(word) for word in words]
    return known.__contains__, f"one of {', '.join(known)}"


def _within(low: float, high: float) -> Check:
    return lambda value: low <= value <= high, f"from {low:g} to {high:g}"


_POSITIVE: Check = (lambda value: value > 0, "above 0")
_NOT_NEGATIVE: Check = (lambda value: value >= 0, "0 or more")
_TIME: Check = (_is_time, "a time in ISO 8601 with its zone")


def _notices_will_do(value: Any) -> bool:
    return all(isinstance(n, list) and len(n) == 2 and n[0] in _CODES for n in value)


def _quantities_will_do(value: Any) -> bool:
    return all(isinstance(name, str) and name in _QUANTITIES for name in value)


def _settings_will_do(value: Any) -> bool:
    return all(
        isinstance(s, dict)
        and isinstance(s.get("name"), str)
        and isinstance(s.get("watts"), int | float)
        and math.isfinite(s["watts"])
        for s in value
    )


def _accessories_will_do(value: Any) -> bool:
    return all(isinstance(a, dict) and isinstance(a.get("name"), str) for a in value)


def _conditions_will_do(value: Any) -> bool:
    """Those that the program reads have the shape it wrote them in."""
    shapes = {"settings": dict, "loads": list, "load": str, "file": str, "overridden": dict}
    return all(isinstance(value[key], kind) for key, kind in shapes.items() if value.get(key))


def _fields_will_do(value: Any) -> bool:
    """Numbers and words by name: what a line of a run's table holds."""
    return (
        isinstance(value, dict)
        and len(value) <= _MOST_FIELDS
        and all(
            isinstance(cell, str)
            or (
                isinstance(cell, int | float)
                and not isinstance(cell, bool)
                and math.isfinite(cell)
                and abs(cell) <= LARGEST
            )
            for cell in value.values()
        )
    )


def _explained_will_do(value: Any) -> bool:
    return all(key in _CODES and isinstance(words, str) for key, words in value.items())


def _words_will_do(value: Any) -> bool:
    return len(value) <= _MOST_USES and all(isinstance(word, str) and word for word in value)


def _points_will_do(value: Any) -> bool:
    """Points of a scorecard, as the core scores by them."""
    for stored in value:
        point = ScorePoint(**stored)
        figures = (point.limit, point.points, point.half_limit or 0.0)
        if not all(isinstance(n, int | float) and math.isfinite(n) for n in figures):
            return False
        if point.sign not in SIGNS or not (point.title and point.quantity):
            return False
    return len(value) <= _MOST_USES


def _uses_will_do(value: Any) -> bool:
    """Appliances of an outage, as the core takes them."""
    for stored in value:
        use = OutageUse(**stored)
        if not (use.name and 0 <= use.low_share <= use.high_share <= _MOST_SHARE):
            return False
        if use.inrush_w is not None and not 0 <= use.inrush_w <= LARGEST:
            return False
        try:
            OutageLoad(
                name=use.name, watts=use.watts, duty=use.duty, from_h=use.from_h, to_h=use.to_h
            )
        except ValueOutOfRangeError:
            return False
    return len(value) <= _MOST_USES


def _feeds_will_do(value: Any) -> bool:
    for stored in value:
        feed = OutageFeed(**stored)
        try:
            Feed(name=feed.name, watts=feed.watts, from_h=feed.from_h, to_h=feed.to_h)
        except ValueOutOfRangeError:
            return False
    return len(value) <= _MOST_USES


def _positive_numbers(value: Any) -> bool:
    return len(value) <= _MOST_USES and all(
        isinstance(n, int | float) and not isinstance(n, bool) and 0 < n <= LARGEST for n in value
    )


def _is_zone(text: str) -> bool:
    if not text:
        return True
    try:
        ZoneInfo(text)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return False
    return True


CHECKS: dict[str, dict[str, Check]] = {
    "yard": {"rule": _one_of((*Rule, "shared")), "id": (lambda v: v == 1, "1"),
             "repeatability": _within(0, 0.5)},
    "site": {"id": (lambda v: v == 1, "1"), "sensor_share": _within(0, 1),
             "time_zone": (_is_zone, "the name of a time zone")},
    "station": {"rated_wh": _POSITIVE, "rated_w": _POSITIVE, "units": _within(1, 100),
                "packs_wh": (_positive_numbers, "a list of packs"),
                "tags": (_words_will_do, "a list of words")},
    "claim": {"kind": _one_of(CLAIM_KINDS),
              "judged_as": (judged_as_will_do, "a way to judge a claim")},
    "receiving": {"accessories": (_accessories_will_do, "a list of named accessories")},
    "meter": {"reading_share": _within(0, 0.999999), "floor_w": _NOT_NEGATIVE,
              "own_draw_w": _NOT_NEGATIVE, "common_share": _within(0, 1),
              "phase_deg": _within(0, 44.9), "step_wh": _POSITIVE, "volts_share": _within(0, 1),
              "volts_floor_v": _NOT_NEGATIVE, "hertz_floor_hz": _NOT_NEGATIVE},
    "load": {"settings": (_settings_will_do, "a list of settings with name and watts"),
             "count": _POSITIVE},
    "yardstick": {"basis": _one_of(Basis), "limit_ratio": _POSITIVE},
    "score_point": {"sign": _one_of(SIGNS)},
    "run": {"method": _one_of(METHODS), "state": _one_of(RunState), "started_at": _TIME,
            "ended_at": _TIME, "soc_from": _within(0, 100), "soc_to": _within(0, 100),
            "own_draw_w": _NOT_NEGATIVE, "ended_by": _one_of(EndedBy),
            "explained": (_explained_will_do, "an object of explained doubts"),
            "conditions": (_conditions_will_do, "an object of conditions")},
    "reading": {"kind": _one_of(ReadingKind), "time_s": _within(-1e9, 1e9)},
    "mark": {"time_s": _within(-1e9, 1e9)},
    "entry": {"fields": (_fields_will_do, "an object of numbers and words"),
              "position": _within(-1e9, 1e9)},
    "price": {"kind": _one_of(PRICE_KINDS), "amount": _within(0, LARGEST),
              "units": _within(1, 1000)},
    "score_template": {"version": _within(1, 1e6),
                       "points": (_points_will_do, "a list of points")},
    "size_class": {"low_wh": _NOT_NEGATIVE, "high_wh": _POSITIVE},
    "appliance": {"watts": _within(0, LARGEST), "duty": _within(0, 1), "inrush_w": _NOT_NEGATIVE,
                  "low_share": _within(0, 1), "high_share": _within(1, _MOST_SHARE)},
    "outage": {"begins_at": _TIME, "hours": _within(0.25, LONGEST_H), "sun": _one_of(SunFrom),
               "weather": _one_of(WEATHER), "units": _within(1, 100),
               "more_panels": _within(0, 1000), "cap_w": _POSITIVE, "store_wh": _POSITIVE,
               "overhead_w": _NOT_NEGATIVE, "conversion": _within(0, 10),
               "uses": (_uses_will_do, "a list of appliances"),
               "feeds": (_feeds_will_do, "a list of feeds"),
               "array_ids": (_positive_numbers, "a list of arrays"),
               "packs_wh": (_positive_numbers, "a list of packs")},
    "recording": {"role": _one_of(Role), "clock_basis": _one_of(ClockBasis),
                  "offset_s": _within(-1e9, 1e9),
                  "quantities": (_quantities_will_do, "a list of known quantities"),
                  "notices": (_notices_will_do, "a list of known notices")},
}  # fmt: skip


def what_is_wrong(table: str, row: dict[str, Any]) -> str:
    """Why a row is not plausible, in a clause; "" when it is."""
    for column, (will_do, wanted) in CHECKS.get(table, {}).items():
        value = row.get(column)
        if value is not None and not will_do(value):
            return f'{column} "{shown(value)}" must be {wanted}'
    if table == "claim":
        return value_is_wrong(row["kind"], row["value"], row["words"])
    falls = table != "run" or row["soc_from"] > row["soc_to"]
    if not falls and METHODS[row["method"]].delivers:
        return f"a discharge runs downwards, not {row['soc_from']:g} to {row['soc_to']:g} %"
    return ""
