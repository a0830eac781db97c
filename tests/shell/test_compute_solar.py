"""`yardtoll compute solar`: logs with and without dates, zones, sensors and a site."""

import json
import subprocess
import sys
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from tests.suns import clock

from yardtoll.bench.simulated.sunny_day import ShadeOnPanels, SolarStation, simulate_sun
from yardtoll.core.sun.clear_day import clear_day
from yardtoll.core.sun.panels import SunArray
from yardtoll.core.sun.sky import SunSite

SITE = ("--lat", "41", "--lon", "2", "--tilt", "30", "--azimuth", "180")
ARRAY = ("--array-w", "400")
WHERE = SunSite(latitude=41.0, longitude=2.0, tilt=30.0, azimuth=180.0)
TIMES = pd.date_range("2026-05-20", periods=1440, freq="1min", tz="UTC")
# The whole day's sum under the cap that shows in the log; the log lacks only the night.
EXPECTED_WH = clear_day(WHERE, SunArray(power_stc_w=400.0, cap_w=250.0), clock(TIMES)).expected_wh
KEYS = {
    "harvest_wh", "peak_w", "sustained_w", "expected_wh", "performance", "limited_by",
    "recoveries", "warnings",
}  # fmt: skip


@pytest.fixture
def solar(run):
    def go(*arguments):
        code, out, err = run("compute", "solar", *arguments, "--json")
        assert (code, err) == (0, "")

        def refuse(constant):
            raise AssertionError(f"JSON is not strict: {constant}")

        return json.loads(out, parse_constant=refuse)

    return go


def failing(run, exit_code):
    def go(*arguments):
        code, out, err = run("compute", "solar", *arguments)
        assert (code, out) == (exit_code, "") and "Traceback" not in err
        assert exit_code == 2 or err.count("\n") == 1
        return " ".join(err.replace("│", " ").split())

    return go


@pytest.fixture
def refused(run):
    return failing(run, 1)


@pytest.fixture
def wrong(run):
    return failing(run, 2)


@pytest.fixture(scope="module")
def sunny():
    times = pd.date_range("2026-05-20 04:00", "2026-05-20 20:00", freq="20s", tz="UTC")
    return simulate_sun(
        [(WHERE, SunArray(power_stc_w=400.0))],
        SolarStation(cap_w=250.0, store_wh=9000.0),
        clock(times),
        shade=[ShadeOnPanels(start_s=14400.0, end_s=15000.0, left=0.3)],
    )


def log(folder, sunny, stamp, header="time", per_area=1.0, unit="W/m2"):
    path = folder / "solar.csv"
    rows = zip(sunny.time_s, sunny.power_w, sunny.irradiance / per_area, strict=True)
    lines = [f"{stamp(sunny.clock_s + t, t)},{p:.2f},{g:.4f}" for t, p, g in rows]
    path.write_text("\n".join([f"{header},Power (W),G ({unit})", *lines]))
    return str(path)


def iso(clock, _):
    return pd.Timestamp(clock, unit="s").isoformat() + "Z"


def local(clock, _):
    return (pd.Timestamp(clock, unit="s") + pd.Timedelta(hours=2)).strftime("%Y-%m-%d %H:%M:%S")


def time_of_day(clock, _):
    return (pd.Timestamp(clock, unit="s") + pd.Timedelta(hours=2)).strftime("%H:%M:%S")


def elapsed(_, t):
    return f"{t:g}"


def test_the_whole_answer(solar, tmp_path, sunny):
    path = log(tmp_path, sunny, iso)
    found = solar(path, *ARRAY, *SITE, "--cap-w", "250", "--irradiance-column", "G (W/m2)")
    assert set(found) == KEYS and found["warnings"] == []
    assert found["harvest_wh"] == pytest.approx(
        np.trapezoid(sunny.power_w, sunny.time_s) / 3600, rel=1e-4
    )
    assert found["performance"] == found["harvest_wh"] / found["expected_wh"]
    assert sum(found["limited_by"].values()) == pytest.approx(1)
    assert found["limited_by"]["cap"] > 0.3 and found["limited_by"]["shade"] > 0.01
    (drop,) = found["recoveries"]
    assert drop["start_s"] == pytest.approx(14400, abs=20)
    assert drop["recover_s"] == pytest.approx(sunny.back_s[0], abs=20)
    assert drop["drop_w"] > 100 and 0.98 < found["performance"] <= 1


