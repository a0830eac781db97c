"""A few of every attack; `script/hardness` goes on for as long as is asked."""

import pytest
from tests.hardness import full_disk, fuzz, kills, run, stops

pytestmark = pytest.mark.study
SEED = 2026


@pytest.mark.parametrize("kind", ["record", "edit", "undo", "migrate", "create"])
def test_killed_at_a_random_moment(kind):
    outcome = kills.kill_many(kind, 2, SEED)
    assert outcome.tried == 2 and not outcome.lost, outcome.said


@pytest.mark.parametrize("kind", [kind for kind in full_disk.KINDS if kind != "sheet"])
def test_a_full_disk(kind):
    outcome = full_disk.fill_many(kind, 2, SEED)
    if outcome is None:
        pytest.skip("no small disk can be mounted here")
    assert not outcome.lost, outcome.said


@pytest.mark.parametrize("reader", fuzz.READERS)
def test_damaged_inputs(reader):
    slow = (
        "(Parquet)" in reader
        or "(spreadsheet)" in reader
        or "package" in reader
        or "video" in reader
    )
    times = 4 if slow else 25 if "(CSV)" in reader else 100
    outcome = fuzz.fuzz(reader, times, SEED)
    assert outcome.tried == times and not outcome.lost, outcome.said


def test_damaged_packages():
    outcome = fuzz.fuzz_packages(12, SEED)
    assert not outcome.lost, outcome.said


def test_a_recording_that_was_stopped():
    assert stops.stopped_for(3) == ""


def test_a_window_beside_a_hostile_meter():
    outcome = run.heartbeat(0)
    assert not outcome.lost, outcome.said


def test_a_short_walk_of_the_window():
    said = run.program(["soak_window.py", "--changes", "120", "--live", "1"])
    assert "changes 120" in said, said[-500:]
