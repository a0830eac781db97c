"""Guessing which column of a log is what, from its header and its content."""

import re
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import polars as pl

from yardtoll.core.electrical.quantities import LOGGED, QUANTITIES, Quantity
from yardtoll.core.formatting import quoted
from yardtoll.store.errors import MappingError
from yardtoll.store.logs.numbers import NumberStyle, to_numbers, unit_in_cells, unit_scale
from yardtoll.store.logs.times import looks_like_date, looks_like_time

TIME = "time"
DATE = "date"
TARGETS = (TIME, DATE, *(q.value for q in LOGGED))
_CONTENT_SAMPLE = 20_000
_COUNTER_SAMPLES = 20
"""A nameless column that never falls over this many samples counts; power is never so steady."""

# Words that name a quantity in a header. Words from this list alone decide; a bare symbol or a
# unit decides where no word does.
_WORDS: dict[str, tuple[str, ...]] = {
    Quantity.ENERGY: ("energy", "watt hours", "watthours", "watt-hours", "counter", "consumption"),
    Quantity.POWER_FACTOR: ("power factor", "powerfactor", "cos phi", "pf", "cosphi"),
    Quantity.POWER: ("power", "watts", "watt", "load"),
    Quantity.VOLTS: ("voltage", "volts", "volt"),
    Quantity.AMPS: ("current", "amps", "amperes", "ampere", "amp"),
    Quantity.HERTZ: ("frequency", "freq", "hertz"),
    Quantity.TEMPERATURE: ("temperature", "temp"),
    Quantity.SOC: ("state of charge", "soc", "battery level", "charge level"),
    TIME: ("timestamp", "datetime", "date time", "time", "elapsed", "seconds", "clock", "epoch"),
    DATE: ("date", "day"),
}
_SYMBOLS: dict[str, str] = {
    "p": Quantity.POWER, "w": Quantity.POWER, "kw": Quantity.POWER,
    "e": Quantity.ENERGY, "wh": Quantity.ENERGY, "kwh": Quantity.ENERGY,
    "v": Quantity.VOLTS, "u": Quantity.VOLTS, "a": Quantity.AMPS, "i": Quantity.AMPS,
    "f": Quantity.HERTZ, "hz": Quantity.HERTZ, "pf": Quantity.POWER_FACTOR,
    "t": TIME, "s": TIME, "ts": TIME, "ms": TIME, "min": TIME,
    "mw": Quantity.POWER, "mwh": Quantity.ENERGY, "mv": Quantity.VOLTS, "ma": Quantity.AMPS,
    "°c": Quantity.TEMPERATURE, "°f": Quantity.TEMPERATURE, "h": TIME,
}  # fmt: skip
_NOT_MEANT = ("reactive", "apparent", "var", "kvar", "va", "kva", "price", "cost")
_LESS_LIKELY = ("input", "in", "charge", "solar", "pv", "min", "max", "peak", "avg", "average")
_MORE_LIKELY = ("output", "out", "ac", "active", "total", "real")
_TIME_UNITS = ("s", "sec", "secs", "second", "seconds", "ms", "msec", "us", "min", "mins",
               "minute", "minutes", "h", "hr", "hrs", "hour", "hours")  # fmt: skip

_OTHER_UNITS = frozenset(
    re.split(
        r"\s+",
        "% °c °f ℃ ℉ k hpa kpa mpa pa mbar bar psi inhg mmhg torr rpm ppm ppb ppt lx lux lm cd db "
        "dba dbm m/s km/h kmh mph kn kt mm cm km ft l ml gal g kg lb lbs oz µg/m3 µg/m³ ug/m3 "
        "mg/m3 j kj mj btu cal kcal bpm deg ° ohm ohms ω kω mω ah mah mol ph ntu uv",
    )
)
"""Units that are not of watts, volts, amps or watt-hours."""
_OTHER_WORDS = frozenset(
    re.split(
        r"\s+",
        "humidity moisture rh co co2 pressure barometer altitude elevation speed wind rain rpm ppm "
        "ppb lux luminance brightness noise sound loudness weight mass flow pm2 pm10 tvoc voc aqi "
        "latitude longitude lat lon heading bearing percent percentage rssi snr",
    )
)
_ELECTRICAL = (Quantity.POWER, Quantity.VOLTS, Quantity.AMPS, Quantity.ENERGY)
_PER_AREA = re.compile(r"k?w\s*/\s*m\s*(?:²|\^?2)", re.IGNORECASE)
_IRRADIANCE_WORDS = ("irradiance", "insolation", "pyranometer", "radiation", "poa", "ghi")

_UNIT_IN_HEADER = re.compile(r"[\[(]\s*([^\])]{1,12}?)\s*[\])]|[/_,]\s*([A-Za-z°%µ]{1,5})\s*$")


@dataclass(frozen=True)
class Mapped:
    """One column taken for one purpose.

    Attributes:
        column: the column's name in the log.
        unit: the unit its numbers are in; None for the fixed one.
        sure: False where only the content suggested it.
    """

    column: str
    unit: str | None = None
    sure: bool = True


