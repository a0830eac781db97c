"""A plane with two axes: places of values, and lines with round figures across it."""

import math
from dataclasses import dataclass

from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Item, Line, Point, Words

_SIZE = 13.0


def round_steps(low: float, high: float, most: int = 5) -> list[float]:
    """Round figures from low to high, at most so many and at least two."""
    span = high - low
    if not (math.isfinite(span) and span > 0):
        return [low]
    rough = span / most
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(s * power for s in (1, 2, 2.5, 5, 10) if s * power >= rough * (1 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [step * i for i in range(first, int(high / step + 1e-9) + 1)]


@dataclass(frozen=True, kw_only=True)
class Plane:
    """An area in pixels, and what its edges stand for.

    Attributes:
        area: (left, top, width, height).
        x, y: (from, to) in the units of the axes.
    """

    area: tuple[float, float, float, float]
    x: tuple[float, float]
    y: tuple[float, float]
    palette: Palette

    def at_x(self, value: float) -> float:
        """Pixels from the left."""
        left, _, width, _ = self.area
        low, high = self.x
        return left + (value - low) / ((high - low) or 1.0) * width

    def at_y(self, value: float) -> float:
        """Pixels from the top; values beyond the edges stay at them."""
        _, top, _, height = self.area
        low, high = self.y
        share = min(max((value - low) / ((high - low) or 1.0), 0.0), 1.0)
        return top + (1 - share) * height

    def at(self, x: float, y: float) -> Point:
        """A point."""
        return self.at_x(x), self.at_y(y)

    def rows(
        self, unit: str, most: int = 4, scale: float = 1.0, *, each: bool = False
    ) -> list[Item]:
        """Lines across with their figures at the left.

        Args:
            each: the unit stands at each and not only at the highest, so that a reader's own unit
                can take its place.
        """
        left, _, width, _ = self.area
        made: list[Item] = []
        steps = round_steps(self.y[0] * scale, self.y[1] * scale, most)
        for i, value in enumerate(steps):
            y = self.at_y(value / scale)
            made.append(Line(points=((left, y), (left + width, y)), colour=self.palette.line))
            words = _figure(value)
            if unit and (each or i == len(steps) - 1):
                words += f" {unit}"
            made.append(
                Words(x=left - 8, y=y + 4.5, text=words, anchor="end", colour=self.palette.muted,
                      size=_SIZE)
            )  # fmt: skip
        return made

    def columns(self, unit: str, most: int = 6, scale: float = 1.0) -> list[Item]:
        """Figures below, the unit at the last."""
        left, top, width, height = self.area
        steps = round_steps(self.x[0] * scale, self.x[1] * scale, most)
        made: list[Item] = []
        for i, value in enumerate(steps):
            x = self.at_x(value / scale)
            last = i == len(steps) - 1
            words = _figure(value) + (f" {unit}" if last and unit else "")
            near_end = x > left + width - 30
            made.append(
                Words(
                    x=left + width if near_end else x, y=top + height + 19, text=words,
                    anchor="end" if near_end else "middle", colour=self.palette.muted, size=_SIZE,
                )
            )  # fmt: skip
        return made


def _figure(value: float) -> str:
    return f"{value + 0.0:g}".replace("-", "−")
