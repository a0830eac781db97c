"""The first page: the demo, a new yard, a log to import, or a yard opened lately."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.desktop.theme.fonts import SEMIBOLD, font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import button, label, plain_tip

CHOICES = (
    (
        "evening",
        "The first evening",
        "A whole test on a practice bench, with a guide. About ten minutes.",
    ),
    ("demo", "Look at the demo yard", "Three stations, their runs, and a simulated bench to play."),
    ("new", "Start a new yard", "A file for your stations, your bench and your runs."),
    ("import", "Import a meter's log", "A CSV, spreadsheet or Parquet file; drop it here as well."),
    ("open", "Open a yard", "A file made here before."),
)


_WIDE, _WIDEST, _HIGH = 460, 780, 64
_LEAST_GATES_W = 260


class Welcome(QWidget):
    """Shown while no yard is open.

    Signals:
        chosen(what): "evening", "demo", "new", "import" or "open".
        yard_chosen(path): one of the recent yards.
    """

    chosen = Signal(str)
    yard_chosen = Signal(Path)

    def __init__(self, recent: list[Path], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._choices: list[QPushButton] = []
        column = QVBoxLayout()
        column.setSpacing(10)
        title = label("Yard Toll")
        title.setFont(font(44, SEMIBOLD))
        title.setProperty("role", "name")
        column.addWidget(title)
        said = self._said = label(
            "Every watt-hour pays a toll between the wall and the load. Measure each one, and say "
            "with stated uncertainty whether a power station delivers what its maker claims.",
            "quiet",
            wrap=True,
        )
        column.addWidget(said)
        column.addSpacing(14)
        for what, text, explained in CHOICES:
            column.addWidget(self._choice(what, text, explained))
        if recent:
            column.addSpacing(8)
            column.addWidget(label("Opened lately", "muted"))
            for path in recent[:4]:
                link = button(path.stem, role="link", name=f"Open {path}")
                link.setToolTip(plain_tip(str(path)))
                link.clicked.connect(lambda _=False, p=path: self.yard_chosen.emit(p))
                column.addWidget(link)
        column.addStretch(1)
        theme.changed.connect(self._fit)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(72, 64, 48, 32)
        outer.addLayout(column)
        outer.addWidget(Gates(), 1)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._fit()  # its words have the size of text by now

    def _fit(self) -> None:
        """As wide as its words want it, within reason; what goes on in another line is seen too."""
        width = min(scaled(_WIDE), _WIDEST)
        self._said.setFixedWidth(width)
        for made in self._choices:
            inner = made.layout()
            assert inner is not None
            made.setFixedSize(width, max(inner.totalHeightForWidth(width), scaled(_HIGH)))

    def _choice(self, what: str, text: str, explained: str) -> QWidget:
        """One thing to begin with: its name and what it is."""
        made = button("", role="choice", name=f"{text}. {explained}")
        inner = QVBoxLayout(made)
        inner.setContentsMargins(18, 9, 18, 10)
        inner.setSpacing(0)
        for shown in (label(text, "strong"), label(explained, "muted", wrap=True)):
            shown.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            inner.addWidget(shown)
        self._choices.append(made)
        made.clicked.connect(lambda _=False: self.chosen.emit(what))
        return made


class Gates(QWidget):
    """A river of energy that loses a little at each gate: what the program is about."""

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.width() < _LEAST_GATES_W:
            return
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            left, right = 60, self.width() - 10
            base = self.height() * 0.74
            full = base - 80
            flow = [
                (kind, int(share * full))
                for kind, share in (
                    (EnergyKind.WALL, 1.0),
                    (EnergyKind.STORED, 0.90),
                    (EnergyKind.STORED, 0.84),
                    (EnergyKind.DELIVERED, 0.76),
                )
            ]
            tolls = [EnergyKind.CONVERSION, EnergyKind.OVERHEAD, EnergyKind.CONVERSION]
            step = (right - left) / len(flow)
            for i, (kind, height) in enumerate(flow):
                x = left + i * step
                painter.fillRect(int(x), int(base - height), int(step) + 1, height, _energy(kind))
            painter.setPen(QPen(theme.colour("ink"), 2))
            painter.drawLine(int(left) - 10, int(base), int(right), int(base))
            for i, kind in enumerate(tolls):
                x, lost = left + (i + 1) * step, flow[i][1] - flow[i + 1][1]
                painter.fillRect(int(x) - 3, 40, 6, int(base) - 40, theme.colour("ink"))
                painter.fillRect(int(x) - 9, 34, 18, 8, theme.colour("ink"))
                painter.fillRect(int(x) - 34, int(base) + 8, 68, lost, _energy(kind))
            painter.setPen(theme.colour("muted"))
            painter.setFont(font(15))
            painter.drawText(int(left), int(base) + 26, "wall")
            painter.drawText(
                int(right) - 90, int(base) + 12, 90, 28, int(Qt.AlignmentFlag.AlignRight), "load"
            )


def _energy(kind: EnergyKind) -> QColor:
    return QColor(theme.tokens.energy[kind])
