"""Units and signs of a region: shown, and any of them read."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.errors import FieldError
from yardtoll.core.region import (
    INTERNATIONAL,
    REGIONS,
    in_region,
    region_of,
    shown_in,
    typed_in,
)

US, EUROPE = REGIONS["us"], REGIONS["europe"]


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        # Fixed points: water freezes at 32 °F and boils at 212 °F; −40 is the same in both.
        ("0 °C", "32 °F"),
        ("100 °C and −40 °C", "212 °F and −40 °F"),
        ("0–40 °C", "32–104 °F"),
        ("25.0 ± 0.5 °C", "77.0 ± 0.9 °F"),
        ("read to ± 1 °C", "read to ± 2 °F"),
        ("run 3 25 °C", "run 3 77 °F"),
        ("−0.29 %/°C", "−0.29 %/°C"),
        # 10 kg = 22.046 lb (NIST SP 811)
        ("10.0 kg", "22.0 lb"),
        ("weighs 10.00 ± 0.05 kg", "weighs 22.05 ± 0.11 lb"),
        ("the maker says “use at 0–40 °C, 10 kg”", "the maker says “use at 0–40 °C, 10 kg”"),
        ("1830.5 Wh", "1830.5 Wh"),
    ],
)
def test_american_units(text, shown):
    assert in_region(text, US) == shown
    assert in_region(text, INTERNATIONAL) == text


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("89.4 ± 0.5 % at 1.25 kWh", "89,4 ± 0,5 % at 1,25 kWh"),
        ("−0.5 dB", "−0,5 dB"),
        ("version 1.2.3, log2.csv, USB3.0", "version 1.2.3, log2.csv, USB3.0"),
        ("“2.4 kWh” is 2.4", "“2.4 kWh” is 2,4"),
        ("18:40, done.", "18:40, done."),
    ],
)
def test_decimal_comma(text, shown):
    assert in_region(text, EUROPE) == shown


def test_names_stay_as_they_are_written():
    text = "Sorrel 2.0 gave 1.5 kWh"
    assert in_region(text, EUROPE, ("Sorrel 2.0", "")) == "Sorrel 2.0 gave 1,5 kWh"


@pytest.mark.parametrize(
    ("text", "unit", "region", "value"),
    [
        ("77", "°C", US, 25),
        ("77 F", "°C", INTERNATIONAL, 25),
        ("25 °c", "°C", US, 25),
        ("−40F", "°C", EUROPE, -40),
        ("22.05 lb", "kg", INTERNATIONAL, 10.0017),
        ("10", "kg", EUROPE, 10),
        ("22,05", "kg", US, 10.0017),
        ("900 g", "kg", US, 0.9),
        ("1.234,5", "", US, 1234.5),
        ("1,234.5", "", EUROPE, 1234.5),
        ("1,234", "", US, 1234),
        ("1,234", "", EUROPE, 1.234),
        ("1.234", "", EUROPE, 1234),
        ("0.234", "", EUROPE, 0.234),
        ("1.5", "", EUROPE, 1.5),
        ("2 048", "", EUROPE, 2048),
        ("1,234,567", "", EUROPE, 1234567),
    ],
)
def test_any_of_them_is_read(text, unit, region, value):
    assert typed_in(text, unit, region) == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize("text", ["", "abc", "5 lb", "1,23,4", "12 °X", "--3"])
def test_what_is_no_temperature(text):
    with pytest.raises(FieldError):
        typed_in(text, "°C", INTERNATIONAL)


@given(
    st.floats(-60, 2000).map(lambda v: round(v, 2)),
    st.sampled_from(["", "°C", "kg"]),
    st.sampled_from(sorted(REGIONS)),
)
def test_shown_and_read_again(value, unit, key):
    region = REGIONS[key]
    shown = f"{shown_in(value, unit, region):.6f}".replace(".", region.decimal_sign)
    assert typed_in(shown, unit, region) == pytest.approx(value, abs=1e-5)


def test_where_the_reader_lives():
    assert region_of("US") is US
    assert region_of("DE").decimal_sign == ","
    assert region_of("ZZ") is INTERNATIONAL
    assert US.words == "°F, lb, 12 h, 120 V, USD, 1.5"
