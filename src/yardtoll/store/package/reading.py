"""Reading a data package into a new yard. Nothing in it is trusted: a bad row is named."""

import csv
import json
from collections.abc import Mapping, Sequence
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
import polars as pl
import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, ValidationError

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.store.errors import LogError, PackageError, YardError
from yardtoll.store.logs.binary import read_binary
from yardtoll.store.meaning import what_is_wrong
from yardtoll.store.package.bulk import put_picture, put_rows, put_samples
from yardtoll.store.package.earlier import (
    RECORDINGS_SINCE,
    TRACE,
    EarlierRecording,
    recordings_of_traces,
)
from yardtoll.store.package.tables import (
    ADDED_LATER,
    LARGEST,
    TABLES,
    Field,
    fields_of,
    from_cell,
    shown,
)
from yardtoll.store.package.writing import DESCRIPTOR
from yardtoll.store.pictures import is_picture
from yardtoll.store.records import Site
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.yard_file import YardFile

_LARGEST_DESCRIPTOR = 8_000_000
_LONGEST_CELL = 4_000_000
Numbered = list[tuple[int, dict[str, Any]]]
"""A table's rows with the lines they stand in."""
LARGEST_FILE_BYTES = 2 * 1024**3


class _Resource(BaseModel):
    model_config = ConfigDict(extra="ignore")
    name: str
    path: str


class _About(BaseModel):
    schema_version: int


class _Descriptor(BaseModel):
    model_config = ConfigDict(extra="ignore")
    yardtoll: _About
    resources: list[_Resource]


def is_package(path: Path) -> bool:
    """Whether a path is a data package: its folder, or its descriptor."""
    return path.is_dir() or path.name == DESCRIPTOR


def read_package(path: Path, target: Path) -> str:
    """Make a new yard from a package; returned is the yard's name.

    Args:
        path: the folder, or its datapackage.json.
        target: where the yard is to be stored; nothing may be there.

    Raises:
        PackageError: something in it does not fit; the message names file and line.
        YardError: the yard cannot be made there.
    """
    folder = path if path.is_dir() else path.parent
    version, files = _files(folder)
    rows = {table.name: _rows(table, files, folder) for table in TABLES}
    older = version < RECORDINGS_SINCE
    traces = _rows(TRACE, files, folder) if older else []
    _check_meaning(rows)
    _check_links(rows)
    made = recordings_of_traces(rows, traces) if older else []
    if not rows["yard"]:
        raise PackageError("tables/yard.csv has no row: the package holds no yard")
    building = target.with_name(f"{target.name}.part")
    if target.exists():
        raise YardError(f"{target.name} is already there; choose another name")
    building.unlink(missing_ok=True)
    try:
        with YardFile.create_empty(building) as yard:
            for table in TABLES:
                put_rows(yard, table, (row for _, row in rows[table.name]))
            for line, row in rows["recording"]:
                _take_samples(yard, row, line, files, folder)
            for recording in made:
                kept = yard.put(recording.record)
                put_samples(yard, kept.id or 0, *_earlier_samples(recording, files, folder))
            for _, row in rows["photo"]:
                put_picture(yard, row["id"], _picture(row["id"], files, folder))
            _complete(yard, rows)
            name = yard.info().name
        building.replace(target)
    except (YardError, sa.exc.SQLAlchemyError, OverflowError) as error:
        said = str(getattr(error, "orig", error)).splitlines()[0][:80]
        raise PackageError(f"the package does not hold together: {said}") from None
    finally:
        building.unlink(missing_ok=True)
    return name


def _complete(yard: YardFile, rows: dict[str, Numbered]) -> None:
    """What every yard has and a package made by hand may lack."""
    if not rows["site"]:
        yard.put(Site())
    if not rows["yardstick"]:
        yard.put_shipped_yardsticks()
    if not rows["score_point"]:
        yard.put_shipped_score_points()


