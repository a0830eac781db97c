"""Packs beside each other: how far apart, by hand."""

import pytest

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output.packs import packs_of


def line(minute, pack, soc):
    return {"minute_min": float(minute), "pack": pack, "soc_percent": float(soc)}


def test_the_furthest_apart_is_among_readings_of_one_time():
    found = packs_of([
        line(0, "station", 100), line(1, "pack 1", 100), line(60, "station", 71),
        line(61, "pack 1", 78), line(120, "station", 40), line(125, "pack 1", 66),
    ])  # fmt: skip
    assert found.packs == ("station", "pack 1") and found.apart == (60, 7)
    assert found.last["pack 1"].soc_percent == 66
    alone = packs_of([line(0, "station", 90), line(30, "pack 1", 80)])
    assert alone.apart is None


def test_lines_without_a_pack_say_nothing():
    with pytest.raises(UnusableDataError):
        packs_of([{"minute_min": 1.0, "soc_percent": 4.0}])
