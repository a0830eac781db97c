"""One point of the scorecard: what is looked at, and how much is enough."""

from PySide6.QtWidgets import QWidget

from yardtoll.core.conformance.scorecard import SEEN_BY_EYE
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, number_box
from yardtoll.store.records import StoredScorePoint

MEASURED = {
    "usable_ratio": "Delivered ÷ rated",
    "full_charge_h": "Hours to full from the wall",
    "solar_full_h": "Hours to full from the sun",
    "price_per_wh": "Price per rated Wh",
}
_SIGNS = {"usable_ratio": ">=", "full_charge_h": "<=", "solar_full_h": "<=", "price_per_wh": "<="}


class ScorePointDialog(FormDialog):
    """A point's title, what it looks at, its limits and its worth."""

    manual_page = "sheet"

    def __init__(
        self, point: StoredScorePoint | None, position: int, parent: QWidget | None = None
    ) -> None:
        title = "Edit the point" if point else "A point for the scorecard"
        super().__init__(title, "Keep it", parent, removable=point is not None)
        self._before, self._position = point, position
        self.title = self.line("Title", point.title if point else "", "Quick to charge")
        quantities = [*MEASURED.items(), *SEEN_BY_EYE.items()]
        self.quantity = choice("What is looked at", [(words, key) for key, words in quantities])
        self.quantity.setMinimumContentsLength(34)
        self.limit = number_box("Limit for the whole point", "", 0, 100_000, 1, 2)
        self.half = number_box("Limit for half of it", "", 0, 100_000, 0, 2)
        self.half.setSpecialValueText("no half point")
        self.points = number_box("Worth", "points", 0.5, 100, 1, 1)
        if point is not None:
            self.quantity.setCurrentIndex(max(self.quantity.findData(point.quantity), 0))
            self.limit.setValue(point.limit)
            self.half.setValue(point.half_limit or 0)
            self.points.setValue(point.points)
        for words, field in (
            ("What is looked at", self.quantity),
            ("Whole point", self.limit),
            ("Half a point", self.half),
            ("Worth", self.points),
        ):
            self.rows.addRow(words, field)
        self.quantity.currentIndexChanged.connect(lambda _: self._fit())
        self._fit()

    def _fit(self) -> None:
        """A yes or no has no limits."""
        sign = _SIGNS.get(self.quantity.currentData())
        for field in (self.limit, self.half):
            field.setEnabled(sign is not None)
            field.setPrefix({">=": "at least ", "<=": "at most "}.get(sign or "", ""))

    def wrong(self) -> str:
        return "" if self.title.text().strip() else "Give it a title."

    def record(self) -> StoredScorePoint:
        """The point as entered."""
        quantity = str(self.quantity.currentData())
        sign = _SIGNS.get(quantity, "yes")
        return StoredScorePoint(
            id=self._before.id if self._before else None,
            title=self.title.text().strip(),
            quantity=quantity,
            sign=sign,
            limit=self.limit.value() if sign != "yes" else 1.0,
            half_limit=self.half.value() if sign != "yes" and self.half.value() else None,
            points=self.points.value(),
            position=self._before.position if self._before else self._position,
        )
