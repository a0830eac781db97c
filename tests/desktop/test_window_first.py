"""What is loaded or worked out beside the window never makes it stand still."""

import subprocess
import sys
import threading
import time

import pytest
from conftest_helpers import at_rest, worked_out

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.views.stop import CLAIMS, LEDGER, VERDICTS, YARD
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench import loading
from yardtoll.desktop.workbench.courtesy import Courtesy, courtesy
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.loading import RESULTS, loaded

SLOW = "import time\ntime.sleep(0.3)\nimport threading\nBY = threading.current_thread()\n"


@pytest.fixture
def slow_module(tmp_path, monkeypatch):
    (tmp_path / "slow_to_load.py").write_text(SLOW)
    monkeypatch.syspath_prepend(str(tmp_path))
    yield "slow_to_load"
    sys.modules.pop("slow_to_load", None)


def test_a_module_is_loaded_on_another_thread(slow_module):
    waits = [ms for ms in loaded([slow_module]) if not threading.Event().wait(ms / 1000)]
    assert len(waits) > 5
    assert sys.modules[slow_module].BY is not threading.main_thread()
    assert list(loaded([slow_module])) == []


def test_one_that_another_thread_is_loading_is_waited_for(slow_module):
    thread = threading.Thread(target=loading.load, args=([slow_module],))
    thread.start()
    while slow_module not in sys.modules:
        pass
    assert [ms for ms in loaded([slow_module]) if not threading.Event().wait(ms / 1000)]
    assert hasattr(sys.modules[slow_module], "BY")
    thread.join()


def test_what_cannot_be_loaded_is_left_to_who_needs_it():
    for ms in loaded(["there_is_no_such_module"]):
        threading.Event().wait(ms / 1000)
    with pytest.raises(ImportError):
        loading.load(["there_is_no_such_module"])


def test_a_stop_names_what_it_is_made_of():
    for stop in STOPS.values():
        assert stop.modules[-1].endswith(".view")
        assert stop.key == YARD or stop.modules[:-1] == RESULTS


def test_a_visit_waits_for_its_modules_and_the_window_goes_on(
    qtbot, demo, slow_module, monkeypatch
):
    worked_out(qtbot, demo)
    monkeypatch.setattr(type(STOPS[LEDGER]), "modules", (slow_module,))
    beats = []
    turns = Turns()

    def beat():
        while demo.stack.current_view().key != LEDGER:
            beats.append(demo.visits.is_under_way)
            yield 5

    demo.visit(LEDGER)
    turns.begin(beat())
    qtbot.waitUntil(lambda: not demo.visits.is_under_way, timeout=20_000)
    assert len(beats) > 20
    assert sys.modules[slow_module].BY is not threading.main_thread()


def test_results_come_when_their_libraries_are_there(qtbot, window, tmp_path, monkeypatch):
    """Pages fit runs together on the window's thread: that must not be who loads the library."""
    asked = []
    from yardtoll.desktop.workbench import analyses

    monkeypatch.setattr(
        analyses, "load", lambda names: asked.append((names, threading.current_thread()))
    )
    window.open_yard(fresh_demo(tmp_path))
    worked_out(qtbot, window)
    assert [name for names, _ in asked[: len(RESULTS)] for name in names] == list(RESULTS)
    assert threading.main_thread() not in {thread for _, thread in asked}


