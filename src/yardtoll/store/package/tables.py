"""The yard's tables as fields of a data package, and cells as text and back."""

import json
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa

from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.uncertainty.accuracy import COMMON_SHARE
from yardtoll.store import schema
from yardtoll.store.errors import PackageError
from yardtoll.store.records import SENSOR_SHARE

TABLES: tuple[sa.Table, ...] = (
    schema.yard,
    schema.site,
    schema.station,
    schema.claim,
    schema.receiving,
    schema.observation,
    schema.review,
    schema.photo,
    schema.meter,
    schema.load,
    schema.circuit,
    schema.cord,
    schema.solar_array,
    schema.yardstick,
    schema.score_point,
    schema.run,
    schema.mark,
    schema.reading,
    schema.entry,
    schema.recording,
    schema.price,
    schema.size_class,
    schema.score_template,
    schema.appliance,
    schema.outage,
)
"""Every table but the samples and the pictures' bytes; what others refer to comes first."""
RUNNABLE = ("=", "+", "-", "@", "\t", "\r", "'")
"""A text that begins like this could run in a spreadsheet; it is written behind an apostrophe."""
ADDED_LATER: dict[str, dict[str, Any]] = {
    "yard": {"repeatability": REPEATABILITY, "uid": ""},
    "site": {
        "time_zone": "",
        "sensor_share": SENSOR_SHARE,
        "obstacle_from_deg": 0.0,
        "obstacle_to_deg": 0.0,
        "obstacle_height_deg": 0.0,
    },
    "solar_array": {
        "beta_voc": -0.0029,
        "gamma": -0.0037,
        "tilt_deg": 30.0,
        "azimuth_deg": 180.0,
        "wiring_loss": 0.02,
        "on_ground": False,
    },
    "station": {"base_id": None, "packs_wh": [], "units": 1, "tags": []},
    "claim": {"wording": "", "judged_as": ""},
    "meter": {"common_share": COMMON_SHARE, "phase_deg": 0.0},
    "run": {"ended_by": "", "explained": {}},
    "mark": {"ends_run": False, "within_s": None, "starts_run": False, "seen": True},
    "reading": {"subject": "", "step": None, "within_s": None},
}
"""Columns that packages of earlier versions lack, with what they mean by that."""
_OBJECTS = ("conditions", "explained", "fields")
_LARGEST_INTEGER = 2**62
LARGEST = 1e12
"""No figure of a bench is larger; sums and squares of such a one would run over."""


@dataclass(frozen=True)
class Field:
    """One column: its name, its type in a table schema, and whether it must have a value."""

    name: str
    kind: str
    required: bool

    def descriptor(self) -> dict[str, Any]:
        """As in datapackage.json."""
        made: dict[str, Any] = {"name": self.name, "type": self.kind}
        # An empty cell of a text is the empty text, not a missing one.
        if self.required and self.kind != "string":
            made["constraints"] = {"required": True}
        return made


def fields_of(table: sa.Table) -> list[Field]:
    """A table's columns in order."""
    return [Field(c.name, _kind(c), not c.nullable) for c in table.columns]


def _kind(column: "sa.Column[Any]") -> str:
    if isinstance(column.type, sa.Boolean):
        return "boolean"
    if isinstance(column.type, sa.Integer):
        return "integer"
    if isinstance(column.type, sa.Float):
        return "number"
    if isinstance(column.type, sa.JSON):
        return "object" if column.name in _OBJECTS else "array"
    return "string"


def shown(text: object) -> str:
    """The beginning of a cell's text, on one line: for messages."""
    return " ".join(str(text).split())[:60]


def to_cell(value: Any, field: Field) -> str:
    """A value as text; floats to the last bit, texts so that none can run."""
    if value is None:
        return ""
    if field.kind == "boolean":
        return "true" if value else "false"
    if field.kind in ("object", "array"):
        return json.dumps(value, ensure_ascii=False, sort_keys=True)
    if field.kind == "string":
        return f"'{value}" if value.startswith(RUNNABLE) else str(value)
    return repr(value)


def from_cell(cell: str, field: Field) -> Any:
    """A cell's value.

    Raises:
        PackageError: it is not of the field's type; the message is a clause for after the place.
    """
    if cell == "":
        if field.kind == "string" and field.required:
            return ""
        if field.required:
            raise PackageError(f"{field.name} is empty")
        return None
    try:
        return _READERS[field.kind](cell)
    except (ValueError, RecursionError):
        kinds = {
            "integer": "whole number",
            "number": "number of a bench",
            "object": "JSON object",
            "array": "JSON list",
        }
        word = kinds.get(field.kind, field.kind)
        raise PackageError(f'{field.name} "{shown(cell)}" is not a {word}') from None


def _boolean(cell: str) -> bool:
    if cell.lower() not in ("true", "false", "1", "0"):
        raise ValueError
    return cell.lower() in ("true", "1")


def _integer(cell: str) -> int:
    value = int(cell)
    if abs(value) > _LARGEST_INTEGER:
        raise ValueError
    return value


def _number(cell: str) -> float:
    value = float(cell)
    if not abs(value) <= LARGEST:
        raise ValueError
    return value


def _json(kind: type) -> Any:
    def read(cell: str) -> Any:
        value = json.loads(cell)
        if not isinstance(value, kind):
            raise ValueError  # noqa: TRY004 - the caller treats both as nothing
        return value

    return read


_READERS: dict[str, Any] = {
    "boolean": _boolean,
    "integer": _integer,
    "number": _number,
    "object": _json(dict),
    "array": _json(list),
    "string": lambda cell: cell[1:] if cell.startswith("'") else cell,
}
