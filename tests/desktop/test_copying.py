"""What is copied of a chart, a table, a figure, and of a whole stop; charts dragged out."""

import numpy as np
from conftest_helpers import worked_out
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage, QStandardItem, QStandardItemModel
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton, QTableView

from yardtoll.desktop.views.stop import LEDGER, VERDICTS
from yardtoll.desktop.widgets import drag_out
from yardtoll.desktop.widgets.power_chart import PowerChart
from yardtoll.desktop.widgets.taking_out import chart_of, taken_from
from yardtoll.desktop.widgets.toll_strip import TollStrip


def copied(demo):
    demo.actions_by_name["Copy"].trigger()
    return QGuiApplication.clipboard().mimeData()


def test_a_figure_is_copied_with_its_uncertainty_and_conditions(qtbot, demo):
    worked_out(qtbot, demo)
    demo.go_to(LEDGER)
    figure = next(
        b for b in demo.stack.current_view().findChildren(QPushButton)
        if b.property("role") == "figure" and b.isVisible() and "±" in b.text()
    )  # fmt: skip
    text = taken_from(figure, "Fennel 2k, run 4").text
    assert figure.text() in text and text.endswith("(Fennel 2k, run 4)")
    assert "where" not in text


def test_a_chart_is_copied_as_picture_and_in_words(qtbot, demo):
    worked_out(qtbot, demo)
    demo.go_to(LEDGER)
    strip = demo.stack.current_view().findChild(TollStrip)
    taken = taken_from(strip, demo.stack.current_view().conditions())
    assert taken.what == "chart" and "Wh" in taken.text and "Tansy 1200" in taken.text
    assert taken.image.width() == 2 * strip.width()
    drawn = QImage.fromData(bytes(taken.mime().data("image/png")))
    assert drawn.size() == taken.image.size()


def test_the_curve_in_view_is_copied_as_a_table(qtbot):
    chart = PowerChart("Watts")
    qtbot.addWidget(chart)
    chart.resize(600, 300)
    at_s = np.arange(5000.0)
    chart.show_trace(at_s, 100 + at_s / 100)
    lines = chart_of(chart).text.splitlines()
    assert lines[0] == "time_s\tpower_w"
    shown = np.array([[float(cell) for cell in line.split("\t")] for line in lines[1:]])
    assert np.allclose(shown[:, 1], 100 + shown[:, 0] / 100, atol=0.001)
    assert shown.shape == (5000, 2)


def test_a_table_is_copied_whole_or_by_what_is_chosen(qtbot):
    model = QStandardItemModel()
    model.setHorizontalHeaderLabels(["Load", "Wh"])
    for row in (("412 W", "1896 ± 11"), ("805\tW", "1714 <b>")):
        model.appendRow([QStandardItem(cell) for cell in row])
    table = QTableView()
    qtbot.addWidget(table)
    table.setModel(model)
    taken = taken_from(table, "")
    assert taken.text == "Load\tWh\n412 W\t1896 ± 11\n805 W\t1714 <b>"
    assert "<td>1714 &lt;b&gt;</td>" in taken.html
    table.selectRow(1)
    assert taken_from(table, "").text == "Load\tWh\n805 W\t1714 <b>"


def test_without_a_chart_at_hand_the_stop_is_copied(qtbot, demo):
    worked_out(qtbot, demo)
    demo.go_to(VERDICTS)
    demo.rail.setFocus()
    data = copied(demo)
    assert data.hasImage() and "copied" in demo.notice.text


class Carried:
    """Stands in for the drag itself, which would wait for a drop."""

    def __init__(self, monkeypatch):
        self.mime = []
        monkeypatch.setattr(drag_out.QDrag, "exec", self._exec)
        monkeypatch.setattr(drag_out.QDrag, "setMimeData", lambda _, mime: self.mime.append(mime))

    def _exec(self, *_):
        return Qt.DropAction.CopyAction


def pull(widget, modifier=Qt.KeyboardModifier.NoModifier):
    at = QPoint(120, 60)
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, modifier, at)
    QTest.mouseMove(widget, at + QPoint(40, 5))
    QTest.qWait(20)
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, modifier, at + QPoint(40, 5))


def test_a_strip_is_dragged_out_plainly_and_a_curve_with_ctrl(qtbot, demo, monkeypatch):
    worked_out(qtbot, demo)
    demo.go_to(LEDGER)
    carried = Carried(monkeypatch)
    pull(demo.stack.current_view().findChild(TollStrip))
    assert [mime.hasImage() for mime in carried.mime] == [True]
    chart = PowerChart("Watts")
    qtbot.addWidget(chart)
    chart.resize(600, 300)
    chart.show_trace(np.arange(100.0), np.full(100, 50.0))
    chart.show()
    pull(chart.plot.viewport())
    assert len(carried.mime) == 1
    pull(chart.plot.viewport(), Qt.KeyboardModifier.ControlModifier)
    assert len(carried.mime) == 2 and carried.mime[1].text().startswith("time_s")
