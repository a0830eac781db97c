"""Files of curves: a scope's table in any of its shapes, and WAV from a sound card.

A table has a header of any kind – a preamble of names and values, one or two lines of column
names, the interval between samples somewhere in it – and then numbers. What the columns are is
told by their names and units, else by their order: time, volts, amps.
"""

import io
import re
import struct
import warnings
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import polars as pl

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.sound.levels import Recording
from yardtoll.core.waveform.capture import Capture, evenly_spaced
from yardtoll.store.errors import LogError, MappingError

LARGEST_BYTES = 1024**3
_LEAST_ROWS = 4
_MOST_OF_FULL_SCALE = 1000.0
_HEAD_LINES = 400
_BEGINNING_BYTES = 200_000
_NUMBER = re.compile(r"[+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][+-]?\d+)?")
_INTERVAL = re.compile(
    r"interval|increment|incr\b|xincr|delta|sample period|period of a sample|\bdt\b|step|"
    r"abtast(?:intervall|periode)|time ?base step",
    re.IGNORECASE,
)
_RATE = re.compile(r"sampl\w* ?(?:rate|freq\w*)|\brate\b|\bfs\b|abtastrate", re.IGNORECASE)
_TIME = re.compile(r"^(?:time|t|x|second|seconds|sec|s|zeit)\b|\btime\b|zeit", re.IGNORECASE)
_VOLTS = re.compile(r"volt|spannung|\bm?v\b|\bk?v\b|^u$|^u\b", re.IGNORECASE)
_AMPS = re.compile(r"\bamp|current|strom|[(\[]\s*m?a\s*[)\]]|\bma$|_m?a$|^m?a$|^i\b", re.IGNORECASE)
_AMPS_UNIT = re.compile(r"[(\[]?\s*[mkuµμ]?A\s*[)\]]?")
_CHANNEL = re.compile(r"\bch(?:annel)? ?\d|\bc\d\b|kanal", re.IGNORECASE)
_SCALES = {"n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6,
           "G": 1e9}  # fmt: skip
_UNIT = re.compile(r"([numkMGµμ]?)(Sa/s|S/s|Hz|s|sec|V|A)\b")


@dataclass(frozen=True)
class _Head:
    """What stands before the numbers."""

    lines: tuple[str, ...]
    first_row: int
    separator: str
    decimal_comma: bool
    width: int


def read_capture(
    path: Path,
    *,
    chosen: Mapping[str, str] | None = None,
    rate_hz: float | None = None,
    volts_per_unit: float | None = None,
) -> Capture:
    """A capture from a scope's table or a WAV file.

    Args:
        chosen: column names for "time", "volts", "amps".
        rate_hz: where the file has no times.
        volts_per_unit: volts at full scale of a WAV; without, its volts are relative.

    Raises:
        LogError: it cannot be read, or shows no curve.
        MappingError: a column chosen is not there.
    """
    if _is_wav(path):
        rate, samples = _read_wav(path)
        volts = samples[:, 0]
        scale = volts_per_unit if volts_per_unit is not None else 1.0
        return Capture(
            name=path.name, rate_hz=rate_hz or rate, volts=volts * scale, full_scale=scale,
            relative=volts_per_unit is None,
        )  # fmt: skip
    capture = _read_table(path, chosen or {}, rate_hz)
    if volts_per_unit is not None:
        capture = replace(capture, volts=capture.volts * volts_per_unit)
    return capture


@dataclass(frozen=True, kw_only=True)
class Channels:
    """The columns of a scope's table.

    Attributes:
        names: of every column that has one.
        guessed: purpose ("time", "volts", "amps") → name.
        has_times: whether the file says when its samples were taken.
    """

    names: tuple[str, ...]
    guessed: Mapping[str, str]
    has_times: bool

    @property
    def is_plain(self) -> bool:
        """Whether there is nothing to choose: one channel, its times known."""
        return self.has_times and len(set(self.names) - set(self.guessed.values())) == 0


def channels_of(path: Path) -> Channels | None:
    """What a table offers, from its beginning; None for a WAV file.

    Raises:
        LogError: it cannot be read, or holds no table of numbers.
    """
    if _is_wav(path):
        return None
    text = _text(path, _BEGINNING_BYTES)
    head = _head(path, text)
    frame = _numbers(path, text, head)
    names, units = _names(head)
    try:
        places = _places(path, names, units, {}, frame)
    except LogError:
        places = {}
    return Channels(
        names=tuple(name for name in names if name),
        guessed={purpose: names[at] for purpose, at in places.items() if names[at]},
        has_times="time" in places or _stated_step(head) is not None,
    )


