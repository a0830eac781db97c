"""A scope's table in any of its shapes, and WAV of every width, read as one and the same curve."""

import wave

import numpy as np
import pytest
from scipy.io import wavfile

from yardtoll.core.waveform.analysis import analyse_wave
from yardtoll.store.errors import LogError, MappingError
from yardtoll.store.scope_files import read_capture, read_sound

RATE = 20_000
T = np.arange(4000) / RATE
VOLTS = 169.7 * np.sin(2 * np.pi * 60 * T) + 5 * np.sin(2 * np.pi * 180 * T)
AMPS = 2 * np.sin(2 * np.pi * 60 * T - 0.5)


def lines(*columns, form="{:.6f}", separator=","):
    return "".join(
        separator.join(form.format(v) for v in row) + "\n" for row in zip(*columns, strict=True)
    )


def comma(text):
    return text.replace(".", ",")


SHAPES = {
    "names alone": "time,volts,amps\n" + lines(T, VOLTS, AMPS),
    "a preamble": "Model,Scope\nSerial,123\nSample Interval,5.0e-05,s\nRecord Length,4000\n"
    "TIME,CH1,CH2 (A)\n" + lines(T - 0.1, VOLTS, AMPS, form="{:.8e}"),
    "units below the names": "X,CH1,CH2,Start,Increment,\nSequence,VOLT,AMP,-1.0e-1,5.0e-05,\n"
    + lines(range(4000), VOLTS, AMPS).replace("\n", ",,,\n"),
    "decimal comma and small units": "Zeit (ms);Spannung (V);Strom (mA)\n"
    + comma(lines(1000 * T, VOLTS, 1000 * AMPS, separator=";")),
    "seconds and volts spelt out": "x-axis,1,2\nsecond,Volt,Ampere\n"
    + lines(T, VOLTS, AMPS, form="{:+.6E}"),
    "with tabs": "Time\tVoltage\tCurrent\n" + lines(T, VOLTS, AMPS, separator="\t"),
    "with spaces": "# t/s  U/V  I/A\n" + lines(T, VOLTS, AMPS, separator="   "),
    "a byte order mark": "\ufefftime,volts,amps\n" + lines(T, VOLTS, AMPS),
}  # fmt: skip
VOLTS_ALONE = {
    "an interval in a comment": "# sample interval: 50 us\nvolts\n" + lines(VOLTS),
    "a rate in a comment": "Sampling rate: 20 kSa/s\nCH1 (V)\n" + lines(VOLTS),
    "no names": lines(T, VOLTS, separator="\t"),
    "millivolts and microseconds": "Time,Channel A\n(us),(mV)\n\n" + lines(1e6 * T, 1000 * VOLTS),
    "the source named": "Source,CH1\nSecond,Volt\n" + lines(T, VOLTS),
}


@pytest.mark.parametrize("shape", [*SHAPES, *VOLTS_ALONE])
def test_every_shape_is_the_same_curve(shape, tmp_path):
    path = tmp_path / "scope.csv"
    path.write_text({**SHAPES, **VOLTS_ALONE}[shape], "utf-8")
    capture = read_capture(path)
    assert capture.rate_hz == pytest.approx(RATE, rel=1e-4)
    np.testing.assert_allclose(capture.volts, VOLTS, atol=2e-3)
    assert (capture.amps is not None) is (shape in SHAPES)
    if capture.amps is not None:
        np.testing.assert_allclose(capture.amps, AMPS, atol=2e-3)
        # 169.7·2/2·cos(0.5)
        assert analyse_wave(capture, 120, 60).watts == pytest.approx(148.93, abs=0.1)


def test_columns_and_rate_as_chosen(tmp_path):
    path = tmp_path / "odd.csv"
    path.write_text("a,b\n" + lines(AMPS, VOLTS), "utf-8")
    capture = read_capture(path, chosen={"volts": "b", "amps": "a"}, rate_hz=RATE)
    np.testing.assert_allclose(capture.volts, VOLTS, atol=1e-3)
    with pytest.raises(MappingError, match='no column "c"'):
        read_capture(path, chosen={"volts": "c"}, rate_hz=RATE)
    with pytest.raises(LogError, match="give --rate"):
        read_capture(path, chosen={"volts": "b"})


@pytest.mark.parametrize("kind", [np.uint8, np.int16, np.int32, np.float32, "24 bit"])
def test_a_sound_card_behind_a_divider(kind, tmp_path):
    path = tmp_path / "line.wav"
    shares = VOLTS / 400
    if kind == "24 bit":
        with wave.open(str(path), "wb") as file:
            file.setnchannels(1)
            file.setsampwidth(3)
            file.setframerate(RATE)
            codes = np.round(shares * (2**23 - 1)).astype(int)
            file.writeframes(b"".join(int(c).to_bytes(3, "little", signed=True) for c in codes))
    elif kind is np.uint8:
        wavfile.write(path, RATE, np.round(128 + 127 * shares).astype(kind))
    else:
        most = 1.0 if kind is np.float32 else np.iinfo(kind).max
        wavfile.write(path, RATE, (shares * most).astype(kind))
    capture = read_capture(path, volts_per_unit=400.0)
    np.testing.assert_allclose(capture.volts, VOLTS, atol=4 if kind is np.uint8 else 0.02)
    assert read_capture(path).relative and not capture.relative
    assert read_sound(path).rate_hz == RATE


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("no.csv", b"hello\nworld\n", "no table of numbers"),
        ("few.csv", b"time,volts\n0,1\n1,2\n", "no table of numbers"),
        ("bad.wav", b"RIFF\x24\x00\x00\x00WAVEfmt ", "no WAV file"),
        ("same.csv", b"time,volts\n" + b"1,2\n" * 10, "do not rise"),
    ],
)
def test_what_is_no_curve_is_one_sentence(name, data, said, tmp_path):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(LogError, match=said):
        read_capture(path)
    with pytest.raises(LogError, match="not a WAV file|no WAV file"):
        read_sound(path)


def test_a_file_that_is_not_there(tmp_path):
    with pytest.raises(LogError, match="does not exist"):
        read_capture(tmp_path / "none.csv")
