"""A look at a meter before a run: does it answer, what does it read with nothing switched on."""

import math
import time
from dataclasses import dataclass

import numpy as np

from yardtoll.bench.drivers.scpi import ScpiMeter
from yardtoll.bench.profiles.files import profile_named
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, LoadModel, station_model_for
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.records import SIMULATED, Meter

_TRIES, _PAUSE_S = 20, 0.1
_IDLE_S = 1e9


@dataclass(frozen=True, kw_only=True)
class MeterLook:
    """What a meter calls itself and reads; NaN where it gives no such reading."""

    identity: str
    power_w: float
    energy_wh: float


def look_at_meter(meter: Meter) -> MeterLook:
    """Ask once, on a worker.

    Raises:
        BenchError: it does not answer, or not in numbers.
    """
    if meter.address != SIMULATED:
        return _look(ScpiMeter(meter.address, profile_named(meter.profile)))
    model = BenchModel(
        seed=0, station=station_model_for(1000, 1000, 0), load=LoadModel(watts=1, on_s=_IDLE_S)
    )
    clock = VirtualClock()
    clock.set_speed(10)
    with SimulatedBench(model, clock) as bench:
        return _look(ScpiMeter(bench.resource, profile_named(meter.profile)))


def _look(driver: ScpiMeter) -> MeterLook:
    try:
        identity = driver.open(prepare=True)
        for _ in range(_TRIES):
            block = driver.read_new()
            if block.time_s.size:
                break
            time.sleep(_PAUSE_S)
        return MeterLook(
            identity=identity,
            power_w=_last(block.columns.get(Quantity.POWER)),
            energy_wh=_last(block.columns.get(Quantity.ENERGY)),
        )
    finally:
        driver.close()


def _last(values: np.ndarray | None) -> float:
    return float(values[-1]) if values is not None and values.size else math.nan
