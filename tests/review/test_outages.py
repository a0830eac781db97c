"""Outages answered from a station's runs: against invented stations, pvlib itself, and by hand."""

from dataclasses import replace
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from pvlib import irradiance, temperature
from pvlib.location import Location
from tests.coverage.program import bench
from tests.coverage.stations import Meter, a_station

from yardtoll.core.endurance.outage import through_outage
from yardtoll.core.endurance.spread import spread_of
from yardtoll.demo.yard import fresh_demo
from yardtoll.review.analysis import analyse_records, analyses_of
from yardtoll.review.endurance.answer import Cause, answer_of
from yardtoll.review.endurance.build import inputs_of, outage_of
from yardtoll.review.endurance.clear_sky import clear_sky
from yardtoll.review.endurance.edits import moved, usual_outage, with_packs, with_use
from yardtoll.review.endurance.picture import picture_of
from yardtoll.review.endurance.sky import measured_day
from yardtoll.review.endurance.store import charge_share, measured_store
from yardtoll.review.endurance.tried import appliance_from, has_appliance, tried_in, tried_words
from yardtoll.review.endurance.words import answer_budget, headline, rests_on, warnings
from yardtoll.review.station.fitted import delivered_at, fitted_covariance
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import (
    TYPED,
    OutageFeed,
    OutageUse,
    Reading,
    ReadingKind,
    Site,
    SolarArray,
    StoredOutage,
)
from yardtoll.store.site_time import show_in, shown_zone, zone_of
from yardtoll.store.yard_file import YardFile

CHICAGO = ZoneInfo("America/Chicago")
EVENING = "2026-11-28T00:00:00+00:00"


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    """Stations of the demo yard with their runs, by name; the site; the arrays; the outages."""
    before = shown_zone()
    with YardFile.open(fresh_demo(tmp_path_factory.mktemp("demo"))) as yard:
        show_in(zone_of(yard.site()))
        stations = {
            s.name.split()[0].lower(): (
                s,
                station_runs(analyses_of(yard, s)),
                [c.claim for c in yard.claims(s.id)],
                yard.outages(s.id),
            )
            for s in yard.stations()
        }
        yield stations, yard.site(), yard.arrays()
    show_in(before)


def asked(station, **facts):
    use = OutageUse(name="Fridge", watts=92, duty=0.4, inrush_w=700, low_share=0.9, high_share=1.1)
    made = StoredOutage(station_id=1, name="Night", begins_at=EVENING, hours=24, uses=(use,))
    return replace(made, **facts)


def answered(demo, name="fennel", sky=None, **facts):
    station, runs, claims, _ = demo[0][name]
    return answer_of(inputs_of(asked(station, **facts), station, runs, claims, sky))


@pytest.mark.study
def test_when_invented_stations_are_empty_is_within_what_is_said():
    """200 stations, meters and outages, each emptied on a grid of ten seconds of its own."""
    held = 0
    for seed in range(200):
        random = np.random.default_rng([seed, 77])
        station = a_station(random, again=0.005)
        meter = Meter(random)
        loads = random.choice(np.arange(0.08, 1.0, 0.06), 3, replace=False)
        found = bench(random, station, meter, loads).found()
        store = measured_store(found.ac)
        uses = tuple(
            OutageUse(
                name=f"use {i}",
                watts=float(station.rated_w * random.uniform(0.02, 0.15)),
                duty=float(random.choice([1.0, random.uniform(0.3, 0.7)])),
                from_h=float(random.uniform(0, 24)) if random.random() < 0.3 else None,
                to_h=float(random.uniform(0, 24)),
            )
            for i in range(3)
        )
        outage = StoredOutage(
            station_id=1, name="", begins_at=EVENING, hours=400, uses=uses, store_wh=None
        )
        about = found.analyses[0].station
        made, unsure = outage_of(inputs_of(outage, about, found, [], None))
        spread = spread_of(made, unsure)
        truth_h = emptied_h(random, station, uses, made.begins_h)
        assert store.has_u
        held += spread.low_h <= truth_h <= spread.high_h
    assert held >= 186, held


def emptied_h(random, station, uses, begins_h, grid_s=10.0, most_h=400.0):
    """When a station is truly empty, its appliances switched by thermostats of their own."""
    time_h = np.arange(0, most_h, grid_s / 3600)
    clock_h = (begins_h + time_h) % 24
    load_w = np.zeros_like(time_h)
    for use in uses:
        period_h, phase = random.uniform(0.2, 0.8), random.uniform(0, 1)
        on = (time_h / period_h + phase) % 1 < use.duty
        if use.from_h is not None and use.to_h is not None:
            inside = (clock_h >= use.from_h) & (clock_h < use.to_h)
            over = (clock_h >= use.from_h) | (clock_h < use.to_h)
            on &= inside if use.from_h <= use.to_h else over
        load_w += use.watts * on
    store_wh = station.store_wh * (1 + station.again * random.standard_normal())
    taken = np.cumsum(station.taken_w(load_w)) * grid_s / 3600
    return float(time_h[np.searchsorted(taken, store_wh)])


