"""The Claims view: the port panel, contradictions side by side, and every claim with its source."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.claims.model import (
    ClaimRow,
    ClaimsPage,
    can_be_worked_with,
    claims_page,
)
from yardtoll.desktop.views.claims.photo_row import PhotoRow
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import ElidingButton, button, label, rule, scrolled
from yardtoll.desktop.widgets.port_panel import PortPanel
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Station, StoredClaim


class ClaimsView(StopView):
    """What the maker promises.

    Signals:
        add_asked, paste_asked, receiving_asked, photos_asked: something new.
        edit_asked(claim), work_with_asked(claim): something about one claim.
        photo_opened(photo): a picture is to be seen large.
        add_station_asked: there is no station yet.
    """

    add_asked = Signal()
    paste_asked = Signal()
    receiving_asked = Signal()
    photos_asked = Signal()
    edit_asked = Signal(object)
    work_with_asked = Signal(object)
    photo_opened = Signal(object)
    add_station_asked = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 12)
        layout.setSpacing(8)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        row = QHBoxLayout()
        self._subtitle = label("", "muted", wrap=True)
        row.addWidget(self._subtitle, 1)
        self._paste = button("Paste a text…", self.paste_asked.emit, "primary")
        self._add = button("Add a claim…", self.add_asked.emit)
        self._receive = button("As received…", self.receiving_asked.emit)
        self._photo = button("Add photos…", self.photos_asked.emit)
        self._add_station = button("Add a station…", self.add_station_asked.emit, "primary")
        for made in (self._paste, self._add, self._receive, self._photo, self._add_station):
            row.addWidget(made)
        layout.addLayout(row)
        body = QWidget()
        self._body = QVBoxLayout(body)
        self._body.setContentsMargins(0, 4, 10, 4)
        self._body.setSpacing(10)
        self.ports = PortPanel()
        self._body.addWidget(self.ports)
        self._received = label("", "quiet", wrap=True)
        self._body.addWidget(self._received)
        self.photos = PhotoRow(bench)
        self.photos.opened.connect(self.photo_opened)
        self._body.addWidget(self.photos)
        self._contradictions = QVBoxLayout()
        self._contradictions.setSpacing(6)
        self._body.addLayout(self._contradictions)
        self._pack = label("", "muted", wrap=True)
        self._body.addWidget(self._pack)
        self._columns = QHBoxLayout()
        self._columns.setSpacing(36)
        self._body.addLayout(self._columns)
        layout.addWidget(scrolled(body), 1)

    def refresh(self) -> None:
        session = self.bench.session
        station = session.station
        for widget in (self._paste, self._add, self._receive, self._photo):
            widget.setVisible(station is not None)
            widget.setEnabled(not session.yard.read_only)
        self._add_station.setVisible(station is None)
        if station is None or station.id is None:
            self._show_nothing()
            return
        yard = session.yard
        photos = yard.photos(station.id)
        page = claims_page(
            station,
            yard.claims(station.id),
            yard.receiving(station.id),
            self.bench.tested_claims(station),
            len(photos),
        )
        self._show(page, station)
        self.photos.show_photos(photos)

    def _show_nothing(self) -> None:
        self.headline.setText("No station yet")
        self._subtitle.setText("Add the station whose claims are to be tested.")
        for widget in (self.ports, self._received, self._pack, self.photos):
            widget.setVisible(False)
        _clear(self._contradictions)
        _clear(self._columns)

    def _show(self, page: ClaimsPage, station: Station) -> None:
        self.headline.setText(page.headline)
        self._subtitle.setText(page.subtitle)
        self.ports.setVisible(bool(page.ports))
        self.ports.show_groups(list(page.ports))
        self._received.setVisible(bool(page.receiving))
        self._received.setText(page.receiving)
        self._pack.setVisible(bool(page.pack))
        self._pack.setText(page.pack)
        _clear(self._contradictions)
        for found in page.contradictions:
            role = "note-bad" if found.binding is not None else "note-unsure"
            words = label(f"{found.title}: {found.sentence}", role, wrap=True)
            self._contradictions.addWidget(words)
        for missing in page.missing:
            self._contradictions.addWidget(label(missing, "note-unsure", wrap=True))
        _clear(self._columns)
        halves = _in_two(page.groups)
        for half in halves:
            column = QVBoxLayout()
            column.setSpacing(6)
            for title, rows in half:
                column.addWidget(label(title, "heading"))
                column.addLayout(self._make_rows(rows, station))
                column.addWidget(rule())
            column.addStretch(1)
            self._columns.addLayout(column, 1)

    def _make_rows(self, rows: tuple[ClaimRow, ...], station: Station) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(3)
        grid.setColumnMinimumWidth(0, 150)
        grid.setColumnStretch(1, 1)
        line = 0
        for row in rows:
            title = label(row.title, row.role, wrap=True)
            title.setContentsMargins(0, 2, 0, 0)
            title.setToolTip(row.good_side)
            grid.addWidget(title, line, 0, Qt.AlignmentFlag.AlignTop)
            for said, source, claim in row.values:
                grid.addWidget(self._claim_button(said, source, claim, row), line, 1)
                if can_be_worked_with(claim, station):
                    words = f"Hold runs against {said}"
                    ask = button("Work with it", role="link", name=words)
                    ask.clicked.connect(lambda _=False, c=claim: self.work_with_asked.emit(c))
                    grid.addWidget(ask, line, 2)
                else:
                    shown = "tested" if row.tested else row.tested_by and "not tested"
                    grid.addWidget(label(shown, "muted"), line, 2)
                line += 1
        return grid

    def _claim_button(self, said: str, source: str, claim: StoredClaim, row: ClaimRow) -> QWidget:
        words = f"{said}  ·  {source}"
        made = ElidingButton(words, "claim", f"{row.title}: {said}, {source}")
        made.setToolTip(claim.text or claim.note or f"{row.title}: {said} ({source})")
        made.clicked.connect(lambda _=False: self.edit_asked.emit(claim))
        return made


def _in_two(
    groups: tuple[tuple[str, tuple[ClaimRow, ...]], ...],
) -> tuple[list[tuple[str, tuple[ClaimRow, ...]]], list[tuple[str, tuple[ClaimRow, ...]]]]:
    """Groups shared over two columns of about one length."""
    lengths = [1 + sum(len(row.values) for row in rows) for _, rows in groups]
    total, so_far, left = sum(lengths), 0, 0
    while left < len(groups) and so_far + lengths[left] / 2 < total / 2:
        so_far += lengths[left]
        left += 1
    return list(groups[:left]), list(groups[left:])


def _clear(layout: QVBoxLayout | QHBoxLayout | QGridLayout) -> None:
    while (item := layout.takeAt(0)) is not None:
        inner = item.layout()
        if inner is not None:
            _clear(inner)  # type: ignore[arg-type]
        if widget := item.widget():
            widget.deleteLater()
