"""Captures as they are kept: a curve of volts or sound, from a file or an instrument."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.output.entries import (
    CALIBRATION_DB,
    CALIBRATION_RMS,
    DIVIDER,
    FULL_SCALE,
    EntryField,
)

if TYPE_CHECKING:
    from yardtoll.core.sound.levels import Recording as SoundRecording
    from yardtoll.core.waveform.capture import Capture

_LONGEST_SOUND_S = 60.0
OF_SOUND = (
    EntryField(key=CALIBRATION_DB, title="Calibrated at", unit="dB(A)", low=-20, high=200,
               decimals=1),
    EntryField(key=CALIBRATION_RMS, title="which gave, of full scale", unit="", high=1,
               decimals=4),
)  # fmt: skip
OF_DIVIDER = (
    EntryField(key=DIVIDER, title="Probe or divider", unit="×", low=0.001, high=100_000,
               decimals=1, default=1.0),
)  # fmt: skip
OF_CURVE = (
    EntryField(key=FULL_SCALE, title="Volts at full scale", unit="V", high=10_000, decimals=1),
)


@dataclass(frozen=True, kw_only=True)
class Taken:
    """What a file or an instrument gave.

    Attributes:
        known: fields of the line that are known with it.
        asked: further fields that only the reviewer knows.
    """

    trace: Trace
    role: Role
    known: Mapping[str, float | str]
    asked: tuple[EntryField, ...] = ()
    instrument: str = ""


def read_taken(
    path: Path,
    role: Role,
    chosen: Mapping[str, str] | None = None,
    rate_hz: float | None = None,
) -> Taken:
    """A file as it is kept.

    Args:
        chosen: purpose → column of a scope's table; as guessed by default.
        rate_hz: where the file has no times.

    Raises:
        LogError: it cannot be read, or shows no curve.
    """
    from yardtoll.store.scope_files import read_capture, read_sound

    if role is Role.SOUND:
        return of_sound(read_sound(path))
    return of_capture(read_capture(path, chosen=chosen, rate_hz=rate_hz))


def of_capture(capture: Capture, instrument: str = "") -> Taken:
    """A curve of volts as it is kept; one without a scale asks for it."""
    from yardtoll.core.output.entries import RELATIVE

    columns = {Quantity.VOLTS: capture.volts}
    if capture.amps is not None:
        columns[Quantity.AMPS] = capture.amps
    trace = Trace(name=capture.name, time_s=capture.time_s, columns=columns)
    known: dict[str, float | str] = {RELATIVE: 1.0} if capture.relative else {}
    return Taken(
        trace=trace,
        role=Role.WAVEFORM,
        known=known,
        asked=OF_CURVE if capture.relative else OF_DIVIDER,
        instrument=instrument,
    )


def of_sound(recording: SoundRecording) -> Taken:
    """A recording as it is kept: its first minute."""
    most = int(_LONGEST_SOUND_S * recording.rate_hz)
    samples = recording.samples[:most]
    trace = Trace(
        name=recording.name,
        time_s=np.arange(samples.size) / recording.rate_hz,
        columns={Quantity.PRESSURE: samples},
    )
    known = {"by": "recording"}
    return Taken(trace=trace, role=Role.SOUND, known=known, asked=OF_SOUND)
