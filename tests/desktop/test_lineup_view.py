"""The stop Line-up: stations side by side, other yards, prices, classes, what is published."""

import shutil
import subprocess
from dataclasses import replace

import pytest
from conftest_helpers import FENNEL, SORREL, TANSY, drop, in_dialog, opened_by
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from yardtoll.desktop.actions.comparing import publish, write_comparison
from yardtoll.desktop.actions.records import add_configuration
from yardtoll.desktop.actions.scorecards import Scorecards
from yardtoll.desktop.dialogs.comparing import ClassesDialog, PricesDialog
from yardtoll.desktop.dialogs.records import ConfigurationDialog
from yardtoll.desktop.views.lineup.view import LineupView
from yardtoll.desktop.views.stop import LEDGER, LINEUP, PLAN
from yardtoll.review.lineup.lining import LeftOut
from yardtoll.review.lineup.publishing import rows_shown, with_figures
from yardtoll.store.records import Station
from yardtoll.store.score_templates import read_template, write_template
from yardtoll.store.station_library import LibraryError


@pytest.fixture
def lineup(qtbot, demo) -> LineupView:
    demo.go_to(LINEUP)
    view = demo.stack.current_view()
    settle(qtbot, view)
    return view


def settle(qtbot, view):
    qtbot.waitUntil(
        lambda: view.answering.is_settled and view.search.is_settled and not view.bench.jobs.busy,
        timeout=60_000,
    )


def choose(view, name):
    view.rails.choose([row.name for row in view.rails.rows].index(name))


def test_the_best_is_named_and_every_row_opens_its_run(demo, lineup):
    assert lineup.headline.text() == "Delivered of rated at 0.2 C: Fennel 2k is first, 91.1 ± 1.2 %"
    assert [row.name for row in lineup.rails.rows] == ["Fennel 2k", "Tansy 1200", "Sorrel 300"]
    QTest.keyClick(lineup.rails, Qt.Key.Key_Down)
    assert "Tansy 1200, delivered of rated: 85.0 ± 1.1 %" in lineup.words.text()
    assert "second of 2" in lineup.words.text()
    said = opened_by(lineup.budget_button.click)
    assert any("85.0" in text for text in said)
    assert any("delivered ÷ rated energy" in text for text in said)
    assert lineup.budget_button.text() == "Where the ± comes from"
    lineup.copy_button.click()
    assert QApplication.clipboard().text().startswith("Tansy 1200, delivered of rated")
    lineup.open_button.click()
    assert demo.rail.current == LEDGER and demo.bench.session.station.id == TANSY


def test_why_not_stands_in_place_and_leads_to_the_plan(qtbot, demo, lineup):
    lineup.choose_quantity("idle_w")
    choose(lineup, "Sorrel 300")
    assert isinstance(lineup.chosen, LeftOut)
    assert "not compared, no idle test with the AC outlet on" in lineup.words.text()
    assert not lineup.open_button.isVisible() and lineup.plan_button.isVisible()
    lineup.plan_button.click()
    assert demo.rail.current == PLAN and demo.bench.session.station.id == SORREL
    plan = demo.stack.current_view()
    assert plan.choices().method.key == "idle_ac"


def test_another_load_is_asked_and_planned_at_its_watts(qtbot, demo, lineup):
    lineup.choices.load.setCurrentIndex(lineup.choices.load.findText("400 W"))
    lineup.choices.load.activated.emit(5)
    settle(qtbot, lineup)
    assert [row.name for row in lineup.rails.rows][:2] == ["Fennel 2k", "Tansy 1200"]
    choose(lineup, "Sorrel 300")
    assert "another load" in lineup.words.text()
    lineup.plan_button.click()
    plan = demo.stack.current_view()
    assert plan.choices().asked_w == pytest.approx(400)


