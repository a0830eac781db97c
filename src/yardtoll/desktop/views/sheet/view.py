"""The Sheet view: what will be published on the right, the reviewer's own words on the left."""

import time
from collections.abc import Generator, Iterator, Mapping
from dataclasses import KW_ONLY, dataclass, replace
from functools import partial

from PySide6.QtCore import QEvent, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import QHideEvent, QImage, QTextDocument
from PySide6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QBoxLayout,
    QPlainTextEdit,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from yardtoll.core.conformance.scorecard import summed
from yardtoll.core.formatting import counted
from yardtoll.core.uncertainty.figure import by_key
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.theme.tokens import MARGIN
from yardtoll.desktop.turns import Turns
from yardtoll.desktop.views.sheet.scorecard_panel import ScorecardPanel
from yardtoll.desktop.views.stop_view import WORKING, StopView
from yardtoll.desktop.widgets.basics import button, label
from yardtoll.desktop.widgets.chart_image import chart_image
from yardtoll.desktop.widgets.wrapped_row import WrappedRow
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.report.charts.axes import WIDTH
from yardtoll.report.charts.sheet_charts import charts_of
from yardtoll.report.sheet.contents import Sheet
from yardtoll.report.sheet.render import preview_html, sheet_markdown, sheet_text
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.scoring import scored
from yardtoll.review.sheet.build import build_sheet
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Review, Station
from yardtoll.store.yard_file import YardFile

_PAUSE_MS = 700
_LEFT_W, _NARROW_LEFT_W, _NARROW = 340, 260, 1000
_CHART_W = 460
_PAGE_PX, _AROUND_PAGE = 14, 24
_FIELDS = (
    ("summary", "In your own words", "What it is like to live with."),
    ("pros", "For it, one a line", "Quiet under load"),
    ("cons", "Against it, one a line", "No solar adapter in the box"),
)


_FEWEST_LINES, _MOST_LINES = 3, 9
_AROUND_TEXT = 22
_ABREAST_W, _PREVIEW_H, _ANY_WIDTH = 600, 340, 16_000
"""Less room has the page below the reviewer's words, so high at least."""
_STEP_S = 0.008
"""So long the page is laid out in one turn."""


