"""Dialogs of the line-up: a station's prices, and the size classes of the yard."""

from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtWidgets import QPlainTextEdit, QWidget

from yardtoll.core.cost.prices import PRICE_KINDS
from yardtoll.core.formatting import quoted
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label, number_box
from yardtoll.review.lineup.classes import USUAL_CLASSES
from yardtoll.store.records import SizeClass, StoredPrice

_MOST_MONEY = 10_000_000.0
_CLASSES_H = 150


class PricesDialog(FormDialog):
    """One price of a station: a new one, or one that was noted."""

    manual_page = "lineup"

    def __init__(
        self,
        station_id: int,
        name: str,
        kept: Sequence[StoredPrice],
        currency: str,
        today: str,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(f"Prices of {name}", "Keep it", parent, removable=True)
        self._station_id, self._kept = station_id, {price.id: price for price in kept}
        self._currency, self._today = currency, today
        items: list[tuple[str, object]] = [("a new one", None)]
        items += [(_price_line(price), price.id) for price in reversed(kept)]
        self.which = choice("Which price", items)
        self.which.setMinimumContentsLength(30)
        self.kind = choice("What price", [(words, key) for key, words in PRICE_KINDS.items()])
        self.amount = number_box("Amount", "", 0, _MOST_MONEY, 0, 2)
        self.rows.addRow("Price", self.which)
        self.rows.addRow("It is", self.kind)
        self.rows.addRow("Amount", self.amount)
        self.currency = self.line("Currency", currency, "USD")
        self.units = number_box("For how many", "", 1, 1000, 1)
        self.rows.addRow("For how many", self.units)
        self.day = self.line("Day", today, "2026-11-28")
        self.words = self.line("Note", "", "Code, what is in the bundle")
        self.rows.addRow("", label("What was paid at receiving is there already.", "muted"))
        self.which.currentIndexChanged.connect(lambda _: self._show())
        self._show()

    @property
    def before(self) -> StoredPrice | None:
        """The one that is edited; None for a new one."""
        return self._kept.get(self.which.currentData())

    def _show(self) -> None:
        shown = self.before or StoredPrice(
            station_id=self._station_id, kind="coupon", amount=0.0, currency=self._currency,
            day=self._today,
        )  # fmt: skip
        self.remove.setVisible(self.before is not None)
        self.kind.setCurrentIndex(self.kind.findData(shown.kind))
        self.amount.setValue(shown.amount)
        self.currency.setText(shown.currency)
        self.units.setValue(shown.units)
        self.day.setText(shown.day)
        self.words.setText(shown.words)

    def wrong(self) -> str:
        if self.amount.value() <= 0:
            return "The amount must be above 0."
        day = self.day.text().strip()
        parts = day.split("-")
        if day and (len(parts) != 3 or not all(part.isdigit() for part in parts)):
            return "The day is written like 2026-11-28, or left empty."
        return ""

    def record(self) -> StoredPrice:
        """As entered."""
        before = self.before
        return StoredPrice(
            id=before.id if before is not None else None,
            station_id=self._station_id,
            kind=self.kind.currentData(),
            amount=self.amount.value(),
            currency=self.currency.text().strip().upper(),
            units=int(self.units.value()),
            day=self.day.text().strip(),
            words=self.words.text().strip(),
        )


def _price_line(price: StoredPrice) -> str:
    many = f" for {price.units}" if price.units > 1 else ""
    return f"{price.amount:g} {price.currency}{many} {PRICE_KINDS[price.kind]}, {price.day}"


class ClassesDialog(FormDialog):
    """Size classes, one a line."""

    manual_page = "lineup"

    def __init__(self, kept: Sequence[SizeClass], parent: QWidget | None = None) -> None:
        super().__init__("Size classes", "Keep them", parent)
        self._kept = kept
        lines = [f"{c.name}: {c.low_wh:g} to {c.high_wh:g} Wh" for c in kept or USUAL_CLASSES]
        self.lines = QPlainTextEdit("\n".join(lines))
        self.lines.setAccessibleName("Size classes, one a line")
        self.lines.setFixedHeight(_CLASSES_H)
        self.lines.setTabChangesFocus(True)
        self.rows.addRow("One a line", self.lines)
        self.rows.addRow(
            "",
            label("By rated Wh; up to, and not with, the higher figure.", "muted", wrap=True),
        )

    def wrong(self) -> str:
        try:
            found = sorted(self.classes(), key=lambda c: c.low_wh)
        except ValueError as error:
            return str(error)
        for lower, higher in pairwise(found):
            if lower.high_wh > higher.low_wh:
                return f"{lower.name} and {higher.name} overlap."
        return ""

    def classes(self) -> list[SizeClass]:
        """As entered; none for the usual ones.

        Raises:
            ValueError: a line is none; the message is a sentence.
        """
        return [_class(line) for line in self.lines.toPlainText().splitlines() if line.strip()]


def _class(line: str) -> SizeClass:
    """Like "Small: 500 to 1100 Wh"."""
    line = line.strip()
    name, _, figures = line.rpartition(":")
    low, _, high = figures.lower().replace("wh", "").partition("to")
    try:
        made = SizeClass(name=name.strip(), low_wh=float(low), high_wh=float(high))
    except ValueError:
        raise ValueError(
            f"{quoted(line.strip())} should look like “Small: 500 to 1100 Wh”."
        ) from None
    if not made.name or not 0 <= made.low_wh < made.high_wh < 1e9:
        raise ValueError(f"{quoted(line)} needs a name and two rising figures.")
    return made
