"""`yardtoll lineup`: stations of several yards, like with like or left out with the reason."""

import json
from pathlib import Path

import pytest

from yardtoll.demo.yard import fresh_demo
from yardtoll.store.records import Receiving
from yardtoll.store.yard_file import YardFile


@pytest.fixture
def bench(run, tmp_path):
    """Adds a station with a discharge at so many W that delivers so much to a yard."""

    def add(
        yard, station, *, rated_wh, watts, delivered_wh, method="capacity_ac", seen_to_begin=True
    ):
        log, path = tmp_path / f"{station}.csv", tmp_path / yard
        seconds = round(delivered_wh / watts * 3600)
        begins = -60 if seen_to_begin else 0
        rows = [f"{t},{watts if 0 <= t < seconds else 0}" for t in range(begins, seconds + 300, 10)]
        log.write_text("\n".join(["time,watts", *rows]), "utf-8")
        code, _, err = run("import", log, "-o", path, "--station", station, "--rated-wh", rated_wh,
                           "--rated-w", 2 * rated_wh, "--method", method)  # fmt: skip
        assert (code, err) == (0, "")
        return path

    return add


@pytest.fixture
def lined_up(run):
    def go(*arguments):
        code, out, err = run("lineup", *arguments, "--json")
        assert (code, err) == (0, "")
        return json.loads(out)

    return go


