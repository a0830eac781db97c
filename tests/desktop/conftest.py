"""A real window for each test, offscreen."""

import gc

import pytest
from conftest_helpers import (
    FENNEL,
    TANSY,
    by_name,
    fill_in_station,
    in_dialog,
    leave_run,
    worked_out,
)
from PySide6.QtCore import QCoreApplication, QEvent

from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.app import make_app, make_window
from yardtoll.desktop.dialogs.records import StationDialog
from yardtoll.desktop.frame.main_window import MainWindow
from yardtoll.desktop.views.stop import CLAIMS, SUN
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.review import analysis
from yardtoll.review.analysis import analyse_run
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.run_records import read_records
from yardtoll.store.records import Run
from yardtoll.store.yard_file import YardFile


@pytest.fixture(autouse=True)
def garbage_is_collected_here():
    """Not on a thread that works beside the window, as in the program: parts of windows are in it.

    A worker that let one go while the next window was styled ended the program.
    """
    gc.disable()
    yield
    counts, thresholds = gc.get_count(), gc.get_threshold()
    gc.collect(2 if counts[2] > thresholds[2] else 1)
    gc.enable()


@pytest.fixture
def settings(tmp_path):
    return UserSettings(tmp_path / "settings.ini")


@pytest.fixture
def window(qtbot, settings):
    make_app()
    made = make_window(settings)
    made.resize(1280, 800)
    made.show()
    yield made
    leave_run(made)
    made.close()
    made.deleteLater()
    # At once: the next window would have this one styled again beside it.
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture(autouse=True)
def shared_analyses(monkeypatch):
    """What was worked out once from the same records is the same for every test of the session."""
    monkeypatch.setattr(analysis, "analyse_run", _analysed_once)


_ANALYSED: list[RunAnalysis] = []


def _analysed_once(yard: YardFile, run: Run) -> RunAnalysis:
    """As `analyse_run`; only the demo's own runs are shared, whose samples nothing changes."""
    if run.origin != "demo":
        return analyse_run(yard, run)
    records = read_records(yard, run)
    for known in _ANALYSED:
        if known.records == records:
            return known
    _ANALYSED.append(analyse_run(yard, run))
    return _ANALYSED[-1]


@pytest.fixture
def demo(qtbot, window, tmp_path) -> MainWindow:
    """A window on a fresh demo yard with every run worked out."""
    window.open_yard(fresh_demo(tmp_path))
    worked_out(qtbot, window)
    return window


@pytest.fixture
def sun(demo):
    """The Sun view of the demo station that has a solar run."""
    demo.bench.session.choose_station(TANSY)
    demo.go_to(SUN)
    return demo.stack.current_view()


@pytest.fixture
def analysed(demo):
    """The analyses of the demo's first station, by run number."""
    runs = demo.bench.session.yard.runs(FENNEL)
    return {a.run.number: a for a in demo.bench.analyses.all_of(runs)}


@pytest.fixture
def claims(window, tmp_path):
    """The Claims view of a new yard with one station entered by hand."""
    window.new_yard(tmp_path / "Mine")
    window.go_to(CLAIMS)
    view = window.stack.current_view()
    in_dialog(fill_in_station, StationDialog)
    by_name(view, "Add a station…").click()
    return view
