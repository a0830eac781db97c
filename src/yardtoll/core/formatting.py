"""Numbers as shown: no more digits than their uncertainty allows, times a person can read."""

import math

MINUTE_S = 60
HOUR_S = 3600


UNCERTAINTY_DIGITS = 2
"""An uncertainty is shown with so many figures (JCGM 100:2008, 7.2.6)."""
_TINY = 1e-3
"""Figures below this are written with a power of ten."""
_SUPERSCRIPT = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")


def decimals_for(expanded: float) -> int:
    """Decimals that show an uncertainty with two significant figures; never negative."""
    return max(0, _places_for(expanded))


def _places_for(expanded: float) -> int:
    """The place of its second significant figure: 1 for tenths, −1 for tens."""
    if not (math.isfinite(expanded) and expanded > 0):
        return 0
    exponent = math.floor(math.log10(expanded))
    if round(expanded / 10**exponent, 1) >= 10:
        exponent += 1
    return UNCERTAINTY_DIGITS - 1 - exponent


def counted(count: int, noun: str, plural: str = "") -> str:
    """Like "1 photo", "3 photos"; with a plural that is not only an s, "3 tries"."""
    return f"{count} {noun}" if count == 1 else f"{count} {plural or f'{noun}s'}"


_QUOTED = 60


def quoted(text: str) -> str:
    """In quotes, on one line, cut where it is long: what a file or a person gave."""
    plain = " ".join(str(text).split())
    return f'"{plain}"' if len(plain) <= _QUOTED else f'"{plain[: _QUOTED - 1]}…"'


def shortened(text: str, longest: int) -> str:
    """On one line, cut with an ellipsis where it is longer than so many characters."""
    plain = " ".join(text.split())
    return plain if len(plain) <= longest else f"{plain[: longest - 1]}…"


def capitalised(sentence: str) -> str:
    """With a capital, unless it begins with the name of a file."""
    first = sentence.split(" ", 1)[0]
    return sentence if "." in first[:-1] else f"{sentence[:1].upper()}{sentence[1:]}"


def format_with_uncertainty(value: float, expanded: float) -> str:
    """Like "89.41 ± 0.52", "1910 ± 130", "(1.1 ± 2.3)·10⁻⁵": value and U to two figures of U.

    The value alone when U is 0.
    """
    if expanded == 0:
        return f"{value:.1f}"
    largest = max(abs(value), expanded)
    if largest < _TINY:
        exponent = math.floor(math.log10(largest))
        power = str(exponent).translate(_SUPERSCRIPT)
        scaled = format_with_uncertainty(value / 10.0**exponent, expanded / 10.0**exponent)
        return f"({scaled})·10{power}"
    places = _places_for(expanded)
    decimals = max(0, places)
    # Nothing has no minus.
    shown = round(value, places) + 0.0
    within = round(expanded, places) if places < 0 else expanded
    return f"{shown:.{decimals}f} ± {within:.{decimals}f}"


def format_probability(probability: float) -> str:
    """Like "84 %", "99.2 %"; certainty is never claimed: ">99.9 %", "<0.1 %"."""
    percent = 100 * probability
    if percent > 99.9:
        return ">99.9 %"
    if percent < 0.1:
        return "<0.1 %"
    return f"{percent:.0f} %" if 1 <= percent <= 99 else f"{percent:.1f} %"


def format_clock(duration_s: float) -> str:
    """Like "3:05:12", hours unpadded; negative and unknown durations give "–"."""
    if not math.isfinite(duration_s) or duration_s < 0:
        return "–"
    whole = int(duration_s)
    return f"{whole // HOUR_S}:{whole % HOUR_S // MINUTE_S:02d}:{whole % MINUTE_S:02d}"


def format_span(duration_s: float) -> str:
    """Like "4 h 20 min", "12 min", "40 s": for sentences."""
    if not math.isfinite(duration_s) or duration_s < 0:
        return "–"
    if duration_s < 90:
        return f"{duration_s:.0f} s"
    minutes = round(duration_s / MINUTE_S)
    if minutes < 60:
        return f"{minutes} min"
    return f"{minutes // 60} h {minutes % 60:02d} min"


def format_power(power_w: float) -> str:
    """Watts with about four digits."""
    return f"{power_w:.1f}" if abs(power_w) < 1000 else f"{power_w:.0f}"
