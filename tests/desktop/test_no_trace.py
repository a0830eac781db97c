"""Whatever was done in a window, it looks as a new one does on the same yard.

Views keep what was made ready, results that were there and the sizes of what was measured; of what
is no longer so nothing may be left. The truth here is a second window, which shares no past.
"""

import random
import shutil
import sys
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from conftest_helpers import FENNEL, SORREL, TANSY, at_rest
from PySide6.QtWidgets import QApplication, QLabel

from yardtoll.desktop.actions.preferences import use_preferences
from yardtoll.desktop.app import make_window
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store import site_time
from yardtoll.store.records import Run, Station

_MOMENT = datetime(2026, 11, 29, 12, 0, tzinfo=UTC)
_STEPS = 14


@pytest.fixture
def still_clock(monkeypatch):
    """Now is one and the same moment for all that ask, in the zone that is shown."""
    asked = site_time.now

    def now():
        return _MOMENT.astimezone(site_time.shown_zone())

    for module in list(sys.modules.values()):
        if module.__name__.startswith("yardtoll"):
            for name in ("now", "now_here"):
                if vars(module).get(name) is asked:
                    monkeypatch.setattr(module, name, now)


class Reviewer:
    """Does one thing after the other, by a seed."""

    def __init__(self, window, seed):
        self.window, self.draw = window, random.Random(seed)
        self.done = []

    def do_something(self):
        doing = self.draw.choice(
            (self.visit, self.visit, self.choose_station, self.colours, self.size, self.region,
             self.rename, self.rate, self.state_meter, self.void, self.add_station, self.resize,
             self.undo)
        )  # fmt: skip
        self.done.append(doing.__name__)
        doing()

    @property
    def session(self):
        return self.window.bench.session

    def prefer(self, **changed):
        use_preferences(self.window, replace(self.window.settings.preferences, **changed))

    def visit(self):
        self.window.visit(self.draw.choice(list(STOPS)))

    def choose_station(self):
        self.session.choose_station(self.draw.choice((FENNEL, TANSY, SORREL)))

    def colours(self):
        self.prefer(colours=self.draw.choice(("day", "night", "contrast")))

    def size(self):
        self.prefer(text_percent=self.draw.choice((100, 125)))

    def region(self):
        self.prefer(region=self.draw.choice(("us", "europe", "japan", "international")))

    def resize(self):
        self.window.resize(*self.draw.choice(((1280, 800), (1024, 700), (1500, 900))))

    def rename(self):
        station = self.session.yard.get(Station, FENNEL)
        self.session.edit(replace(station, name=f"Fennel {self.draw.randrange(9)}"), "Rename")

    def rate(self):
        station = self.session.yard.get(Station, TANSY)
        self.session.edit(replace(station, rated_wh=self.draw.choice((1100, 1300))), "Rate")

    def state_meter(self):
        meter = self.session.yard.meters()[0]
        share = self.draw.choice((0.002, 0.01))
        self.session.edit(replace(meter, reading_share=share), "Another meter")

    def void(self):
        runs = [run for run in self.session.yard.runs(TANSY) if run.state == "finished"]
        run: Run = self.draw.choice(runs)
        self.session.edit(replace(run, state="void", void_reason="an input was left in"), "Void")

    def add_station(self):
        new = Station(name=f"Clover {self.draw.randrange(99)}", rated_wh=500, rated_w=300)
        self.session.choose_station(self.session.add(new, "Add").id)

    def undo(self):
        self.window.actions_by_name["Undo"].trigger()


def looks(qtbot, window):
    """(Picture, texts) of every stop; the second time round, when nothing is new to it."""
    found = {}
    for stop in (*STOPS, *STOPS):
        window.go_to(stop)
        at_rest(qtbot, window)
        window.notice.hide()
        window.setFocus()
        QApplication.processEvents()
        view = window.stack.current_view()
        texts = [(w.text(), w.font().pixelSize()) for w in view.findChildren(QLabel)
                 if w.isVisible() and w.text()]  # fmt: skip
        found[stop] = (window.grab().toImage(), sorted(texts))
    return found


@pytest.mark.parametrize("seed", [0, 3])
def test_nothing_of_what_was_done_is_left(qtbot, demo, still_clock, tmp_path, seed):
    reviewer = Reviewer(demo, seed)
    for _ in range(_STEPS):
        reviewer.do_something()
        if reviewer.draw.random() < 0.5:
            at_rest(qtbot, demo)
    demo.resize(1280, 800)
    at_rest(qtbot, demo)
    used = looks(qtbot, demo)
    station, path = demo.bench.session.station.id, demo.bench.session.path
    preferences = demo.settings.preferences
    demo.close_yard()
    (tmp_path / "copy").mkdir()
    copy = shutil.copy(path, tmp_path / "copy" / path.name)
    settings = UserSettings(tmp_path / "other.ini")
    settings.preferences = preferences
    other = make_window(settings)
    qtbot.addWidget(other)
    theme.apply(preferences.colours, preferences.text_percent)
    other.resize(1280, 800)
    other.show()
    other.open_yard(copy)
    at_rest(qtbot, other)
    other.bench.session.choose_station(station)
    at_rest(qtbot, other)
    new = looks(qtbot, other)
    other.close()
    for stop in STOPS:
        assert used[stop][1] == new[stop][1], f"{stop} after {reviewer.done}"
        assert used[stop][0] == new[stop][0], f"{stop} after {reviewer.done}"