def read_sound(path: Path) -> Recording:
    """Sound from a WAV file: its first channel.

    Raises:
        LogError: it is none.
    """
    if not _is_wav(path):
        raise LogError(f"{path.name} is not a WAV file")
    rate, samples = _read_wav(path)
    return Recording(name=path.name, rate_hz=rate, samples=samples[:, 0])


def _is_wav(path: Path) -> bool:
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise LogError(f"{path.name} is larger than a gigabyte")
        with path.open("rb") as file:
            head = file.read(12)
    except FileNotFoundError:
        raise LogError(f"{path} does not exist") from None
    except OSError as error:
        raise LogError(f"{path} cannot be read: {error.strerror}") from None
    return head[:4] in (b"RIFF", b"RIFX", b"RF64") and head[8:12] == b"WAVE"


def _read_wav(path: Path) -> tuple[float, FloatArray]:
    """Samples a second, and (n, channels) in shares of full scale."""
    from scipy.io import wavfile  # noqa: PLC0415 - a start of the program needs none

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of chunks it does not know, and files cut short
            rate, data = wavfile.read(path)
    except (ValueError, struct.error, EOFError, OSError, TypeError, IndexError, KeyError,
            ZeroDivisionError, UnboundLocalError, MemoryError, OverflowError) as error:  # fmt: skip
        said = " ".join(str(error).split())[:80]
        raise LogError(f"{path.name} is no WAV file that can be read: {said}") from None
    with np.errstate(all="ignore"):
        return float(rate), _as_shares(path, np.atleast_2d(data.T).T, rate)


def _as_shares(path: Path, data: np.ndarray, rate: float) -> FloatArray:
    """(n, channels) of full scale."""
    if data.shape[0] < _LEAST_ROWS or not rate > 0:
        raise LogError(f"{path.name} holds no samples")
    if data.dtype == np.uint8:
        samples = (data.astype(float) - 128) / 128
    elif np.issubdtype(data.dtype, np.integer):
        samples = data / float(-int(np.iinfo(data.dtype).min))
    else:
        samples = data.astype(float)
    if not np.all(np.isfinite(samples)) or np.max(np.abs(samples)) > _MOST_OF_FULL_SCALE:
        raise LogError(f"{path.name} holds samples that are no shares of full scale")
    return np.asarray(samples, dtype=float)


def _read_table(path: Path, chosen: Mapping[str, str], rate_hz: float | None) -> Capture:
    text = _text(path)
    head = _head(path, text)
    frame = _numbers(path, text, head)
    names, units = _names(head)
    scales = [_scale(names[i], units[i]) for i in range(head.width)]
    places = _places(path, names, units, chosen, frame)
    step_s = 1 / rate_hz if rate_hz else _stated_step(head)
    columns: list[FloatArray] = [
        np.asarray(frame.get_column(name).to_numpy(), dtype=np.float64) for name in frame.columns
    ]
    volts = columns[places["volts"]] * scales[places["volts"]]
    amps = columns[places["amps"]] * scales[places["amps"]] if "amps" in places else None
    counted = columns[places["time"]] if "time" in places else None
    try:
        if counted is not None and not (step_s and _counts(counted)):
            time_s: FloatArray = counted * scales[places["time"]]
            return evenly_spaced(path.name, time_s, volts, amps)
        if not step_s:
            raise LogError(f"{path.name} says neither times nor a sample interval; give --rate")
        return evenly_spaced(path.name, step_s * np.arange(volts.size, dtype=float), volts, amps)
    except UnusableDataError as error:
        raise LogError(str(error)) from None


def _text(path: Path, most_bytes: int = -1) -> str:
    with path.open("rb") as file:
        data = file.read(most_bytes)
    if most_bytes > 0 and len(data) == most_bytes:
        data = data[: data.rfind(b"\n") + 1]  # a line that is cut would be another number
    for encoding in ("utf-8-sig", "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8"):
        try:
            return data.decode(encoding)
        except UnicodeDecodeError:
            continue
    return data.decode("latin-1")


