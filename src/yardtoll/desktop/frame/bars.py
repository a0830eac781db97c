"""Two bars above the run strip: what is being worked on, and what must be said."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.widgets.announcing import announce
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.workbench.jobs import Jobs

SHOWN_AFTER_MS = 400
PASSES_AFTER_MS = 6000
_STEPS = 1000


class Floating(QWidget):
    """Bars that lie over the foot of what is below them: nothing moves when one comes or goes.

    One that stays would keep what it covers from being pressed: what is below ends above it, as far
    as it can be so low.

    Args:
        below: what they lie over.
        staying: the bar, the last of them, that stays until it is closed.
    """

    def __init__(
        self, below: QWidget, bars: Sequence[QWidget], staying: QWidget | None = None
    ) -> None:
        super().__init__(below)
        self._below = below
        self._staying = staying
        self._bars = list(bars)
        # Afterwards: in the middle of being shown a bar's own layout would keep its old size.
        self._soon = QTimer(self, singleShot=True, interval=0)
        self._soon.timeout.connect(self.place)
        below.installEventFilter(self)
        for bar in bars:
            bar.setParent(self)
            bar.hide()
            bar.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in _PLACED_ON:
            self._soon.start()
        return super().eventFilter(watched, event)

    def place(self) -> None:
        """Along the foot, as high as the bars that are shown."""
        shown = [bar for bar in self._bars if not bar.isHidden()]
        self.setVisible(bool(shown))
        width = self._below.width()
        heights = [_height_at(bar, width) for bar in shown]
        self.setGeometry(0, self._below.height() - sum(heights), width, sum(heights))
        top = 0
        for bar, height in zip(shown, heights, strict=True):
            bar.setGeometry(0, top, width, height)
            top += height
        self._make_room(heights[-1] if shown and shown[-1] is self._staying else 0)
        self.raise_()

    def _make_room(self, height: int) -> None:
        layout, before = self._below.layout(), self._below.contentsMargins().bottom()
        if layout is not None:
            lowest = layout.totalMinimumSize().height() - before
            room = max(min(height, self._below.height() - lowest), 0)
            if room != before:
                self._below.setContentsMargins(0, 0, 0, room)


_PLACED_ON = (
    QEvent.Type.Resize,
    QEvent.Type.ShowToParent,
    QEvent.Type.HideToParent,
    QEvent.Type.LayoutRequest,
    QEvent.Type.ChildAdded,
)


def _height_at(bar: QWidget, width: int) -> int:
    layout = bar.layout()
    if layout is not None and layout.hasHeightForWidth():
        return layout.totalHeightForWidth(width)
    return bar.sizeHint().height()


class JobBar(QWidget):
    """Progress and cancel of the work in progress; hidden for what is quickly done."""

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("jobs")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._title = label("", "strong")
        self._text = label("", "muted")
        self._bar = QProgressBar()
        self._bar.setAccessibleName("Progress")
        self._bar.setTextVisible(False)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(MARGIN, 8, MARGIN, 8)
        layout.addWidget(self._title)
        layout.addWidget(self._text)
        layout.addWidget(self._bar, 1)
        layout.addWidget(button("Cancel", jobs.cancel, name="Cancel the work going on"))
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(SHOWN_AFTER_MS)
        self._patience.timeout.connect(lambda: self.setVisible(jobs.busy))
        jobs.started.connect(self._started)
        jobs.progressed.connect(self._progressed)
        jobs.idle.connect(self._idle)
        self.hide()

    def _started(self, title: str) -> None:
        self._title.setText(title)
        self._text.clear()
        self._bar.setRange(0, 0)
        if not self.isVisible():
            self._patience.start()

    def _progressed(self, text: str, share: float) -> None:
        self._text.setText(text)
        self._bar.setRange(0, _STEPS if share >= 0 else 0)
        self._bar.setValue(int(share * _STEPS))

    def _idle(self) -> None:
        self._patience.stop()
        self.hide()


class NoticeBar(QWidget):
    """One sentence that stays until it is closed, with at most one thing to do about it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._text = label("", wrap=True)
        self.action_button = button("", self._act, name="Act on this notice")
        self._todo: Callable[[], object] | None = None
        self._about: int | None = None
        self._passing = QTimer(self, singleShot=True, interval=PASSES_AFTER_MS)
        self._passing.timeout.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 8, 12, 8)
        layout.addWidget(self._text, 1)
        layout.addWidget(self.action_button)
        layout.addWidget(button("Close", self.hide, name="Close this notice"))
        self.hide()

    def say(
        self,
        text: str,
        action: str = "",
        todo: Callable[[], object] | None = None,
        *,
        about: int | None = None,
    ) -> None:
        """Show a sentence; ``action`` names what can be done about it.

        Args:
            about: the run to be shown by it, with whose ledger before the eyes it is read.
        """
        self._passing.stop()
        self._about = about
        self._text.setText(text)
        self.setAccessibleName(text)
        announce(self, text)
        self._todo = todo
        self.action_button.setText(action)
        self.action_button.setAccessibleName(action or "Act on this notice")
        self.action_button.setVisible(bool(action))
        self.show()

    def confirm(self, text: str) -> None:
        """Say that something was done, as was asked for; that passes by itself."""
        self.say(text)
        self._passing.start()

    def seen(self, run_id: int) -> None:
        """A run is shown: what was to lead there is done."""
        if self._about == run_id:
            self.hide()

    @property
    def text(self) -> str:
        """What it says, "" while hidden."""
        return "" if self.isHidden() else self._text.text()

    def _act(self) -> None:
        self.hide()
        if self._todo is not None:
            self._todo()
