"""The first evening, from the welcome page to the learner's own sheet, on the practice bench."""

from dataclasses import replace

import pytest
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

from yardtoll.core.claims.reading.read import read_claims
from yardtoll.demo.evening import scene as scenes
from yardtoll.demo.evening.scene import LABEL, LOAD_W, costs, mistakes_missed, scene
from yardtoll.demo.evening.steps import last_run, true_wh
from yardtoll.desktop.views.stop import LEDGER, SHEET, VERDICTS
from yardtoll.running.plan import plan_for_load
from yardtoll.store.records import Reading, Station, StoredClaim


@pytest.fixture
def evening(window, monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    window.welcome.chosen.emit("evening")
    panel = window.evenings.panel
    assert panel is not None and panel.isVisible()
    return panel


def title(panel):
    panel.look()
    QApplication.processEvents()
    return panel.title.text()


def test_what_each_mistake_costs_is_what_the_bench_shows():
    found = costs()
    assert 0.8 * 614 < found.delivered_wh < 0.95 * 614
    # A tenth of the store is missing, and with it a tenth of what comes out.
    assert found.short_wh == pytest.approx(0.1 * found.delivered_wh, rel=0.01)
    assert 0 < found.overload_s < 60
    whys = {seen.key: seen.why for seen in scene()}
    share = 100 * scenes.LEFT_ON_METER_WH / found.delivered_wh
    assert f"{share:.0f} % too much" in whys["meter"]
    assert f"{LOAD_W * 8:.0f} Wh" in whys["input"]
    assert sum(seen.is_mistake for seen in scene()) == 5
    assert len(mistakes_missed(set())) == 5


def test_the_learner_finds_the_mistakes(evening):
    assert evening.title.text() == "Look at the bench"
    evening.boxes["input"].setChecked(True)
    evening.boxes["cord"].setChecked(True)
    evening.look_button.click()
    said = evening.answer.text()
    assert "984 Wh" in said and "Far above what the heater takes" in said
    assert "4 mistakes are still there" in evening.verdict.text() and not evening.has_found
    QApplication.processEvents()
    seen = evening.verdict.visibleRegion().boundingRect()
    assert seen == evening.verdict.rect() and not evening.answer.visibleRegion().isEmpty()
    for key in ("floor", "meter", "heaters", "alone"):
        evening.boxes[key].setChecked(True)
    evening.look_button.click()
    assert evening.has_found and "all of them" in evening.verdict.text()
    assert not evening.boxes["floor"].isVisible()
    evening.next_button.click()
    assert title(evening) == "Add the station"


def test_from_the_bench_to_a_sheet_of_ones_own(qtbot, window, evening):
    evening.next_button.click()  # shows the mistakes
    evening.next_button.click()
    bench = window.bench
    session = bench.session
    station = session.add(Station(name="Bramble 600", rated_wh=614, rated_w=600), "Add")
    session.choose_station(station.id)
    assert title(evening) == "Write down what it claims"
    evening.copy_button.click()
    listing = QGuiApplication.clipboard().text()
    assert listing == LABEL
    for found in (claim for claim in read_claims(listing).claims if claim.value is not None):
        session.add(
            StoredClaim(
                station_id=station.id, kind=found.quantity, value=found.value, source="label"
            ),
            "Add",
        )
    assert title(evening) == "Plan the run"
    yard = session.yard
    heater = next(load for load in yard.loads() if load.name == "Small heater")
    window.settings.simulated_speed = 20_000.0
    assert bench.start_run(plan_for_load(station, yard.meters()[0], heater))
    assert title(evening) == "Note what the display says"
    run_id = bench.live.run_id
    session.put_without_undo(Reading(run_id=run_id, time_s=60, kind="soc_percent", value=99))
    qtbot.waitUntil(lambda: last_run(yard) is not None, timeout=60_000)
    for _ in range(3):
        title(evening)
    assert title(evening) == "See where it went"
    for stop, following in (
        (LEDGER, "Does it hold what the box says?"),
        (VERDICTS, "Publish it"),
        (SHEET, "That was a whole test"),
    ):
        window.go_to(stop)
        assert title(evening) == following
    run = last_run(yard)
    qtbot.waitUntil(lambda: bench.analyses.of(run) is not None, timeout=60_000)
    evening.show_step()
    said = evening.words.text()
    assert f"{true_wh(run):.1f} Wh" in said and "your ±" in said


def test_leaving_keeps_the_yard_and_the_usual_speed(window, evening):
    before = window.bench.session.path
    assert window.settings.simulated_speed == 600.0
    evening.leave()
    assert window.evenings.panel is None
    assert window.settings.simulated_speed == 60.0
    assert window.bench.session.path == before
    window.evenings.open()
    assert window.bench.session.path != before


def test_closing_the_yard_ends_the_evening(window, evening):
    window.close_yard()
    evening.look()
    assert window.evenings.panel is None


def test_a_station_of_another_rating_is_not_the_one(window, evening):
    evening.at = 1
    evening.show_step()
    session = window.bench.session
    made = session.add(Station(name="Other", rated_wh=2048, rated_w=2000), "Add")
    assert title(evening) == "Add the station"
    session.edit(replace(made, rated_wh=614), "Edit")
    assert title(evening) != "Add the station"