def test_who_takes_part_is_ticked(qtbot, lineup):
    lineup.who.item(0).setCheckState(Qt.CheckState.Unchecked)
    settle(qtbot, lineup)
    assert "Tansy 1200 is first" in lineup.headline.text()
    lineup.choose_page(1)
    assert lineup.table.columnCount() == 3 and not lineup.words.isVisible()
    lineup.who.item(0).setCheckState(Qt.CheckState.Checked)
    settle(qtbot, lineup)
    assert lineup.table.columnCount() == 4
    assert lineup.table.item(0, 1).text() == "91.1 ± 1.2 %  1st"


def test_another_yard_is_only_looked_into(qtbot, demo, lineup, tmp_path):
    other = tmp_path / "other.yard"
    demo.bench.session.yard.stay_whole()
    shutil.copy(demo.bench.session.path, other)
    before = other.read_bytes()
    drop(demo, other)
    settle(qtbot, lineup)
    assert len(lineup.entrants) == 6 and other.read_bytes() == before
    assert "Fennel 2k (other)" in [row.name for row in lineup.rails.rows]
    # The same run by the same words of another bench: the figures tie.
    assert "tie" in lineup.headline.text() or "share the first place" in lineup.headline.text()
    choose(lineup, "Fennel 2k (other)")
    assert not lineup.open_button.isVisible() and not lineup.plan_button.isVisible()
    bad = tmp_path / "bad.yard"
    bad.write_text("nothing")
    lineup.add_yard(bad)
    settle(qtbot, lineup)
    assert "bad.yard" in demo.notice.text and len(lineup.entrants) == 6
    lineup.add_yard(demo.bench.session.path)
    assert demo.notice.text == "This yard takes part already."


def test_a_coupon_is_noted_and_its_verdicts_told(qtbot, demo, lineup):
    demo.bench.session.choose_station(FENNEL)

    def price(dialog):
        dialog.accept_button.click()
        assert "above 0" in dialog.wrong_label.text()
        dialog.kind.setCurrentIndex(dialog.kind.findData("coupon"))
        dialog.amount.setValue(899)
        dialog.day.setText("soon")
        dialog.accept_button.click()
        assert "written like" in dialog.wrong_label.text()
        dialog.day.setText("2026-11-27")
        dialog.accept_button.click()

    in_dialog(price, PricesDialog)
    lineup.prices_button.click()
    settle(qtbot, lineup)
    lineup.choose_quantity("price_per_rated_wh")
    lineup.choices.price.setCurrentIndex(lineup.choices.price.findData("coupon"))
    lineup.choices.price.activated.emit(0)
    settle(qtbot, lineup)
    assert lineup.headline.text() == "Price per rated Wh: Fennel 2k alone, 0.439 USD/Wh"
    assert "899 USD with a coupon, 2026-11-27" in lineup.words.text()

    def remove(dialog):
        dialog.which.setCurrentIndex(1)
        assert dialog.amount.value() == 899
        dialog.remove_button()

    in_dialog(remove, PricesDialog)
    lineup.prices_button.click()
    settle(qtbot, lineup)
    assert demo.bench.session.yard.prices(FENNEL) == []
    demo.undo()
    assert len(demo.bench.session.yard.prices(FENNEL)) == 1


def test_classes_are_edited_as_lines(qtbot, demo, lineup):
    def edit(dialog):
        dialog.lines.setPlainText("Small: 100 to 300\nToo: 200 to 400 Wh")
        dialog.accept_button.click()
        assert dialog.wrong_label.text() == "Small and Too overlap."
        dialog.lines.setPlainText("nonsense")
        dialog.accept_button.click()
        assert "should look like" in dialog.wrong_label.text()
        dialog.lines.setPlainText("Bench: 100 to 5000 Wh")
        dialog.accept_button.click()

    in_dialog(edit, ClassesDialog)
    lineup.classes_button.click()
    settle(qtbot, lineup)
    assert "Among bench ones first of 3" in lineup.words.text()
    demo.undo()
    settle(qtbot, lineup)
    assert demo.bench.session.yard.size_classes() == []


