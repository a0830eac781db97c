"""Wall and sun at once: shares, the cap of the sum, and which of them yields."""

import numpy as np
import pytest

from yardtoll.core.charge.inputs_together import InputTrace, inputs_together

T = np.arange(0.0, 7200.0, 10.0)
CLOUDS = 400 + 150 * np.sin(T / 500)


def trace(name, power):
    return InputTrace(name=name, time_s=T, power_w=np.asarray(power, float))


def test_the_wall_yields_to_the_sun_under_a_cap():
    sun = np.where(T >= 1800, CLOUDS, 0.0)
    wall = np.where(T >= 1800, np.minimum(1400, 1600 - sun), 1400.0)
    found = inputs_together(trace("wall", wall), trace("sun", sun))
    assert found.cap_w == pytest.approx(1600, rel=0.01)
    assert found.yields == "wall" and found.yielded_w == pytest.approx(110, abs=40)
    assert found.together_s == pytest.approx(5400, abs=20)
    by_hand = float(np.sum(wall[T >= 1800])) / float(np.sum((wall + sun)[T >= 1800]))
    assert found.first_share == pytest.approx(by_hand, rel=0.01)
    assert found.powers_w.shape == (2, found.time_s.size)
    assert found.share_at(10) == 1.0 and found.share_at(400) == pytest.approx(
        wall[400] / (wall + sun)[400]
    )


def test_the_sun_yields_where_the_wall_has_priority():
    wall = np.where(T >= 3600, 1400.0, 0.0)
    sun = np.where(T >= 3600, np.minimum(CLOUDS, 200.0), CLOUDS)
    found = inputs_together(trace("wall", wall), trace("sun", sun))
    assert found.yields == "sun"


def test_inputs_that_add_up_have_no_cap_and_none_yields():
    wall = np.where(T >= 600, 500.0, 0.0)
    found = inputs_together(trace("wall", wall), trace("sun", CLOUDS))
    assert found.cap_w is None and found.yields == ""


def test_constant_inputs_show_no_cap():
    found = inputs_together(trace("a", np.full(T.size, 500)), trace("b", np.full(T.size, 300)))
    assert found.cap_w is None and found.first_share == pytest.approx(5 / 8)


def test_a_share_of_nothing_is_unknown():
    late = np.where(T >= 600, 500.0, 0.0)
    found = inputs_together(trace("a", late), trace("b", late))
    assert found.share_at(0) is None and found.share_at(100) == 0.5


def test_inputs_that_never_meet():
    early, late = np.where(T < 3000, 500.0, 0.0), np.where(T > 4000, 500.0, 0.0)
    assert inputs_together(trace("a", early), trace("b", late)) is None
    tomorrow = InputTrace(name="b", time_s=T + 86_400, power_w=early)
    assert inputs_together(trace("a", early), tomorrow) is None
