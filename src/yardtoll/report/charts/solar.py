"""A solar run: what flowed, what the sun allowed, and what limited it when."""

from collections.abc import Sequence

import numpy as np

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.sun.solar_run import SolarRun, Span
from yardtoll.report.charts.axes import WIDTH, PowerAxes, thinned
from yardtoll.report.charts.limits import LIMIT_NAMES, limit_box
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.scene import Area, Box, Item, Line, Point, Scene, Words

_BASE, _BAND_Y, _BAND_H = 208.0, 213.0, 16.0
_LEGEND_Y, _ROW_H, _COLUMNS = 262.0, 22.0, 2
_NAMED_SHARE = 0.005
_ALLOWED_DASH = (5.0, 4.0)
_CLEAR_DASH = (1.0, 3.0)
_FILL_OPACITY = 0.75


def input_items(
    power: Sequence[Point],
    base: float,
    palette: Palette,
    *,
    allowed: Sequence[Point] = (),
    clear: Sequence[Point] = (),
) -> list[Item]:
    """The input as a filled curve, and what the sun allowed as lines above it.

    Args:
        power, allowed, clear: points from left to right; none where something is not known.
        base: y of 0 W.
    """
    if not power:
        return []
    ends = ((power[-1][0], base), (power[0][0], base))
    fill = palette.energy[EnergyKind.SUN]
    items: list[Item] = [Area(points=(*power, *ends), fill=fill, opacity=_FILL_OPACITY)]
    if clear:
        items.append(Line(points=tuple(clear), colour=palette.muted, width=1.2, dash=_CLEAR_DASH))
    if allowed:
        items.append(Line(points=tuple(allowed), colour=palette.ink, width=1.5, dash=_ALLOWED_DASH))
    return items


def band_items(
    spans: Sequence[tuple[float, float, Span]], y: float, height: float, palette: Palette
) -> list[Box]:
    """What limited the input, as coloured and hatched stretches.

    Args:
        spans: (x from, x to, span).
    """
    return [
        limit_box(left, y, max(right - left, 0.5), height, span.limit, palette)
        for left, right, span in spans
    ]


def solar_scene(title: str, run: SolarRun, palette: Palette = ON_PAPER) -> Scene:
    """A solar run whose limits are known, with a legend.

    Raises:
        ValueError: it is not known what limited it.
    """
    if run.limited_by is None or run.expected_w is None:
        raise ValueError("nothing says what limited this run")
    time_s, watts = thinned(run.time_s, run.power_w)
    _, allowed = thinned(run.time_s, run.expected_w)
    began = float(run.time_s[0])
    highest = max(float(watts.max()), float(np.max(allowed)))
    axes = PowerAxes(float(run.time_s[-1]) - began, highest, _BASE)
    spans = [(axes.x(s.start_s - began), axes.x(s.end_s - began), s) for s in run.spans]
    items: list[Item] = [
        Words(x=8, y=18, text=title, weight=600, colour=palette.ink),
        *axes.items(palette, hours_below=_BAND_Y + _BAND_H + 17 - _BASE),
        *input_items(axes.line(time_s, watts), _BASE, palette, allowed=axes.line(time_s, allowed)),
        *band_items(spans, _BAND_Y, _BAND_H, palette),
    ]
    named = [(k, v) for k, v in run.limited_by.items() if v >= _NAMED_SHARE]
    said = [f"{LIMIT_NAMES[limit]} {100 * share:.0f} %" for limit, share in named]
    for i, (limit, words) in enumerate(zip((k for k, _ in named), said, strict=True)):
        x, y = _place(i)
        items.append(limit_box(x, y - 11, 22, 14, limit, palette))
        items.append(Words(x=x + 30, y=y, text=words, colour=palette.ink))
    x, y = _place(len(named))
    items.append(
        Line(
            points=((x, y - 4), (x + 22, y - 4)),
            colour=palette.ink,
            width=1.5,
            dash=_ALLOWED_DASH,
        )
    )
    items.append(Words(x=x + 30, y=y, text="What the sun allowed", colour=palette.muted))
    rows = -(-(len(named) + 1) // _COLUMNS)
    return Scene(
        width=WIDTH,
        height=int(_LEGEND_Y + rows * _ROW_H - 8),
        items=tuple(items),
        title=f"{title}. Limited by: {', '.join(said)}",
    )


def _place(index: int) -> Point:
    """Where the legend's next entry begins."""
    row, column = divmod(index, _COLUMNS)
    return 8 + column * (WIDTH - 16) / _COLUMNS, _LEGEND_Y + row * _ROW_H
