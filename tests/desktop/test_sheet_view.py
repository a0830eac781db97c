"""The Sheet stop: words kept and undone, the scorecard, files written, packages out and in."""

import pytest
from conftest_helpers import in_dialog, worked_out
from PySide6.QtCore import QUrl
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QPushButton

from yardtoll.desktop.actions.saving import (
    ask_export_yard,
    ask_import_package,
    ask_save_charts,
    ask_save_html,
    ask_save_pdf,
    ask_save_results,
    plain_name,
)
from yardtoll.desktop.dialogs.budget import BudgetDialog
from yardtoll.desktop.dialogs.observation import ObservationDialog
from yardtoll.desktop.dialogs.score_point import ScorePointDialog
from yardtoll.desktop.theme.fonts import FAMILY
from yardtoll.desktop.views.stop import SHEET, YARD
from yardtoll.desktop.widgets.chart_image import chart_image
from yardtoll.report.charts.scene import Scene, Words
from yardtoll.report.charts.svg import FAMILIES, to_svg


@pytest.fixture
def view(qtbot, demo):
    demo.bench.session.choose_station(1)
    demo.go_to(SHEET)
    made = demo.stack.current_view()
    qtbot.waitUntil(lambda: made.sheet is not None and not made.is_setting, timeout=30_000)
    return made


def settled(qtbot, demo, view, holds):
    qtbot.waitUntil(
        lambda: holds(view) and not demo.jobs.busy and not view.is_setting, timeout=30_000
    )


def test_the_sheet_stands_as_it_will_be_published(view):
    assert view.headline.text() == (
        "91.1 ± 1.2 % of rated delivered, 11 claims met, 2 not met, 1 too close to call"
    )
    shown = view.preview.toPlainText()
    for words in ("Fennel 2k", "falls short", "Scorecard: 7 of 7 points", "Rule"):
        assert words in shown


def test_figures_on_the_page_open_their_budgets(view):
    said = []

    def read(dialog):
        said.extend(label.text() for label in dialog.findChildren(QLabel))
        dialog.accept()

    assert all(view.sheet.behind(key) for key in ("fact:0", "claim:0", "result:3"))
    assert 'href="budget:fact:1"' in view.preview.toHtml()
    in_dialog(read, BudgetDialog)
    view.preview.anchorClicked.emit(QUrl("budget:fact:1"))
    assert said[0] == "Of rated: 91.1 ± 1.2 %" and "Run to run" in said
    view.preview.anchorClicked.emit(QUrl("budget:fact:99"))  # nothing there, nothing opens


def test_words_are_kept_in_a_moment_shown_and_undone(qtbot, demo, view):
    QTest.keyClicks(view.fields["pros"], "Quiet")
    settled(qtbot, demo, view, lambda v: v.sheet.pros == ("Quiet",))
    assert demo.bench.session.yard.review(1).pros == "Quiet"
    assert "Quiet" in view.preview.toPlainText()
    demo.undo()
    settled(qtbot, demo, view, lambda v: v.sheet.pros == ())
    assert view.fields["pros"].toPlainText() == ""


def test_words_stay_with_the_station_they_were_typed_for(qtbot, demo, view):
    QTest.keyClicks(view.fields["summary"], "Of the first")
    demo.bench.session.choose_station(2)  # at once, before the pause is over
    yard = demo.bench.session.yard
    assert yard.review(1).summary == "Of the first" and yard.review(2).summary == ""
    assert view.fields["summary"].toPlainText() == ""
    QTest.keyClicks(view.fields["cons"], "Of the second")
    demo.go_to(YARD)  # leaving keeps too
    assert yard.review(2).cons == "Of the second"


def test_the_scorecard_is_scored_by_eye_and_edited(qtbot, demo, view):
    view.score_tab.click()
    assert view.scorecard.isVisibleTo(demo) and not view.words_page.isVisibleTo(demo)

    def seen(dialog):
        QTest.keyClicks(dialog.words, "ran a lamp on it")
        dialog.accept_button.click()

    def pressed(text):
        buttons = view.scorecard.findChildren(QPushButton)
        next(b for b in buttons if b.accessibleName().startswith(text)).click()

    in_dialog(seen, ObservationDialog)
    pressed("Note what was seen: The display tells")
    settled(qtbot, demo, view, lambda v: v.sheet.score_words.startswith("8 of 8"))
    assert any("ran a lamp on it" in s.evidence for s in view.sheet.scoring)

    def point(dialog):
        QTest.keyClicks(dialog.title, "Very cheap")
        dialog.quantity.setCurrentIndex(dialog.quantity.findData("price_per_wh"))
        dialog.limit.setValue(0.5)
        dialog.half.setValue(0.6)
        dialog.points.setValue(2)
        dialog.accept_button.click()

    in_dialog(point, ScorePointDialog)
    pressed("Add a point")
    settled(qtbot, demo, view, lambda v: v.sheet.score_words.startswith("9 of 10"))

    def gone(dialog):
        assert dialog.record().half_limit == pytest.approx(0.6)
        dialog.remove_button()

    in_dialog(gone, ScorePointDialog)
    pressed("Edit the point Very cheap")
    settled(qtbot, demo, view, lambda v: v.sheet.score_words.startswith("8 of 8"))


