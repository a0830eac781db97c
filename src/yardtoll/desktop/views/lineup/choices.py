"""Which page of the line-up, and what it is asked at: load, price, number, scorecard."""

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QWidget

from yardtoll.core.cost.prices import PRICE_KINDS
from yardtoll.desktop.widgets.basics import button, choice, label, number_box, refill
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.review.lineup.entrants import Asked
from yardtoll.review.lineup.quantities import Quantity
from yardtoll.review.lineup.shown import LOADS
from yardtoll.store.records import ScoreTemplate

RAILS, TABLE, SCORES = 0, 1, 2
_PAGES = ("One quantity", "All of them", "Scorecards")


class LineupChoices(QWidget):
    """A row of tabs and boxes; buttons are put behind them.

    Signals:
        page_chosen(page): another page.
        changed: another load, price or number.
        template_chosen: another scorecard.
    """

    page_chosen = Signal(int)
    changed = Signal()
    template_chosen = Signal()

    def __init__(self, buttons: Sequence[QPushButton], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        row = WrappedRow(14)
        self.setLayout(row)
        self.tabs: list[QPushButton] = []
        for place, title in enumerate(_PAGES):
            tab = button(title, partial(self.page_chosen.emit, place), "tab")
            tab.setCheckable(True)
            self.tabs.append(tab)
            row.addWidget(tab)
        self.load = choice("At what load", list(LOADS))
        self.load.setMinimumContentsLength(6)
        self.price = choice("Which price", [(words, key) for key, words in PRICE_KINDS.items()])
        self.price.setMinimumContentsLength(9)
        self.units = number_box("How many are bought", "", 1, 20, 1)
        self.template = choice("By which scorecard")
        named = (
            ("at", self.load), ("price", self.price), ("for", self.units), ("by", self.template),
        )  # fmt: skip
        self._words: dict[QWidget, QWidget] = {}
        for words, box in named:
            self._words[box] = label(words, "muted")
            row.add_together(self._words[box], box)
        for chosen in (self.load, self.price):
            chosen.activated.connect(lambda _: self.changed.emit())
        self.units.valueChanged.connect(lambda _: self.changed.emit())
        self.template.activated.connect(lambda _: self.template_chosen.emit())
        row.rest_to_the_right()
        for made in buttons:
            row.addWidget(made)

    @property
    def asked(self) -> Asked:
        """What the boxes say."""
        asked: Asked = self.load.currentData()
        return replace(asked, price=self.price.currentData(), units=int(self.units.value()))

    def show_page(self, page: int, about: Quantity) -> None:
        """Only what matters for a page and what it compares."""
        for place, tab in enumerate(self.tabs):
            tab.setChecked(place == page)
        at_load = page == TABLE or (page == RAILS and about.at_load)
        by_price = page == TABLE or (page == RAILS and about.is_price)
        shown = ((self.load, at_load), (self.price, by_price), (self.units, by_price))
        for box, matters in (*shown, (self.template, page == SCORES)):
            box.setVisible(matters)
            self._words[box].setVisible(matters)

    def show_templates(self, kept: Sequence[ScoreTemplate]) -> ScoreTemplate | None:
        """Those to choose from; returned is the chosen one, None for the yard's own scorecard."""
        refill(self.template, [("this yard's", None), *((t.title, t.id) for t in kept)])
        chosen = self.template.currentData()
        return next((template for template in kept if template.id == chosen), None)
