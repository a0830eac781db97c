"""Stations that a person reads by eye: the truth of each evening, and the notes made of it.

The truth is worked out minute by minute from the load alone; nothing of the program is used.
"""

import math
import random
from dataclasses import dataclass

STEP_S = 5.0


@dataclass(frozen=True)
class Evening:
    """What happened, and what was noted.

    Attributes:
        delivered_wh, duration_s: the truth.
        notes: as the person wrote them.
        meter: limits of the meter's error.
        end_seen: whether the person was there at the end.
        counted: whether the meter has a counter.
    """

    delivered_wh: float
    duration_s: float
    rated_wh: float
    notes: str
    meter: str
    end_seen: bool
    counted: bool


def evening(seed: int) -> Evening:
    """One evening: 3 to 12 lines, seconds late, an end seen or found hours later."""
    chance = random.Random(seed)
    rated_wh = chance.choice([288, 600, 1024, 2048, 4500])
    store_wh = rated_wh * chance.uniform(0.80, 0.92)
    load_w = rated_wh * chance.uniform(0.12, 0.6)
    times, watts, energy = _course(chance, store_wh, load_w)
    end_s = times[-1]
    share = chance.choice([0.005, 0.01, 0.02])
    gain = 1 + chance.gauss(0, share / math.sqrt(3))
    counted = chance.random() < 0.75
    step_wh = chance.choice([1.0, 1.0, 10.0])
    begin_s = chance.uniform(0, 86_400)
    end_seen = chance.random() < 0.4
    moments = sorted(chance.uniform(60, 0.97 * end_s) for _ in range(chance.randint(1, 10)))

    def at(s: float, series: list[float]) -> float:
        return series[min(int(s / STEP_S), len(series) - 1)]

    def stamp(s: float) -> str:
        late = begin_s + s + chance.uniform(0, 20)
        return f"{int(late / 3600) % 24}:{int(late / 60) % 60:02d}"

    def wh(s: float) -> str:
        shown = at(s, energy) * gain
        if step_wh == 10:
            return f"{round(shown / 10) / 100:.2f} kWh"
        return f"{round(shown)} Wh"

    lines = [f"{stamp(0)} on" + (f" {wh(0)}" if counted else "")]
    for index, s in enumerate(moments):
        line = stamp(s)
        if counted and chance.random() < 0.8:
            line += f" {wh(s)}"
        if not counted or index == 0 or chance.random() < 0.5:
            line += f" {round(at(s, watts) * gain)} W"
        if chance.random() < 0.4:
            line += f" {round(100 * (1 - s / end_s))} %"
        lines.append(line)
    last = f" {wh(end_s)}" if counted else ""
    if end_seen:
        lines.append(f"{stamp(end_s)} off{last}")
    else:
        lines.append(f"{stamp(end_s + chance.uniform(1, 9) * 3600)} found off{last}")
    return Evening(
        delivered_wh=energy[-1], duration_s=end_s, rated_wh=rated_wh, notes="\n".join(lines),
        meter=f"{100 * share:g} % + 0 W", end_seen=end_seen, counted=counted,
    )  # fmt: skip


def _course(
    chance: random.Random, store_wh: float, load_w: float
) -> tuple[list[float], list[float], list[float]]:
    """Times, watts and Wh of a heater that warms up and drifts, until the store is empty."""
    warm, slow, phase = chance.uniform(0, 0.03), chance.uniform(0, 0.015), chance.uniform(0, 6)
    period_s = chance.uniform(1800, 9000)
    times, watts, energy = [0.0], [load_w * (1 + warm)], [0.0]
    while energy[-1] < store_wh:
        s = times[-1] + STEP_S
        drift = slow * math.sin(2 * math.pi * s / period_s + phase)
        watts.append(load_w * (1 + warm * math.exp(-s / 240) + drift))
        energy.append(energy[-1] + watts[-1] * STEP_S / 3600)
        times.append(s)
    return times, watts, energy
