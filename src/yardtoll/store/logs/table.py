"""A log file as a table of columns, still text where the file is text."""

import io
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from yardtoll.store.errors import LogError
from yardtoll.store.logs.binary import read_binary
from yardtoll.store.logs.sniff import COMMENT_MARKS, Dialect, sniff

SPREADSHEETS = (".xlsx", ".xls", ".ods")
PARQUET = (".parquet", ".pq")
_UNREADABLE = (pl.exceptions.PolarsError, OSError, ValueError, UnicodeError)


@dataclass(frozen=True)
class LogTable:
    """The columns of a log.

    Attributes:
        path: where it came from.
        frame: one column a log column; text for text files and spreadsheets.
        first_data_line: 1-based line of row 0, None where the file has no lines.
        named: whether the file itself names its columns.
        delimiter: what parts the cells of a text file.
        decimal_comma: numbers were read with a decimal comma already.
    """

    path: Path
    frame: pl.DataFrame
    first_data_line: int | None
    named: bool = True
    delimiter: str | None = None
    decimal_comma: bool = False

    def line_of(self, row: int) -> str:
        """Like "line 14" for row 0-based ``row``, blank and comment lines counted."""
        if self.first_data_line is None:
            return f"row {row + 2}"
        try:
            with self.path.open("rb") as file:
                left = row
                for number, line in enumerate(file, start=1):
                    text = line.strip()
                    if number < self.first_data_line or not text or _is_comment(text):
                        continue
                    if left == 0:
                        return f"line {number}"
                    left -= 1
        except OSError:
            pass
        return f"line {self.first_data_line + row}"


def read_table(path: Path, progress: Callable[[str], None] = lambda _: None) -> LogTable:
    """Read a CSV-like text file, a spreadsheet or a Parquet file.

    Args:
        progress: called now and then; what it raises ends the reading.

    Raises:
        LogError: the file cannot be read as a table.
    """
    suffix = path.suffix.lower()
    if not path.exists():
        raise LogError(f"{path} does not exist")
    if not path.is_file():
        what = "a folder, not" if path.is_dir() else "not"
        raise LogError(f"{path} is {what} a file")
    try:
        if suffix in SPREADSHEETS or suffix in PARQUET:
            kind = "parquet" if suffix in PARQUET else "spreadsheet"
            frame = read_binary(path, kind, progress)
            return _checked(LogTable(path=path, frame=frame, first_data_line=None))
        dialect = sniff(path)
        return _checked(
            LogTable(
                path=path,
                frame=_read_text(path, dialect),
                first_data_line=dialect.first_data_line,
                named=dialect.named,
                delimiter=dialect.delimiter,
                decimal_comma=any(dialect.comma),
            )
        )
    except LogError:
        raise
    except (*_UNREADABLE, pl.exceptions.PanicException) as error:
        reason = str(error).strip().splitlines()[0] if str(error).strip() else type(error).__name__
        raise LogError(f"{path.name} cannot be read as a table: {reason[:80]}") from error


def _read_text(path: Path, dialect: Dialect) -> pl.DataFrame:
    """Bare numbers as numbers, every other cell as text."""
    source: Path | io.BytesIO = path
    if dialect.encoding not in ("utf-8", "utf-8-sig"):
        text = path.read_bytes().decode(dialect.encoding, errors="replace")
        source = io.BytesIO(text.encode("utf-8"))
    head = _first_bytes(path)
    only_returns = b"\n" not in head and b"\r" in head and dialect.encoding != "utf-16"
    if only_returns:
        source = io.BytesIO(path.read_bytes().replace(b"\r", b"\n"))
    numbers = dialect.comma if any(dialect.comma) else dialect.plain
    plain = [*numbers, *[False] * len(dialect.header)]
    as_numbers: dict[str, type[pl.DataType]] = {
        n: pl.Float64 if p else pl.String for n, p in zip(dialect.header, plain, strict=False)
    }
    as_text: dict[str, type[pl.DataType]] = dict.fromkeys(dialect.header, pl.String)
    # Each is slower than the one before; the last takes whatever bytes there are.
    tried = [(as_numbers, "utf8"), (as_numbers, "utf8-lossy"), (as_text, "utf8-lossy")]
    for schema, encoding in tried:
        try:
            frame = _read_csv(source, dialect, schema, encoding)
            break
        except pl.exceptions.ComputeError:
            # Further down stands a cell that is no bare number: all cells are taken as text.
            if schema is as_text:
                raise
    may_be_blank = all(column.null_count() for column in frame.get_columns())
    if not dialect.may_hold_comments and not may_be_blank:
        return frame
    first = pl.nth(0).cast(pl.String).str.strip_chars()
    comments = pl.any_horizontal(*(first.str.starts_with(mark) for mark in COMMENT_MARKS))
    blank = pl.all_horizontal(pl.all().is_null())
    if pl.String in frame.dtypes[:1]:
        return frame.filter(~(comments.fill_null(value=False) | blank))
    return frame.filter(~blank) if frame[frame.columns[0]].null_count() else frame


def _read_csv(
    source: Path | io.BytesIO,
    dialect: Dialect,
    schema: dict[str, type[pl.DataType]],
    encoding: str,
) -> pl.DataFrame:
    """The cells below the header; ragged lines are cut or filled with nothing."""
    if isinstance(source, io.BytesIO):
        source.seek(0)
    return pl.read_csv(
        source,
        separator=dialect.delimiter,
        skip_lines=dialect.first_data_line - 1,
        has_header=False,
        truncate_ragged_lines=True,
        encoding=encoding,
        schema=schema,
        quote_char='"',
        decimal_comma=any(dialect.comma),
    )


def _first_bytes(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(4096)


def _is_comment(text: bytes) -> bool:
    return text.startswith(tuple(mark.encode() for mark in COMMENT_MARKS))


def _checked(table: LogTable) -> LogTable:
    if table.frame.width == 0 or table.frame.height == 0:
        raise LogError(f"{table.path.name} holds no lines of data")
    return table
