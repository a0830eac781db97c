"""Invented stations, meters and logs whose truth is known: nothing here comes from the program.

A store is emptied by what the load takes and the inverter wastes, a meter with errors of its own
reads along, and a display rounds. Every moment and watt-hour is found on a fine grid of time or
in closed form; the program sees only the log.
"""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Random = np.random.Generator

GAIN_LIMIT = 0.005
FLOOR_LIMIT_W = 0.5
VOLTS_LIMIT, VOLTS_FLOOR, HERTZ_LIMIT = 0.005, 0.05, 0.02
LEAD_SAMPLES = 9
"""How long a log goes on before load-on and after cut-off."""


@dataclass(frozen=True, kw_only=True)
class Station:
    """What a station is made of.

    Attributes:
        store_wh: what the cells give from full to cut-off, on the mean of many runs.
        waste_w, waste_share, waste_per_w: what the inverter wastes beside P W of load:
            waste_w + waste_share·P + waste_per_w·P².
        again: relative standard deviation of the store from run to run.
        charger_share: of the wall's W above the charger's own draw, what the cells store.
        taper_at: state of charge, 0–1, from which the wall's W fall to a tenth at full.
        fades: share of the store that is lost with each C of load; 0 in the model of the program.
    """

    rated_wh: float
    rated_w: float
    store_wh: float
    waste_w: float
    waste_share: float
    waste_per_w: float
    again: float
    charger_share: float
    charge_w: float
    taper_at: float
    fades: float = 0.0

    def taken_w(self, load_w: Floats | float) -> Floats:
        """What leaves the cells for a load."""
        load = np.asarray(load_w, dtype=float)
        return load * (1 + self.waste_share + self.waste_per_w * load) + self.waste_w

    def store_at(self, load_w: float) -> float:
        """The mean store at a load."""
        return self.store_wh * (1 - self.fades * load_w / self.rated_wh)

    def delivers_wh(self, load_w: float) -> float:
        """At a steady load, on the mean of many runs."""
        return float(load_w * self.store_at(load_w) / self.taken_w(load_w))

    @property
    def drawn_wh(self) -> float:
        """From the wall, from empty to full, on the mean of many runs."""
        return self.store_wh / self.charger_share


def a_station(random: Random, again: float | None = None, fades: float = 0.0) -> Station:
    """One of the stations there might be."""
    rated_wh = random.uniform(250, 4500)
    rated_w = rated_wh * random.uniform(0.5, 1.2)
    return Station(
        rated_wh=rated_wh,
        rated_w=rated_w,
        store_wh=rated_wh * random.uniform(0.93, 0.99),
        waste_w=rated_wh * random.uniform(0.004, 0.012),
        waste_share=random.uniform(0.02, 0.08),
        waste_per_w=random.uniform(0.01, 0.05) / rated_w,
        again=random.uniform(0.003, 0.01) if again is None else again,
        charger_share=random.uniform(0.85, 0.94),
        charge_w=rated_wh * random.uniform(0.3, 0.8),
        taper_at=random.uniform(0.8, 0.9),
        fades=fades,
    )


@dataclass
class Meter:
    """A meter whose errors lie anywhere within its limits.

    Attributes:
        common: share of the gain's variance that all its AC readings have in common; 1 and 0 are
            the ends of what a maker's limit may mean.
        drift: limit of how much its gain moves from the start of a log to its end.
        phase_deg: limit of its phase error.
    """

    random: Random
    common: float = 0.5
    drift: float = 0.0
    phase_deg: float = 0.0
    _levels: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        limit = GAIN_LIMIT - self.drift
        self._own_limit = limit * np.sqrt(1 - self.common)
        self._shared = self.random.uniform(-1, 1) * limit * np.sqrt(self.common)
        self._phase = np.radians(self.random.uniform(-1, 1) * self.phase_deg)

    def reads(self, true_w: Floats, level: str, power_factor: float = 1.0) -> Floats:
        """(n,) W as shown to a tenth; zeroed before the log, so nothing is shown of no load."""
        if level not in self._levels:
            self._levels[level] = self.random.uniform(-1, 1) * self._own_limit
        angle = np.arccos(power_factor)
        gain = (
            (1 + self._shared + self._levels[level]) * np.cos(angle + self._phase) / np.cos(angle)
        )
        moving = 1 + self.random.uniform(-1, 1) * self.drift * np.linspace(-1, 1, true_w.size)
        offset = self.random.uniform(-1, 1) * FLOOR_LIMIT_W
        shown = np.where(true_w > 0, true_w * gain * moving + offset, 0.0)
        return np.round(np.maximum(shown, 0.0), 1)