def test_the_fits_terms_vary_together(demo):
    runs = demo[0]["fennel"][1].ac
    covariance = fitted_covariance(runs)
    for watts in (40.0, 300.0, 1800.0):
        gradient = runs.split.delivered_gradient(watts)
        assert 2 * np.sqrt(gradient @ covariance @ gradient) == pytest.approx(
            delivered_at(runs, watts).expanded, rel=1e-6
        )
    store = measured_store(runs)
    assert store.has_u and store.basis == "from runs 7, 2, 3, 4"
    # One outage is one run: more than the mean is unsure of.
    assert store.store_expanded > 2 * np.sqrt(covariance[0, 0])


def test_the_panels_give_what_pvlib_says():
    site = Site(latitude=43.1, longitude=-88.4, altitude_m=260, temperature_c=9)
    array = SolarArray(
        name="pair", series=2, module_w=200, voc_v=19.6, vmp_v=16.4, isc_a=13.1, imp_a=12.2,
        tilt_deg=50, azimuth_deg=185,
    )  # fmt: skip
    begins = datetime(2026, 6, 3, 5, 0, tzinfo=CHICAGO)
    sky = clear_sky(site, [array], begins, 24)
    times = pd.date_range(begins, periods=96, freq="15min") + pd.Timedelta("7.5min")
    place = Location(43.1, -88.4, altitude=260)
    sun, light = place.get_solarposition(times), place.get_clearsky(times)
    plane = irradiance.get_total_irradiance(
        50, 185, sun.apparent_zenith, sun.azimuth, light.dni, light.ghi, light.dhi, albedo=0.25
    ).poa_global.fillna(0)
    cells = temperature.sapm_cell(plane, 9, 1.0, -3.56, -0.075, 3)
    direct_w = plane / 1000 * 400 * (1 - 0.0037 * (cells - 25)) * 0.98
    assert sky.first_w.sum() * 0.25 == pytest.approx(direct_w.sum() * 0.25, rel=0.03)
    assert np.corrcoef(sky.first_w, direct_w)[0, 1] > 0.995
    assert sky.watts(2) == pytest.approx(tuple(2 * sky.first_w))
    assert clear_sky(Site(), [array], begins, 24) is None


def test_a_measured_day_keeps_its_energy_and_hours(demo):
    runs, arrays = demo[0]["tansy"][1], demo[2]
    sun = next(a for a in runs.analyses if a.method.uses_panels)
    begins = datetime(2026, 11, 27, 18, 0, tzinfo=CHICAGO)
    sky = measured_day(sun, arrays, begins, 48)
    harvest_wh = sun.energy_in.drawn_wh
    assert sky.first_w[:96].sum() / 4 == pytest.approx(harvest_wh, rel=0.01)
    assert (sky.first_w[:96] == sky.first_w[96:]).all()
    assert sky.first_w[: 4 * 12].sum() == 0  # from six to six it is dark


def test_what_closes_the_gap_does_and_less_does_not(demo):
    stations, site, arrays = demo
    station, runs, claims, _ = stations["fennel"]
    outage = asked(station, hours=72, sun="sky", weather="overcast", array_ids=(1,))
    begins = datetime(2026, 11, 27, 18, 0, tzinfo=CHICAGO)
    inputs = inputs_of(outage, station, runs, claims, clear_sky(site, arrays[:1], begins, 72))
    answer = answer_of(inputs)
    packs = answer.remedies.packs
    assert packs is not None and answer.result.hours is not None
    for count, lasts in ((packs, True), (packs - 1, False)):
        made, unsure = outage_of(inputs, more_packs=count)
        assert (spread_of(made, unsure, draws=200).low_h is None) is lasts
    bigger = replace(inputs, outage=with_packs(outage, packs, inputs.pack_wh))
    assert answer_of(bigger).spread.lasts_share > 0.97
    assert "pack" in headline(answer) and "short of the 72 h" in headline(answer)


def test_the_sentences_say_what_it_rests_on(demo):
    generator = OutageFeed(name="Generator", watts=900, from_h=12, to_h=13)
    answer = answered(demo, hours=60, packs_wh=(1024.0,), units=2, feeds=(generator,))
    said = " ".join(rests_on(answer))
    for words in (
        "from runs 7, 2, 3, 4", "2 stations together", "1 pack with 1024 Wh by the rating",
        "From the wall or a generator", "as in run 5", "The station itself takes",
    ):  # fmt: skip
        assert words in said
    assert through_outage(answer.asked).overhead_wh == pytest.approx(answer.result.overhead_wh)
    budget = answer_budget(answer)
    assert {line.name for line in budget.lines} <= {"Store and overhead", "Appliances", "Weather"}
    assert set(answer.spread_by) == set(Cause)
    heavy = answered(demo, uses=(OutageUse(name="Kiln", watts=2300, inrush_w=9000),))
    assert "over the 2000 W it is rated for" in warnings(heavy, 4000)[0]
    assert "Kiln takes 9000 W to start" in warnings(heavy, 4000)[1]


