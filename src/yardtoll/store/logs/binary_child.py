"""Reads one spreadsheet or Parquet file in a process of its own, with limits, into an Arrow file.

Run by ``binary.py`` as ``python -m``. What such a file makes its reader allocate, or how long it
keeps it busy, is the file's to say: a kilobyte can ask for half a terabyte. Here the process that
is ended for it holds nothing else.
"""

import json
import os
import resource
import sys
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import polars as pl

MEMORY_BYTES = 4 * 1024**3
CPU_S = 120
WRITTEN_BYTES = 4 * 1024**3
MOST_CELLS = 200_000_000


def main(kind: str, source: str, target: str) -> None:
    """Print nothing and leave the table in ``target``, or print why not as JSON."""
    for limit, most in (
        (resource.RLIMIT_AS, MEMORY_BYTES),
        (resource.RLIMIT_CPU, CPU_S),
        (resource.RLIMIT_FSIZE, WRITTEN_BYTES),
        (resource.RLIMIT_CORE, 0),
    ):
        resource.setrlimit(limit, (most, most))
    os.environ["POLARS_MAX_THREADS"] = "2"
    import polars as pl  # noqa: PLC0415 - after the limits

    try:
        if kind == "spreadsheet":
            frame = pl.read_excel(Path(source), infer_schema_length=0, drop_empty_rows=True)
        else:
            rows = pl.scan_parquet(Path(source)).select(pl.len()).collect().item()
            width = len(pl.read_parquet_schema(Path(source)))
            if rows * width > MOST_CELLS:
                print(json.dumps({"problem": f"it has {rows} rows of {width} columns"}))
                return
            frame = pl.read_parquet(Path(source))
        plain(frame).write_ipc(target)
    except BaseException as error:  # panics of the readers are no ordinary exceptions
        first = (str(error).strip() or type(error).__name__).splitlines()[0]
        ours = "fastexcel" in type(error).__module__
        print(json.dumps({"problem": "" if ours else first[:80]}))


def plain(frame: "pl.DataFrame") -> "pl.DataFrame":
    """Numbers, text and times alone: what a log is made of."""
    import polars as pl  # noqa: PLC0415 - after the limits

    columns = []
    for column in frame.get_columns():
        kind = column.dtype
        if kind in (pl.String, pl.Datetime, pl.Date):
            columns.append(column)
        elif kind.is_numeric():
            columns.append(column.cast(pl.Float64, strict=False))
        elif kind == pl.Duration:
            seconds = column.dt.total_microseconds().cast(pl.Float64) / 1e6
            columns.append(seconds.alias(column.name))
        elif kind == pl.Time:
            columns.append(column.dt.to_string("%H:%M:%S%.f"))
        elif kind in (pl.Boolean, pl.Categorical, pl.Enum):
            columns.append(column.cast(pl.String))
    return pl.DataFrame(columns)


if __name__ == "__main__":
    main(*sys.argv[1:4])
