"""Line-ups, classes, prices and what is published of them: by hand, and from the demo yard."""

import csv
import io
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from yardtoll.core.compare.ranks import Contender, ranked
from yardtoll.core.conformance.yardsticks import Basis
from yardtoll.core.cost.prices import Price, latest_price
from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.demo.yard import fresh_demo
from yardtoll.report.charts.lineup import ROW_H
from yardtoll.report.charts.scene import Dot, Words
from yardtoll.review.lineup.classes import USUAL_CLASSES, class_of, class_words
from yardtoll.review.lineup.entrants import Asked, entrants_of
from yardtoll.review.lineup.family import family_of, family_words
from yardtoll.review.lineup.finders import prices_of
from yardtoll.review.lineup.lining import line_up
from yardtoll.review.lineup.price_verdicts import price_changes
from yardtoll.review.lineup.publishing import (
    as_csv,
    as_description,
    as_html,
    as_markdown,
    chart_of,
    with_figures,
)
from yardtoll.review.lineup.quantities import QUANTITIES
from yardtoll.review.lineup.shown import LineupQuestion, contestants, first_of, table_of
from yardtoll.review.lineup.words import headline, in_letters, place_of
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import (
    Receiving,
    SizeClass,
    StoredPrice,
    StoredScorePoint,
    StoredYardstick,
)
from yardtoll.store.yard_file import YardFile


@pytest.fixture(scope="module")
def entrants(tmp_path_factory):
    with YardFile.open(fresh_demo(tmp_path_factory.mktemp("demo"))) as yard:
        return entrants_of(yard, "Heron Lane")


def named(entrants, name):
    return next(e for e in entrants if e.name.startswith(name))


def answered(entrants, asked=None):
    return LineupQuestion(
        entrants=tuple(entrants), archive=tuple(entrants), asked=asked or Asked(), classes=(),
        runs_key=0,
    ).answer()  # fmt: skip


def with_price(entrant, **facts):
    return replace(entrant, prices=(StoredPrice(station_id=1, **facts),))


@pytest.mark.study
def test_none_is_ranked_within_u_and_all_beyond_twice_u():
    random = np.random.default_rng(11)
    for _ in range(2000):
        us = random.uniform(0.2, 3, 2)
        budgets = [Budget.of("W", [Contribution(name="x", why="", u=float(u))]) for u in us]
        both = 2 * float(np.hypot(*us))
        for apart, sure in ((random.uniform(0, 0.999) * both, False),
                            (random.uniform(2, 5) * both, True)):  # fmt: skip
            values = (50.0, 50.0 + float(apart))
            found = ranked(
                [Contender(name=f"{i}", value=v, budget=b, bench=f"{i}")
                 for i, (v, b) in enumerate(zip(values, budgets, strict=True))]
            )  # fmt: skip
            assert (sorted(f.rank for f in found) == [1, 2]) is sure
            assert all(bool(f.ties) is not sure for f in found)


def test_every_quantity_gives_a_figure_or_a_reason(entrants):
    for key, about in QUANTITIES.items():
        found = line_up(entrants, key, Asked())
        assert len(found.rows) + len(found.left_out) == len(entrants)
        assert all((left.why and left.why[0].islower()) or left.why[0].isdigit()
                   for left in found.left_out), key  # fmt: skip
        assert headline(found, Asked()).startswith(about.title)


def test_what_a_load_far_below_the_rating_does_not_show(entrants):
    found = line_up(entrants, "held_w", Asked())
    assert [row.station for row in found.rows] == ["Fennel 2k"]
    why = {left.station: left.why for left in found.left_out}
    assert "voltage-lowering mode" in why["Tansy 1200"]
    assert why["Sorrel 300"] == "no load near its 300 W was held, 115 W at the most"


def test_what_only_bounds_a_figure_is_not_compared(entrants):
    tansy = replace(named(entrants, "Tansy"))
    open_ended = "The panels gave no more than 293 W, so the input may take more."
    tansy.__dict__["findings"] = tuple(
        replace(f, lower_bound=True, why_bound=open_ended) if f.kind == "solar_w" else f
        for f in named(entrants, "Tansy").findings
    )
    found = line_up([tansy, named(entrants, "Fennel")], "solar_w", Asked())
    assert [left.why for left in found.left_out] == [
        "run 4 gives a bound only: the panels gave no more than 293 W, so the input may take more",
        "no run on solar panels alone shows five minutes of its watts",
    ]


