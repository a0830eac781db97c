"""Pictures of what the outlets did: gaps, steps, ports, balances, tries, levels and heat."""

from collections.abc import Mapping, Sequence

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.formatting import format_span
from yardtoll.core.output.appliances import ApplianceResult, Started
from yardtoll.core.output.heat import HeatResult, Seen
from yardtoll.core.output.hold import HoldResult, LoadStep, StepEnd
from yardtoll.core.output.pass_through import PassResult
from yardtoll.core.output.port_lines import PortLines
from yardtoll.core.output.switch_lines import By, Switch, Switches
from yardtoll.core.sound.lines import LOUD_DB, QUIET_DB, Levels
from yardtoll.report.charts.hatching import Hatch
from yardtoll.report.charts.palette import ON_PAPER, Palette
from yardtoll.report.charts.plane import Plane
from yardtoll.report.charts.scene import Area, Box, Dot, Item, Line, Scene, Words

_ROW_H, _MOST_ROW_H = 25.0, 52.0
_TITLE, _BELOW = 30.0, 52.0
ITIC_MS = 20.0
_OVER, _LEAST_LABEL = 1.02, 46.0


def gaps_scene(
    found: Switches,
    claim_ms: float | None,
    width: float,
    height: float,
    palette: Palette = ON_PAPER,
) -> Scene:
    """Each try a dot with its ± on a scale of ms; the claim and the ITIC curve as posts."""
    timed = [t for t in found.tries if t.high_ms is not None]
    ends = [t.high_ms for t in timed if t.high_ms is not None and t.high_ms < 1e6]
    most = 1.12 * max([*ends, claim_ms or 0.0, ITIC_MS * 1.2])
    left = 0.36 * width
    rows = found.tries[: _fitting(len(found.tries), height)]
    row_h = _row_height(len(rows), height)
    bottom = _TITLE + len(rows) * row_h
    plane = Plane(
        area=(left, _TITLE, width - left - 16, bottom - _TITLE), x=(0, most), y=(0, 1),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = []
    if claim_ms is None or abs(claim_ms - ITIC_MS) > 0.16 * most:
        items += _post(plane, ITIC_MS, "ITIC 20 ms", palette.muted, 4)
    if claim_ms is not None:
        beside = " · ITIC" if claim_ms == ITIC_MS else ""
        items += _post(plane, claim_ms, f"claimed {claim_ms:g} ms{beside}", palette.ink, 5)
    for i, switch in enumerate(rows):
        y = _TITLE + (i + 0.5) * row_h
        items += _gap_row(plane, switch, y, left, palette)
    items += plane.columns("ms")
    legend = "circle: by a scope, with its ± · bar: what the frames of a video allow"
    items.append(
        Words(x=left, y=bottom + 38, text=legend, colour=palette.muted, room=width - left - 8)
    )
    items += _more(len(found.tries), len(rows), bottom + 19, palette)
    return Scene(width=width, height=bottom + 48, items=tuple(items), title="Gaps at switch-overs")


def _row_height(count: int, height: float) -> float:
    """Rows share the height there is, between comfortable limits."""
    return min(max((height - _TITLE - _BELOW) / max(count, 1), _ROW_H), _MOST_ROW_H)


def _fitting(count: int, height: float) -> int:
    """How many of so many rows there is room for, one line kept for those that are not shown."""
    room = max(int((height - _TITLE - _BELOW) / _ROW_H), 1)
    return count if count <= room else max(room - 1, 1)


def _more(count: int, shown: int, y: float, palette: Palette) -> list[Item]:
    """What there was no room for, so that nothing is left out unsaid."""
    if shown >= count:
        return []
    words = f"and {count - shown} more below in the table"
    return [Words(x=8, y=y, text=words, colour=palette.muted)]


def _post(
    plane: Plane, value: float, words: str, colour: str, wide: float, anchor: str = "middle"
) -> list[Item]:
    x = plane.at_x(value)
    _, top, _, height = plane.area
    return [
        Box(x=x - wide / 2, y=top - 2, width=wide, height=height + 2, fill=colour),
        Words(x=x, y=top - 8, text=words, anchor=anchor, colour=colour, weight=500),
    ]


def _gap_row(plane: Plane, switch: Switch, y: float, left: float, palette: Palette) -> list[Item]:
    load = f"{switch.load_w:.0f} W" if switch.load_w else "no load"
    items: list[Item] = [
        Words(
            x=8, y=y + 5, text=f"{switch.way.words}, {load}, by {switch.by.words}",
            colour=palette.ink, room=left - 20,
        )
    ]  # fmt: skip
    _, right = plane.x
    if switch.low_ms is None or switch.high_ms is None:
        stayed = switch.stayed.words if switch.stayed else ""
        items.append(
            Words(x=left + 4, y=y + 5, text=f"{switch.device or 'a device'} {stayed}: no ms",
                  colour=palette.muted, weight=500)
        )  # fmt: skip
        return items
    low, high = plane.at_x(switch.low_ms), plane.at_x(min(switch.high_ms, right))
    thick = 8.0 if switch.by is By.FRAMES else 2.0
    colour = palette.trace if switch.by is By.SCOPE else palette.muted
    items.append(Line(points=((low, y), (max(high, low + 1), y)), colour=colour, width=thick))
    if switch.by is By.SCOPE and switch.gap_ms is not None:
        at = plane.at_x(min(switch.gap_ms, right))
        items.append(Dot(at=(at, y), radius=5, fill=palette.raised, stroke=palette.ink, width=1.8))
    return items


def steps_scene(
    held: HoldResult, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Each step as long as it was held and as high as its share of the rating."""
    steps = held.steps
    span = max((s.start_s + s.seconds for s in steps), default=60.0)
    first = min((s.start_s for s in steps), default=0.0)
    highest = max([s.share_of_rated for s in steps] + [1.1])
    plane = Plane(
        area=(62, 34, width - 76, height - 62), x=(0.0, max(span - first, 1.0)),
        y=(0.0, 1.12 * highest), palette=palette,
    )  # fmt: skip
    minutes = plane.x[1] > 600
    items: list[Item] = [
        *plane.rows("%", 4, 100.0),
        *plane.columns("min" if minutes else "s", 6, 1 / 60 if minutes else 1.0),
    ]
    base = plane.at_y(0)
    for step in steps:
        items += _step_items(plane, step, first, base, palette)
    left, _, wide, _ = plane.area
    y = plane.at_y(1.0)
    items.append(Line(points=((left, y), (left + wide, y)), colour=palette.ink, width=2.4))
    if steps and steps[-1].ended_by is StepEnd.TRIP:
        x = plane.at_x(steps[-1].start_s - first + steps[-1].seconds)
        items.append(Line(points=((x, 34), (x, base)), colour=palette.bad, width=2.4))
        items.append(
            Words(x=x - 6, y=46, text="tripped", anchor="end", colour=palette.bad, weight=600)
        )
    title = f"Load in % of the rated {held.rated_w:g} W"
    items.append(Words(x=62, y=18, text=title, colour=palette.ink))
    return Scene(width=width, height=height, items=tuple(items), title="Load steps")


def _step_items(
    plane: Plane, step: LoadStep, first_s: float, base: float, palette: Palette
) -> list[Item]:
    """One step: its bar, parted from the next, its share and how long it was held."""
    begins = step.start_s - first_s
    x0, x1 = plane.at_x(begins), plane.at_x(begins + step.seconds)
    y, over = plane.at_y(step.share_of_rated), step.share_of_rated > _OVER
    kind = EnergyKind.CONVERSION if over else EnergyKind.DELIVERED
    wide = max(x1 - x0 - 1.5, 2.0)
    items: list[Item] = [Box(x=x0, y=y, width=wide, height=base - y, fill=palette.energy[kind])]
    if x1 - x0 > _LEAST_LABEL:
        ink, middle = palette.on_energy[kind], (x0 + x1) / 2
        share = f"{100 * step.share_of_rated:.0f} %"
        items.append(
            Words(x=middle, y=(y + base) / 2, text=share, anchor="middle", colour=ink, weight=600,
                  size=15)
        )  # fmt: skip
        items.append(
            Words(x=middle, y=(y + base) / 2 + 19, text=format_span(step.seconds),
                  anchor="middle", colour=ink)
        )  # fmt: skip
    return items


def ports_scene(
    found: PortLines, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Each port's watts alone, and what is left of them with all loaded together."""
    result = found.result
    fullest = max(result.together, key=lambda s: (len(s.ports), s.total_w), default=None)
    beside: Mapping[str, float] = fullest.ports if fullest else {}
    names = list(dict.fromkeys([*result.alone, *beside]))
    every, names = len(names), names[: _fitting(len(names), height)]
    row_h = _row_height(len(names), height)
    most = 1.15 * max([*result.alone.values(), *beside.values(), 1.0])
    left = 0.26 * width
    bottom = _TITLE + len(names) * row_h
    plane = Plane(
        area=(left, _TITLE, width - left - 70, bottom - _TITLE), x=(0, most), y=(0, 1),
        palette=palette,
    )  # fmt: skip
    alone_colour, kept = (
        palette.energy[EnergyKind.UNACCOUNTED],
        palette.energy[EnergyKind.DELIVERED],
    )
    gives_way = {y.port for y in result.yields}
    items: list[Item] = [
        Box(x=left, y=6, width=14, height=12, fill=alone_colour, stroke=palette.muted),
        Words(x=left + 20, y=17, text="alone", colour=palette.ink),
        Box(x=left + 80, y=6, width=14, height=12, fill=kept),
        Words(x=left + 100, y=17, text="all together", colour=palette.ink),
    ]
    for i, name in enumerate(names):
        y = _TITLE + (i + 0.5) * row_h - 17
        items.append(Words(x=8, y=y + 21, text=name, colour=palette.ink, room=left - 16))
        shown = []
        if (alone := result.alone.get(name)) is not None:
            items.append(
                Box(x=left, y=y + 4, width=plane.at_x(alone) - left, height=12, fill=alone_colour,
                    stroke=palette.muted)
            )  # fmt: skip
            shown.append(f"{alone:.0f}")
        if (watts := beside.get(name)) is not None:
            items.append(
                Box(x=left, y=y + 17, width=plane.at_x(watts) - left, height=12, fill=kept)
            )
            shown.append(f"{watts:.0f}")
        end = plane.at_x(max(result.alone.get(name, 0.0), beside.get(name, 0.0)))
        colour = palette.bad if name in gives_way else palette.ink
        items.append(
            Words(x=end + 8, y=y + 21, text=" → ".join(shown) + " W", colour=colour, weight=500)
        )
    items += _more(every, len(names), bottom + 14, palette)
    return Scene(
        width=width, height=bottom + 20, items=tuple(items), title="Ports alone and together"
    )


def balance_scene(
    found: PassResult, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Each load as a bar: what the wall, the sun and the battery gave to it."""
    steps = found.steps
    most = 1.12 * max([max(s.output_w, s.input_w + s.sun_w) for s in steps] + [1.0])
    plane = Plane(
        area=(62, 34, width - 76, height - 62), x=(0.0, float(max(len(steps), 1))), y=(0.0, most),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = [*plane.rows("W")]
    base = plane.at_y(0)
    wide = min((plane.at_x(1) - plane.at_x(0)) * 0.7, 70.0)
    colours = palette.energy
    for i, step in enumerate(steps):
        middle, below = plane.at_x(i + 0.5), 0.0
        wall_to_load = min(step.input_w, step.output_w)
        parts = (
            (wall_to_load, EnergyKind.WALL),
            (min(step.sun_w, max(step.output_w - wall_to_load, 0.0)), EnergyKind.SUN),
            (step.battery_w, EnergyKind.STORED),
        )
        for watts, kind in parts:
            if watts <= 0:
                continue
            top = plane.at_y(below + watts)
            items.append(
                Box(x=middle - wide / 2, y=top, width=wide, height=plane.at_y(below) - top,
                    fill=colours[kind])
            )  # fmt: skip
            below += watts
        rest = step.input_w + step.sun_w - step.output_w
        if rest > 0:
            top = plane.at_y(below + rest)
            items.append(
                Box(x=middle - wide / 2, y=top, width=wide, height=plane.at_y(below) - top,
                    fill=palette.paper, stroke=colours[EnergyKind.WALL], hatch=Hatch.RISING,
                    hatch_colour=colours[EnergyKind.WALL])
            )  # fmt: skip
        y = plane.at_y(step.output_w)
        items.append(
            Line(points=((middle - wide / 2 - 4, y), (middle + wide / 2 + 4, y)),
                 colour=palette.ink, width=2.6)
        )  # fmt: skip
        items.append(
            Words(x=middle, y=base + 19, text=f"{step.output_w:.0f} W", anchor="middle",
                  colour=palette.ink)
        )  # fmt: skip
    x = 62.0
    for name, kind in (("wall", EnergyKind.WALL), ("sun", EnergyKind.SUN),
                       ("battery", EnergyKind.STORED)):  # fmt: skip
        if kind is EnergyKind.SUN and not any(s.sun_w for s in steps):
            continue
        items.append(Box(x=x, y=7, width=14, height=12, fill=colours[kind]))
        items.append(Words(x=x + 20, y=18, text=name, colour=palette.ink))
        x += 84
    items.append(
        Words(x=x, y=18, text="black line: the load; hatched: into the battery and its charger",
              colour=palette.muted, room=width - x - 12)
    )  # fmt: skip
    return Scene(width=width, height=height, items=tuple(items), title="Who carried the load")


def tries_scene(
    found: Sequence[ApplianceResult],
    surge_w: float | None,
    rated_w: float,
    width: float,
    height: float,
    palette: Palette = ON_PAPER,
) -> Scene:
    """Each appliance's peak seen and need known, on a scale with the rating and the surge."""
    rows = found[: _fitting(len(found), height)]
    row_h = _row_height(len(rows), height)
    known = [w for r in found for t in r.tries for w in (t.peak_w, t.inrush_w, t.nameplate_w) if w]
    most = 1.1 * max([*known, rated_w, surge_w or 0.0])
    left = 0.32 * width
    bottom = _TITLE + len(rows) * row_h
    plane = Plane(
        area=(left, _TITLE, width - left - 0.29 * width, bottom - _TITLE), x=(0, most), y=(0, 1),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = [*_post(plane, rated_w, f"rated {rated_w:g} W", palette.ink, 4, "end")]
    if surge_w and surge_w > 1.15 * rated_w:
        items += _post(plane, surge_w, f"surge {surge_w:g} W", palette.muted, 4, "start")
    for i, row in enumerate(rows):
        y = _TITLE + (i + 0.5) * row_h
        last = row.tries[-1]
        items.append(
            Words(x=8, y=y + 5, text=row.name, colour=palette.ink, room=left - 16, weight=500)
        )
        peaks = [t.peak_w for t in row.tries if t.peak_w]
        if peaks:
            end = plane.at_x(max(peaks))
            items.append(
                Box(x=left, y=y - 7, width=end - left, height=14,
                    fill=palette.energy[EnergyKind.DELIVERED])
            )  # fmt: skip
            if any(t.peak_at_least for t in row.tries):
                # An arrow: the meter is too slow to have seen how far it went.
                items.append(
                    Area(points=((end, y - 10), (end + 11, y), (end, y + 10)),
                         fill=palette.energy[EnergyKind.DELIVERED])
                )  # fmt: skip
        needs = [t.inrush_w for t in row.tries if t.inrush_w]
        if needs:
            x = plane.at_x(max(needs))
            items.append(
                Dot(at=(x, y), radius=5, fill=palette.raised, stroke=palette.ink, width=1.8)
            )
        ran = last.started is Started.STARTED
        sign = "◆" if ran else "✕"
        items.append(
            Words(
                x=width - 0.27 * width, y=y + 5, text=f"{sign} {last.started.words}",
                colour=palette.good if ran else palette.bad, weight=600, room=0.27 * width - 6,
            )
        )  # fmt: skip
    items += plane.columns("W", 4)
    legend = "bar: peak seen, at least so much with an arrow · circle: what a start needs"
    items.append(
        Words(x=left, y=bottom + 38, text=legend, colour=palette.muted, room=width - left - 8)
    )
    items += _more(len(found), len(rows), bottom + 19, palette)
    return Scene(width=width, height=bottom + 48, items=tuple(items), title="Can it run this?")


def levels_scene(
    found: Levels, claim_db: float | None, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Each level at one metre on a scale from silence to loud."""
    values = [line.at_1m_db for line in found.lines]
    low = min([*values, 30.0]) - 4
    high = max([*values, LOUD_DB, claim_db or 0.0]) + 4
    left = 0.30 * width
    rows = found.lines[: _fitting(len(found.lines), height)]
    row_h = _row_height(len(rows), height)
    bottom = _TITLE + len(rows) * row_h
    plane = Plane(
        area=(left, _TITLE, width - left - 80, bottom - _TITLE), x=(low, high), y=(0, 1),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = [
        *_post(plane, QUIET_DB, "quiet", palette.muted, 3),
        *_post(plane, LOUD_DB, "loud", palette.muted, 3),
    ]
    if claim_db is not None:
        items += _post(plane, claim_db, f"claimed {claim_db:g}", palette.ink, 5)
    for i, line in enumerate(rows):
        y = _TITLE + (i + 0.5) * row_h
        x = plane.at_x(line.at_1m_db)
        items.append(Words(x=8, y=y + 5, text=line.words, colour=palette.ink, room=left - 16))
        items.append(Line(points=((left, y), (x, y)), colour=palette.line, width=2))
        if line.within_db:
            ends = (plane.at_x(line.at_1m_db - line.within_db),
                    plane.at_x(line.at_1m_db + line.within_db))  # fmt: skip
            items.append(Line(points=((ends[0], y), (ends[1], y)), colour=palette.ink, width=2))
        items.append(Dot(at=(x, y), radius=5.5, fill=palette.raised, stroke=palette.ink, width=1.8))
        most = "≤ " if line.at_most else ""
        items.append(
            Words(x=plane.at_x(high) + 8, y=y + 5, text=f"{most}{line.at_1m_db:.1f} dB",
                  colour=palette.ink, weight=600)
        )  # fmt: skip
    items += plane.columns("dB(A) at 1 m", 5)
    items += _more(len(found.lines), len(rows), bottom + 19, palette)
    return Scene(width=width, height=bottom + 30, items=tuple(items), title="Levels at one metre")


def heat_scene(
    found: HeatResult, width: float, height: float, palette: Palette = ON_PAPER
) -> Scene:
    """Temperatures over time, a line a place; the fans' hours as bands below."""
    read = [p for p in found.points if p.temperature_c is not None]
    temps = [p.temperature_c for p in read if p.temperature_c is not None] or [20.0]
    span = max([p.minute for p in found.points] + [1.0])
    low, high = min(temps), max(temps)
    room = max(0.1 * (high - low), 2.0)
    plane = Plane(
        area=(62, 34, width - 76, height - 84), x=(0.0, 1.03 * span), y=(low - room, high + room),
        palette=palette,
    )  # fmt: skip
    items: list[Item] = [*plane.rows("°C", each=True), *plane.columns("min")]
    colours = [palette.energy[k] for k in (EnergyKind.CONVERSION, EnergyKind.WALL,
               EnergyKind.DELIVERED, EnergyKind.OVERHEAD)]  # fmt: skip
    places = list(dict.fromkeys(p.where for p in read))
    x = 62.0
    for i, place in enumerate(places[: len(colours)]):
        mine = [(p.minute, p.temperature_c or 0.0) for p in read if p.where == place]
        line = tuple(plane.at(m, c) for m, c in mine)
        if len(line) > 1:
            items.append(Line(points=line, colour=colours[i], width=2))
        items += [Dot(at=at, radius=3.5, fill=colours[i]) for at in line]
        name = place or "station"
        items.append(Dot(at=(x + 5, 13), radius=4, fill=colours[i]))
        items.append(Words(x=x + 14, y=18, text=name, colour=palette.ink))
        x += 30 + 7.4 * len(name)
    band = plane.at_y(plane.y[0]) + 27
    items.append(Words(x=54, y=band + 12, text="fans", anchor="end", colour=palette.muted))
    for on, off, _, _ in found.fans:
        x0, x1 = plane.at_x(on), plane.at_x(off if off is not None else plane.x[1])
        items.append(
            Box(x=x0, y=band, width=max(x1 - x0, 2.0), height=14,
                fill=palette.energy[EnergyKind.OVERHEAD])
        )  # fmt: skip
    for point in found.points:
        if point.seen in (Seen.CUT_BACK, Seen.REFUSED, Seen.CHARGED_AGAIN):
            x = plane.at_x(point.minute)
            items.append(
                Line(points=((x, 34), (x, band - 27)), colour=palette.bad, width=1.6,
                     dash=(5.0, 3.0))
            )  # fmt: skip
            items.append(Words(x=x + 4, y=46, text=point.seen.words, colour=palette.bad))
    return Scene(width=width, height=height, items=tuple(items), title="Heat and fans")
