"""Finding out how a text log is written: encoding, delimiter, the header's line."""

import csv
import re
from collections import Counter
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path

from yardtoll.store.errors import LogError

HEAD_BYTES = 256 * 1024
LONGEST_LINE_BYTES = 1024 * 1024
DELIMITERS = (",", ";", "\t", "|")
COMMENT_MARKS = ("#", "//", "%")
_LOOKED_AT_LINES = 200
_FIRST_OF_BLOCK = 4096

_BOMS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
_NUMBER_LIKE = re.compile(
    r"^[~≈+-]?[\d.,'\s\u00a0\u202f]*\d[\d.,'\s]*(?:e[+-]?\d+)?\s*[^\d\s]{0,4}$", re.I
)
_BARE_NUMBER = re.compile(r"^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$")
_COMMA_NUMBER = re.compile(r"^[+-]?(?:\d+(?:,\d*)?|,\d+)(?:[eE][+-]?\d+)?$")
_SURELY_DECIMAL = re.compile(r"^[+-]?(?:\d*,(?:\d{1,2}|\d{4,})|0,\d+|\d{4,},\d+)$")
"""No thousands are parted by such a comma."""
_TIME_LIKE = re.compile(r"^\d{1,4}[-/.:]\d{1,2}([-/.:]\d{1,4})?.*")


@dataclass(frozen=True, kw_only=True)
class Dialect:
    """How a log is written.

    Attributes:
        encoding: a Python codec name.
        delimiter: between cells.
        first_data_line: 1-based number of the first line of data.
        header: one name a column, "column 1"… where the log names none.
        named: whether the log itself names its columns.
        plain: for each column, whether all cells looked at are bare numbers with a decimal point,
            so that the whole column may be tried as numbers at once.
        comma: the same for bare numbers with a decimal comma, in a file without a single point;
            all False where there may be other numbers.
        may_hold_comments: whether a mark that comments begin with may be anywhere in the file.
    """

    encoding: str
    delimiter: str
    first_data_line: int
    header: tuple[str, ...]
    named: bool
    plain: tuple[bool, ...]
    comma: tuple[bool, ...] = ()
    may_hold_comments: bool = True


def sniff(path: Path) -> Dialect:
    """Look at the head of a text log.

    Raises:
        LogError: the file is empty, no text, has lines no log has, or holds no rows of cells.
    """
    head = _head(path)
    encoding = _encoding(path, head)
    _refuse_long_lines(path, encoding)
    text = head.decode(encoding, errors="replace")
    lines = re.split(r"\r\n|\n|\r", text)
    if len(head) == HEAD_BYTES and len(lines) > 1:
        lines.pop()
    of_data = (
        (number, line)
        for number, line in enumerate(lines, start=1)
        if line.strip() and not line.lstrip().startswith(COMMENT_MARKS)
    )
    numbered = list(islice(of_data, _LOOKED_AT_LINES))
    if not numbered:
        raise LogError(f"{path.name} holds no lines of data")
    delimiter, width = _delimiter(path, [line for _, line in numbered])
    found = _find_header(path, encoding, delimiter, width, numbered)
    comma = found.comma
    if any(comma) and _holds(path, b"."):
        comma = (False,) * len(comma)
    # A first column that can be read as numbers has none.
    numbers_first = found.plain[:1] == (True,) or comma[:1] == (True,)
    marks = [mark[:1].encode() for mark in COMMENT_MARKS]
    return replace(found, comma=comma, may_hold_comments=numbers_first or _holds(path, *marks))


def split_line(line: str, delimiter: str) -> list[str]:
    """The cells of one line, quotes undone, blanks around them removed."""
    try:
        cells = next(csv.reader([line], delimiter=delimiter))
    except (csv.Error, StopIteration):
        cells = line.split(delimiter)
    return [cell.strip() for cell in cells]


def is_value(cell: str) -> bool:
    """Whether a cell reads as a number (with or without unit), a time, or a missing value."""
    return bool(_NUMBER_LIKE.match(cell) or _TIME_LIKE.match(cell)) or cell.lower() == "nan"


def _is_data(cells: list[str]) -> bool:
    """Whether a line holds values rather than names: half of its filled cells or more."""
    filled = [cell for cell in cells if cell]
    values = sum(map(is_value, filled))
    return values > 0 and 2 * values >= len(filled)


def _head(path: Path) -> bytes:
    try:
        with path.open("rb") as file:
            head = file.read(HEAD_BYTES)
    except FileNotFoundError:
        raise LogError(f"{path} does not exist") from None
    except IsADirectoryError:
        raise LogError(f"{path} is a folder, not a log") from None
    except OSError as error:
        raise LogError(f"{path} cannot be read: {error.strerror}") from None
    if not head.strip():
        raise LogError(f"{path.name} is empty")
    return head


def _encoding(path: Path, head: bytes) -> str:
    """Codec of the text, from its byte-order mark or by trial."""
    for mark, codec in _BOMS:
        if head.startswith(mark):
            return codec
    control = sum(head.count(byte) for byte in (b"\x00", b"\x01", b"\x02", b"\x03", b"\x08"))
    if control:
        raise LogError(f"{path.name} is not a text log: it holds binary data from its first lines")
    try:
        # The last bytes may be half a character.
        head[: len(head) - 4 if len(head) == HEAD_BYTES else len(head)].decode("utf-8")
    except UnicodeDecodeError as error:
        if error.start < len(head) - 8 or len(head) < HEAD_BYTES:
            return "cp1252"
    return "utf-8"