def test_figures_of_the_demo_by_hand(entrants):
    asked = Asked()
    row = {r.station: r for r in line_up(entrants, "three_way", asked).rows}["Fennel 2k"]
    assert row.value == pytest.approx((1149 / 2048 + 1149 / 2000 + 1149 / 600) / 3)
    kg = {r.station: r for r in line_up(entrants, "kg_per_kwh", asked).rows}
    assert kg["Tansy 1200"].value == pytest.approx(14.1 / 1.229)
    times = line_up(entrants, "zero_to_80_min", asked)
    assert [r.station for r in times.rows] == ["Fennel 2k", "Tansy 1200"]
    assert [place_of(r, times) for r in times.rows] == ["1st", "2nd"]
    gaps = line_up(entrants, "transfer_ms", asked)
    assert place_of(gaps.rows[0], gaps) == "" and "alone" in headline(gaps, asked)
    thd = line_up(entrants, "thd", asked)
    assert {place_of(r, thd) for r in thd.rows} == {"no ±, no place"}
    assert "none can be called better" in headline(thd, asked)
    # 2.1 % beside 28.3 %, neither with a ±, is no tie.
    assert not any(r.ties for r in thd.rows) and all(len(r.unsure) == 2 for r in thd.rows)
    assert {c.place for c in contestants(thd)} == {"no ±, no place"}
    said = class_words(thd.rows[0], thd, entrants, asked, ())
    assert said == "Among middle ones, 2 in all: from 2.1 % to 3.4 %, no place without a ±"
    score = line_up(entrants, "score", asked)
    assert not score.rows and "not scored" in score.left_out[0].why


def test_a_figure_without_u_takes_no_place_and_leaves_no_other_sure(entrants):
    asked, about = Asked(), QUANTITIES["usable_ratio"]
    third = named(entrants, "Sorrel")
    bare = replace(about.find(third, asked), budget=None)
    taking_part = [
        replace(third, kept={("usable_ratio", asked): bare}) if each is third else each
        for each in entrants
    ]
    found = line_up(taking_part, "usable_ratio", asked)
    assert "of those with a ±, Fennel 2k is first" in headline(found, asked)
    assert [place_of(row, found) for row in found.rows] == [
        "1st to 2nd", "2nd to 3rd", "no ±, no place",
    ]  # fmt: skip
    assert [contestant.is_sure for contestant in contestants(found)] == [False, False, False]


def test_ties_share_a_place(entrants):
    found = line_up(entrants, "price_per_usable_wh", Asked())
    assert [place_of(row, found) for row in found.rows] == ["1st to 2nd", "1st to 2nd"]
    assert headline(found, Asked()).endswith("Tansy 1200 and Fennel 2k tie")
    assert in_letters(3) == "third" and in_letters(21) == "21st" and in_letters(112) == "112th"


def test_classes_by_size_and_a_place_in_one(entrants):
    assert class_of(2048, ()).name == "Middle" and class_of(500, ()).name == "Small"
    assert all(a.high_wh == b.low_wh for a, b in pairwise(USUAL_CLASSES))
    assert class_of(2048, (SizeClass(name="Tiny", low_wh=0, high_wh=10),)) is None
    every = (SizeClass(name="Any", low_wh=0, high_wh=9999),)
    found = line_up(entrants, "usable_ratio", Asked())
    row = next(r for r in found.rows if r.station == "Tansy 1200")
    said = class_words(row, found, entrants, Asked(), every)
    assert said == (
        "Among any ones second of 3; best 91.1 ± 1.2 %, typical 85.0 ± 1.1 %, worst 77.6 ± 1.0 %"
    )
    alone = next(r for r in found.rows if r.station == "Sorrel 300")
    assert "no other to compare" in class_words(alone, found, entrants, Asked(), ())
    assert (
        class_words(row, found, entrants, Asked(), (SizeClass(name="T", low_wh=0, high_wh=9),))
        == ""
    )
    price = line_up(entrants, "price_per_usable_wh", Asked())
    assert "first to second of 2" in class_words(price.rows[0], price, entrants, Asked(), every)


