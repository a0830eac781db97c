"""The place of the stops: the one that is seen is asked what room it needs, and no other."""

import pytest
from PySide6.QtCore import QSize
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from yardtoll.desktop.frame.stops_stack import StopsStack
from yardtoll.desktop.widgets.least_high import LeastHigh


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


def bars(page):
    area = page.parentWidget().parentWidget()
    assert isinstance(area, QScrollArea)
    return area.horizontalScrollBar(), area.verticalScrollBar()


def test_what_is_wider_than_its_place_is_moved_and_the_window_stays(place, qtbot):
    narrow, wide = place.pages
    place.show_view(wide)
    assert place.current_view() is wide and not narrow.isVisible()
    qtbot.waitUntil(lambda: bars(wide)[0].maximum() > 300)
    assert wide.width() >= 700 and place.window().minimumSizeHint().width() < 400
    place.show_view(narrow)
    qtbot.waitUntil(lambda: narrow.size() == place.size())


def test_words_that_go_on_below_keep_their_room(place, qtbot):
    narrow, _ = place.pages
    narrow.words.setWordWrap(True)
    narrow.words.setText("word " * 800)
    qtbot.waitUntil(lambda: bars(narrow)[1].maximum() > 0)
    assert narrow.words.height() >= narrow.words.heightForWidth(narrow.words.width())


def test_a_view_that_was_added_later_is_taken_out_like_any_other(place, qtbot):
    narrow, _ = place.pages
    later = Page(900)
    place.add_view(later)
    place.show_view(later)
    assert place.current_view() is later
    with qtbot.waitSignal(later.destroyed):
        place.remove_view(later)
    assert place.current_view() in place.pages
    place.show_view(narrow)
    assert place.current_view() is narrow


def test_an_empty_place_asks_for_nothing(qtbot):
    made = StopsStack()
    qtbot.addWidget(made)
    assert made.layout().sizeHint() == QSize() and made.layout().minimumSize() == QSize()
    assert not made.layout().hasHeightForWidth() and made.layout().heightForWidth(100) == -1


def test_a_part_that_cannot_be_lower_is_not_cut_for_words_that_wrap(qtbot):
    """A box in a place too low cuts its highest part, whether that can do with less or not."""
    page = LeastHigh()
    column = QVBoxLayout(page)
    picture, below = QLabel("picture"), QHBoxLayout()
    picture.setFixedHeight(300)
    column.addWidget(picture)
    for _ in range(2):
        words = QLabel("some words that go on in another line " * 4)
        words.setWordWrap(True)
        below.addWidget(words)
    column.addLayout(below)
    made = StopsStack()
    qtbot.addWidget(made)
    made.add_view(page)
    made.resize(300, 200)
    made.show()
    qtbot.waitUntil(lambda: bars(page)[1].maximum() > 0)
    assert picture.height() == 300 and picture.geometry().bottom() < below.geometry().top()
    assert page.height() == page.heightForWidth(page.width())
