"""Hours across and watts up, and the means that a curve is thinned to."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.formatting import HOUR_S
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Item, Line, Point, Words

WIDTH = 420
"""Of the sheet's charts, in pixels: as wide as a phone, so that labels can be read there."""
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
        """The place of a time on the axis."""
        return self.left + time_s / self.span_s * (self.right - self.left)

    def line(self, time_s: FloatArray, watts: FloatArray) -> tuple[Point, ...]:
        """Points of a curve."""
        up = (self.base - _TOP) / self._top_w
        return tuple(
            (self.x(s), self.base - w * up)
            for s, w in zip(time_s.tolist(), watts.tolist(), strict=True)
        )

    def items(self, palette: Palette, hours_below: float = 18) -> list[Item]:
        """Lines across with their watts, and the hours so far below the base."""
        made: list[Item] = []
        for share in (0.0, 0.5, 1.0):
            y = self.base - share * (self.base - _TOP)
            made.append(Line(points=((self.left, y), (self.right, y)), colour=palette.line))
            words = f"{share * self._top_w:g} W"
            made.append(
                Words(x=self.left - 6, y=y + 4, text=words, anchor="end", colour=palette.muted)
            )
        step = next((t for t in _TICKS_H if self.span_s / HOUR_S / t <= _MOST_TICKS), 48)
        for i in range(1, int(self.span_s / HOUR_S / step) + 1):
            x = self.x(i * step * HOUR_S)
            made.append(
                Words(
                    x=x,
                    y=self.base + hours_below,
                    text=f"{i * step:g} h",
                    anchor="end" if x > self.right - 16 else "middle",
                    colour=palette.muted,
                )
            )
        return made


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
