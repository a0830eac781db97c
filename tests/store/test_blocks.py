"""Blocks of samples: packed and unpacked to the last bit, and refused where they are damaged."""

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.store.blocks import MAGIC, checksum, from_bytes, is_sound, to_bytes
from yardtoll.store.records import Recording, Run, Station
from yardtoll.store.yard_file import YardFile

ODD = [np.nan, np.inf, -np.inf, -0.0, 5e-324, 1e308, 0.1 + 0.2]


def meter_log(count=100_000):
    """As a plug-in meter writes it: tenths of a watt and of a volt, a counter, the mains' hertz."""
    random_ = np.random.default_rng(1)
    watts = np.round(400 + np.cumsum(random_.normal(0, 0.05, count)), 1)
    volts = np.round(120 + random_.normal(0, 0.2, count), 1)
    wh = np.round(np.cumsum(watts) / 36_000, 1)
    return np.stack([np.arange(count) * 0.1, watts, volts, wh, np.full(count, 60.0)])


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 3), st.integers(1, 700), st.randoms(use_true_random=False))
def test_to_the_last_bit(width, rows, chance):
    table = np.array([[chance.choice([*ODD, chance.random()]) for _ in range(rows)]] * width)
    data = to_bytes(table)
    assert is_sound(rows, width, data, checksum(data))
    assert from_bytes(data, rows, width).tobytes() == table.tobytes()


@settings(max_examples=20, deadline=None)
@given(arrays(np.float64, (2, 300)))
def test_any_figures_at_all(table):
    assert from_bytes(to_bytes(table), 300, 2).tobytes() == table.tobytes()


def test_a_meters_log_takes_a_quarter_or_less_and_what_does_not_change_nothing():
    table = meter_log()
    assert table.nbytes > 8 * len(to_bytes(table))
    # Not so where every figure has all its digits, as from a calculation.
    noise = np.random.default_rng(1).normal(0, 1, (1, 5000))
    assert len(to_bytes(noise)) <= noise.nbytes
    one_more = np.vstack([table, np.full(table.shape[1], 0.95)])
    assert len(to_bytes(one_more)) - len(to_bytes(table)) < 0.01 * 8 * table.shape[1]


def test_a_block_of_a_second_stays_bare():
    table = meter_log(10)
    assert to_bytes(table) == table.tobytes()


def test_damage_is_seen_by_its_checksum_and_never_more_than_refused():
    table = meter_log(3000)
    data = to_bytes(table)
    assert data.startswith(MAGIC)
    chance = random.Random(1)
    for _ in range(3000):
        damaged = bytearray(data)
        for _ in range(chance.randint(1, 5)):
            damaged[chance.randrange(len(damaged))] = chance.randrange(256)
        if bytes(damaged) != data:
            assert not is_sound(3000, 5, bytes(damaged), checksum(data))
        try:
            found = from_bytes(bytes(damaged), 3000, 5)
        except ValueError:
            continue
        assert found.shape == table.shape


@pytest.mark.parametrize(
    ("rows", "width", "data"),
    [
        (10**12, 2, MAGIC + b"\0" * 8),
        (300, 2, MAGIC),
        (300, 2, b""),
        (300, 2, MAGIC + b"\xff" * 10),
        (300, 1, MAGIC + b"\x10\0\0\0\xff" + b"\0" * 16),
    ],
)
def test_what_claims_to_be_one(rows, width, data):
    assert not is_sound(rows, width, data, None)
    with pytest.raises(ValueError, match="block|unpacked"):
        from_bytes(data, rows, width)


def test_a_run_is_packed_when_it_ends_and_is_the_same(tmp_path):
    table = meter_log(5000)
    columns = dict(zip([Quantity.POWER, Quantity.VOLTS], table[1:3], strict=True))
    with YardFile.create(tmp_path / "a.yard", "A") as yard:
        station = yard.put(Station(name="S", rated_wh=300, rated_w=300))
        run = yard.put(
            Run(station_id=station.id, number=1, method="capacity_ac", state="running",
                origin="live", started_at="2026-01-01T00:00:00+00:00")
        )  # fmt: skip
        kept = yard.put(Recording(run_id=run.id, role="ac_output", quantities=("power", "volts")))
        for start in range(0, 5000, 50):
            rows = slice(start, start + 50)
            yard.append_samples(kept.id, table[0, rows], {q: c[rows] for q, c in columns.items()})
        before = yard.trace(run.id)
        yard.merge_samples(run.id)
        after = yard.trace(run.id)
        with yard.reading() as connection:
            (data,) = connection.exec_driver_sql("SELECT data FROM recording_block").scalars()
    assert data.startswith(MAGIC) and len(data) < 8 * 3 * 5000 / 4
    assert isinstance(after, Trace)
    assert after.time_s.tobytes() == before.time_s.tobytes()
    for quantity in columns:
        assert after.columns[quantity].tobytes() == before.columns[quantity].tobytes()
