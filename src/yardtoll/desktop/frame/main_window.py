"""The main window: builds the frame and the views, and wires them together."""

import logging
from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.methods import METHODS
from yardtoll.desktop.actions.looks import choose_colours
from yardtoll.desktop.frame.around import Around
from yardtoll.desktop.frame.bars import Floating, JobBar, NoticeBar
from yardtoll.desktop.frame.evenings import Evenings
from yardtoll.desktop.frame.focus_in_sight import FocusInSight
from yardtoll.desktop.frame.header import Header
from yardtoll.desktop.frame.manual import Manual
from yardtoll.desktop.frame.menu import NEEDS_YARD, commands, make_actions
from yardtoll.desktop.frame.menu_bar import RecentYards, fill_menu_bar
from yardtoll.desktop.frame.opening import made_yard, open_soon
from yardtoll.desktop.frame.placing import keep_place, keep_small_enough, keep_within, restore_place
from yardtoll.desktop.frame.rail import Rail
from yardtoll.desktop.frame.run_strip import RunStrip
from yardtoll.desktop.frame.stops_stack import StopsStack
from yardtoll.desktop.frame.undoing import do_again, take_back
from yardtoll.desktop.frame.visits import Visits
from yardtoll.desktop.frame.welcome import Welcome
from yardtoll.desktop.frame.window_commands import stop_texts, window_commands
from yardtoll.desktop.views.stop import LEDGER, OUTPUTS, PLAN, RUN, YARD
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.workbench.bell import Bell
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.session import Session
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.errors import StoreError
from yardtoll.store.records import Run, RunState
from yardtoll.store.yard_file import YardFile

log = logging.getLogger(__name__)

"""From this size of text on a view keeps the size it needs; below, it fits into every window."""
_SETTLED_MS = (100, 400, 1500)
"""By then a window manager has put its frame around a new window; a busy one takes longer."""


