"""An idle test by eye: it asks for the display at its planned end, and ends with that reading."""

from datetime import UTC, datetime, timedelta

import pytest

from yardtoll.core.methods import METHODS
from yardtoll.review.analysis import analyse_run
from yardtoll.running.session import RunSession, SessionEvents
from yardtoll.store.records import TYPED, Conditions, Meter, ReadingKind, Run, Station
from yardtoll.store.yard_file import YardFile

SIZE = next(size for size in METHODS["idle_ac"].sizes if size.hold_s)


@pytest.fixture
def begun(tmp_path):
    """A session of an idle test that began so many hours ago."""
    yards = []

    def made(hours):
        yard = YardFile.create(tmp_path / f"{hours}.yard", "Bench")
        yards.append(yard)
        station = yard.put(Station(name="Clover", rated_wh=1280, rated_w=1000))
        meter = yard.put(
            Meter(name="By eye", profile="", address="", reading_share=0.01, floor_w=0.5)
        )
        began = datetime.now(UTC) - timedelta(hours=hours)
        run = yard.put(
            Run(station_id=station.id, number=1, method="idle_ac", state="running", origin=TYPED,
                started_at=began.isoformat(), meter_id=meter.id,
                conditions=Conditions(size=SIZE.key))
        )  # fmt: skip
        ended = []
        events = SessionEvents(ended=lambda *told: ended.append(told))
        session = RunSession(yard, run, events=events, post=lambda todo: todo())
        session.resume()
        return session, ended

    yield made
    for yard in yards:
        yard.close()


def alarms_of(session):
    return [alarm.text for alarm in session.outlook.watch(session.elapsed_s(), answering=True)]


def test_it_asks_at_the_planned_hour_and_ends_with_the_reading(begun):
    hours = SIZE.hold_s / 3600
    session, ended = begun(hours + 0.1)
    assert alarms_of(session) == ["Read the display now and at the end: Space."]
    session.read(ReadingKind.SOC, 100, 0.0)
    session.look_at_the_clock()
    assert not ended and "The planned time is over" in alarms_of(session)[0]
    session.read(ReadingKind.SOC, 85)
    assert len(ended) == 1 and ended[0][1].startswith("held for")
    (run,) = session.yard.runs()
    assert run.state == "finished"
    found = analyse_run(session.yard, run)
    assert found.figures["idle_w"].value == pytest.approx(0.15 * 1280 / (hours + 0.1), rel=0.01)


def test_before_its_time_nothing_ends_it(begun):
    session, ended = begun(SIZE.hold_s / 3600 / 2)
    session.read(ReadingKind.SOC, 100, 0.0)
    session.read(ReadingKind.SOC, 95)
    session.look_at_the_clock()
    assert not ended and not alarms_of(session)
    assert session.forecast().remaining_s == pytest.approx(SIZE.hold_s / 2, rel=0.02)
    session.leave()