def _files(folder: Path) -> tuple[int, dict[str, str]]:
    """The schema version, and paths by the resources' names; none leads out of the folder."""
    path = folder / DESCRIPTOR
    try:
        if path.stat().st_size > _LARGEST_DESCRIPTOR:
            raise PackageError(f"{DESCRIPTOR} is too large to be a yard's")
        made = _Descriptor.model_validate(json.loads(path.read_text("utf-8")))
    except OSError as error:
        raise PackageError(f"{path} cannot be read: {error.strerror}") from None
    except (ValidationError, UnicodeDecodeError, json.JSONDecodeError, RecursionError):
        raise PackageError(f"{path} is not a data package of a yard") from None
    if made.yardtoll.schema_version > SCHEMA_VERSION:
        raise PackageError(
            f"{DESCRIPTOR} was made by a newer version of Yard Toll (schema "
            f"{made.yardtoll.schema_version}; this one knows {SCHEMA_VERSION})"
        )
    for resource in made.resources:
        _refuse_outside(folder, resource.path)
    paths = {resource.name: resource.path for resource in made.resources}
    return made.yardtoll.schema_version, paths


def _refuse_outside(folder: Path, name: str) -> None:
    """Paths, and links, that lead out of the package, and what is no file, such as a device.

    Raises:
        PackageError: naming it.
    """
    parts = PurePosixPath(name)
    outside = parts.is_absolute() or ".." in parts.parts or "\\" in name or "\0" in name
    if not outside:
        there = (folder / name).resolve()
        outside = not there.is_relative_to(folder.resolve())
    if outside:
        raise PackageError(f'{DESCRIPTOR}: the path "{shown(name)}" leads out of it')
    if there.exists() and not there.is_file():
        raise PackageError(f"{shown(name)} is not a file")
    if there.exists() and there.stat().st_size > LARGEST_FILE_BYTES:
        raise PackageError(f"{shown(name)} is too large to be a part of a package")


def _rows(table: sa.Table, files: dict[str, str], folder: Path) -> Numbered:
    """A table's rows with their line numbers; a table that is not there has none."""
    name = files.get(table.name)
    if name is None:
        return []
    fields = {field.name: field for field in fields_of(table)}
    csv.field_size_limit(_LONGEST_CELL)
    try:
        with (folder / name).open(encoding="utf-8-sig", newline="") as file:
            reader = csv.reader(file)
            header = next(reader, [])
            added = ADDED_LATER.get(table.name, {})
            _check_header(header, fields, added, name)
            return [
                (
                    reader.line_num,
                    {
                        **added,
                        **_row(cells, header, fields, added, f"{name}, line {reader.line_num}"),
                    },
                )
                for cells in reader
                if cells
            ]
    except OSError as error:
        raise PackageError(f"{name} cannot be read: {error.strerror}") from None
    except (UnicodeDecodeError, csv.Error) as error:
        raise PackageError(f"{name} is not CSV in UTF-8: {shown(error)}") from None


def _check_header(
    header: list[str], fields: dict[str, Field], added: Mapping[str, Any], name: str
) -> None:
    for column in header:
        if column not in fields:
            raise PackageError(f'{name}, line 1: there is no column "{shown(column)}" in a yard')
    missing = [n for n, field in fields.items() if field.required and n not in (*header, *added)]
    if missing:
        raise PackageError(f"{name}, line 1: the column {missing[0]} is missing")


def _row(
    cells: list[str],
    header: list[str],
    fields: dict[str, Field],
    added: Mapping[str, Any],
    place: str,
) -> dict[str, Any]:
    if len(cells) != len(header):
        raise PackageError(f"{place}: {len(cells)} cells where the header has {len(header)}")
    made: dict[str, Any] = {}
    for cell, column in zip(cells, header, strict=True):
        try:
            made[column] = from_cell(cell, fields[column])
        except PackageError as error:
            raise PackageError(f"{place}: {error}") from None
    for column, field in fields.items():
        if column not in added:
            made.setdefault(column, "" if field.kind == "string" and field.required else None)
    return made


def _check_meaning(rows: dict[str, Numbered]) -> None:
    """No row holds what the program could not have written."""
    for table, numbered in rows.items():
        for line, row in numbered:
            wrong = what_is_wrong(table, row)
            if wrong:
                raise PackageError(f"tables/{table}.csv, line {line}: {wrong}")


