"""How quantities, times and numbers are written where the reader lives, and read when typed.

Everything is kept in SI units, ISO dates and decimal points; a region only says how it is shown.
Factors: 1 lb = 0.45359237 kg and t °F = (t − 32)/1.8 °C exactly (NIST SP 811, appendix B).
"""

import re
from dataclasses import dataclass
from functools import lru_cache

from yardtoll.core.errors import FieldError
from yardtoll.core.formatting import quoted

KG_PER_LB = 0.45359237
_F_PER_C, _F_AT_0_C = 1.8, 32.0
CELSIUS, KILOGRAM = "°C", "kg"
_NUMBER = r"\d+(?:\.\d+)?"
_IN_QUOTES = r"“[^”]*”|\"[^\"]*\""
_TEMPERATURE = re.compile(rf"(?:([−-]?{_NUMBER})(–|\s*±\s*))?(±\s*|\bby )?([−-]?{_NUMBER}) °C\b")
_WEIGHT = re.compile(rf"(?:({_NUMBER})( ± ))?({_NUMBER}) kg\b")
_DECIMAL = re.compile(r"(?<![\d.\w])([−-]?\d+)\.(\d+)(?![\d.])")


@dataclass(frozen=True)
class Region:
    """What a reader in some country expects.

    Attributes:
        key: by which it is remembered.
        fahrenheit, pounds: units other than °C and kg.
        twelve_hours: "6:40 pm" for 18:40.
        day: a calendar day, as a pattern of `strftime`.
        decimal_sign: between units and tenths.
        mains_v: nominal volts of an outlet.
        currency: ISO 4217 code.
        territories: ISO 3166 codes of the countries that it is first offered to.
    """

    key: str
    name: str
    mains_v: float
    currency: str
    day: str = "%Y-%m-%d"
    decimal_sign: str = "."
    fahrenheit: bool = False
    pounds: bool = False
    twelve_hours: bool = False
    territories: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """Like "°F, lb, 12 h, 120 V, USD, 1.5"."""
        return ", ".join(
            (
                "°F" if self.fahrenheit else CELSIUS,
                "lb" if self.pounds else KILOGRAM,
                "12 h" if self.twelve_hours else "24 h",
                f"{self.mains_v:g} V",
                self.currency,
                f"1{self.decimal_sign}5",
            )
        )


REGIONS = {
    region.key: region
    for region in (
        Region("international", "International", 230, "EUR"),
        Region("us", "United States", 120, "USD", "%m/%d/%Y", fahrenheit=True, pounds=True,
               twelve_hours=True, territories=("US",)),
        Region("canada", "Canada", 120, "CAD", twelve_hours=True, territories=("CA",)),
        Region("britain", "Great Britain and Ireland", 230, "GBP", "%d/%m/%Y",
               territories=("GB", "IE")),
        Region("europe", "European mainland", 230, "EUR", "%d.%m.%Y", ",", territories=(
            "AT", "BE", "BG", "CZ", "DE", "DK", "EE", "ES", "FI", "FR", "GR", "HR", "HU", "IT",
            "LT", "LU", "LV", "NL", "NO", "PL", "PT", "RO", "SE", "SI", "SK")),
        Region("australia", "Australia and New Zealand", 230, "AUD", "%d/%m/%Y",
               twelve_hours=True, territories=("AU", "NZ")),
        Region("japan", "Japan", 100, "JPY", "%Y/%m/%d", territories=("JP",)),
    )
}  # fmt: skip
"""Common practice, no source; each yard's site says its own price and currency."""
INTERNATIONAL = REGIONS["international"]


def region_of(territory: str) -> Region:
    """The region first offered in a country, by its ISO 3166 code."""
    return next((r for r in REGIONS.values() if territory in r.territories), INTERNATIONAL)


def in_region(text: str, region: Region, as_written: tuple[str, ...] = ()) -> str:
    """A sentence or a figure in the region's units and with its decimal sign.

    What stands in quotation marks is somebody's own words and stays as it is.

    Args:
        as_written: names and words that stay as they are too.
    """
    if not (region.fahrenheit or region.pounds or region.decimal_sign != "."):
        return text
    parts = _kept(as_written).split(text)
    return "".join(p if i % 2 else _converted(p, region) for i, p in enumerate(parts))


@lru_cache(maxsize=8)
def _kept(as_written: tuple[str, ...]) -> re.Pattern[str]:
    with_figures = sorted((w for w in as_written if re.search(r"\d", w)), key=len, reverse=True)
    return re.compile(f"({'|'.join([_IN_QUOTES, *map(re.escape, with_figures)])})")


