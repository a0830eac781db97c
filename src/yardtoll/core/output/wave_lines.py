"""Volts against load: captures and readings of one outlet, from idle to full load."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in
from yardtoll.core.waveform.shape import Shape

if TYPE_CHECKING:
    from yardtoll.core.waveform.analysis import WaveResult

SHAPE_WORDS = {
    Shape.SINE: "sine",
    Shape.FLATTENED_SINE: "flattened sine",
    Shape.MODIFIED_SINE: "modified sine",
    Shape.SQUARE: "square",
    Shape.OTHER: "none of the usual shapes",
}
IDLE_W = 5.0
"""A load under this is none."""
FIELDS = (
    EntryField(key="load_w", title="Load", unit="W", needed=True, default=0.0),
    EntryField(key="volts_v", told=True, title="Volts", unit="V", high=600, decimals=2),
    EntryField(key="hertz_hz", told=True, title="Frequency", unit="Hz", high=1000, decimals=3),
    EntryField(key="thd_percent", told=True, title="THD", unit="%", high=300, decimals=2),
    EntryField(
        key="shape",
        told=True,
        title="Shape",
        choices=tuple((s.value, w) for s, w in SHAPE_WORDS.items()),
    ),
    EntryField(key="load", title="What it was", hint="heater, drill", in_list=False),
)


@dataclass(frozen=True, kw_only=True)
class WavePoint:
    """One load: what a capture shows goes before what was typed.

    Attributes:
        wave: of the capture; None where the figures were read off an instrument.
    """

    load_w: float
    volts: float | None
    hertz: float | None
    thd: float | None
    shape: Shape | None
    wave: WaveResult | None = None
    words: str = ""

    @property
    def name(self) -> str:
        """Like "at 410 W", "without load"."""
        return "without load" if self.load_w < IDLE_W else f"at {self.load_w:.0f} W"


@dataclass(frozen=True, kw_only=True)
class WaveLoads:
    """All loads of one outlet.

    Attributes:
        points: by rising load.
        sag: (no-load − loaded) ÷ no-load at the highest load; None without both.
        volts_range, hertz_range: lowest and highest under load, without load too.
        is_sine: of all loads; None where no shape is known.
    """

    points: tuple[WavePoint, ...]
    sag: float | None
    sag_at_w: float | None
    volts_range: tuple[float, float] | None
    hertz_range: tuple[float, float] | None
    worst_thd: WavePoint | None
    is_sine: bool | None


def wave_point(line: Fields, wave: WaveResult | None = None) -> WavePoint | None:
    """A line with what its capture shows; None without a load."""
    load_w = number_in(line, "load_w")
    if load_w is None:
        return None
    volts, hertz = number_in(line, "volts_v"), number_in(line, "hertz_hz")
    percent, word = number_in(line, "thd_percent"), word_in(line, "shape")
    thd = percent / 100 if percent is not None else None
    shape = Shape(word) if word in list(Shape) else None
    if wave is not None:
        volts = wave.vrms if wave.vrms is not None else volts
        hertz = wave.hertz if wave.hertz is not None else hertz
        thd = wave.distortion.thd if wave.distortion is not None else thd
        shape = wave.shape
    return WavePoint(
        load_w=load_w, volts=volts, hertz=hertz, thd=thd, shape=shape, wave=wave,
        words=word_in(line, "load"),
    )  # fmt: skip


def against_load(points: Sequence[WavePoint]) -> WaveLoads:
    """What the loads say together."""
    found = tuple(sorted(points, key=lambda p: p.load_w))
    idle = [p.volts for p in found if p.load_w < IDLE_W and p.volts]
    loaded = [p for p in found if p.load_w >= IDLE_W and p.volts]
    sag = sag_at = None
    if idle and loaded:
        none = sum(idle) / len(idle)
        sag, sag_at = (none - (loaded[-1].volts or 0.0)) / none, loaded[-1].load_w
    volts = [p.volts for p in found if p.volts]
    hertz = [p.hertz for p in found if p.hertz]
    bent = [p for p in found if p.thd is not None]
    shapes = [p.shape for p in found if p.shape is not None]
    return WaveLoads(
        points=found,
        sag=sag,
        sag_at_w=sag_at,
        volts_range=(min(volts), max(volts)) if volts else None,
        hertz_range=(min(hertz), max(hertz)) if hertz else None,
        worst_thd=max(bent, key=lambda p: p.thd or 0.0, default=None),
        is_sine=_is_sine(shapes, bent),
    )


def _is_sine(shapes: Sequence[Shape], bent: Sequence[WavePoint]) -> bool | None:
    """At every load; a flattened one is none, and so is one bent by more than 5 %."""
    from yardtoll.core.waveform.shape import SINE_THD

    if not shapes and not bent:
        return None
    if any((p.thd or 0.0) > SINE_THD for p in bent):
        return False
    return all(shape is Shape.SINE for shape in shapes)
