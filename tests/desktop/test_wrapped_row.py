"""A row that goes on in another line: where its widgets come to lie."""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from yardtoll.desktop.widgets.wrapped_row import WrappedRow


@pytest.fixture
def place(qtbot):
    """Five labels of 100 × 20 px, ten between them; the last is to the right."""
    made = QWidget()
    outer = QVBoxLayout(made)
    outer.setContentsMargins(0, 0, 0, 0)
    made.row = WrappedRow(10)
    made.labels = [QLabel(str(number)) for number in range(5)]
    for label in made.labels:
        label.setFixedSize(100, 20)
        if label is made.labels[-1]:
            made.row.rest_to_the_right()
        made.row.addWidget(label)
    outer.addLayout(made.row)
    outer.addStretch(1)
    qtbot.addWidget(made)
    made.show()
    return made


def corners(place, width):
    place.resize(width, 300)
    place.layout().activate()
    return [(label.x(), label.y()) for label in place.labels if not label.isHidden()]


def test_in_one_line_with_the_last_at_the_right(place):
    assert corners(place, 700) == [(0, 0), (110, 0), (220, 0), (330, 0), (600, 0)]
    assert place.row.sizeHint().width() == 540 and place.row.heightForWidth(540) == 20


def test_what_does_not_fit_goes_on_below(place):
    assert corners(place, 330) == [(0, 0), (110, 0), (220, 0), (0, 26), (110, 26)]
    assert place.row.heightForWidth(330) == 46 and place.row.heightForWidth(105) == 5 * 20 + 4 * 6
    assert place.minimumSizeHint().width() == 100


def test_what_may_be_narrower_is_so_before_anything_goes_on_below(place):
    first = place.labels[0]
    first.setMinimumWidth(60)
    first.setMaximumWidth(100)
    first.setText("wide enough for a hundred or more of them")
    place.row.invalidate()
    assert corners(place, 520) == [(0, 0), (90, 0), (200, 0), (310, 0), (420, 0)]
    assert corners(place, 480)[-1][1] > 0


def test_what_is_hidden_takes_no_room(place):
    place.labels[1].hide()
    assert corners(place, 330) == [(0, 0), (110, 0), (220, 0), (0, 26)]
    for label in place.labels:
        label.hide()
    assert place.row.heightForWidth(330) == 0 and place.row.sizeHint().width() == 0


def test_widgets_can_be_taken_out(qtbot, place):
    assert place.row.count() == 5 and place.row.itemAt(5) is None and place.row.takeAt(-1) is None
    place.row.removeWidget(place.labels[0])
    place.labels[0].hide()
    assert place.row.count() == 4
    assert corners(place, 700)[0] == (0, 0)
    assert place.childAt(QPoint(5, 5)) is place.labels[1]
