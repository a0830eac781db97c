"""Cords and circuits against published figures."""

import pytest

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.planning.wiring import Circuit, Cord, awg_diameter_mm, cord, parse_circuit


class TestWire:
    # ASTM B258: nominal diameters of solid round wire, mm.
    @pytest.mark.parametrize(
        ("awg", "diameter_mm"), [(10, 2.588), (12, 2.053), (14, 1.628), (16, 1.291), (18, 1.024)]
    )
    def test_diameters(self, awg, diameter_mm):
        assert awg_diameter_mm(awg) == pytest.approx(diameter_mm, abs=0.001)

    def test_the_series_ends_where_it_is_defined(self):
        assert awg_diameter_mm(36) == pytest.approx(0.127)  # by definition
        assert awg_diameter_mm(-3) == pytest.approx(11.684)  # 0000, by definition

    def test_resistance_of_copper(self):
        # IEC 60028: 1 m of 1 mm² is 1/58 Ω at 20 °C.
        assert Cord(length_m=0.5, area_mm2=1).ohm == pytest.approx(1 / 58, rel=1e-4)

    def test_drop_there_and_back(self):
        # By hand: 14 AWG has 8.28 Ω/km; 15 m there and back 0.2484 Ω; at 10 A 2.48 V.
        assert cord(15, "14 AWG").drop_v(10) == pytest.approx(2.484, abs=0.01)
        assert cord(10, "1.5 mm²").drop_v(8) == pytest.approx(8 * 20 * 0.017241 / 1.5)

    def test_ratings_printed_or_by_gauge(self):
        # NEC table 400.5(A), from memory.
        assert [cord(5, f"{n} AWG").continuous_a for n in (18, 16, 14, 12)] == [10, 13, 18, 25]
        assert cord(5, "14 AWG", 15).continuous_a == 15
        assert cord(5, "2 mm2").continuous_a == 16  # as the next thinner one in the table
        assert cord(5, "0.5 mm²").continuous_a is None

    @pytest.mark.parametrize("gauge", ["", "thick", "14", "AWG 14", "1.5 mm"])
    def test_a_gauge_that_does_not_read(self, gauge):
        with pytest.raises(UnusableDataError, match="should look like"):
            cord(5, gauge)

    def test_no_length_no_cord(self):
        with pytest.raises(ValueOutOfRangeError):
            cord(0, "14 AWG")


class TestCircuit:
    # NEC 210.20(A), from memory: 80 % of the breaker for continuous loads.
    @pytest.mark.parametrize(("amps", "limit_w"), [(15, 1440), (20, 1920)])
    def test_eighty_percent_from_three_hours_on(self, amps, limit_w):
        circuit = Circuit(breaker_a=amps, volts=120)
        assert circuit.limit_w(3) == pytest.approx(limit_w)
        assert circuit.limit_w(2.99) == pytest.approx(amps * 120)

    @pytest.mark.parametrize("text", ["15 A 120 V", "15A, 120V", "15 a @ 120 v", "15 A · 120 V"])
    def test_reads(self, text):
        assert parse_circuit(text) == Circuit(breaker_a=15, volts=120)

    @pytest.mark.parametrize("text", ["", "15", "15 V 120 A", "A V"])
    def test_does_not_read(self, text):
        with pytest.raises(UnusableDataError, match="should look like"):
            parse_circuit(text)
