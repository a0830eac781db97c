"""A solar run: its curve, the reasons under it, its figures, the station's other solar days."""

from datetime import datetime
from functools import partial

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QBoxLayout, QLabel, QSpinBox, QVBoxLayout, QWidget

from yardtoll.core.sun.limits import Limit
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.sun.solar_chart import SolarChart
from yardtoll.desktop.widgets.basics import label
from yardtoll.desktop.widgets.figure_cells import figure_cells
from yardtoll.desktop.widgets.kept_grid import Cell, KeptGrid
from yardtoll.desktop.widgets.scene_painter import paint_item
from yardtoll.desktop.widgets.wheel import CountBox
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.report.charts.limits import LIMIT_NAMES, limit_box
from yardtoll.review.kinds.solar.page import SolarPage, tracker_words

PASSINGS, BROKEN_DAYS = 60, 100
"""Clouds on a day of broken cloud, and such days a year, to begin with (a guess, to be changed)."""
_SWATCH = QSize(30, 16)
_CHART_H = (200, 420)

_DAY_HEADS = ("Day", "Harvested", "Of expected", "On a clear day")


class SolarPanel(QWidget):
    """One solar run.

    Attributes:
        foot: its figures and the other days, beside each other or not.

    Signals:
        budget_asked(figure, budget): a figure's ± was pressed.
        run_chosen(run_id): another day was chosen.
    """

    budget_asked = Signal(str, object)
    run_chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.page: SolarPage | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 12, 0)
        layout.setSpacing(6)
        self.subtitle = label("", "muted", wrap=True)
        layout.addWidget(self.subtitle)
        self.chart = SolarChart()
        layout.addWidget(self.chart, 1)
        self._legend = WrappedRow(8)
        self._swatches: list[tuple[_Swatch, QLabel]] = []
        layout.addLayout(self._legend)
        self.words = label("", "quiet", wrap=True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self.words)
        layout.addSpacing(4)
        foot = self.foot = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        foot.setSpacing(34)
        self._figures, self._days = KeptGrid(spacing=(16, 2)), KeptGrid(spacing=(16, 2))
        self._figures.grid.setColumnStretch(0, 1)
        self._days.grid.setColumnStretch(len(_DAY_HEADS), 1)
        for title, grid, stretch in (
            ("Figures", self._figures, 4),
            ("Solar days under the same sky", self._days, 5),
        ):
            column = QVBoxLayout()
            column.setSpacing(4)
            column.addWidget(label(title, "heading"))
            column.addWidget(grid)
            if grid is self._days:
                column.addWidget(self._make_tracker())
            column.addStretch(1)
            foot.addLayout(column, stretch)
        layout.addLayout(foot)

    def _make_tracker(self) -> QWidget:
        """What the tracker's lag costs on days of broken cloud."""
        self.tracker = QWidget()
        column = QVBoxLayout(self.tracker)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(4)
        column.addWidget(label("What its lag costs", "heading"))
        row = WrappedRow(8)
        self.passings = CountBox()
        self.broken_days = CountBox()
        for box, value, most, name in (
            (self.passings, PASSINGS, 500, "Clouds a day"),
            (self.broken_days, BROKEN_DAYS, 365, "Days of broken cloud a year"),
        ):
            box.setRange(0, most)
            box.setValue(value)
            box.setFixedWidth(64)
            box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
            box.setAccessibleName(name)
            box.valueChanged.connect(lambda _: self._show_tracker())
        for box, words in (
            (self.passings, "clouds a day, on"),
            (self.broken_days, "days a year"),
        ):
            row.add_together(box, label(words, "muted"))
        column.addLayout(row)
        self.tracker_words = label("", "quiet", wrap=True)
        column.addWidget(self.tracker_words)
        return self.tracker

    def show_page(self, page: SolarPage, run: SolarRun, began: datetime) -> None:
        """Show one run."""
        self.page = page
        self.subtitle.setText(page.subtitle)
        self.chart.show_run(run, began)
        self._fill_legend(page)
        self.words.setText(" ".join(page.words))
        self.words.setVisible(bool(page.words))
        self._figures.show_cells(figure_cells(page.figures, self.budget_asked.emit, brief=True))
        self._fill_days(page)
        self.tracker.setVisible(page.lag_s is not None)
        self._show_tracker()

    def fit(self, height: int) -> None:
        """Give the chart its share of a height in pixels."""
        self.chart.setFixedHeight(max(_CHART_H[0], min(_CHART_H[1], int(height * 0.42))))

    def _show_tracker(self) -> None:
        if self.page is not None and self.page.lag_s is not None:
            self.tracker_words.setText(
                tracker_words(
                    self.page.lag_s,
                    self.page.step_w,
                    self.passings.value(),
                    self.broken_days.value(),
                )
            )

    def _fill_legend(self, page: SolarPage) -> None:
        while len(self._swatches) < len(page.shares):
            pair = _Swatch(), label("")
            self._swatches.append(pair)
            self._legend.add_together(*pair)
        for index, (swatch, words) in enumerate(self._swatches):
            shown = index < len(page.shares)
            swatch.setVisible(shown)
            words.setVisible(shown)
            if shown:
                limit, share = page.shares[index]
                swatch.show_limit(limit)
                words.setText(f"{LIMIT_NAMES[limit]} {100 * share:.0f} %")

    def _fill_days(self, page: SolarPage) -> None:
        cells = [
            Cell(row=0, column=column, text=head, role="muted", wrap=True)
            for column, head in enumerate(_DAY_HEADS)
        ]
        for row, (run_id, *texts) in enumerate(page.days, 1):
            chosen = partial(self.run_chosen.emit, run_id)
            cells.append(
                Cell(
                    row=row, column=0, text=texts[0], role="figure", pressed=chosen,
                    name=f"Show {texts[0]}",
                )
            )  # fmt: skip
            cells += [Cell(row=row, column=c, text=text) for c, text in enumerate(texts[1:], 1)]
        self._days.show_cells(cells)


class _Swatch(QWidget):
    """A limit's colour and pattern."""

    def __init__(self) -> None:
        super().__init__()
        self._limit = Limit.SUN
        self.setFixedSize(_SWATCH)

    def show_limit(self, limit: Limit) -> None:
        """Be another limit's."""
        self._limit = limit
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            width, height = self.width(), self.height()
            paint_item(painter, limit_box(0, 0, width, height, self._limit, theme.tokens))
            painter.setPen(QPen(theme.colour("muted"), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