def test_without_runs_at_two_loads_there_is_no_answer(demo):
    station, runs, claims, _ = demo[0]["fennel"]
    one = station_runs([a for a in runs.analyses if a.run.number in (2, 5)])
    assert "at one load" in inputs_of(asked(station), station, one, claims, None)
    none = station_runs([])
    assert "no whole discharge" in inputs_of(asked(station), station, none, claims, None)
    typed = asked(station, store_wh=1900.0, overhead_w=17.0, conversion=0.05)
    answer = answer_of(inputs_of(typed, station, none, claims, None))
    assert answer_budget(answer) is None and "±" not in headline(answer)
    assert "as typed, not measured" in " ".join(rests_on(answer))
    assert charge_share(none, 1900, by_sun=True).share == 0.9


def test_a_fridge_is_learned_and_the_forecast_held_against_it(demo):
    station, runs, claims, (outage,) = demo[0]["tansy"]
    run = next(a for a in runs.analyses if a.run.id == outage.run_id)
    fridge = appliance_from(run, "Fridge")
    # Played with 96 W for 41 % of the time; the station lowers its volts a little under load.
    assert fridge.watts == pytest.approx(96, rel=0.02) and fridge.duty == pytest.approx(
        0.41, abs=0.005
    )
    assert fridge.low_share < 1 < fridge.high_share < 1.05 and fridge.run_id == run.run.id
    answer = answer_of(inputs_of(outage, station, runs, claims, None))
    tried = tried_in(run, answer)
    assert tried.is_whole and tried.hours == pytest.approx(run.energy_out.result.duration_s / 3600)
    assert answer.spread.low_h < tried.hours < answer.spread.high_h
    assert "within its ±" in tried_words(tried, answer)[0]
    assert tried.course[0] == (0.0, pytest.approx(answer.asked.store_wh))
    assert tried.course[-1][1] < 0.05 * answer.asked.store_wh
    picture = picture_of(answer, tried)
    assert picture.tried and "run 9" in picture.tried_words
    off = replace(outage, uses=(OutageUse(name="Fridge", watts=30, duty=0.4),))
    wrong = answer_of(inputs_of(off, station, runs, claims, None))
    assert "outside its ±" in tried_words(tried_in(run, wrong), wrong)[0] or wrong.result.lasts


def test_an_outage_by_notes_is_held_against_the_forecast_too(demo):
    station, runs, claims, (outage,) = demo[0]["tansy"]
    logged = next(a for a in runs.analyses if a.run.id == outage.run_id)
    lines = ((0, 0, 62, 100), (5, 310, 61, 72), (10, 620, 61, 43))
    kinds = (ReadingKind.METER_WH, ReadingKind.METER_W, ReadingKind.SOC)
    readings = tuple(
        Reading(run_id=0, time_s=3600 * hour, kind=kind.value, value=value)
        for hour, *values in lines
        for kind, value in zip(kinds, values, strict=True)
    )
    records = replace(
        logged.records, run=replace(logged.run, origin=TYPED), readings=readings, marks=(),
        recordings=(),
    )  # fmt: skip
    noted = analyse_records(records, ())
    assert has_appliance(noted) and "too few samples" in appliance_from(noted, "Fridge")
    answer = answer_of(inputs_of(outage, station, runs, claims, None))
    tried = tried_in(noted, answer)
    assert tried.hours == pytest.approx(10) and tried.shown == (10.0, 43)
    # 57 points in 10 h leave 43 for 7 h 33 min.
    assert tried.more.hours == pytest.approx(10 * 43 / 57)
    assert [h for h, _ in tried.course] == [0.0, 5.0, 10.0]


def test_edits_keep_names_apart_and_starts_on_the_quarter(demo):
    station = demo[0]["fennel"][0]
    begun = usual_outage(station, datetime(2026, 11, 27, 20, 7, tzinfo=CHICAGO))
    assert begun.begins_at.startswith("2026-11-29T00:00") and len(begun.uses) == 3
    twice = with_use(with_use(begun, begun.uses[0]), begun.uses[0])
    assert [use.name for use in twice.uses][-2:] == ["Fridge 2", "Fridge 3"]
    assert moved(begun, 0.3).begins_at.startswith("2026-11-29T00:15")
    assert with_packs(replace(begun, packs_wh=(500.0, 600.0)), 1, 900).packs_wh == (500.0,)


def test_the_sun_that_found_no_place_is_drawn_as_an_outline(demo):
    stations, site, arrays = demo
    station, runs, claims, _ = stations["fennel"]
    outage = asked(station, hours=48, sun="sky", weather="clear", array_ids=(1,), cap_w=150.0)
    begins = datetime(2026, 11, 27, 18, 0, tzinfo=CHICAGO)
    sky = clear_sky(site, arrays[:1], begins, 48)
    answer = answer_of(inputs_of(outage, station, runs, claims, sky))
    lane = picture_of(answer).lanes[0]
    spilled = [part for part in lane.stretches if part.is_off]
    assert answer.result.over_cap_wh > 100 and spilled
    assert "over the cap" in " ".join(rests_on(answer))
    for part in spilled:
        taken = next(p for p in lane.stretches if p.from_h == part.from_h and not p.is_off)
        assert taken.share < part.share
