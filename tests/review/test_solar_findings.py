"""What solar runs say of claims: watts, hours to full, and when they say nothing."""

import math
from dataclasses import replace

import numpy as np
import pandas as pd
import pytest
from tests.records import STATION
from tests.runs import analysed, with_run
from tests.suns import clock

from yardtoll.bench.simulated.sunny_day import SolarStation, simulate_sun
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import Standing
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code, Trace
from yardtoll.core.methods.sources import WALL
from yardtoll.core.sun.limits import Limit
from yardtoll.review.conformance import judged_claims
from yardtoll.review.kinds.solar.figures import (
    harvest_of,
    nameplate_budget,
    performance_budget,
    volts_seen,
)
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.review.kinds.solar.sunlight import arrays_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.station.runs import station_runs
from yardtoll.review.sun.arrays import parts_of
from yardtoll.store.packed import pack, unpack
from yardtoll.store.records import Conditions, Meter, Reading, Run, Site, SolarArray

METER = Meter(id=1, name="M", profile="p", address="", reading_share=0.01, floor_w=0.5)
SITE = Site(latitude=41.0, longitude=2.0, temperature_c=20)
ARRAY = SolarArray(
    id=7, name="A", module_w=400, voc_v=40, vmp_v=33, isc_a=13, imp_a=12.1, azimuth_deg=180
)
TIMES = clock(pd.date_range("2026-05-20 05:00", "2026-05-20 18:30", freq="20s", tz="UTC"))


def solar(cap_w=600.0, claimed_w=(), number=1, readings=(), meter=METER, array=ARRAY, **facts):
    """A clear day on a station with this cap, through the meter."""
    sunny = simulate_sun(
        parts_of(SITE, [ARRAY]), SolarStation(cap_w=cap_w, store_wh=5000.0, **facts), TIMES
    )
    columns = {Quantity.POWER: sunny.power_w, Quantity.VOLTS: np.full(sunny.power_w.size, 33.0)}
    trace = Trace(name="t", time_s=sunny.time_s, columns=columns)
    run = Run(
        id=number, station_id=1, number=number, method="recharge_sun", state="finished",
        origin="import", started_at="2026-05-20T05:00:00+00:00", meter_id=1, soc_from=10,
        soc_to=60, conditions=Conditions(arrays=(7,)),
    )  # fmt: skip
    shown = [Reading(run_id=number, time_s=s, kind="soc", value=soc) for s, soc in readings]
    claims = tuple(Claim(kind="solar_w", value=w) for w in claimed_w)
    return analysed(
        run, STATION, trace, meter, readings=tuple(shown), claims=claims, site=SITE, arrays=(array,)
    )


def judged(runs, *claims):
    return judged_claims(station_runs(runs), claims)


def test_a_capped_input_is_the_stations_own():
    run = solar(cap_w=250.0, claimed_w=[300])
    (short,) = judged([run], Claim(kind="solar_w", value=300))
    assert short.standing is Standing.FALLS_SHORT and short.finding.value == pytest.approx(
        250, 0.01
    )
    assert "sustained over 5 minutes" in short.sentence and "at the peak" in short.sentence
    (met,) = judged([run], Claim(kind="solar_w", value=240))
    assert met.standing is Standing.MEETS


def test_panels_that_never_fill_the_input_say_nothing_against_it():
    run = solar(cap_w=900.0, claimed_w=[900])
    (claim,) = judged([run], Claim(kind="solar_w", value=900))
    assert claim.standing is Standing.CANNOT_BE_JUDGED
    assert "needs more panels, or more sun" in claim.sentence
    (met,) = judged([run], Claim(kind="solar_w", value=200))  # more than claimed is more
    assert met.standing is Standing.MEETS


def test_hours_to_full_worked_out_from_the_days_sum():
    run = solar(cap_w=250.0, claimed_w=[250])
    (found,) = judged([run], Claim(kind="solar_h", value=4.0))
    seconds, taken_wh = sunlight_in(run).run.while_taking()
    # Without a recharge measured: the rating, a tenth lost.
    assert found.finding.value == pytest.approx(1000 / 0.9 / (taken_wh / seconds * 3600))
    assert "worked out: 1111 Wh by the rating" in found.sentence
    names = [line.name for line in found.finding.budget.lines]
    assert names[0] == "The day's sun" and "Meter gain, common" in names
    before = "2026-05-19T05:00:00+00:00"
    charged = replace(run.energy_in.result, drawn_wh=1200.0, soc=(0, 100), readings=())
    by_wall = replace(run.energy_in, result=charged, source=WALL, by_sun=False)
    wall = replace(
        with_run(run, id=2, number=2, method="recharge_wall", started_at=before),
        outcome=Outcome(figures=run.outcome.figures, energy_in=by_wall),
    )
    (by_wall,) = judged([wall, run], Claim(kind="solar_h", value=4.0))
    assert "worked out: 1200 Wh as in run 2" in by_wall.sentence


