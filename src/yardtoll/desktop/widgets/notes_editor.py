"""A field for notes in plain text, with what was understood of each line beside it."""

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontDatabase,
    QKeyEvent,
    QPainter,
    QPaintEvent,
    QSyntaxHighlighter,
    QTextCharFormat,
    QTextDocument,
)
from PySide6.QtWidgets import QHBoxLayout, QPlainTextEdit, QWidget

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.line import ReadLine
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Notes, read_notes
from yardtoll.core.notes.slips import Bench, Slip, slips, with_slip_mended
from yardtoll.core.notes.write import write_value
from yardtoll.desktop.theme.theme import theme

ACCEPT_KEY = Qt.Key.Key_F2
_SHARE = (5, 6)
_GAP = 12


def understood(line: ReadLine) -> str:
    """What a line was understood as, in few words; "" for a blank one or a comment."""
    said = [line.event.value] if line.event else []
    if line.window is not None:
        said.append(f"{line.window[0]:g} → {line.window[1]:g} %")
    if line.ran_s is not None:
        said.append(f"ran {line.ran_s / 60:.1f} min")
    for value in line.values:
        words = write_value(value)
        said.append(f"{words[:-6]} on display" if value.quantity is NoteQuantity.SHOWN else words)
    if line.words:
        said.append(f"“{line.words}”")
    return "  ·  ".join(said)


class _Highlighter(QSyntaxHighlighter):
    """Marks in place what was not understood, and what is probably a slip."""

    def __init__(self, document: QTextDocument) -> None:
        super().__init__(document)
        self.wrong: dict[int, list[tuple[int, int]]] = {}
        self.doubtful: dict[int, list[tuple[int, int]]] = {}

    def highlightBlock(self, _: str) -> None:
        number = self.currentBlock().blockNumber() + 1
        for spans, colour in (
            (self.wrong.get(number, ()), theme.tokens.bad),
            (self.doubtful.get(number, ()), theme.tokens.unsure),
        ):
            form = QTextCharFormat()
            form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            form.setUnderlineColor(QColor(colour))
            form.setForeground(QColor(colour))
            for start, end in spans:
                self.setFormat(start, end - start, form)


class _Field(QPlainTextEdit):
    """The text; Tab leaves it.

    Signals:
        accepted: the key was pressed that takes what was probably meant.
    """

    accepted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.setTabChangesFocus(True)
        self.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == ACCEPT_KEY:
            self.accepted.emit()
        else:
            super().keyPressEvent(event)

    def line_boxes(self) -> list[tuple[int, QRectF]]:
        """1-based number and place of each line in sight, in the viewport."""
        found = []
        block = self.firstVisibleBlock()
        while block.isValid():
            box = self.blockBoundingGeometry(block).translated(self.contentOffset())
            if box.top() > self.viewport().height():
                break
            found.append((block.blockNumber() + 1, box))
            block = block.next()
        return found


class _Beside(QWidget):
    """What was understood, line by line at the height of the text's lines."""

    def __init__(self, field: _Field) -> None:
        super().__init__()
        self._field = field
        self.lines: dict[int, tuple[str, str]] = {}
        self.setAccessibleName("What was understood of each line")
        field.updateRequest.connect(lambda *_: self.update())

    def paintEvent(self, _: QPaintEvent) -> None:
        colours = {"": theme.tokens.muted, "bad": theme.tokens.bad, "unsure": theme.tokens.unsure}
        offset = self._field.viewport().y() + self._field.y()
        with QPainter(self) as painter:
            painter.setFont(self.font())
            metrics = painter.fontMetrics()
            for number, box in self._field.line_boxes():
                words, kind = self.lines.get(number, ("", ""))
                if not words:
                    continue
                place = QRectF(_GAP, box.top() + offset, self.width() - _GAP, box.height())
                painter.setPen(QColor(colours[kind]))
                words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(place.width()))
                painter.drawText(place, int(Qt.AlignmentFlag.AlignVCenter), words)


class NotesEditor(QWidget):
    """Notes as they are typed or pasted, what was understood beside them, slips marked.

    Attributes:
        notes: as read; None where they cannot be.
        problem: why not, as a sentence without its full stop.
        slips: what is probably not as it was meant.

    Signals:
        changed: the text was read again.
    """

    changed = Signal()

    def __init__(self, bench: Bench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._bench = bench
        self.notes: Notes | None = None
        self.problem = ""
        self.slips: list[Slip] = []
        self.field = _Field()
        self.field.setAccessibleName("Notes, one line a moment: a time, then values with units")
        self._marks = _Highlighter(self.field.document())
        self._beside = _Beside(self.field)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.field, _SHARE[0])
        row.addWidget(self._beside, _SHARE[1])
        self.field.textChanged.connect(self._read)
        self._text = ""
        self.field.accepted.connect(self.accept_slip)

    def set_bench(self, bench: Bench) -> None:
        """Hold the notes against something else."""
        self._bench = bench
        self._text = ""
        self._read()

    def set_text(self, text: str) -> None:
        """Show other notes."""
        self.field.setPlainText(text)

    def text(self) -> str:
        """The notes as they stand."""
        return self.field.toPlainText()

    def accept_slip(self) -> None:
        """Write what was probably meant: of the line with the cursor, else of the first."""
        at = self.field.textCursor().blockNumber() + 1
        mendable = [slip for slip in self.slips if slip.instead]
        here = [slip for slip in mendable if slip.line == at] or mendable
        if here:
            cursor = self.field.textCursor()
            made = with_slip_mended(self.text(), here[0])
            # As one edit, so that the field's own undo takes it back.
            cursor.select(cursor.SelectionType.Document)
            cursor.insertText(made)

    def shown_beside(self, number: int) -> str:
        """What stands beside a line, 1-based."""
        return self._beside.lines.get(number, ("", ""))[0]

    def _read(self) -> None:
        text = self.text()
        if text == self._text and self.notes is not None:
            return
        self._text = text
        try:
            self.notes, self.problem = read_notes(text, "the notes"), ""
            self.slips = slips(self.notes, self._bench)
        except UnusableDataError as error:
            self.notes, self.problem, self.slips = None, str(error), []
        self._show()
        self.changed.emit()

    def _show(self) -> None:
        lines = self.notes.lines if self.notes is not None else ()
        beside = {line.number: (understood(line), "") for line in lines}
        if self.notes is not None:
            for doubt in self.notes.doubts:
                words = f"{beside[doubt.line][0]}   {doubt.message}".strip()
                beside[doubt.line] = (words, "unsure")
        wrong: dict[int, list[tuple[int, int]]] = {}
        for line in lines:
            for part in line.unread:
                wrong.setdefault(line.number, []).append((part.start, part.end))
                known = understood(line)
                words = f"{line.text[part.start : part.end].strip()}: {part.why}"
                beside[line.number] = (f"{known}   {words}" if known else words, "bad")
        doubtful: dict[int, list[tuple[int, int]]] = {}
        for slip in self.slips:
            doubtful.setdefault(slip.line, []).append((slip.start, slip.end))
            meant = f": {slip.instead}?  F2" if slip.instead else ""
            beside[slip.line] = (f"{slip.message}{meant}", "unsure")
        self._beside.lines = beside
        self._beside.update()
        if (wrong, doubtful) != (self._marks.wrong, self._marks.doubtful):
            self._marks.wrong, self._marks.doubtful = wrong, doubtful
            self.field.blockSignals(True)
            self._marks.rehighlight()
            self.field.blockSignals(False)
