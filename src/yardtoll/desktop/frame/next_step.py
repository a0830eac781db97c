"""What the frame says of a yard: what the chosen station waits for, and what ran last."""

from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import RunState, Station
from yardtoll.store.shown_region import day
from yardtoll.store.site_time import local


def waiting_for(bench: Workbench) -> tuple[str, str]:
    """What the chosen station is waiting for, and the name of the button that does it."""
    session = bench.session
    if bench.live is not None:
        names = ", ".join(live.station.name for live in bench.sessions)
        return f"running: {names}", "See the run"
    if bench.interrupted():
        return "a run was left unfinished", "Look at it"
    if session.station is None:
        return "the yard has no station yet", "Add a station"
    done = [r for r in session.station_runs() if r.state == RunState.FINISHED.value]
    return ("ready for another run" if done else "waiting for its first discharge"), "Plan it"


def last_run_said(bench: Workbench) -> str:
    """The yard's latest finished run in a few words."""
    yard = bench.session.yard
    ended = [r for r in yard.runs() if r.state == RunState.FINISHED.value]
    if not ended:
        return "no run yet"
    last = ended[-1]
    name = yard.get(Station, last.station_id).name
    return f"last: run {last.number} of {name}, {day(local(last.started_at))}"