def _head(path: Path, text: str) -> _Head:
    """Where the numbers begin: the first of several lines alike with a number in each cell."""
    lines = text[:200_000].splitlines()[:_HEAD_LINES]
    for separator in ("\t", ";", ",", None):
        for comma in (False, True):
            if comma and separator == ",":
                continue
            first, width = _first_numbers(lines, separator, comma=comma)
            if width and (width > 1 or separator is None or separator == ","):
                return _Head(tuple(lines[:first]), first, separator or " ", comma, width)
    raise LogError(f"{path.name} holds no table of numbers")


def _first_numbers(lines: list[str], separator: str | None, *, comma: bool) -> tuple[int, int]:
    widths = [_width(line, separator, comma=comma) for line in lines]
    for number, width in enumerate(widths):
        ahead = widths[number : number + _LEAST_ROWS]
        if width and len(ahead) == _LEAST_ROWS and all(w == width for w in ahead):
            return number, width
    return 0, 0


def _cells(line: str, separator: str | None) -> list[str]:
    cells = line.split(separator) if separator else line.split()
    stripped = [cell.strip().strip('"') for cell in cells]
    while stripped and not stripped[-1]:
        stripped.pop()
    return stripped


def _width(line: str, separator: str | None, *, comma: bool) -> int:
    """Number cells of a line of numbers alone; empty ones at its beginning count too."""
    cells = _cells(line, separator)
    numbers = [cell for cell in cells if cell]
    if not numbers or not all(_is_number(cell, comma=comma) for cell in numbers):
        return 0
    return len(cells)


def _is_number(text: str, *, comma: bool) -> bool:
    found = _NUMBER.fullmatch(text)
    return bool(found) and ("," not in text if not comma else "." not in text)


def _numbers(path: Path, text: str, head: _Head) -> pl.DataFrame:
    """(n, width) of numbers; lines that are none are left out."""
    body = text.split("\n", head.first_row)[-1] if head.first_row else text
    if head.separator == " ":
        body = re.sub(r"[ \t]+", " ", re.sub(r"^[ \t]+|[ \t\r]+$", "", body, flags=re.MULTILINE))
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of lines that are left out
            raw = pl.read_csv(
                io.BytesIO(body.encode()), separator=head.separator, has_header=False,
                infer_schema=False, truncate_ragged_lines=True, ignore_errors=True,
            )  # fmt: skip
    except (pl.exceptions.PolarsError, ValueError) as error:
        raise LogError(f"{path.name} cannot be read: {str(error).splitlines()[0][:80]}") from None
    frame = raw.select(raw.columns[: head.width])
    if head.decimal_comma:
        frame = frame.with_columns(pl.all().str.replace(",", ".", literal=True))
    frame = frame.with_columns(pl.all().str.strip_chars(' "\r\t').cast(pl.Float64, strict=False))
    frame = frame.filter(pl.any_horizontal(pl.all().is_not_null()))
    if frame.height < _LEAST_ROWS:
        raise LogError(f"{path.name} holds {frame.height} lines of numbers, which is no curve")
    return frame.fill_null(float("nan"))


def _names(head: _Head) -> tuple[list[str], list[str]]:
    """Names of the columns, and units where the line below them has those."""
    rows = [
        _cells(line.lstrip("#% "), None if head.separator == " " else head.separator)
        for line in head.lines
        if not any(p.search(line) and _named_number(line, p) for p in (_INTERVAL, _RATE))
    ]
    fitting = [
        row for row in rows
        if len(row) >= head.width and not all(_NUMBER.fullmatch(cell) for cell in row)
    ]  # fmt: skip
    if not fitting:
        return [""] * head.width, [""] * head.width
    names = fitting[-1]
    units = [""] * head.width
    if len(fitting) > 1 and all(_looks_like_unit(cell) for cell in names[: head.width]):
        names, units = fitting[-2], names
    return [n.lstrip("#% ") for n in names[: head.width]], list(units[: head.width])


def _looks_like_unit(cell: str) -> bool:
    return bool(
        re.fullmatch(r"[(\[]?\s*(?:[numkMGµμ]?(?:s|V|A)|sec|volts?|amps?|seconds?|Sequence)\s*[)\]]?",
                     cell.strip(), re.IGNORECASE)
    )  # fmt: skip


