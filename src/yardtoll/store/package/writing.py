"""Writing a yard as a data package."""

import csv
import json
import tempfile
from pathlib import Path
from typing import Any

import polars as pl

from yardtoll.core.electrical.quantities import QUANTITIES
from yardtoll.store.errors import PackageError
from yardtoll.store.package.bulk import recording_ids, rows_of, samples_of
from yardtoll.store.package.tables import TABLES, fields_of, to_cell
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.schema import photo as photo_table
from yardtoll.store.yard_file import YardFile

DESCRIPTOR = "datapackage.json"
_SUFFIXES = {"image/jpeg": "jpg", "image/png": "png", "image/webp": "webp", "image/gif": "gif"}


def write_package(yard: YardFile, folder: Path, *, parquet: bool = False) -> int:
    """Write everything a yard holds into a folder; returned is the number of files.

    What was removed or withdrawn is written too: nothing is lost.

    Args:
        folder: new, or empty.
        parquet: samples as Parquet instead of CSV.

    Raises:
        PackageError: the folder holds something already, or cannot be written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        if any(folder.iterdir()):
            raise PackageError(f"{folder} is not empty; choose a new folder")
        with tempfile.TemporaryDirectory(
            prefix=f".{folder.name[:100]}.", suffix=".part", dir=folder.resolve().parent
        ) as beside:
            building = Path(beside) / "package"
            building.mkdir()
            count = _write_into(building, yard, parquet=parquet)
            # A folder that is there already has a whole package in it, or nothing.
            building.rename(folder)
    except OSError as error:
        raise PackageError(f"{folder} cannot be written: {error.strerror}") from None
    return count


def _write_into(folder: Path, yard: YardFile, *, parquet: bool) -> int:
    resources = [
        *_write_tables(yard, folder),
        *_write_samples(yard, folder, parquet=parquet),
        *_write_pictures(yard, folder),
    ]
    descriptor = {
        "name": "yard",
        "title": yard.info().name,
        "profile": "data-package",
        "created": yard.info().created_at,
        "yardtoll": {"schema_version": SCHEMA_VERSION},
        "resources": resources,
    }
    text = json.dumps(descriptor, indent=2, ensure_ascii=False)
    (folder / DESCRIPTOR).write_text(f"{text}\n", "utf-8")
    return len(resources) + 1


def _write_tables(yard: YardFile, folder: Path) -> list[dict[str, Any]]:
    (folder / "tables").mkdir()
    made = []
    for table in TABLES:
        fields = fields_of(table)
        path = f"tables/{table.name}.csv"
        with (folder / path).open("w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file, lineterminator="\n")
            writer.writerow([field.name for field in fields])
            for row in rows_of(yard, table):
                writer.writerow([to_cell(row[field.name], field) for field in fields])
        links = [
            {
                "fields": [column.name],
                "reference": {"resource": link.column.table.name, "fields": [link.column.name]},
            }
            for column in table.columns
            for link in column.foreign_keys
        ]
        made.append(
            {
                "name": table.name,
                "path": path,
                "profile": "tabular-data-resource",
                "encoding": "utf-8",
                "schema": {
                    "fields": [field.descriptor() for field in fields],
                    "primaryKey": ["id"],
                    **({"foreignKeys": links} if links else {}),
                },
            }
        )
    return made


def _write_samples(yard: YardFile, folder: Path, *, parquet: bool) -> list[dict[str, Any]]:
    (folder / "recordings").mkdir()
    made = []
    for recording_id in recording_ids(yard):
        samples = samples_of(yard, recording_id)
        if samples is None:
            continue
        time_s, quantities = samples
        name = f"recording-{recording_id}"
        columns = {"time_s": time_s, **{str(q): values for q, values in quantities.items()}}
        frame = pl.DataFrame({k: pl.Series(k, v).fill_nan(None) for k, v in columns.items()})
        path = f"recordings/{name}.{'parquet' if parquet else 'csv'}"
        if parquet:
            frame.write_parquet(folder / path)
        else:
            frame.write_csv(folder / path)
        units = {str(quantity): QUANTITIES[quantity].unit for quantity in quantities}
        fields = [{"name": "time_s", "type": "number", "unit": "s"}]
        fields += [{"name": key, "type": "number", "unit": unit} for key, unit in units.items()]
        made.append(
            {
                "name": name,
                "path": path,
                **(
                    {"format": "parquet", "mediatype": "application/vnd.apache.parquet"}
                    if parquet
                    else {"profile": "tabular-data-resource", "schema": {"fields": fields}}
                ),
            }
        )
    return made


def _write_pictures(yard: YardFile, folder: Path) -> list[dict[str, Any]]:
    photos = rows_of(yard, photo_table)
    if photos:
        (folder / "photos").mkdir()
    made = []
    for photo in photos:
        kind = photo["media_type"]
        path = f"photos/{photo['id']}.{_SUFFIXES.get(kind, 'bin')}"
        (folder / path).write_bytes(yard.photo_bytes(photo["id"]))
        made.append({"name": f"photo-{photo['id']}", "path": path, "mediatype": kind})
    return made
