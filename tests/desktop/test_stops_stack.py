"""The place of the stops: the one that is seen is asked what room it needs, and no other."""

import pytest
from PySide6.QtCore import QSize
from PySide6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

from yardtoll.desktop.frame.stops_stack import StopsStack


class Page(QWidget):
    """A page that notes when its size is asked."""

    def __init__(self, width):
        super().__init__()
        self.asked = 0
        self.words = QLabel("words")
        self.words.setMinimumWidth(width)
        QVBoxLayout(self).addWidget(self.words)

    def sizeHint(self):
        self.asked += 1
        return super().sizeHint()

    def minimumSizeHint(self):
        self.asked += 1
        return super().minimumSizeHint()


@pytest.fixture
def place(qtbot):
    """A stack of a narrow page and a wide one, the narrow one seen."""
    outer = QWidget()
    made = StopsStack()
    made.outer = outer
    made.pages = Page(100), Page(700)
    for page in made.pages:
        made.add_view(page)
    QVBoxLayout(outer).addWidget(made)
    outer.resize(400, 300)
    qtbot.addWidget(outer)
    outer.show()
    return made


def test_what_is_not_seen_is_not_asked(place, qtbot):
    seen, hidden = place.pages
    seen.asked = hidden.asked = 0
    seen.words.setText("many more words than before\nand another line")
    qtbot.waitUntil(lambda: seen.asked > 0)
    assert hidden.asked == 0


def test_the_window_is_as_wide_as_what_is_seen_needs(place, qtbot):
    narrow, wide = place.pages
    assert place.window().minimumSizeHint().width() < 400
    place.show_view(wide)
    assert place.current_view() is wide and not narrow.isVisible()
    qtbot.waitUntil(lambda: place.width() >= 700)
    place.show_view(narrow)
    qtbot.waitUntil(lambda: place.window().minimumSizeHint().width() < 400)
    assert narrow.size() == place.size()


def test_words_that_go_on_below_keep_their_room(place, qtbot):
    narrow, _ = place.pages
    narrow.words.setWordWrap(True)
    narrow.words.setText("word " * 80)
    qtbot.waitUntil(place.layout().hasHeightForWidth)
    assert place.layout().heightForWidth(200) > place.layout().heightForWidth(400) > 0
    qtbot.waitUntil(lambda: narrow.words.height() >= narrow.words.heightForWidth(380))


def test_a_view_that_scrolls_is_found_and_taken_out_like_any_other(place, qtbot):
    narrow, _ = place.pages
    scrolled = Page(900)
    place.add_view(scrolled, scrolls=True)
    place.show_view(scrolled)
    assert place.current_view() is scrolled
    assert isinstance(scrolled.parentWidget().parentWidget(), QScrollArea)
    assert place.window().minimumSizeHint().width() < 400
    with qtbot.waitSignal(scrolled.destroyed):
        place.remove_view(scrolled)
    assert place.current_view() in place.pages
    place.show_view(narrow)
    assert place.current_view() is narrow


def test_an_empty_place_asks_for_nothing(qtbot):
    made = StopsStack()
    qtbot.addWidget(made)
    assert made.layout().sizeHint() == QSize() and made.layout().minimumSize() == QSize()
    assert not made.layout().hasHeightForWidth() and made.layout().heightForWidth(100) == -1
