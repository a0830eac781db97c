"""Stations side by side on one axis: each a rail, its figure a dot with its U as a whisker."""

from dataclasses import dataclass

from yardtoll.report.charts.letters import text_width
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.plane import round_steps
from yardtoll.report.charts.scene import Area, Box, Dot, Item, Line, Scene, Words

ROW_H, TALLEST_ROW, AXIS_H = 54.0, 88.0, 34.0
_NAMES, _MOST_NAMES, _RIGHT = 0.24, 0.38, 0.70
"""Shares of the width at which the axis begins, where names are long, and ends."""
_LETTER_W = 8.6
"""Of a name, at most."""
_FIGURE_PX, _BESIDE, _EDGE = 15.0, 16.0, 6.0
_LEAST_AXIS = 60.0
"""Of the axis, where names and figures take the room."""
_ROOM = 0.06


@dataclass(frozen=True, kw_only=True)
class Contestant:
    """One station as drawn.

    Attributes:
        value, whisker: in the axis' unit; no value for one that cannot be compared: ``why`` says
            what stands in its place.
        is_sure: its place is its own.
    """

    name: str
    conditions: str
    value: float | None = None
    whisker: float | None = None
    figure: str = ""
    place: str = ""
    why: str = ""
    is_sure: bool = False


@dataclass(frozen=True, kw_only=True)
class LineupScene:
    """Draws them for a width.

    Attributes:
        chosen: whose interval is laid behind all others, so that ties are seen; -1 for none.
        left_is_better: which way is better.
    """

    title: str
    unit: str
    rows: tuple[Contestant, ...]
    width: float
    palette: Palette
    chosen: int = -1
    left_is_better: bool = False
    row_h: float = ROW_H

    @property
    def height(self) -> float:
        """All rows and the axis."""
        return self.row_h * len(self.rows) + AXIS_H

    def row_at(self, y: float) -> int:
        """The row at a height; -1 for none."""
        found = (i for i in range(len(self.rows)) if 0 <= y - self.top_of(i) < self.row_h)
        return next(found, -1)

    def top_of(self, place: int) -> float:
        """Y of a row: those that cannot be compared stand below the axis."""
        return place * self.row_h + (AXIS_H if place >= self._compared else 0.0)

    @property
    def _compared(self) -> int:
        return sum(row.value is not None for row in self.rows)

    def scene(self) -> Scene:
        """The whole picture."""
        items: list[Item] = [*self._tie_band(), *self._axis()]
        for place, row in enumerate(self.rows):
            items += self._row(place, row)
        return Scene(width=self.width, height=self.height, items=tuple(items), title=self._words())

    def _words(self) -> str:
        said = [
            f"{r.name} {r.figure or r.why}{f', {r.place}' if r.place else ''}" for r in self.rows
        ]
        return f"{self.title}. {'; '.join(said)}"

    @property
    def _ends(self) -> tuple[float, float]:
        """The axis' own from and to."""
        shown = [(r.value, r.whisker or 0.0) for r in self.rows if r.value is not None]
        if not shown:
            return 0.0, 1.0
        low, high = min(v - w for v, w in shown), max(v + w for v, w in shown)
        room = _ROOM * (high - low) or 0.1 * abs(high) or 1.0
        return low - room, high + room

    @property
    def _names_w(self) -> float:
        """Room for names: as much as they need, in reason."""
        needed = 26 + _LETTER_W * max((len(row.name) for row in self.rows), default=0)
        usual = min(max(needed, _NAMES * self.width), _MOST_NAMES * self.width)
        return min(usual, self._axis_right - _LEAST_AXIS)

    @property
    def _axis_right(self) -> float:
        """X of the axis' end: no figure beside it is made smaller."""
        figures = max((text_width(row.figure, _FIGURE_PX) for row in self.rows), default=0.0)
        return min(_RIGHT * self.width, self.width - figures - _BESIDE - _EDGE)

    def _x(self, value: float) -> float:
        low, high = self._ends
        left, right = self._names_w, self._axis_right
        return left + (value - low) / (high - low) * (right - left)

    def _tie_band(self) -> list[Item]:
        """What the chosen one may be, behind all."""
        if not 0 <= self.chosen < len(self.rows):
            return []
        row, top = self.rows[self.chosen], self.top_of(self.chosen)
        made: list[Item] = [
            Box(x=0, y=top, width=self.width, height=self.row_h, fill=self.palette.sunk)
        ]
        if row.value is not None and row.whisker:
            left, right = self._x(row.value - row.whisker), self._x(row.value + row.whisker)
            height = self.row_h * self._compared
            made.append(
                Area(points=((left, 0), (right, 0), (right, height), (left, height)),
                     fill=self.palette.good_ground, opacity=0.75)
            )  # fmt: skip
        return made

    def _axis(self) -> list[Item]:
        base = self.row_h * self._compared
        if not any(row.value is not None for row in self.rows):
            return []
        steps = round_steps(*self._ends, most=6)
        made: list[Item] = []
        for value in steps:
            x = self._x(value)
            made.append(Line(points=((x, 0), (x, base + 5)), colour=self.palette.line))
            words = f"{value:g}".replace("-", "−")
            made.append(
                Words(x=x, y=base + 22, text=words, anchor="middle", colour=self.palette.muted)
            )
        way = "← better" if self.left_is_better else "better →"
        better = f"{self.unit}   {way}".strip()
        made.append(
            Words(x=self._axis_right + _BESIDE, y=base + 22, text=better, colour=self.palette.muted)
        )
        return made

    def _row(self, place: int, row: Contestant) -> list[Item]:
        palette, top = self.palette, self.top_of(place)
        middle, room = top + self.row_h / 2, self._names_w - 26
        below = top + self.row_h
        made: list[Item] = [
            Line(points=((0, below), (self.width, below)), colour=palette.line),
            Words(x=10, y=middle - 4, text=row.name, colour=palette.ink, size=15, weight=600,
                  room=room),
            Words(x=10, y=middle + 15, text=row.conditions, colour=palette.muted, room=room),
        ]  # fmt: skip
        left, right = self._names_w, self._axis_right
        if row.value is None:
            made.append(
                Words(x=left + 10, y=middle + 5, text=row.why, colour=palette.muted, size=14,
                      room=self.width - left - 20)
            )  # fmt: skip
            return made
        made.append(Line(points=((left, middle), (right, middle)), colour=palette.muted, width=1.5))
        x = self._x(row.value)
        if row.whisker:
            low, high = self._x(row.value - row.whisker), self._x(row.value + row.whisker)
            made.append(Line(points=((low, middle), (high, middle)), colour=palette.ink, width=3))
            made += [
                Line(points=((end, middle - 8), (end, middle + 8)), colour=palette.ink, width=3)
                for end in (low, high)
            ]
        fill = palette.ink if row.is_sure else palette.raised
        made.append(Dot(at=(x, middle), radius=7, fill=fill, stroke=palette.ink, width=3))
        at, room = right + _BESIDE, self.width - right - _BESIDE - _EDGE
        return [
            *made,
            Words(x=at, y=middle - 4, text=row.figure, colour=palette.ink, size=_FIGURE_PX,
                  weight=600, room=room, whole=True),
            Words(x=at, y=middle + 15, text=row.place, colour=palette.muted, room=room),
        ]  # fmt: skip
