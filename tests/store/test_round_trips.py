"""Whatever a log's dialect, the same samples come out; readers and the writer do not meet."""

import threading

import numpy as np
import polars as pl
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from yardtoll.core.discharge.analysis import Rating, analyse_discharge
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.logs.numbers import NumberStyle, guess_style, to_numbers, unit_scale
from yardtoll.store.logs.read import open_log, read_log
from yardtoll.store.logs.sniff import sniff
from yardtoll.store.logs.table import read_table
from yardtoll.store.records import Recording, Run, Station
from yardtoll.store.yard_file import YardFile

POWER = Quantity.POWER


@st.composite
def dialects(draw):
    """How a meter may write its log."""
    delimiter = draw(st.sampled_from([",", ";", "\t", "|"]))
    decimal = draw(st.sampled_from([".", ","])) if delimiter != "," else "."
    return {
        "delimiter": delimiter,
        "decimal": decimal,
        "thousands": draw(st.sampled_from(["", " ", "'"])),
        "quoted": draw(st.booleans()),
        "header": draw(st.sampled_from(["Power (W)", "P [W]", "power_w", "Watts", "Load, W"])),
        "unit": draw(st.sampled_from(["", " W", "W"])),
        "comment": draw(st.booleans()),
        "newline": draw(st.sampled_from(["\n", "\r\n"])),
        "encoding": draw(st.sampled_from(["utf-8", "utf-8-sig", "utf-16", "cp1252"])),
        "clock": draw(st.booleans()),
    }


def written(dialect, power):
    def number(value):
        whole, fraction = f"{value:.2f}".split(".")
        if dialect["thousands"] and len(whole) > 3:
            whole = f"{whole[:-3]}{dialect['thousands']}{whole[-3:]}"
        return whole + dialect["decimal"] + fraction

    def cell(text):
        clash = dialect["delimiter"] in text
        return f'"{text}"' if dialect["quoted"] or clash else text

    def moment(i):
        return (
            f"{i // 360:d}:{i // 6 % 60:02d}:{i % 6 * 10:02d}" if dialect["clock"] else str(10 * i)
        )

    lines = ["# a meter"] if dialect["comment"] else []
    lines.append(dialect["delimiter"].join([cell("Time"), cell(dialect["header"])]))
    lines += [
        dialect["delimiter"].join([cell(moment(i)), cell(number(p) + dialect["unit"])])
        for i, p in enumerate(power)
    ]
    text = dialect["newline"].join(lines) + dialect["newline"]
    return text.encode(dialect["encoding"])


