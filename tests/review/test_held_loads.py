"""Loads at and above the rating, told on a page; those over it on the sheet too."""

import numpy as np
import pytest
from tests.records import STATION
from tests.runs import analysed

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.review.kinds import kind_of
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Run

RATED_W = STATION.rated_w


def carried(method, *levels, ended_by="", interval_s=1.0):
    """A run of (seconds, share of rated) one after another."""
    power = np.concatenate([np.full(round(s / interval_s), share * RATED_W) for s, share in levels])
    run = Run(
        id=1, station_id=1, number=1, method=method, state="finished", origin="import",
        started_at="2026-05-01T10:00:00+00:00", ended_by=ended_by,
    )  # fmt: skip
    trace = Trace(
        name="t", time_s=interval_s * np.arange(power.size), columns={Quantity.POWER: power}
    )
    return analysed(run, STATION, trace)


def said_of(found):
    page = kind_of(found.run.method).page(found, station_runs([found]), [])
    words = " ".join("".join(str(part) for part in sentence) for sentence in page.words)
    return words, " ".join(kind_of(found.run.method).remarks(found))


def test_a_ladder_with_its_trip():
    page, sheet = said_of(
        carried("overload", (10, 0), (120, 1.0), (120, 1.05), (60, 1.2), (12, 1.5), (20, 0))
    )
    assert "(105 %) for 2 min" in page and "(150 %) for 12 s, then it tripped." in page
    assert "(100 %)" not in page and sheet == page


def test_an_accident_in_a_capacity_run_is_found():
    page, sheet = said_of(
        carried("capacity_ac", (10, 0), (600, 0.4), (30, 1.3), (600, 0.4), (20, 0))
    )
    assert "Over the rating:" in page and "(130 %) for 30 s." in page
    assert "Over the rating:" in sheet


def test_an_ordinary_discharge_says_nothing_of_it():
    page, sheet = said_of(carried("capacity_ac", (10, 0), (1200, 0.4), (20, 0)))
    assert "rating" not in page and sheet == ""


@pytest.mark.parametrize(
    ("ended_by", "words"), [("hand", "stopped by hand"), ("trip", "tripped"), ("", "not known")]
)
def test_a_hold_says_how_long_and_what_ended_it(ended_by, words):
    page, sheet = said_of(carried("hold", (10, 0), (900, 1.0), (20, 0), ended_by=ended_by))
    assert "At the rating:" in page and "(100 %) for 15 min" in page and words in page
    assert sheet == ""


@pytest.mark.parametrize(("interval_s", "words"), [(0.1, "of "), (1.0, "of at least ")])
def test_a_surge_is_at_least_by_a_slow_meter(interval_s, words):
    page, _ = said_of(
        carried("overload", (10, 0), (2, 1.9), (60, 0.5), (10, 0), interval_s=interval_s)
    )
    assert f"A surge {words}{1.9 * RATED_W:.0f} W, 190 % of rated, was carried for 2.0 s" in page
    assert ("too slow" in page) is (interval_s == 1.0)
