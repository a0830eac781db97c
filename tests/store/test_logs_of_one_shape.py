"""Columns whose cells are all written alike are read at once, to the same figures as one by one."""

from datetime import UTC, datetime, timedelta, timezone
from zoneinfo import ZoneInfo

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yardtoll.store.logs.fixed_times import clock_us, iso_us
from yardtoll.store.logs.numbers import NumberStyle, to_numbers
from yardtoll.store.logs.read import read_log
from yardtoll.store.logs.times import to_seconds

EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


@settings(max_examples=80, deadline=None)
@given(
    st.lists(st.datetimes(datetime(1971, 1, 1), datetime(2199, 12, 31)), min_size=1, max_size=40),
    st.sampled_from(["", "Z", "+05:30", "-0800"]),
    st.sampled_from([0, 3, 6]),
    st.sampled_from("T "),
)
def test_dates_with_times_as_the_standard_library_reads_them(moments, offset, decimals, between):
    def written(moment):
        fraction = f"{moment.microsecond:06d}"[:decimals]
        clock = f"{moment:%Y-%m-%d}{between}{moment:%H:%M:%S}"
        return clock + (f".{fraction}" if decimals else "") + offset

    cells = [written(moment) for moment in moments]
    found = iso_us(pl.Series(cells))
    assert found is not None and found[1] is bool(offset)
    for text, us in zip(cells, found[0].tolist(), strict=True):
        moment = datetime.fromisoformat(text)
        aware = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
        assert EPOCH + timedelta(microseconds=us) == aware


@given(st.lists(st.integers(0, 9_999_999), min_size=1, max_size=40))
def test_clocks_of_any_width(seconds):
    cells = [f"{s // 3600}:{s // 60 % 60:02d}:{s % 60:02d}" for s in seconds]
    found = clock_us(pl.Series(cells))
    assert found is not None and found.tolist() == [s * 1_000_000 for s in seconds]


@pytest.mark.parametrize(
    "cells",
    [
        ["2026-01-01T00:00:00", "2026-01-01T00:00:00.5"],
        ["2026-01-01T00:00:00Z", "2026-01-01T00:00:0+Z"],
        ["2026-01-01T00:00:00+01:00", "2026-01-01T00:00:00+02:00"],
        ["2026-02-30T00:00:00", "2026-02-30T00:00:01"],
        ["2026-01-01T24:00:00", "2026-01-01T24:00:01"],
        ["01.02.2026 00:00:00"],
        ["2026-01-01T00:00:00", "2026/01/01T00:00:00"],
        ["２026-01-01T00:00:00"],
        [],
    ],
)
def test_what_is_not_of_one_shape_is_left_to_others(cells):
    assert iso_us(pl.Series(cells, dtype=pl.String)) is None


def test_clocks_that_are_none_are_left_to_others():
    for cells in (["1:60:00"], ["1:00:00", "1:00"], ["1:00:00 pm"], ["x"], ["1:00:00", "-1:00:00"]):
        assert clock_us(pl.Series(cells)) is None


def test_missing_times_stay_missing():
    cells = pl.Series("t", ["2026-01-01T00:00:00", None, "2026-01-01T00:00:01"])
    utc = datetime(2026, 1, 1, tzinfo=UTC).timestamp()
    for zone, began in ((None, utc), (ZoneInfo("America/Chicago"), utc + 6 * 3600)):
        found = to_seconds(cells, unit=None, style=NumberStyle(), zone=zone).seconds
        assert np.isnan(found).tolist() == [False, True, False]
        assert found[[0, 2]].tolist() == [began, began + 1]
    clocks = pl.Series("t", ["0:00:05", None, "0:00:06"])
    found = to_seconds(clocks, unit=None, style=NumberStyle(), zone=None).seconds
    assert found[[0, 2]].tolist() == [5, 6] and np.isnan(found[1])


@pytest.mark.parametrize(
    ("cells", "style", "base", "expected"),
    [
        (["412 W", "413.5 W"], ".", "W", [412, 413.5]),
        (["0.41 kW", "0.5 kW"], ".", "W", [410, 500]),
        (["0,41 kW", "0,5 kW"], ",", "W", [410, 500]),
        (["0.41 kW", "500"], ".", "W", [410, 500]),  # no unit: the fixed one
        (["0.41 kW", "500 W"], ".", "W", [410, 500]),
        (["1.234,5", "2,5"], ",", "W", [1234.5, 2.5]),
        (["1.234", "2,5"], ",", "W", [1234, 2.5]),
        (["1,234 W", "999 W"], ".", "W", [1234, 999]),
        (["12 V", "13 V"], ".", "W", [np.nan, np.nan]),
        (["412W", None], ".", "W", [412, np.nan]),
        (["9.91E37", "1"], ".", "W", [np.nan, 1]),
    ],
)
def test_numbers_with_units_and_commas(cells, style, base, expected):
    found = to_numbers(pl.Series(cells), NumberStyle(decimal=style), base)
    np.testing.assert_allclose(found, expected)


