"""Runs that are kept as a table: what a line has, and whether what is entered will do."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yardtoll.core.formatting import quoted

Fields = Mapping[str, float | str]
"""One line: values by the keys of its fields, units in the keys."""

CAPTURE = "recording_id"
"""The field that names the recording behind a line; it is set by taking a capture in."""
RELATIVE, FULL_SCALE = "relative", "full_scale_v"
"""Fields beside the columns: a capture is in shares of full scale, which is so many volts."""
DIVIDER = "divider"
"""Field beside the columns: what a capture's volts are multiplied by, for a probe or divider that
the instrument did not know."""
CALIBRATION_DB, CALIBRATION_RMS = "calibration_db", "calibration_rms"
"""Fields beside the columns: a level, and the r.m.s. in shares of full scale that it gave."""
LONGEST_WORDS = 200


@dataclass(frozen=True, kw_only=True)
class EntryField:
    """One column of such a table: a number with a unit, a choice of words, or free words.

    Attributes:
        unit: of a number; None where it is not one.
        choices: (word in the file, as shown) where one of a few is chosen.
        needed: a line without it says nothing.
        default: what a new line begins with; None for nothing.
        hint: what would be typed, such as "kettle".
        in_list: shown in the table and not only in the form.
        told: a capture tells it, so that nobody is asked.
        only_with: (key, value) of the choice that it belongs to; None where it always does.
        from_library: names one of the reviewer's own things, which fills other fields in.
        zero: what a 0 means in words; "" where it is a figure like others.
    """

    key: str
    title: str
    unit: str | None = None
    low: float = 0.0
    high: float = 100_000.0
    decimals: int = 0
    choices: tuple[tuple[str, str], ...] = ()
    needed: bool = False
    default: float | str | None = None
    hint: str = ""
    in_list: bool = True
    told: bool = False
    only_with: tuple[str, str] | None = None
    from_library: bool = False
    zero: str = ""

    @property
    def is_number(self) -> bool:
        """Whether its value is a figure."""
        return self.unit is not None

    def shown(self, value: float | str) -> str:
        """A value as the table shows it."""
        if isinstance(value, str):
            return dict(self.choices).get(value, value)
        if self.zero and not value:
            return self.zero
        return f"{value:.{self.decimals}f} {self.unit or ''}".rstrip()


def number_in(fields: Fields, key: str) -> float | None:
    """A number of a line; None where there is none."""
    value = fields.get(key)
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        return None
    return float(value)


def word_in(fields: Fields, key: str) -> str:
    """Words of a line; "" where there are none."""
    value = fields.get(key)
    return value if isinstance(value, str) else ""


def entry_is_wrong(table: Sequence[EntryField], fields: Fields) -> str:
    """Why a line will not do, in one sentence; "" when it will."""
    for field in table:
        value = fields.get(field.key)
        if value is None or value == "":
            if field.needed:
                return f"{field.title} is missing."
            continue
        wrong = _value_is_wrong(field, value)
        if wrong:
            return wrong
    return ""


def _value_is_wrong(field: EntryField, value: float | str) -> str:
    if field.is_number:
        if isinstance(value, str) or not math.isfinite(value):
            return f"{field.title} must be a number."
        span = f"{field.low:g} to {field.high:g} {field.unit}".rstrip()
        inside = field.low <= value <= field.high
        return "" if inside else f"{field.title} must be from {span}."
    if not isinstance(value, str):
        return f"{field.title} must be words."
    if field.choices and value not in dict(field.choices):
        return f"{field.title} {quoted(value)} is not one of its choices."
    too_long = len(value) > LONGEST_WORDS
    return f"{field.title} is longer than {LONGEST_WORDS} characters." if too_long else ""
