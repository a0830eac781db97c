"""A trace of many samples drawn as a band: what the pixels show of it."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF

from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.power_chart import PowerChart

COUNT = 400_000


@pytest.fixture
def chart(qtbot):
    made = PowerChart("Power")
    qtbot.addWidget(made)
    made.resize(900, 500)
    made.show()
    return made


def columns_of_line(chart):
    """For each column of pixels, how many are in the colour of the line."""
    picture = chart.grab().toImage()
    line = theme.colour("trace").rgb()
    found = [
        sum(picture.pixel(x, y) == line for y in range(picture.height()))
        for x in range(picture.width())
    ]
    view = chart.plot.getViewBox().sceneBoundingRect()
    return np.array(found[int(view.left()) + 2 : int(view.right()) - 20])


def shown(chart, watts):
    chart.show_trace(np.arange(watts.size) * 0.1, watts)
    return columns_of_line(chart)


def test_a_level_trace_is_a_line_all_along(chart):
    found = shown(chart, np.full(COUNT, 300.0))
    assert found.min() >= 1 and found.max() <= 3


def test_a_single_sample_that_is_higher_is_seen(chart):
    watts = np.full(COUNT, 300.0)
    watts[COUNT // 2] = 600.0
    found = shown(chart, watts)
    high = np.flatnonzero(found > 100)
    assert 1 <= high.size <= 3 and abs(high[0] / found.size - 0.5) < 0.03


def test_a_leap_is_joined_up(chart):
    found = shown(chart, np.where(np.arange(COUNT) < COUNT // 2, 100.0, 500.0))
    assert (found > 150).sum() in (1, 2, 3)


def test_a_hole_stays_a_hole(chart):
    watts = np.full(COUNT, 300.0)
    watts[COUNT // 4 : COUNT // 2] = np.nan
    found = shown(chart, watts)
    empty = np.flatnonzero(found == 0)
    assert 0.2 < empty.size / found.size < 0.3 and np.all(np.diff(empty) == 1)


def test_nearer_by_the_samples_are_joined_by_a_line(chart):
    watts = np.full(COUNT, 300.0)
    shown(chart, watts)
    chart.plot.setXRange(100.0, 104.0, padding=0)
    assert columns_of_line(chart).min() >= 1
    shown(chart, np.empty(0))


def test_below_it_is_filled_without_seam_or_hole(chart):
    """Noise, slopes, a drop to nothing and a feed back: each pixel below has one coat of paint."""
    at = np.arange(COUNT) / COUNT
    watts = 300 + 150 * np.sin(9 * at) + np.random.default_rng(1).normal(0, 4, COUNT)
    watts[at > 0.8] = 0.0
    watts[at > 0.9] = -40.0
    shown(chart, watts)
    chart.plot.setYRange(-100.0, 600.0, padding=0)
    chart.plot.showGrid(x=False, y=False)
    picture, view = chart.grab().toImage(), chart.plot.getViewBox()
    bounds = view.sceneBoundingRect()
    zero = int(view.mapViewToScene(QPointF(0.0, 0.0)).y())
    line = theme.colour("trace").rgb()
    coats = set()
    for x in range(int(bounds.left()) + 2, int(bounds.left() + 0.77 * bounds.width())):
        lowest = max(y for y in range(zero) if picture.pixel(x, y) == line)
        coats |= {picture.pixel(x, y) for y in range(lowest + 1, zero - 1)}
    fed_back = int(bounds.left() + 0.93 * bounds.width())
    coats |= {picture.pixel(fed_back, zero + 5)}
    assert len(coats) == 1 and coats != {theme.colour("paper").rgb()}
