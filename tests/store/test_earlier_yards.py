"""Yards and packages made by the earlier programs themselves: opened, with their figures.

The figures are those that the program which made each file showed.
"""

import shutil
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from tests.files import content

from yardtoll.review.analysis import analyses_of
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.store.package.reading import read_package
from yardtoll.store.yard_file import YardFile

YARDS = Path(__file__).parent / "yards"
DELIVERED_WH = {1: 795.566667, 2: 792.666667}
DRAWN_WH = {3: 1190.0, 5: 495.8333}
PERFORMANCE = 1.052290778
FROM_VERSION = {
    1: {1, 2},
    2: {1, 2},
    3: {1, 2, 3},
    4: {1, 2, 3, 5},
    5: {1, 2, 3, 5},
    6: {1, 2, 3, 5},
    7: {1, 2, 3, 5},
    8: {1, 2, 3, 5},
    9: {1, 2, 3, 5},
    10: {1, 2, 3, 5},
}


def figures_of(yard):
    """What each run of the only station comes to, by the run's number."""
    (station,) = yard.stations()
    return {analysis.run.number: analysis for analysis in analyses_of(yard, station)}


def assert_the_figures_stand(found, runs):
    assert runs <= set(found)
    for number, delivered_wh in DELIVERED_WH.items():
        assert found[number].energy_out.delivered_wh == pytest.approx(delivered_wh, abs=1e-5)
    for number in runs & set(DRAWN_WH):
        assert found[number].energy_in.drawn_wh == pytest.approx(DRAWN_WH[number], abs=1e-4)
    assert found[2].is_void and not found[1].is_void
    assert found[1].run.conditions.load == "Heater, low"
    assert found[1].run.conditions.settings["floor"] == "0"
    if 5 in runs:
        sun = sunlight_in(found[5])
        assert sun.light == "sensor"
        assert sun.run.performance == pytest.approx(PERFORMANCE, abs=1e-8)


@pytest.mark.parametrize("version", FROM_VERSION)
def test_a_yard_of_every_earlier_version_opens_with_its_figures(tmp_path, version):
    path = tmp_path / "old.yard"
    shutil.copy(YARDS / f"version-{version}.yard", path)
    before = content(path)
    with YardFile.open(path) as yard:
        assert_the_figures_stand(figures_of(yard), FROM_VERSION[version])
    copy = tmp_path / f"old.before-update-{version}.yard"
    assert content(copy) == before
    with YardFile.open(path) as again:  # it is up to date now: no second copy
        assert len(figures_of(again)) >= len(FROM_VERSION[version])
    assert len(list(tmp_path.glob("*.yard"))) == 2


def test_a_logger_kept_in_the_conditions_became_a_recording(tmp_path):
    path = tmp_path / "old.yard"
    shutil.copy(YARDS / "version-5.yard", path)
    with YardFile.open(path) as yard:
        run = figures_of(yard)[5].run
        main, logger = yard.recordings(run.id)
        assert (main.role, logger.role) == ("sun_input", "irradiance")
        samples = yard.samples(logger)
        assert samples.time_s.size > 10 and np.nanmax(samples.columns["irradiance"]) > 100
        assert "irradiance_log" not in run.conditions.other
    with sqlite3.connect(path) as raw:
        tables = {name for (name,) in raw.execute("SELECT name FROM sqlite_master")}
    raw.close()
    assert {"recording", "recording_block"} <= tables and "trace" not in tables


@pytest.mark.parametrize("version", [3, 5, 6])
def test_a_package_of_an_earlier_version_is_read(tmp_path, version):
    path = tmp_path / "again.yard"
    read_package(YARDS / f"package-{version}", path)
    with YardFile.open(path) as yard:
        assert_the_figures_stand(figures_of(yard), FROM_VERSION[version])
