"""A picture that cannot be drawn is an error like any other: the program goes on."""

import pytest
from conftest_helpers import FENNEL, at_rest

from yardtoll.desktop.views.stop import LEDGER
from yardtoll.desktop.widgets import toll_strip


@pytest.mark.qt_no_exception_capture
def test_an_exception_while_painting_ends_the_painter(qtbot, demo, monkeypatch):
    demo.bench.session.choose_station(FENNEL)
    demo.go_to(LEDGER)
    strip = demo.stack.current_view().toll_strip
    qtbot.waitUntil(lambda: not strip.visibleRegion().isEmpty(), timeout=10_000)
    at_rest(qtbot, demo)  # what is repainted now is the strip alone

    def broken(*_, **_given):
        raise ValueError("no such colour")

    monkeypatch.setattr(toll_strip, "paint_scene", broken)
    for _ in range(5):
        with pytest.raises(ValueError, match="no such colour"):
            strip.repaint()
    monkeypatch.undo()
    strip.repaint()
    assert strip.isVisible()
