"""Delivered Wh against load: runs as points with their ±, and the fit as a curve."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.ledger.losses import LossSplit
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Dot, Item, Line, Point, Words

_CURVE_POINTS = 80


@dataclass(frozen=True, kw_only=True)
class LoadPoint:
    """A whole discharge as a point: W, Wh, and U of the Wh (None without a meter)."""

    number: int
    mean_w: float
    delivered_wh: float
    expanded_wh: float | None


@dataclass(frozen=True, kw_only=True)
class LoadCurveScene:
    """What is needed to draw the curve inside an area.

    Attributes:
        area: (left, top, width, height) in pixels.
        full_w: the load at the right edge.
        rated_wh: shown where there are no points.
        split: None where nothing was fitted.
    """

    area: tuple[float, float, float, float]
    points: Sequence[LoadPoint]
    split: LossSplit | None
    full_w: float
    rated_wh: float
    palette: Palette

    @property
    def range_wh(self) -> tuple[float, float]:
        """The Wh shown: from below the lowest point to above the highest."""
        seen = [point.delivered_wh for point in self.points] or [self.rated_wh]
        room = max(0.15 * max(seen), max(seen) - min(seen))
        return max(min(seen) - room, 0.0), max(seen) + 0.5 * room

    @property
    def is_fitted(self) -> bool:
        """Whether there is a curve."""
        return self.split is not None and self.split.e0_wh.value is not None

    def at(self, watts: float, energy_wh: float) -> Point:
        """Where a load and its Wh are."""
        (left, top, width, height), (low, high) = self.area, self.range_wh
        share = min(max((energy_wh - low) / (high - low), 0.0), 1.0)
        return left + watts / self.full_w * width, top + (1 - share) * height

    def curve_at(self, watts: float) -> Point | None:
        """Where the curve is at a load; None without one."""
        if self.split is None or not self.is_fitted:
            return None
        return self.at(watts, self.split.delivered_wh(watts) or 0.0)

    def curve_items(self) -> list[Item]:
        """The fit; empty where there is none."""
        loads = [self.full_w * i / _CURVE_POINTS for i in range(1, _CURVE_POINTS + 1)]
        points = tuple(at for watts in loads if (at := self.curve_at(watts)) is not None)
        return [Line(points=points, colour=self.palette.trace, width=2)] if points else []

    def point_items(self) -> list[Item]:
        """The runs with their ±."""
        made: list[Item] = []
        for point in self.points:
            x, y = self.at(point.mean_w, point.delivered_wh)
            if point.expanded_wh:
                low = self.at(point.mean_w, point.delivered_wh - point.expanded_wh)
                high = self.at(point.mean_w, point.delivered_wh + point.expanded_wh)
                made.append(Line(points=(low, high), colour=self.palette.ink, width=1.5))
            made.append(
                Dot(
                    at=(x, y),
                    radius=4.5,
                    fill=self.palette.raised,
                    stroke=self.palette.ink,
                    width=1.5,
                )
            )
            made.append(
                Words(
                    x=x + 8, y=y - 6, text=f"run {point.number}", colour=self.palette.ink,
                    weight=500,
                )
            )  # fmt: skip
        return made
