"""The header: which station, and what it is waiting for."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import HEADER_H, MARGIN
from yardtoll.desktop.widgets.basics import button, label, plain_tip
from yardtoll.store.records import Station, in_families

_NAME_CHARS = 34
_BUTTON_H = 32


class Header(QWidget):
    """Station chooser to the left, the next step to the right.

    Signals:
        station_chosen(id), add_station_asked, next_step_asked: what the user wants.
    """

    station_chosen = Signal(int)
    add_station_asked = Signal()
    next_step_asked = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("header")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.stations = QToolButton()
        self.stations.setProperty("role", "station")
        self.stations.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._menu = QMenu(self.stations)
        self.stations.setMenu(self._menu)
        self._facts = label("", "muted")
        self._waiting = label("", "muted")
        self._next = button("", self.next_step_asked.emit)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(MARGIN - 9, 0, MARGIN, 0)
        layout.setSpacing(14)
        layout.addWidget(self.stations)
        layout.addWidget(self._facts)
        layout.addStretch(1)
        layout.addWidget(self._waiting)
        layout.addWidget(self._next)
        for words in (self._facts, self._waiting):
            words.setMinimumWidth(1)  # they give way to the name
        self._fit()
        theme.changed.connect(self._fit)

    def _fit(self) -> None:
        """As high as the size of text asks."""
        self.setFixedHeight(scaled(HEADER_H))
        self._next.setFixedHeight(scaled(_BUTTON_H))
        self._make_room()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """First the name and the next step; the rest where it has room as a whole."""
        layout = self.layout()
        assert layout is not None
        margins, gap = layout.contentsMargins(), layout.spacing()
        shown = [self.stations] + ([self._next] if self._next.text() else [])
        left = self.width() - margins.left() - margins.right()
        left -= sum(widget.sizeHint().width() + gap for widget in shown)
        self.stations.setMinimumWidth(max(self.stations.sizeHint().width() + min(left, 0), 1))
        for words in (self._waiting, self._facts):
            needs = words.sizeHint().width() + gap
            words.setVisible(bool(words.text()) and needs <= left)
            left -= needs if needs <= left else 0

    def show_stations(self, stations: list[Station], current: Station | None) -> None:
        """Fill the chooser and name the current station."""
        self._menu.clear()
        for station in in_families(stations):
            inset = "      " if station.base_id is not None else ""
            action = QAction(f"{inset}{station.name}   {station.rated_wh:g} Wh", self._menu)
            action.setCheckable(True)
            action.setChecked(current is not None and station.id == current.id)
            action.triggered.connect(lambda _=False, i=station.id: self.station_chosen.emit(i))
            self._menu.addAction(action)
        self._menu.addSeparator()
        self._menu.addAction("Add a station…", self.add_station_asked.emit)
        name = current.name if current else "No station yet"
        short = name if len(name) <= _NAME_CHARS else name[: _NAME_CHARS - 1] + "…"
        self.stations.setText(f"{short}  ▾")
        self.stations.setAccessibleName(f"Station: {name}")
        facts = []
        if current:
            facts = [f"{current.rated_wh:g} Wh", f"{current.rated_w:g} W", current.chemistry]
        self._facts.setText(" · ".join(fact for fact in facts if fact))
        self.stations.setToolTip(plain_tip("\n".join([name, self._facts.text()]).strip()))
        self._make_room()

    def show_next_step(self, waiting_for: str, action: str) -> None:
        """Say what the station is waiting for, and offer it."""
        self._waiting.setText(waiting_for)
        self._next.setText(action)
        self._next.setAccessibleName(action)
        self._next.setVisible(bool(action))
        self._next.setToolTip(plain_tip(waiting_for))
        self._make_room()
