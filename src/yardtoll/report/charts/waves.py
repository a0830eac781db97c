"""One cycle of an outlet's volts at several loads, its harmonics, and its volts against load."""

from collections.abc import Sequence

import numpy as np

from yardtoll.core.conformance.service_volts import SERVICE_RANGES
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.output.wave_lines import WavePoint
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.plane import Plane
from yardtoll.report.charts.scene import Box, Dot, Item, Line, Scene, Words

# EN 50160, table 1, orders 2 to 25 (from memory): % of the fundamental.
GRID_LIMITS = {2: 2.0, 3: 5.0, 4: 1.0, 5: 6.0, 6: 0.5, 7: 5.0, 9: 1.5, 11: 3.5, 13: 3.0, 15: 0.5,
               17: 2.0, 19: 1.5, 21: 0.5, 23: 1.5, 25: 1.5}  # fmt: skip
_EVEN_FROM_6 = 0.5
_LEFT, _RIGHT, _TOP, _BOTTOM = 62.0, 14.0, 34.0, 28.0
_MOST_CURVES = 4
_ENTRY_H, _LETTER_W = 20.0, 7.4
"""Of the legend: a line of it, and a letter."""
_DASHES: tuple[tuple[float, ...], ...] = ((), (8.0, 4.0), (2.0, 3.0), (10.0, 3.0, 2.0, 3.0))


def _colours(palette: Palette) -> list[str]:
    kinds = (EnergyKind.WALL, EnergyKind.DELIVERED, EnergyKind.CONVERSION, EnergyKind.OVERHEAD)
    return [palette.energy[kind] for kind in kinds]


