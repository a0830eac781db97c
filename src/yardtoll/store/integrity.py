"""Whether a yard file is sound, and a sound copy of what is left of one that is not."""

import contextlib
import json
import sqlite3
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from yardtoll.store import blocks
from yardtoll.store.database import Database
from yardtoll.store.errors import DamagedYardError, YardError
from yardtoll.store.opening import migrate, refuse_foreign
from yardtoll.store.pictures import is_picture
from yardtoll.store.records import Site, YardInfo
from yardtoll.store.row_checks import problems, row_problem
from yardtoll.store.schema import SCHEMA_VERSION, TABLE_OF, metadata
from yardtoll.store.yard_file import YardFile, utc_now

MOST_SAID = 50
"""Findings beyond this many are counted."""


@dataclass
class Report:
    """What was found in a file.

    Attributes:
        findings: a sentence each; empty of a sound file.
        blocks: how many blocks of samples were read.
        version: of the file.
    """

    findings: list[str] = field(default_factory=list)
    blocks: int = 0
    version: int = 0

    @property
    def is_sound(self) -> bool:
        """Whether nothing is wrong."""
        return not self.findings


def examine(path: Path) -> Report:
    """Check a yard's pages, links, rows and blocks; nothing is changed.

    Raises:
        YardError: it is no yard, or cannot be read.
    """
    with contextlib.suppress(DamagedYardError):
        refuse_foreign(path)
    report = Report()
    with _looking_at(path) as connection:
        try:
            report.version = int(connection.execute("PRAGMA user_version").fetchone()[0])
            report.findings += _of_pages(connection)
            report.findings += _of_links(connection)
        except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
            report.findings.append(f"the database is damaged: {_one_line(error)}")
            return report
    if report.version == SCHEMA_VERSION:
        _examine_content(path, report)
    return report


def repair(path: Path, target: Path) -> Report:
    """Make a new yard of everything in a damaged one that can be read and fits together.

    The file itself is not changed. What had to be left out is in the report.

    Raises:
        YardError: nothing can be read, or the new yard cannot be made.
    """
    report = Report()
    building = target.with_name(f".{target.name}.building")
    if target.exists():
        raise YardError(f"{target.name} is already there; choose another name")
    building.unlink(missing_ok=True)
    try:
        with tempfile.TemporaryDirectory(prefix="yardtoll-") as folder:
            source = _current(path, Path(folder))
            with _looking_at(source) as connection, YardFile.create_empty(building) as made:
                connection.row_factory = sqlite3.Row
                for table in metadata.sorted_tables:
                    _copy_table(connection, made, table, report)
                _complete(made, path.stem)
        building.replace(target)
    finally:
        building.unlink(missing_ok=True)
    return report


@contextlib.contextmanager
def _looking_at(path: Path) -> Iterator[sqlite3.Connection]:
    log = path.with_name(f"{path.name}-wal")
    alone = "" if log.exists() and log.stat().st_size else "&immutable=1"
    uri = f"{path.resolve().as_uri()}?mode=ro{alone}"
    try:
        with contextlib.closing(sqlite3.connect(uri, uri=True)) as connection:
            connection.text_factory = lambda stored: stored.decode("utf-8", "replace")
            connection.execute("PRAGMA trusted_schema = OFF")
            yield connection
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        raise DamagedYardError(f"{path.name} cannot be read: {_one_line(error)}") from None


def _of_pages(connection: sqlite3.Connection) -> list[str]:
    found = [row[0] for row in connection.execute(f"PRAGMA integrity_check({MOST_SAID})")]
    kinds = connection.execute("SELECT type, name FROM sqlite_master")
    odd = [f"it holds a {kind}, {name}" for kind, name in kinds if kind in ("trigger", "view")]
    return [_one_line(text) for text in found if text != "ok"] + odd


def _one_line(said: object) -> str:
    return " ".join(str(said).split())[:200]


def _of_links(connection: sqlite3.Connection) -> list[str]:
    rows = connection.execute("PRAGMA foreign_key_check").fetchall()
    return [
        f"{table} {row} belongs to a {parent} that is not there" for table, row, parent, _ in rows
    ][:MOST_SAID]


def _examine_content(path: Path, report: Report) -> None:
    database = Database(path, read_only=True, immutable=not _has_log(path))
    try:
        with database.reading() as connection:
            for table, row_id, wrong in problems(connection):
                report.findings.append(f"{table} {row_id}: {wrong}")
            for place, sound in _blocks(connection):
                report.blocks += 1
                if not sound:
                    report.findings.append(f"{place}: its samples are damaged")
    except YardError as error:
        report.findings.append(str(error))
    finally:
        database.close()
    further = len(report.findings) - MOST_SAID
    if further > 0:
        report.findings[MOST_SAID:] = [f"and {further} more"]