ColumnMapping = dict[str, Mapped]


def guess_mapping(frame: pl.DataFrame, style: NumberStyle, *, named: bool) -> ColumnMapping:
    """Purpose → column, for every purpose the log seems to serve.

    Args:
        frame: the log's columns.
        style: how its numbers are written.
        named: whether the header is the log's own.
    """
    scored: dict[str, list[tuple[float, int, Mapped]]] = {}
    if named:
        for index, name in enumerate(frame.columns):
            purpose, unit, score = _by_header(name)
            if purpose is None and not is_of_another_kind(name):
                purpose, unit, score = _by_cells(frame[name])
            if purpose is not None and _holds(frame[name], purpose, style):
                scored.setdefault(purpose, []).append((-score, index, Mapped(name, unit)))
    mapping: ColumnMapping = {purpose: min(found)[2] for purpose, found in scored.items()}
    _settle_dates(frame, mapping)
    _guess_by_content(frame, style, mapping)
    return mapping


def override(
    mapping: ColumnMapping, chosen: Mapping[str, str], frame: pl.DataFrame, log_name: str
) -> ColumnMapping:
    """The mapping with the user's choices; "" takes a purpose away.

    Raises:
        MappingError: an unknown purpose or column.
    """
    result = dict(mapping)
    for purpose, column in chosen.items():
        if purpose not in TARGETS:
            raise MappingError(
                f"{quoted(purpose)} is nothing a column can hold; choose from {', '.join(TARGETS)}"
            )
        if not column:
            result.pop(purpose, None)
            continue
        if column not in frame.columns:
            names = ", ".join(name[:40] for name in frame.columns[:12])
            raise MappingError(f"{log_name} has no column {quoted(column)}; it has {names}")
        for other in [p for p, m in result.items() if m.column == column]:
            del result[other]
        result[purpose] = Mapped(column, _by_header(column)[1] or unit_in_cells(frame[column]))
    return result


def scale_to_base(purpose: str, unit: str | None) -> float:
    """Factor from a column's unit to the quantity's fixed one; 1 for units that need none."""
    if unit is None or purpose in (TIME, DATE):
        return 1.0
    return unit_scale(unit, QUANTITIES[Quantity(purpose)].unit) or 1.0


def is_fahrenheit(purpose: str, unit: str | None) -> bool:
    """Whether a column holds °F."""
    return purpose == Quantity.TEMPERATURE and (unit or "").strip("° ").lower() in (
        "f",
        "fahrenheit",
    )


def is_of_another_kind(header: str) -> bool:
    """Whether a header names a unit or a quantity that is neither watts, volts, amps nor energy."""
    plain = header.strip().lower()
    if "%" in plain or any(mark in plain for mark in ("°", "℃", "℉", "µg")):
        return True
    bracketed = [unit.strip() for unit in re.findall(r"[\[(]\s*([^\])]{1,12}?)\s*[\])]", plain)]
    words = re.sub(r"[^a-z0-9%/°µ]+", " ", plain).split()
    if any(unit in _OTHER_UNITS for unit in bracketed):
        return True
    if len(words) > 1 and words[-1] in _OTHER_UNITS and len(words[-1]) > 1:
        return True
    if any(_purpose_of_unit(unit) in _ELECTRICAL for unit in bracketed):
        return False
    return any(word in _OTHER_WORDS for word in words)


def bears_energy(header: str) -> bool:
    """Whether a header names power or an energy counter."""
    return _by_header(header)[0] in (Quantity.POWER, Quantity.ENERGY)


def _by_header(name: str) -> tuple[str | None, str | None, float]:
    """Purpose, unit and score of a header; nothing electrical where it names another kind."""
    purpose, unit, score = _by_words(name)
    if purpose in _ELECTRICAL and is_of_another_kind(name):
        return None, None, 0.0
    return purpose, unit, score


def _by_words(name: str) -> tuple[str | None, str | None, float]:
    """Purpose, unit and score of a header such as "Power (W)", "kWh", "t [s]", "delivered_wh"."""
    found = _UNIT_IN_HEADER.search(name)
    if found and found[2] and _purpose_of_unit(found[2]) is None:
        found = None  # "Date/Time" and "power_out" end in words, not in units
    unit = (found[1] or found[2]) if found else None
    words = re.sub(r"[^a-z°%]+", " ", (name[: found.start()] if found else name).lower()).strip()
    plain = re.sub(r"[^a-z°%]+", " ", name.lower()).strip()
    if any(word in plain.split() for word in _NOT_MEANT):
        return None, None, 0.0
    if _PER_AREA.search(name) or any(word in plain.split() for word in _IRRADIANCE_WORDS):
        # kW/m² is told by the figures: not every logger writes its unit.
        return Quantity.IRRADIANCE, None, 2.0
    likely = sum(w in words.split() for w in _MORE_LIKELY) - sum(
        w in words.split() for w in _LESS_LIKELY
    )
    by_unit = _purpose_of_unit(unit) if unit else None
    for purpose, names in _WORDS.items():
        if any(re.search(rf"\b{re.escape(word)}\b", words) for word in names):
            if purpose == TIME and unit is None:
                unit = next((w for w in words.split() if w in _TIME_UNITS), None)
            return _agreed(purpose, by_unit, unit, 2.0 + 0.1 * likely)
    if by_unit is not None:
        return by_unit, unit, 1.5 + 0.1 * likely
    return _by_symbol(name, words)


