"""Jobs: result, failure, cancel, reuse after cancel, late arrival, close while running."""

import threading

from PySide6.QtCore import QCoreApplication, QEvent

from yardtoll.core.methods import METHODS
from yardtoll.demo.yard import fresh_demo
from yardtoll.desktop.app import make_window
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.settings import UserSettings


def test_result_progress_and_idle(qtbot):
    jobs, got, told, idle = Jobs(), [], [], []
    jobs.progressed.connect(lambda text, share: told.append((text, share)))
    jobs.idle.connect(lambda: idle.append(True))

    def work(handle):
        handle.progress("half", 0.5)
        handle.progress("unknown")
        return threading.current_thread() is threading.main_thread()

    jobs.start("work", work, got.append, got.append)
    qtbot.waitUntil(lambda: bool(idle), timeout=60_000)
    assert got == [False]
    assert told == [("half", 0.5), ("unknown", -1.0)]


def test_failure_is_handed_on(qtbot):
    jobs, failed = Jobs(), []

    def work(_):
        raise ValueError("no good")

    jobs.start("work", work, failed.append, lambda error: failed.append(str(error)))
    qtbot.waitUntil(lambda: failed == ["no good"], timeout=60_000)


def test_a_cancelled_job_is_dropped_even_when_it_arrives_late_and_others_go_on(qtbot):
    jobs, got = Jobs(), []
    go, gone = threading.Event(), threading.Event()

    def stubborn(_):
        go.wait(10)
        gone.set()
        return "late"

    number = jobs.start("stubborn", stubborn, got.append, got.append)
    jobs.cancel(number)
    assert not jobs.busy
    jobs.start("next", lambda _: "next", got.append, got.append)
    qtbot.waitUntil(lambda: got == ["next"], timeout=60_000)
    go.set()
    qtbot.waitUntil(gone.is_set, timeout=60_000)
    qtbot.wait(100)
    assert got == ["next"]


def test_progress_stops_a_cancelled_job(qtbot):
    jobs, reached = Jobs(), []
    started, cancelled = threading.Event(), threading.Event()

    def work(handle):
        started.set()
        cancelled.wait(10)
        handle.progress("more")
        reached.append(True)

    jobs.start("work", work, reached.append, reached.append)
    started.wait(10)
    jobs.cancel()
    cancelled.set()
    jobs.wait()
    assert reached == []


def test_a_window_that_closes_begins_nothing_more(qtbot, tmp_path):
    """Runs that load slowly wait for the event loop: by then the window may be gone."""
    window = make_window(UserSettings(tmp_path / "settings.ini"))
    window.open_yard(fresh_demo(tmp_path))
    analyses = window.bench.analyses
    slow = [r for r in window.bench.session.yard.runs() if METHODS[r.method].loads_slowly]
    with qtbot.captureExceptions() as raised:
        assert [analyses.of(run) for run in slow if run.has_ended].count(None) == len(slow)
        window.close()
        window.deleteLater()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        qtbot.wait(50)
    assert not raised