def sensitivities(monkeypatch, name, *paths):
    given = iter(paths)
    monkeypatch.setattr(
        QFileDialog, name, staticmethod(lambda *_, **__: (str(next(given)), "") if "File" in name
                                        else str(next(given)))
    )  # fmt: skip


def test_everything_to_publish_is_written(qtbot, demo, view, monkeypatch, tmp_path):
    html, pdf = tmp_path / "f.html", tmp_path / "f"
    sensitivities(monkeypatch, "getSaveFileName", html, pdf)
    ask_save_html(demo)
    qtbot.waitUntil(lambda: html.exists() and not demo.jobs.busy, timeout=30_000)
    assert "Fennel 2k" in html.read_text("utf-8")
    ask_save_pdf(demo)
    qtbot.waitUntil(lambda: (tmp_path / "f.pdf").exists() and not demo.jobs.busy, timeout=60_000)
    assert demo.notice.text == "f.pdf is written."
    charts = tmp_path / "charts"
    charts.mkdir()
    sensitivities(monkeypatch, "getExistingDirectory", charts, charts)
    ask_save_charts(demo)
    qtbot.waitUntil(lambda: "pictures written" in demo.notice.text, timeout=60_000)
    image = QImage(str(charts / "fennel-2k-ledger.png"))
    assert image.width() == 3 * 420 and (charts / "fennel-2k-run-5.svg").exists()
    colours = {image.pixelColor(x, 400).name() for x in range(0, image.width(), 9)}
    assert "#15b873" in colours  # the delivered energy is on it
    ask_save_results(demo)
    qtbot.waitUntil(lambda: "its schema" in demo.notice.text, timeout=60_000)
    assert (charts / "results.json").exists() and (charts / "results.schema.json").exists()
    view.copying[0].click()
    assert QApplication.clipboard().text().startswith("Fennel 2k: 91.1")
    view.copying[1].click()
    assert QApplication.clipboard().text().startswith("# Fennel 2k")


def test_pictures_are_set_in_the_programs_own_face(demo):
    words = Words(x=8, y=18, text="Battery nearly full 32 %", colour="#000000")
    made = to_svg(Scene(width=420, height=30, items=(words,)))
    own, other = (made.replace(FAMILIES, name) for name in (FAMILY, "no such face"))
    assert chart_image(made, 2) == chart_image(own, 2) != chart_image(other, 2)


def test_what_cannot_be_written_is_said(qtbot, demo, view, monkeypatch, tmp_path):
    sensitivities(monkeypatch, "getSaveFileName", tmp_path / "no" / "f.html")
    ask_save_html(demo)
    qtbot.waitUntil(lambda: "could not be written" in demo.notice.text, timeout=30_000)
    sensitivities(monkeypatch, "getExistingDirectory", tmp_path)
    ask_export_yard(demo)  # the yard itself is in it
    qtbot.waitUntil(lambda: "is not empty" in demo.notice.text, timeout=30_000)


def test_a_yard_goes_out_and_comes_in_again(qtbot, demo, view, monkeypatch, tmp_path):
    folder, path = tmp_path / "package", tmp_path / "again"
    sensitivities(monkeypatch, "getExistingDirectory", folder)
    ask_export_yard(demo)
    qtbot.waitUntil(
        lambda: (folder / "results.json").exists() and not demo.jobs.busy, timeout=60_000
    )
    sensitivities(monkeypatch, "getOpenFileName", folder / "datapackage.json")
    sensitivities(monkeypatch, "getSaveFileName", path)
    before = view.sheet.finding
    ask_import_package(demo)
    qtbot.waitUntil(
        lambda: demo.bench is not None and demo.bench.session.path.name == "again.yard",
        timeout=60_000,
    )
    worked_out(qtbot, demo)
    demo.bench.session.choose_station(1)
    demo.go_to(SHEET)
    again = demo.stack.current_view()
    qtbot.waitUntil(
        lambda: again.sheet is not None and again.sheet.finding == before, timeout=30_000
    )


@pytest.mark.parametrize(
    ("name", "plain"), [("Fennel 2k", "fennel-2k"), ("../../x", "x"), ("???", "station")]
)
def test_names_of_files(name, plain):
    assert plain_name(name) == plain
