"""Verdicts as rails: a post at the limit, the result a dot with its U as a whisker."""

from collections.abc import Iterable
from dataclasses import dataclass

from yardtoll.report.charts.letters import text_width
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Area, Box, Dot, Item, Line, Point, Scene, Words

_SHARES, _NARROW_SHARES = (0.30, 0.70), (0.36, 0.60)
"""Shares of the width at which the rail begins and ends."""
_NARROW = 420.0
_POST_REACH = 19.0
_SIGN_W, _EDGE = 34.0, 8.0
_WORD_PX, _FIGURE_PX = 15.0, 14.0
_LEAST_RAIL, _LEAST_NAME = 60.0, 100.0
"""Of a rail, where figures take the room; of names: where there is less, there is no rail."""


@dataclass(frozen=True)
class RailRow:
    """One verdict as drawn.

    Attributes:
        value, whisker: in the rail's unit; None where there is no figure.
        outcome: "meets", "falls_short", "too_close_to_call" or "" for not judged.
        low, high: what the rail runs from and to.
        good: (from, to) of its good part; None for an end of the rail.
    """

    title: str
    subtitle: str
    value: float | None
    whisker: float | None
    limit: float
    outcome: str
    word: str
    figure: str
    low: float = 0.0
    high: float = 1.0
    good: tuple[float | None, float | None] = (0.0, None)


@dataclass(frozen=True, kw_only=True)
class RailScene:
    """What is needed to draw one row.

    Attributes:
        top: y of the row.
        is_chosen: its ground is set off.
        words_w: what outcomes and figures of all rows need, so that rails are of one length.
    """

    row: RailRow
    width: float
    height: float
    palette: Palette
    top: float = 0.0
    is_chosen: bool = False
    words_w: float = 0.0

    def scene(self) -> Scene:
        """The row alone, as a picture."""
        row = self.row
        title = f"{row.title}: {row.word}, {row.figure}"
        return Scene(width=self.width, height=self.height, items=tuple(self.items()), title=title)

    def items(self) -> list[Item]:
        """Ground, names, rail, sign and words."""
        palette, row = self.palette, self.row
        items: list[Item] = []
        if self.is_chosen:
            items.append(
                Box(x=0, y=self.top, width=self.width, height=self.height, fill=palette.sunk)
            )
        below = self.top + self.height
        room = (self._ends[0] if self._has_rail else self._words_from) - 24
        return [
            *items,
            Line(points=((0, below), (self.width, below)), colour=palette.line),
            Words(
                x=10, y=self._middle - 5, text=row.title, colour=palette.ink, size=15, weight=600,
                room=room,
            ),
            Words(
                x=10, y=self._middle + 15, text=row.subtitle, colour=palette.muted, room=room
            ),
            *(self._rail() if self._has_rail else []),
            *self._sign(),
            *self._outcome(),
        ]  # fmt: skip

    @property
    def _middle(self) -> float:
        return self.top + self.height / 2

    @property
    def _words_from(self) -> float:
        """X of the sign and the words: where there is little room, they come before the rail."""
        _, ends = _SHARES if self.width >= _NARROW else _NARROW_SHARES
        return min(ends * self.width, self.width - self.words_w - _SIGN_W - _EDGE)

    @property
    def _ends(self) -> tuple[float, float]:
        """X of the rail's ends."""
        begins, _ = _SHARES if self.width >= _NARROW else _NARROW_SHARES
        right = self._words_from - 0.02 * self.width
        return min(begins * self.width, right - _LEAST_RAIL), right

    @property
    def _has_rail(self) -> bool:
        return self._ends[0] >= _LEAST_NAME

    def _x(self, value: float) -> float:
        row, (left, right) = self.row, self._ends
        share = min(max((value - row.low) / (row.high - row.low), 0.0), 1.0)
        return left + share * (right - left)

    @property
    def _colour(self) -> str:
        palette = self.palette
        known = {
            "meets": palette.good,
            "falls_short": palette.bad,
            "too_close_to_call": palette.unsure,
        }
        return known.get(self.row.outcome, palette.muted)

    def _level(self, left: float, right: float) -> tuple[Point, ...]:
        return ((left, self._middle), (right, self._middle))

    def _rail(self) -> list[Item]:
        """The rail, its good part, the posts, and the result with its whisker."""
        row, palette, middle = self.row, self.palette, self._middle
        good_from, good_to = (
            end if limit is None else self._x(limit)
            for limit, end in zip(row.good, self._ends, strict=True)
        )
        reach = min(_POST_REACH, self.height / 2 - 4)
        items: list[Item] = [
            Line(points=self._level(*self._ends), colour=palette.muted, width=2),
            Line(points=self._level(good_from, good_to), colour=palette.good_ground, width=6),
        ]
        items += [
            Box(x=self._x(limit) - 3, y=middle - reach, width=6, height=2 * reach, fill=palette.ink)
            for limit in row.good
            if limit is not None
        ]
        if row.value is None:
            return items
        if row.whisker is not None:
            low, high = self._x(row.value - row.whisker), self._x(row.value + row.whisker)
            items.append(Line(points=self._level(low, high), colour=self._colour, width=3))
            items += [
                Line(points=((end, middle - 7), (end, middle + 7)), colour=self._colour, width=3)
                for end in (low, high)
            ]
        at = (self._x(row.value), middle)
        dot = Dot(at=at, radius=6.5, fill=palette.raised, stroke=self._colour, width=3)
        return [*items, dot]

    def _sign(self) -> list[Item]:
        """A sign whose shape says the outcome without colour."""
        x, y, colour = self._words_from + 14, self._middle, self._colour
        if self.row.outcome == "meets":
            points = ((x, y - 8), (x + 8, y), (x, y + 8), (x - 8, y))
            return [Area(points=points, fill=colour)]
        if self.row.outcome == "falls_short":
            return [
                Line(points=((x - 7, y - 7), (x + 7, y + 7)), colour=colour, width=2.6),
                Line(points=((x - 7, y + 7), (x + 7, y - 7)), colour=colour, width=2.6),
            ]
        if self.row.outcome == "too_close_to_call":
            return [Dot(at=(x, y), radius=7, stroke=colour, width=2.6)]
        return [Line(points=((x - 7, y), (x + 7, y)), colour=colour, width=2.6)]

    def _outcome(self) -> list[Item]:
        x = self._words_from + _SIGN_W
        room = self.width - x - _EDGE
        return [
            Words(
                x=x, y=self._middle - 6, text=self.row.word, colour=self._colour, size=_WORD_PX,
                weight=600, room=room, whole=True,
            ),
            Words(
                x=x, y=self._middle + 15, text=self.row.figure, colour=self.palette.ink,
                size=_FIGURE_PX, room=room, whole=True,
            ),
        ]  # fmt: skip


def words_width(rows: Iterable[RailRow]) -> float:
    """Pixels that the longest outcome or figure of some rows needs."""
    return max(
        (max(text_width(row.word, _WORD_PX), text_width(row.figure, _FIGURE_PX)) for row in rows),
        default=0.0,
    )
