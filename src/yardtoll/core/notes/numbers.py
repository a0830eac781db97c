"""Figures as people write them: decimal comma or point, groups of thousands, ranges."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

NUMBER = (
    r"(?:\d{1,3}(?:[ '\u2019\u00a0\u202f]\d{3})+(?!\d)(?:[.,]\d+)?"
    r"|\d{1,3}(?:,\d{3})+\.\d+|\d{1,3}(?:\.\d{3})+,\d+|\d+(?:[.,]\d+)?)"
)
"""A figure without its sign; groups of three may be apart by a space or an apostrophe."""
_ANY = re.compile(r"(?<![\d:.,])\d+(?:[.,]\d+)+(?![\d:])")
_GROUPED = re.compile(r"^[1-9]\d{0,2}[.,]\d{3}$")


class Decimal(StrEnum):
    """What stands before the decimals in a text; either where nothing says."""

    COMMA = ","
    POINT = "."
    EITHER = ""


@dataclass(frozen=True)
class Figure:
    """A figure and the step of its last digit."""

    value: float
    step: float


def decimal_of(texts: Iterable[str]) -> Decimal:
    """What a whole text writes before its decimals, from its figures that leave no doubt."""
    comma = point = 0
    for text in texts:
        for found in _ANY.findall(text):
            if _GROUPED.match(found) or ("," in found and "." in found) or found.count(".") > 1:
                continue
            comma += "," in found
            point += "." in found
    if comma == point:
        return Decimal.EITHER
    return Decimal.COMMA if comma > point else Decimal.POINT


def figure_of(text: str, decimal: Decimal, *, usually_whole: bool) -> Figure:
    """The value of a written figure.

    Args:
        text: matched by :data:`NUMBER`.
        decimal: of the whole text.
        usually_whole: of a quantity that is seldom read to thousandths, such as W and Wh: "1,830"
            is then a group of thousands where nothing else says.
    """
    bare = re.sub(r"[ '\u2019\u00a0\u202f]", "", text)
    if "," in bare and "." in bare:
        thousands = "," if bare.rindex(".") > bare.rindex(",") else "."
        bare = bare.replace(thousands, "")
    elif _GROUPED.match(bare):
        mark = "," if "," in bare else "."
        is_group = decimal not in ("", mark) or (not decimal and mark == "," and usually_whole)
        bare = bare.replace(mark, "" if is_group and usually_whole else ".")
    elif bare.count(",") > 1 or bare.count(".") > 1:
        bare = bare.replace(",", "").replace(".", "")
    bare = bare.replace(",", ".")
    decimals = len(bare.partition(".")[2])
    return Figure(float(bare), 10.0**-decimals)