@settings(
    max_examples=120, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(dialects(), st.lists(st.floats(0, 9999).map(lambda p: round(p, 2)), min_size=6, max_size=30))
def test_every_dialect_reads_back_the_same(tmp_path, dialect, power):
    path = tmp_path / "log.csv"
    path.write_bytes(written(dialect, power))
    trace = read_log(path)
    np.testing.assert_allclose(trace.time_s, 10.0 * np.arange(len(power)))
    np.testing.assert_allclose(trace.columns[POWER], power)


@pytest.mark.parametrize(
    ("unit", "base", "factor"),
    [
        ("W", "W", 1), ("kW", "W", 1000), ("KW", "W", 1000), ("mW", "W", 0.001), ("MW", "W", 1e6),
        ("kWh", "Wh", 1000), ("mV", "V", 0.001), ("wh", "Wh", 1), ("V", "W", None), ("", "W", None),
    ],
)  # fmt: skip
def test_units(unit, base, factor):
    found = unit_scale(unit, base)
    assert found is None if factor is None else found == pytest.approx(factor)


@pytest.mark.parametrize(
    ("cells", "comma_parts", "decimal"),
    [
        (["230.1", "412"], True, "."),
        (["230,1", "412,5"], False, ","),
        (["1,234.5"], False, "."),
        (["1.234,5"], False, ","),
        (["1,234", "999"], True, "."),
        (["1,234", "999"], False, ","),
        (["0,412", "0,999"], False, ","),
        (["412", "413"], False, "."),
        ([".5", ".6"], False, "."),
        (["12:30:05", "2026-05-14"], False, "."),
    ],
)
def test_the_decimal_mark(cells, comma_parts, decimal):
    assert guess_style([pl.Series(cells)], comma_parts).decimal == decimal


def test_a_unit_of_another_quantity_is_no_number_of_this_one():
    cells = pl.Series(["230 V", "412 W", "0.5 kW", "abc", "7 apples"])
    found = to_numbers(cells, NumberStyle(), "W")
    np.testing.assert_allclose(found, [np.nan, 412, 500, np.nan, np.nan])


def test_a_column_that_turns_to_words_far_down_is_still_read(tmp_path):
    path = tmp_path / "log.csv"
    rows = "".join(f"{i},{400 + i % 3}\n" for i in range(3000))
    path.write_text("time,power\n" + rows + "3000,OVERLOAD\n# end of log\n3001,400 W\n")
    trace = read_log(path)
    assert trace.time_s[-1] == 3001 and np.isnan(trace.columns[POWER][3000])
    assert "1 in power" in trace.notices[0].message


def test_bare_numbers_are_read_as_numbers_at_once(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("time,power,note\n0,400,a\n10,401,b\n")
    assert sniff(path).plain == (True, True, False)
    assert read_table(path).frame.dtypes == [pl.Float64, pl.Float64, pl.String]


def test_lines_are_named_as_they_stand_in_the_file(tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("# one\n\ntime,power,x\n0,1,a\n# five\n\n1,2,b\n2,3,c\n")
    table = open_log(path).table
    assert [table.line_of(row) for row in (0, 1, 2)] == ["line 4", "line 7", "line 8"]


def test_a_spreadsheet_that_is_none_is_one_sentence(tmp_path):
    from yardtoll.store.errors import LogError

    for name in ("log.xlsx", "log.parquet", "log.ods"):
        path = tmp_path / name
        path.write_bytes(b"not what it says")
        with pytest.raises(LogError, match=name) as error:
            read_log(path)
        assert "\n" not in str(error.value)


def test_a_spreadsheet_with_dates_and_numbers(tmp_path):
    from datetime import UTC, datetime, timedelta

    start = datetime(2026, 5, 14, 10)
    frame = pl.DataFrame(
        {
            "Timestamp": [start + timedelta(seconds=10 * i) for i in range(20)],
            "Power (kW)": [0.4] * 20,
        }
    )
    for name in ("log.xlsx", "log.parquet"):
        path = tmp_path / name
        (frame.write_excel if name.endswith("xlsx") else frame.write_parquet)(path)
        trace = read_log(path)
        assert trace.clock_s == start.replace(tzinfo=UTC).timestamp()
        np.testing.assert_allclose(trace.columns[POWER], 400)
        np.testing.assert_allclose(trace.time_s, 10.0 * np.arange(20))


def test_reading_while_recording_never_sees_half_a_block(tmp_path):
    """One thread appends as the recorder does, others read as the window does."""
    with YardFile.create(tmp_path / "a.yard", "A") as yard:
        station = yard.put(Station(name="S", rated_wh=100, rated_w=100))
        run = yard.put(
            Run(station_id=station.id, number=1, method="m", state="running", origin="live",
                started_at="2026-01-01T00:00:00+00:00")
        )  # fmt: skip
        recording = Recording(run_id=run.id, role="ac_output", quantities=(POWER.value,))
        main = yard.put(recording).id
        done, wrong = threading.Event(), []

        def read():
            while not done.is_set():
                trace = yard.trace(run.id)
                if trace is not None and (
                    trace.time_s.size % 10 or not np.all(trace.columns[POWER] == trace.time_s)
                ):
                    wrong.append(trace.time_s.size)

        readers = [threading.Thread(target=read) for _ in range(3)]
        for reader in readers:
            reader.start()
        for block in range(150):
            t = np.arange(10.0) + 10 * block
            yard.append_samples(main, t, {POWER: t})
            if block == 100:
                yard.merge_samples(run.id)
        done.set()
        for reader in readers:
            reader.join()
        assert wrong == [] and yard.trace(run.id).time_s.size == 1500


def test_a_log_and_its_copy_in_the_yard_come_to_the_same(tmp_path):
    from yardtoll.store.importing import import_logs

    path = tmp_path / "log.csv"
    rows = "".join(
        f"{i},{0 if i < 30 or i > 900 else 400 + i % 7},{120 - i % 3}\n" for i in range(1000)
    )
    path.write_text("time,power,volts\n" + rows)
    direct = analyse_discharge([read_log(path)], Rating(rated_wh=100))
    import_logs([path], tmp_path / "a.yard", "S", rated_wh=100, rated_w=600)
    with YardFile.open(tmp_path / "a.yard") as yard:
        kept = analyse_discharge([yard.trace(yard.runs()[0].id)], Rating(rated_wh=100))
    assert kept == direct
