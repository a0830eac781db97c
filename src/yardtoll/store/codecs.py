"""Records as rows and back: where a field is JSON in the file, it becomes its own type here."""

import dataclasses
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from yardtoll.core.conformance.scorecard import ScorePoint
from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import (
    Accessory,
    Conditions,
    Entry,
    Load,
    OutageFeed,
    OutageUse,
    Receiving,
    Record,
    Recording,
    Run,
    ScoreTemplate,
    Station,
    StoredOutage,
)

R = TypeVar("R", bound=Record)
Codec = tuple[Callable[[Any], Any], Callable[[Any], Any]]
"""To JSON, and from it."""


def to_row(record: Record) -> dict[str, Any]:
    """Field by field; dataclasses.asdict would copy every part deeply for nothing."""
    row = {f.name: getattr(record, f.name) for f in dataclasses.fields(record)}
    for name, (to_json, _) in _CODECS.get(type(record), {}).items():
        row[name] = to_json(row[name])
    return row


def from_row(kind: type[R], row: Mapping[Any, Any]) -> R:
    """The record that a row of its table holds."""
    values: dict[str, Any] = dict(row)
    for name, (_, from_json) in _CODECS.get(kind, {}).items():
        values[name] = from_json(values[name])
    return kind(**values)


def settings_to_json(settings: tuple[LoadSetting, ...]) -> list[dict[str, Any]]:
    """A load's settings as the file holds them."""
    return [dataclasses.asdict(setting) for setting in settings]


def settings_from_json(stored: list[dict[str, Any]]) -> tuple[LoadSetting, ...]:
    """A load's settings again."""
    return tuple(
        LoadSetting(
            name=str(s["name"]), watts=float(s["watts"]), measured=bool(s.get("measured", False))
        )
        for s in stored
    )


def accessories_from_json(stored: list[dict[str, Any]]) -> tuple[Accessory, ...]:
    """A station's accessories again."""
    return tuple(
        Accessory(name=str(a["name"]), present=bool(a.get("present", False))) for a in stored
    )


def score_points_from_json(stored: list[dict[str, Any]]) -> tuple[ScorePoint, ...]:
    """Points of a scorecard again."""
    return tuple(ScorePoint(**point) for point in stored)


def _uses(stored: list[dict[str, Any]]) -> tuple[OutageUse, ...]:
    return tuple(OutageUse(**use) for use in stored)


def _feeds(stored: list[dict[str, Any]]) -> tuple[OutageFeed, ...]:
    return tuple(OutageFeed(**feed) for feed in stored)


def _as_dicts(found: tuple[Any, ...]) -> list[dict[str, Any]]:
    return [dataclasses.asdict(part) for part in found]


def _pairs(stored: list[list[str]]) -> tuple[tuple[str, str], ...]:
    return tuple((str(code), str(message)) for code, message in stored)


_CODECS: dict[type, dict[str, Codec]] = {
    Run: {"conditions": (Conditions.as_json, Conditions.from_json), "explained": (dict, dict)},
    Entry: {"fields": (dict, dict)},
    Load: {"settings": (settings_to_json, settings_from_json)},
    Receiving: {"accessories": (_as_dicts, accessories_from_json)},
    Station: {"packs_wh": (list, tuple), "tags": (list, tuple)},
    ScoreTemplate: {"points": (_as_dicts, score_points_from_json)},
    StoredOutage: {
        "uses": (_as_dicts, _uses),
        "feeds": (_as_dicts, _feeds),
        "array_ids": (list, tuple),
        "packs_wh": (list, tuple),
    },
    Recording: {"quantities": (list, tuple), "notices": (lambda n: [list(p) for p in n], _pairs)},
}