def _check_links(rows: dict[str, Numbered]) -> None:
    """Every row refers to one that is there, and none comes twice."""
    for table in TABLES:
        key = "id"
        seen: set[object] = set()
        for line, row in rows[table.name]:
            place = f"tables/{table.name}.csv, line {line}"
            if row[key] in seen:
                raise PackageError(f"{place}: {key} {row[key]} is there twice")
            seen.add(row[key])
            for column in table.columns:
                for link in column.foreign_keys:
                    there = {r["id"] for _, r in rows[link.column.table.name]}
                    if row[column.name] is not None and row[column.name] not in there:
                        raise PackageError(
                            f"{place}: {column.name} {row[column.name]} is not a "
                            f"{link.column.table.name} of the package"
                        )


def _take_samples(
    yard: YardFile, row: dict[str, Any], line: int, files: dict[str, str], folder: Path
) -> None:
    """The samples of one recording."""
    name = files.get(f"recording-{row['id']}")
    if name is None:
        raise PackageError(
            f"tables/recording.csv, line {line}: the samples of recording {row['id']} are not in "
            "the package"
        )
    quantities = [Quantity(quantity) for quantity in row["quantities"]]
    put_samples(yard, row["id"], *_samples(name, quantities, folder))


def _earlier_samples(
    recording: EarlierRecording, files: dict[str, str], folder: Path
) -> tuple[FloatArray, dict[Quantity, FloatArray]]:
    """The samples of what an earlier version kept as a run's trace, or a logger's."""
    if recording.samples is not None:
        return recording.samples
    name = files.get(recording.resource)
    if name is None:
        raise PackageError(
            f"tables/trace.csv, line {recording.line}: the samples of run "
            f"{recording.record.run_id} are not in the package"
        )
    return _samples(name, [Quantity(q) for q in recording.record.quantities], folder)


def _samples(
    name: str, quantities: Sequence[Quantity], folder: Path
) -> tuple[FloatArray, dict[Quantity, FloatArray]]:
    """(times, columns) of a file of samples."""
    try:
        parquet = name.endswith(".parquet")
        frame = (
            read_binary(folder / name, "parquet", lambda _: None)
            if parquet
            else _csv_frame(folder / name)
        )
        table = {c: frame[c].cast(pl.Float64).fill_null(np.nan).to_numpy() for c in frame.columns}
    except LogError as error:
        raise PackageError(str(error)) from None
    except (OSError, pl.exceptions.PolarsError) as error:
        said = str(error).splitlines()[0][:200]
        raise PackageError(f"{name} cannot be read: {said}") from None
    missing = {"time_s", *map(str, quantities)} - set(table)
    if missing:
        raise PackageError(f"{name}: the column {sorted(missing)[0]} is missing")
    time_s = table["time_s"]
    if any(np.any(np.abs(values) > LARGEST) for values in table.values()):
        raise PackageError(f"{name} holds a figure that no bench gives")
    if not np.isfinite(time_s).all():
        line = int(np.argmin(np.isfinite(time_s))) + 2
        raise PackageError(f"{name}, line {line}: time_s is missing")
    if time_s.size == 0:
        raise PackageError(f"{name} holds no samples")
    return time_s, {q: table[str(q)] for q in quantities}


def _csv_frame(path: Path) -> pl.DataFrame:
    """Numbers only; the first cell that is none is named by its line."""
    frame = pl.read_csv(path, infer_schema=False)
    numbers = frame.with_columns(pl.all().cast(pl.Float64, strict=False))
    numbers = numbers.with_columns(pl.when(pl.all().abs() <= LARGEST).then(pl.all()))
    for column in frame.columns:
        wrong = (frame[column].is_not_null() & numbers[column].is_null()).arg_true()
        if wrong.len():
            row = int(wrong[0])
            cell = shown(frame[column][row])
            place = f"{path.parent.name}/{path.name}, line {row + 2}"
            raise PackageError(f'{place}: {shown(column)} "{cell}" is not a plausible number')
    return numbers


def _picture(photo_id: int, files: dict[str, str], folder: Path) -> bytes:
    name = files.get(f"photo-{photo_id}")
    if name is None:
        raise PackageError(f"the picture of photo {photo_id} is not in the package")
    try:
        data = (folder / name).read_bytes()
    except OSError as error:
        raise PackageError(f"{name} cannot be read: {error.strerror}") from None
    if not is_picture(data):
        raise PackageError(f"{name} is not a picture that can be shown")
    return data
