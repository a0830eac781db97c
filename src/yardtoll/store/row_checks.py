"""Every row of a yard that is opened: what the program could not have written is found here.

A file from elsewhere, or a damaged one, may hold anything in any column: a name that is nothing, a
rating of 0, a rule nobody knows. The views rely on what the program writes.
"""

import json
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

import sqlalchemy as sa

from yardtoll.store.meaning import what_is_wrong
from yardtoll.store.schema import TABLE_OF, yard
from yardtoll.store.schema import site as site_table

MOST_ROWS = {"station": 5000, "run": 100_000, "yardstick": 1000, "score_point": 1000}
"""More than any bench has; views list them all."""
_NEEDED = (yard, site_table)


def problems(connection: sa.Connection) -> Iterator[tuple[str, object, str]]:
    """(table, id, what is wrong) of each row that the program could not have written.

    ``id`` is None where the table as a whole is wrong.
    """
    for table in dict.fromkeys(TABLE_OF.values()):
        count = 0
        for row in connection.exec_driver_sql(f"SELECT * FROM {table.name}").mappings():  # noqa: S608 - our own names
            count += 1
            wrong = row_problem(table, dict(row))
            if wrong:
                yield table.name, row.get("id"), wrong
        if count > MOST_ROWS.get(table.name, count):
            yield table.name, None, f"{count} rows are more than any bench has"
        if not count and table in _NEEDED:
            yield table.name, None, "it has no row"


_TYPES: tuple[tuple[type, Callable[[Any], bool], str], ...] = (
    (sa.Boolean, lambda value: value in (0, 1), "yes or no"),
    (sa.Integer, lambda value: isinstance(value, int), "a whole number"),
    (
        sa.Float,
        lambda value: isinstance(value, int | float) and math.isfinite(value),
        "a number",
    ),
    (sa.Text, lambda value: isinstance(value, str), "text"),
)


@dataclass(frozen=True)
class _CellCheck:
    """What a column's cells must be.

    Attributes:
        will_do: None for JSON, which is replaced by what it holds.
    """

    name: str
    nullable: bool
    will_do: Callable[[Any], bool] | None
    wanted: str


@cache
def _checks_of(table: sa.Table) -> tuple[_CellCheck, ...]:
    """Once for each table: rows are many."""
    return tuple(_check_of(column) for column in table.columns)


def _check_of(column: "sa.Column[Any]") -> _CellCheck:
    nullable = bool(column.nullable)
    if isinstance(column.type, sa.JSON):
        return _CellCheck(column.name, nullable, None, "JSON")
    for kind, will_do, wanted in _TYPES:
        if isinstance(column.type, kind):
            return _CellCheck(column.name, nullable, will_do, wanted)
    return _CellCheck(column.name, nullable, lambda _: True, "")


def row_problem(table: sa.Table, row: dict[str, Any]) -> str:
    """What is wrong with a row as the file holds it; "" where nothing is."""
    for check in _checks_of(table):
        wrong = _cell_problem(check, row)
        if wrong:
            return f"{check.name} {wrong}"
    try:
        return what_is_wrong(table.name, row)
    except (TypeError, ValueError, KeyError, AttributeError, OverflowError):
        return "its values do not fit together"


def _cell_problem(check: _CellCheck, row: dict[str, Any]) -> str:
    """What is wrong with the type of a cell; JSON is replaced by what it holds."""
    value = row.get(check.name)
    if value is None:
        return "" if check.nullable else "is missing"
    if check.will_do is not None:
        return "" if check.will_do(value) else f"is not {check.wanted}"
    try:
        row[check.name] = json.loads(value)
    except (TypeError, ValueError, RecursionError):
        return "is not JSON"
    return ""
