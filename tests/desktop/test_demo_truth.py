"""Every figure and verdict of the demo against the truth its bench was played with.

The demo's stations are invented, so what they truly do is known; it is worked out here by stepping
through their stores, and nothing of the program's own arithmetic is used.
"""

import re
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from yardtoll.core.conformance.verdict import Outcome, Rule
from yardtoll.core.conformance.yardsticks import SHIPPED_YARDSTICKS
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.demo.content import CHARGERS, RECEIVED, STATIONS
from yardtoll.demo.outputs import RIGS
from yardtoll.demo.yard import fresh_demo
from yardtoll.review.analysis import analyses_of
from yardtoll.review.conformance import yardstick_rows
from yardtoll.review.sheet.build import build_sheet
from yardtoll.review.station.runs import station_runs
from yardtoll.store.yard_file import YardFile

NAMES = {made[0].name: key for key, made in STATIONS.items()}
SUN_CAP_W = 292.0


def delivers_wh(key: str, load_w: float) -> float:
    """Stepped through, a second at a time."""
    made = STATIONS[key][1]
    left, delivered = made.store_wh * 3600.0, 0.0
    waste = made.overhead_w + made.proportional * load_w + made.ohmic_per_w * load_w * load_w
    while left > 0:
        step = min(60.0, left / (load_w + waste))
        left -= (load_w + waste) * step
        delivered += load_w * step
    return delivered / 3600


def charge(key: str) -> tuple[float, float, float]:
    """(Wh drawn, minutes until the display says 80 %, minutes until full), a second at a time."""
    station, charger = STATIONS[key][1], CHARGERS[key]
    stored, drawn, seconds, at_80, paused = 0.0, 0.0, 0, 0.0, 0.0
    while stored < station.store_wh:
        share = stored / station.store_wh
        watts = charger.full_w * min((seconds + 1) / charger.ramp_s, 1.0)
        if share > charger.taper_from:
            watts *= 1 - (share - charger.taper_from) / (1 - charger.taper_from)
        watts = max(watts, charger.top_off_w)
        if charger.hot_at and share >= charger.hot_at and paused < charger.hot_s:
            paused, watts = paused + 1, 0.0
        if not at_80 and share**station.display_bend >= 0.795:
            at_80 = seconds / 60
        drawn += watts / 3600
        stored += charger.efficiency * watts / 3600
        seconds += 1
    return drawn, at_80, seconds / 60


def euro(key: str) -> float:
    """Of the inverter, in %, by the weights of EN 50530."""
    made = STATIONS[key][1]
    found = 0.0
    for level, weight in ((5, 3), (10, 6), (20, 13), (30, 10), (50, 48), (100, 20)):
        p = made.rated_w * level / 100
        waste = made.overhead_w + made.proportional * p + made.ohmic_per_w * p * p
        found += weight * p / (p + waste)
    return found


def truth_of(key: str, title: str) -> tuple[float, float]:
    """(lowest, highest) of what the maker's figure is about."""
    made = STATIONS[key][1]
    if title == "AC volts":
        return made.nominal_v * (1 - made.sag_ratio), made.nominal_v
    if title == "Wall charging time":
        _, at_80, full = charge(key)
        return (at_80, at_80) if key == "fennel" else (full, full)
    rig = RIGS[key]
    if title == "AC frequency":
        return min(made.hertz, rig.hertz), max(made.hertz, rig.hertz)
    if title == "Transfer time":
        # Six tries of a normal spread: the longest lies within three deviations of the mean.
        return rig.gap_ms - 3 * rig.gap_spread_ms, rig.gap_ms + 3 * rig.gap_spread_ms
    known = {
        "Idle draw, AC on": made.overhead_w,
        "Continuous power": 2050 * (1 - made.sag_ratio * 2050 / made.rated_w) ** 2,
        "USB-C power": max(w for port, w in rig.ports.items() if port.startswith("USB-C")),
        "USB-A power": max(w for port, w in rig.ports.items() if port.startswith("USB-A")),
        "USB power, shared": rig.shared_w or 0.0,
        "Pure sine": float(rig.shape == "sine"),
        "UPS function": float(rig.gap_ms + 3 * rig.gap_spread_ms < 20),
        "Solar input power": SUN_CAP_W,
        "Solar input current": SUN_CAP_W / 32.8,  # two panels of 16.4 V in series
    }
    if key in CHARGERS:
        watts = CHARGERS[key].full_w
        known |= {"Wall charging power": watts, "Wall input current": watts / made.nominal_v}
    if key in RECEIVED:
        known["Weight"] = RECEIVED[key].weight_kg or 0.0
    return known[title], known[title]


