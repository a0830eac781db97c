"""What the sheet's charts are drawn with: words, levels and ticks of an SVG as wide as a phone."""

from html import escape

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import HOUR_S
from yardtoll.report.charts.palette import INK, LINE, MUTED, RAISED

WIDTH = 420
FAMILIES = "Barlow, sans-serif"
"""The face of every chart; the second for a reader of a bare SVG file who has not got the first."""
_TEXT = 13
_LEFT, _RIGHT, _TOP = 58, 12, 34
_POINTS = 300
_TICKS_H = (0.25, 0.5, 1, 2, 4, 6, 12, 24)
_MOST_TICKS = 6


class PowerAxes:
    """Hours across and watts up.

    Attributes:
        base: y of 0 W.
        left, right: x of the first second and of the last.
    """

    left, right = _LEFT, WIDTH - _RIGHT

    def __init__(self, span_s: float, highest_w: float, base: float) -> None:
        self.span_s, self.base = max(span_s, 60.0), base
        self._top_w = round_up(highest_w)

    def x(self, time_s: float) -> float:
        """Where a time stands."""
        return self.left + time_s / self.span_s * (self.right - self.left)

    def line(self, time_s: FloatArray, watts: FloatArray) -> str:
        """Points of a curve, as an SVG attribute."""
        up = (self.base - _TOP) / self._top_w
        return " ".join(
            f"{self.x(s):.1f},{self.base - w * up:.1f}"
            for s, w in zip(time_s.tolist(), watts.tolist(), strict=True)
        )

    def drawn(self, hours_below: float = 18) -> list[str]:
        """Lines across with their watts, and the hours so far below the base."""
        parts = []
        for share in (0.0, 0.5, 1.0):
            y = self.base - share * (self.base - _TOP)
            parts.append(f'<path d="M{self.left} {y:.1f}H{self.right}" stroke="{LINE}"/>')
            words = f"{share * self._top_w:g} W"
            parts.append(text(self.left - 6, y + 4, words, anchor="end", colour=MUTED))
        step = next((t for t in _TICKS_H if self.span_s / HOUR_S / t <= _MOST_TICKS), 48)
        for i in range(1, int(self.span_s / HOUR_S / step) + 1):
            x = self.x(i * step * HOUR_S)
            anchor = "end" if x > self.right - 16 else "middle"
            y = self.base + hours_below
            parts.append(text(x, y, f"{i * step:g} h", anchor=anchor, colour=MUTED))
        return parts


def thinned(time_s: FloatArray, watts: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means of equal stretches, at most as many as can be seen; from 0 s on."""
    keep = np.isfinite(watts)
    time_s, watts = time_s[keep], watts[keep]
    if time_s.size > _POINTS:
        parts = np.array_split(np.arange(time_s.size), _POINTS)
        watts = np.array([float(watts[part].mean()) for part in parts])
        time_s = np.array([float(time_s[part[0]]) for part in parts])
    return (time_s - time_s[0] if time_s.size else time_s), watts


def round_up(watts: float) -> float:
    """The next round figure above."""
    power = 10.0 ** np.floor(np.log10(max(watts, 1.0)))
    return next(
        float(step * power) for step in (1, 1.5, 2, 3, 4, 5, 6, 8, 10) if step * power >= watts
    )


def text(
    x: float,
    y: float,
    words: str,
    *,
    anchor: str = "start",
    colour: str = INK,
    weight: int = 400,
    width: float = 0.0,
) -> str:
    """One line; with a width it is pressed together where it would not fit."""
    fit = (
        f' textLength="{width:.0f}" lengthAdjust="spacingAndGlyphs"'
        if (width and len(words) * 0.52 * _TEXT > width)
        else ""
    )
    return (
        f'<text x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{colour}" '
        f'font-weight="{weight}"{fit}>{escape(words)}</text>'
    )


def svg(height: int, parts: list[str], title: str) -> str:
    """A whole chart of such a height; its title is read to those who cannot see it."""
    size = f'viewBox="0 0 {WIDTH} {height}" width="{WIDTH}" height="{height}"'
    face = f'font-family="{FAMILIES}" font-size="{_TEXT}"'
    ground = f'<rect width="{WIDTH}" height="{height}" fill="{RAISED}"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} role="img" aria-label="{escape(title)}" '
        f"{face}>{ground}{''.join(parts)}</svg>"
    )
