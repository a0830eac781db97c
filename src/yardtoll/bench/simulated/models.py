"""The simulated station, load and meter: parameters and one step of their arithmetic.

Battery power = P + p0 + p1·P + p2·P² while the outlet is on; the outlet goes off when the store
is empty, or after an overload. Everything random comes from one seed.
"""

from dataclasses import dataclass, field, replace

import numpy as np

from yardtoll.bench.simulated.cells import CELLS
from yardtoll.bench.simulated.charging import ChargerModel, Charging, InputTable, TableCharging
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.trace import FloatArray

OVERLOAD_SHARE = 1.10
OVERLOAD_SECONDS = 5.0


@dataclass(frozen=True, kw_only=True)
class StationModel:
    """A station's truth.

    Attributes:
        store_wh: energy in the store when full, down to shut-off.
        overhead_w: p0, drawn while the outlet is on.
        proportional: p1.
        ohmic_per_w: p2 in 1/W.
        rated_w: the outlet's continuous rating.
        nominal_v, hertz: of the outlet.
        sag_ratio: fall of the outlet's volts at rated power.
        display_bend: 1 for an honest display; above it shows too little early on.
        follows_cells: chemistry whose volts an unregulated output follows; "" for a regulated one.
        overload: how it carries too much; None for a trip after so many seconds over 110 %.
        lowers_to_w: in voltage-lowering mode, the W that heaters are held at; None where it is off.
    """

    store_wh: float
    overhead_w: float
    proportional: float
    ohmic_per_w: float
    rated_w: float
    nominal_v: float = 120.0
    hertz: float = 60.0
    sag_ratio: float = 0.015
    display_bend: float = 1.0
    follows_cells: str = ""
    overload: OverloadModel | None = None
    lowers_to_w: float | None = None

    def battery_w(self, power_w: FloatArray) -> FloatArray:
        """(n,) W drawn from the store for (n,) W at the outlet."""
        return np.asarray(
            power_w + self.overhead_w + self.proportional * power_w + self.ohmic_per_w * power_w**2
        )

    def display_soc(self, left_wh: float) -> int:
        """The state of charge the display shows, in whole %."""
        share = min(max(left_wh / self.store_wh, 0.0), 1.0)
        return round(100 * float(share**self.display_bend))


@dataclass(frozen=True, kw_only=True)
class LoadModel:
    """A resistive load: draws more while cold, may be switched by its thermostat.

    Attributes:
        watts: warm, at nominal volts.
        cold_share: how much more it draws at first.
        warm_up_s: time constant of the warming.
        on_s: bench time at which it is switched on.
        thermostat_period_s, thermostat_duty: 0 for none; else cycle length and share on.
        steps: (s since it was switched on, W) from where another load takes its place.
    """

    watts: float
    cold_share: float = 0.10
    warm_up_s: float = 60.0
    on_s: float = 8.0
    thermostat_period_s: float = 0.0
    thermostat_duty: float = 1.0
    steps: tuple[tuple[float, float], ...] = ()

    def nominal_w(self, time_s: FloatArray) -> FloatArray:
        """(n,) W at nominal volts for (n,) s of bench time."""
        running = time_s - self.on_s
        watts = np.full_like(running, self.watts)
        for at_s, step_w in self.steps:
            watts[running >= at_s] = step_w
        power = watts * (1 + self.cold_share * np.exp(-np.clip(running, 0, None) / self.warm_up_s))
        if self.thermostat_period_s:
            phase = (running % self.thermostat_period_s) / self.thermostat_period_s
            power = np.where(phase < self.thermostat_duty, power, 0.0)
        return np.asarray(np.where(running >= 0, power, 0.0))


@dataclass(frozen=True, kw_only=True)
class MeterModel:
    """A meter's true errors, unknown to whoever reads it."""

    gain_error: float = 0.0
    offset_w: float = 0.0
    noise_w: float = 0.3
    power_step_w: float = 0.1
    energy_step_wh: float = 0.01