@pytest.mark.parametrize(
    ("stamp", "options"),
    [
        (iso, ()),
        (local, ("--tz", "Europe/Madrid")),
        (time_of_day, ("--tz", "Europe/Madrid", "--date", "2026-05-20")),
        (elapsed, ("--tz", "UTC", "--date", "2026-05-20T04:00")),
    ],
)
def test_every_way_of_telling_the_time_gives_the_same_sun(solar, tmp_path, sunny, stamp, options):
    found = solar(log(tmp_path, sunny, stamp), *ARRAY, *SITE, *options)
    assert found["expected_wh"] == pytest.approx(EXPECTED_WH, rel=0.005)
    assert sum(found["limited_by"].values()) == pytest.approx(1)


@pytest.mark.parametrize(
    ("stamp", "options", "said"),
    [
        (local, (), "its times are local and name no zone; say which with --tz"),
        (time_of_day, ("--tz", "UTC"), "has no dates; say the day with --date"),
        (time_of_day, ("--date", "2026-05-20"), "say where with --tz"),
        (elapsed, ("--tz", "UTC"), "say when it began with --date"),
        (elapsed, ("--tz", "UTC", "--date", "2026-05-20"), "says no time of day"),
    ],
)
def test_a_log_that_does_not_say_when_is_refused(refused, tmp_path, sunny, stamp, options, said):
    assert said in refused(log(tmp_path, sunny, stamp), *ARRAY, *SITE, *options)


def test_a_log_over_midnight_and_the_change_of_clocks(solar, tmp_path):
    """Nights of 29 March 2026 in local time: 02:00 becomes 03:00, and nothing is lost."""
    times = pd.date_range("2026-03-28 12:00", "2026-03-29 12:00", freq="60s", tz="Europe/Madrid")
    rows = [f"{t.strftime('%Y-%m-%d %H:%M:%S')},100" for t in times]
    path = tmp_path / "night.csv"
    path.write_text("\n".join(["time,W", *rows]))
    found = solar(str(path), *ARRAY, *SITE, "--tz", "Europe/Madrid")
    assert found["harvest_wh"] == pytest.approx(2300)  # 23 h of 100 W
    # So much in the night is no performance: a clock, or the aim, is wrong.
    assert [w["code"] for w in found["warnings"]] == ["clock_or_aim_wrong"]
    assert found["performance"] is None


def test_kilowatts_are_recognised_and_said(solar, tmp_path, sunny):
    path = log(tmp_path, sunny, iso, per_area=1000.0, unit="kW/m2")
    options = ("--irradiance-column", "G (kW/m2)")
    found = solar(path, *ARRAY, *SITE, *options)
    assert [w["code"] for w in found["warnings"]] == ["irradiance_in_kw"]
    assert found["limited_by"]["cap"] > 0.3


def test_a_sensor_alone_is_enough_and_nothing_at_all_is_said(solar, tmp_path, sunny):
    path = log(tmp_path, sunny, iso)
    by_sensor = solar(path, *ARRAY, "--irradiance-column", "G (W/m2)")
    assert by_sensor["performance"] > 0.95 and by_sensor["limited_by"]["cap"] > 0.3
    bare = solar(path, *ARRAY)
    assert bare["expected_wh"] is None and bare["performance"] is None
    assert set(bare["limited_by"].values()) == {None}
    assert [w["code"] for w in bare["warnings"]] == ["no_site"]


