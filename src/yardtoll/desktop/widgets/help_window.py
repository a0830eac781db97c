"""The manual in a window of its own: contents, search, pages."""

from importlib import resources

from PySide6.QtCore import QSize, Qt, QUrl
from PySide6.QtGui import QKeySequence, QShortcut, QShowEvent, QTextCursor, QTextDocument
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from yardtoll.desktop.theme.fonts import font, scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import HEADING_PX, TEXT_PX, TITLE_PX
from yardtoll.desktop.widgets.basics import button
from yardtoll.manual.book import START, Page, book, page, search

_SIZE = QSize(980, 700)
_LIST_W = 230
_FRAME = QSize(12, 44)
"""Of a window manager, at most."""


class HelpWindow(QWidget):
    """Pages to the right, their titles or what was found to the left."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("Manual – Yard Toll")
        self.setObjectName("help")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.resize(_SIZE)
        self.key = ""
        self._past: list[str] = []
        self.line = QLineEdit()
        self.line.setPlaceholderText("Search the manual")
        self.line.setAccessibleName("Search the manual")
        self.line.setClearButtonEnabled(True)
        self.titles = QListWidget()
        self.titles.setAccessibleName("Pages")
        self.titles.setWordWrap(True)
        self.titles.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.text = QTextBrowser()
        self.text.setProperty("role", "page")
        self.text.setAccessibleName("Page")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        self.text.setSearchPaths([str(resources.files("yardtoll.manual") / "pictures")])
        self.back = button("Back", self.go_back)
        left = QVBoxLayout()
        left.addWidget(self.line)
        left.addWidget(self.titles, 1)
        left.addWidget(self.back)
        side = QWidget()
        side.setLayout(left)
        side.setFixedWidth(scaled(_LIST_W))
        left.setContentsMargins(0, 0, 0, 0)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 14, 14, 14)
        layout.setSpacing(14)
        layout.addWidget(side)
        layout.addWidget(self.text, 1)
        self.line.textChanged.connect(self._list)
        self.line.returnPressed.connect(self._open_first)
        self.titles.currentItemChanged.connect(self._chosen)
        QShortcut(QKeySequence.StandardKey.Cancel, self, self.close)
        QShortcut(QKeySequence.StandardKey.Find, self, self.line.setFocus)
        QShortcut(QKeySequence.StandardKey.Back, self, self.go_back)
        theme.changed.connect(self._show_again)
        self._list()

    def open_page(self, key: str) -> None:
        """Show a page by its key; the window comes to the front."""
        self.line.clear()
        self.go_to(key)
        self.show()
        self.raise_()
        self.activateWindow()
        self.text.setFocus()

    def go_to(self, key: str) -> None:
        """Turn to a page; *Back* returns."""
        if self.key and self.key != key:
            self._past.append(self.key)
        self._show(page(key))

    def go_back(self) -> None:
        """To the page before."""
        if self._past:
            self._show(page(self._past.pop()))

    def _show(self, found: Page) -> None:
        self.key = found.key
        self.back.setEnabled(bool(self._past))
        self.text.document().setDefaultFont(font(TEXT_PX))
        self.text.setMarkdown(found.text)
        _lay_out(self.text.document())
        self.text.moveCursor(self.text.textCursor().MoveOperation.Start)
        self._mark(found.key)

    def _show_again(self) -> None:
        if self.key:
            self._show(page(self.key))

    def _list(self) -> None:
        words = self.line.text()
        entries = (
            [(hit.page, f"{hit.page.title}\n{hit.words}") for hit in search(words)]
            if words.strip()
            else [(entry, entry.title) for entry in book()]
        )
        self.titles.blockSignals(True)
        self.titles.clear()
        for entry, shown in entries:
            item = QListWidgetItem(shown)
            item.setData(Qt.ItemDataRole.UserRole, entry.key)
            self.titles.addItem(item)
        if not entries:
            none = QListWidgetItem("Nothing found")
            none.setFlags(Qt.ItemFlag.NoItemFlags)
            self.titles.addItem(none)
        self.titles.blockSignals(False)
        self._mark(self.key)

    def _mark(self, key: str) -> None:
        """Set the page's title off in the list, where it is in it."""
        self.titles.blockSignals(True)
        rows = range(self.titles.count())
        row = next((r for r in rows if self._key_of(self.titles.item(r)) == key), -1)
        self.titles.setCurrentRow(row)
        self.titles.blockSignals(False)

    def _open_first(self) -> None:
        if self.titles.count():
            self._chosen(self.titles.item(0))

    def _chosen(self, item: QListWidgetItem | None) -> None:
        key = self._key_of(item)
        if key and key != self.key:
            self.go_to(key)

    @staticmethod
    def _key_of(item: QListWidgetItem | None) -> str:
        return str(item.data(Qt.ItemDataRole.UserRole) or "") if item is not None else ""

    def _follow(self, link: QUrl) -> None:
        self.go_to(link.toString())


def _lay_out(document: QTextDocument) -> None:
    """Headings in the program's sizes, and room between paragraphs."""
    block = document.begin()
    sizes = {1: TITLE_PX, 2: HEADING_PX + 2}
    while block.isValid():
        form = block.blockFormat()
        level = form.headingLevel()
        form.setBottomMargin(8.0)
        form.setTopMargin(14.0 if level > 1 else 2.0)
        cursor = QTextCursor(block)
        cursor.setBlockFormat(form)
        if level:
            look = block.charFormat()
            made = font(sizes.get(level, HEADING_PX))
            made.setWeight(made.Weight.DemiBold)
            look.setFont(made)
            cursor.movePosition(
                QTextCursor.MoveOperation.EndOfBlock, QTextCursor.MoveMode.KeepAnchor
            )
            cursor.mergeCharFormat(look)
        block = block.next()


class HelpedDialog(QDialog):
    """A dialog whose page of the manual F1 opens.

    Attributes:
        manual_page: key of the page on what is asked for.
        manual: the window it was opened in; one of the dialog's own, for a dialog that waits for
            its answer lets no other window be used.
    """

    manual_page = START

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.manual: HelpWindow | None = None
        QShortcut(QKeySequence.StandardKey.HelpContents, self, self.open_manual)

    def showEvent(self, event: QShowEvent) -> None:
        free = self.screen().availableGeometry().size() - _FRAME
        self.setMinimumWidth(min(self.minimumWidth(), free.width()))
        self.resize(self.size().expandedTo(self.minimumSizeHint()).boundedTo(free))
        super().showEvent(event)

    def exec(self) -> int:
        """Wait for the answer; what was entered can be read until the window's next turn.

        Its parent would else keep it, hidden, for as long as that is open.
        """
        answer = super().exec()
        self.deleteLater()
        return answer

    def open_manual(self) -> None:
        """Open the page of what is asked for."""
        if self.manual is None:
            self.manual = HelpWindow(self)
        self.manual.open_page(self.manual_page)
