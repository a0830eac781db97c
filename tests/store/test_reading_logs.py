"""Logs of every shape become the same trace; bad ones one clear sentence."""

import io
import math
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from yardtoll.core.electrical.quantities import Quantity as Q
from yardtoll.core.electrical.trace import ClockBasis, Code
from yardtoll.store.errors import LogError, MappingError, StoreError
from yardtoll.store.logs.read import mapped_columns, open_log, read_log

ROWS = [(i * 10, 412.5 + i, 230.1, 0.01 * i) for i in range(6)]


@pytest.fixture
def log(tmp_path):
    def write(text: str | bytes, name="log.csv") -> Path:
        path = tmp_path / name
        path.write_bytes(text.encode() if isinstance(text, str) else text)
        return path

    return write


def expect_rows(trace, n=6):
    np.testing.assert_allclose(trace.time_s, np.arange(n) * 10.0)
    np.testing.assert_allclose(trace.columns[Q.POWER], 412.5 + np.arange(n))


SHAPES = {
    "plain": "time,power\n" + "".join(f"{t},{p}\n" for t, p, *_ in ROWS),
    "units in header": "t [s];Power (W)\n" + "".join(f"{t};{p}\n" for t, p, *_ in ROWS),
    "kilowatts": "Elapsed s\tP (kW)\n" + "".join(f"{t}\t{p / 1000:.5f}\n" for t, p, *_ in ROWS),
    "decimal comma": "Time;Power W\n"
    + "".join(f"{t};{p}\n".replace(".", ",") for t, p, *_ in ROWS),
    "units in cells": "time,load\n" + "".join(f"{t} s,{p} W\n" for t, p, *_ in ROWS),
    "kW in cells": "time,load\n" + "".join(f"{t},{p / 1000:.5f} kW\n" for t, p, *_ in ROWS),
    "bom": "\ufefftime,power\n" + "".join(f"{t},{p}\n" for t, p, *_ in ROWS),
    "comments": "# a meter\n# made in a test\ntime,power\n"
    + "".join(f"{t},{p}\n# note\n" for t, p, *_ in ROWS),
    "preamble": "Meter 7\nSerial, 12\n\ntime,power,volts\n"
    + "".join(f"{t},{p},{v}\n" for t, p, v, _ in ROWS),
    "units row": "Time,Power,Voltage\ns,W,V\n" + "".join(f"{t},{p},{v}\n" for t, p, v, _ in ROWS),
    "iso": "Timestamp,W\n" + "".join(f"2026-05-14T10:00:{t:02d}Z,{p}\n" for t, p, *_ in ROWS),
    "iso space": "when,W\n" + "".join(f"2026-05-14 10:00:{t:02d},{p}\n" for t, p, *_ in ROWS),
    "hms": "time,W\n" + "".join(f"0:00:{t:02d},{p}\n" for t, p, *_ in ROWS),
    "am pm": "Date,Time,W\n" + "".join(f"05/14/2026,11:59:{t:02d} PM,{p}\n" for t, p, *_ in ROWS),
    "dots": "Date;Time;W\n" + "".join(f"14.05.2026;10:00:{t:02d};{p}\n" for t, p, *_ in ROWS),
    "minutes": "t [min],W\n" + "".join(f"{t / 60:.8f},{p}\n" for t, p, *_ in ROWS),
    "epoch ms": "ts,W\n" + "".join(f"{1_778_000_000_000 + 1000 * t},{p}\n" for t, p, *_ in ROWS),
    "quoted": '"Time","Power, out (W)"\n' + "".join(f'"{t}","{p}"\n' for t, p, *_ in ROWS),
    "date/time": "Date/Time,Instantaneous W\n" + "".join(f"{t},{p}\n" for t, p, *_ in ROWS),
    "minutes by name": "Minutes,W\n" + "".join(f"{t / 60:.8f},{p}\n" for t, p, *_ in ROWS),
    "elapsed hours": "elapsed hours,W\n" + "".join(f"{t / 3600:.9f},{p}\n" for t, p, *_ in ROWS),
    "compact iso": "time,W\n" + "".join(f"20260514T1000{t:02d}Z,{p}\n" for t, p, *_ in ROWS),
    "month names": "time;W\n" + "".join(f"14-May-2026 10:00:{t:02d};{p}\n" for t, p, *_ in ROWS),
    "month first": "time;W\n" + "".join(f"May 14, 2026 10:00:{t:02d};{p}\n" for t, p, *_ in ROWS),
    "decimal comma in seconds": "time;W\n"
    + "".join(f"14.05.2026 10:00:{t:02d},0;{p}\n".replace(".5;", ",5;") for t, p, *_ in ROWS),
    "ragged": "time,power\n" + "".join(f"{t},{p},extra\n" for t, p, *_ in ROWS),
    "crlf": "time,power\r\n" + "".join(f"{t},{p}\r\n" for t, p, *_ in ROWS),
    "cr": "time,power\r" + "".join(f"{t},{p}\r" for t, p, *_ in ROWS),
    "bars": "time|power\n" + "".join(f"{t}|{p}\n" for t, p, *_ in ROWS),
    "many": "Time,Input (W),Output power (W),Reactive power (var),V\n"
    + "".join(f"{t},0,{p},33,{v}\n" for t, p, v, _ in ROWS),
    "v times a": "time,V,A\n" + "".join(f"{t},{100},{p / 100:.5f}\n" for t, p, *_ in ROWS),
    "v times a times pf": "time,volts,current (mA),PF\n"
    + "".join(f"{t},100,{p * 20:.3f},0.5\n" for t, p, *_ in ROWS),
}


