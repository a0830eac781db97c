"""A burn-in: what each cycle delivered over all that went through before it, and their line."""

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.endurance.burn_in import BurnIn, whole_cycles
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.plane import Plane
from yardtoll.report.charts.scene import Dot, Item, Line, Scene, Words

_LEFT, _RIGHT, _TOP, _BELOW = 72.0, 16.0, 28.0, 36.0
_ROOM = 0.15


def burn_in_scene(found: BurnIn, width: float, height: float, palette: Palette = ON_PAPER) -> Scene:
    """Dots for cycles, crosses for failures, the line where there is one."""
    whole = whole_cycles(found.cycles)
    values = [cycle.delivered_wh for cycle in whole] or [c.delivered_wh for c in found.cycles]
    low, high = min(values), max(values)
    room = max(_ROOM * (high - low), 0.01 * high, 0.5)
    plane = Plane(
        area=(_LEFT, _TOP, width - _LEFT - _RIGHT, height - _TOP - _BELOW),
        x=(0.0, max(cycle.before_kwh for cycle in found.cycles) or 1.0),
        y=(low - room, high + room),
        palette=palette,
    )
    colour = palette.energy[EnergyKind.DELIVERED]
    items: list[Item] = [
        Words(x=8, y=17, text="Delivered per cycle, over what went through before it", weight=600,
              colour=palette.ink),
        *plane.rows("Wh"),
        *plane.columns("kWh"),
    ]  # fmt: skip
    drift = found.drift
    if drift is not None:
        ends = tuple(
            plane.at(
                x, drift.first_wh * (1 + drift.share * (x - whole[0].before_kwh) / drift.over_kwh)
            )
            for x in (whole[0].before_kwh, whole[-1].before_kwh)
        )
        items.append(Line(points=ends, colour=palette.ink, width=2.0))
    items += [
        Dot(at=plane.at(c.before_kwh, c.delivered_wh), radius=4.5, fill=colour, stroke=palette.ink)
        for c in whole
    ]
    for cycle in found.cycles:
        if cycle not in whole:
            x, y = plane.at(cycle.before_kwh, cycle.delivered_wh)
            items += [
                Line(points=((x - 6, y - 6), (x + 6, y + 6)), colour=palette.bad, width=2.6),
                Line(points=((x - 6, y + 6), (x + 6, y - 6)), colour=palette.bad, width=2.6),
            ]
    return Scene(
        width=width,
        height=height,
        items=tuple(items),
        title=f"Delivered per cycle: {low:.0f} to {high:.0f} Wh in {len(found.cycles)} cycles",
    )
