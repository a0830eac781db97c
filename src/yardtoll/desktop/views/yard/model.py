"""The yard's lanes and its finding, from runs and results."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from yardtoll.core.formatting import format_span
from yardtoll.core.methods import METHODS
from yardtoll.desktop.widgets.lanes import Lane, LaneRun
from yardtoll.store.records import Load, Record, Run, RunState, Station
from yardtoll.store.shown_region import clock, shown_region
from yardtoll.store.site_time import local, shown_zone
from yardtoll.store.yard_file import YardFile

if TYPE_CHECKING:
    from yardtoll.review.run_analysis import RunAnalysis
    from yardtoll.running.session import RunSession

PLANNED = RunState.PLANNED.value


@dataclass(frozen=True, kw_only=True)
class YardPage:
    """What the Yard view shows."""

    headline: str
    lanes: tuple[Lane, ...]
    until: datetime | None


class KnownRuns:
    """What lanes show of runs that ended; among hundreds each new result changes one of them."""

    def __init__(self) -> None:
        self._shown_for: tuple[object, ...] = ()
        self._known: dict[int, tuple[Run, RunAnalysis | None, LaneRun]] = {}

    def lane_run(self, run: Run, analysis: RunAnalysis | None, now: datetime) -> LaneRun:
        """A run at a clock time, as it was shown before where nothing of it is new."""
        if not run.has_ended or run.id is None:
            return _lane_run(run, analysis, now)
        shown_for = (shown_zone(), shown_region())
        if shown_for != self._shown_for:
            self._shown_for, self._known = shown_for, {}
        known = self._known.get(run.id)
        if known is None or known[1] is not analysis or known[0] != run:
            known = self._known[run.id] = (run, analysis, _lane_run(run, analysis, now))
        return known[2]


def yard_page(
    stations: list[Station],
    runs: list[Run],
    analyses: list[RunAnalysis],
    live: Sequence[RunSession],
    now: datetime,
    known: KnownRuns | None = None,
) -> YardPage:
    """Lay out the lanes at a clock time.

    Args:
        known: what was laid out before.
    """
    known = known or KnownRuns()
    found = {a.run.id: a for a in analyses}
    planned = [run for run in runs if run.state == PLANNED]
    until = max((_lane_run(run, None, now).end for run in planned), default=None)
    for session in live:
        forecast = session.forecast()
        if forecast is not None:
            ends = now + timedelta(seconds=forecast.latest_s / session.speed)
            until = max(until, ends) if until else ends
    lanes = []
    for station in stations:
        own = [run for run in runs if run.station_id == station.id]
        assert station.id is not None
        count = _count(sum(run.state != PLANNED for run in own))
        lanes.append(
            Lane(
                station_id=station.id,
                name=station.name,
                subtitle=f"{station.rated_wh:g} Wh · {count}",
                runs=tuple(known.lane_run(run, found.get(run.id), now) for run in own),
            )
        )
    return YardPage(headline=_headline(stations, runs, live), lanes=tuple(lanes), until=until)


def _headline(stations: list[Station], runs: list[Run], live: Sequence[RunSession]) -> str:
    if live:
        names = list(dict.fromkeys(session.station.name for session in live))
        return f"{' and '.join(names)} {'is' if len(names) == 1 else 'are'} running"
    if not stations:
        return "The yard is empty: add the first station"
    planned = sum(run.state == PLANNED for run in runs)
    if not runs:
        return "Ready for the first run"
    many = "station" if len(stations) == 1 else "stations"
    now = f"{planned} planned" if planned else "nothing is running"
    return f"{_count(len(runs) - planned)} of {len(stations)} {many}; {now}"


def _count(runs: int) -> str:
    return "no run yet" if runs == 0 else f"{runs} run{'' if runs == 1 else 's'}"


def _lane_run(run: Run, analysis: RunAnalysis | None, now: datetime) -> LaneRun:
    start = local(run.started_at)
    duration = analysis.figures.get("duration_s") if analysis else None
    if run.state == RunState.RUNNING.value:
        end = max(now, start)
    elif run.state == PLANNED:
        end = start + timedelta(seconds=run.conditions.expected_s or 0.0)
    elif duration is not None:
        # A simulated run takes less of the clock than of its own time; its own time counts.
        end = start + timedelta(seconds=duration.value)
    else:
        end = local(run.ended_at) if run.ended_at else start
    energy = (_caption(analysis) if analysis else "") or run.state
    if run.state == RunState.VOID.value:
        energy = "void"
    if run.state == PLANNED:
        energy = METHODS[run.method].title
    length = format_span((end - start).total_seconds())
    planned = "planned " if run.state == PLANNED else ""
    tip = f"Run {run.number}, {planned}{start:%a %-d %b} {clock(start)}, {length}: {energy}"
    if run.state == RunState.VOID.value:
        tip += f" – void: {run.void_reason}"
    figure = analysis.main_figure if analysis else None
    budget = figure.budget if figure is not None else None
    about = METHODS[run.method]
    if about.is_table:
        # Many stand within an hour, and what they found is a sentence: the tip has it.
        energy, budget = "", None
    return LaneRun(run.id or 0, start, end, run.state, energy, tip, budget, about.energy)


def _caption(analysis: RunAnalysis) -> str:
    """What it came to; the kinds of runs are loaded with the first result."""
    from yardtoll.review.kinds import kind_of

    return kind_of(analysis.run.method).caption(analysis)


def load_facts(load: Load) -> str:
    """A load's settings in one line."""
    parts = [
        f"{s.name} {s.watts:g} W" if s.name != "on" else f"{s.watts:g} W" for s in load.settings
    ]
    if load.range_low_w is not None:
        parts.append(f"{load.range_low_w:g}–{load.range_high_w:g} W")
    count = f"{load.count} × " if load.count > 1 else ""
    return count + " · ".join(parts)


def wiring_rows(yard: YardFile) -> list[tuple[str, str, Record]]:
    """Circuits, cords, arrays and the site as rows of one list."""
    rows: list[tuple[str, str, Record]] = [
        (c.name, f"circuit · {c.breaker_a:g} A {c.volts:g} V", c) for c in yard.circuits()
    ]
    rows += [(c.name, f"cord · {c.length_m:g} m {c.gauge}", c) for c in yard.cords()]
    rows += [
        (a.name, f"array · {a.series} × {a.parallel} × {a.module_w:g} W", a) for a in yard.arrays()
    ]
    site = yard.site()
    facts = []
    if site.latitude is not None and site.longitude is not None:
        facts.append(f"{site.latitude:g}°, {site.longitude:g}°")
    if site.price_per_kwh is not None:
        facts.append(" ".join(f"{site.price_per_kwh:g} {site.currency} a kWh".split()))
    if site.temperature_c is not None:
        facts.append(f"{site.temperature_c:g} °C")
    rows.append(("The site", " · ".join(facts) or "place, price, temperature", site))
    return rows