@pytest.mark.parametrize("suffix", [".html", ".csv", ".md", ".txt", ".svg", ".png", ".pdf"])
def test_the_comparison_is_written_whole(lineup, tmp_path, suffix):
    made = write_comparison(lineup.answered, tmp_path / f"side by side{suffix}")
    assert all(path.stat().st_size > 300 for path in made)
    if suffix in (".svg", ".png"):
        assert len(made) > 8 and made[0].name == f"side by side-usable_ratio{suffix}"
    if suffix == ".png":
        assert made[0].read_bytes().startswith(b"\x89PNG")
    if suffix == ".pdf":
        text = subprocess.run(
            ["pdftotext", str(made[0]), "-"], capture_output=True, text=True, check=True
        ).stdout
        told = [row for each in with_figures(lineup.answered) for row in rows_shown(each)]
        words = {word for row in told for cell in row for word in cell.split()}
        squeezed = "".join(text.split())
        assert len(words) > 40 and {word for word in words if word not in squeezed} == set()


def test_a_place_that_cannot_be_written_is_told(qtbot, demo, lineup, tmp_path):
    publish(demo, lineup.answered, tmp_path / "nowhere" / "x.html")
    settle(qtbot, lineup)
    assert "nowhere" in demo.notice.text or "No such" in demo.notice.text


