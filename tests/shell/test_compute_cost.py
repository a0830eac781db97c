"""`yardtoll compute endurance` and `price`: keys, codes, exits."""

import pytest

NIGHT = ("--store-wh", 1000, "--overhead-w", 15)
FRIDGE = ("--load", "fridge=90 duty 0.4")
SITE = ("--lat", 43.1, "--lon", -88.4, "--tz", "America/Chicago", "--tilt", 30, "--azimuth", 180,
        "--array-w", 400)  # fmt: skip


class TestEndurance:
    def test_keys_and_values(self, shell):
        # 36 W of the fridge and 15 W of the station's own are 51 W all night.
        found = shell("endurance", *NIGHT, *FRIDGE, "--hours", 24)
        assert set(found) == {
            "hours", "left", "total_w", "overhead_share", "lasts", "short_wh", "add", "warnings",
        }  # fmt: skip
        assert found["hours"] == pytest.approx(1000 / 51)
        assert found["total_w"] == pytest.approx(51) and found["lasts"] is False
        assert found["left"][1] == {"hour": 1, "wh": pytest.approx(949)}
        assert found["add"] == {"wh": pytest.approx(224), "sun_wh": pytest.approx(224)}
        without = shell("endurance", *NIGHT, *FRIDGE)
        assert "lasts" not in without and without["hours"] == pytest.approx(found["hours"])

    def test_one_that_never_empties(self, shell):
        found = shell("endurance", "--store-wh", 1000, "--overhead-w", 2, "--hours", 100)
        assert (found["hours"], found["lasts"]) == (None, True)
        assert found["left_wh"] == pytest.approx(800) and "short_wh" not in found
        assert len(shell("endurance", "--store-wh", 1000, "--overhead-w", 2)["left"]) == 73

    @pytest.mark.parametrize(
        ("said", "wh"),
        [
            ("lamp=12 from 18 to 23:30", 66), ("lamp=12W from 22 to 6", 96),
            ("lamp = 0.012 kW", 288), ("lamp=12 duty 25 %", 72),
            ("a lamp=12 duty 0.5 inrush 3", 144),
        ],
    )  # fmt: skip
    def test_how_a_load_may_be_said(self, shell, said, wh):
        found = shell("endurance", "--store-wh", 1000, "--overhead-w", 0, "--load", said,
                      "--hours", 24)  # fmt: skip
        assert found["left_wh"] == pytest.approx(1000 - wh)

    @pytest.mark.parametrize(("inrush", "over"), [("4", True), ("2", False), ("1300 W", True)])
    def test_a_start_over_the_surge(self, shell, inrush, over):
        found = shell("endurance", *NIGHT, "--load", f"pump=400 inrush {inrush}",
                      "--surge-w", 1200)  # fmt: skip
        assert [w["code"] for w in found["warnings"]] == ["inrush_over_surge"] * over

    def test_water_is_warmed_once(self, shell):
        found = shell("endurance", *NIGHT, "--heat", "1 L from 20 to 100 C in 0.85")
        assert found["heat_wh"] == pytest.approx(4186 * 80 / 3600 / 0.85)
        assert found["hours"] == pytest.approx((1000 - found["heat_wh"]) / 15)
        same = shell("endurance", *NIGHT, "--heat", "1 L from 68 to 212 F in 85 %")
        assert same["heat_wh"] == pytest.approx(found["heat_wh"])

    def test_packs_and_stations_together(self, shell):
        found = shell("endurance", *NIGHT, "--parallel", 2, "--pack", 500, "--pack", 500)
        # 3000 Wh at 30 W would be 100 h; no more than 72 h are looked at unless it is said.
        assert found["hours"] is None and found["left"][-1]["wh"] == pytest.approx(3000 - 72 * 30)
        found = shell("endurance", *NIGHT, *FRIDGE, "--parallel", 2, "--pack", 500)
        assert found["hours"] == pytest.approx(2500 / 66)

    def test_from_a_display(self, shell):
        found = shell("endurance", "--shown", 35, "--after", "15:00:00")
        assert found["hours_more"] == pytest.approx(15 * 35 / 65)
        # Half a point either way of both readings, as far as their corners go.
        low, high = (15 * (35 + d) / (65 - d + e) for d, e in ((-0.5, 0.5), (0.5, -0.5)))
        assert 0 < found["hours_more_U"] < high - low

    def test_sun_fills_and_spills(self, shell):
        sun = (*SITE, "--start", "2026-06-21T05:00", "--cap-w", 200)
        found = shell("endurance", *NIGHT, *sun, "--hours", 24)
        # From sunrise on a full store has no room: most of a clear summer's day is spilled.
        assert found["lasts"] and found["spilled_wh"] > 1000
        more = shell("endurance", *NIGHT, *sun[:-1], 400, "--hours", 24)
        assert more["spilled_wh"] > found["spilled_wh"]
        assert "spilled_wh" not in shell("endurance", *NIGHT)
        night = shell("endurance", *NIGHT, *FRIDGE, *SITE, "--start", "2026-06-21T22:00",
                      "--hours", 6)  # fmt: skip
        assert night["left_wh"] == pytest.approx(1000 - 6 * 51)

    def test_hours_are_of_the_clock_where_the_site_is(self, shell):
        asked = ("--store-wh", 1000, "--overhead-w", 0, "--load", "lamp=100 from 18 to 23",
                 "--tz", "America/Chicago", "--hours", 3)  # fmt: skip
        # Midnight in universal time is 19:00 in Chicago in June: the lamp is on all the time.
        for start in (
            ("--start", "2026-06-21T19:00"), ("--start", "2026-06-22T00:00+00:00"),
            ("--date", "2026-06-21", "--start", "19:00"), ("--date", "2026-06-21", "--start", 19),
            ("--start", "19:00"),
        ):  # fmt: skip
            found = shell("endurance", *asked, *start)
            assert found["left_wh"] == pytest.approx(700)

    def test_a_day_alone_begins_at_midnight(self, shell):
        day = shell("endurance", *NIGHT, *SITE, "--date", "2026-06-21", "--hours", 24)
        assert day == shell("endurance", *NIGHT, *SITE, "--start", "2026-06-21", "--hours", 24)

    @pytest.mark.parametrize(
        "wrong",
        [
            ("--store-wh", 1000), (), ("--shown", 35), (*NIGHT, "--load", "fridge"),
            (*NIGHT, "--load", "fridge=90 dusty 0.4"), (*NIGHT, "--heat", "a kettle"),
            (*NIGHT, "--lat", 43), (*NIGHT, "--start", "teatime"),
            (*NIGHT, "--date", "teatime"), (*NIGHT, "--parallel", 0),
            (*NIGHT, "--date", "2026-06-21", "--start", "2026-06-22"),
        ],
    )  # fmt: skip
    def test_wrong_usage(self, wrong_usage, wrong):
        assert "Traceback" not in wrong_usage("endurance", *wrong)

    @pytest.mark.parametrize(
        "values",
        [
            ("--store-wh", -1, "--overhead-w", 15), (*NIGHT, "--pack", 0),
            (*NIGHT, "--load", "fridge=90 duty 3"),
            (*NIGHT, "--load", "fridge=-90"), (*NIGHT, "--load", "fridge=90 duty -0.1"),
            (*NIGHT, "--hours", 1e9),
            (*NIGHT, "--load", "lamp=5 from 18 to 30"), ("--shown", 100, "--after", "1:00:00"),
            (*NIGHT, "--heat", "1 L from 100 to 20 C in 0.85"),
        ],
    )  # fmt: skip
    def test_values_that_cannot_be(self, refused, values):
        assert refused("endurance", *values).startswith("yardtoll: ")

    def test_as_a_table(self, run):
        code, out, err = run("compute", "endurance", *NIGHT, *FRIDGE, "--hours", 24)
        assert (code, err) == (0, "") and "19 h 36 min" in out and "29 %" in out
        assert "224 Wh more store" in out


