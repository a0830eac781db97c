"""While a station's runs are being worked out nothing is said of it that may prove wrong."""

import threading

import pytest
from conftest_helpers import FENNEL, TANSY, at_rest, worked_out

from yardtoll.desktop.views.stop import (
    ENDURANCE,
    LEDGER,
    LINEUP,
    OUTPUTS,
    PLAN,
    RUN,
    SHEET,
    VERDICTS,
)
from yardtoll.desktop.views.stop_view import WORKING
from yardtoll.review import analysis
from yardtoll.running.plan import plan_for_load


@pytest.fixture
def held_up(qtbot, demo, monkeypatch):
    """The demo with all stops seen, and another station chosen whose results do not come yet."""
    for stop in (LEDGER, ENDURANCE, VERDICTS, LINEUP, PLAN, RUN, SHEET):
        demo.bench.session.choose_station(FENNEL)
        demo.go_to(stop)
        at_rest(qtbot, demo)
    may_go_on, analyse = threading.Event(), analysis.analyse_run

    def waiting(yard, run):
        may_go_on.wait(60)
        return analyse(yard, run)

    monkeypatch.setattr(analysis, "analyse_run", waiting)
    demo.bench.analyses._kept.clear()
    demo.bench.session.choose_station(TANSY)
    yield may_go_on
    may_go_on.set()
    worked_out(qtbot, demo)


def seen(demo, stop):
    demo.go_to(stop)
    return demo.stack.current_view()


def test_the_ledger_does_not_show_another_stations(qtbot, demo, held_up):
    view = seen(demo, LEDGER)
    assert view.headline.text() == WORKING and view.page is None
    for part in (view.toll_strip, view.evidence, view.facts, view.charts.power):
        assert not part.isVisible()
    assert view.void_button.isVisible()
    held_up.set()
    worked_out(qtbot, demo)
    at_rest(qtbot, demo)
    assert view.headline.text() != WORKING and view.toll_strip.isVisible()
    assert view.charts.power.isVisible() and view.charts.power.peak_w > 0


def test_verdicts_do_not_call_untested_what_was_tested(qtbot, demo, held_up):
    view = seen(demo, VERDICTS)
    assert view.headline.text() == WORKING and view.chosen is None and not view.sentence()
    view.choose_page(by_yardstick=True)
    assert view.headline.text() == WORKING and not view._reasons.isVisible()
    view.choose_page(by_yardstick=False)
    held_up.set()
    worked_out(qtbot, demo)
    assert "met" in view.headline.text() and view.page.rows


def test_no_sheet_of_a_part_of_the_runs_is_there_to_be_copied(qtbot, demo, held_up):
    view = seen(demo, SHEET)
    assert view.headline.text() == WORKING and view.sheet is None
    assert not view.preview.toPlainText() and not any(b.isEnabled() for b in view.copying)
    held_up.set()
    worked_out(qtbot, demo)
    qtbot.waitUntil(lambda: view.sheet is not None and not view.is_setting)
    assert "Tansy 1200" in view.preview.toPlainText() and all(b.isEnabled() for b in view.copying)


def test_endurance_does_not_show_how_long_another_lasts(qtbot, demo, held_up):
    view = seen(demo, ENDURANCE)
    assert view.headline.text() == WORKING and view.answer is None
    assert view.picture.isHidden() or view.picture.accessibleDescription() == ""
    held_up.set()
    worked_out(qtbot, demo)
    qtbot.waitUntil(lambda: view.headline.text() != WORKING)


def test_a_plan_says_what_its_forecast_rests_on(qtbot, demo, held_up):
    view = seen(demo, PLAN)
    assert "typical losses until the earlier runs are worked out" in view._basis.text()
    held_up.set()
    worked_out(qtbot, demo)
    qtbot.waitUntil(lambda: "earlier runs of this station" in view._basis.text())


def test_a_run_begun_meanwhile_is_predicted_from_the_earlier_ones_later(qtbot, demo, held_up):
    yard = demo.bench.session.yard
    station = next(s for s in yard.stations() if s.id == TANSY)
    meter = next(m for m in yard.meters() if m.is_simulated)
    assert demo.bench.start_run(plan_for_load(station, meter, yard.loads()[1]))
    assert "typical losses" in demo.bench.live.outlook.expected[2]
    held_up.set()
    worked_out(qtbot, demo)
    assert demo.bench.live.outlook.expected[2].endswith("earlier runs of this station")


def test_a_held_power_is_not_called_untried(qtbot, demo, held_up):
    view = seen(demo, OUTPUTS)
    view.choose_test("held")
    assert view.headline.text() == "Working it out…" and not view.picture.isVisible()
    held_up.set()
    worked_out(qtbot, demo)
    at_rest(qtbot, demo)
    assert view.headline.text() != "Working it out…"


def test_the_latest_run_of_another_station_leaves_no_chart_behind(qtbot, demo, held_up):
    view = seen(demo, RUN)
    page = view.idle_page
    assert not page._chart.isVisible() and page._chart.peak_w == 0
    assert page.title.y() < 60 and page.plan_button.y() < view.height() / 3
    held_up.set()
    worked_out(qtbot, demo)
    qtbot.waitUntil(lambda: page._chart.isVisible() and page._chart.peak_w > 0)


def test_what_was_cancelled_is_worked_out_when_it_is_seen_again(qtbot, demo, held_up):
    view = seen(demo, LEDGER)
    qtbot.waitUntil(lambda: demo.jobs.busy)
    qtbot.wait(100)
    demo.jobs.cancel()
    held_up.set()
    qtbot.wait(100)
    assert view.headline.text() == WORKING
    seen(demo, PLAN)
    seen(demo, LEDGER)
    view.refresh()
    worked_out(qtbot, demo)
    at_rest(qtbot, demo)
    assert view.headline.text() != WORKING


def test_a_search_is_answered_again_after_it_was_cleared(qtbot, demo):
    view = seen(demo, LINEUP)
    at_rest(qtbot, demo)
    for _ in range(2):
        view.search.setText("usable > 70 %")
        qtbot.waitUntil(lambda: "found" in view.note.text())
        view.search.setText("")
        qtbot.waitUntil(lambda: "found" not in view.note.text())


def test_endurance_comes_back_when_a_change_is_taken_back_at_once(qtbot, demo):
    demo.bench.session.choose_station(FENNEL)
    view = seen(demo, ENDURANCE)
    at_rest(qtbot, demo)
    said = view.headline.text()
    view.answering.withdraw()
    view.headline.setText(WORKING)
    view.refresh()
    at_rest(qtbot, demo)
    assert view.headline.text() == said