def test_shares_of_what_the_sun_gave_carry_the_sky_the_aim_and_the_cells():
    run = solar()
    share = sunlight_in(run).run.performance
    budget = performance_budget(run, sunlight_in(run))
    lines = {line.name: line.u for line in budget.lines}
    assert lines["Clear-sky model"] == pytest.approx(0.10 * share / math.sqrt(3))
    further = {"Panels' orientation", "Cell temperature", "Wiring", "Meter gain, common"}
    assert further <= set(lines)
    assert budget.expanded > 0.11 * share  # twice ±10 % ÷ √3, and more
    nameplate = nameplate_budget(run, sunlight_in(run))
    assert nameplate.expanded > 0.11 * sunlight_in(run).run.nameplate_share
    bare = solar(meter=None)
    light = sunlight_in(bare)
    assert performance_budget(bare, light) is None and nameplate_budget(bare, light) is None


def test_more_than_the_sun_could_give_is_no_share():
    """Panels said to be half as large as they are: so may a clock or an aim be wrong."""
    half = replace(ARRAY, module_w=200, isc_a=6.5, imp_a=6.05)
    reviewed = sunlight_in(solar(array=half))
    assert reviewed.run.performance is None
    (said,) = [n for n in reviewed.run.notices if n.code is Code.CLOCK_OR_AIM_WRONG]
    assert "clock" in said.message


def test_hours_to_full_by_the_display_go_before():
    readings = [(0, 0), (4000, 30), (20000, 80), (30000, 100)]
    run = solar(cap_w=250.0, claimed_w=[250], readings=readings)
    (found,) = judged([run], Claim(kind="solar_h", value=9.0))
    assert "by the display" in found.sentence and "worked out" not in found.sentence


def test_harvest_and_volts():
    run = solar()
    assert volts_seen(run) == (33.0, 33.0)
    budget = harvest_of(run, sunlight_in(run))
    # Gain 1 % and floor 0.5 W over the log, rectangular, k = 2.
    hours = sunlight_in(run).run.duration_s / 3600
    own = np.hypot(0.01 * sunlight_in(run).run.harvest_wh, 0.5 * hours) * 2 / np.sqrt(3)
    assert budget.expanded == pytest.approx(own, rel=0.02)
    assert harvest_of(solar(meter=None), sunlight_in(run)) is None
    assert volts_seen(replace(run, recorded=())) is None
    assert sunlight_in(run).run.limited_by[Limit.SUN] > 0.95


def test_which_arrays_fed_a_run():
    other = replace(ARRAY, id=8, name="B")
    run = solar().run
    assert arrays_of(run, [other, ARRAY]) == (ARRAY,)
    assert arrays_of(replace(run, conditions=Conditions()), [other, ARRAY]) == (other,)
    assert arrays_of(run, []) == ()


def test_packed_figures_come_back_and_nonsense_does_not():
    values = np.linspace(-5, 1e6, 5000)
    np.testing.assert_array_equal(unpack(pack(values)), values)
    for bad in ("", "no base64!", pack(values)[:-30], "AAAA"):
        with pytest.raises(ValueError):
            unpack(bad)


def test_a_window_of_volts_is_looked_at_and_not_tried():
    run = solar()
    low, high, narrow = judged(
        [run],
        Claim(kind="solar_v_min", value=12),
        Claim(kind="solar_v_max", value=60),
        Claim(kind="solar_v_max", value=30),
    )
    assert low.standing is Standing.NOT_TESTED
    assert "its limit not tried; run 1 took power from 33.0 to 33.0 V, within it" in low.sentence
    assert high.sentence.endswith("within it.") and narrow.sentence.endswith("outside it.")
    (untested,) = judged([], Claim(kind="solar_v_max", value=60))
    assert untested.sentence == "Said by the maker; nothing on this bench tests it."
