"""The few signs that the sheet's face lacks, as a face of our own: arrows, and a verdict's shapes.

The typesetter takes a missing sign from another face, and would then set all the words beside it in
that face too, if it has them. This one has nothing but the signs.

Usage: make_signs_font.py
"""

import math
from pathlib import Path

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

TO = Path(__file__).parents[1] / "src/yardtoll/report/fonts/YardSigns.ttf"
MIDDLE, STROKE = 350, 84
"""Height of a figure's middle and width of a stroke, in thousandths of the size."""

Outline = list[tuple[float, float]]


def arrow(*, left: bool) -> list[Outline]:
    """A shaft and an open head."""
    half, tip, back = STROKE / 2, 690.0, 470.0
    shaft = [(60.0, MIDDLE - half), (60.0, MIDDLE + half), (tip - 60, MIDDLE + half),
             (tip - 60, MIDDLE - half)]  # fmt: skip
    head = [(tip, MIDDLE), (back, MIDDLE + 190), (back - 62, MIDDLE + 128), (tip - 124, MIDDLE),
            (back - 62, MIDDLE - 128), (back, MIDDLE - 190)]  # fmt: skip
    outlines: list[Outline] = [shaft, head[::-1]]
    if left:
        outlines = [[(750 - x, y) for x, y in reversed(outline)] for outline in outlines]
    return outlines


def diamond() -> list[Outline]:
    """What is met."""
    return [[(60, MIDDLE), (340, MIDDLE + 280), (620, MIDDLE), (340, MIDDLE - 280)]]


def cross() -> list[Outline]:
    """What falls short."""
    reach, half = 240.0, STROKE / 2 * math.sqrt(2)
    middle = 340.0
    low, high = MIDDLE - reach, MIDDLE + reach
    rise = [
        (middle - reach, low - half), (middle - reach - half, low),
        (middle + reach, high + half), (middle + reach + half, high),
    ]  # fmt: skip
    fall = [(2 * middle - x, y) for x, y in rise]
    return [rise, fall[::-1]]


def ring() -> list[Outline]:
    """What is too close to call."""
    steps = [2 * math.pi * i / 48 for i in range(48)]

    def around(radius: float) -> Outline:
        return [(340 + radius * math.cos(a), MIDDLE + radius * math.sin(a)) for a in steps]

    return [around(260)[::-1], around(260 - STROKE)]


def make(to: Path = TO) -> None:
    """Write the face."""
    signs = {
        "→": ("arrowright", arrow(left=False), 750),
        "←": ("arrowleft", arrow(left=True), 750),
        "◆": ("diamond", diamond(), 680),
        "✕": ("cross", cross(), 680),
        "○": ("ring", ring(), 680),
    }
    glyphs = {".notdef": TTGlyphPen(None).glyph()}
    widths = {".notdef": (500, 0)}
    for name, outlines, width in signs.values():
        pen = TTGlyphPen(None)
        for outline in outlines:
            pen.moveTo(tuple(map(round, outline[0])))
            for point in outline[1:]:
                pen.lineTo(tuple(map(round, point)))
            pen.closePath()
        glyphs[name], widths[name] = pen.glyph(), (width, 0)
    font = FontBuilder(1000, isTTF=True)
    font.setupGlyphOrder(list(glyphs))
    font.setupCharacterMap({ord(sign): name for sign, (name, _, _) in signs.items()})
    font.setupGlyf(glyphs)
    font.setupHorizontalMetrics(widths)
    font.setupHorizontalHeader(ascent=1000, descent=-200)
    font.setupNameTable(
        {
            "familyName": "Yard Signs", "styleName": "Regular", "fullName": "Yard Signs Regular",
            "psName": "YardSigns-Regular", "uniqueFontIdentifier": "Yard Signs 1",
            "version": "Version 1.0",
        }
    )  # fmt: skip
    font.setupOS2(sTypoAscender=1000, sTypoDescender=-200, usWinAscent=1000, usWinDescent=200,
                  version=4, sxHeight=506, sCapHeight=700)  # fmt: skip
    font.setupPost()
    # The same bytes whenever it is made.
    font.font["head"].created = font.font["head"].modified = 0
    font.font.recalcTimestamp = False
    font.save(to)


if __name__ == "__main__":
    make()