@pytest.mark.parametrize("shape", SHAPES)
def test_every_shape_reads_the_same(log, shape):
    expect_rows(read_log(log(SHAPES[shape])))


def test_utf16_latin1_and_tables_read_the_same(log, tmp_path):
    expect_rows(read_log(log(SHAPES["units in header"].encode("utf-16"))))
    latin = "time;power;temp °C\n" + "".join(f"{t};{p};20\n" for t, p, *_ in ROWS)
    trace = read_log(log(latin.encode("cp1252")))
    expect_rows(trace)
    assert Q.TEMPERATURE in trace.columns
    frame = pl.read_csv(io.StringIO(SHAPES["plain"]))
    frame.write_parquet(tmp_path / "log.parquet")
    frame.write_excel(tmp_path / "log.xlsx")
    expect_rows(read_log(tmp_path / "log.parquet"))
    expect_rows(read_log(tmp_path / "log.xlsx"))


@pytest.mark.parametrize(
    ("cells", "expected"),
    [
        (["1,234.5", "999.0"], [1234.5, 999.0]),
        (["1.234,5", "999,0"], [1234.5, 999.0]),
        (["1 234,5", "999,25"], [1234.5, 999.25]),
        (["1'234.5", "999.0"], [1234.5, 999.0]),
        (["1,234", "999"], [1234, 999]),
        (["0,412", "0,999"], [0.412, 0.999]),
        (["1.2 kW", "950 W"], [1200, 950]),
        (["1e3", "2.5E2"], [1000, 250]),
        (["~410 W", "+411W"], [410, 411]),
    ],
)
def test_written_numbers(log, cells, expected):
    quoted = "".join(f'{i},"{cell}"\n' for i, cell in enumerate(cells))
    trace = read_log(log("time,power\n" + quoted))
    np.testing.assert_allclose(trace.columns[Q.POWER], expected)


def test_missing_cells_are_left_out_and_counted(log):
    trace = read_log(log("t,power,volts\n0,10,\n1,,\n2,NaN,\n3,---,\n4,12,\n"))
    (notice,) = trace.notices
    assert notice.code is Code.MISSING_VALUES
    assert notice.message == "log.csv: missing values were left out: 3 in power"
    assert Q.VOLTS not in trace.columns
    np.testing.assert_allclose(trace.valid(Q.POWER)[0], [0, 4])


