"""The Claims view: the port panel, contradictions side by side, and every claim with its source."""

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QBoxLayout, QVBoxLayout, QWidget

from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.views.claims.model import (
    ClaimRow,
    ClaimsPage,
    can_be_worked_with,
    claims_page,
)
from yardtoll.desktop.views.claims.photo_row import PhotoRow
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.widgets.basics import button, label, scrolled
from yardtoll.desktop.widgets.kept_grid import TOP, Cell, KeptGrid
from yardtoll.desktop.widgets.port_panel import PortPanel
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import Station, StoredClaim

_ABREAST_W = 560
"""Less room has what can be done below what is said, and all claims in one column."""


_BETWEEN_HALVES, _AREA_H = 36, 200


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
        self._top = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._subtitle = label("", "muted", wrap=True)
        self._top.addWidget(self._subtitle, 1)
        doings = WrappedRow(6)
        self._paste = button("Paste a text…", self.paste_asked.emit, "primary")
        self._add = button("Add a claim…", self.add_asked.emit)
        self._receive = button("As received…", self.receiving_asked.emit)
        self._photo = button("Add photos…", self.photos_asked.emit)
        self._add_station = button("Add a station…", self.add_station_asked.emit, "primary")
        for made in (self._paste, self._add, self._receive, self._photo, self._add_station):
            doings.addWidget(made)
        self._top.addLayout(doings)
        layout.addLayout(self._top)
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
        self._contradictions = KeptGrid(spacing=(0, 6))
        self._body.addWidget(self._contradictions)
        self._pack = label("", "muted", wrap=True)
        self._body.addWidget(self._pack)
        row = self._halves = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._columns = KeptGrid(spacing=(10, 3)), KeptGrid(spacing=(10, 3))
        for grid in self._columns:
            grid.grid.setColumnMinimumWidth(0, 150)
            grid.grid.setColumnStretch(1, 1)
            row.addWidget(grid, 1, TOP)
        self._body.addLayout(row)
        self._area = scrolled(body)
        layout.addWidget(self._area, 1)

    def fit(self) -> None:
        is_narrow = self.stack_below(_ABREAST_W, self._top, self._halves)
        self._area.setMinimumHeight(scaled(_AREA_H))
        self._halves.setSpacing(0 if is_narrow else _BETWEEN_HALVES)

    def refresh(self) -> None:
        self._fill_whole()

    def _fill(self) -> Iterator[None]:
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
        self.photos.show_photos(photos)
        yield
        yield from self._show(page, station)

    def _show_nothing(self) -> None:
        self.headline.setText("No station yet")
        self._subtitle.setText("Add the station whose claims are to be tested.")
        for widget in (self.ports, self._received, self._pack, self.photos):
            widget.setVisible(False)
        for grid in (self._contradictions, *self._columns):
            grid.show_cells(())

    def _show(self, page: ClaimsPage, station: Station) -> Iterator[None]:
        self.headline.setText(page.headline)
        self._subtitle.setText(page.subtitle)
        self.ports.setVisible(bool(page.ports))
        self.ports.show_groups(list(page.ports))
        yield
        self._received.setVisible(bool(page.receiving))
        self._received.setText(page.receiving)
        self._pack.setVisible(bool(page.pack))
        self._pack.setText(page.pack)
        self._contradictions.show_cells(_contradiction_cells(page))
        for column, half in zip(self._columns, _in_two(page.groups), strict=True):
            yield
            yield from column.showing(self._group_cells(half, station))

    def _group_cells(
        self, groups: list[tuple[str, tuple[ClaimRow, ...]]], station: Station
    ) -> Iterator[Cell]:
        """A heading, its claims and a line below, group after group."""
        line = 0
        for title, rows in groups:
            yield Cell(row=line, column=0, columns=3, text=title, role="heading")
            line += 1
            for row in rows:
                yield Cell(
                    row=line, column=0, text=row.title, role=row.role, wrap=True,
                    tip=row.good_side,
                )  # fmt: skip
                for value in row.values:
                    yield from self._claim_cells(line, row, value, station)
                    line += 1
            yield Cell(row=line, column=0, columns=3, text="", role="rule")
            line += 1

    def _claim_cells(
        self, line: int, row: ClaimRow, value: tuple[str, str, StoredClaim], station: Station
    ) -> Iterator[Cell]:
        """What a claim says, and whether runs are compared with it."""
        said, source, claim = value
        yield Cell(
            row=line, column=1, text=f"{said}  ·  {source}", role="claim", eliding=True,
            name=f"{row.title}: {said}, {source}",
            tip=claim.text or claim.note or f"{row.title}: {said} ({source})",
            pressed=partial(self.edit_asked.emit, claim),
        )  # fmt: skip
        if can_be_worked_with(claim, station):
            yield Cell(
                row=line, column=2, text="Work with it", role="link",
                name=f"Hold runs against {said}",
                pressed=partial(self.work_with_asked.emit, claim),
            )  # fmt: skip
        else:
            shown = "tested" if row.tested else "not tested" if row.tested_by else ""
            yield Cell(row=line, column=2, text=shown, role="muted")


def _contradiction_cells(page: ClaimsPage) -> list[Cell]:
    """What the claims disagree on, and what they leave out."""
    lines = [
        (f"{found.title}: {found.sentence}", "bad" if found.binding is not None else "unsure")
        for found in page.contradictions
    ]
    lines += [(missing, "unsure") for missing in page.missing]
    return [
        Cell(row=row, column=0, text=text, role=f"note-{tone}", wrap=True)
        for row, (text, tone) in enumerate(lines)
    ]


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
