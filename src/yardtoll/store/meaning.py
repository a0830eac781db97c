"""What a cell of a package may mean beyond its type: known words, times that are, sane figures."""

import math
from collections.abc import Callable
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from yardtoll.core.claims.kinds import CLAIM_KINDS, value_is_wrong
from yardtoll.core.claims.meaning import judged_as_will_do
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.conformance.yardsticks import Basis
from yardtoll.core.discharge.ended_by import EndedBy
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import ClockBasis, Code
from yardtoll.core.methods import METHODS
from yardtoll.store.package.tables import LARGEST, shown
from yardtoll.store.records import ReadingKind, RunState

_MOST_FIELDS = 60
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
    codes = {code.value for code in Code}
    return all(isinstance(n, list) and len(n) == 2 and n[0] in codes for n in value)


def _quantities_will_do(value: Any) -> bool:
    known = {quantity.value for quantity in Quantity}
    return all(isinstance(name, str) and name in known for name in value)


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
    codes = {code.value for code in Code}
    return all(key in codes and isinstance(words, str) for key, words in value.items())


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
    "station": {"rated_wh": _POSITIVE, "rated_w": _POSITIVE},
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
    "score_point": {"sign": _one_of((">=", "<=", "yes"))},
    "run": {"method": _one_of(METHODS), "state": _one_of(RunState), "started_at": _TIME,
            "ended_at": _TIME, "soc_from": _within(0, 100), "soc_to": _within(0, 100),
            "own_draw_w": _NOT_NEGATIVE, "ended_by": _one_of(EndedBy),
            "explained": (_explained_will_do, "an object of explained doubts"),
            "conditions": (_conditions_will_do, "an object of conditions")},
    "reading": {"kind": _one_of(ReadingKind), "time_s": _within(-1e9, 1e9)},
    "mark": {"time_s": _within(-1e9, 1e9)},
    "entry": {"fields": (_fields_will_do, "an object of numbers and words"),
              "position": _within(-1e9, 1e9)},
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