def _refuse_long_lines(path: Path, encoding: str) -> None:
    """No line of a log is a megabyte long; a block without a line end is in the middle of one.

    Raises:
        LogError: it has such a line.
    """
    if encoding == "utf-16":
        return
    position = 0
    with path.open("rb", buffering=0) as file:
        # Nearly always an end of line stands among the first bytes of a block.
        while some := file.read(_FIRST_OF_BLOCK):
            if not _ends_a_line(some):
                rest = file.read(LONGEST_LINE_BYTES - len(some))
                if len(some) + len(rest) == LONGEST_LINE_BYTES and not _ends_a_line(rest):
                    raise LogError(
                        f"{path.name}, line {_line_at(path, position)}: the line is longer than a "
                        "megabyte, so this is not a meter log"
                    )
            position += LONGEST_LINE_BYTES
            file.seek(position)


def _ends_a_line(part: bytes) -> bool:
    return b"\n" in part or b"\r" in part


def _holds(path: Path, *signs: bytes) -> bool:
    """Whether one of some signs is anywhere in a file."""
    into = bytearray(LONGEST_LINE_BYTES)  # one for all: a new one for each takes as long again
    with path.open("rb", buffering=0) as file:
        while count := file.readinto(into):
            block = into if count == LONGEST_LINE_BYTES else into[:count]
            if any(sign in block for sign in signs):
                return True
    return False


def _line_at(path: Path, position: int) -> int:
    """1-based number of the line of the byte at ``position``."""
    count, left = 1, position
    with path.open("rb") as file:
        while left > 0 and (block := file.read(min(left, LONGEST_LINE_BYTES))):
            count += block.count(b"\n")
            left -= len(block)
    return count


def _delimiter(path: Path, lines: list[str]) -> tuple[str, int]:
    """The delimiter that cuts most lines into the same number (two or more) of cells."""
    best: tuple[float, int, str] | None = None
    for delimiter in DELIMITERS:
        widths = Counter(len(split_line(line, delimiter)) for line in lines)
        width, count = max(widths.items(), key=lambda item: (item[1], item[0]))
        if width < 2:
            continue
        # A comma may be a decimal comma inside cells that another delimiter parts.
        preference = count / len(lines) - (0.2 if delimiter == "," else 0.0)
        if best is None or (preference, width) > best[:2]:
            best = (preference, width, delimiter)
    if best is None:
        raise LogError(
            f"{path.name}, line 1: no delimiter (comma, semicolon, tab or bar) parts the lines "
            "into columns"
        )
    return best[2], best[1]


def _find_header(
    path: Path, encoding: str, delimiter: str, width: int, numbered: list[tuple[int, str]]
) -> Dialect:
    """The header is the last line of names before the first line of values."""
    header: tuple[str, ...] | None = None
    for number, line in numbered:
        cells = split_line(line, delimiter)
        if len(cells) < width:
            # A header may name fewer columns than the lines below it have.
            header = tuple(cells) if len(cells) > 1 and not any(map(is_value, cells)) else None
            continue
        if _is_data(cells):
            return Dialect(
                encoding=encoding,
                delimiter=delimiter,
                first_data_line=number,
                header=_unique(header, len(cells)),
                named=header is not None,
                plain=_plain_columns(delimiter, [text for n, text in numbered if n >= number]),
                comma=_comma_columns(delimiter, [text for n, text in numbered if n >= number]),
            )
        header = _with_units(header, cells)
    raise LogError(f"{path.name}, line {numbered[0][0]}: no line of numbers follows it")


def _plain_columns(delimiter: str, lines: list[str]) -> tuple[bool, ...]:
    """Which columns hold nothing but bare numbers; none where a comma may be a decimal mark."""
    rows = [split_line(line, delimiter) for line in lines]
    width = max(map(len, rows))
    if any("," in cell for row in rows for cell in row):
        return (False,) * width
    return tuple(
        all(_BARE_NUMBER.match(row[i]) for row in rows if i < len(row)) for i in range(width)
    )


def _comma_columns(delimiter: str, lines: list[str]) -> tuple[bool, ...]:
    """Which columns hold nothing but bare numbers, some with a comma that is surely decimal."""
    rows = [split_line(line, delimiter) for line in lines]
    width = max(map(len, rows))
    cells = [cell for row in rows for cell in row]
    if delimiter == "," or not any(map(_SURELY_DECIMAL.match, cells)):
        return (False,) * width
    return tuple(
        all(_COMMA_NUMBER.match(row[i]) for row in rows if i < len(row)) for i in range(width)
    )


def _with_units(header: tuple[str, ...] | None, cells: list[str]) -> tuple[str, ...]:
    """A line of short words below the names is the line of units."""
    if header is not None and len(header) == len(cells) and all(len(c) <= 5 for c in cells):
        return tuple(
            f"{name} [{unit}]" if unit else name for name, unit in zip(header, cells, strict=True)
        )
    return tuple(cells)


def _unique(header: tuple[str, ...] | None, width: int) -> tuple[str, ...]:
    """Names for ``width`` columns, each once."""
    names: list[str] = []
    given = header or ()
    for i in range(max(width, len(given))):
        name = given[i] if i < len(given) and given[i] else f"column {i + 1}"
        names.append(name if name not in names else f"{name} ({i + 1})")
    return tuple(names)