def _blocks(connection: sa.Connection) -> Iterator[tuple[str, bool]]:
    widths = {
        row.id: 1 + len(row.quantities or ())
        for row in connection.execute(sa.select(metadata.tables["recording"]))
    }
    table = metadata.tables["recording_block"]
    for row in connection.execution_options(yield_per=20).execute(sa.select(table)):
        width = widths.get(row.recording_id, 0)
        sound = blocks.is_sound(row.row_count, width, row.data, row.checksum)
        yield f"block {row.seq} of recording {row.recording_id}", sound or not row.row_count


def _has_log(path: Path) -> bool:
    log = path.with_name(f"{path.name}-wal")
    return log.exists() and log.stat().st_size > 0


def _current(path: Path, folder: Path) -> Path:
    """The file itself, or a copy of an older one brought up to date."""
    with _looking_at(path) as connection:
        try:
            version = int(connection.execute("PRAGMA user_version").fetchone()[0])
            if version == SCHEMA_VERSION:
                return path
            copy = folder / "older.yard"
            with contextlib.closing(sqlite3.connect(copy)) as target:
                connection.backup(target)
        except sqlite3.DatabaseError as error:
            raise DamagedYardError(f"{path.name} is too damaged to be read: {error}") from None
    database = Database(copy, read_only=False)
    try:
        migrate(database.engine, copy)
    finally:
        database.close()
    return copy


def _copy_table(
    connection: sqlite3.Connection, made: YardFile, table: sa.Table, report: Report
) -> None:
    left_out = 0
    with made.changing() as target:
        for row in _rows(connection, table.name):
            try:
                values = _fitting(table, row)
                if values is None or not _is_sound(target, table, values):
                    left_out += 1
                    continue
                # A row that belongs to none is refused by the file's own rules, and it alone.
                target.execute(sa.insert(table).values(values))
            except (sa.exc.SQLAlchemyError, ValueError, TypeError, OverflowError):
                left_out += 1
    if left_out:
        report.findings.append(f"{table.name}: {left_out} left out")


def _rows(connection: sqlite3.Connection, name: str) -> Iterator[sqlite3.Row]:
    """All rows that can be read: from the front up to damage, then from the back down to it."""
    seen: set[int] = set()
    for order in ("ASC", "DESC"):
        try:
            for row in connection.execute(
                f"SELECT rowid AS _place, * FROM {name} ORDER BY rowid {order}"  # noqa: S608 - our own names
            ):
                if row["_place"] in seen:
                    break
                seen.add(row["_place"])
                yield row
        except (sqlite3.DatabaseError, UnicodeDecodeError):
            continue
        else:
            return


def _fitting(table: sa.Table, row: sqlite3.Row) -> dict[str, Any] | None:
    """A row's values as the table's types have them; None where they cannot be."""
    stored = {name: row[name] for name in row.keys() if name in table.columns}  # noqa: SIM118 - a row's keys are a method
    if table in TABLE_OF.values() and row_problem(table, dict(stored)):
        return None
    values: dict[str, Any] = {}
    for column in table.columns:
        value = stored.get(column.name)
        if value is not None and isinstance(column.type, sa.JSON):
            value = json.loads(value)
        elif value is not None and isinstance(column.type, sa.Boolean):
            value = bool(value)
        values[column.name] = value
    return values


def _is_sound(target: sa.Connection, table: sa.Table, values: dict[str, Any]) -> bool:
    """Whether samples are those that were written, and a photo is a picture."""
    if table.name == "photo_data":
        return not values["data"] or is_picture(values["data"])
    if table.name != "recording_block":
        return True
    recording = metadata.tables["recording"]
    quantities = target.execute(
        sa.select(recording.c.quantities).where(recording.c.id == values["recording_id"])
    ).scalar()
    width = 1 + len(quantities or ())
    return blocks.is_sound(values["row_count"], width, values["data"], values["checksum"])


def _complete(made: YardFile, name: str) -> None:
    """What every yard has."""
    with made.reading() as connection:
        empty = {
            table.name
            for table in (metadata.tables[n] for n in ("yard", "site", "yardstick", "score_point"))
            if not connection.execute(sa.select(sa.func.count()).select_from(table)).scalar()
        }
    if "yard" in empty:
        made.put(YardInfo(name=name, created_at=utc_now()))
    if "site" in empty:
        made.put(Site())
    if "yardstick" in empty:
        made.put_shipped_yardsticks()
    if "score_point" in empty:
        made.put_shipped_score_points()