class TestPrice:
    def test_the_three_way_index(self, shell):
        # 1299 for 1512 Wh, 2000 W and 800 W of sun: 1.04 (handed down; common practice).
        found = shell("price", "--price", 1299, "--rated-wh", 1512, "--inverter-w", 2000,
                      "--solar-w", 800)  # fmt: skip
        assert found["three_way"] == pytest.approx(1.04, abs=0.005)
        assert found["per_rated_wh"] == pytest.approx(0.859, abs=5e-4)
        assert found["per_usable_wh"] is found["per_charge"] is found["per_lifetime_kwh"] is None

    def test_over_its_life_and_a_charge(self, shell):
        asked = ("--price", 1000, "--rated-wh", 1000, "--cycles", 2000, "--tariff", 0.3)
        found = shell("price", *asked, "--round-trip", 0.75)
        assert found["per_lifetime_kwh"] == pytest.approx(0.5)
        assert found["per_charge"] == pytest.approx(0.4)
        assert shell("price", *asked)["per_charge"] == pytest.approx(0.3)
        usable = shell("price", *asked, "--usable-wh", 800, "--units", 3)
        assert usable["per_lifetime_kwh"] == pytest.approx(0.625)
        assert usable["per_usable_wh"] == pytest.approx(1.25)
        assert usable["units"]["per_charge"] == pytest.approx(0.9)
        assert usable["units"]["per_usable_wh"] == pytest.approx(1.25)

    def test_what_cannot_be(self, refused, wrong_usage, run):
        for value in (0, -5, "nan"):
            assert "above 0" in refused("price", "--price", value, "--rated-wh", 1000)
        wrong_usage("price", "--price", 5)
        wrong_usage("price", "--price", 5, "--rated-wh", 10, "--units", 0)
        code, out, _ = run("compute", "price", "--price", 999, "--rated-wh", 999, "--units", 2)
        assert code == 0 and "1.000 · 1.000" in out