@dataclass(frozen=True, kw_only=True)
class BenchModel:
    """Everything needed to play the same bench again.

    Attributes:
        charger: where the station is charged rather than discharged; the meter sits at the wall.
        inflow: the same where a table gives the watts; the meter sits at that input.
        start_share: share of the store at the start.
    """

    seed: int
    station: StationModel
    load: LoadModel
    meter: MeterModel = field(default_factory=MeterModel)
    charger: ChargerModel | None = None
    inflow: InputTable | None = None
    start_share: float = 1.0
    interval_s: float = 1.0


@dataclass
class Simulation:
    """The state of one simulated bench, moved on by :meth:`advance`.

    ``delivered_wh`` is the truth at the meter's place – the outlet, or the wall while charging –,
    ``counter_wh`` what the meter has counted.
    """

    model: BenchModel
    time_s: float = 0.0
    used_wh: float = 0.0
    delivered_wh: float = 0.0
    counter_wh: float = 0.0
    outlet_on: bool = True
    shut_off_s: float | None = None
    overload_s: float = 0.0
    overload_heat: float = 0.0

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.model.seed)
        store = self.model.station.store_wh
        self.used_wh = (1 - self.model.start_share) * store
        left = store - self.used_wh
        self._charging: Charging | TableCharging | None = None
        if self.model.inflow is not None:
            self._charging = TableCharging(model=self.model.inflow, store_wh=store, stored_wh=left)
        elif self.model.charger is not None:
            self._charging = Charging(model=self.model.charger, store_wh=store, stored_wh=left)

    @property
    def left_wh(self) -> float:
        """Energy left in the store."""
        return max(self.model.station.store_wh - self.used_wh, 0.0)

    def advance(self, until_s: float) -> dict[str, FloatArray]:
        """Step to ``until_s`` and return what the meter sampled on the way, by column name."""
        step_s = self.model.interval_s
        count = int((until_s - self.time_s) / step_s + 1e-9)
        time_s: FloatArray = self.time_s + step_s * np.arange(1, count + 1, dtype=np.float64)
        if self._charging is not None:
            power = self._charging.advance(time_s, step_s)
            volts = np.full(count, self.model.station.nominal_v)
            self.used_wh = self.model.station.store_wh - self._charging.stored_wh
            self.delivered_wh += float(np.sum(power)) * step_s / SECONDS_PER_HOUR
        else:
            power, volts = self._outlet(time_s)
            self._drain(time_s, power, volts)
        if count:
            self.time_s = float(time_s[-1])
        return self._measure(time_s, power, volts)

    def _outlet(self, time_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """W and V at the outlet if nothing shuts it off."""
        station = self.model.station
        nominal = self.model.load.nominal_w(time_s)
        share = 1 - station.sag_ratio * nominal / station.rated_w
        if not self.outlet_on:
            return np.zeros_like(nominal), np.zeros_like(nominal)
        power = nominal * share**2
        if station.lowers_to_w is not None:
            # P goes with V² on a heater: the volts fall until it takes no more than that.
            lowered = np.sqrt(np.minimum(station.lowers_to_w / np.maximum(power, 1.0), 1.0))
            share, power = share * lowered, power * lowered**2
        return power, station.nominal_v * share

    def _drain(self, time_s: FloatArray, power: FloatArray, volts: FloatArray) -> None:
        """Take the energy from the store; zero W and V from where it shuts off."""
        if not self.outlet_on or not time_s.size:
            return
        hours = self.model.interval_s / SECONDS_PER_HOUR
        station = self.model.station
        used = self.used_wh + np.cumsum(station.battery_w(power)) * hours
        if station.follows_cells:
            cell = CELLS[station.follows_cells]
            depth = np.minimum(used / station.store_wh, 1.0)
            rate = station.battery_w(power) / station.store_wh
            volts *= cell.volts(depth, rate) / cell.nominal_v
        off = int(np.searchsorted(used, station.store_wh, side="right"))
        off = min(off, self._overloaded_at(power))
        if off < time_s.size:
            power[off:] = 0.0
            volts[off:] = 0.0
            self.outlet_on = False
            self.shut_off_s = float(time_s[off])
        if off:
            self.used_wh = float(used[off - 1])
        self.delivered_wh += float(np.sum(power[:off])) * hours

    def _overloaded_at(self, power: FloatArray) -> int:
        """Index at which an overload has lasted too long; the length of ``power`` if never."""
        overload = self.model.station.overload
        if overload is not None:
            shares = power / self.model.station.rated_w
            at, self.overload_heat = overload.trips_at(
                shares, self.model.interval_s, self.overload_heat
            )
            return int(power.size) if at is None else at
        limit = OVERLOAD_SHARE * self.model.station.rated_w
        for i in np.flatnonzero(power > limit):
            contiguous = i > 0 and power[i - 1] > limit
            self.overload_s = (self.overload_s if contiguous else 0.0) + self.model.interval_s
            if self.overload_s >= OVERLOAD_SECONDS:
                return int(i)
        return int(power.size)

    def _measure(
        self, time_s: FloatArray, power: FloatArray, volts: FloatArray
    ) -> dict[str, FloatArray]:
        """What the meter makes of the truth."""
        meter, n = self.model.meter, time_s.size
        live = volts > 0
        # One row of noise a sample: the same seed gives the same samples however time is cut.
        noise = self._random.normal(0.0, 1.0, (n, 3)) * (meter.noise_w, 0.05, 0.005)
        seen = np.where(
            power > 0, power * (1 + meter.gain_error) + meter.offset_w + noise[:, 0], 0.0
        )
        counter = self.counter_wh + np.cumsum(seen) * self.model.interval_s / SECONDS_PER_HOUR
        if n:
            self.counter_wh = float(counter[-1])
        shown_v = np.where(live, volts + noise[:, 1], 0.0)
        hertz = np.where(live, self.model.station.hertz + noise[:, 2], 0.0)
        amps = np.divide(seen, shown_v, out=np.zeros(n), where=live)
        return {
            "time": time_s,
            "power": _stepped(seen, meter.power_step_w),
            "volts": _stepped(shown_v, 0.01),
            "amps": _stepped(amps, 0.001),
            "energy": np.floor(counter / meter.energy_step_wh + 1e-9) * meter.energy_step_wh,
            "hertz": _stepped(hertz, 0.01),
            "power_factor": np.where(seen > 0, 1.0, 0.0),
        }


def _stepped(values: FloatArray, step: float) -> FloatArray:
    """Rounded to a display's step."""
    return np.asarray(np.round(values / step) * step)


def station_model_for(rated_wh: float, rated_w: float, seed: int) -> StationModel:
    """A believable station for a rating, the same for the same seed.

    Overheads and losses are typical ones (common practice, no source).
    """
    random = np.random.default_rng(seed)
    return StationModel(
        store_wh=rated_wh * float(random.uniform(0.94, 1.01)),
        overhead_w=4 + 0.006 * rated_w * float(random.uniform(0.6, 1.3)),
        proportional=float(random.uniform(0.03, 0.07)),
        ohmic_per_w=float(random.uniform(0.01, 0.03)) / rated_w,
        rated_w=rated_w,
        sag_ratio=float(random.uniform(0.005, 0.03)),
        display_bend=float(random.uniform(0.95, 1.12)),
    )


def on_dc_port(station: StationModel, unregulated: str = "") -> StationModel:
    """The same store behind a DC port: 13.2 V, no frequency, less overhead.

    Typical of a 12 V port (common practice, no source). ``unregulated`` names the chemistry whose
    volts the port follows, as a plain one of three or four cells in series does.
    """
    cell = CELLS.get(unregulated)
    return replace(
        station,
        overhead_w=0.3 * station.overhead_w,
        proportional=0.08,
        nominal_v=cell.in_12_v * cell.nominal_v if cell else 13.2,
        hertz=0.0,
        sag_ratio=0.02,
        follows_cells=unregulated,
    )
