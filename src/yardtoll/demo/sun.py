"""The demo's days of sun: what flows in by their clocks, and what a logger beside them saw."""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from yardtoll.bench.simulated.charging import InputTable
from yardtoll.bench.simulated.sunny_day import (
    ShadeOnPanels,
    SolarStation,
    SunnyDay,
    Weather,
    simulate_sun,
)
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.demo.content import ARRAY, SITE, SMALL
from yardtoll.review.sun.arrays import parts_of

_STEP_S = 5.0
_TANSY_S, _SORREL_S, _PLUGGED_S = 8.75 * 3600, 2.0 * 3600, 1500.0
_SORREL_CAP_W, _SORREL_WALL_W = 150.0, 118.0


@dataclass(frozen=True, kw_only=True)
class DemoSun:
    """One input of a demo run.

    Attributes:
        time_s, light: of the irradiance logger; none beside the wall.
        start_share: of the store.
        volts: at the meter.
    """

    inflow: InputTable
    length_s: float
    start_share: float
    time_s: FloatArray
    light: FloatArray | None
    volts: float


def demo_sun(name: str, start: datetime) -> DemoSun:
    """The input a demo run names, from an aware time on."""
    if name == "tansy":
        day = _tansy(start)
        return DemoSun(
            inflow=_table(day.time_s, day.power_w, 0.93),
            length_s=_TANSY_S,
            start_share=0.08,
            time_s=day.time_s,
            light=day.irradiance,
            volts=32.6,
        )
    wall = name == "sorrel wall"
    # The panel is plugged in after the wall; both clocks tell of one morning.
    day = _sorrel(start if wall else start - timedelta(seconds=_PLUGGED_S))
    sun_w = np.where(day.time_s >= _PLUGGED_S, day.power_w, 0.0)
    wall_w = np.minimum(_SORREL_WALL_W, _SORREL_CAP_W - sun_w)
    wall_w = np.where((day.time_s > 300) & (day.time_s < _SORREL_S - 600), wall_w, 0.0)
    if wall:
        return DemoSun(
            inflow=_table(day.time_s, wall_w, 0.9),
            length_s=_SORREL_S,
            start_share=0.05,
            time_s=day.time_s,
            light=None,
            volts=120.0,
        )
    kept = day.time_s >= _PLUGGED_S
    time_s = day.time_s[kept] - _PLUGGED_S
    return DemoSun(
        inflow=_table(time_s, sun_w[kept], 0.9),
        length_s=_SORREL_S - _PLUGGED_S,
        start_share=0.2,
        time_s=time_s,
        light=day.irradiance[kept],
        volts=19.4,
    )


def _tansy(start: datetime) -> SunnyDay:
    """Up to the station's cap at noon, a board laid over a panel, a few clouds, nearly full."""
    return simulate_sun(
        parts_of(SITE, [ARRAY]),
        SolarStation(cap_w=292.0, lag_s=25.0, store_wh=1134.0, start_share=0.08, taper_from=0.93),
        _times(start, _TANSY_S),
        weather=Weather(cloud_s=260, gap_s=2700, least=0.3, most=0.55),
        shade=[ShadeOnPanels(start_s=2.2 * 3600, end_s=2.2 * 3600 + 480, left=0.32)],
        seed=11,
    )


def _sorrel(start: datetime) -> SunnyDay:
    return simulate_sun(
        parts_of(SITE, [SMALL]),
        SolarStation(cap_w=100.0, store_wh=5000.0),
        _times(start, _SORREL_S),
        weather=Weather(cloud_s=200, gap_s=1800),
        seed=5,
    )


def _times(start: datetime, length_s: float) -> FloatArray:
    return start.timestamp() + _STEP_S * np.arange(int(length_s / _STEP_S), dtype=np.float64)


def _table(time_s: FloatArray, watts: FloatArray, efficiency: float) -> InputTable:
    return InputTable(
        time_s=tuple(time_s.tolist()),
        watts=tuple(np.round(watts, 2).tolist()),
        efficiency=efficiency,
    )