def test_the_latest_price_of_a_kind_holds():
    prices = [
        Price(kind="coupon", amount=500, day="2026-10-01"),
        Price(kind="coupon", amount=450, day="2026-11-02"),
        Price(kind="coupon", amount=460, day="2026-11-02"),
        Price(kind="coupon", amount=800, units=2, day="2026-09-01"),
        Price(kind="list", amount=700),
    ]
    assert latest_price(prices, "coupon").amount == 460
    assert latest_price(prices, "coupon", 2).each == 400
    assert latest_price(prices, "list", 3).amount == 700
    assert latest_price(prices, "bundle") is None


def test_prices_by_kind_and_number(entrants):
    fennel = named(entrants, "Fennel")
    assert [(p.kind, p.amount) for p in prices_of(fennel)] == [("list", 1399), ("paid", 1149)]
    cheap = with_price(
        fennel, kind="coupon", amount=1800, units=2, currency="usd", day="2026-11-20"
    )
    found = line_up([cheap], "price_per_rated_wh", Asked(price="coupon", units=2))
    assert found.rows[0].value == pytest.approx(900 / 2048) and found.currency == "USD"
    assert found.rows[0].note == "1800 USD for 2 with a coupon, 2026-11-20"
    missing = line_up([cheap], "price_per_rated_wh", Asked(price="bundle"))
    assert missing.left_out[0].why == "no price in a bundle is noted"


def test_which_verdicts_a_coupon_would_change(entrants):
    fennel = with_price(named(entrants, "Fennel"), kind="coupon", amount=900, currency="USD")
    stick = StoredYardstick(name="Half a dollar", limit_ratio=0.5, basis=Basis.PRICE_PER_WH.value)
    point = StoredScorePoint(title="Cheap", quantity="price_per_wh", sign="<=", limit=0.45,
                             half_limit=0.6)  # fmt: skip
    by_list, *by_coupon = price_changes(fennel, [stick], [point])
    assert by_list == "At 1399 USD list price (0.68 per Wh) the point “Cheap” is 0 and not 0.5."
    assert by_coupon[0].startswith("At 900 USD with a coupon (0.44 per Wh) it meets “Half a")
    assert "“Cheap” is 1 and not 0.5" in by_coupon[1]
    assert price_changes(replace(fennel, receiving=Receiving(station_id=1)), [stick], [point]) == []
    dearer = with_price(named(entrants, "Fennel"), kind="coupon", amount=900, currency="CAD")
    assert not any("CAD" in words for words in price_changes(dearer, [stick], [point]))


def test_the_picture_puts_the_best_first_and_the_reasons_below_the_axis(entrants):
    found = line_up(entrants, "solar_w", Asked())
    scene = chart_of(found, answered(entrants))
    drawn = scene.scene()
    dots = [item for item in drawn.items if isinstance(item, Dot)]
    assert len(dots) == 1 and dots[0].at[1] == ROW_H / 2
    why = next(i for i in drawn.items if isinstance(i, Words) and i.text.startswith("no run on"))
    assert why.y > ROW_H + 30 and scene.row_at(why.y) == 1
    assert scene.row_at(ROW_H + 10) == -1 and "Tansy 1200 292.8 ± 3.8 W" in drawn.title


def test_what_is_published_has_figures_runs_and_reasons(entrants):
    given = answered(entrants)
    rows = list(csv.DictReader(io.StringIO(as_csv(given))))
    assert len(rows) == len(QUANTITIES) * len(entrants)
    fennel = next(r for r in rows if r["station"] == "Fennel 2k")
    assert float(fennel["value"]) == pytest.approx(91.08, abs=0.01)
    assert (fennel["unit"], fennel["run"], fennel["place"]) == ("%", "2", "1st")
    assert any(r["why not"] and not r["value"] for r in rows)
    page, text, marks = as_html(given), as_description(given), as_markdown(given)
    for written in (page, text, marks):
        assert "Fennel 2k is first, 91.1 ± 1.2 %" in written and "k = 2" in written
    assert page.count("<svg") == len(with_figures(given)) and "http" not in page.replace(
        "http://www.w3.org/2000/svg", ""
    )
    assert "run 2" in page and "Not compared: " in text


