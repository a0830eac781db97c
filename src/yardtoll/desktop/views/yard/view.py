"""The Yard view: a lane a station on a time axis, and what the bench owns below."""

from functools import partial

from PySide6.QtCore import QEvent, QObject, QTimer, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.views.yard.first_steps import FirstSteps
from yardtoll.desktop.views.yard.model import KnownRuns, load_facts, wiring_rows, yard_page
from yardtoll.desktop.widgets.basics import button, label, plain_tip, scrolled
from yardtoll.desktop.widgets.lanes import LaneChart, LaneRun
from yardtoll.desktop.widgets.record_list import RecordList
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import SIMULATED
from yardtoll.store.site_time import now as now_here

_TICK_MS = 20_000
_LANES_SEEN = 3
"""So many at least, where text is large and the whole stop scrolls."""
_ABREAST_W = 560
"""Less room has two lists in a row, not all."""


class YardView(StopView):
    """Everything at a glance.

    Signals:
        run_opened(run_id): show a run.
        add_asked(kind), edit_asked(record): "station", "load" or "meter".
        import_asked: read a log.
    """

    changes_whole = False

    run_opened = Signal(int)
    add_asked = Signal(str)
    edit_asked = Signal(object)
    import_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self._known = KnownRuns()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 16)
        layout.setSpacing(10)
        self.headline = label("", "title", wrap=True)
        self._path = label("", "muted")
        layout.addWidget(self.headline)
        layout.addWidget(self._path)
        layout.addSpacing(8)
        self.lanes = LaneChart()
        self.lanes.run_chosen.connect(self.run_opened)
        self.lanes.station_chosen.connect(self._choose_station)
        self.lanes.budget_asked.connect(self._open_budget)
        self._scroll = scrolled(self.lanes)
        self._scroll.installEventFilter(self)
        layout.addWidget(self._scroll, 5)
        self.first_steps = FirstSteps()
        self.first_steps.station_asked.connect(partial(self.add_asked.emit, "station"))
        self.first_steps.import_asked.connect(self.import_asked)
        layout.addWidget(self.first_steps, 2)
        self._columns: list[tuple[QWidget, RecordList]] = []
        self._side_by_side = QGridLayout()
        self._side_by_side.setHorizontalSpacing(18)
        self._side_by_side.setVerticalSpacing(6)
        self.lists: dict[str, RecordList] = {}
        for kind, title in (
            ("station", "Stations"),
            ("load", "Loads"),
            ("meter", "Meters"),
            ("wiring", "Wiring, sun, site"),
        ):
            self._columns.append(self._make_column(kind, title))
        self._place_columns(len(self._columns))
        layout.addLayout(self._side_by_side, 3)
        self._ticker = QTimer(self)
        self._ticker.setInterval(_TICK_MS)
        self._ticker.timeout.connect(self._touch)
        self._ticker.start()

    def _place_columns(self, abreast: int) -> None:
        self._abreast = abreast
        for part in (part for column in self._columns for part in column):
            self._side_by_side.removeWidget(part)
        # A head that takes two lines must not push its list below the others.
        for place, (head, found) in enumerate(self._columns):
            row, column = 2 * (place // abreast), place % abreast
            self._side_by_side.addWidget(head, row, column)
            self._side_by_side.addWidget(found, row + 1, column)
            self._side_by_side.setColumnStretch(place, place < abreast)
            self._side_by_side.setRowStretch(2 * place + 1, place * abreast < len(self._columns))

    def _make_column(self, kind: str, title: str) -> tuple[QWidget, RecordList]:
        made = QWidget()
        head = QHBoxLayout(made)
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(label(title, "heading", wrap=True), 1)
        add = button("Add…", name=f"Add a {kind}")
        if kind == "wiring":
            menu = QMenu(add)
            for what in ("circuit", "cord", "array"):
                article = "An" if what == "array" else "A"
                menu.addAction(f"{article} {what}…", partial(self.add_asked.emit, what))
            add.setMenu(menu)
        else:
            add.clicked.connect(lambda _=False: self.add_asked.emit(kind))
        head.addWidget(add)
        found = RecordList(title)
        found.opened.connect(self.edit_asked)
        self.lists[kind] = found
        return made, found

    def refresh(self) -> None:
        session = self.bench.session
        yard = session.yard
        runs = yard.runs()
        stations = yard.stations()
        now = now_here()
        analyses = self.bench.analyses.all_of(runs)
        page = yard_page(stations, runs, analyses, self.bench.sessions, now, self._known)
        self.headline.setText(page.headline)
        only = " · shown only: open in another window" if yard.read_only else ""
        self._path.setText(f"{yard.info().name} · {yard.path.name}{only}")
        self._path.setToolTip(plain_tip(str(yard.path)))
        current = session.station.id if session.station else None
        self._scroll.setVisible(bool(stations))
        self.first_steps.setVisible(not stations)
        self.lanes.show_lanes(list(page.lanes), current, now, page.until)
        self.lists["station"].show_records(
            [(s.name, f"{s.rated_wh:g} Wh · {s.rated_w:g} W {s.chemistry}", s) for s in stations]
        )
        self.lists["load"].show_records(
            [(found.name, load_facts(found), found) for found in yard.loads()]
        )
        self.lists["wiring"].show_records(wiring_rows(yard))
        self.lists["meter"].show_records(
            [
                (m.name, f"{m.accuracy}{' · simulated' if m.address == SIMULATED else ''}", m)
                for m in yard.meters()
            ]
        )

    def fit(self) -> None:
        abreast = len(self._columns) if self.place_width >= scaled(_ABREAST_W) else 2
        if abreast != self._abreast:
            self._place_columns(abreast)
        self._fit_lanes()

    def _fit_lanes(self) -> None:
        self._scroll.setMinimumHeight(self.lanes.least_height(_LANES_SEEN))
        self.lanes.fit_to(self._scroll.height() - 4)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # Not only with the window: the first steps, which were in its place, go away.
        if watched is self._scroll and event.type() == QEvent.Type.Resize:
            self._fit_lanes()
        return super().eventFilter(watched, event)

    def _open_budget(self, run: LaneRun) -> None:
        from yardtoll.desktop.dialogs.budget import BudgetDialog

        if run.budget is not None:
            BudgetDialog(run.tip, run.budget, parent=self).exec()

    def _choose_station(self, station_id: int) -> None:
        self.bench.session.choose_station(station_id)
