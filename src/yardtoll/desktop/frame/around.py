"""What is shown around the stops: the station in the header, the run in progress in the strip."""

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QAction

from yardtoll.desktop.frame.header import Header
from yardtoll.desktop.frame.next_step import last_run_said, waiting_for
from yardtoll.desktop.frame.rail import Rail
from yardtoll.desktop.frame.run_strip import RunStrip
from yardtoll.desktop.views.stop import RUN
from yardtoll.desktop.workbench.bell import Bell
from yardtoll.desktop.workbench.names import names_in
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.shown_region import keep_as_written
from yardtoll.store.site_time import now as now_here

_TICK_MS = 500


class Around(QObject):
    """Keeps header, rail, strip and bell up with the open yard.

    Args:
        stop_action: stops the run in progress; enabled while there is one.
    """

    def __init__(
        self,
        header: Header,
        rail: Rail,
        strip: RunStrip,
        bell: Bell,
        stop_action: QAction,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._header, self._rail, self._strip, self._bell = header, rail, strip, bell
        self._stop_action = stop_action
        self._bench: Workbench | None = None
        self._ticker = QTimer(self)
        self._ticker.setInterval(_TICK_MS)
        self._ticker.timeout.connect(self._show_strip)

    def follow(self, bench: Workbench | None) -> None:
        """Show what is going on in another yard, or in none."""
        self._bench = bench
        self._ticker.stop()
        if bench is not None:
            bench.changed.connect(self._show_changed)
            bench.live_changed.connect(self.show)
            bench.live_updated.connect(self._show_strip)
            self.show()

    def show(self) -> None:
        """Show all of it anew."""
        if self._bench is None:
            return
        live = self._bench.live
        self._rail.set_busy(RUN, busy=live is not None)
        self._stop_action.setEnabled(live is not None)
        self._show_changed()
        if live is None:
            self._ticker.stop()
        else:
            self._ticker.start()
            self._show_strip()

    def _show_changed(self) -> None:
        self._show_header()
        if self._bench is not None and self._bench.live is None:
            self._strip.show_idle(last_run_said(self._bench))

    def _show_header(self) -> None:
        if self._bench is None:
            return
        session = self._bench.session
        keep_as_written(names_in(session.yard))
        self._header.show_stations(session.yard.stations(), session.station)
        self._header.show_next_step(*waiting_for(self._bench))

    def _show_strip(self) -> None:
        from yardtoll.running.live_figures import live_figures

        live = self._bench.live if self._bench is not None else None
        if live is not None:
            figures = live_figures(live, now_here())
            self._strip.show_run(figures)
            self._bell.watch(figures.watch, is_bad=figures.watch_is_bad)
            self._ticker.start()  # it is for the clock, while no samples come
