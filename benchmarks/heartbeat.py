"""How long the window's thread stands still: each stop, each station, day and night, a live run.

A timer beats every 5 ms; the longest time between two beats of a walk through all stops counts,
the median of five walks. Beside it is what is usual: of each thing done the median of the walks, of
these the longest. Before each walk another window is looked at in its first seconds, while results
arrive and large modules are not loaded yet. Exit 1 above the bar.
"""

import shutil
import statistics
import sys
from pathlib import Path

from made_yards import big_yard
from rows import REPEATS, Row, in_folder, printed, show

BAR_MS = 50
_BEGIN = """
import os, sys, time
from pathlib import Path
import yardtoll.cli
from PySide6.QtCore import QEventLoop, QTimer
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.tidying import Tidying
from yardtoll.desktop.workbench.warming import Warming
from yardtoll.running.plan import plan_for_load
app = make_app()
window = make_window(UserSettings(Path(sys.argv[2])))
window.resize(1280, 800)
window.show()
tidying = Tidying(app)
tidying.start()
warming = Warming(done=tidying.settle)
longest, doing, beat, times = {}, [("start", 0)], [time.perf_counter()], {}

def tick():
    now = time.perf_counter()
    longest[doing[0]] = max(longest.get(doing[0], 0.0), now - beat[0] - 0.005)
    beat[0] = now

timer = QTimer(interval=5)
timer.timeout.connect(tick)
timer.start()

def turn(seconds, until=lambda: False):
    end = time.perf_counter() + seconds
    while time.perf_counter() < end and not until():
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)

def do(name, act, seconds=0.8):
    turn(0.05)
    times[name] = times.get(name, 0) + 1
    doing[0], beat[0] = (name, times[name]), time.perf_counter()
    QTimer.singleShot(0, act)
    turn(seconds)
    doing[0] = ("between", 0)

"""
FIRST_SECONDS = f"""{_BEGIN}
window.open_yard(Path(sys.argv[1]))
turn(0.05)
QTimer.singleShot(200, warming.start)
doing[0], beat[0] = ("the first seconds", 1), time.perf_counter()
for stop in ("verdicts", "ledger", "run"):
    turn(0.6)
    window.rail.stop_chosen.emit(stop)
    turn(60, lambda: not window.visits.is_under_way)
turn(60, lambda: window.bench.analyses.settled and not window.jobs.busy)
print(f"the first seconds:1:{{1000 * longest[doing[0]]:.0f}}", flush=True)
os._exit(0)
"""
WALK = f"""{_BEGIN}
warming.start()
turn(60, lambda: warming.is_done)
turn(1)
do("opening", lambda: window.open_soon(Path(sys.argv[1])))
doing[0] = ("results arriving", 1)
turn(5, lambda: window.bench is not None)
turn(120, lambda: window.bench.analyses.settled and not window.jobs.busy)
for stop in STOPS:
    do("first visit", lambda: window.rail.stop_chosen.emit(stop), 1.2)
others = [s.id for s in window.bench.session.yard.stations()][:3]
for _ in others:
    for stop in STOPS:
        do("another stop", lambda: window.rail.stop_chosen.emit(stop), 0.6)
        others.append(others.pop(0))
        do("another station", lambda: window.bench.session.choose_station(others[0]), 0.9)
yard = window.bench.session.yard
if any(m.is_simulated for m in yard.meters()) and yard.loads():
    meter = next(m for m in yard.meters() if m.is_simulated)
    window.go_to("run")
    turn(0.5)
    plan = plan_for_load(yard.stations()[0], meter, yard.loads()[0])
    do("starting a run", lambda: window.bench.start_run(plan), 1.5)
    do("a live run", lambda: None, 8)
    do("leaving it", window.bench.leave_runs, 1)
for mode in ("night", "day"):
    do("day and night", lambda: theme.apply_soon(mode), 1)
for (name, number), took in longest.items():
    if number:
        print(f"{{name}}:{{number}}:{{1000 * took:.0f}}", flush=True)
os._exit(0)
"""


def _walk(yard: Path, folder: Path) -> dict[tuple[str, str], int]:
    """The longest standstill in ms of each thing done, in a yard and with settings of its own."""
    folder.mkdir()
    own = shutil.copy(yard, folder)
    said = "".join(
        printed(code, str(own), str(folder / f"settings{number}.ini"))
        for number, code in enumerate((FIRST_SECONDS, WALK))
    )
    lines = (line.split(":") for line in said.split("\n") if line)
    return {(what, number): int(ms) for what, number, ms in lines}


def rows() -> list[Row]:
    """The longest standstill of each kind, in the demo yard and in one of 200 runs."""

    def measure(folder: Path) -> list[Row]:
        from yardtoll.demo.yard import fresh_demo

        demo, many = fresh_demo(folder), big_yard(folder / "many.yard", 200, 20_000, 4)
        found = []
        for name, yard in (("demo", demo), ("200 runs", many)):
            walks = [_walk(yard, folder / f"{name} {n}") for n in range(REPEATS)]
            for kind in dict.fromkeys(kind for kind, _ in walks[0]):
                done = [key for key in walks[0] if key[0] == kind]
                longest = statistics.median(max(w.get(key, 0) for key in done) for w in walks)
                usual = max(statistics.median(w.get(key, 0) for w in walks) for key in done)
                bar = 100 if kind == "first visit" else BAR_MS
                figure, met = f"{longest:.0f} ms, usual {usual:.0f}", longest <= bar
                found.append(Row(f"standstill, {kind} ({name})", figure, f"≤ {bar} ms", met))
        return found

    return in_folder(measure)


if __name__ == "__main__":
    result = rows()
    show(result)
    sys.exit(any(row.met is False for row in result))
