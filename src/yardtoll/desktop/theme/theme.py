"""The theme in force: applies tokens to the application, notifies drawn widgets of a change."""

from collections.abc import Generator, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)
from shiboken6 import isValid

from yardtoll.desktop.theme.fonts import font, set_text_scale, text_scale
from yardtoll.desktop.theme.stylesheet import stylesheet
from yardtoll.desktop.theme.tokens import DAY, THEMES, Tokens
from yardtoll.desktop.turns import Turns

FOLLOW_SYSTEM = "system"
_STYLE = "fusion"
_Attribute = Qt.WidgetAttribute
_BY_PALETTE = QAbstractItemView, QLineEdit, QTextEdit, QPlainTextEdit
"""They draw by a palette that the sheet gave them, and have to give it back before another."""


class Theme(QObject):
    """Holds the tokens in force.

    Signals:
        changed: other tokens are in force; drawn widgets repaint.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.tokens: Tokens = DAY
        self._choice, self._text_percent = "", 100
        self._turns: Turns | None = None
        self._of_old_size: list[QWidget] = []

    @property
    def scale(self) -> float:
        """How much larger than usual text is, and what is laid out by it."""
        return text_scale()

    def apply(self, choice: str, text_percent: int = 100) -> None:
        """Put "day", "night", "contrast" or the system's choice in force, and a size of text."""
        if self._turns is not None:
            self._turns.drop()
        for _ in self._applied(choice, text_percent):
            pass

    def apply_soon(self, choice: str, text_percent: int = 100) -> None:
        """The same in steps, between which the window answers; it is painted when all is done."""
        if self._turns is None:
            self._turns = Turns(self)
        self._turns.begin(self._applied(choice, text_percent))

    @property
    def is_changing(self) -> bool:
        """Whether steps are left of a change."""
        return self._turns is not None and self._turns.is_under_way

    def _applied(self, choice: str, text_percent: int) -> Generator[None]:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        if not self._choice:
            app.styleHints().colorSchemeChanged.connect(self._follow)
        is_other_size = text_percent != self._text_percent
        self._choice, self._text_percent = choice, text_percent
        set_text_scale(text_percent / 100)
        if choice == FOLLOW_SYSTEM:
            choice = "night" if system_is_dark() else "day"
        with _not_painted(app):
            with _hidden_left_out(app) as hidden:
                yield
                # A style sheet in place of another is applied to each widget once for every one
                # above it; one in place of none, once.
                app.setStyleSheet("")
                yield
                self.tokens = THEMES.get(choice, DAY)
                if app.style().objectName() != _STYLE:
                    app.setStyle(_STYLE)
                if app.font() != font():
                    app.setFont(font())
                app.setPalette(_palette(self.tokens))
                app.setStyleSheet(stylesheet(self.tokens))
                yield
            yield
            self.changed.emit()
            yield
        if is_other_size:
            self._of_old_size = hidden
            # Later, for most of them are in views that are built anew now.
            QTimer.singleShot(0, self, self._resize_hidden)

    def _resize_hidden(self) -> None:
        """Colours are looked up when something is painted; a font is kept until it is styled."""
        for widget in self._of_old_size:
            if isValid(widget):
                widget.style().polish(widget)
        self._of_old_size = []

    def _follow(self) -> None:
        """The system went from day to night, or back."""
        if self._choice == FOLLOW_SYSTEM:
            self.apply_soon(self._choice, self._text_percent)

    def colour(self, name: str) -> QColor:
        """A token as a colour, by its field's name."""
        return QColor(getattr(self.tokens, name))


def system_is_dark() -> bool:
    """Whether the desktop asks programs for dark colours."""
    return QApplication.styleHints().colorScheme() is Qt.ColorScheme.Dark


@contextmanager
def _not_painted(app: QApplication) -> Iterator[None]:
    """Nobody sees windows that are styled in part."""
    seen = [w for w in app.topLevelWidgets() if w.isVisible() and w.updatesEnabled()]
    for window in seen:
        window.setUpdatesEnabled(False)
    try:
        yield
    finally:
        for window in seen:
            if isValid(window):
                window.setUpdatesEnabled(True)


@contextmanager
def _hidden_left_out(app: QApplication) -> Iterator[list[QWidget]]:
    """What is not seen keeps its old style; the sheet in force is looked up when it is painted.

    The window stands still while widgets are styled, and the stops that were visited have a
    thousand of them, of which one stop's are seen.
    """
    styled, has_own_style = _Attribute.WA_WState_Polished, _Attribute.WA_SetStyle
    hidden = [
        widget
        for widget in app.allWidgets()
        if not (widget.isVisible() or widget.testAttribute(has_own_style))
    ]
    left = [w for w in hidden if w.testAttribute(styled) and not isinstance(w, _BY_PALETTE)]
    for widget in hidden:
        # The change of another style than its own is no news to it …
        widget.setAttribute(has_own_style)
    for widget in left:
        # … and what is not styled is left as it is.
        widget.setAttribute(styled, False)
    try:
        yield hidden
    finally:
        for widget in filter(isValid, hidden):  # some were taken away in between
            widget.setAttribute(has_own_style, False)
        for widget in filter(isValid, left):
            # Without this the next change would pass it by, seen or not.
            widget.setAttribute(styled)
            if widget.isVisible():
                widget.style().polish(widget)


def _palette(t: Tokens) -> QPalette:
    roles = QPalette.ColorRole
    palette = QPalette()
    for role, colour in (
        (roles.Window, t.paper),
        (roles.WindowText, t.ink),
        (roles.Base, t.raised),
        (roles.AlternateBase, t.sunk),
        (roles.Text, t.ink),
        (roles.PlaceholderText, t.muted),
        (roles.Button, t.raised),
        (roles.ButtonText, t.ink),
        (roles.Highlight, t.accent),
        (roles.HighlightedText, t.on_accent),
        (roles.ToolTipBase, t.strip),
        (roles.ToolTipText, t.strip_ink),
        (roles.Link, t.accent),
    ):
        palette.setColor(role, QColor(colour))
    for role in (roles.Text, roles.ButtonText, roles.WindowText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(t.muted))
    return palette


theme = Theme()
"""The one theme of the program; colours are a property of the screen, not of a view."""