def test_energy_in_kwh_and_counter_only(log):
    trace = read_log(log("time,kWh\n0,1.5\n60,1.51\n120,1.53\n"))
    np.testing.assert_allclose(trace.columns[Q.ENERGY], [1500, 1510, 1530])


def test_fahrenheit_becomes_celsius(log):
    trace = read_log(log("time,power,Temp (°F)\n0,1,68\n1,1,212\n"))
    np.testing.assert_allclose(trace.columns[Q.TEMPERATURE], [20, 100])


class TestTime:
    def test_the_later_of_two_lines_with_one_time_stands(self, log):
        trace = read_log(log("time,power\n0,1\n10,2\n10,99\n20,3\n30,4\n"))
        np.testing.assert_allclose(trace.columns[Q.POWER], [1, 99, 3, 4])
        assert trace.notices[0].code is Code.TIME_NOT_MONOTONIC

    def test_lines_sharing_a_whole_second_are_spread_over_it(self, log):
        rows = "".join(f"{i // 4},{100 + i}\n" for i in range(40))
        trace = read_log(log("time,power\n" + rows))
        np.testing.assert_allclose(trace.time_s, np.arange(40) / 4)
        assert trace.notices[0].code is Code.TIME_NOT_MONOTONIC

    def test_a_clock_stepping_back_keeps_the_files_order(self, log):
        trace = read_log(log("time,power\n0,1\n10,2\n20,3\n5,4\n15,5\n"))
        np.testing.assert_allclose(trace.time_s, [0, 10, 20, 30, 40])
        assert "stepped back once" in trace.notices[0].message

    def test_midnight_is_no_step_back(self, log):
        trace = read_log(log("time,power\n23:59:50,1\n00:00:00,2\n00:00:10,3\n"))
        np.testing.assert_allclose(trace.time_s, [0, 10, 20])
        assert not trace.notices and trace.clock_basis is ClockBasis.TIME_OF_DAY

    def test_elapsed_hours_beyond_a_day(self, log):
        trace = read_log(log("time,power\n0:00:00,1\n12:00:00,1\n26:15:00,3\n"))
        assert trace.time_s[-1] == 26.25 * 3600 and trace.clock_s is None

    def test_autumn_hour_comes_twice(self, log):
        # Lisbon left summer time on 2026-10-25 at 02:00 local (01:00 UTC): EU directive 2000/84.
        rows = ["00:50", "01:10", "01:30", "01:50", "01:10", "01:30", "01:50", "02:10"]
        text = "time,power\n" + "".join(f"2026-10-25 {r}:00,5\n" for r in rows)
        trace = read_log(log(text), zone=ZoneInfo("Europe/Lisbon"))
        np.testing.assert_allclose(np.diff(trace.time_s), 1200)
        assert trace.clock_s == datetime(2026, 10, 24, 23, 50, tzinfo=UTC).timestamp()
        assert not trace.notices
        assert read_log(log(text)).notices[0].code is Code.TIME_NOT_MONOTONIC

    def test_spring_hour_is_skipped(self, log):
        text = "time,power\n2026-03-29 00:50:00,5\n2026-03-29 02:10:00,5\n"
        trace = read_log(log(text), zone=ZoneInfo("Europe/Lisbon"))
        assert trace.time_s[-1] == 1200
        unset = "time,power\n2026-03-29 00:50:00,5\n2026-03-29 01:10:00,5\n"
        assert read_log(log(unset), zone=ZoneInfo("Europe/Lisbon")).time_s[-1] == 1200

    def test_day_first_unless_a_day_above_twelve_says_otherwise(self, log):
        both = read_log(log("time,power\n03/04/2026 10:00,5\n03/04/2026 10:01,5\n"))
        assert both.clock_s == datetime(2026, 4, 3, 10, tzinfo=UTC).timestamp()
        us = read_log(log("time,power\n05/14/2026 10:00,5\n05/14/2026 10:01,5\n"))
        assert us.clock_s == datetime(2026, 5, 14, 10, tzinfo=UTC).timestamp()