@dataclass(frozen=True, kw_only=True)
class Log:
    """What was logged, and what it truly was.

    Attributes:
        time_s, power_w, energy_wh: of the samples; a meter has a power column, a counter, or both.
        shown: (s, %) as the display said.
        wh, seconds: the truth of this one run.
        emptied_wh: what a discharge took from the cells.
        at_80_s: when the charge truly passed 80 %, from its start; None of a discharge.
    """

    time_s: Floats
    power_w: Floats | None
    energy_wh: Floats | None
    wh: float
    seconds: float
    shown: tuple[tuple[float, float], ...] = ()
    emptied_wh: float = 0.0
    at_80_s: float | None = None
    volts: Floats | None = None
    hertz: Floats | None = None
    irradiance: Floats | None = None

    @property
    def watts(self) -> float:
        """The true mean."""
        return self.wh / self.seconds * 3600


@dataclass(frozen=True, kw_only=True)
class Logging:
    """How a run is logged.

    Attributes:
        interval_s: between two samples.
        counter_step_wh: last digit of an energy counter that is logged in place of power.
        power_factor: of the load.
        switching_s: mean length of a thermostat's on and off together; 0 for a steady load.
    """

    interval_s: float = 10.0
    counter_step_wh: float | None = None
    power_factor: float = 1.0
    switching_s: float = 0.0


def _steady(random: Random, load_w: float, seconds: float, grid_s: float) -> Floats:
    """A load that warms up and wanders by a few tenths of a percent."""
    t = np.arange(0, seconds, grid_s)
    warm = 1 + random.uniform(0, 0.02) * np.exp(-t / random.uniform(30, 120))
    slow = 1 + 0.003 * np.sin(2 * np.pi * t / random.uniform(900, 3600) + random.uniform(0, 6))
    return np.asarray(load_w * warm * slow)


def _switching(
    random: Random, load_w: float, seconds: float, grid_s: float, period_s: float
) -> Floats:
    """A thermostat: a heater on top of a small steady draw, on and off at lengths of its own."""
    duty = random.uniform(0.4, 0.8)
    base_w = 0.1 * load_w
    heater_w = (load_w - base_w) / duty
    on, made, at = True, np.full(int(seconds / grid_s) + 1, base_w), 0.0
    while at < seconds:
        lasts = period_s * (duty if on else 1 - duty) * random.uniform(0.7, 1.3)
        if on:
            made[int(at / grid_s) : int((at + lasts) / grid_s)] += heater_w
        at, on = at + lasts, not on
    return made


def _sample_times(random: Random, seconds: float, interval_s: float) -> Floats:
    """From before load-on until after cut-off, at whatever moment the log was begun."""
    lead_s = LEAD_SAMPLES * interval_s
    return np.arange(-lead_s + random.uniform(0, interval_s), seconds + lead_s, interval_s)


