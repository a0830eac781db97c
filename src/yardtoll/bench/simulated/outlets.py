"""What comes out of a simulated station's sockets beside watt-hours: the truth behind a rig.

Curves with harmonics that grow with the load, or a modified sine; gaps at switch-overs; ports that
share their watts; a wall that carries so much; heat, fans and sound.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.core.electrical.trace import FloatArray

SINE, MODIFIED = "sine", "modified_sine"
_PROPORTIONS = {3: 0.80, 5: 0.50, 7: 0.33}
"""Of the THD, by order: their squares add up to one."""
_FAN_HALVES = 0.45
_WATTS_A_DB = 400.0


@dataclass(frozen=True, kw_only=True)
class OutletModel:
    """A station's sockets.

    Attributes:
        rated_w, nominal_v, hertz: of the AC outlet.
        sag_ratio: fall of the r.m.s. at rated power.
        shape: SINE, or MODIFIED with rests between two levels.
        thd_idle, thd_full: of a sine, without load and at rated power.
        duty: share of a modified sine's cycle that is not at rest, without load.
        gap_ms, back_ms: without volts when the wall goes, and when it comes.
        gap_spread_ms: from try to try, standard deviation.
        ports: W that each port gives alone.
        shared_w: of all USB ports together; None for no common limit.
        bypass_w: W of load that the wall carries.
        charge_w: W of the wall that charge, beside a load of nothing.
        loss_share: of the load that becomes heat inside.
        k_per_w, heat_s: rise of °C for each W of heat, and its time constant, fans off.
        fan_on_c, fan_off_c: when the fans begin and end.
        quiet_db, fan_db: at one metre, fans off and on.
    """

    rated_w: float
    nominal_v: float = 120.0
    hertz: float = 60.0
    sag_ratio: float = 0.015
    shape: str = SINE
    thd_idle: float = 0.008
    thd_full: float = 0.025
    duty: float = 0.62
    gap_ms: float = 12.0
    back_ms: float = 4.0
    gap_spread_ms: float = 0.8
    ports: Mapping[str, float] = field(default_factory=dict)
    shared_w: float | None = None
    bypass_w: float = 1e9
    charge_w: float = 500.0
    overload: OverloadModel = field(default_factory=OverloadModel)
    ambient_c: float = 21.0
    loss_share: float = 0.10
    k_per_w: float = 0.22
    heat_s: float = 1400.0
    fan_on_c: float = 38.0
    fan_off_c: float = 33.0
    quiet_db: float = 27.0
    fan_db: float = 48.0

    def rms_v(self, load_w: float) -> float:
        """r.m.s. of the outlet at a load."""
        return self.nominal_v * (1 - self.sag_ratio * load_w / self.rated_w)

    def thd(self, load_w: float) -> float:
        """Of the curve at a load."""
        if self.shape == SINE:
            return self.thd_idle + (self.thd_full - self.thd_idle) * min(load_w / self.rated_w, 1.5)
        # Two levels with rests: all power is in the levels, the fundamental is 4/π·sin(π·duty/2)
        # of them over √2; orders to the 40th as THD counts.
        duty = self.duty
        orders = [math.sin(n * math.pi * duty / 2) / n for n in range(1, 41, 2)]
        return math.sqrt(sum(a * a for a in orders[1:])) / abs(orders[0])

    def volts(self, time_s: FloatArray, load_w: float, phase: float = 0.0) -> FloatArray:
        """(n,) V of the outlet at a steady load.

        Args:
            phase: of the cycle at 0 s, in radians.
        """
        angle = 2 * np.pi * self.hertz * time_s + phase
        rms = self.rms_v(load_w)
        if self.shape == MODIFIED:
            place = (angle / (2 * np.pi)) % 1.0
            near = 0.25 * self.duty
            high, low = np.abs(place - 0.25) < near, np.abs(place - 0.75) < near
            return np.asarray(rms / math.sqrt(self.duty) * (high.astype(float) - low))
        thd = self.thd(load_w)
        fundamental = rms / math.sqrt(1 + thd**2)
        curve: FloatArray = np.asarray(np.sin(angle))
        for order, share in _PROPORTIONS.items():
            curve += thd * share * np.sin(order * angle + 0.3 * order)
        return np.asarray(math.sqrt(2) * fundamental * curve)

    def amps(self, volts: FloatArray, load_w: float) -> FloatArray:
        """(n,) A of a heater of that many watts."""
        rms = self.rms_v(load_w)
        return np.asarray(volts * load_w / rms**2)


@dataclass
class OutletState:
    """What the sockets are doing, moved on by :meth:`advance`.

    Attributes:
        tripped: the AC outlet is off after an overload.
    """

    model: OutletModel
    load_w: float = 0.0
    wall_on: bool = False
    time_s: float = 0.0
    temperature_c: float = 0.0
    fan_on: bool = False
    tripped: bool = False
    overload_heat: float = 0.0
    tripped_at_s: float = 0.0
    loads: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.temperature_c = self.model.ambient_c

    @property
    def output_w(self) -> float:
        """W at the AC outlet."""
        if self.tripped:
            return 0.0
        return self.load_w * (self.model.rms_v(self.load_w) / self.model.nominal_v) ** 2

    @property
    def input_w(self) -> float:
        """W from the wall: the load as far as it carries it, and what charges beside it."""
        if not self.wall_on:
            return 0.0
        carried = min(self.output_w, self.model.bypass_w)
        room = max(self.model.bypass_w - carried, 0.0)
        return carried + min(self.model.charge_w, room)

    @property
    def charging_w(self) -> float:
        """W into the battery, below 0 out of it, as its display says: 94 % of what is left."""
        rest = self.input_w - self.output_w
        return 0.94 * rest if rest > 0 else rest

    @property
    def sound_db(self) -> float:
        """dB(A) at one metre."""
        if not self.fan_on:
            return self.model.quiet_db
        return self.model.fan_db + self.output_w / _WATTS_A_DB

    def port_w(self, name: str) -> float:
        """W at a port: its own limit, and its share of the common one by what all ask for."""
        given = {
            port: min(asked, self.model.ports.get(port, 0.0)) for port, asked in self.loads.items()
        }
        total = sum(given.values())
        if self.model.shared_w is None or total <= self.model.shared_w:
            return given.get(name, 0.0)
        # The largest give way first, down to one level that fits.
        low, high = 0.0, max(given.values())
        for _ in range(60):
            level = (low + high) / 2
            fits = sum(min(w, level) for w in given.values()) <= self.model.shared_w
            low, high = (level, high) if fits else (low, level)
        return min(given.get(name, 0.0), low)

    def advance(self, until_s: float, step_s: float = 1.0) -> None:
        """Heat, fans and overload, a second at a time."""
        model = self.model
        while self.time_s < until_s - 1e-9:
            step = min(step_s, until_s - self.time_s)
            share = np.array([self.load_w / model.rated_w if not self.tripped else 0.0])
            at, self.overload_heat = model.overload.trips_at(share, step, self.overload_heat)
            if at is not None and not self.tripped:
                self.tripped, self.tripped_at_s = True, self.time_s
            heat_w = model.loss_share * (self.output_w + max(self.charging_w, 0.0))
            per_w = model.k_per_w * (_FAN_HALVES if self.fan_on else 1.0)
            aim = model.ambient_c + per_w * heat_w
            self.temperature_c += (aim - self.temperature_c) * (1 - math.exp(-step / model.heat_s))
            self.fan_on = self.temperature_c > (model.fan_off_c if self.fan_on else model.fan_on_c)
            self.time_s += step

    def reset(self, how: str) -> bool:
        """Whether the outlet comes back when that is tried."""
        if not self.tripped:
            return True
        wanted = self.model.overload.reset
        cooled = self.time_s - self.tripped_at_s >= self.model.overload.fade_s
        if how == wanted or (wanted == "cooled" and cooled):
            self.tripped, self.overload_heat = False, 0.0
        return not self.tripped
