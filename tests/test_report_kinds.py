"""Tables and JSON of recharges, losses, idle tests, mixes and claims: what is said and left out."""

import json

import numpy as np
import pytest

from yardtoll.core.charge.analysis import (
    ChargeWindow,
    analyse_recharge,
    recharge_from_energy,
)
from yardtoll.core.charge.soc_times import SocReading
from yardtoll.core.claims.reading.read import read_claims
from yardtoll.core.electrical.energy import Gap
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Notice, Trace
from yardtoll.core.ledger.idle import Store, idle_draw
from yardtoll.core.ledger.loss_figures import loss_figures
from yardtoll.core.ledger.loss_fit import RunAtLoad
from yardtoll.core.ledger.losses import fit_losses
from yardtoll.core.planning.loads import LoadSetting, LoadSpec, MixLimits
from yardtoll.core.planning.mixing import mix_loads
from yardtoll.core.uncertainty.figure import by_key
from yardtoll.report.tables.claims import claims_json, claims_table
from yardtoll.report.tables.idle import idle_json, idle_table
from yardtoll.report.tables.losses import losses_json, losses_table
from yardtoll.report.tables.mix import mix_json, mix_table
from yardtoll.report.tables.recharge import recharge_json, recharge_table
from yardtoll.report.tables.rows import gaps_json, table, warnings_json

T = np.arange(0.0, 4000, 10)
CHARGE = Trace(
    name="wall",
    time_s=T,
    columns={Quantity.POWER: np.where((T >= 100) & (T <= 3700), 500.0, 0.0)},
)


def strict(data):
    """As strict JSON and back; NaN is refused."""
    return json.loads(json.dumps(data, allow_nan=False))


class TestRows:
    def test_columns_line_up_and_warnings_follow(self):
        notice = Notice(code=Code.GAP, message="a gap")
        assert table([("A", "1"), ("Longer", "2")], [notice]) == (
            "A       1\nLonger  2\n! a gap [gap]"
        )
        assert warnings_json([notice]) == [{"code": "gap", "message": "a gap"}]

    def test_gaps(self):
        gap = Gap(start_s=1, end_s=2, bridged_by="line", energy_wh=3, could_hide_wh=4)
        assert gaps_json([gap]) == [
            {"start_s": 1, "end_s": 2, "bridged_by": "line", "energy_wh": 3, "could_hide_wh": 4}
        ]


class TestRecharge:
    READINGS = (SocReading(s=0, soc=0), SocReading(s=1800, soc=50), SocReading(s=3600, soc=100))

    def test_a_table_of_everything(self):
        window = ChargeWindow(rated_wh=480, delivered_wh=430)
        text = recharge_table(analyse_recharge(CHARGE, window, self.READINGS))
        for said in (
            "Drawn              501.4 Wh",
            "full power",
            "To 80 %            0:48:00 ± ",
            "Round trip         85.8 % (delivered ÷ drawn)",
            "Charge efficiency  95.7% (by the rated energy)",
        ):
            assert said in text
        assert "!" not in text

    def test_a_fitted_store_is_named(self):
        result = recharge_from_energy(500, ChargeWindow(rated_wh=480, stored_wh=450))
        assert "90.0% (by the fitted store)" in recharge_table(result)
        assert strict(recharge_json(result))["charge_efficiency"] == {
            "value": 0.9, "basis": "fitted_store",
        }  # fmt: skip

    def test_what_cannot_be_told_is_left_out_or_null(self):
        result = recharge_from_energy(500, ChargeWindow(rated_wh=480, soc_from=80, soc_to=20))
        assert recharge_table(result).splitlines()[0] == "Drawn  500.0 Wh"
        found = strict(recharge_json(result))
        assert found["duration_s"] is None and found["charge_efficiency"]["value"] is None


class TestLossesAndIdle:
    RUNS = tuple(
        RunAtLoad(energy_wh=p * 2000 / (p + 18 + n), duration_s=3600 * 2000 / (p + 18 + n))
        for p, n in ((100, 0), (300, 1), (700, -2), (1500, 1))
    )

    def test_terms_with_and_without_u(self):
        text = losses_table(fit_losses(self.RUNS, 2048, rated_w=2000))
        assert "Usable store" in text and "(k = 2)" in text and "Euro efficiency" in text
        assert "at most" in text
        exact = losses_table(fit_losses(self.RUNS[:2], 2048))
        assert "(k = 2)" in exact and "Euro" not in exact

    def test_each_term_is_a_figure_with_the_fit_as_its_budget(self):
        split = fit_losses(self.RUNS, 2048, rated_w=2000)
        figures = by_key(loss_figures(split))
        assert figures["e0_wh"].expanded == pytest.approx(2 * split.e0_wh.u)
        assert figures["p1"].budget is None and figures["p1"].shown == "0.0 %"
        assert figures["p2_per_w"].shown == "(0.0 ± 1.7)·10⁻⁵ 1/W"
        assert all(f"{f.title} " in losses_table(split) for f in figures.values())

    def test_intervals_in_json(self):
        found = strict(losses_json(fit_losses(self.RUNS, 2048)))
        low, high = found["intervals_95"]["e0_wh"]
        assert low < found["e0_wh"] < high and found["intervals_95"]["p1"] is None

    def test_nothing_told(self):
        found = strict(losses_json(fit_losses(self.RUNS[:1], 2048)))
        assert found["p0_w"] is None and found["residuals_wh"] == []
        assert losses_table(fit_losses(self.RUNS[:1], 2048)).startswith("! one run cannot")

    def test_idle(self):
        still = idle_draw(Store.rated(1280), 90, 90, 36_000)
        assert "Full to empty" not in idle_table(still)
        assert strict(idle_json(still))["hours_to_empty"] is None
        assert "2.78 ± 0.22 days" in idle_table(idle_draw(Store.rated(1280), 100, 85, 36_000))


class TestMixAndClaims:
    LOADS = (LoadSpec(name="Heater", settings=(LoadSetting(name="low", watts=400),)),)

    def test_nothing_fits(self):
        result = mix_loads(400, self.LOADS, MixLimits(inverter_w=100))
        assert mix_table(result).startswith("! no load fits the limits for 400 W")
        found = strict(mix_json(result))
        assert found["best"] == [] and found["optimal"] is True
        assert found["ruled_out"][0]["limit"] == "inverter: 100 W"

    @pytest.mark.parametrize(
        ("text", "value"),
        [("Chemistry: LFP", "LFP"), ("UPS: no", False), ("Weight: 10 kg", 10.0)],
    )
    def test_values_of_every_sort(self, text, value):
        (claim,) = strict(claims_json(read_claims(text)))["claims"]
        assert claim["value"] == value and type(claim["value"]) is type(value)

    def test_words_for_a_shell(self):
        assert "yes" in claims_table(read_claims("Pass-through charging: yes"))
        assert claims_table(read_claims("a blue box")) == "no claim was found"