def curves_scene(
    points: Sequence[WavePoint], width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """A mean cycle of each load, laid over each other; relative ones by their own peak."""
    shown = _spread([p for p in points if p.wave is not None and p.wave.cycle])
    title = "One cycle of the outlet"
    peak = max((float(np.max(np.abs(p.wave.cycle))) for p in shown if p.wave), default=1.0)
    # The mean of cycles, so that noise is no part of the picture.
    places = _legend_places([point.name for point in shown], width)
    top = _TOP + max((y for _, y in places), default=0.0)
    plane = Plane(
        area=(_LEFT, top, width - _LEFT - _RIGHT, height - top - _BOTTOM),
        x=(0.0, 1.0), y=(-1.12 * peak, 1.12 * peak), palette=palette,
    )  # fmt: skip
    hertz = next((p.hertz for p in shown if p.hertz), None)
    items: list[Item] = [*plane.rows("V", 5)]
    if hertz:
        span_ms = 1000 / hertz
        items += Plane(area=plane.area, x=(0, span_ms), y=plane.y, palette=palette).columns("ms")
    colours = _colours(palette)
    for i, point in enumerate(shown):
        assert point.wave is not None
        cycle = _from_rise(np.array(point.wave.cycle))
        cycle = np.append(cycle, cycle[0])
        shares = np.linspace(0, 1, cycle.size)
        line = tuple(plane.at(float(x), float(v)) for x, v in zip(shares, cycle, strict=True))
        items.append(Line(points=line, colour=colours[i], width=2.2, dash=_DASHES[i]))
    for i, (point, (x, y)) in enumerate(zip(shown, places, strict=True)):
        line = ((x, y + 14), (x + 24, y + 14))
        items.append(Line(points=line, colour=colours[i], width=2.4, dash=_DASHES[i]))
        items.append(Words(x=x + 30, y=y + 18, text=point.name, colour=palette.ink))
    return Scene(width=width, height=height, items=tuple(items), title=title)


def _legend_places(names: Sequence[str], width: float) -> list[tuple[float, float]]:
    """Where each entry begins: in lines, as many as the width needs."""
    found: list[tuple[float, float]] = []
    x, y = _LEFT, 0.0
    for name in names:
        room = 30 + _LETTER_W * len(name)
        if x > _LEFT and x + room > width:
            x, y = _LEFT, y + _ENTRY_H
        found.append((x, y))
        x += room + 14
    return found


def harmonics_scene(
    point: WavePoint, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Bars of the orders against what a public grid may have (EN 50160)."""
    wave = point.wave
    found = wave.distortion if wave is not None else None
    shares = {
        h.order: 100 * h.share for h in (found.harmonics if found else ()) if h.share is not None
    }
    orders = [order for order in range(2, 26) if order in shares]
    highest = max([shares[o] for o in orders] + [6.5])
    plane = Plane(
        area=(_LEFT, _TOP, width - _LEFT - _RIGHT, height - _TOP - _BOTTOM),
        x=(1.4, 25.6), y=(0.0, 1.08 * highest), palette=palette,
    )  # fmt: skip
    items: list[Item] = [*plane.rows("%")]
    wide = max((plane.at_x(3) - plane.at_x(2)) * 0.62, 3.0)
    base = plane.at_y(0)
    for order in orders:
        x, y = plane.at(order, shares[order])
        limit = GRID_LIMITS.get(order, _EVEN_FROM_6 if order % 2 == 0 else 1.5)
        over = shares[order] > limit
        items.append(
            Box(
                x=x - wide / 2, y=y, width=wide, height=base - y,
                fill=palette.energy[EnergyKind.CONVERSION if over else EnergyKind.STORED],
            )
        )  # fmt: skip
        at = plane.at_y(limit)
        items.append(
            Line(
                points=((x - wide / 2 - 2, at), (x + wide / 2 + 2, at)), colour=palette.ink,
                width=2.2,
            )
        )  # fmt: skip
        if order % 2 or order == 2:
            items.append(
                Words(x=x, y=base + 19, text=f"{order}", anchor="middle", colour=palette.muted)
            )
    items.append(
        Words(x=_LEFT, y=18, text=f"Harmonics {point.name}, % of the fundamental; posts: EN 50160",
              colour=palette.ink, room=width - _LEFT - _RIGHT)
    )  # fmt: skip
    return Scene(width=width, height=height, items=tuple(items), title=f"Harmonics {point.name}")


def volts_scene(
    points: Sequence[WavePoint],
    nominal_v: float | None,
    width: float,
    height: float,
    palette: Palette = ON_PAPER,
) -> Scene:
    """Volts against load, with what a country's outlets may have as information."""
    known = [(p.load_w, p.volts) for p in points if p.volts]
    bands = [r for r in SERVICE_RANGES if nominal_v and r[0] <= nominal_v <= r[1]]
    values = [v for _, v in known] + [edge for r in bands for edge in r[3:5]]
    low, high = min(values, default=0.0), max(values, default=1.0)
    room = 0.08 * (high - low) or 1.0
    plane = Plane(
        area=(_LEFT, _TOP, width - _LEFT - _RIGHT, height - _TOP - _BOTTOM),
        x=(0.0, 1.08 * max([w for w, _ in known] + [1.0])), y=(low - room, high + room),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = []
    left, _, wide, _ = plane.area
    if bands:
        _, _, name, lowest, highest = bands[0]
        top, bottom = plane.at_y(highest), plane.at_y(lowest)
        items.append(Box(x=left, y=top, width=wide, height=bottom - top, fill=palette.good_ground))
        items.append(
            Words(x=left + wide - 6, y=top + 16, text=name, anchor="end", colour=palette.ink)
        )
    items += [*plane.rows("V"), *plane.columns("W")]
    if nominal_v:
        y = plane.at_y(nominal_v)
        items.append(
            Line(points=((left, y), (left + wide, y)), colour=palette.muted, dash=(5.0, 4.0))
        )
    line = tuple(plane.at(w, v) for w, v in known)
    if len(line) > 1:
        items.append(Line(points=line, colour=palette.trace, width=2))
    for at in line:
        items.append(Dot(at=at, radius=4.5, fill=palette.raised, stroke=palette.ink, width=1.6))
    items.append(Words(x=_LEFT, y=18, text="Volts against load", colour=palette.ink))
    return Scene(width=width, height=height, items=tuple(items), title="Volts against load")


def _from_rise(cycle: np.ndarray) -> np.ndarray:
    """Turned so that the fundamental rises through nothing at the left."""
    spectrum = np.fft.rfft(cycle)
    phase = float(np.angle(spectrum[1])) if spectrum.size > 1 else 0.0
    # The fundamental is a cosine of this phase; a sine begins a quarter of a turn later.
    shift = round((-phase - np.pi / 2) / (2 * np.pi) * cycle.size)
    return np.roll(cycle, -shift)


def _spread(points: Sequence[WavePoint]) -> list[WavePoint]:
    """At most four: the lowest, the highest, and those between."""
    ordered = sorted(points, key=lambda p: p.load_w)
    if len(ordered) <= _MOST_CURVES:
        return ordered
    picked = np.linspace(0, len(ordered) - 1, _MOST_CURVES).round().astype(int)
    return [ordered[i] for i in picked]