def test_many_stations_with_long_names(qtbot, demo, lineup):
    session = demo.bench.session
    for number in range(15):
        session.add(
            Station(name=f"{'Very long name ' * 4}{number}", rated_wh=1000, rated_w=900), "Add"
        )
    lineup.refresh()
    settle(qtbot, lineup)
    assert len(lineup.taking_part) == 12 and "ticked" in lineup.note.text()
    QTest.mouseClick(lineup.rails, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert lineup.rails.chosen == 0
    QTest.mouseDClick(lineup.rails, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert demo.rail.current == LEDGER


def test_a_station_with_packs_is_one_of_its_own(qtbot, demo, lineup):
    session = demo.bench.session
    session.choose_station(FENNEL)
    claims = len(session.yard.claims(FENNEL))

    def fill(dialog):
        assert dialog.name.text() == "Fennel 2k + 1 pack" and "4096 Wh" in dialog.said.text()
        dialog.packs.setValue(0)
        dialog.accept_button.click()
        assert "is the station itself" in dialog.wrong_label.text()
        dialog.packs.setValue(2)
        dialog.accept_button.click()

    in_dialog(fill, ConfigurationDialog)
    add_configuration(demo, session)
    settle(qtbot, lineup)
    made = session.station
    assert (made.name, made.rated_wh, made.base_id) == ("Fennel 2k + 2 packs", 6144, FENNEL)
    assert made.packs_wh == (2048.0, 2048.0) and session.yard.runs(made.id) == []
    assert {c.kind for c in session.yard.claims(made.id)} >= {"rated_wh", "continuous_w"}
    assert len(session.yard.claims(FENNEL)) == claims
    names = [action.text() for action in demo.header.stations.menu().actions()]
    assert names[1].strip().startswith("Fennel 2k + 2 packs") and names[1].startswith("  ")
    lineup.side.family_button.click()
    settle(qtbot, lineup)
    assert {e.name for e in lineup.taking_part} == {"Fennel 2k", "Fennel 2k + 2 packs"}
    assert "adds 4096 Wh by the rating; tested: not yet" in lineup.words.text()
    demo.undo()
    assert all(s.base_id is None for s in session.yard.stations())


def test_a_scorecard_is_kept_used_given_away_and_compared(qtbot, demo, lineup, tmp_path):
    session = demo.bench.session
    cards = Scorecards(demo, session)
    first = cards.keep("House rules")
    assert first.title == "House rules, version 1" and cards.keep("house rules") == first
    point = session.yard.score_points()[7]
    session.edit(replace(point, limit=0.95), "Stricter")
    second = cards.keep("House rules")
    assert second.version == 2
    path = tmp_path / "card.json"
    write_template(second, path)
    cards.take_in(path)
    assert "is there already" in demo.notice.text
    path.write_text(path.read_text().replace("0.95", "0.5"))
    cards.take_in(path)
    assert "with other points" in demo.notice.text
    path.write_text(path.read_text().replace('"version": 2', '"version": 3'))
    cards.take_in(path)
    assert [t.version for t in session.yard.score_templates()] == [1, 2, 3]
    cards.use(first)
    assert session.yard.score_points()[7].limit == 0.85
    demo.undo()
    assert session.yard.score_points()[7].limit == 0.95
    lineup.choose_page(2)
    settle(qtbot, lineup)
    rows = {lineup.scores.item(r, 0).text(): lineup.scores.item(r, 1).text()
            for r in range(lineup.scores.rowCount())}  # fmt: skip
    assert rows["85 % of rated delivered"].startswith("0  ") and "not scored" in rows["Sum"]
    lineup.choices.template.setCurrentIndex(
        lineup.choices.template.findText("House rules, version 1")
    )
    lineup.choices.template.activated.emit(1)
    assert lineup.scores.item(7, 1).text().startswith("1  ")
    assert lineup.headline.text().endswith("Sorrel 300 0 of 2: not all scored on the same points")
    lineup.table.opened.emit(3)
    assert lineup.quantity == "idle_w" and lineup.pages.currentIndex() == 0


@pytest.mark.parametrize("text", ["", "[]", "{", '{"format":"yard-toll-scorecard"}', "\x00" * 50])
def test_what_is_no_scorecard_is_refused(tmp_path, text):
    path = tmp_path / "x.json"
    path.write_text(text)
    with pytest.raises(LibraryError, match="not a scorecard"):
        read_template(path)
    with pytest.raises(LibraryError):
        read_template(tmp_path / "none.json")


def test_stations_are_found_by_figures_and_put_side_by_side(qtbot, lineup):
    QTest.keyClicks(lineup.search, "usable > 85 %")
    settle(qtbot, lineup)
    shown = [lineup.who.item(i).text() for i in range(3) if not lineup.who.item(i).isHidden()]
    assert shown == ["Fennel 2k", "Tansy 1200 ?"] and lineup.note.text().startswith("2 found")
    QTest.keyClick(lineup.search, Qt.Key.Key_Return)
    settle(qtbot, lineup)
    assert [e.name for e in lineup.taking_part] == ["Fennel 2k", "Tansy 1200"]
    lineup.search.setText("beauty > 3")
    settle(qtbot, lineup)
    assert "should look like" in lineup.note.text()
    lineup.search.clear()
    settle(qtbot, lineup)
    assert not any(lineup.who.item(i).isHidden() for i in range(3))


def test_a_large_yard_is_shown_from_what_is_kept(qtbot, demo, monkeypatch):
    monkeypatch.setattr("yardtoll.desktop.views.lineup.view.MOST_LIVE_RUNS", 5)
    demo.go_to(LINEUP)
    view = demo.stack.current_view()
    qtbot.waitUntil(lambda: view.archive.is_settled and len(view.entrants) == 3, timeout=60_000)
    settle(qtbot, view)
    assert "Fennel 2k is first, 91.1 ± 1.2 %" in view.headline.text()
    assert all(not entrant.runs.analyses for entrant in view.entrants)
    session = demo.bench.session
    received = session.yard.receiving(FENNEL)
    session.edit(replace(received, price=2048.0), "Price")
    settle(qtbot, view)
    view.choose_quantity("price_per_rated_wh")
    qtbot.waitUntil(
        lambda: [r.figure for r in view.rails.rows if r.name == "Fennel 2k"] == ["1.000 USD/Wh"],
        timeout=60_000,
    )


def test_work_that_was_cancelled_is_asked_for_again(qtbot, demo, lineup):
    lineup.choices.load.setCurrentIndex(1)
    lineup.choices.load.activated.emit(1)
    demo.jobs.cancel()
    assert lineup.answering.is_settled and lineup.archive.is_settled
    lineup.choices.load.setCurrentIndex(2)
    lineup.choices.load.activated.emit(2)
    settle(qtbot, lineup)
    assert lineup.answered.asked.c_rate == 0.5
