"""Classes of Qt's are defined on a thread only while the window's own thread waits."""

import subprocess
import sys
import threading
import time

import pytest
from PySide6.QtCore import QTimer

from yardtoll.desktop.workbench import loading, warming
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.standing_aside import StandingAside, standing_aside
from yardtoll.desktop.workbench.warming import Warming

LONG = """
import threading

def step(number):
    return sum(range(number % 500))

for number in range(60_000):
    step(number)
BY = threading.current_thread()
"""
LOADED_ASIDE = """
import sys, threading
import yardtoll.cli
from PySide6.QtCore import QEventLoop
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.standing_aside import standing_aside
from yardtoll.desktop.workbench.warming import Warming
from pathlib import Path

OURS = ("PySide6", "pyqtgraph", "yardtoll.desktop")
seen, wrong = set(), []

class Looking:
    def find_spec(self, name, path=None, target=None):
        by_window = threading.current_thread() is threading.main_thread()
        if name.startswith(OURS) and not by_window:
            seen.add(name)
            if not standing_aside.is_at_work:
                wrong.append(name)

sys.meta_path.insert(0, Looking())
app = make_app()
window = make_window(UserSettings(Path(sys.argv[2])))
window.show()
window.open_yard(Path(sys.argv[1]))
warming = Warming()
warming.start()
for stop in ("claims", "ledger"):
    window.visit(stop)
    while window.visits.is_under_way:
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
while not warming.is_done:
    app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 5)
window.close()
print(len(seen), "yardtoll.desktop.views.claims.view" in seen, "pyqtgraph.Qt" in seen, wrong)
"""


@pytest.fixture
def long_module(tmp_path, monkeypatch):
    (tmp_path / "long_to_load.py").write_text(LONG)
    monkeypatch.syspath_prepend(str(tmp_path))
    monkeypatch.setattr(loading, "_OF_THE_WINDOW", ("long_",))
    yield "long_to_load"
    sys.modules.pop("long_to_load", None)


def test_the_thread_works_while_the_window_waits(qtbot):
    aside, steps, spans = StandingAside(), [], []

    def step():
        steps.append(time.perf_counter())

    def work():
        with aside.waited_for():
            for _ in range(40_000):
                step()

    def be_busy():  # as Qt is, with Python's turn given away
        begun = time.perf_counter()
        time.sleep(0.003)
        spans.append((begun, time.perf_counter()))

    beat = QTimer(interval=0)
    beat.timeout.connect(be_busy)
    beat.start()
    thread = threading.Thread(target=work)
    thread.start()
    qtbot.waitUntil(lambda: not thread.is_alive(), timeout=60_000)
    beat.stop()
    within = [at for at in steps if any(begun < at < end for begun, end in spans)]
    assert len(steps) == 40_000 and len(spans) > 2
    assert len(within) < 0.1 * len(steps)
    assert not aside.is_at_work


def test_it_waits_while_the_window_makes_something_ready(qtbot):
    aside, begun = StandingAside(), []

    def work():
        with aside.waited_for():
            begun.append(True)

    with courtesy.window_first():
        thread = threading.Thread(target=work)
        thread.start()
        qtbot.wait(100)
        assert not begun
    qtbot.waitUntil(lambda: begun == [True])
    thread.join()


def test_a_window_that_needs_the_module_itself_has_it(long_module):
    """It waits for the thread then, in no event loop, and the thread must not wait for it."""
    thread = threading.Thread(target=loading.load, args=([long_module],))
    thread.start()
    while long_module not in sys.modules:
        time.sleep(0.001)
    found = __import__(long_module)
    assert found.BY is thread
    thread.join()
    assert not standing_aside.is_at_work


def test_the_windows_own_thread_does_not_wait_for_itself(long_module):
    loading.load([long_module])
    assert sys.modules[long_module].BY is threading.main_thread()


def test_it_ends_with_the_window(qtbot, long_module, monkeypatch):
    monkeypatch.setattr(warming, "_modules", lambda: iter([long_module, "never.asked.for"]))
    ahead = Warming()
    ahead.start()
    while long_module not in sys.modules:
        time.sleep(0.001)
    ahead.stop()
    assert ahead.is_done and hasattr(sys.modules[long_module], "BY")


def test_all_that_is_loaded_of_the_window_is_loaded_so(tmp_path):
    from yardtoll.demo.yard import fresh_demo

    said = subprocess.run(
        [sys.executable, "-c", LOADED_ASIDE, fresh_demo(tmp_path), tmp_path / "settings.ini"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    number, claims, charts, wrong = said.stdout.split(maxsplit=3)
    assert int(number) > 100 and (claims, charts, wrong.strip()) == ("True", "True", "[]")
