"""Times are those of the clock at the bench's site, wherever the computer is."""

import os
import re
import time
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from conftest_helpers import in_dialog, worked_out
from PySide6.QtWidgets import QLabel

from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.desktop.views.stop import LEDGER, SHEET
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.widgets.clock_field import ClockField
from yardtoll.store import site_time
from yardtoll.store.frames import read_frames
from yardtoll.store.importing import import_logs
from yardtoll.store.site_time import show_in

AUCKLAND, BERLIN, TOKYO = map(ZoneInfo, ("Pacific/Auckland", "Europe/Berlin", "Asia/Tokyo"))


@pytest.fixture(autouse=True)
def afterwards():
    yield
    site_time._shown_in[0] = None


@pytest.fixture
def in_berlin(monkeypatch):
    """The computer's own zone."""
    monkeypatch.setenv("TZ", "Europe/Berlin")
    time.tzset()
    yield
    monkeypatch.undo()
    time.tzset()


def test_a_clock_that_the_computers_zone_leaves_out(qtbot, in_berlin):
    """At 02:30 on that night there is no such time in Berlin."""
    show_in(TOKYO)
    field = ClockField("When", "yyyy-MM-dd HH:mm")
    qtbot.addWidget(field)
    field.show_clock(datetime(2026, 3, 29, 2, 30))
    assert field.text() == "2026-03-29 02:30"
    assert field.moment() == datetime(2026, 3, 28, 17, 30, tzinfo=UTC)
    field.show_moment(datetime(2026, 3, 28, 17, 45, tzinfo=UTC))
    assert field.text() == "2026-03-29 02:45"


def test_a_file_of_the_camera_has_the_time_of_the_site(tmp_path, in_berlin):
    from PIL import Image

    taken = datetime(2026, 5, 14, 21, 5, tzinfo=UTC).timestamp()
    for number in range(2):
        picture = tmp_path / f"{number}.png"
        Image.new("RGB", (8, 8)).save(picture)
        os.utime(picture, (taken + number, taken + number))
    show_in(AUCKLAND)
    first = read_frames(tmp_path)[0]
    assert datetime(1970, 1, 1) + timedelta(seconds=first.s) == datetime(2026, 5, 15, 9, 5)


@pytest.mark.parametrize("hours", [-2, 2])
def test_notes_of_today_at_the_site(qtbot, demo, hours):
    """A time of day that has not come yet at the site was yesterday's."""
    yard = demo.bench.session.yard
    show_in(AUCKLAND if datetime.now(UTC).hour >= 12 else ZoneInfo("America/Los_Angeles"))
    here = site_time.now()
    noted = here + timedelta(hours=hours)

    def fill(dialog):
        dialog.editor.set_text(f"{noted:%H:%M} on 0 Wh 100 %\n+4h off 900 Wh 0 %")
        began = dialog.began.clock()
        dialog.reject()
        assert (began.hour, began.minute) == (noted.hour, noted.minute)
        assert timedelta(0) <= here.replace(tzinfo=None) - began + timedelta(minutes=1)
        assert here.replace(tzinfo=None) - began < timedelta(days=1, minutes=1)

    in_dialog(fill, NotedRunDialog)
    demo.actions_by_name["Add a run from notes…"].trigger()
    assert yard is demo.bench.session.yard


def _said(view) -> str:
    """All words of a view, and those for people who cannot see it."""
    words = []
    for widget in [view, *view.findChildren(QLabel)]:
        words += [widget.accessibleDescription(), widget.toolTip()]
        words += [widget.text()] if isinstance(widget, QLabel) else []
    browser = getattr(view, "pages", None) or getattr(view, "preview", None)
    words += [browser.toPlainText()] if hasattr(browser, "toPlainText") else []
    return "\n".join(words)


def test_no_stop_shows_the_computers_clock(qtbot, window, tmp_path, in_berlin):
    """A run that began at 21:05 UTC on 14 May began at 9:05 on the 15th in Auckland."""
    began = datetime(2026, 5, 14, 21, 5, tzinfo=UTC)
    log = tmp_path / "far.csv"
    lines = [
        f"{began + timedelta(seconds=10 * i):%Y-%m-%dT%H:%M:%SZ},{0 if i > 1700 else 400}"
        for i in range(1720)
    ]
    log.write_text("\n".join(["Time,Power (W)", *lines]))
    path = tmp_path / "far.yard"
    import_logs([log], path, "Far", rated_wh=2048, rated_w=2000, site_zone="Pacific/Auckland")
    window.open_yard(path)
    said = {}
    for stop in STOPS:
        window.go_to(stop)
        worked_out(qtbot, window)
        qtbot.waitUntil(lambda: not window.jobs.busy, timeout=20_000)
        if stop == SHEET:
            page = window.stack.current_view()
            qtbot.waitUntil(lambda page=page: not page.is_setting)
        said[stop] = _said(window.stack.current_view())
    computers = re.compile(r"\b(21:05|23:05|11:05 ?pm|2026-05-14|14 May)\b")
    assert {
        stop: computers.findall(text) for stop, text in said.items() if computers.search(text)
    } == {}
    assert "2026-05-15" in said[LEDGER]
    assert "Pacific/Auckland" in said[SHEET]
