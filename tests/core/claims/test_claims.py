"""Kinds of claims, packs, contradictions, and the ports they describe."""

import pytest

from yardtoll.core.claims.contradictions import binding_limit, find_contradictions
from yardtoll.core.claims.kinds import (
    CLAIM_KINDS,
    Claim,
    GoodSide,
    impossible_together,
    value_is_wrong,
)
from yardtoll.core.claims.packs import check_pack, pack_wh
from yardtoll.core.claims.ports import port_groups
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import METHODS, Flow


def claim(kind, value, source="manual", condition="", **rest):
    return Claim(kind=kind, value=value, source=source, condition=condition, **rest)


class TestKinds:
    def test_the_table_holds_together(self):
        for key, kind in CLAIM_KINDS.items():
            assert key == kind.key and kind.title
            assert (
                kind.good_side is not GoodSide.NOMINAL
                or not kind.tolerance
                or kind.tolerance <= 0.1
            )

    @pytest.mark.parametrize(
        ("kind", "value", "said"),
        [
            ("rated_wh", 0, "Rated energy is 0 Wh; it must be above 0"),
            ("rated_wh", float("nan"), "Rated energy needs a figure"),
            ("weight_kg", 9000, "Weight is 9000 kg; more than 2000 is not plausible"),
            ("pure_sine", 0.5, "Pure sine is yes or no"),
            ("speed", 1, '"speed" is not a known kind of claim'),
            ("use_c_min", -200, "Coldest use is -200 °C; that is not plausible"),
            ("use_c_min", -20, ""),
        ],
    )
    def test_values_that_cannot_be_meant(self, kind, value, said):
        assert value_is_wrong(kind, value) == said
        if said:
            with pytest.raises(UnusableDataError):
                claim(kind, value)

    def test_as_shown(self):
        shown = [claim("rated_wh", 2048).shown, claim("ups", 1).shown, claim("ups", 0).shown]
        assert shown == ["2048 Wh", "yes", "no"]
        assert claim("chemistry", None, words="LFP").shown == "LFP"

    def test_impossible_pairs_only_within_a_source(self):
        pair = [claim("continuous_w", 2000), claim("surge_w", 1500)]
        assert impossible_together(pair) == [
            "The surge power is below the continuous power (manual): 2000 W against 1500 W"
        ]
        assert impossible_together([pair[0], claim("surge_w", 1500, "label")]) == []
        assert impossible_together([claim("solar_v_min", 60), claim("solar_v_max", 12)])
        assert impossible_together([claim("continuous_w", 2000), claim("surge_w", 2000)]) == []


class TestPacks:
    # Common practice, no source: cells in series × nominal V × Ah.
    @pytest.mark.parametrize(
        ("cells", "volts", "amp_hours", "energy_wh"),
        [(1, 3.6, 83.2, 299.5), (5, 3.2, 18, 288.0)],
    )
    def test_arithmetic(self, cells, volts, amp_hours, energy_wh):
        assert pack_wh(cells, volts, amp_hours) == pytest.approx(energy_wh, abs=0.05)

    def test_more_than_two_percent_is_flagged(self):
        cells = [claim("cells_series", 16), claim("cell_v", 3.2), claim("pack_ah", 40)]
        fits = check_pack(cells, 2048)
        assert not fits.flagged and "fits 2048 Wh rated" in fits.sentence
        short = check_pack(cells, 2100)
        assert short.flagged and "2.5% less than the 2100 Wh rated" in short.sentence
        assert check_pack(cells[:2], 2048) is None

    def test_the_chemistry_gives_the_cells_volts(self):
        cells = [claim("cells_series", 5), claim("pack_ah", 18),
                 claim("chemistry", None, words="LFP")]  # fmt: skip
        assert check_pack(cells, 288).pack_wh == pytest.approx(288)
        assert check_pack([claim("pack_ah", 83.2), claim("pack_v", 3.6)], 300).pack_wh == (
            pytest.approx(299.52)
        )


