"""Marks by one key, display readings by Space, and the list of what was noted."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from yardtoll.core.notes.line import read_line
from yardtoll.core.notes.slips import Slip, with_slip_mended
from yardtoll.desktop.views.run.model import MARK_KEYS, NOTE_KEY
from yardtoll.desktop.widgets.basics import button, label, rule, set_role
from yardtoll.desktop.widgets.notes_editor import ACCEPT_KEY, understood
from yardtoll.running.reading_text import parse_number, parse_time_left
from yardtoll.store.records import ReadingKind

MOST_SHOWN = 1_000_000.0


class MarkPanel(QWidget):
    """One button a mark, its key in front.

    Signals:
        marked(word): a mark was asked for.
    """

    marked = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        grid.addWidget(label("One key, one mark", "heading"), 0, 0, 1, 2)
        for i, (key, word) in enumerate(MARK_KEYS):
            made = button(f"{key}   {word}", role="mark", name=f"Mark: {word}, key {key}")
            made.clicked.connect(lambda _=False, w=word: self.marked.emit(w))
            grid.addWidget(made, 1 + i // 2, i % 2)
        grid.setRowStretch(1 + len(MARK_KEYS) // 2, 1)


class NotePanel(QWidget):
    """One line of notes, understood as it is typed: "398 W shows 402 W 80% 3.7 h left".

    Attributes:
        meant_by: a slip in a line, with what was probably meant; None where there is none.

    Signals:
        typing_began: the first key; its moment is the note's.
        entered(text): Enter was pressed.
        left: done or given up; keys are marks again.
    """

    typing_began = Signal()
    entered = Signal(str)
    left = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.meant_by: Callable[[str], Slip | None] = lambda _: None
        self.field = QLineEdit()
        self.field.setPlaceholderText("398 W shows 402 W 80% 3.7 h left")
        self.field.setAccessibleName("A line of notes")
        self.field.installEventFilter(self)
        self.field.textEdited.connect(self._typed)
        self.field.returnPressed.connect(lambda: self.entered.emit(self.field.text()))
        self.said = label("", "muted", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label(f"Note a line ({NOTE_KEY})", "heading"))
        layout.addWidget(self.field)
        layout.addWidget(self.said)

    def begin(self) -> None:
        """Put the cursor in the field."""
        self.field.setFocus()
        self.field.selectAll()

    def accept_slip(self) -> None:
        """Write what was probably meant."""
        text = self.field.text()
        slip = self.meant_by(text)
        if slip is not None and slip.instead:
            self.field.setText(with_slip_mended(text, slip))
            self._show(self.field.text())

    def show_problem(self, problem: str) -> None:
        """Say why the line is not kept."""
        self.said.setText(problem)
        set_role(self.said, "bad")

    def clear(self) -> None:
        """Ready for the next line."""
        self.field.clear()
        self._show("")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and event.key() == Qt.Key.Key_Escape
        ):
            self.clear()
            self.left.emit()
            return True
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and event.key() == ACCEPT_KEY
        ):
            self.accept_slip()
            return True
        return super().eventFilter(watched, event)

    def _typed(self, text: str) -> None:
        if len(text) == 1:
            self.typing_began.emit()
        self._show(text)

    def _show(self, text: str) -> None:
        """What is understood so far; a part that is not yet stands last."""
        line = read_line(text)
        unread = [text[part.start : part.end].strip() for part in line.unread]
        said = "  ·  ".join(
            [part for part in (understood(line), *(f"{u} ?" for u in unread)) if part]
        )
        slip = self.meant_by(text) if text else None
        if slip is not None:
            said += f"   {slip.message}" + (f": {slip.instead}?  F2" if slip.instead else "")
        self.said.setText(said)
        if self.said.property("role") != "muted":
            set_role(self.said, "muted")


class ReadingPanel(QWidget):
    """What the station's display says: SOC, W, time left and W coming in, typed and entered.

    Signals:
        typing_began: the first digit; its moment is the reading's.
        entered(kind, value): one filled field, when Enter is pressed.
        left: done or given up; keys are marks again.
    """

    typing_began = Signal()
    entered = Signal(str, float)
    left = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._fields: dict[ReadingKind, QLineEdit] = {}
        self.error_line = label("", "bad")
        self.error_line.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        layout.addWidget(label("Display says (Space)", "heading"))
        row = QHBoxLayout()
        row.setSpacing(8)
        for kind, name, hint in (
            (ReadingKind.METER_WH, "The meter's counter, watt-hours", "Wh"),
            (ReadingKind.SOC, "State of charge shown, percent", "%"),
            (ReadingKind.DISPLAY_W, "Power shown, watts", "W"),
            (ReadingKind.TIME_LEFT, "Time left shown", "h:mm"),
            (ReadingKind.INPUT_W, "Input shown, watts", "W in"),
            (ReadingKind.IRRADIANCE, "Irradiance in the panels' plane, W/m²", "W/m²"),
        ):
            field = QLineEdit()
            field.setPlaceholderText(hint)
            field.setAccessibleName(name)
            field.installEventFilter(self)
            field.textEdited.connect(self._typed)
            field.returnPressed.connect(self.enter)
            self._fields[kind] = field
            row.addWidget(field)
        layout.addLayout(row)
        self.set_typed(typed=False)
        self.set_sun(by_sun=False)
        layout.addWidget(self.error_line)
        layout.addWidget(rule())

    def set_typed(self, *, typed: bool) -> None:
        """Ask for the meter's counter too, where it is read by eye."""
        self._fields[ReadingKind.METER_WH].setVisible(typed)

    def set_sun(self, *, by_sun: bool) -> None:
        """Ask for the irradiance too, where the sun charges."""
        self._fields[ReadingKind.IRRADIANCE].setVisible(by_sun)

    def begin(self) -> None:
        """Put the cursor in the first field."""
        typed = self._fields[ReadingKind.METER_WH]
        field = self._fields[ReadingKind.SOC] if typed.isHidden() else typed
        field.setFocus()
        field.selectAll()

    def enter(self) -> None:
        """Hand on every filled field; an invalid field keeps all of them."""
        values = {k: self._value(k, f.text()) for k, f in self._fields.items() if f.text().strip()}
        wrong = next((k for k, v in values.items() if v is None), None)
        if wrong is not None:
            self.error_line.setText(
                f"{wrong.label}: “{self._fields[wrong].text()}” is not a valid number."
            )
            self.error_line.show()
            self._fields[wrong].setFocus()
            return
        for kind, value in values.items():
            assert value is not None
            self.entered.emit(kind.value, value)
        self._clear()
        self.left.emit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and event.key() == Qt.Key.Key_Escape
        ):
            self._clear()
            self.left.emit()
            return True
        return super().eventFilter(watched, event)

    def _value(self, kind: ReadingKind, text: str) -> float | None:
        if kind is ReadingKind.TIME_LEFT:
            return parse_time_left(text)
        return parse_number(text, 0, 100 if kind is ReadingKind.SOC else MOST_SHOWN)

    def _typed(self, text: str) -> None:
        self.error_line.hide()
        if len(text) == 1 and sum(bool(f.text()) for f in self._fields.values()) == 1:
            self.typing_began.emit()

    def _clear(self) -> None:
        self.error_line.hide()
        for field in self._fields.values():
            field.clear()
