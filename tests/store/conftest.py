"""A yard with a run in it."""

import pytest

from yardtoll.store.records import (
    Conditions,
    Run,
    RunState,
    Station,
)
from yardtoll.store.yard_file import YardFile


@pytest.fixture
def path(tmp_path):
    return tmp_path / "bench.yard"


@pytest.fixture
def yard(path):
    with YardFile.create(path, "Bench") as yard:
        yield yard


@pytest.fixture
def run(yard):
    station = yard.put(Station(name="Fennel 2k", rated_wh=2048, rated_w=2000))
    return yard.put(
        Run(
            station_id=station.id,
            number=yard.next_number(station.id),
            method="capacity_ac",
            state=RunState.RUNNING.value,
            origin="live",
            started_at="2026-05-14T10:00:00+00:00",
            conditions=Conditions(file="ünicode.csv", other={"nested": {"a": [1, 2]}}),
        )
    )
