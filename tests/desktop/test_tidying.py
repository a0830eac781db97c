"""Garbage that holds Qt's objects goes on the window's thread; modules are loaded ahead."""

import gc
import threading

import pytest
from PySide6.QtCore import QObject

from yardtoll.desktop.app import make_app
from yardtoll.desktop.workbench.tidying import Tidying
from yardtoll.desktop.workbench.warming import Warming


@pytest.fixture
def tidying(qtbot):
    make_app()
    made = Tidying()
    made.start()
    yield made
    made.stop()
    made.deleteLater()


class Part(QObject):
    """One that is held by itself alone, as parts of a chart are."""

    def __init__(self, gone):
        super().__init__()
        self.me = self
        self.gone = gone

    def __del__(self):
        self.gone.append(threading.current_thread())


def test_nothing_is_collected_on_a_worker(tidying, qtbot):
    gone = []
    for _ in range(50):
        Part(gone)

    def make_many():
        for _ in range(20_000):
            loop = []
            loop.append(loop)

    worker = threading.Thread(target=make_many)
    worker.start()
    worker.join()
    assert gone == []
    qtbot.waitUntil(lambda: len(gone) == 50, timeout=30_000)
    assert set(gone) == {threading.main_thread()}


def looked_through(work):
    """The generations that were collected meanwhile."""
    looks = []

    def note(phase, info):
        if phase == "stop":
            looks.append(info["generation"])

    gc.callbacks.append(note)
    try:
        work()
    finally:
        gc.callbacks.remove(note)
    return looks


def test_what_is_loaded_is_looked_through_once(tidying):
    kept, gone = [], []

    def go_on():
        for _ in range(30):
            kept.append([[] for _ in range(2000)])
            Part(gone)
            tidying.tidy()

    assert looked_through(go_on) == [0] * 30
    assert len(gone) == 30 and gc.get_freeze_count() > 60_000
    assert looked_through(tidying.settle) == []
    settled = gc.get_freeze_count()
    assert set(looked_through(go_on)) == {0, 1}
    assert len(gone) == 60 and gc.get_freeze_count() <= settled


def test_it_is_settled_one_day_even_where_modules_cannot_be_loaded(tidying):
    for _ in range(700):
        tidying.tidy()
    before = gc.get_freeze_count()
    kept = [[] for _ in range(5000)]
    tidying.tidy()
    assert len(kept) == 5000 and gc.get_freeze_count() <= before


def test_it_is_left_to_python_afterwards(qtbot):
    make_app()
    made = Tidying()
    made.start()
    assert not gc.isenabled()
    made.settle()
    made.stop()
    assert gc.isenabled() and gc.get_freeze_count() == 0


def test_all_modules_can_be_loaded_ahead_and_are_settled_once(qtbot):
    make_app()
    said = []
    warming = Warming(done=lambda: said.append(threading.current_thread()))
    warming.start()
    qtbot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said == [threading.main_thread()] and warming.is_done
    warming.stop()