class SheetView(StopView):
    """The report as it will be published.

    Signals:
        html_asked, pdf_asked, charts_asked, results_asked: write a file.
        seen_asked(quantity, question): note what was seen.
        point_asked(point): edit a point of the scorecard, None for a new one.
        templates_asked(menu): fill the menu of scorecards that are kept under a name.
    """

    html_asked = Signal()
    pdf_asked = Signal()
    charts_asked = Signal()
    results_asked = Signal()
    seen_asked = Signal(str, str)
    point_asked = Signal(object)
    templates_asked = Signal(object)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(bench, parent)
        self.sheet: Sheet | None = None
        self._station_id: int | None = None
        self._job = 0
        self._turns = Turns(self)
        self._images: dict[tuple[str, float], QImage] = {}
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_PAUSE_MS)
        self._pause.timeout.connect(self.keep_words)
        self._document: QTextDocument | None = None
        self._set_for = 0
        self._set_again = QTimer(self)
        self._set_again.setSingleShot(True)
        self._set_again.setInterval(_PAUSE_MS // 2)
        self._set_again.timeout.connect(self.refresh)

    def _build(self) -> Iterator[None]:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(MARGIN, 20, MARGIN, 16)
        layout.setSpacing(10)
        self.headline = label("", "title", wrap=True)
        layout.addWidget(self.headline)
        layout.addLayout(self._make_doing())
        body = self._body = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        body.setSpacing(22)
        body.addWidget(self._make_left())
        yield
        self.preview = _Page()
        self.preview.setOpenLinks(False)
        self.preview.anchorClicked.connect(self._open_budget)
        self.preview.setAccessibleName("The sheet as it will be published")
        self.preview.setProperty("role", "page")
        self.preview.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body.addWidget(self.preview, 1)
        layout.addLayout(body, 1)
        theme.changed.connect(self._touch_soon)

    def _touch_soon(self) -> None:
        """In a turn of its own: a change of colours is long enough."""
        QTimer.singleShot(0, self, self._touch)

    # building

    def _make_doing(self) -> WrappedRow:
        row = WrappedRow(6)
        self.copying = (
            button("Copy as text", self._copy_text),
            button("Copy as Markdown", self._copy_markdown),
        )
        self.doing = (
            button("PDF…", self.pdf_asked.emit, "primary", "Save the sheet as PDF"),
            button("HTML…", self.html_asked.emit, name="Save the sheet as HTML"),
            button("Charts…", self.charts_asked.emit, name="Save the charts as pictures"),
            button("Results…", self.results_asked.emit, name="Save the results as JSON"),
        )
        row.addWidget(label("Publish", "muted"))
        for made in (*self.doing, *self.copying):
            row.addWidget(made)
        return row

    def _make_left(self) -> QWidget:
        left = self._left = QWidget()
        layout = QVBoxLayout(left)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        tabs = WrappedRow(18)
        self._words_tab = button("Your words", lambda: self.choose_page(scores=False), "tab")
        self.score_tab = button("Scorecard", lambda: self.choose_page(scores=True), "tab")
        for tab in (self._words_tab, self.score_tab):
            tab.setCheckable(True)
            tabs.addWidget(tab)
        layout.addLayout(tabs)
        self.words_page = QWidget()
        words = QVBoxLayout(self.words_page)
        words.setContentsMargins(0, 0, 0, 0)
        words.setSpacing(4)
        self.fields: dict[str, QPlainTextEdit] = {}
        for key, title, hint in _FIELDS:
            field = QPlainTextEdit()
            field.setPlaceholderText(hint)
            field.setAccessibleName(title)
            field.setTabChangesFocus(True)
            field.textChanged.connect(self._pause.start)
            self.fields[key] = field
            words.addWidget(label(title, "muted"))
            words.addWidget(field)
            field.textChanged.connect(partial(_grow, field))
            _grow(field)
        words.addStretch(1)
        self.scorecard = ScorecardPanel()
        self.scorecards: object = None
        self.scorecard.seen_asked.connect(self.seen_asked)
        self.scorecard.templates_asked.connect(self.templates_asked)
        self.scorecard.edit_asked.connect(self.point_asked)
        self.scorecard.add_asked.connect(lambda: self.point_asked.emit(None))
        layout.addWidget(self.words_page, 1)
        layout.addWidget(self.scorecard, 1)
        self.choose_page(scores=False)
        return left

    def choose_page(self, *, scores: bool) -> None:
        """Show the reviewer's words, or the scorecard."""
        self.words_page.setVisible(not scores)
        self.scorecard.setVisible(scores)
        self._words_tab.setChecked(not scores)
        self.score_tab.setChecked(scores)

    # the reviewer's words

    def keep_words(self) -> None:
        """Keep what was typed; undo takes it back."""
        self._pause.stop()
        session = self.bench.session
        if self._station_id is None or session.yard.read_only:
            return
        before = session.yard.review(self._station_id)
        after = replace(
            before,
            summary=self.fields["summary"].toPlainText(),
            pros=self.fields["pros"].toPlainText(),
            cons=self.fields["cons"].toPlainText(),
        )
        if after == before:
            return
        station = session.yard.get(Station, self._station_id)
        if before.id is None:
            session.add(after, f"Write of {station.name}")
        else:
            session.edit(after, f"Write of {station.name}")

    def fit(self) -> None:
        is_below = self.stack_below(_ABREAST_W, self._body)
        width = _LEFT_W if self.width() >= _NARROW else _NARROW_LEFT_W
        self._left.setMinimumWidth(0 if is_below else width)
        self._left.setMaximumWidth(_ANY_WIDTH if is_below else width)
        self.preview.setMinimumHeight(scaled(_PREVIEW_H) if is_below else 0)
        self._set_again_if_resized()

    def _set_again_if_resized(self) -> None:
        if self.sheet is not None and self._chart_width != self._set_for:
            self._set_again.start()

    @property
    def _chart_width(self) -> int:
        """Of a picture in the page, which does not scroll sideways."""
        return min(scaled(_CHART_W), max(self.preview.viewport().width() - _AROUND_PAGE, 100))

    def hideEvent(self, event: QHideEvent) -> None:
        self.keep_words()
        super().hideEvent(event)

    def _show_words(self, review: Review) -> None:
        for key, field in self.fields.items():
            text = str(getattr(review, key))
            if field.toPlainText() != text and not self._pause.isActive():
                field.blockSignals(True)
                field.setPlainText(text)
                field.blockSignals(False)

    # showing

    def refresh(self) -> None:
        session = self.bench.session
        station = session.station
        self._turns.drop()
        # Words belong to the station they were typed for, which may not be the chosen one.
        elsewhere = station is None or station.id != self._station_id
        if elsewhere and self._pause.isActive():
            self.keep_words()
        self._station_id = station.id if station else None
        for widget in (*self.doing, *self.fields.values(), self.scorecard):
            widget.setEnabled(station is not None)
        for field in self.fields.values():
            field.setReadOnly(session.yard.read_only)
        if elsewhere:
            self._show_no_sheet("Setting the page…")
        if station is None or station.id is None:
            self.headline.setText("No station to write of yet")
            self.preview.setPlainText("Add a station, test it, and its sheet appears here.")
            return
        self._show_words(session.yard.review(station.id))
        analyses = self.bench.analyses.complete_of(session.station_runs())
        if analyses is None:
            if self.sheet is None:
                self._show_no_sheet(WORKING)
            return
        points = session.yard.score_points()
        found = station_runs(analyses)
        seen = session.yard.observations(station.id)
        got = scored(points, found, session.yard.receiving(station.id), seen)
        have, of = summed(got)
        words = f"{have:g} of {of:g} points with evidence" if of else "nothing scored yet"
        self.scorecard.show_points(points, got, words)
        self.bench.jobs.cancel(self._job)
        self._set_for = self._chart_width
        self._job = self.bench.jobs.start(
            "Setting the sheet",
            _SetSheet(
                session.yard,
                station,
                tuple(analyses),
                muted=theme.tokens.muted,
                chart_width=self._set_for,
                ratio=max(self.devicePixelRatioF(), 1.0),
                known=self._images,
            ),
            self._show_sheet,
            self._failed,
        )

    def _show_no_sheet(self, headline: str) -> None:
        """None of another station, and none of a part of the runs: it could be copied."""
        self.bench.jobs.cancel(self._job)
        self.sheet = None
        self.headline.setText(headline)
        self.preview.setPlainText("")
        self.scorecard.show_points([], [], headline)
        for made in self.copying:
            made.setEnabled(False)

    def _show_sheet(self, found: "_SetPage") -> None:
        self.sheet = found.sheet
        for made in self.copying:
            made.setEnabled(True)
        self.headline.setText(_headline(found.sheet))
        self._turns.begin(self._laid_out(found))
        self._set_again_if_resized()

    @property
    def is_setting(self) -> bool:
        """Whether a page is on its way to the preview."""
        return self._turns.is_under_way or self.bench.jobs.is_waiting(self._job)

    def _laid_out(self, found: "_SetPage") -> Generator[None]:
        """Lay the page out before it is shown: the preview then has little left to do."""
        document = QTextDocument(self.preview)
        try:
            yield from self._filled(document, found)
        except GeneratorExit:
            if isValid(document):
                document.deleteLater()
            raise
        where = self.preview.verticalScrollBar().value()
        self.preview.setDocument(document)
        # The preview drops the document it came with, not those it was given.
        if self._document is not None:
            self._document.deleteLater()
        self._document = document
        self.preview.verticalScrollBar().setValue(where)

    def _filled(self, document: QTextDocument, found: "_SetPage") -> Iterator[None]:
        document.setDefaultStyleSheet(_style())
        self._images = {(svg, found.scale): image for svg, image in found.images.values()}
        for key, (_, image) in found.images.items():
            document.addResource(
                int(QTextDocument.ResourceType.ImageResource), QUrl(f"chart:{key}"), image
            )
        document.setHtml(found.html)
        yield
        document.setTextWidth(self.preview.viewport().width())
        begun, block = time.perf_counter(), document.begin()
        while block.isValid():
            # Asking where a block is lays out all down to its end.
            document.documentLayout().blockBoundingRect(block)
            block = block.next()
            if time.perf_counter() - begun > _STEP_S:
                yield
                begun = time.perf_counter()
        yield

    def _open_budget(self, url: QUrl) -> None:
        """Where the ± of a figure on the page comes from."""
        key = url.toString().removeprefix("budget:")
        behind = self.sheet.behind(key) if self.sheet is not None else None
        if behind is not None:
            BudgetDialog(*behind, parent=self).exec()

    def _failed(self, error: Exception) -> None:
        self.bench.trouble.emit(f"The sheet could not be set: {error}")

    def _copy_text(self) -> None:
        if self.sheet is not None:
            QApplication.clipboard().setText(sheet_text(self.sheet))

    def _copy_markdown(self) -> None:
        if self.sheet is not None:
            QApplication.clipboard().setText(sheet_markdown(self.sheet))


class _Page(QTextBrowser):
    """A page that does not take the font of what is around it: it is set anew where that changes.

    A change of colours gives every widget another font and the old one back, and twice a long page
    would be laid out for nothing.
    """

    def changeEvent(self, event: QEvent) -> None:
        if event.type() is QEvent.Type.FontChange:
            QAbstractScrollArea.changeEvent(self, event)
        else:
            super().changeEvent(event)


def _headline(sheet: Sheet) -> str:
    """The sheet's headline."""
    usable = by_key(sheet.facts).get("usable_ratio")
    parts = [f"{usable.figure} of rated delivered"] if usable else []
    for standing, words in (
        ("meets", "met"),
        ("falls_short", "not met"),
        ("too_close_to_call", "too close to call"),
    ):
        if count := sum(claim.standing == standing for claim in sheet.claims):
            parts.append(
                f"{counted(count, 'claim')} {words}" if words == "met" else f"{count} {words}"
            )
    return ", ".join(parts) or f"Nothing to publish of {sheet.station} yet"


def _style() -> str:
    """Of the page, in the size of text that is preferred; of headings Qt has sizes of its own."""
    return (
        "h1, h2 { font-weight: 600; } "
        f"p, td, li {{ font-size: {scaled(_PAGE_PX)}px; }} .strong {{ font-weight: 600; }} "
        "a { text-decoration: none; }"
    )


@dataclass(frozen=True)
class _SetPage:
    """A sheet, its page, and its charts: SVG and picture by name.

    Attributes:
        scale: of the pictures, by the size of text and by the screen.
    """

    sheet: Sheet
    html: str
    images: dict[str, tuple[str, QImage]]
    scale: float


@dataclass(frozen=True)
class _SetSheet:
    """A job's frozen input: everything but showing it is done on a worker.

    Attributes:
        chart_width: of a picture, in pixels of the window.
        ratio: of the screen's pixels to those.
        known: pictures that were drawn already. Words change more often than runs do.
    """

    yard: YardFile
    station: Station
    analyses: tuple[RunAnalysis, ...]
    _: KW_ONLY
    muted: str
    chart_width: int
    ratio: float
    known: Mapping[tuple[str, float], QImage]

    def __call__(self, handle: JobHandle) -> _SetPage:
        handle.progress(f"The sheet of {self.station.name}")
        sheet = build_sheet(self.yard, self.station, list(self.analyses))
        images, scale = {}, self.chart_width / WIDTH * self.ratio
        for key, svg in charts_of(sheet).items():
            handle.progress(f"The charts of {self.station.name}")
            image = self.known.get((svg, scale))
            if image is None:
                image = chart_image(svg, scale)
                image.setDevicePixelRatio(self.ratio)
            images[key] = (svg, image)
        html = preview_html(sheet, list(images), muted=self.muted, chart_width=self.chart_width)
        return _SetPage(sheet, html, images, scale)


def _grow(field: QPlainTextEdit) -> None:
    """As high as its text, between a few lines and many."""
    lines = min(max(round(field.document().size().height()) + 1, _FEWEST_LINES), _MOST_LINES)
    field.setFixedHeight(lines * field.fontMetrics().lineSpacing() + _AROUND_TEXT)
