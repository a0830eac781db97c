"""A grid of texts and buttons that is filled again in place.

Results arrive many times a second while runs are worked out. A page that deletes and makes its
widgets each time can delete one whose signal is still running, so here each widget is made once,
changed afterwards, and hidden while its place is empty.
"""

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from itertools import islice

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractButton, QGridLayout, QLabel, QPushButton, QWidget

from yardtoll.desktop.widgets.basics import ElidingButton, button, label, plain_tip, rule, set_role

TOP = Qt.AlignmentFlag.AlignTop
TOP_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
FILL = Qt.AlignmentFlag(0)
_AT_A_TIME = 16


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One text of a grid; a button where it can be pressed.

    Attributes:
        row, column, columns: its place, and how many columns it takes.
        role: for the style sheet.
        pressed: makes it a button; called without arguments.
        name: accessible name of a button; its text where "".
        eliding: the button's text is cut where the place is narrow.
        selectable: the text can be selected with the mouse.
        align: inside its place.
    """

    row: int
    column: int
    text: str
    columns: int = 1
    role: str = ""
    wrap: bool = False
    pressed: Callable[[], object] | None = None
    name: str = ""
    tip: str = ""
    enabled: bool = True
    checked: bool | None = None
    eliding: bool = False
    selectable: bool = False
    indent: int = -1
    align: Qt.AlignmentFlag = FILL

    @property
    def place(self) -> tuple[object, ...]:
        """Cells of one place share a widget from one filling to the next."""
        shape = (self.pressed is not None, self.eliding, self.checked is not None)
        # A line is no text: a place that was one is not filled with the other.
        return (self.row, self.column, self.columns, self.role == "rule", *shape, self.wrap)


class KeptGrid(QWidget):
    """Rows and columns of texts and buttons."""

    def __init__(
        self, *, spacing: tuple[int, int] = (10, 2), parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(spacing[0])
        self.grid.setVerticalSpacing(spacing[1])
        self._kept: dict[tuple[object, ...], QWidget] = {}
        self._pressed: dict[tuple[object, ...], Callable[[], object]] = {}

    def show_cells(self, cells: Iterable[Cell]) -> None:
        """Show these cells and no others."""
        for _ in self.showing(cells):
            pass

    def showing(self, cells: Iterable[Cell]) -> Iterator[None]:
        """The same, some at a time; what is no more is put away with the last."""
        unused, rest = set(self._kept), iter(cells)
        while some := list(islice(rest, _AT_A_TIME)):
            with self._laid_out_once():
                for cell in some:
                    self._show(cell)
                    unused.discard(cell.place)
            yield
        with self._laid_out_once():
            for place in unused:
                self._put_away(self._kept[place])

    @contextmanager
    def _laid_out_once(self) -> Iterator[None]:
        """Each widget that is shown would have all be laid out anew, up to the window."""
        self.grid.setEnabled(False)
        try:
            yield
        finally:
            self.grid.setEnabled(True)

    @property
    def shown(self) -> list[QWidget]:
        """The widgets that are not hidden, by row and column."""
        places = sorted(self._kept, key=lambda place: place[:2])
        return [self._kept[place] for place in places if not self._kept[place].isHidden()]

    def texts(self) -> list[str]:
        """What is shown, by row and column."""
        return [w.text() for w in self.shown if isinstance(w, QLabel | QPushButton)]

    def _put_away(self, widget: QWidget) -> None:
        """Nothing of it may be found by name or be read aloud, or take part in the layout.

        Where something hidden is in a row a grid leaves out the spacing above it.
        """
        if widget.isHidden():
            return
        widget.hide()
        self.grid.removeWidget(widget)
        widget.setAccessibleName("")
        if isinstance(widget, ElidingButton):
            widget.set_full_text("")
        elif isinstance(widget, QLabel | QPushButton):
            widget.setText("")

    def _show(self, cell: Cell) -> None:
        widget = self._kept.get(cell.place)
        is_new = widget is None
        if widget is None:
            widget = self._kept[cell.place] = self._make(cell)
        if is_new or widget.isHidden():
            self.grid.addWidget(widget, cell.row, cell.column, 1, cell.columns, cell.align)
        if widget.property("role") != (cell.role or None):
            set_role(widget, cell.role)
        if isinstance(widget, QAbstractButton):
            assert cell.pressed is not None
            self._pressed[cell.place] = cell.pressed
            widget.setAccessibleName(cell.name or cell.text)
            if cell.checked is not None:
                widget.setChecked(cell.checked)
        if isinstance(widget, ElidingButton):
            widget.set_full_text(cell.text)
        elif isinstance(widget, QLabel | QPushButton) and widget.text() != cell.text:
            widget.setText(cell.text)
        widget.setToolTip(plain_tip(cell.tip))
        widget.setEnabled(cell.enabled)
        widget.show()

    def _press(self, place: tuple[object, ...], _: bool = False) -> None:
        # The callable is the one of the latest filling.
        self._pressed[place]()

    def _make(self, cell: Cell) -> QWidget:
        if cell.pressed is not None:
            made = (
                ElidingButton(cell.text, cell.role, cell.name)
                if cell.eliding
                else button(cell.text, role=cell.role)
            )
            made.clicked.connect(partial(self._press, cell.place))
            made.setCheckable(cell.checked is not None)
            return made
        if cell.role == "rule":
            return rule()
        text = label(cell.text, cell.role, wrap=cell.wrap)
        text.setAlignment(cell.align or Qt.AlignmentFlag.AlignVCenter)
        text.setIndent(cell.indent)
        if cell.selectable:
            text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        return text


def pairs(rows: Iterable[tuple[str, str]], *, wrap: bool = True) -> list[Cell]:
    """Names on the left, values on the right."""
    cells = []
    for row, (name, value) in enumerate(rows):
        cells.append(Cell(row=row, column=0, text=name, role="muted", wrap=wrap, align=TOP))
        cells.append(Cell(row=row, column=1, text=value, selectable=True, align=TOP_RIGHT))
    return cells


def hanging(items: Iterable[tuple[str, str]], role: str = "quiet", first: int = 0) -> list[Cell]:
    """Lines with a sign or number in front that stays clear of wrapped text."""
    cells = []
    for row, (sign, text) in enumerate(items, first):
        cells.append(Cell(row=row, column=0, text=sign, role="strong", align=TOP))
        cells.append(Cell(row=row, column=1, text=text, role=role, wrap=True))
    return cells