class TestContradictions:
    def test_the_safer_limit_binds_and_each_is_judged_alone(self):
        label, manual = claim("solar_a", 10, "label"), claim("solar_a", 15)
        (found,) = find_contradictions([label, manual], 1000)
        assert found.binding is label and set(found.claims) == {label, manual}
        assert "Connect nothing beyond 10 A" in found.sentence
        assert "Each claim is judged on its own" in found.sentence

    def test_of_a_windows_low_end_the_higher_is_safer(self):
        low, high = claim("solar_v_min", 11, "label"), claim("solar_v_min", 18)
        assert binding_limit([low, high], "solar_v_min") is high
        assert binding_limit([], "solar_v_min") is None

    def test_other_figures_say_how_they_will_be_judged(self):
        (found,) = find_contradictions(
            [claim("rated_wh", 1000, "label"), claim("rated_wh", 1050, "listing")], 1000
        )
        assert found.binding is None
        assert found.sentence.endswith("Each is judged on its own; 1050 is the harder to meet.")

    def test_rounding_and_alternatives_are_none(self):
        assert find_contradictions([claim("rated_wh", 2048), claim("rated_wh", 2050)], 2048) == []
        both = [claim("ac_hz", hz, condition="selectable") for hz in (50, 60)]
        assert find_contradictions(both, 1000) == []
        windows = [claim("recharge_min", 45, condition="0–80 %"),
                   claim("recharge_min", 70, condition="0–100 %")]  # fmt: skip
        assert find_contradictions(windows, 1000) == []

    def test_inputs_that_do_not_add_up(self):
        (found,) = find_contradictions(
            [claim("recharge_w", 500), claim("solar_w", 300),
             claim("combined_in_w", 700, "listing")], 1000,
        )  # fmt: skip
        assert "make 800 W, but 700 W is claimed for both: the station caps the sum" in (
            found.sentence
        )

    def test_a_port_whose_watts_are_not_volts_times_amps(self):
        port = [claim("car_out_v", 12), claim("car_out_a", 10), claim("car_out_w", 150)]
        (found,) = find_contradictions(port, 1000)
        assert "12 V × 10 A make 120 W, but 150 W is claimed" in found.sentence

    def test_safety_stands_first(self):
        found = find_contradictions(
            [claim("rated_wh", 1, "a"), claim("rated_wh", 2, "b"),
             claim("solar_v_max", 60, "a"), claim("solar_v_max", 150, "b")], 1,
        )  # fmt: skip
        assert [c.binding is not None for c in found] == [True, False]


class TestPorts:
    def test_groups_counts_limits_and_what_is_tested(self):
        groups = port_groups(
            [
                claim("ac_outlets", 4), claim("ac_v", 120), claim("surge_w", 4000),
                claim("usb_c_w", 100, condition="1 port"),
                claim("usb_c_w", 30, condition="2 ports"),
                claim("usb_a_ports", 2), claim("usb_shared_w", 160),
                claim("car_out_v", 12), claim("car_out_shared_w", 130),
                claim("recharge_w", 1400), claim("solar_v_min", 11), claim("solar_v_max", 60),
                claim("solar_v_max", 150, "listing"), claim("combined_in_w", 1800),
            ],
            2000,
            tested={"usable_wh", "rated_wh", "recharge_w"},
        )  # fmt: skip
        by_title = {group.title: group for group in groups}
        assert list(by_title) == ["AC output", "USB", "12 V socket", "Inputs"]
        ac = by_title["AC output"]
        assert ac.shared == "2000 W together, surge 4000 W"
        assert (ac.ports[0].count, ac.ports[0].rating, ac.ports[0].tested) == (4, "120 V", True)
        assert [(p.count, p.rating) for p in by_title["USB"].ports] == [
            (1, "100 W"), (2, "30 W"), (2, ""),
        ]  # fmt: skip
        assert by_title["USB"].shared == "160 W together"
        inputs = by_title["Inputs"]
        assert [(p.label, p.rating, p.tested) for p in inputs.ports] == [
            ("Wall", "1400 W", True), ("Sun", "11–60 V", False),
        ]  # fmt: skip
        assert inputs.shared == "1800 W together" and inputs.is_input


class TestMethods:
    def test_each_says_what_it_is_for_and_warns(self):
        assert len(METHODS) == 23
        for key, method in METHODS.items():
            assert method.key == key and method.aim and method.steps and method.ends_when
            assert method.sources and method.sizes and method.cautions
            falls = method.soc[0] > method.soc[1]
            assert falls is (method.flow is not Flow.IN)

    def test_schools_of_power(self):
        capacity = METHODS["capacity_ac"]
        # Common practice, no source: 0.2C of 2048 Wh is 409.6 W.
        assert capacity.sizes[0].target_w(2048, 2000) == pytest.approx(409.6)
        assert capacity.size("1c").target_w(2048, 2000) == 2048
        assert capacity.size("rated").target_w(2048, 2000) == 2000
        assert capacity.size("real").target_w(2048, 2000) is None
        assert [METHODS["overload"].size(s).target_w(2048, 2000) for s in ("105", "150")] == [
            2100, 3000,
        ]  # fmt: skip
        assert METHODS["hold"].size("15min").hold_s == 900

    def test_they_know_the_claims_they_speak_to(self):
        assert METHODS["hold"].speaks_to[0].key == "continuous_w"
        assert "solar_w" in [k.key for k in METHODS["recharge_sun"].speaks_to]

    def test_discharges_warn_of_leaving_and_sun_of_volts(self):
        for method in METHODS.values():
            words = " ".join(method.cautions)
            if method.flow is Flow.OUT:
                assert "unattended" in words
            if "sun" in method.key:
                assert "Cover panels" in words and "not switches" in words
