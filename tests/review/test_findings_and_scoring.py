"""What runs say of each kind of claim, and the evidence behind each point of the scorecard."""

import math
from dataclasses import replace

import numpy as np
import pytest
from tests.records import STATION
from tests.runs import analysed, with_in, with_run, without_meter

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim
from yardtoll.core.conformance.judging import Standing, judge_claim
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods import METHODS, method_testing
from yardtoll.review.conformance import judged_claims
from yardtoll.review.findings import findings
from yardtoll.review.scoring import evidence
from yardtoll.review.station.cycle import cycle_of, round_trip_of
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Meter, Observation, Reading, Receiving, Run

METER = Meter(
    id=1, name="M", profile="p", address="", reading_share=0.01, floor_w=0.5,
    volts_share=0.01, hertz_floor_hz=0.02,
)  # fmt: skip


def run(number, method, **facts):
    return Run(
        id=number, station_id=1, number=number, method=method, state="finished", origin="import",
        started_at=f"2026-05-{number:02d}T10:00:00+00:00", meter_id=1, **facts,
    )  # fmt: skip


def discharge(
    number=1, method="capacity_ac", watts=200.0, hours=4.3, meter=METER, soc_to=0.0, **columns
):
    t = np.arange(0, hours * 3600 + 240, 10.0)
    on = (t >= 60) & (t <= 60 + hours * 3600)
    made = {Quantity.POWER: np.where(on, watts, 0.0)}
    made |= {Quantity(name): make(t, on) for name, make in columns.items()}
    trace = Trace(name="t", time_s=t, columns=made)
    return analysed(run(number, method, soc_to=soc_to), STATION, trace, meter)


def recharge(
    number=2, method="recharge_wall", readings=((600, 10), (3000, 80), (4200, 100)), meter=METER
):
    t = np.arange(0, 5000, 5.0)
    power = np.select([t < 60, t < 3000, t < 4300], [0.0, 1000.0, 250.0], 0.0)
    columns = {Quantity.POWER: power, Quantity.VOLTS: np.full(t.size, 120.0)}
    trace = Trace(name="t", time_s=t, columns=columns)
    # The charge begins with the sample at 60 s; readings are typed on the log's time.
    shown = [Reading(run_id=number, time_s=60 + s, kind="soc", value=soc) for s, soc in readings]
    made = run(number, method, soc_from=0, soc_to=100)
    return analysed(made, STATION, trace, meter, readings=tuple(shown))


def of_kind(kind, runs, claims=()):
    made, _ = findings(station_runs(runs), claims)
    return [finding for finding in made if finding.kind == kind]


class TestDischarges:
    def test_volts_under_load_with_how_far_they_fall(self):
        falling = discharge(volts=lambda t, on: np.where(on, 120 - t / 15_000, 122.0))
        (found,) = of_kind("ac_v", [falling])
        # How far they fall is what the station does, and no doubt of the meter's.
        lowest, highest = found.ends
        assert lowest == pytest.approx(falling.energy_out.result.volts_min)
        assert highest == pytest.approx(120, abs=0.1)
        (line,) = found.budget.lines
        assert line.u == pytest.approx(0.01 * found.value / math.sqrt(3))
        silent = replace(METER, volts_share=None)
        (found,) = of_kind(
            "ac_v", [replace(falling, records=replace(falling.records, meter=silent))]
        )
        assert found.budget is None and "volts is not stated" in found.unknown

    def test_a_dc_run_speaks_to_the_port_whose_volts_are_nearest(self):
        port = discharge(method="capacity_dc", volts=lambda t, on: np.full(t.size, 12.8))
        claims = [Claim(kind="car_out_v", value=12.6), Claim(kind="usb_c_v", value=20)]
        assert [
            f.kind for f in findings(station_runs([port]), claims)[0] if f.kind.endswith("_v")
        ] == ["car_out_v"]
        assert of_kind("car_out_v", [port], [Claim(kind="usb_c_v", value=20)]) == []
        regulated, other = judged_claims(station_runs([port]), claims)
        assert regulated.standing is Standing.MEETS  # within 5 %
        assert other.standing is Standing.NOT_TESTED

    def test_hertz_come_of_the_loaded_samples(self):
        wandering = discharge(hertz=lambda t, on: np.where(on, 60 + 0.1 * np.sin(t / 60), 0.0))
        (found,) = of_kind("ac_hz", [wandering])
        assert found.value == pytest.approx(60, abs=0.01)
        assert found.ends == pytest.approx((59.9, 60.1), abs=0.001)
        assert found.budget.u == pytest.approx(0.02 / math.sqrt(3))

    def test_the_load_nearest_to_a_fifth_of_the_rating_stands(self):
        runs = [discharge(1, watts=400, hours=2.0), discharge(2, watts=210, hours=4.1)]
        runs.append(discharge(3, watts=90, hours=9.0))
        found = of_kind("usable_wh", runs)
        assert [round(f.load_w) for f in found][-1] == 210 and len(found) == 3

    def test_full_load_runs_speak_to_continuous_power(self):
        (found,) = of_kind("continuous_w", [discharge(watts=790, hours=1.0)])
        assert found.held_s == pytest.approx(3600, abs=20) and found.ended_by == "battery"
        claim = Claim(kind="continuous_w", value=800)
        # An empty battery after 12 min, and a load far below, say nothing against 800 W.
        for one in (discharge(watts=790, hours=0.2), discharge(watts=300, hours=3)):
            (judged,) = judged_claims(station_runs([one]), [claim])
            assert judged.standing is Standing.CANNOT_BE_JUDGED