def a_discharge(
    random: Random, station: Station, meter: Meter, load_w: float, level: str, how: Logging
) -> Log:
    """From full to cut-off, found on a grid twenty times as fine as the log."""
    grid_s = min(how.interval_s / 20, 1.0)
    store = station.store_at(load_w) * (1 + random.normal(0, station.again))
    longest = 1.4 * store / float(station.taken_w(load_w)) * 3600 + 4 * how.switching_s
    if how.switching_s:
        load = _switching(random, load_w, longest, grid_s, how.switching_s)
    else:
        load = _steady(random, load_w, longest, grid_s)
    used = np.cumsum(station.taken_w(load)) * grid_s / 3600
    end = int(np.searchsorted(used, store))
    part = (store - (used[end - 1] if end else 0.0)) / (used[end] - (used[end - 1] if end else 0.0))
    seconds = (end + part) * grid_s
    so_far = np.concatenate([[0.0], np.cumsum(load) * grid_s / 3600])
    at_grid = np.arange(so_far.size) * grid_s
    wh = float(np.interp(seconds, at_grid, so_far))
    samples = _sample_times(random, seconds, how.interval_s)
    going = (samples >= 0) & (samples < seconds)
    index = np.clip((samples / grid_s).astype(int), 0, load.size - 1)
    true_w = np.where(going, load[index], 0.0)
    if how.counter_step_wh is None:
        power = meter.reads(true_w, level, how.power_factor)
        return Log(
            time_s=samples - samples[0], power_w=power, energy_wh=None, wh=wh, seconds=seconds,
            emptied_wh=store,
        )  # fmt: skip
    grid_w = meter.reads(load[: end + 1], level, how.power_factor)
    counted = np.concatenate([[0.0], np.cumsum(grid_w) * grid_s / 3600])
    shown = np.interp(np.clip(samples, 0, seconds), at_grid[: counted.size], counted)
    step = how.counter_step_wh
    energy = np.floor(shown / step + random.uniform()) * step
    return Log(
        time_s=samples - samples[0], power_w=None, energy_wh=energy, wh=wh, seconds=seconds,
        emptied_wh=store,
    )  # fmt: skip


def a_recharge(
    random: Random, station: Station, meter: Meter, emptied_wh: float, how: Logging
) -> Log:
    """What a discharge took is put back: full power, then W that fall to a tenth at full."""
    store = emptied_wh * (1 + random.normal(0, station.again))
    grid_s = how.interval_s / 20
    soc, watts, at, soc_at = 0.0, [], 0.0, []
    rate = station.charger_share / store / 3600
    while soc < 1.0:
        left = (1 - soc) / (1 - station.taper_at)
        now_w = station.charge_w * (1.0 if left >= 1 else 0.1 + 0.9 * left)
        watts.append(now_w)
        soc_at.append(soc)
        soc += now_w * rate * grid_s
        at += grid_s
    load, levels = np.array(watts), np.array(soc_at)
    seconds = load.size * grid_s
    samples = _sample_times(random, seconds, how.interval_s)
    going = (samples >= 0) & (samples < seconds)
    index = np.clip((samples / grid_s).astype(int), 0, load.size - 1)
    power = meter.reads(np.where(going, load[index], 0.0), "in")
    start = -samples[0]
    shown = [(start, 0.0)]
    shown += [
        (start + read_at, float(np.round(100 * levels[int(read_at / grid_s)])))
        for read_at in np.arange(600, seconds, 600 + random.uniform(-200, 200))
    ]
    shown.append((start + seconds, 100.0))
    return Log(
        time_s=samples - samples[0],
        power_w=power,
        energy_wh=None,
        wh=float(load.sum() * grid_s / 3600),
        seconds=seconds,
        shown=tuple(shown),
        at_80_s=float(np.searchsorted(levels, 0.8) * grid_s),
    )


def an_idle_night(station: Station, hours: float, at_soc: float) -> Log:
    """The inverter on without a load, the display read at its start and its end."""
    lost = 100 * station.waste_w * hours / station.store_wh
    shown = ((0.0, float(np.round(at_soc))), (hours * 3600, float(np.round(at_soc - lost))))
    return Log(
        time_s=np.array([0.0, hours * 3600]),
        power_w=np.zeros(2),
        energy_wh=None,
        wh=station.waste_w * hours,
        seconds=hours * 3600,
        shown=shown,
    )