ALLOWED = {
    # What a maker's figure allows, written out from the table of how claims are meant.
    ("fennel", "Wall charging time"): (0, 58.5),
    ("fennel", "Idle draw, AC on"): (0, 15),
    ("fennel", "Wall charging power"): (1400 * 0.95, 1400 * 1.10),
    ("fennel", "Wall input current"): (0, 15 * 1.10),
    ("fennel", "Weight"): (0, 23 * 1.05),
    ("fennel", "Continuous power"): (2000 * 0.98, np.inf),
    ("fennel", "Transfer time"): (0, 20),
    ("fennel", "Pure sine"): (1, 1),
    ("fennel", "UPS function"): (1, 1),
    ("fennel", "USB-C power"): (100, np.inf),
    ("fennel", "USB-A power"): (12, np.inf),
    ("fennel", "USB power, shared"): (160, np.inf),
    ("tansy", "USB-A power"): (18, np.inf),
    ("sorrel", "Pure sine"): (1, 1),
    ("sorrel", "USB-C power"): (60, np.inf),
    ("sorrel", "USB-A power"): (12, np.inf),
    ("tansy", "Wall charging time"): (0, 2.15 * 60),
    ("tansy", "Wall charging power"): (660 * 0.95, 660 * 1.10),
    ("tansy", "Solar input current"): (0, 10 * 1.10),
    ("tansy", "Solar input power"): (300 * 0.95, np.inf),
    ("tansy", "Weight"): (0, 31 * 0.45359237 * 1.05),
} | {
    (key, title): limits
    for key in ("fennel", "tansy", "sorrel")
    for title, limits in (("AC volts", (114, 126)), ("AC frequency", (59.4, 60.6)))
}


@pytest.fixture(scope="module")
def demo_yard(tmp_path_factory):
    with YardFile.open(fresh_demo(tmp_path_factory.mktemp("demo"))) as yard:
        yield yard


@pytest.fixture(scope="module", params=list(NAMES))
def told(request, demo_yard):
    """(key, the sheet, its runs together, the yard, the station)."""
    station = next(s for s in demo_yard.stations() if s.name == request.param)
    analyses = analyses_of(demo_yard, station)
    sheet = build_sheet(demo_yard, station, analyses)
    return NAMES[station.name], sheet, station_runs(analyses), demo_yard, station


def test_every_verdict_on_a_claim_is_true(told):
    key, sheet, *_ = told
    judged = [claim for claim in sheet.claims if claim.word in ("meets", "falls short")]
    assert len(judged) >= 2
    for claim in judged:
        low, high = ALLOWED[key, claim.title]
        lowest, highest = truth_of(key, claim.title)
        assert (low <= lowest and highest <= high) == (claim.word == "meets"), claim.sentence


def test_every_figure_beside_a_claim_holds_the_truth(told):
    key, sheet, *_ = told
    for claim in sheet.claims:
        if claim.word not in ("meets", "falls short") or claim.title == "AC volts":
            continue
        lowest, highest = truth_of(key, claim.title)
        if claim.measured in ("yes", "no"):
            assert (claim.measured == "yes") == bool(lowest), claim.sentence
            continue
        figure = re.match(r"([\d.]+)(?: to ([\d.]+))? ± ([\d.]+)", claim.measured)
        assert figure, claim.measured
        low, high, within = float(figure[1]), float(figure[2] or figure[1]), float(figure[3])
        assert low - within <= highest and lowest <= high + within, claim.sentence