def test_names_of_others_cannot_run_or_break_out(entrants):
    evil = [replace(named(entrants, "Fennel"), name="=cmd|'/c calc'!A1"),
            replace(named(entrants, "Tansy"), name="<script>x</script> | a")]  # fmt: skip
    given = answered(evil)
    assert "<script>" not in as_html(given)
    assert "\n=cmd" not in as_csv(given) and "'=cmd" in as_csv(given)
    assert "\\| a" in as_markdown(given)


def test_of_many_the_nearest_in_size_take_part(entrants):
    many = [replace(entrants[0], name=f"S{i}", rated_wh=100.0 * (i + 1)) for i in range(40)]
    found = first_of(many, 2000)
    assert len(found) == 12 and all(1200 <= e.rated_wh <= 2800 for e in found)
    titles, rows = table_of(answered(entrants), [e.name for e in entrants])
    assert titles == ["", "Fennel 2k", "Tansy 1200", "Sorrel 300"]
    assert rows[0][0] == "Delivered of rated, 0.2 C" and rows[0][1] == "91.1 ± 1.2 %  1st"
    assert contestants(line_up(entrants, "usable_ratio", Asked()))[0].is_sure


def test_what_a_pack_adds_and_what_it_costs(entrants):
    fennel = named(entrants, "Fennel")
    station = replace(fennel.station, id=9, base_id=fennel.station.id, packs_wh=(2048.0,))
    paid = replace(fennel.receiving, price=1949.0)
    packed = replace(fennel, name="Fennel 2k + 1 pack", rated_wh=4096.0, station_id=9,
                     station=station, receiving=paid)  # fmt: skip
    every = [packed, *entrants]
    assert [e.name for e in family_of(packed, every)] == ["Fennel 2k", "Fennel 2k + 1 pack"]
    assert len(family_of(named(entrants, "Tansy"), every)) == 1
    said = " ".join(family_words(family_of(fennel, every), Asked()))
    # The runs of the station alone stand for both here: nothing was gained.
    assert "adds 2048 Wh by the rating; tested 0 ± " in said and "0 % of it" in said
    assert "Its inverter stays one of 2000 W" in said
    assert "It costs 800 USD more: 0.39 per rated Wh added; cheaper than the 0.56" in said
    untested = replace(packed, runs=station_runs([]))
    assert "tested: not yet, no finished discharge" in family_words([fennel, untested], Asked())[0]


def test_each_figure_tells_how_it_was_worked_out(entrants):
    asked = Asked()

    def told(quantity, station="Fennel 2k"):
        return {r.station: r.worked for r in line_up(entrants, quantity, asked).rows}[station]

    fennel = {r.station: r for r in line_up(entrants, "delivered_wh", asked).rows}["Fennel 2k"]
    share = told("usable_ratio").put_in
    assert f"{fennel.value:.0f} Wh ÷ 2048 Wh = {100 * fennel.value / 2048:.1f} %" in share
    assert told("delivered_wh").put_in == f"1 run: {fennel.value:.0f} Wh"
    assert told("price_per_rated_wh").put_in == "1149 USD ÷ 2048 Wh = 0.561 USD/Wh"
    assert f"÷ {fennel.value:.0f} Wh" in told("price_per_usable_wh").put_in
    mean = (1149 / 2048 + 1149 / 2000 + 1149 / 600) / 3
    assert told("three_way").put_in == f"1149 USD ÷ 2048, ÷ 2000 and ÷ 600: {mean:.3f}"
    assert "14.10 kg ÷ 1.229 kWh = 11.47 kg/kWh" in told("kg_per_kwh", "Tansy 1200").put_in
    assert told("zero_to_80_min").put_in.endswith("min")
    slow = {r.station: r for r in line_up(entrants, "round_trip", Asked(load_w=1196)).rows}
    for row in slow.values():
        assert f"= {100 * row.value:.1f} %" in row.worked.put_in
    rows = [r for key in QUANTITIES for r in line_up(entrants, key, asked).rows]
    assert all(r.worked.formula and r.worked.source for r in rows if r.worked is not None)
    assert all(r.is_told for r in rows if r.worked is not None and r.budget is not None)