def test_a_level_sensor(solar, tmp_path, sunny):
    path = log(tmp_path, sunny, iso)
    options = ("--irradiance-column", "G (W/m2)", "--irradiance-kind", "ghi")
    found = solar(path, *ARRAY, *SITE, *options)
    assert found["expected_wh"] > 0


def test_dates_in_the_log_go_before_the_date_given(solar, tmp_path, sunny):
    found = solar(log(tmp_path, sunny, iso), *ARRAY, *SITE, "--date", "2020-01-01")
    assert [w["code"] for w in found["warnings"]] == ["date_not_used"]
    assert found["expected_wh"] == pytest.approx(EXPECTED_WH, rel=0.005)


def test_wrong_usage(wrong, tmp_path, sunny):
    path = log(tmp_path, sunny, iso)
    assert "the site needs --lon, --tilt, --azimuth too" in wrong(path, *ARRAY, "--lat", "41")
    assert "neither poa nor ghi" in wrong(path, *ARRAY, "--irradiance-kind", "dni")
    assert "needs the site" in wrong(
        path, *ARRAY, "--irradiance-column", "G (W/m2)", "--irradiance-kind", "ghi"
    )
    assert "is not a date such as" in wrong(path, *ARRAY, "--date", "tomorrow")


def test_data_that_cannot_be_used(refused, tmp_path, sunny):
    path = log(tmp_path, sunny, iso, per_area=0.01)
    said = refused(path, *ARRAY, *SITE, "--irradiance-column", "G (W/m2)")
    assert "no sky gives more than 2000" in said
    assert 'no column "X"' in refused(path, *ARRAY, *SITE, "--irradiance-column", "X")
    assert "--array-w is 0" in refused(path, "--array-w", "0", *SITE)
    assert "--lat is 95" in refused(path, *ARRAY, "--lat", "95", *SITE[2:])


def test_the_table_reads_well(run, tmp_path, sunny):
    code, said, _ = run("compute", "solar", log(tmp_path, sunny, iso), *ARRAY, *SITE)
    assert code == 0
    assert "Expected, clear sky" in said and "Limited by the station's cap" in said
    assert "back in" in said


def test_the_example_in_the_readme(solar):
    path = Path(__file__).parents[2] / "examples" / "solar-day.csv"
    where = ("--lat", "43.1", "--lon", "-88.4", "--tilt", "30", "--azimuth", "185")
    column = ("--irradiance-column", "irradiance (W/m2)")
    found = solar(path, *ARRAY, "--cap-w", "300", *where, *column)
    assert found["warnings"] == [] and found["harvest_wh"] == pytest.approx(1354, abs=1)
    # It was made with a cap of 292 W, ten minutes of shade, and a battery that fills.
    assert found["sustained_w"] == pytest.approx(292, abs=2)
    assert found["limited_by"]["cap"] > 0.25 and found["limited_by"]["full"] > 0.25
    (shade,) = found["recoveries"]
    assert shade["start_s"] == pytest.approx(9000, abs=30) and 60 < shade["recover_s"] < 90


def test_a_solar_command_loads_neither_pandas_nor_scipy(tmp_path):
    """They take longer to load than the whole command."""
    log = tmp_path / "log.csv"
    rows = [f"2026-06-21T{h:02}:{m:02}:00Z,{100 + m}" for h in (10, 11) for m in range(60)]
    log.write_text("time,power_w\n" + "\n".join(rows))
    code = (
        "import sys\nfrom yardtoll.cli import main\n"
        f"sys.argv = ['yardtoll', 'compute', 'solar', {str(log)!r}, '--array-w', '400', '--lat', "
        "'41', '--lon', '2', '--tilt', '30', '--azimuth', '180']\n"
        "try:\n    main()\nexcept SystemExit as end:\n    assert not end.code, end.code\n"
        "print(sorted({'pandas', 'scipy', 'pvlib'} & set(sys.modules)))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=120
    )
    assert done.stdout.splitlines()[-1] == "[]", done.stdout + done.stderr
