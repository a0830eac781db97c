"""The full ledger, repeats, the display audit, and the watch over a charge."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.discharge.display_audit import Shown, audit_display
from yardtoll.core.discharge.repeats import Repeat, alike, repeat_figures
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.ledger.cycle import Cycle, cycle_ledger
from yardtoll.core.ledger.loss_fit import IdleDraw, RunAtLoad
from yardtoll.core.ledger.losses import fit_losses
from yardtoll.core.live.charge_watch import watch_charged

P0_W, P2 = 18.0, 1.2e-5


def run_at(power_w, e0_wh=2000.0):
    hours = e0_wh / (power_w + P0_W + P2 * power_w**2)
    return RunAtLoad(energy_wh=power_w * hours, duration_s=3600 * hours)


SPLIT = fit_losses([run_at(p) for p in (100, 500, 1500)], 2048)


def discharge(energy_wh=1865.0, hours=4.5, **rating):
    return discharge_from_energies(
        [energy_wh], Rating(rated_wh=2048, **rating), duration_s=3600 * hours
    )


class TestCycleLedger:
    def test_every_gate_from_the_wall_to_the_load(self):
        run = run_at(400)
        found = discharge(run.energy_wh, run.hours)
        ledger = cycle_ledger(Cycle(discharge=found, drawn_wh=2250, split=SPLIT))
        assert (ledger.start_title, ledger.start_kind) == ("From the wall", EnergyKind.WALL)
        assert [t.title for t in ledger.tolls] == [
            "Charger and conversion", "Overhead", "Conversion, ohmic part", "Unaccounted",
        ]  # fmt: skip
        assert "cannot be separated from it" in ledger.tolls[0].evidence
        charger, overhead, conversion, rest = (t.energy_wh for t in ledger.tolls)
        assert charger == pytest.approx(250)
        assert overhead == pytest.approx(P0_W * run.hours)
        assert conversion == pytest.approx(P2 * 400**2 * run.hours)
        assert rest == pytest.approx(0, abs=1e-6)

    def test_without_a_recharge_it_starts_from_the_rating(self):
        ledger = cycle_ledger(Cycle(discharge=discharge(), split=SPLIT))
        assert ledger.start_wh == 2048 and (ledger.tolls[0].title == "Reserve and conversion")
        assert ledger.tolls[0].energy_wh == pytest.approx(48) and (
            ledger.tolls[0].kind is EnergyKind.FLOOR
        )

    def test_without_a_split_nothing_inside_is_told_apart(self):
        (lost,) = cycle_ledger(Cycle(discharge=discharge(), drawn_wh=2250)).tolls
        assert lost.energy_wh == pytest.approx(385) and "separate them" in lost.evidence
        one = fit_losses([run_at(400)], 2048)
        assert cycle_ledger(Cycle(discharge=discharge(), split=one)).tolls[0].title == (
            "Not delivered"
        )

    def test_two_loads_leave_the_conversion_out(self):
        split = fit_losses([run_at(100), run_at(800)], 2048)
        tolls = cycle_ledger(Cycle(discharge=discharge(), split=split)).tolls
        assert [t.title for t in tolls] == ["Reserve and conversion", "Overhead", "Unaccounted"]

    def test_a_sharp_idle_test_parts_charger_and_conversion(self):
        sharp = fit_losses(
            [run_at(p) for p in (100, 500, 1500)], 2048, idle=IdleDraw(watts=18.0, u_w=0.0)
        )
        assert not sharp.conversion_held
        tolls = cycle_ledger(Cycle(discharge=discharge(), drawn_wh=2250, split=sharp)).tolls
        assert [t.title for t in tolls] == ["Charger", "Overhead", "Conversion", "Unaccounted"]

    @given(
        st.floats(1, 5000), st.floats(0.1, 60), st.none() | st.floats(1, 9000), st.booleans(),
        st.sampled_from([0.0, 10.0, 50.0]),
    )  # fmt: skip
    def test_it_always_adds_up(self, energy_wh, hours, drawn_wh, fitted, soc_to):
        cycle = Cycle(
            discharge=discharge(energy_wh, hours, soc_to=soc_to),
            drawn_wh=drawn_wh,
            split=SPLIT if fitted else None,
        )
        ledger = cycle_ledger(cycle)
        scale = max(ledger.start_wh, energy_wh, *(abs(t.energy_wh) for t in ledger.tolls))
        assert abs(ledger.imbalance_wh) <= 1e-9 * scale


class TestRepeats:
    def repeat(self, number, energy_wh, mean_w=400.0, own_u_wh=0.5):
        return Repeat(number=number, energy_wh=energy_wh, mean_w=mean_w, own_u_wh=own_u_wh)

    def test_mean_deviation_and_spread(self):
        found = repeat_figures([self.repeat(i, e) for i, e in enumerate((1840, 1850, 1860))])
        assert (found.count, found.mean_wh, found.spread_wh) == (3, 1850, 20)
        assert found.stdev_wh == pytest.approx(10)  # by hand: √((100 + 0 + 100) ÷ 2)

    def test_one_that_lies_off_is_named(self):
        found = repeat_figures([self.repeat(1, 1850), self.repeat(2, 1850.5), self.repeat(3, 1800)])
        assert 3 in found.off
        calm = repeat_figures(
            [self.repeat(1, 1850, own_u_wh=30), self.repeat(2, 1820, own_u_wh=30)]
        )
        assert calm.off == ()

    def test_other_loads_are_never_averaged(self):
        runs = [self.repeat(1, 1850), self.repeat(2, 1850, mean_w=408), self.repeat(3, 1890, 800)]
        assert [r.number for r in alike(runs, 400)] == [1, 2]
        assert repeat_figures(runs[:1]) is None


class TestDisplayAudit:
    # 400 W for 5 h from 60 s on, ended at 18 060 s.
    T = np.arange(0.0, 18_120, 10)
    P = np.where((T >= 60) & (T <= 18_060), 400.0, 0.0)

    def audit(self, **readings):
        return audit_display(self.T, self.P, (60.0, 18_060.0), **readings)

    def test_soc_against_energy_left(self):
        (found,) = self.audit(soc=[Shown(s=9060, value=46)]).soc
        assert (found.shown, found.left) == (46, pytest.approx(50, abs=0.1))
        (found,) = self.audit(soc=[Shown(s=9060, value=46)], soc_to=10).soc
        assert found.left == pytest.approx(55, abs=0.1)

    # Common practice, no source: of a display's 0.9 h that lasted 50 min, 7.4 % were not given:
    # 50 ÷ 54 − 1.
    def test_time_left(self):
        (found,) = self.audit(time_left=[Shown(s=18_060 - 3000, value=3240)]).time_left
        assert found.true_s == 3000 and found.share == pytest.approx(-0.074, abs=5e-4)

    def test_the_hidden_reserve(self):
        found = self.audit(soc=[Shown(s=17_160, value=0)])
        assert found.reserve_s == 900 and found.reserve_wh == pytest.approx(100, rel=0.01)
        assert self.audit().reserve_wh is None

    def test_watts_shown(self):
        found = self.audit(watts=[Shown(s=600, value=394), Shown(s=6000, value=396)])
        assert found.gain is None and found.offset_w == pytest.approx(-5)
        power = np.where(self.T < 9000, 400.0, 800.0)
        shown = [
            Shown(s=s, value=0.98 * p + 3) for s, p in ((600, 400), (5000, 400), (12_000, 800))
        ]
        found = audit_display(self.T, power, (60.0, 18_060.0), watts=shown)
        assert (found.gain, found.offset_w) == (pytest.approx(0.98), pytest.approx(3))

    def test_readings_outside_the_run_are_left_out(self):
        found = self.audit(soc=[Shown(s=10, value=100)], time_left=[Shown(s=18_100, value=5)])
        assert found.soc == () and found.time_left == ()


class TestChargeWatch:
    def trace(self, *stretches):
        power = np.concatenate([np.full(n, float(w)) for n, w in stretches])
        return np.arange(power.size, dtype=float), power

    def test_half_an_hour_of_nothing_ends_it(self):
        assert not watch_charged(*self.trace((600, 500), (1700, 1)), full_shown=False).ended
        state = watch_charged(*self.trace((600, 500), (1900, 1)), full_shown=False)
        assert state.ended and state.since_s == 599 and "for 32 min" in state.reason

    def test_a_display_at_full_is_believed_sooner(self):
        assert watch_charged(*self.trace((600, 500), (320, 1)), full_shown=True).ended

    def test_before_and_in_a_pause_it_goes_on(self):
        for stretches in (((100, 0),), ((600, 500), (900, 4), (10, 500)), ((30, 500), (4000, 0))):
            assert not watch_charged(*self.trace(*stretches), full_shown=False).ended
