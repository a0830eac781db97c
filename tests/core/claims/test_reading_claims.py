"""Pasted listings as claims: figures found, units turned, nothing wrong taken for sure."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from listings import LISTINGS

from yardtoll.core.claims.kinds import CLAIM_KINDS
from yardtoll.core.claims.reading.figures import find_count, find_figures, number, plain_text
from yardtoll.core.claims.reading.read import GUESS, LIKELY, SURE, read_claims
from yardtoll.core.errors import UnusableDataError


def wanted(figures):
    return {
        (quantity, value)
        for quantity, values in figures.items()
        for value in (values if isinstance(values, list) else [values])
    }


def found(text):
    return {(c.quantity, c.words or c.value) for c in read_claims(text).claims}


def test_there_are_listings_enough():
    assert len(LISTINGS) >= 30


def test_at_least_95_percent_of_the_figures_are_read():
    asked = [(text, figure) for text, figures in LISTINGS for figure in wanted(figures)]
    missed = [(text, figure) for text, figure in asked if figure not in found(text)]
    assert len(missed) <= 0.05 * len(asked), missed


@pytest.mark.parametrize(("text", "figures"), LISTINGS, ids=range(len(LISTINGS)))
def test_no_wrong_figure_is_taken_for_sure(text, figures):
    wrong = [
        claim
        for claim in read_claims(text).claims
        if (claim.quantity, claim.words or claim.value) not in wanted(figures)
        and claim.confidence >= LIKELY
    ]
    assert wrong == []


@pytest.mark.parametrize(
    ("text", "value"),
    [("2,048", 2048), ("1,5", 1.5), ("1.5", 1.5), ("12,345,678.9", 12345678.9), ("400", 400)],
)
def test_numbers(text, value):
    assert number(text) == value


class TestFigures:
    @pytest.mark.parametrize(
        ("text", "value", "unit"),
        [
            ("2.4 kW", 2400, "W"),
            ("268,000 mAh", 268, "Ah"),
            ("10 lb", 4.5359237, "kg"),  # the international pound, exact by definition
            ("14 °F", -10, "°C"),
            ("104°F", 40, "°C"),
            ("1 h 20 min", 80, "min"),
            ("1:30 h", 90, "min"),
            ("<50dB(A)", 50, "dB(A)"),
            ("6 months", 0.5, "years"),
        ],
    )
    def test_units_are_turned(self, text, value, unit):
        (figure,) = find_figures(text)
        assert (figure.value, figure.unit) == (pytest.approx(value), unit)

    def test_ranges(self):
        for text in ("12–60 V", "12V-60V", "12 to 60 V", "12~60V"):
            (figure,) = find_figures(plain_text(text))
            assert (figure.low, figure.value) == (12, 60)

    @pytest.mark.parametrize(
        ("text", "count"),
        [("2 × 100 W", 2), ("USB-C x3", 3), ("Four 120V AC outlets", 4), ("12 V car outlet", None),
         ("qty 2", 2), ("100 W", None)],
    )  # fmt: skip
    def test_counts(self, text, count):
        assert find_count(plain_text(text)) == count

    def test_codes_and_words_are_no_units(self):
        assert find_figures("3 S pack, model 5 A1, a 4x4") == []


class TestReading:
    def test_the_soc_window_is_the_condition(self):
        (claim,) = read_claims("Charging: 0–80% in 45 mins").claims
        assert (claim.quantity, claim.value, claim.unit) == ("recharge_min", 45, "min")
        assert claim.condition == "0–80 %" and claim.kept_as("x").soc_window == (0, 80)

    def test_conditions_are_kept(self):
        by_kind = {c.quantity: c for c in read_claims(
            "Usable capacity: 900 Wh at 25 °C\nTransfer: 10 ms in UPS mode\nUSB-C: 2 × 60 W"
        ).claims}  # fmt: skip
        assert by_kind["usable_wh"].condition == "at 25 °C"
        assert by_kind["transfer_ms"].condition == "UPS mode"
        assert by_kind["usb_c_w"].kept_as("x").ports_meant == 2

    def test_impossible_figures_are_doubted_and_told(self):
        read = read_claims("Surge: 500 W\nAC output: 2000 W\nWeight: 9000 kg")
        assert {c.quantity for c in read.claims if c.confidence <= GUESS} == {
            "surge_w", "continuous_w", "weight_kg",
        }  # fmt: skip
        assert any("below the continuous power" in w for w in read.warnings)
        assert any("more than 2000 is not plausible" in w for w in read.warnings)

    def test_two_figures_for_one_thing_are_both_doubted(self):
        claims = read_claims("Capacity: 1000 Wh\nCapacity: 1024 Wh").claims
        assert [c.confidence for c in claims] == [GUESS, GUESS]

    def test_a_label_of_its_own_is_surer_than_a_bare_unit(self):
        assert read_claims("Weight: 10 kg").claims[0].confidence == SURE
        assert read_claims("only 10 kg").claims[0].confidence < LIKELY

    def test_what_is_not_understood_is_shown(self):
        read = read_claims("Size: 40 x 20 x 30 cm\nExpandable to 5 kWh\nBlue, with a handle")
        assert read.claims == () and read.unread == ("Size: 40 x 20 x 30 cm", "Expandable to 5 kWh")

    @pytest.mark.parametrize(
        ("text", "value"), [("Pure sine wave", 1), ("Modified sine, no UPS", 0), ("UPS: no", 0)]
    )
    def test_yes_and_no(self, text, value):
        assert [c.value for c in read_claims(text).claims] == [value]

    @pytest.mark.parametrize("text", ["", "  \n ", "x" * 200_001, "a\0b"])
    def test_what_is_no_text_is_one_sentence(self, text):
        with pytest.raises(UnusableDataError):
            read_claims(text)

    @given(st.text(max_size=300))
    def test_any_text_can_be_read(self, text):
        try:
            read = read_claims(text)
        except UnusableDataError:
            return
        assert all(c.quantity in CLAIM_KINDS and 0 < c.confidence <= 1 for c in read.claims)
