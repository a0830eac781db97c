"""A solar run on the sheet: what flowed, what the sun allowed, and what limited it when."""

import numpy as np

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.sun.limits import Limit
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.report.charts.limits import LIMIT_LOOK, LIMIT_NAMES, Hatch
from yardtoll.report.charts.palette import ENERGY, INK, MUTED, ON_ENERGY
from yardtoll.report.charts.svg import WIDTH, PowerAxes, svg, text, thinned

_BASE, _BAND_Y, _BAND_H = 208.0, 213.0, 16.0
_LEGEND_Y, _ROW_H, _COLUMNS = 262.0, 22.0, 2
_LINES_APART = 5.0
_NAMED_SHARE = 0.005


def solar_chart(title: str, run: SolarRun) -> str:
    """A solar run whose limits are known.

    Raises:
        ValueError: it is not known what limited it.
    """
    if run.limited_by is None or run.expected_w is None:
        raise ValueError("nothing says what limited this run")
    time_s, watts = thinned(run.time_s, run.power_w)
    _, allowed = thinned(run.time_s, run.expected_w)
    highest = max(float(watts.max()), float(allowed.max()))
    began = float(run.time_s[0])
    axes = PowerAxes(float(run.time_s[-1]) - began, highest, _BASE)
    line, ends = axes.line(time_s, watts), axes.line(time_s[[-1, 0]], np.zeros(2))
    parts = [
        text(8, 18, title, weight=600),
        *axes.drawn(hours_below=_BAND_Y + _BAND_H + 17 - _BASE),
        f'<polygon points="{line} {ends}" fill="{ENERGY[EnergyKind.SUN]}" fill-opacity="0.75"/>',
        f'<polyline points="{axes.line(time_s, allowed)}" fill="none" stroke="{INK}" '
        'stroke-width="1.5" stroke-dasharray="5 4"/>',
    ]
    for span in run.spans:
        left, right = axes.x(span.start_s - began), axes.x(span.end_s - began)
        parts += _patch(left, _BAND_Y, max(right - left, 0.5), _BAND_H, span.limit)
    named = [(k, v) for k, v in run.limited_by.items() if v >= _NAMED_SHARE]
    rows = -(-(len(named) + 1) // _COLUMNS)
    said = [f"{LIMIT_NAMES[limit]} {100 * share:.0f} %" for limit, share in named]
    for i, (limit, words) in enumerate(zip((k for k, _ in named), said, strict=True)):
        x, y = _place(i)
        parts += [*_patch(x, y - 11, 22, 14, limit), text(x + 30, y, words)]
    x, y = _place(len(named))
    parts.append(
        f'<path d="M{x} {y - 4}h22" stroke="{INK}" stroke-width="1.5" stroke-dasharray="5 4"/>'
    )
    parts.append(text(x + 30, y, "What the sun allowed", colour=MUTED))
    height = int(_LEGEND_Y + rows * _ROW_H - 8)
    return svg(height, parts, f"{title}. Limited by: {', '.join(said)}")


def _place(index: int) -> tuple[float, float]:
    """Where the legend's next entry begins."""
    row, column = divmod(index, _COLUMNS)
    return 8 + column * (WIDTH - 16) / _COLUMNS, _LEGEND_Y + row * _ROW_H


def _patch(x: float, y: float, width: float, height: float, limit: Limit) -> list[str]:
    """A stretch in a limit's colour and hatching; neighbours' lines meet."""
    kind, hatch = LIMIT_LOOK[limit]
    box = f'x="{x:.1f}" y="{y:.1f}" width="{width:.1f}" height="{height:.1f}"'
    parts = [f'<rect {box} fill="{ENERGY[kind]}"/>']
    lines = "".join(
        f"M{x0:.1f} {y0:.1f}L{x1:.1f} {y1:.1f}"
        for x0, y0, x1, y1 in _hatching((x, y, x + width, y + height), hatch)
    )
    if lines:
        parts.append(f'<path d="{lines}" stroke="{ON_ENERGY[kind]}" stroke-opacity="0.6"/>')
    return parts


def _hatching(
    box: tuple[float, float, float, float], hatch: Hatch
) -> list[tuple[float, float, float, float]]:
    """Lines on one grid for the whole picture, cut to a box of left, top, right, bottom."""
    left, top, right, bottom = box
    lines = []
    if hatch is Hatch.UPRIGHT:
        lines = [(x, top, x, bottom) for x in _grid(left, right)]
    elif hatch is Hatch.LEVEL:
        lines = [(left, y, right, y) for y in _grid(top, bottom)]
    if hatch in (Hatch.RISING, Hatch.CROSSED):  # x + y = c
        for c in _grid(left + top, right + bottom):
            x0, x1 = max(left, c - bottom), min(right, c - top)
            lines.append((x0, c - x0, x1, c - x1))
    if hatch is Hatch.CROSSED:  # x − y = c
        for c in _grid(left - bottom, right - top):
            x0, x1 = max(left, c + top), min(right, c + bottom)
            lines.append((x0, x0 - c, x1, x1 - c))
    return lines


def _grid(low: float, high: float) -> list[float]:
    first = np.ceil(low / _LINES_APART) * _LINES_APART
    return [float(at) for at in np.arange(first, high, _LINES_APART)]
