"""The sheet's charts as SVG, drawn as wide as a phone so that labels can be read there."""

from html import escape

import numpy as np

from yardtoll.core.figures import HOUR_S
from yardtoll.core.ledger import Ledger
from yardtoll.core.trace import FloatArray
from yardtoll.report.palette import ENERGY, INK, LINE, MUTED, ON_ENERGY, RAISED
from yardtoll.report.sheet.contents import Curve, Sheet

WIDTH = 420
_TEXT = 13
_CHART_H, _LEDGER_H = 236, 236
_LEFT, _RIGHT, _TOP, _BOTTOM = 58, 12, 34, 28
_POINTS = 300
_TICKS_H = (0.25, 0.5, 1, 2, 4, 6, 12, 24)
_MOST_TICKS = 6


def charts_of(sheet: Sheet) -> dict[str, str]:
    """Every chart of a sheet by its name, as SVG."""
    made = {}
    if sheet.ledger is not None:
        made["ledger"] = ledger_chart(sheet.ledger, sheet.ledger_title)
    return made | {curve.key: power_chart(curve) for curve in sheet.curves}


def power_chart(curve: Curve) -> str:
    """Power over the hours of one run."""
    time_s, watts = _thinned(curve.time_s, curve.power_w)
    span_s = max(float(time_s[-1]), 60.0) if time_s.size else 60.0
    top_w = _round_up(float(watts.max()) if watts.size else 1.0)
    right, base = WIDTH - _RIGHT, _CHART_H - _BOTTOM

    def at(s: float, w: float) -> str:
        x = _LEFT + s / span_s * (right - _LEFT)
        return f"{x:.1f},{base - w / top_w * (base - _TOP):.1f}"

    line = " ".join(at(float(s), float(w)) for s, w in zip(time_s, watts, strict=True))
    colour = ENERGY[curve.kind]
    parts = [_text(8, 18, curve.title, weight=600)]
    for share in (0.0, 0.5, 1.0):
        y = base - share * (base - _TOP)
        parts.append(f'<path d="M{_LEFT} {y:.1f}H{right}" stroke="{LINE}"/>')
        parts.append(_text(_LEFT - 6, y + 4, f"{share * top_w:g} W", anchor="end", colour=MUTED))
    step = next((t for t in _TICKS_H if span_s / HOUR_S / t <= _MOST_TICKS), 48)
    for i in range(1, int(span_s / HOUR_S / step) + 1):
        x = _LEFT + i * step * HOUR_S / span_s * (right - _LEFT)
        anchor = "end" if x > right - 16 else "middle"
        parts.append(_text(x, base + 18, f"{i * step:g} h", anchor=anchor, colour=MUTED))
    if line:
        ends = f"{at(float(time_s[-1]), 0)} {at(float(time_s[0]), 0)}"
        parts.append(f'<polygon points="{line} {ends}" fill="{colour}" fill-opacity="0.25"/>')
        parts.append(
            f'<polyline points="{line}" fill="none" stroke="{colour}" stroke-width="1.8"/>'
        )
    return _svg(_CHART_H, parts, curve.title)


def ledger_chart(ledger: Ledger, title: str) -> str:
    """Where the watt-hours went: a stage for what flows, a block below for each toll."""
    base, top = 154, 40
    stages = ledger.stages
    scale = (base - top) / max(*(stage.energy_wh for stage in stages), 1.0)
    width = WIDTH / len(stages)
    parts = [_text(8, 18, title, weight=600)]
    for i, stage in enumerate(stages):
        height = stage.energy_wh * scale
        x, y = i * width, base - height
        parts.append(
            f'<rect x="{x:.1f}" y="{y:.1f}" width="{width:.1f}" height="{height:.1f}" '
            f'fill="{ENERGY[stage.kind]}"/>'
        )
        if i in (0, len(stages) - 1):
            ink = ON_ENERGY[stage.kind]
            parts.append(_text(x + 6, y + 18, stage.title, colour=ink, width=width - 8))
            parts.append(_text(x + 6, y + 35, f"{stage.energy_wh:.0f} Wh", colour=ink, weight=600))
    parts.append(f'<path d="M0 {base}H{WIDTH}" stroke="{INK}" stroke-width="1.5"/>')
    for i, toll in enumerate(ledger.tolls):
        x = (i + 1) * width
        block = min(max(abs(toll.energy_wh) * scale, 3.0), 44.0)
        parts.append(f'<rect x="{x - 2:.1f}" y="{top - 6}" width="4" height="{base - top + 6}"/>')
        parts.append(
            f'<rect x="{x - 32:.1f}" y="{base + 5}" width="64" height="{block:.1f}" '
            f'fill="{ENERGY[toll.kind]}" stroke="{MUTED}"/>'
        )
        sign = "−" if toll.energy_wh > 0.5 else "+" if toll.energy_wh < -0.5 else ""
        y = base + block + 22
        words = f"{sign}{abs(toll.energy_wh):.0f} Wh"
        parts.append(_text(x, y, words, anchor="middle", weight=600))
        parts.append(_text(x, y + 16, toll.title, anchor="middle", colour=MUTED, width=width))
    return _svg(_LEDGER_H, parts, title)


def _thinned(time_s: FloatArray, watts: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Means of equal stretches, at most as many as can be seen; from 0 s on."""
    keep = np.isfinite(watts)
    time_s, watts = time_s[keep], watts[keep]
    if time_s.size > _POINTS:
        parts = np.array_split(np.arange(time_s.size), _POINTS)
        watts = np.array([float(watts[part].mean()) for part in parts])
        time_s = np.array([float(time_s[part[0]]) for part in parts])
    return (time_s - time_s[0] if time_s.size else time_s), watts


def _round_up(watts: float) -> float:
    """The next round figure above."""
    power = 10.0 ** np.floor(np.log10(max(watts, 1.0)))
    return next(
        float(step * power) for step in (1, 1.5, 2, 3, 4, 5, 6, 8, 10) if step * power >= watts
    )


def _text(
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


def _svg(height: int, parts: list[str], title: str) -> str:
    size = f'viewBox="0 0 {WIDTH} {height}" width="{WIDTH}" height="{height}"'
    face = f'font-family="Barlow, sans-serif" font-size="{_TEXT}"'
    ground = f'<rect width="{WIDTH}" height="{height}" fill="{RAISED}"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} role="img" aria-label="{escape(title)}" '
        f"{face}>{ground}{''.join(parts)}</svg>"
    )
