"""A time-lapse stepped through frame by frame; what is read under a frame carries its time."""

from datetime import datetime, timedelta

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialogButtonBox,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.notes.bisection import Bisection, dark_below, grey_level
from yardtoll.core.notes.line import read_line
from yardtoll.desktop.widgets.basics import button, choice, label, number_box, set_role
from yardtoll.desktop.widgets.clock_field import ClockField
from yardtoll.desktop.widgets.days import qt_clock, qt_day
from yardtoll.desktop.widgets.frame_view import FrameView
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.notes_editor import understood
from yardtoll.desktop.widgets.roomy_area import RoomyArea
from yardtoll.store.frames import Frame, FramesError, at_interval, grey_of

_SIZE = (1100, 680)
_FAR = 10
_NOTES_W = 330


class TimeLapseDialog(HelpedDialog):
    """Frames, a line to read under each, and the notes they become.

    Attributes:
        evidence: the frames under which something was read.
    """

    manual_page = "notes"

    def __init__(self, frames: list[Frame], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Step through a time-lapse")
        self.resize(*_SIZE)
        self.frames = self._as_taken = frames
        self.index = 0
        self.evidence: dict[int, Frame] = {}
        self.bisection: Bisection | None = None
        self._make()
        self.show_frame(0)
        self.line.setFocus()

    def _make(self) -> None:
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(10)
        outer.addWidget(label(f"Time-lapse, {len(self.frames)} frames", "title"))
        row = QHBoxLayout()
        row.setSpacing(18)
        left = QVBoxLayout()
        self.view = FrameView()
        left.addWidget(self.view, 1)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, len(self.frames) - 1)
        self.slider.setAccessibleName("Frame")
        self.slider.valueChanged.connect(self.show_frame)
        left.addWidget(self.slider)
        self.where = label("", "heading")
        left.addWidget(self.where)
        left.addLayout(self._make_times())
        row.addLayout(left, 1)
        row.addLayout(self._make_right())
        outer.addWidget(RoomyArea(row), 1)
        buttons = QDialogButtonBox()
        self.accept_button = buttons.addButton(
            "Make it a run…", QDialogButtonBox.ButtonRole.AcceptRole
        )
        self.accept_button.setProperty("role", "primary")
        self.accept_button.setAutoDefault(False)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._accept)
        buttons.rejected.connect(self.reject)
        outer.addWidget(buttons)

    def _make_times(self) -> QHBoxLayout:
        """Times by the camera, or from a start at a steady interval."""
        row = QHBoxLayout()
        row.setSpacing(10)
        self.times = choice(
            "Where the times come from",
            [("times of the frames", False), ("first frame at", True)],
        )
        first = moment(self.frames[0])
        pattern = f"{qt_day()} {qt_clock(seconds=True)}"
        self.first_at = ClockField("When the first frame was taken", pattern)
        self.first_at.show_clock(first)
        usual_s = max((self.frames[-1].s - self.frames[0].s) / (len(self.frames) - 1), 0.1)
        self.every = number_box("One frame every", "s", 0.01, 86_400, usual_s, 2)
        for field in (self.times, self.first_at, self.every):
            row.addWidget(field)
        row.addStretch(1)
        self.times.currentIndexChanged.connect(self._set_times)
        self.first_at.dateTimeChanged.connect(self._set_times)
        self.every.valueChanged.connect(self._set_times)
        self._set_times()
        return row

    def _set_times(self) -> None:
        by_interval = bool(self.times.currentData())
        self.first_at.setVisible(by_interval)
        self.every.setVisible(by_interval)
        self.frames = self._as_taken
        if by_interval:
            start_s = (self.first_at.clock() - datetime(1970, 1, 1)).total_seconds()
            self.frames = at_interval(self._as_taken, start_s, self.every.value())
        self._show_where()

    def _make_right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(label("Read under this frame", "heading"))
        self.line = QLineEdit()
        self.line.setPlaceholderText("523 Wh 411 W 73 %")
        self.line.setAccessibleName("What the frame shows")
        self.line.setFixedWidth(_NOTES_W)
        self.line.installEventFilter(self)
        self.line.textChanged.connect(self._show_understood)
        self.line.returnPressed.connect(self.keep_line)
        column.addWidget(self.line)
        self.said = label("", "muted", wrap=True)
        self.said.setFixedWidth(_NOTES_W)
        column.addWidget(self.said)
        column.addWidget(
            label(
                "←  →  a frame, with Shift ten  ·  Home, End  ·  Enter keeps the line",
                "muted",
                wrap=True,
            )
        )
        column.addSpacing(10)
        column.addWidget(label("Where did it go off?", "heading"))
        self.asked = label(
            "Drag a rectangle over the display, lit in the first frame and dark in the last.",
            "quiet",
            wrap=True,
        )
        self.asked.setFixedWidth(_NOTES_W)
        column.addWidget(self.asked)
        looks = QHBoxLayout()
        self.find_button = button("Find the first dark frame", self.find_dark)
        looks.addWidget(self.find_button)
        looks.addStretch(1)
        column.addLayout(looks)
        by_eye = QHBoxLayout()
        self.lit_button = button("Still on here", lambda: self.look(is_lit=True))
        self.dark_button = button("Off here", lambda: self.look(is_lit=False))
        by_eye.addWidget(self.lit_button)
        by_eye.addWidget(self.dark_button)
        by_eye.addStretch(1)
        column.addLayout(by_eye)
        column.addSpacing(10)
        column.addWidget(label("Notes so far", "heading"))
        self.notes = QPlainTextEdit()
        self.notes.setAccessibleName("Notes so far")
        self.notes.setTabChangesFocus(True)
        self.notes.setFixedWidth(_NOTES_W)
        column.addWidget(self.notes, 1)
        return column

    def show_frame(self, index: int) -> None:
        """Show a frame, the first or last where there is none so far."""
        self.index = min(max(index, 0), len(self.frames) - 1)
        self.view.show_frame(self.frames[self.index])
        if self.slider.value() != self.index:
            self.slider.setValue(self.index)
        self._show_where()

    def _show_where(self) -> None:
        at = moment(self.frames[self.index])
        self.where.setText(f"{at:%H:%M:%S}   frame {self.index + 1} of {len(self.frames)}")

    def keep_line(self) -> None:
        """The line, at the time of the frame; the frame is its evidence."""
        text = self.line.text().strip()
        line = read_line(text)
        if not text or line.unread:
            part = text[line.unread[0].start : line.unread[0].end].strip() if line.unread else ""
            self.said.setText(f"“{part}” is not understood: {line.unread[0].why}." if part else "")
            set_role(self.said, "bad")
            return
        self.add_note(text)
        self.line.clear()

    def add_note(self, text: str, back_s: float = 0.0) -> None:
        """A line of notes at this frame, or so long before it, in order of time."""
        frame = self.frames[self.index]
        at = moment(frame) - timedelta(seconds=round(back_s))
        lines = [*self.notes.toPlainText().splitlines(), f"{at:%Y-%m-%d %H:%M:%S} {text}"]
        self.notes.setPlainText("\n".join(sorted(line for line in lines if line.strip())))
        self.evidence[self.index] = frame

    def find_dark(self) -> None:
        """Bisect by the brightness of the rectangle."""
        box = self.view.box
        if box is None:
            self._ask("Drag a rectangle over the station's display first.", "bad")
            return
        try:
            first, last = (grey_level(grey_of(self.frames[i], box)) for i in (0, -1))
            limit = dark_below(first, last)
            if limit is None:
                self._ask("The rectangle is as bright in the last frame as in the first.", "bad")
                return
            found = Bisection(lit=0, dark=len(self.frames) - 1)
            while not found.is_found:
                grey = grey_level(grey_of(self.frames[found.next], box))
                found = found.with_look(is_lit=grey > limit)
        except FramesError as error:
            self._ask(f"{error}.", "bad")
            return
        self._found(found)

    def look(self, *, is_lit: bool) -> None:
        """What is seen in this frame by eye; the next frame to look at follows."""
        now = self.bisection or Bisection(lit=0, dark=len(self.frames) - 1)
        if self.bisection is None or self.index != now.next:
            inside = now.lit < self.index < now.dark
            if inside:
                now = Bisection(
                    lit=self.index if is_lit else now.lit,
                    dark=now.dark if is_lit else self.index,
                    looks=now.looks + 1,
                )
        else:
            now = now.with_look(is_lit=is_lit)
        if now.is_found:
            self._found(now)
            return
        self.bisection = now
        self.show_frame(now.next)
        left = now.dark - now.lit - 1
        self._ask(f"Look {now.looks + 1}: is it on in this frame? {left} frames are left.", "quiet")

    def _found(self, found: Bisection) -> None:
        self.bisection = None
        self.show_frame(found.dark)
        since = timedelta(seconds=self.frames[found.dark].s - self.frames[found.lit].s)
        half_s = since.total_seconds() / 2
        # Somewhere between the two frames.
        self.add_note(f"off ± {half_s:.0f} s", back_s=half_s)
        self._ask(
            f"Off between {moment(self.frames[found.lit]):%H:%M:%S} and "
            f"{moment(self.frames[found.dark]):%H:%M:%S} ({since.total_seconds():.0f} s apart), "
            f"found in {found.looks} looks.", "good",
        )  # fmt: skip

    def _ask(self, words: str, role: str) -> None:
        self.asked.setText(words)
        set_role(self.asked, role)

    def _show_understood(self, text: str) -> None:
        line = read_line(text)
        unread = [f"{text[part.start : part.end].strip()}?" for part in line.unread]
        self.said.setText("  ·  ".join(part for part in (understood(line), *unread) if part))
        set_role(self.said, "muted")

    def text(self) -> str:
        """The notes so far."""
        return self.notes.toPlainText()

    def _accept(self) -> None:
        if self.line.text().strip():
            self.keep_line()
        if self.text().strip():
            self.accept()
        else:
            self.said.setText("Nothing was read yet.")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows step while the line is empty or the key is not for the text."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
            step = steps.get(Qt.Key(event.key()))
            if step is not None and not self.line.text():
                self.show_frame(self.index + step * (_FAR if far else 1))
                return True
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                self.show_frame(self.index + (-_FAR if event.key() == Qt.Key.Key_Up else _FAR))
                return True
            if not self.line.text() and event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
                self.show_frame(0 if event.key() == Qt.Key.Key_Home else len(self.frames) - 1)
                return True
        return super().eventFilter(watched, event)


def moment(frame: Frame) -> datetime:
    """When a frame was taken, by the camera's clock."""
    return datetime(1970, 1, 1) + timedelta(seconds=round(frame.s))