def test_every_yardstick_is_true(told):
    key, _, found, yard, station = told
    judged = 0
    for yardstick in SHIPPED_YARDSTICKS:
        for row in yardstick_rows(found, yardstick, Rule.GUARDED, yard.receiving(station.id)):
            outcome = row.verdict.outcome if row.verdict else None
            if outcome not in (Outcome.MEETS, Outcome.FALLS_SHORT):
                continue
            truth = yardstick_truth(key, row.title, station)
            holds = (
                truth <= yardstick.limit
                if yardstick.name.startswith("Price")
                else truth >= yardstick.limit
            )
            assert holds == (outcome is Outcome.MEETS), (yardstick.name, row.title, truth)
            judged += 1
    assert judged >= 6


def yardstick_truth(key, title, station):
    if "for" in title and "Wh" in title:
        return (RECEIVED[key].price or 0) / station.rated_wh
    load_w = float(re.search(r"at (\d+) W", title)[1])
    if "recharged" in title:
        return delivers_wh(key, load_w) / charge(key)[0]
    return delivers_wh(key, load_w) / station.rated_wh


def test_the_figures_of_the_sheet_hold_the_truth(told):
    key, sheet, found, *_ = told
    made = STATIONS[key][1]
    outlet = 1 + made.proportional
    truths = {
        "AC usable store": made.store_wh / outlet,
        "AC overhead": made.overhead_w / outlet,
        "Conversion, Euro weights": euro(key),
        "Performance ratio": None,
    }
    seen = 0
    for figure in sheet.results:
        truth = truths.get(figure.title)
        if figure.title == "Round trip":
            run = int(re.search(r"run (\d+)", figure.how)[1])
            (one,) = [a for a in found.analyses if a.run.number == run]
            truth = 100 * delivers_wh(key, one.energy_out.mean_w) / charge(key)[0]
        if truth is None:
            continue
        shown = re.match(r"(at most )?([\d.]+) ± ([\d.]+)", figure.shown)
        off = truth - float(shown[2])
        assert (off if shown[1] else abs(off)) <= float(shown[3]), (figure.title, shown, truth)
        seen += 1
    assert seen >= 3
    (delivered,) = [fact.shown for fact in sheet.facts if fact.title == "Delivered"]
    value, within = (float(part) for part in re.findall(r"[\d.]+", delivered)[:2])
    (load,) = re.findall(r"at (\d+) W", sheet.finding)
    assert abs(delivers_wh(key, float(load)) - value) <= within


def test_no_efficiency_is_judged_where_it_is_a_bound(told):
    _, sheet, found, yard, station = told
    yardstick = next(s for s in SHIPPED_YARDSTICKS if s.name.startswith("Conversion"))
    rows = yardstick_rows(found, yardstick, Rule.GUARDED, yard.receiving(station.id))
    assert all(row.verdict is None for row in rows)
    assert all(f.at_most and "at most" in f.shown for f in sheet.results if "Conversion" in f.title)


def test_the_sun_shines_by_day_at_the_site(demo_yard):
    at_site = ZoneInfo(demo_yard.site().time_zone)
    runs = [run for run in demo_yard.runs() if run.method == "recharge_sun"]
    assert len(runs) == 2
    for run in runs:
        (logged,) = [r for r in demo_yard.recordings(run.id) if r.role == "irradiance"]
        trace = demo_yard.samples(logged)
        light = trace.columns[Quantity.IRRADIANCE]
        brightest_s = float(trace.time_s[light > 0.97 * light.max()].mean())
        begun = datetime.fromisoformat(run.started_at).astimezone(at_site)
        assert 6 <= begun.hour <= 11
        assert 9 <= (begun + timedelta(seconds=brightest_s)).hour <= 14