def _scale(name: str, unit: str) -> float:
    """What a column is multiplied by: (mV) 0.001, (µs) 1e-6."""
    tails = [re.split(sign, name)[-1] for sign in ("_", " ", "/")]
    for text in (unit, *re.findall(r"[(\[]([^)\]]*)[)\]]", name), *tails):
        found = _UNIT.fullmatch(text.strip("()[] "))
        if found and found[2] in ("s", "V", "A", "sec"):
            return _SCALES[found[1]]
    return 1.0


def _places(
    path: Path, names: list[str], units: list[str], chosen: Mapping[str, str], frame: pl.DataFrame
) -> dict[str, int]:
    """Which column is time, volts and amps: as chosen, by name, else in that order."""
    places = _chosen_places(path, names, chosen)
    said = [
        f"{n} ampere" if _AMPS_UNIT.fullmatch(u) else f"{n} {u}".strip()
        for n, u in zip(names, units, strict=True)
    ]
    free = [i for i in range(len(names)) if i not in places.values()]
    for quantity, pattern in (("time", _TIME), ("amps", _AMPS), ("volts", _VOLTS)):
        found = next((i for i in free if pattern.search(said[i])), None)
        if quantity not in places and found is not None:
            places[quantity] = found
            free.remove(found)
    has_others = len(free) > 1 or "volts" in places
    if "time" not in places and free and has_others and _rises(frame, free[0]):
        places["time"] = free.pop(0)
    if "volts" in places:
        return places
    free.sort(key=lambda i: not _CHANNEL.search(said[i]))
    if not free and "time" in places and len(names) == 1:
        free = [places.pop("time")]
    if not free:
        raise LogError(f"{path.name}: no column is volts; name it with --map volts=…")
    return places | {"volts": free[0]}


def _chosen_places(path: Path, names: list[str], chosen: Mapping[str, str]) -> dict[str, int]:
    places = {}
    for quantity, name in chosen.items():
        if quantity not in ("time", "volts", "amps"):
            raise MappingError(f'"{quantity}" is none of time, volts, amps')
        if name not in names:
            raise MappingError(f'{path.name} has no column "{name}"; it has {", ".join(names)}')
        places[quantity] = names.index(name)
    return places


def _rises(frame: pl.DataFrame, place: int) -> bool:
    values = frame.get_column(frame.columns[place]).to_numpy()
    steps = np.diff(values[np.isfinite(values)])
    return bool(steps.size and np.all(steps >= 0) and np.any(steps > 0))


def _counts(values: FloatArray) -> bool:
    """Whether a column numbers the samples."""
    steps = np.diff(values)
    return bool(steps.size and np.all(steps == 1))


def _stated_step(head: _Head) -> float | None:
    """S between samples, as the header says: a named interval, a rate, or a column of its own."""
    separator = None if head.separator == " " else head.separator
    for number, line in enumerate(head.lines):
        for pattern, is_rate in ((_INTERVAL, False), (_RATE, True)):
            if not pattern.search(line):
                continue
            step = _named_number(line, pattern)
            if step is None and number + 1 < len(head.lines):
                step = _below(line, head.lines[number + 1], pattern, separator)
            if step is not None and step > 0:
                return 1 / step if is_rate else step
    return None


def _named_number(line: str, pattern: re.Pattern[str]) -> float | None:
    """The first number after a name, in s or Hz."""
    found = pattern.search(line)
    assert found is not None
    after = line[found.end() :]
    number = re.search(rf"(?<![\w.])({_NUMBER.pattern})\s*[,;\t\"']*\s*([a-zA-Zµμ/]*)", after)
    if number is None:
        # The unit may stand with the name: "Interval (us),10".
        return None
    unit = number[2] or next(iter(re.findall(r"[(\[]([a-zA-Zµμ/]+)[)\]]", line)), "")
    scale = _UNIT.fullmatch(unit)
    return float(number[1].replace(",", ".")) * (_SCALES[scale[1]] if scale else 1.0)


def _below(
    names: str, values: str, pattern: re.Pattern[str], separator: str | None
) -> float | None:
    """The value under a name, where the header is a table itself."""
    cells, below = _cells(names, separator), _cells(values, separator)
    place = next((i for i, cell in enumerate(cells) if pattern.search(cell)), None)
    if place is None or place >= len(below) or not _NUMBER.fullmatch(below[place]):
        return None
    return float(below[place].replace(",", "."))