class TestRecharges:
    def test_full_power_amps_and_the_times_asked_for(self):
        charged = recharge()
        claims = [
            Claim(kind="recharge_min", value=55, condition="0–80 %"),
            Claim(kind="recharge_min", value=80),
        ]
        watts, amps = of_kind("recharge_w", [charged])[0], of_kind("wall_a", [charged])[0]
        assert watts.value == pytest.approx(1000, abs=1)
        assert amps.value == pytest.approx(1000 / 120, rel=1e-3)
        whole, part = sorted(of_kind("recharge_min", [charged], claims), key=lambda f: -f.value)
        # 80 % was read after 50 min, and the charge began at 0 %.
        assert part.value == pytest.approx(50, abs=0.1) and part.soc == (0, 80)
        assert whole.value == pytest.approx(70, abs=0.1) and "by the display" in whole.seen
        met, missed = judged_claims(station_runs([charged]), claims)
        assert (met.standing, missed.standing) == (Standing.MEETS, Standing.MEETS)

    def test_without_readings_the_whole_charge_counts_by_its_power(self):
        charged = recharge(readings=())
        (found,) = of_kind("recharge_min", [charged], [Claim(kind="recharge_min", value=80)])
        assert found.value == pytest.approx(4240 / 60, abs=0.2)
        reasons = [line.why for line in found.budget.lines]
        assert any(why.startswith("when a charge counts as over") for why in reasons)
        asked = [Claim(kind="recharge_min", value=55, condition="0–80 %")]
        assert of_kind("recharge_min", [charged], asked) == []

    def test_a_cycle_on_one_meter(self):
        runs = [discharge(1), recharge(2)]
        trip = round_trip_of(cycle_of(runs[0], station_runs(runs)))
        # Of one meter the common part of its gain cancels; what a level has of its own does not.
        own = 0.01 * math.sqrt(0.5) / math.sqrt(3) * trip.value
        level = [abs(line.u) for line in trip.budget.lines if line.level]
        assert level == pytest.approx([own, own], rel=0.01)
        common = [line.u for line in trip.budget.lines if line.name == "Meter gain, common"]
        assert common == pytest.approx([0], abs=1e-9)
        other = recharge(2, meter=replace(METER, id=2))
        two = round_trip_of(cycle_of(runs[0], station_runs([runs[0], other])))
        assert two.budget.u > 1.3 * trip.budget.u and two.value == trip.value
        bare = without_meter(runs[1])
        assert round_trip_of(cycle_of(runs[0], station_runs([runs[0], bare]))) is None


