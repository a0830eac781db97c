"""How figures of tests at the outlets are told to be worked out: their sums come out by hand."""

import math

import pytest
from written_sums import comes_out

from yardtoll.core.endurance import worked as cycles_worked
from yardtoll.core.endurance.burn_in import burn_in_of
from yardtoll.core.output import worked
from yardtoll.core.output.pass_through import analyse_pass_through
from yardtoll.core.output.ports import analyse_ports
from yardtoll.core.output.switch_lines import switch_of
from yardtoll.core.output.wave_lines import against_load, wave_point
from yardtoll.core.sound.lines import level_line


def test_sag_against_no_load():
    lines = [{"load_w": 0, "volts_v": 121.0}, {"load_w": 0, "volts_v": 119.0}]
    loads = against_load([wave_point(line) for line in [*lines, {"load_w": 900, "volts_v": 114.0}]])
    told = worked.sag(loads)
    assert told.put_in == "(120.00 V − 114.00 V) ÷ 120.00 V = 5.00 %" and comes_out(told.put_in)
    assert worked.sag(against_load([wave_point(lines[0])])) is None


def test_what_was_typed_is_said_to_be():
    point = wave_point({"load_w": 100, "volts_v": 118.2, "hertz_hz": 60.02, "thd_percent": 3.1})
    for told, shown in (
        (worked.volts(point), "118.2 V"),
        (worked.hertz(point), "60.02 Hz"),
        (worked.thd(point), "3.1 %"),
    ):
        assert told.put_in == shown and "typed" in told.formula


def test_a_level_at_another_distance_with_its_background():
    """Two sources of 40 dB are 43.01 dB together; half the distance is 6.02 dB louder."""
    both_db = 10 * math.log10(2 * 10**4.0)
    line = {"doing": "charging", "level_db": both_db, "background_db": 40.0, "distance_m": 0.5}
    told = worked.level(level_line(line))
    assert told.put_in == "43.0 dB(A) at 0.5 m − 3.0 dB of background − 6.0 dB = 34.0 dB(A)"
    plain = worked.level(level_line({"doing": "idle", "level_db": 31.0, "distance_m": 1.0}))
    assert plain.put_in == "31.0 dB(A) at 1 m + 0.0 dB = 31.0 dB(A)"


def test_a_gap_in_pictures_and_on_a_curve():
    frames = switch_of({"way": "to_battery", "by": "frames", "frames_dark": 3, "fps": 250})
    assert "8.0 ms to 16.0 ms" in worked.gap(frames).put_in
    assert "÷ pictures a second" in worked.gap(frames).formula
    typed = worked.gap(switch_of({"way": "to_battery", "by": "scope", "gap_ms": 11.5}))
    assert typed.put_in.endswith(": 11.5 ms") and "typed" in typed.formula


def test_a_port_alone_is_told_as_it_was_read():
    told = worked.alone("USB-C 1", 99.5)
    assert told.put_in == "USB-C 1: 99.5 W" and told.source == "read off the instrument"


def test_ports_at_once():
    alone = {"usb_c_1": 100.0, "usb_c_2": 60.0}
    result = analyse_ports(alone, [{"usb_c_1": 60.0, "usb_c_2": 60.0}])
    told = worked.together(result)
    assert told.put_in == "60 W (usb_c_1) + 60 W (usb_c_2) = 120 W"


def test_what_a_balance_leaves_open():
    result = analyse_pass_through(
        [
            {"output_w": 500, "input_w": 620, "charging_w": 90, "carried": "wall"},
            {"output_w": 1500, "input_w": 1200, "charging_w": -400, "carried": "both"},
        ]
    )
    told = worked.left_open(result)
    assert told.put_in == "1200 + 0 − 1500 + 400 W = 100 W" and result.worst_open_w == 100
    assert worked.carried(result).put_in == "500 W out, 620 W from the wall"
    assert worked.carried(analyse_pass_through([])) is worked.left_open(analyse_pass_through([]))


def test_the_drift_of_cycles():
    lines = [{"cycle": n, "delivered_wh": 1000.0 - 2 * n, "drawn_wh": 1200.0} for n in range(1, 12)]
    told = cycles_worked.drift(burn_in_of(lines).drift)
    _, _, asked = told.put_in.partition(": ")
    assert comes_out(asked) and asked.startswith("(978.0 Wh − 998.0 Wh) ÷ 998.0 Wh = -2.004 %")


@pytest.mark.parametrize("share", [0.0, 0.12])
def test_a_captured_curve(share):
    """A sine of 170 V with a third harmonic of known share, ten samples a millisecond."""
    import numpy as np

    from yardtoll.core.waveform.analysis import analyse_wave
    from yardtoll.core.waveform.capture import Capture

    time_s = np.arange(0, 0.4, 1e-4)
    turns = 2 * np.pi * 60 * time_s
    volts = 170 * (np.sin(turns) + share * np.sin(3 * turns))
    wave = analyse_wave(Capture(name="c", rate_hz=1e4, volts=volts), 120.0, 60.0)
    point = wave_point({"load_w": 100}, wave)
    expected = 170 / math.sqrt(2) * math.sqrt(1 + share**2)
    assert worked.volts(point).put_in.endswith(f": {expected:.2f} V")
    assert worked.hertz(point).put_in.endswith(": 60.0000 Hz")
    assert f": {100 * share:.2f} % of {170 / math.sqrt(2):.2f} V" in worked.thd(point).put_in