def _by_symbol(name: str, words: str) -> tuple[str | None, str | None, float]:
    """Purpose, unit and score of a header that is, or ends in, a symbol or a unit."""
    if words in _SYMBOLS:
        return _SYMBOLS[words], words if _purpose_of_unit(words) else None, 1.0
    last = words.rsplit(maxsplit=1)[-1] if words else ""
    if last in _TIME_UNITS and len(last) > 1:
        return TIME, last, 0.9
    if last in _SYMBOLS and (len(last) > 1 or name.endswith((" W", " V", " A"))):
        return _SYMBOLS[last], last, 0.8
    return None, None, 0.0


def _agreed(
    purpose: str, by_unit: str | None, unit: str | None, score: float
) -> tuple[str, str | None, float]:
    """A unit overrules a word: "Power (kWh)" is energy; a unit that fits nothing is dropped."""
    if by_unit is not None and by_unit != purpose and not (purpose == DATE and by_unit == TIME):
        return by_unit, unit, score - 0.5
    if purpose == TIME:
        return purpose, unit if unit and unit.lower() in _TIME_UNITS else None, score
    return purpose, unit if by_unit is not None else None, score


def _purpose_of_unit(unit: str) -> str | None:
    """Which purpose a unit belongs to, None for none or several."""
    if unit.strip("° ").lower() in ("c", "f", "celsius", "fahrenheit") and unit != "F":
        return Quantity.TEMPERATURE
    for quantity in (
        Quantity.ENERGY,
        Quantity.POWER,
        Quantity.VOLTS,
        Quantity.AMPS,
        Quantity.HERTZ,
    ):
        if unit_scale(unit, QUANTITIES[quantity].unit) is not None:
            return quantity
    return TIME if unit.lower() in _TIME_UNITS else None


def _by_cells(column: pl.Series) -> tuple[str | None, str | None, float]:
    """Purpose of a column whose header says nothing but whose cells carry a unit."""
    unit = unit_in_cells(column)
    purpose = _purpose_of_unit(unit) if unit else None
    return purpose, unit, 0.5


def _holds(column: pl.Series, purpose: str, style: NumberStyle) -> bool:
    """A column with nothing in it does not exist, and words are no figures."""
    if purpose in (TIME, DATE):
        return column.drop_nulls().len() > 0
    # Nearly always the first lines say it; a whole column is read twice otherwise.
    parts = (column.head(_CONTENT_SAMPLE), column)
    return any(np.isfinite(to_numbers(part, style)).any() for part in parts)


def _settle_dates(frame: pl.DataFrame, mapping: ColumnMapping) -> None:
    """A column called "Date" that holds times is the time; date and time may stand apart."""
    date = mapping.get(DATE)
    if date is not None and TIME not in mapping:
        mapping[TIME] = mapping.pop(DATE)
    time = mapping.get(TIME)
    if time is not None and DATE in mapping:
        dated = looks_like_time(frame[mapping[DATE].column])
        if dated or not looks_like_date(frame[mapping[DATE].column]):
            del mapping[DATE]


def _guess_by_content(frame: pl.DataFrame, style: NumberStyle, mapping: ColumnMapping) -> None:
    """Fill in time, and power in a log of bare numbers, from what the cells look like."""
    taken = {m.column for m in mapping.values()}
    free = [name for name in frame.columns if name not in taken and not is_of_another_kind(name)]
    if TIME not in mapping:
        found = next((name for name in free if looks_like_time(frame[name])), None)
        if found is None:
            found = next((name for name in free if _rises(frame[name], style)), None)
        if found is not None:
            mapping[TIME] = Mapped(found, sure=False)
            free.remove(found)
    needed = {Quantity.POWER, Quantity.ENERGY, Quantity.VOLTS}
    if needed.isdisjoint(mapping):
        for name in free:
            numbers = to_numbers(frame[name].head(_CONTENT_SAMPLE), style)
            if np.isfinite(numbers).sum() > numbers.size / 2:
                counts = numbers.size > _COUNTER_SAMPLES and _rises(
                    frame[name], style, strictly=False
                )
                mapping[Quantity.ENERGY if counts else Quantity.POWER] = Mapped(name, sure=False)
                break


def _rises(column: pl.Series, style: NumberStyle, *, strictly: bool = True) -> bool:
    """Whether a column of numbers rises from first to last."""
    numbers = to_numbers(column.head(_CONTENT_SAMPLE), style)
    numbers = numbers[np.isfinite(numbers)]
    if numbers.size < 2 or numbers.size < column.head(_CONTENT_SAMPLE).len() / 2:
        return False
    steps = np.diff(numbers)
    return bool(numbers[-1] > numbers[0] and np.all(steps > 0 if strictly else steps >= 0))
