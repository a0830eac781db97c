"""The sheet's charts as SVG, drawn as wide as a phone so that labels can be read there."""

import numpy as np

from yardtoll.core.ledger.ledger import Ledger
from yardtoll.report.charts.palette import ENERGY, INK, MUTED, ON_ENERGY
from yardtoll.report.charts.scene import Curve
from yardtoll.report.charts.solar_svg import solar_chart
from yardtoll.report.charts.svg import WIDTH, PowerAxes, svg, text, thinned
from yardtoll.report.sheet.contents import Sheet

_CHART_H, _LEDGER_H = 236, 236
_BOTTOM = 28


def charts_of(sheet: Sheet) -> dict[str, str]:
    """Every chart of a sheet by its name, as SVG."""
    made = {}
    if sheet.ledger is not None:
        made["ledger"] = ledger_chart(sheet.ledger, sheet.ledger_title)
    for curve in sheet.curves:
        if curve.solar is not None and curve.solar.limited_by is not None:
            made[curve.key] = solar_chart(curve.title, curve.solar)
        else:
            made[curve.key] = power_chart(curve)
    return made


def power_chart(curve: Curve) -> str:
    """Power over the hours of one run."""
    time_s, watts = thinned(curve.time_s, curve.power_w)
    span_s = float(time_s[-1]) if time_s.size else 0.0
    axes = PowerAxes(span_s, float(watts.max()) if watts.size else 1.0, _CHART_H - _BOTTOM)
    line, colour = axes.line(time_s, watts), ENERGY[curve.kind]
    parts = [text(8, 18, curve.title, weight=600), *axes.drawn()]
    if line:
        ends = axes.line(time_s[[-1, 0]], np.zeros(2))
        parts.append(f'<polygon points="{line} {ends}" fill="{colour}" fill-opacity="0.25"/>')
        parts.append(
            f'<polyline points="{line}" fill="none" stroke="{colour}" stroke-width="1.8"/>'
        )
    return svg(_CHART_H, parts, curve.title)


def ledger_chart(ledger: Ledger, title: str) -> str:
    """Where the watt-hours went: a stage for what flows, a block below for each toll."""
    base, top = 154, 40
    stages = ledger.stages
    scale = (base - top) / max(*(stage.energy_wh for stage in stages), 1.0)
    width = WIDTH / len(stages)
    parts = [text(8, 18, title, weight=600)]
    for i, stage in enumerate(stages):
        height = stage.energy_wh * scale
        x, y = i * width, base - height
        parts.append(
            f'<rect x="{x:.1f}" y="{y:.1f}" width="{width:.1f}" height="{height:.1f}" '
            f'fill="{ENERGY[stage.kind]}"/>'
        )
        if i in (0, len(stages) - 1):
            ink = ON_ENERGY[stage.kind]
            parts.append(text(x + 6, y + 18, stage.title, colour=ink, width=width - 8))
            parts.append(text(x + 6, y + 35, f"{stage.energy_wh:.0f} Wh", colour=ink, weight=600))
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
        parts.append(text(x, y, words, anchor="middle", weight=600))
        parts.append(text(x, y + 16, toll.title, anchor="middle", colour=MUTED, width=width))
    return svg(_LEDGER_H, parts, title)