class MainWindow(QMainWindow):
    """One window on one yard.

    Args:
        settings: the user's settings.
    """

    def __init__(self, settings: UserSettings) -> None:
        from yardtoll.desktop.frame.command_finder import CommandFinder

        super().__init__()
        self.settings = settings
        self.bench: Workbench | None = None
        self.jobs = Jobs(self)
        FocusInSight(self)
        self._was_shown = False
        self.setWindowTitle("Yard Toll")
        self.setAcceptDrops(True)
        self.rail = Rail([(stop.key, stop.title) for stop in STOPS.values()])
        self.header = Header()
        self.strip = RunStrip()
        self.notice = NoticeBar()
        self.stack = StopsStack()
        self.stack.setObjectName("stops")
        self._views: dict[str, StopView] = {}
        self.visits = Visits(self._view_begun, self._show_stop, self.stack, self)
        self.welcome = Welcome(settings.recent_yards)
        self.stack.add_view(self.welcome)
        self._build_frame()
        self.manual = Manual(self)
        self.actions_by_name = make_actions(self, [*window_commands(self), *commands(self)])
        self.recent = RecentYards(
            lambda: settings.recent_yards, self.open_soon, settings.forget_yards
        )
        fill_menu_bar(self.menuBar(), self.actions_by_name, stop_texts(), self.recent)
        self.bell = Bell(self, settings)
        self.finder = CommandFinder(self)
        self.finder.used.connect(settings.count_use)
        self._around = Around(
            self.header,
            self.rail,
            self.strip,
            self.bell,
            self.actions_by_name["Stop the run"],
            self,
        )
        self._connect_frame()
        self._show_yard_open(is_open=False)
        restore_place(self, settings)

    # building

    def _build_frame(self) -> None:
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addWidget(self.header)
        right.addWidget(self.stack, 1)
        self._floating = Floating(self.stack, [JobBar(self.jobs), self.notice], self.notice)
        upper = QHBoxLayout()
        upper.setContentsMargins(0, 0, 0, 0)
        upper.setSpacing(0)
        upper.addWidget(self.rail)
        upper.addLayout(right, 1)
        self.evenings = Evenings(self, upper)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(upper, 1)
        layout.addWidget(self.strip)
        self.setCentralWidget(whole)

    def _connect_frame(self) -> None:
        from yardtoll.desktop.actions.records import ask_new_record

        self.rail.stop_chosen.connect(self.visit)
        self.header.add_station_asked.connect(lambda: ask_new_record(self, "station"))
        self.header.station_chosen.connect(self._choose_station)
        self.header.next_step_asked.connect(self._next_step)
        self.strip.run_asked.connect(lambda: self.visit(RUN))
        self.strip.plan_asked.connect(lambda: self.visit(PLAN))
        self.welcome.chosen.connect(self._welcome_chosen)
        self.welcome.yard_chosen.connect(self.open_soon)

    @property
    def widget(self) -> QWidget:
        """The parent of dialogs."""
        return self

    @property
    def current_stop(self) -> str:
        """Key of the stop that is shown."""
        return self.rail.current

    def _view(self, stop: str) -> StopView:
        """A view, whole."""
        view = self._view_begun(stop)
        view.build_whole()
        return view

    def _view_begun(self, stop: str) -> StopView:
        """A view, made when it is first seen; a large one only begun."""
        if stop not in self._views:
            assert self.bench is not None
            self._views[stop] = STOPS[stop].build(self, self.bench)
            self._views[stop].key = stop
            self.stack.add_view(self._views[stop])
        return self._views[stop]

    # yards

    def open_yard(self, path: Path) -> None:
        """Open a yard at once; on failure the one that is open stays."""
        try:
            yard = YardFile.open(path)
        except StoreError as error:
            self.say(str(error))
            return
        self.take(yard)

    def open_soon(self, path: Path) -> None:
        """Open a yard as soon as it is read."""
        open_soon(self, path)

    def new_yard(self, path: Path) -> None:
        """Make a yard and open it, with a simulated bench ready to try."""
        path = path if path.suffix == ".yard" else path.with_suffix(".yard")
        try:
            yard = made_yard(path, self.settings.preferences)
        except StoreError as error:
            self.say(str(error))
            return
        self.take(yard)

    def open_demo(self) -> None:
        """Open a fresh copy of the demo yard; the first one takes a few seconds to play."""
        from yardtoll.demo.yard import demo_left_running, fresh_demo

        recent = tuple(self.settings.recent_yards)
        self.jobs.start(
            "Making the demo yard",
            lambda handle: (fresh_demo(progress=handle.progress), demo_left_running(recent)),
            lambda made: self._open_fresh_demo(*made),
            lambda error: self.say(f"The demo yard could not be made: {error}"),
        )

    def _open_fresh_demo(self, path: Path, left: Path | None) -> None:
        self.open_yard(path)
        if left is not None:
            self.say(
                "A run was left unfinished in the demo opened before.",
                "Open that one",
                lambda: self.open_yard(left),
            )

    def close_yard(self) -> None:
        """Back to the first page; a run in progress asks first."""
        if self.bench is None or not self._may_leave_run():
            return
        self._drop_yard()
        self._show_yard_open(is_open=False)

    def take(self, yard: YardFile, *, soon: bool = False) -> None:
        """Show an open yard instead of the one before, if that may be left; at once, or soon."""
        if self.bench is not None and yard is self.bench.session.yard:
            yard.close()  # counted once more by this opening
            self.say(f"{yard.path.name} is open here already.")
            return
        if self.bench is not None:
            if not self._may_leave_run():
                yard.close()
                return
            self._drop_yard()
        self.bench = Workbench(Session(yard, self), self.jobs, self.settings, self)
        bench = self.bench
        bench.run_ended.connect(self._on_run_ended)
        bench.trouble.connect(self.say)
        bench.yard_moved.connect(self._on_yard_moved)
        self.settings.remember_yard(yard.path)
        self.show_yard_name()
        log.info("yard opened", extra={"path": str(yard.path), "read_only": yard.read_only})
        self._show_yard_open(is_open=True)
        self._around.follow(bench)
        if yard.read_only:
            self.say(f"{yard.path.name} {yard.why_read_only}.")
        left = bench.interrupted()
        (self.visit if soon else self.go_to)(RUN if left else YARD)
        if left:
            self.say("A run was in progress when the program stopped. It can be resumed or closed.")

    def _on_yard_moved(self) -> None:
        bench = self.bench
        if bench is not None:
            self.say(
                f"{bench.session.path.name} was renamed, moved or deleted while it is open. "
                "Everything is still written to that file.",
                "Keep it here",
                bench.keep_yard_here,
            )

    def show_yard_name(self) -> None:
        """Name the window after the open yard."""
        if self.bench is not None:
            self.setWindowTitle(f"{self.bench.session.yard.info().name} – Yard Toll")

    def _drop_yard(self) -> None:
        bench, self.bench = self.bench, None
        self._around.follow(None)
        if bench is not None:
            bench.leave()
            bench.deleteLater()
        self._drop_views()

    def _drop_views(self) -> None:
        self.visits.drop()
        seen = self.stack.current_view()
        # The one that is seen last: without it the next would be made ready to be seen.
        for view in sorted(self._views.values(), key=lambda view: view is seen):
            self.stack.remove_view(view)
        self._views.clear()

    def show_anew(self) -> None:
        """Build the views again, as after another choice of units."""
        self._drop_views()
        if self.bench is not None:
            self.go_to(self.rail.current)
            self._around.show()

    def _show_yard_open(self, *, is_open: bool) -> None:
        for widget in (self.rail, self.header, self.strip):
            widget.setVisible(is_open)
        for action in self.actions_by_name.values():
            if action.property(NEEDS_YARD):
                action.setEnabled(is_open)
        if not is_open:
            self.stack.show_view(self.welcome)
            self.setWindowTitle("Yard Toll")

    # going about

    def go_to(self, stop: str) -> None:
        """Show a stop at once, by its key."""
        self.visits.drop()
        if self.bench is not None:
            self._show_stop(stop)

    def _show_stop(self, stop: str) -> None:
        self.stack.show_view(self._view(stop))
        self.rail.set_current(stop)
        self._views[stop].setFocus()

    def visit(self, stop: str) -> None:
        """Go to a stop as soon as it is ready."""
        if self.bench is not None:
            self.rail.set_current(stop)
            self.visits.begin(stop)

    def plan(self, method: str, watts: float | None = None, at: datetime | None = None) -> None:
        """Plan a run of a method, with the watts a claim asks for, or for a moment to come.

        A test that is entered line by line is begun where its lines are.
        """
        stop = OUTPUTS if METHODS[method].is_table else PLAN
        self.go_to(stop)
        self._view(stop).choose_method(method, watts, at)

    def open_run(self, run_id: int) -> None:
        """Show a run where it is to be seen: live under Run, else its ledger."""
        assert self.bench is not None
        if run_id in [session.run_id for session in self.bench.sessions]:
            self.bench.show_run(run_id)
            self.go_to(RUN)
            return
        run = self.bench.session.yard.get(Run, run_id)
        if run.state == RunState.RUNNING.value:
            self.go_to(RUN)
            return
        if run.state == RunState.PLANNED.value:
            self.go_to(PLAN)
            self._view(PLAN).show_run(run_id)
            return
        stop = OUTPUTS if METHODS[run.method].is_table else LEDGER
        self._view(stop).show_run(run_id)
        self.go_to(stop)
        self.notice.seen(run_id)

    def open_finder(self) -> None:
        """Find anything by typing."""
        from yardtoll.desktop.frame.finding import everything

        self.finder.open_with(everything(self, self.actions()), self.settings.uses)

    def say(self, text: str, action: str = "", todo: Callable[[], object] | None = None) -> None:
        """Tell the user one sentence."""
        log.info("said", extra={"text": text})
        self.notice.say(text, action, todo)

    def confirm(self, text: str) -> None:
        """Tell the user that something was done as asked."""
        log.info("said", extra={"text": text})
        self.notice.confirm(text)

    def choose_theme(self, name: str) -> None:
        """Day, night, high contrast, or as the system has it."""
        choose_colours(self, name)

    def fill_screen(self) -> None:
        """Use the whole screen, or no longer."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def _choose_station(self, station_id: int) -> None:
        if self.bench is not None:
            self.bench.session.choose_station(station_id)

    def _next_step(self) -> None:
        from yardtoll.desktop.actions.records import ask_new_record

        if self.bench is not None and self.bench.session.station is None:
            ask_new_record(self, "station")
        elif self.bench is not None:
            is_run = self.bench.live is not None or self.bench.interrupted()
            self.visit(RUN if is_run else PLAN)

    def undo(self) -> None:
        """Take the last edit back."""
        if self.bench is not None:
            take_back(self, self.bench.session)

    def redo(self) -> None:
        """Do again what was taken back."""
        if self.bench is not None:
            do_again(self, self.bench.session)

    # runs

    def _on_run_ended(self, run_id: int, reason: str) -> None:
        assert self.bench is not None
        session = self.bench.session
        run = session.yard.get(Run, run_id)
        said = f"The run has ended: {reason}. It is kept."
        self.bell.call(said)
        if METHODS[run.method].ends_early and not run.ended_by and not session.yard.read_only:
            self.say(f"{said} What ended it?", "Say what", lambda: self._ask_what_ended(run_id))
            return
        log.info("said", extra={"text": said})
        self.notice.say(said, "See its ledger", partial(self.open_run, run_id), about=run_id)

    def _ask_what_ended(self, run_id: int) -> None:
        """Open the run's ledger and ask for its conditions, what ended it among them."""
        from yardtoll.desktop.actions.editing import edit_record

        self.open_run(run_id)
        assert self.bench is not None
        session = self.bench.session
        edit_record(self, session, session.yard.get(Run, run_id))

    def stop_run(self) -> None:
        """Finish the run in progress."""
        if self.bench is not None and self.bench.live is not None:
            self.bench.live.stop()

    # files

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        from yardtoll.desktop.actions.dropped_files import files_in

        if files_in(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        from yardtoll.desktop.actions.dropped_files import files_in, take_dropped

        event.acceptProposedAction()
        paths, view = files_in(event.mimeData()), self.stack.current_view()
        if not (isinstance(view, StopView) and view.take_files(paths)):
            take_dropped(self, paths)

    # the window itself

    def _welcome_chosen(self, what: str) -> None:
        from yardtoll.desktop.actions.files import ask_import, ask_new_yard, ask_open_yard

        choices: dict[str, Callable[[], object]] = {
            "evening": self.evenings.open,
            "demo": self.open_demo,
            "new": partial(ask_new_yard, self),
            "open": partial(ask_open_yard, self),
            "import": partial(ask_import, self),
        }
        choices[what]()

    def _may_leave_run(self) -> bool:
        """Ask before a run in progress is left."""
        from yardtoll.desktop.frame.questions import may_leave_run

        going = self.bench is not None and self.bench.live is not None
        return not going or may_leave_run(self)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._was_shown:
            self._was_shown = True
            self._when_settled(keep_within)
            self.windowHandle().screenChanged.connect(lambda _: keep_small_enough(self))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.WindowStateChange and self._was_shown:
            # What it had before it filled the screen may be too large; where it is dragged to now
            # is not for us to say.
            self._when_settled(keep_small_enough)

    def _when_settled(self, fit: Callable[[QWidget], None]) -> None:
        for after_ms in _SETTLED_MS:
            QTimer.singleShot(after_ms, self, lambda: fit(self))

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave_run():
            event.ignore()
            return
        keep_place(self, self.settings)
        self._drop_yard()
        self.jobs.wait()
        event.accept()