def in_chunks(*chunks):
    """A column as a log of many lines is read: in pieces that know nothing of each other."""
    return pl.concat([pl.Series(cells, dtype=pl.String) for cells in chunks], rechunk=False)


def test_each_chunk_of_clocks_may_be_wider_than_the_one_before():
    found = clock_us(in_chunks(["9:59:58", "9:59:59"], ["10:00:00", "10:00:01"], ["100:00:00.5"]))
    seconds = [35_998, 35_999, 36_000, 36_001, 360_000.5]
    assert found is not None and (found / 1e6).tolist() == seconds
    assert clock_us(in_chunks(["9:59:58"], ["10:00:00", "10:0:01"])) is None
    for later in (["-1:00:00"], ["1:00:00", "é:00:00"], ["1:00:00", ""], ["9:59:59", "é:00:0"]):
        assert clock_us(in_chunks(["9:59:58"], later)) is None


def test_dates_in_a_later_chunk_are_of_the_same_shape_or_left_to_others():
    found = iso_us(in_chunks(["2026-12-31T23:59:59Z"], ["2027-01-01T00:00:00Z"]))
    assert found is not None and np.diff(found[0]).tolist() == [1_000_000]
    for later in ("2027-01-01T00:00:00+01:00", "2027-01-01T00:00:00", "2027-01-01T00:00:00x"):
        assert iso_us(in_chunks(["2026-12-31T23:59:59Z"], [later])) is None


@pytest.mark.parametrize(
    ("chunks", "expected"),
    [
        ((["0.4 kW", "0.5 kW"], ["600 W", "0.7 kW"]), [400, 500, 600, 700]),
        ((["0.4 kW"], ["500"]), [400, 500]),
        ((["400 W"], ["500"], [None, "600 W"]), [400, 500, np.nan, 600]),
        ((["400 W"], ["12 V", "-5 W"]), [400, np.nan, -5]),
        ((["400 W"], [" W", "x"]), [400, np.nan, np.nan]),
    ],
)
def test_units_that_change_in_a_later_chunk(chunks, expected):
    found = to_numbers(in_chunks(*chunks), NumberStyle(), "W")
    np.testing.assert_allclose(found, expected)


def log(tmp_path, text):
    path = tmp_path / "log.csv"
    path.write_text(text, "utf-8")
    return read_log(path)


def test_a_decimal_comma_is_one_and_a_point_beside_it_parts_thousands(tmp_path):
    rows = "".join(f"{n};1{n % 10},5\n" for n in range(300))
    plain = log(tmp_path, f"t (s);Power (W)\n{rows}")
    np.testing.assert_allclose(plain.columns["power"], [10.5 + n % 10 for n in range(300)])
    # The thousand stands far below the lines that are looked at first.
    large = log(tmp_path, f"t (s);Power (W)\n{rows}300;1.234\n301;1.234,5\n")
    np.testing.assert_allclose(large.columns["power"][-2:], [1234, 1234.5])


def test_a_comment_below_is_left_out_of_a_log_of_numbers(tmp_path):
    rows = "".join(f"{n},{100 + n % 3}\n" for n in range(300))
    trace = log(tmp_path, f"t (s),Power (W)\n{rows}# fan on,\n300,100\n")
    assert trace.time_s.size == 301


def test_bytes_that_are_no_text_far_below_do_not_keep_the_rest_from_being_read(tmp_path):
    path = tmp_path / "log.csv"
    rows = "".join(f"{n},100,ok\n" for n in range(40_000)).encode()
    path.write_bytes(b"t (s),Power (W),Note\n" + rows + b"40000,100,\xff\xfe\n")
    assert read_log(path).time_s.size == 40_001


def test_offsets_are_instants(tmp_path):
    zone = timezone(timedelta(hours=2))
    began = datetime(2026, 6, 1, 12, tzinfo=zone)
    rows = "".join(f"{(began + timedelta(seconds=n)).isoformat()},400\n" for n in range(5))
    trace = log(tmp_path, f"Timestamp,Power (W)\n{rows}")
    assert trace.clock_s == began.timestamp() and trace.clock_basis == "utc"
