"""The uncertainty budget behind a figure: its shares, largest first, and what would help."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.formatting import decimals_for
from yardtoll.core.uncertainty.budget import Budget, Evaluation, Worked
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.roomy_area import RoomyArea

_BAR = QSize(150, 16)
_PERCENT = 100.0


class BudgetDialog(HelpedDialog):
    """How a figure was worked out, and each contribution to its ± with kind, U and share.

    Args:
        figure: what is opened, with its value.
        told: its budget, or how it was worked out where its ± is not known.
        advice: what would make the ± smaller; "" for none.
    """

    manual_page = "uncertainty"

    def __init__(
        self, figure: str, told: Budget | Worked, advice: str = "", parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._figure = figure
        self._budget = told if isinstance(told, Budget) else None
        self._worked = told if isinstance(told, Worked) else told.worked
        title = "How it is worked out" if self._budget is None else "Where the ± comes from"
        self.setWindowTitle(title)
        self.setMinimumWidth(640)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(24, 18, 24, 16)
        outer.setSpacing(12)
        outer.addWidget(label(figure, "title", wrap=True))
        outer.addWidget(RoomyArea(self._make_page(advice)), 1)
        row = QHBoxLayout()
        row.addWidget(button("Copy as text", self._copy))
        row.addStretch(1)
        close = button("Close", self.accept, "primary")
        close.setDefault(True)
        row.addWidget(close)
        outer.addLayout(row)

    def _make_page(self, advice: str) -> QVBoxLayout:
        """How it is worked out, and the lines of its budget."""
        column = QVBoxLayout()
        column.setSpacing(12)
        if self._worked is not None:
            column.addWidget(label("How it is worked out", "heading"))
            self.worked = label(_worked_words(self._worked), wrap=True)
            self.worked.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            column.addWidget(self.worked)
            column.addWidget(label("Where the ± comes from", "heading"))
        column.addWidget(label(_sum_words(self._budget), "quiet", wrap=True))
        has_lines = self._budget is not None and bool(self._budget.lines)
        if has_lines:
            column.addLayout(self._make_lines())
        if advice:
            column.addWidget(label(advice, "note", wrap=True))
        if has_lines:
            column.addWidget(label(_HOW, "muted", wrap=True))
        column.addStretch(1)
        return column

    def _make_lines(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(0, 1)
        lines = budget_lines(self._budget) if self._budget is not None else []
        for row, (name, why, kind, shown, share) in enumerate(lines):
            words = QVBoxLayout()
            words.setSpacing(0)
            words.addWidget(label(name, "strong"))
            words.addWidget(label(why, "muted", wrap=True))
            grid.addLayout(words, row, 0)
            grid.addWidget(label(kind, "muted"), row, 1)
            figure = label(shown)
            figure.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(figure, row, 2)
            grid.addWidget(_Bar(share, f"{name}: {share:.0%}"), row, 3)
            grid.addWidget(label(f"{share:.0%}", "muted"), row, 4)
        return grid

    def _copy(self) -> None:
        worked, budget = self._worked, self._budget
        lines = [self._figure, *([_worked_words(worked)] if worked is not None else [])]
        lines.append(_sum_words(budget))
        lines += [
            f"{name} ({why}), type {kind}: {shown}, {share:.0%}"
            for name, why, kind, shown, share in (budget_lines(budget) if budget else [])
        ]
        QApplication.clipboard().setText("\n".join(lines))


_HOW = (
    "Shares are of the variance. Type A comes from repeats, type B from stated limits, taken as "
    "rectangular (JCGM 100). U is k times the combined standard uncertainty."
)


def budget_lines(budget: Budget) -> list[tuple[str, str, str, str, float]]:
    """(name, why, kind, U of it alone, share) of each line, largest first."""
    scale, unit = (_PERCENT, "%") if not budget.unit else (1.0, budget.unit)
    k = budget.coverage_factor
    decimals = decimals_for(scale * budget.expanded) + 1
    return [
        (
            line.name,
            line.why,
            line.evaluation.value,
            f"± {scale * k * abs(line.u):.{decimals}f} {unit}",
            budget.share(line),
        )
        for line in budget.lines
    ]


def _worked_words(worked: Worked) -> str:
    return f"{worked.formula}\n{worked.put_in}\nSource: {worked.source}"


def _sum_words(budget: Budget | None) -> str:
    if budget is None:
        return "It is not known how far off this may be."
    if not budget.lines:
        return "It has none: everything in it is taken as exact."
    scale, unit = (_PERCENT, "%") if not budget.unit else (1.0, budget.unit)
    decimals = decimals_for(scale * budget.expanded)
    said = f"U = ± {scale * budget.expanded:.{decimals}f} {unit}, k = {budget.coverage_factor:.2f}"
    if any(line.evaluation is Evaluation.A for line in budget.lines):
        said += f", {budget.degrees_of_freedom:.0f} effective degrees of freedom"
    return f"{said}."


class _Bar(QWidget):
    """A share as a bar."""

    def __init__(self, share: float, words: str) -> None:
        super().__init__()
        self._share = share
        self.setFixedSize(_BAR)
        self.setAccessibleName(words)

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), theme.colour("sunk"))
            width = max(self.width() * self._share, 2.0)
            painter.fillRect(QRectF(0, 0, width, self.height()), theme.colour("accent"))
