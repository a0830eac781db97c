"""Power over the hours of one run."""

import numpy as np

from yardtoll.report.charts.axes import WIDTH, PowerAxes, thinned
from yardtoll.report.charts.curve import Curve
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.scene import Area, Item, Line, Scene, Words

_HEIGHT, _BOTTOM = 236, 28


def power_scene(curve: Curve, palette: Palette = ON_PAPER) -> Scene:
    """A filled curve in the colour of its energy."""
    time_s, watts = thinned(curve.time_s, curve.power_w)
    span_s = float(time_s[-1]) if time_s.size else 0.0
    axes = PowerAxes(span_s, float(watts.max()) if watts.size else 1.0, _HEIGHT - _BOTTOM)
    line, colour = axes.line(time_s, watts), palette.energy[curve.kind]
    items: list[Item] = [
        Words(x=8, y=18, text=curve.title, weight=600, colour=palette.ink),
        *axes.items(palette),
    ]
    if line:
        ends = axes.line(time_s[[-1, 0]], np.zeros(2))
        items.append(Area(points=(*line, *ends), fill=colour, opacity=0.25))
        items.append(Line(points=line, colour=colour, width=1.8))
    return Scene(width=WIDTH, height=_HEIGHT, items=tuple(items), title=curve.title)