def _converted(text: str, region: Region) -> str:
    if region.fahrenheit:
        text = _TEMPERATURE.sub(_to_fahrenheit, text)
    if region.pounds:
        text = _WEIGHT.sub(_to_pounds, text)
    if region.decimal_sign != ".":
        text = _DECIMAL.sub(rf"\1{region.decimal_sign}\2", text)
    return text


def _to_fahrenheit(found: re.Match[str]) -> str:
    first, between, spread, last = found.groups()
    between = between or ""
    is_spread = bool(spread) or "±" in between
    shown = _scaled(last, _F_PER_C, 0.0 if is_spread else _F_AT_0_C)
    before = "" if first is None else _scaled(first, _F_PER_C, _F_AT_0_C)
    return f"{before}{between}{spread or ''}{shown} °F"


def _to_pounds(found: re.Match[str]) -> str:
    first, between, last = found.groups()
    before = "" if first is None else _scaled(first, 1 / KG_PER_LB)
    return f"{before}{between or ''}{_scaled(last, 1 / KG_PER_LB)} lb"


def _scaled(text: str, factor: float, offset: float = 0.0) -> str:
    """With as many decimals as it had."""
    value = float(text.replace("−", "-")) * factor + offset
    decimals = len(text.partition(".")[2])
    return f"{value + 0.0:.{decimals}f}".replace("-", "−" if "−" in text else "-")


_UNITS = {
    CELSIUS: (("°c", 1.0, 0.0), ("c", 1.0, 0.0), ("celsius", 1.0, 0.0),
              ("°f", 1 / _F_PER_C, _F_AT_0_C), ("f", 1 / _F_PER_C, _F_AT_0_C),
              ("fahrenheit", 1 / _F_PER_C, _F_AT_0_C)),
    KILOGRAM: (("kg", 1.0, 0.0), ("g", 0.001, 0.0), ("lb", KG_PER_LB, 0.0),
               ("lbs", KG_PER_LB, 0.0), ("oz", KG_PER_LB / 16, 0.0)),
}  # fmt: skip
_TYPED = re.compile(r"([−+-]?)\s*([\d., '’]*\d)\s*(\D*)")


def unit_shown(unit: str, region: Region) -> str:
    """The unit that a field of this SI unit shows."""
    if unit == CELSIUS and region.fahrenheit:
        return "°F"
    return "lb" if unit == KILOGRAM and region.pounds else unit


def shown_in(value: float, unit: str, region: Region) -> float:
    """A value in SI units in the unit that a field shows."""
    _, factor, offset = _unit(unit, unit_shown(unit, region))
    return value / factor + offset


def typed_in(text: str, unit: str, region: Region) -> float:
    """What was typed, in the SI unit: "77 F", "22,5 lb", "1.234,5"; a bare number in the region's.

    Raises:
        FieldError: it is no number, or its unit is another's.
    """
    found = _TYPED.fullmatch(" ".join(text.split()))
    if not found:
        raise FieldError(f"{quoted(text)} is not a number")
    sign, digits, named = found.groups()
    value = _number(digits, region) * (-1 if sign in ("-", "−") else 1)
    _, factor, offset = _unit(unit, named.strip() or unit_shown(unit, region))
    return (value - offset) * factor


def _unit(unit: str, named: str) -> tuple[str, float, float]:
    if named.lower() == unit.lower():
        return (unit, 1.0, 0.0)
    for found in _UNITS.get(unit, ()):
        if found[0] == named.lower():
            return found
    raise FieldError(f"{quoted(named)} is not a unit that fits {unit or 'here'}")


def _number(digits: str, region: Region) -> float:
    """The last of two kinds of sign is the decimal one; one alone is too, unless it groups."""
    plain = re.sub(r"[ '’]", "", digits)
    comma, point = plain.rfind(","), plain.rfind(".")
    if comma >= 0 and point >= 0:
        sign = "," if comma > point else "."
    elif comma >= 0 or point >= 0:
        sign = "," if comma >= 0 else "."
        groups = plain.split(sign)
        grouped = all(len(g) == 3 for g in groups[1:]) and 1 <= len(groups[0]) <= 3
        # "1,234" is twelve hundred where a point is written, and "1.234" where a comma is.
        if len(groups) > 2 or (grouped and sign != region.decimal_sign and groups[0] != "0"):
            if not grouped:
                raise FieldError(f"{quoted(digits)} is not a number")
            sign = ""
    else:
        sign = ""
    for other in {",", "."} - {sign}:
        plain = plain.replace(other, "")
    try:
        return float(plain.replace(sign, ".") if sign else plain)
    except ValueError:
        raise FieldError(f"{quoted(digits)} is not a number") from None