class TestMapping:
    def test_the_guess_is_shown_and_can_be_changed(self, log):
        path = log("when,DC power (W),AC power (W)\n0,1,2\n1,1,2\n")
        assert mapped_columns(open_log(path).guess) == {"time": "when", "power": "AC power (W)"}
        trace = read_log(path, chosen={"power": "DC power (W)"})
        np.testing.assert_allclose(trace.columns[Q.POWER], 1)

    def test_unknown_columns_and_purposes_are_named(self, log):
        path = log(SHAPES["plain"])
        with pytest.raises(MappingError, match='^log.csv has no column "pwr"; it has time, power$'):
            read_log(path, chosen={"power": "pwr"})
        with pytest.raises(MappingError, match='"colour" is nothing a column can hold'):
            read_log(path, chosen={"colour": "power"})

    def test_words_are_no_numbers(self, log):
        path = log("time,power,note\n0,1,hot\n1,1,cold\n")
        with pytest.raises(MappingError, match='line 2: the power column "note" holds no number'):
            read_log(path, chosen={"power": "note"})


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (b"", "log.csv is empty"),
        (b"\n\n  \n", "log.csv is empty"),
        (b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x01", "log.csv is not a text log"),
        (b"hello\nworld\n", "log.csv, line 1: no delimiter"),
        (b"time,power\n", "log.csv, line 1: no line of numbers follows it"),
        (b"name,colour\na,b\nc,d\n", "log.csv, line 1: no line of numbers follows it"),
        (b"time,rain\n0,wet\n1,dry\n", 'log.csv, line 2: none of the columns "time", "rain" holds'),
        (
            b"time,Power (W)\n0,NaN\n1,nan\n2,\n",
            'log.csv, line 2: the column "Power (W)" holds no number in any of its 3 lines',
        ),
        (
            b"a;power\nx;1\ny;2\n",
            'log.csv, line 2: no column of times was found among "a", "power"',
        ),
    ],
)
def test_bad_files_get_one_sentence(log, content, message):
    with pytest.raises(LogError) as error:
        read_log(log(content))
    assert str(error.value).startswith(message)
    assert "\n" not in str(error.value)


def test_a_line_without_end_is_refused_without_reading_it_all(tmp_path):
    path = tmp_path / "log.csv"
    with path.open("wb") as file:
        file.write(b"time,power\n" + b"0,1\n" * 100_000)
        file.truncate(2_000_000_000)  # a sparse file: two gigabytes of one line
    with pytest.raises(LogError, match="line 100002: the line is longer than a megabyte"):
        read_log(path)


def test_missing_file_and_folder(tmp_path):
    with pytest.raises(LogError, match="does not exist"):
        read_log(tmp_path / "none.csv")
    with pytest.raises(LogError, match="is a folder"):
        read_log(tmp_path)


@settings(
    max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    st.one_of(
        st.binary(max_size=400),
        st.text(max_size=400).map(lambda s: s.encode("utf-8", "replace")),
        st.lists(
            st.lists(
                st.sampled_from(
                    [
                        "time",
                        "power",
                        "1",
                        "0,5",
                        "NaN",
                        "",
                        '"',
                        "12:00",
                        "2026-01-01 10:00",
                        "9 W",
                        "x",
                    ]
                ),
                max_size=4,
            ).map(",".join),
            max_size=12,
        ).map(lambda rows: "\n".join(rows).encode()),
    )
)
def test_an_import_never_crashes(tmp_path, content):
    path = tmp_path / "log.csv"
    path.write_bytes(content)
    try:
        trace = read_log(path)
    except (StoreError, ValueError) as error:
        assert str(error) and "\n" not in str(error)
    else:
        assert trace.time_s.size and math.isfinite(trace.time_s[-1])
