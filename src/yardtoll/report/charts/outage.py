"""An outage: the store falling and rising over the hours, and a lane for all that took of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.report.charts.hatching import Hatch
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.plane import Plane
from yardtoll.report.charts.scene import Area, Box, Item, Line, Point, Scene, Words

TOP = 26.0
"""Room above the plot."""
_WIDE = 620.0
"""From this width on there is room for long names and bars."""
_MARGINS = {True: (150.0, 172.0, 84.0), False: (116.0, 108.0, 34.0)}
"""Room for names, and for bars and their figures; how long the longest bar is."""
_TICK_W = 56.0
LANE_H, LANE_GAP = 26.0, 10.0
_HOURS_H = 24.0
_LEAST_PLOT = 120.0
_BAND_OPACITY = 0.28
_LEAST_DAY_W = 40.0
_TICKS_H = (1, 2, 3, 6, 12, 24, 48)


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """Between two hours of an outage.

    Attributes:
        share: how high its bar is, of a lane.
        is_off: it would be on, and gets nothing.
    """

    from_h: float
    to_h: float
    share: float = 1.0
    is_off: bool = False


@dataclass(frozen=True, kw_only=True)
class Lane:
    """One thing that takes of the store, or gives to it.

    Attributes:
        wh: in all.
        energy: whose colour it has.
        kind: what it is to the one who draws it on: "use", "feed", "sun" or "overhead".
    """

    name: str
    wh: float
    energy: EnergyKind
    stretches: tuple[Stretch, ...]
    kind: str = "use"
    note: str = ""


@dataclass(frozen=True, kw_only=True)
class OutagePicture:
    """All that is drawn.

    Attributes:
        course: (h, Wh) of the store.
        band: (h, lowest Wh, highest Wh).
        tried: (h, Wh) of the store as it really was; empty for none.
        full_wh: what the axis goes to.
        empty_h, empty_low_h, empty_high_h: when it is empty; None for after the end.
        begin_hour: clock hour of the beginning.
        days: (h, name of the day) at each midnight and the beginning.
        clock_words: of each clock hour from 0 to 23.
    """

    title: str
    hours: float
    begin_hour: float
    course: tuple[Point, ...]
    band: tuple[tuple[float, float, float], ...]
    lanes: tuple[Lane, ...]
    full_wh: float
    empty_h: float | None
    empty_low_h: float | None
    empty_high_h: float | None
    empty_words: str
    days: tuple[tuple[float, str], ...]
    clock_words: tuple[str, ...]
    tried: tuple[Point, ...] = ()
    tried_words: str = ""


@dataclass(frozen=True, kw_only=True)
class OutageScene:
    """Draws it for a size."""

    picture: OutagePicture
    width: float
    height: float
    palette: Palette
    chosen: str = ""

    @property
    def left(self) -> float:
        """Room for names."""
        return _MARGINS[self.width >= _WIDE][0]

    @property
    def right(self) -> float:
        """Room for bars of Wh and their figures."""
        return _MARGINS[self.width >= _WIDE][1]

    @property
    def least_height(self) -> float:
        """Under which nothing can be read."""
        return TOP + _LEAST_PLOT + _HOURS_H + LANE_GAP + LANE_H * len(self.picture.lanes) + 6

    def scene(self) -> Scene:
        """The whole picture."""
        plane = self._plane
        items: list[Item] = [
            *self._nights(),
            *plane.rows("Wh", each=False),
            *self._ticks(),
            *self._store(),
            *self._empty(),
            *self._lanes(),
        ]
        return Scene(
            width=self.width, height=self.height, items=tuple(items), title=self.picture.title
        )

    @property
    def hours_a_pixel(self) -> float:
        """How much time one pixel is."""
        return self.picture.hours / max(self.width - self.left - self.right, 1.0)

    def hour_at(self, x: float) -> float:
        """H from the beginning at a place, within the outage."""
        share = (x - self.left) / max(self.width - self.left - self.right, 1.0)
        return min(max(share, 0.0), 1.0) * self.picture.hours

    def lane_at(self, y: float) -> Lane | None:
        """The lane at a place; None where there is none."""
        place = int((y - self._lanes_top) // LANE_H)
        lanes = self.picture.lanes
        return lanes[place] if y >= self._lanes_top and place < len(lanes) else None

    @property
    def _lanes_top(self) -> float:
        return self.height - 6 - LANE_H * len(self.picture.lanes)

    @property
    def _plane(self) -> Plane:
        bottom = self._lanes_top - LANE_GAP - _HOURS_H
        return Plane(
            area=(self.left, TOP, self.width - self.left - self.right, max(bottom - TOP, 40.0)),
            x=(0.0, self.picture.hours),
            y=(0.0, self.picture.full_wh * 1.04),
            palette=self.palette,
        )

    def _x(self, hour: float) -> float:
        return self._plane.at_x(min(max(hour, 0.0), self.picture.hours))

    def _nights(self) -> list[Item]:
        """From 18 to 6 o'clock the ground is set off, through plot and lanes."""
        made: list[Item] = []
        begin, end = self.picture.begin_hour, self.picture.begin_hour + self.picture.hours
        day = -1
        while 24 * day + 18 < end:
            left, right = self._x(24 * day + 18 - begin), self._x(24 * day + 30 - begin)
            if right > left:
                height = self.height - TOP - 2
                made.append(
                    Box(x=left, y=TOP, width=right - left, height=height, fill=self.palette.sunk)
                )
            day += 1
        return made

    def _ticks(self) -> list[Item]:
        picture, plane = self.picture, self._plane
        most = max(plane.area[2] / _TICK_W, 2.0)
        step = next((t for t in _TICKS_H if picture.hours / t <= most), 96)
        base = plane.area[1] + plane.area[3]
        made: list[Item] = []
        first = -(-picture.begin_hour // step) * step
        clock = first
        while clock <= picture.begin_hour + picture.hours + 1e-9:
            x = self._x(clock - picture.begin_hour)
            made.append(
                Line(points=((x, base), (x, base + 5)), colour=self.palette.muted, width=1.0)
            )
            words = picture.clock_words[int(clock) % 24]
            made.append(
                Words(x=x, y=base + 18, text=words, anchor="middle", colour=self.palette.muted)
            )
            clock += step
        ends = [self._x(hour) for hour, _ in picture.days[1:]] + [self.width - self.right]
        for (hour, name), end in zip(picture.days, ends, strict=True):
            room = end - self._x(hour) - 10
            if room >= _LEAST_DAY_W:
                made.append(
                    Words(x=self._x(hour) + 4, y=TOP - 9, text=name, colour=self.palette.muted,
                          weight=600, room=room)
                )  # fmt: skip
        return made

    def _store(self) -> list[Item]:
        plane, picture = self._plane, self.picture
        colour = self.palette.energy[EnergyKind.STORED]
        made: list[Item] = []
        if picture.band:
            upper = [plane.at(h, high) for h, _, high in picture.band]
            lower = [plane.at(h, low) for h, low, _ in reversed(picture.band)]
            made.append(Area(points=(*upper, *lower), fill=colour, opacity=_BAND_OPACITY))
        line = tuple(plane.at(h, wh) for h, wh in picture.course)
        made.append(Line(points=line, colour=colour, width=3.0))
        if picture.tried:
            tried = tuple(plane.at(h, wh) for h, wh in picture.tried)
            made.append(Line(points=tried, colour=self.palette.ink, width=2.0, dash=(5.0, 4.0)))
            x, y = tried[len(tried) // 2]
            made.append(
                Words(x=x + 12, y=y - 8, text=picture.tried_words, colour=self.palette.ink,
                      weight=600, room=self.width - self.right - x - 16)
            )  # fmt: skip
        begin = plane.at_x(0.0)
        made.append(
            Box(x=begin - 3, y=plane.area[1], width=6, height=plane.area[3] + 7,
                fill=self.palette.ink)
        )  # fmt: skip
        return made

    def _empty(self) -> list[Item]:
        """The post at the moment it is empty, with its whisker on the axis."""
        picture, plane = self.picture, self._plane
        if picture.empty_h is None:
            return []
        x, base = self._x(picture.empty_h), plane.area[1] + plane.area[3]
        colour = self.palette.bad
        low = self._x(picture.empty_low_h if picture.empty_low_h is not None else picture.hours)
        high = self._x(picture.empty_high_h if picture.empty_high_h is not None else picture.hours)
        before = x > self.left + 0.6 * plane.area[2]
        room = x - self.left - 14 if before else self.width - self.right - x - 14
        top = plane.area[1] + 4
        return [
            Box(x=x - 2.5, y=top, width=5, height=base - top + 7, fill=colour),
            Line(points=((min(low, x), base), (max(high, x), base)), colour=colour, width=4.0),
            Line(points=((low, base - 6), (low, base + 6)), colour=colour, width=3.0),
            Line(points=((high, base - 6), (high, base + 6)), colour=colour, width=3.0),
            Words(
                x=x - 10 if before else x + 10, y=top + 14, text=picture.empty_words,
                colour=colour, size=15, weight=600, anchor="end" if before else "start",
                room=max(room, 1.0), whole=True,
            ),
        ]  # fmt: skip

    def _lanes(self) -> list[Item]:
        lanes, made = self.picture.lanes, list[Item]()
        most = max((lane.wh for lane in lanes), default=0.0) or 1.0
        right, longest = self.width - self.right, _MARGINS[self.width >= _WIDE][2]
        for place, lane in enumerate(lanes):
            top = self._lanes_top + place * LANE_H
            middle = top + LANE_H / 2
            if lane.name == self.chosen:
                made.append(
                    Box(x=0, y=top, width=self.width, height=LANE_H, fill=self.palette.good_ground)
                )
            made.append(Line(points=((8, top), (self.width, top)), colour=self.palette.line))
            made.append(
                Words(x=10, y=middle + 5, text=lane.name, colour=self.palette.ink, size=14,
                      weight=600 if lane.kind == "overhead" else 400, room=self.left - 22)
            )  # fmt: skip
            fill = self.palette.energy[lane.energy]
            for part in lane.stretches:
                made.append(self._stretch(part, top, fill))
            bar = max(lane.wh / most * longest, 1.0)
            made.append(Box(x=right + 12, y=middle - 6, width=bar, height=12, fill=fill))
            made.append(
                Words(x=right + 18 + longest, y=middle + 5, text=_energy(lane.wh),
                      colour=self.palette.ink, size=13)
            )  # fmt: skip
        return made

    def _stretch(self, part: Stretch, top: float, fill: str) -> Item:
        height = max((LANE_H - 8) * part.share, 3.0)
        x = self._x(part.from_h)
        return Box(
            x=x,
            y=top + LANE_H - 4 - height,
            width=max(self._x(part.to_h) - x, 1.5),
            height=height,
            fill=self.palette.paper if part.is_off else fill,
            stroke=self.palette.muted if part.is_off else "",
            hatch=Hatch.NONE,
        )


def lane_names(lanes: Sequence[Lane]) -> list[str]:
    """As they are read out."""
    return [f"{lane.name}: {_energy(lane.wh)}" for lane in lanes]


def _energy(wh: float) -> str:
    return f"{wh / 1000:.2f} kWh" if wh >= 1000 else f"{wh:.0f} Wh"
