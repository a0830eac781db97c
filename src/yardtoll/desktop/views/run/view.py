"""The Run view: what is going on at the bench, or what could be."""

from collections.abc import Callable, Generator, Iterator
from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QAbstractButton, QApplication, QSizePolicy, QStackedLayout, QWidget

from yardtoll.desktop.turns import Turns, styled
from yardtoll.desktop.views.run.idle_page import IdlePage
from yardtoll.desktop.views.run.model import END_KEY, ENDING_KEYS, MARK_KEYS, NOTE_KEY
from yardtoll.desktop.views.run.running_page import RunningPage
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.courtesy import courtesy
from yardtoll.desktop.workbench.workbench import Workbench

_AHEAD_MS, _LOOK_AGAIN_MS = 400, 50


class RunView(StopView):
    """A page while a run is in progress, another while nothing runs.

    Signals:
        plan_asked, ledger_asked(run_id): where to go from here.
    """

    plan_asked = Signal()
    ledger_asked = Signal(int)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        # Most visits find nothing running: the other page is made when the visit is over.
        self._running = RunningPage(bench)
        self._making = Turns(self)
        self._ahead = QTimer(self, singleShot=True, interval=_AHEAD_MS)
        self._ahead.timeout.connect(self._make_ahead)

    def _build(self) -> Iterator[None]:
        self._pages = QStackedLayout(self)
        self.idle_page = IdlePage(self.bench)
        self.idle_page.plan_asked.connect(self.plan_asked)
        self.idle_page.ledger_asked.connect(self.ledger_asked)
        self._pages.addWidget(self.idle_page)
        yield
        yield from self.idle_page.chart_made()
        self._pages.addWidget(self._running)
        self._running.done.connect(self.setFocus)
        self._running.moved.connect(self.fit)
        self._bind_keys()
        if self.bench.live is None:
            self._ahead.start()
            return
        while self._running.build_on():
            yield

    @property
    def running(self) -> RunningPage:
        """The page while a run is in progress."""
        if not self._running.is_whole:
            self._making.drop()
            while self._running.build_on():
                pass
            self.fit()
        return self._running

    def _make_ahead(self) -> None:
        self._making.begin(self._made_ahead())

    def _made_ahead(self) -> Generator[int | None]:
        """Make the running page before a run begins, while nobody waits for anything else."""
        while courtesy.others_work or courtesy.window_is_busy:
            yield _LOOK_AGAIN_MS
        while self._running.build_on():
            yield None
        self.fit()
        yield from styled(self._running)

    def _bind_keys(self) -> None:
        """Bare keys act in this view only, and never while a field is typed in."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for key, word in MARK_KEYS:
            self._while_running(key, partial(RunningPage.mark, word=word))
        self._shortcut("Space", self._space)
        self._while_running(END_KEY, RunningPage.mark_end)
        self._while_running(NOTE_KEY, RunningPage.begin_note)
        for key, ended_by in ENDING_KEYS:
            self._while_running(key, partial(RunningPage.end_as, ended_by=ended_by))

    def _while_running(self, key: str, act: Callable[[RunningPage], None]) -> None:
        def pressed() -> None:
            if self.bench.live is not None:
                act(self.running)

        self._shortcut(key, pressed)

    def _shortcut(self, key: str, do: object) -> None:
        made = QShortcut(QKeySequence(key), self)
        made.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        made.activated.connect(do)

    def _space(self) -> None:
        focused = QApplication.focusWidget()
        if isinstance(focused, QAbstractButton):
            focused.click()
        elif self.bench.live is not None:
            self.running.begin_reading()

    def refresh(self) -> None:
        self._fill_whole()

    def _fill(self) -> Iterator[None]:
        live = self.bench.live
        if live is None:
            self._turn_to(self.idle_page)
            if self._running.is_whole:
                self._running.rest()
            yield from self.idle_page.filling()
            return
        self._turn_to(self.running)
        self.running.show_run(live)

    def _turn_to(self, shown: QWidget) -> None:
        """Show a page; the other one asks for no room meanwhile."""
        self._pages.setCurrentWidget(shown)
        for page in (self.idle_page, self._running):
            policy = QSizePolicy.Policy.Preferred if page is shown else QSizePolicy.Policy.Ignored
            page.setSizePolicy(policy, policy)
        self.updateGeometry()

    def fit(self) -> None:
        if self._running.is_whole:
            self._running.fit(self.place_width, self.height())