def test_the_solver_is_mapped_before_it_is_imported():
    """Its import would hold every thread up meanwhile; asked in a program of its own."""
    said = subprocess.run(
        [sys.executable, "-c", """
import sys
from yardtoll.desktop.workbench.loading import SOLVER, map_compiled
map_compiled("no.such.module")
map_compiled(SOLVER)
mapped = open("/proc/self/maps").read()
print(SOLVER.rpartition(".")[2] in mapped, SOLVER in sys.modules)
from ortools.sat.python import cp_model
print(SOLVER in sys.modules)
"""],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert said.stdout.split() == ["True", "False", "True"]


def test_nothing_begins_while_the_window_makes_something_ready(qtbot):
    jobs, done = Jobs(), []
    with courtesy.window_first():
        jobs.start("later", lambda _: done.append("worked"), lambda _: None, done.append)
        qtbot.wait(150)
        assert not done
    qtbot.waitUntil(lambda: done == ["worked"])
    qtbot.waitUntil(lambda: not jobs.busy)


def test_nobody_waits_for_ever():
    one = Courtesy()
    with one.window_first(), one.work():
        assert len(list(one.others_ending())) == 8
    assert list(one.others_ending()) == []


def test_who_is_at_work_lets_the_window_go_first():
    one, said = Courtesy(), []
    has_begun, may_go_on = threading.Event(), threading.Event()

    def work():
        with one.work():
            one.pause()
            said.append("before the window")
            has_begun.set()
            may_go_on.wait(20)
            one.pause()
            said.append("after the window")

    thread = threading.Thread(target=work)
    thread.start()
    assert has_begun.wait(20)
    with one.window_first():
        may_go_on.set()
        for ms in one.others_ending():
            time.sleep(ms / 1000)
        said.append("window")
    thread.join()
    assert said == ["before the window", "window", "after the window"]


def test_what_somebody_waits_for_does_not_queue_behind_what_nobody_does(qtbot):
    jobs, done, may_end = Jobs(), [], threading.Event()

    def start(name, work, **how):
        jobs.start(name, work, lambda _: done.append(name), done.append, **how)

    for number in range(5):
        start(f"result {number}", lambda _: may_end.wait(20), unhurried=True)
    start("a click", lambda _: None)
    qtbot.waitUntil(lambda: done == ["a click"], timeout=10_000)
    may_end.set()
    qtbot.waitUntil(lambda: not jobs.busy, timeout=10_000)
    assert sorted(done[1:]) == [f"result {number}" for number in range(5)]


def test_one_result_at_a_time_is_worked_out_until_all_is_loaded():
    one, going, most = Courtesy(), [], []

    def work():
        with one.unhurried_work():
            going.append(1)
            most.append(len(going))
            time.sleep(0.1)
            going.pop()

    def at_once():
        most.clear()
        threads = [threading.Thread(target=work) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return max(most)

    assert at_once() == 1
    one.all_is_loaded()
    assert at_once() == 2


def test_results_that_come_in_parts_look_as_if_shown_at_once(qtbot, window, tmp_path):
    window.open_yard(fresh_demo(tmp_path))
    for stop in (VERDICTS, LEDGER):
        window.go_to(stop)
        at_rest(qtbot, window)
        in_parts = window.stack.grab().toImage()
        window.show_anew()
        at_rest(qtbot, window)
        assert window.stack.grab().toImage() == in_parts
        view = window.stack.current_view()
        view.headline.setText("of before")
        window.bench.analyses.is_announcing = True
        window.bench.changed.emit()
        window.bench.analyses.is_announcing = False
        assert view.headline.text() == "of before"  # nothing of it in this turn
        at_rest(qtbot, window)
        assert window.stack.grab().toImage() == in_parts


def test_leaving_a_yard_makes_no_other_stop_ready(qtbot, demo, monkeypatch):
    for stop in (CLAIMS, VERDICTS, LEDGER, YARD):
        demo.go_to(stop)
    at_rest(qtbot, demo)
    demo.bench.session.changed.emit()
    shown = []
    monkeypatch.setattr(StopView, "make_ready", lambda view: shown.append(view.key))
    demo.close_yard()
    assert shown == []


def test_turns_wait_as_long_as_a_step_says(qtbot):
    turns, times = Turns(), []

    def steps():
        yield 40
        times.append(turns._timer.interval())
        yield
        times.append(turns._timer.interval())

    turns.begin(steps())
    qtbot.waitUntil(lambda: not turns.is_under_way)
    assert times == [40, 0]
