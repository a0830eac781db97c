"""Beginning and leaving the first evening in the main window."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QBoxLayout

from yardtoll.desktop.host import Host
from yardtoll.store.errors import YardError

if TYPE_CHECKING:
    from yardtoll.desktop.frame.first_evening import FirstEvening


class Evenings:
    """The guide's place in the window, and the practice yard it is opened with.

    Attributes:
        panel: the guide while it leads; else None.
    """

    def __init__(self, host: Host, place: QBoxLayout) -> None:
        self._host, self._place = host, place
        self.panel: FirstEvening | None = None

    def open(self) -> None:
        """Open a practice yard with the guide beside it."""
        from yardtoll.desktop.frame.first_evening import (
            BENCH_SPEED,
            FirstEvening,
            practice_yard,
        )

        try:
            path = practice_yard()
        except YardError as error:
            self._host.say(f"{error}.")
            return
        self._host.open_yard(path)
        if self._host.bench is None or self._host.bench.session.path != path:
            return
        self.leave()
        self.panel = FirstEvening(self._host)
        self._host.settings.simulated_speed = BENCH_SPEED
        self.panel.left.connect(self.leave)
        self._place.addWidget(self.panel)
        self.panel.show()

    def leave(self) -> None:
        """Without the guide; the practice yard stays open."""
        panel, self.panel = self.panel, None
        if panel is not None:
            self._place.removeWidget(panel)
            panel.hide()
            panel.deleteLater()
