"""The yard's lanes and its finding, from runs and results."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from yardtoll.core.figures import format_span
from yardtoll.desktop.analyses import RunAnalysis
from yardtoll.desktop.live_run import LiveRun
from yardtoll.desktop.when import local
from yardtoll.desktop.widgets.lanes import Lane, LaneRun
from yardtoll.store.records import Run, RunState, Station


@dataclass(frozen=True, kw_only=True)
class YardPage:
    """What the Yard view shows."""

    headline: str
    lanes: tuple[Lane, ...]
    until: datetime | None


def yard_page(
    stations: list[Station],
    runs: list[Run],
    analyses: list[RunAnalysis],
    live: LiveRun | None,
    now: datetime,
) -> YardPage:
    """Lay out the lanes at a clock time."""
    found = {a.run.id: a for a in analyses}
    until = None
    if live is not None and (forecast := live.forecast()) is not None:
        until = now + timedelta(seconds=forecast.latest_s / live.speed)
    lanes = []
    for station in stations:
        own = [run for run in runs if run.station_id == station.id]
        assert station.id is not None
        lanes.append(
            Lane(
                station_id=station.id,
                name=station.name,
                subtitle=f"{station.rated_wh:g} Wh · {_count(len(own))}",
                runs=tuple(_lane_run(run, found.get(run.id), now) for run in own),
            )
        )
    return YardPage(headline=_headline(stations, runs, live), lanes=tuple(lanes), until=until)


def _headline(stations: list[Station], runs: list[Run], live: LiveRun | None) -> str:
    if live is not None:
        return f"{live.station.name} is running"
    if not stations:
        return "The yard is empty: add the first station"
    if not runs:
        return "Ready for the first run"
    many = "station" if len(stations) == 1 else "stations"
    return f"{_count(len(runs))} of {len(stations)} {many}; nothing is running"


def _count(runs: int) -> str:
    return "no run yet" if runs == 0 else f"{runs} run{'' if runs == 1 else 's'}"


def _lane_run(run: Run, analysis: RunAnalysis | None, now: datetime) -> LaneRun:
    start = local(run.started_at)
    result = analysis.result if analysis else None
    if run.state == RunState.RUNNING.value:
        end = max(now, start)
    elif result and result.duration_s:
        # A simulated run takes less of the clock than of its own time; its own time counts.
        end = start + timedelta(seconds=result.duration_s)
    else:
        end = local(run.ended_at) if run.ended_at else start
    energy = f"{result.delivered_wh:.0f} Wh" if result else run.state
    if run.state == RunState.VOID.value:
        energy = "void"
    length = format_span((end - start).total_seconds())
    tip = f"Run {run.number}, {start:%a %-d %b %H:%M}, {length}: {energy}"
    if run.state == RunState.VOID.value:
        tip += f" – void: {run.void_reason}"
    return LaneRun(run.id or 0, start, end, run.state, energy, tip)
