"""What takes long is not done on the thread that draws the window."""

import threading

import pytest

from yardtoll.desktop.views.sheet import view as sheet_view
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.widgets import chart_image
from yardtoll.review import analysis
from yardtoll.store import recordings
from yardtoll.store.sample_memory import SampleMemory


@pytest.fixture
def here(monkeypatch):
    """What was called on the window's own thread, of what must not be."""
    called = []

    def watch(module, name):
        original = getattr(module, name)

        def noted(*args, **kwargs):
            if threading.current_thread() is threading.main_thread():
                called.append(name)
            return original(*args, **kwargs)

        monkeypatch.setattr(module, name, noted)

    # No samples are at hand: whatever needs them has to read them.
    monkeypatch.setattr(SampleMemory, "get", lambda _, __, read: read())
    for module, name in (
        (recordings, "load"),
        (analysis, "analyse_run"),
        (analysis, "look_ahead"),
        (sheet_view, "build_sheet"),
        (sheet_view, "preview_html"),
        (sheet_view, "chart_image"),
    ):
        watch(module, name)
    return called


def test_no_stop_reads_samples_or_sets_pages_there(demo, here, qtbot):
    bench = demo.bench

    def settle():
        qtbot.waitUntil(lambda: bench.analyses.settled and not bench.jobs.busy, timeout=60_000)

    settle()
    here.clear()
    for station in bench.session.yard.stations():
        bench.session.choose_station(station.id)
        for stop in STOPS:
            demo.go_to(stop)
            settle()
    assert here == []


def test_the_watch_itself_sees_what_is_done_there(demo, here):
    yard = demo.bench.session.yard
    run = next(run for run in yard.runs() if yard.main_recording(run.id) is not None)
    yard.trace(run.id)
    assert here == ["load"]


def test_the_window_goes_on_while_a_chart_is_drawn(qtbot):
    """Qt draws without holding up what else is written in Python, such as the window."""
    points = " ".join(f"{x},{(x * 7919) % 200}" for x in range(420))
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="420" height="236">'
        f'<polyline points="{points}" fill="none" stroke="#15B873" stroke-width="2"/></svg>'
    )
    went_on, ended = [0], threading.Event()

    def go_on():
        while not ended.wait(0.001):
            went_on[0] += 1

    beside = threading.Thread(target=go_on)
    beside.start()
    try:
        before = went_on[0]
        chart_image.chart_image(svg, 4.0)
        assert went_on[0] - before > 5
    finally:
        ended.set()
        beside.join()