def test_like_with_like(bench, lined_up):
    mine = bench("mine.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=900)
    bench("mine.yard", "Sorrel", rated_wh=500, watts=105, delivered_wh=400)
    bench("mine.yard", "Basil", rated_wh=500, watts=250, delivered_wh=400)
    bench("mine.yard", "Tansy", rated_wh=500, watts=100, delivered_wh=400, method="capacity_dc")
    other = bench("other.yard", "Clover", rated_wh=2000, watts=400, delivered_wh=1500)
    found = lined_up(mine, other)
    assert found["quantity"] == "usable_ratio" and found["warnings"] == []
    values = {row["station"]: row["value"] for row in found["rows"]}
    assert values == {
        "Clover (mine)": pytest.approx(0.9, abs=0.002), "Sorrel": pytest.approx(0.8, abs=0.002),
        "Clover (other)": pytest.approx(0.75, abs=0.002),
    }  # fmt: skip
    assert list(values) == ["Clover (mine)", "Sorrel", "Clover (other)"]
    sorrel = found["rows"][1]
    assert sorrel["c_rate"] == pytest.approx(0.21) and sorrel["load_w"] == pytest.approx(105)
    # Nothing is known of the meters: there is nothing to rank by, nor to call a tie.
    assert {row["U"] for row in found["rows"]} == {row["rank"] for row in found["rows"]} == {None}
    assert sorrel["ties"] == []
    left_out = {row["station"]: row["why"] for row in found["left_out"]}
    assert left_out.keys() == {"Basil", "Tansy"}
    assert left_out["Basil"] == "another load: its run is at 0.50 C, not within 10 % of 0.2 C"
    assert left_out["Tansy"] == "no finished discharge through the AC outlet"


def test_at_a_load_in_watts(bench, lined_up):
    yard = bench("a.yard", "Clover", rated_wh=1000, watts=250, delivered_wh=900)
    bench("a.yard", "Basil", rated_wh=500, watts=240, delivered_wh=400)
    found = lined_up(yard, "--quantity", "delivered_wh", "--load", "250 W")
    assert [round(row["value"], -1) for row in found["rows"]] == [900, 400]
    assert lined_up(yard, "--load", "0.25C")["left_out"][0]["station"] == "Basil"


def test_what_there_is_no_figure_for(bench, lined_up):
    yard = bench("a.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=900)
    for quantity, why in (
        ("round_trip", "no discharge with a recharge after it"),
        ("idle_w", "no idle test with the AC outlet on"),
    ):
        found = lined_up(yard, "--quantity", quantity)
        assert found["rows"] == [] and found["left_out"] == [{"station": "Clover", "why": why}]


def test_a_log_that_is_not_of_the_whole_run(bench, lined_up):
    yard = bench("a.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=900,
                 seen_to_begin=False)  # fmt: skip
    (left_out,) = lined_up(yard)["left_out"]
    assert left_out["why"] == "not from start to end: the log of run 1 begins under load"


def test_what_cannot_be_asked(bench, run, tmp_path):
    yard = bench("a.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=900)
    assert run("lineup", yard, "--quantity", "beauty")[0] == 2
    assert run("lineup", yard, "--load", "plenty")[0] == 2
    assert run("lineup", yard, "--load", "0C")[0] == 2
    code, out, err = run("lineup", tmp_path / "none.yard", "--json")
    assert code == 1 and out == "" and err.count("\n") == 1
    assert not (tmp_path / "none.yard").exists()
    code, out, _ = run("lineup", yard)
    assert code == 0 and out.startswith("Clover") and "at 200 W, 0.20 C in run 1" in out


def test_ranks_with_uncertainties_of_a_stated_meter(lined_up, tmp_path):
    found = lined_up(fresh_demo(tmp_path))
    assert found["rows"]
    for row in found["rows"]:
        assert row["U"] > 0 and row["rank"] is not None
        for other in found["rows"]:
            if other["station"] in row["ties"]:
                assert row["station"] in other["ties"]


def _bought(yard, **received):
    with YardFile.open(yard) as opened:
        for station in opened.stations():
            about = received.get(station.name)
            if about is not None:
                opened.put(Receiving(station_id=station.id, **about))


def test_prices_and_weights(bench, lined_up, run):
    yard = bench("a.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=900)
    for name, watts in (("Sorrel", 100), ("Basil", 100), ("Tansy", 300)):
        bench("a.yard", name, rated_wh=500, watts=watts, delivered_wh=400)
    _bought(
        yard,
        Clover={"price": 900, "currency": "USD", "weight_kg": 12.5},
        Sorrel={"price": 500, "currency": "usd ", "weight_kg": 6.25},
        Tansy={"price": 400, "currency": "CAD"},
    )
    found = lined_up(yard, "--quantity", "price_per_rated_wh")
    assert [(r["station"], r["value"], r["U"], r["rank"]) for r in found["rows"]] == [
        ("Clover", pytest.approx(0.9), 0, 1), ("Sorrel", pytest.approx(1.0), 0, 2),
    ]  # fmt: skip
    assert found["currency"] == "USD" and {row["run"] for row in found["rows"]} == {None}
    assert {row["station"]: row["why"] for row in found["left_out"]} == {
        "Basil": "no price paid is noted", "Tansy": "its price is in CAD, the others are in USD",
    }  # fmt: skip
    usable = lined_up(yard, "--quantity", "price_per_usable_wh")
    assert [row["value"] for row in usable["rows"]] == pytest.approx([1.0, 1.25], rel=2e-3)
    assert {row["run"] for row in usable["rows"]} == {1}
    assert "another load" in {r["station"]: r["why"] for r in usable["left_out"]}["Tansy"]
    heavy = lined_up(yard, "--quantity", "kg_per_kwh")
    # 12.5 kg ± 0.05 and 6.25 kg ± 0.005 are both 12.5 kg/kWh; the scale's last digit is their U.
    assert [row["value"] for row in heavy["rows"]] == pytest.approx([12.5, 12.5])
    assert [row["U"] for row in heavy["rows"]] == pytest.approx(
        [2 * 0.05 / 3**0.5, 2 * 0.005 / 3**0.5 / 0.5]
    )
    assert {row["rank"] for row in heavy["rows"]} == {1} and "currency" not in heavy
    code, out, _ = run("lineup", yard, "--quantity", "price_per_rated_wh")
    assert code == 0 and "1. Clover  0.900 USD/Wh" in out and "None" not in out


def test_another_reviewers_yard_is_not_changed(lined_up, tmp_path):
    for version in (1, 5, 8):
        shipped = Path(__file__).parents[1] / "store" / "yards" / f"version-{version}.yard"
        yard = tmp_path / shipped.name
        yard.write_bytes(shipped.read_bytes())
        (row,) = lined_up(yard, "--load", "0.4C")["rows"]
        assert row["station"] == "Clover 1k" and row["U"] > 0
        assert yard.read_bytes() == shipped.read_bytes()
    assert len(list(tmp_path.iterdir())) == 3


def test_stations_and_yards_of_one_name(bench, lined_up, tmp_path):
    for folder in ("here", "there"):
        (tmp_path / folder).mkdir()
    yards = [
        bench(f"{folder}/bench.yard", "Clover", rated_wh=1000, watts=200, delivered_wh=delivered)
        for folder, delivered in (("here", 900), ("there", 800))
    ]
    rows = lined_up(*yards)["rows"]
    assert [row["station"] for row in rows] == [f"Clover ({yard})" for yard in yards]
    # One yard named twice is one yard.
    assert [row["station"] for row in lined_up(yards[0], yards[0])["rows"]] == ["Clover"]