class TestLeftOut:
    def test_void_runs_and_those_that_tell_nothing(self):
        void = with_run(discharge(1), state="void")
        empty = analysed(run(2, "hold"), STATION)
        made, left = findings(station_runs([void, empty]))
        assert made == []
        reasons = {out.kind: out.reason for out in left}
        assert reasons["usable_wh"] == "is void: no reason given"
        assert reasons["continuous_w"] == "no result: no samples were recorded"

    def test_every_claim_that_a_method_names_is_one_and_it_alone_tests_it(self):
        for method in METHODS.values():
            assert set(method.claims) <= set(CLAIM_KINDS)
            assert all(method_testing(claim) is method for claim in method.claims)

    def test_idle_and_the_scale(self):
        shown = [
            Reading(run_id=3, time_s=s, kind="soc", value=soc)
            for s, soc in ((0, 100), (36_000, 85))
        ]
        idle = analysed(run(3, "idle_ac"), STATION, readings=tuple(shown))
        (found,) = of_kind("idle_w", [idle])
        draw = idle.figures["idle_w"]
        assert draw.value == pytest.approx(15)  # 15 % of 1000 Wh in 10 h
        assert found.budget.u == pytest.approx(
            math.hypot(draw.budget.u, 0.005 * draw.value), rel=1e-3
        )
        weighed, _ = findings(station_runs([]), receiving=Receiving(station_id=1, weight_kg=12))
        (weight,) = weighed
        assert weight.budget.lines[0].why == "read to 1 kg"
        claim = Claim(kind="idle_w", value=20)
        assert judge_claim(claim, [found]).standing is Standing.MEETS


class TestEvidence:
    def test_of_runs_money_and_the_eye(self):
        seen = [
            Observation(station_id=1, subject="ups", agrees=True, words="lamp stayed on",
                        observed_on="2026-05-01"),
            Observation(station_id=1, subject="pass_through", agrees=False),
        ]  # fmt: skip
        runs = [discharge(1), recharge(2)]
        port = discharge(3, method="capacity_dc", volts=lambda t, on: np.where(on, 13.1, 13.2))
        bought = Receiving(station_id=1, price=640, currency="EUR")
        found = evidence(station_runs([*runs, port]), bought, seen)
        assert found["usable_ratio"].value == pytest.approx(0.86, abs=0.002)
        assert "in run 1" in found["usable_ratio"].words
        # The display said 100 % after 70 min.
        assert found["full_charge_h"].value == pytest.approx(70 / 60, rel=2e-3)
        assert found["price_per_wh"].words == "0.64 EUR per rated Wh"
        assert found["regulated_dc"].value == 1.0
        assert found["ups"].words == "seen on 2026-05-01: lamp stayed on"
        assert (found["pass_through"].value, found["pass_through"].words) == (0.0, "not so")

    def test_a_run_to_a_floor_is_scaled_and_says_so(self):
        def to_floor(soc_to):
            return discharge(1, soc_to=soc_to)

        found = evidence(station_runs([to_floor(5)]), Receiving(station_id=1), [])["usable_ratio"]
        # 860 of 1000 Wh × 0.95
        assert found.value == pytest.approx(0.86 / 0.95, abs=0.002) and found.expanded > 0.005
        assert "of rated × 0.95, scaled: 100 → 5 % by the display" in found.words
        half = evidence(station_runs([to_floor(50)]), Receiving(station_id=1), [])
        assert "usable_ratio" not in half
        both = evidence(station_runs([to_floor(5), discharge(2)]), Receiving(station_id=1), [])[
            "usable_ratio"
        ]
        assert "in run 2" in both.words and "scaled" not in both.words

    def test_a_port_that_falls_is_not_regulated(self):
        sagging = discharge(
            method="capacity_dc", volts=lambda t, on: np.where(on, 13.5 - 2 * t / t[-1], 13.6)
        )
        found = evidence(station_runs([sagging]), Receiving(station_id=1), [])
        assert found["regulated_dc"].value == 0.0 and "falls" in found["regulated_dc"].words

    def test_void_and_partial_runs_are_no_evidence(self):
        void = with_run(recharge(), state="void")
        partial = with_in(recharge(), soc=(20.0, 100.0))
        for one in (void, partial):
            assert evidence(station_runs([one]), Receiving(station_id=1), []) == {}
