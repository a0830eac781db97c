"""An array against every claim of an input: which decides, what is borrowed, a measured Voc."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.run_energy import SampleLimits
from yardtoll.core.errors import ValueOutOfRangeError
from yardtoll.core.methods import METHODS
from yardtoll.core.planning.checks import CheckState, Situation, start_checks
from yardtoll.core.sun.array_check import Connect, Module, volts_at
from yardtoll.core.sun.claimed_input import check_claims, mixed_strings, panels_in_series
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.energy_budget import (
    duration_budget,
    harvest_budget,
    own_draw_budget,
    sag_budget,
)

MODULE = Module(voc_v=24.2, vmp_v=20.1, isc_a=10.6, imp_a=9.95, beta_voc=-0.0029)
AIR = {"coldest_c": -10.0, "hottest_c": 35.0}


def claim(kind, value, source):
    return Claim(kind=kind, value=value, source=source)


class TestClaims:
    def test_each_source_has_its_own_check_and_the_lowest_decides(self):
        claims = [claim("solar_v_max", 150, "manual"), claim("solar_v_max", 50, "label")]
        found = check_claims(MODULE, 2, 1, claims, **AIR)
        assert [(c.source, c.decides, c.check.connect) for c in found] == [
            ("label", True, Connect.NEVER),
            ("manual", False, Connect.OK),
        ]
        # By hand: 50 V ÷ (24.2 V × 1.1015) is 1.9, and 150 V is 5.6 of them.
        assert [c.check.max_series for c in found] == [1, 5]

    def test_what_a_source_leaves_out_comes_from_the_others(self):
        claims = [
            claim("solar_v_max", 60, "label"),
            claim("solar_v_min", 11, "manual"),
            claim("solar_v_min", 14, "app"),
            claim("solar_a", 15, "label"),
            claim("solar_w", 600, "manual"),
        ]
        (found,) = check_claims(MODULE, 2, 1, claims, **AIR)
        limits = found.limits
        # The safer of two lowest volts is the higher one.
        assert (limits.lowest_v, limits.highest_a, limits.highest_w) == (14, 15, 600)

    def test_nothing_claimed_is_nothing_checked(self):
        assert check_claims(MODULE, 2, 1, [claim("solar_w", 600, "manual")], **AIR) == []
        # Volts that run the wrong way round leave the lowest out rather than fail.
        odd = [claim("solar_v_max", 60, "label"), claim("solar_v_min", 80, "label")]
        (found,) = check_claims(MODULE, 1, 1, odd, **AIR)
        assert found.limits.lowest_v is None


class TestMeasuredVoc:
    @given(st.integers(1, 12), st.floats(-20, 70), st.floats(-0.03, 0.03))
    def test_any_count_is_told_within_a_few_per_cent(self, count, cell_c, off):
        volts = count * volts_at(MODULE.voc_v, MODULE.beta_voc, cell_c) * (1 + off)
        assert panels_in_series(volts, MODULE, 2, cell_c).count == count

    def test_between_two_counts_there_is_none(self):
        found = panels_in_series(36.3, MODULE, 2, 25)
        assert found.count is None and found.per_module_v == pytest.approx(24.2)
        assert found.expected_v == pytest.approx(48.4)

    @pytest.mark.parametrize(("volts", "cell_c"), [(0, 25), (-3, 25), (5000, 25), (48, 200)])
    def test_what_cannot_be_is_refused(self, volts, cell_c):
        with pytest.raises(ValueOutOfRangeError):
            panels_in_series(volts, MODULE, 2, cell_c)

    def test_strings_side_by_side(self):
        assert mixed_strings(40.2, 40.2) is None and mixed_strings(40.2, 38.9) is None
        assert mixed_strings(20.1, 40.2) == pytest.approx(0.5)


class TestGate:
    def check(self, method="recharge_sun", **facts):
        situation = Situation(
            method=METHODS[method], rated_w=1000, soc=(0, 100), power_w=300.0, **facts
        )
        return {check.key: check for check in start_checks(situation)}

    def test_panels_over_the_volts_stop_a_run_for_good(self):
        check = self.check(panels=(False, "Roof: never connect it."))["panels"]
        assert (
            check.state is CheckState.FAILED
            and check.hard
            and check.text == "Roof: never connect it."
        )
        check = self.check(panels=(True, "Roof: it may be connected."))["panels"]
        assert check.state is CheckState.PASSED and not check.hard

    def test_where_it_is_not_known_the_reviewer_says_so(self):
        asked = self.check()
        assert asked["panels"].by_hand and asked["open circuit"].by_hand
        ticked = self.check(confirmed=frozenset({"panels", "open circuit"}))
        assert not ticked["panels"].stops and not ticked["open circuit"].stops

    def test_no_other_run_is_asked(self):
        assert "panels" not in self.check("recharge_wall")
        assert "panels" in self.check("recharge_wall_sun")


class TestSmallBudgets:
    """Of duration, own draw, sag and harvest, each by hand with u = limit ÷ √3 and k = 2."""

    def test_by_hand(self):
        assert duration_budget((10, 10)).expanded == pytest.approx(2 * 10 * 2**0.5 / 3**0.5)
        assert own_draw_budget(9.0).expanded == pytest.approx(2 * 0.9 / 3**0.5)
        # 118 V loaded of 120 V: two digits of 0.1 V, half of either, ÷ 120 V.
        sag = sag_budget(1 / 60, 118.0, 0.1)
        by_hand = (0.05 / 120) * (1 + (59 / 60) ** 2) ** 0.5 * 2 / 3**0.5
        assert sag.expanded == pytest.approx(by_hand) and sag.unit == ""

    def test_a_harvest_has_no_ends_of_its_own(self):
        fine = SampleLimits(resolution_wh=0.0, resolution_why="")
        accuracy = MeterAccuracy(reading_share=0.01, floor_w=0.5)
        found = harvest_budget(1000.0, 7200.0, fine, (), accuracy, "m")
        assert {line.name: line.shared for line in found.lines} == {
            "Meter gain, common": "gain of m, DC",
            "Meter gain, at this level": "level of m, DC, in at 500 W",
            "Meter floor": "",
        }
        assert found.expanded == pytest.approx(2 * (10**2 + 1**2) ** 0.5 / 3**0.5)
