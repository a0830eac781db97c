"""A check of a meter before a run: does it answer, what does it read with nothing switched on."""

import math
import time
from dataclasses import dataclass

import numpy as np

from yardtoll.bench.instrument import Instrument
from yardtoll.bench.instruments import open_instrument, open_simulated
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import BenchModel, LoadModel, station_model_for
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.store.records import Meter

_TRIES, _PAUSE_S = 20, 0.1
_IDLE_S = 1e9


@dataclass(frozen=True, kw_only=True)
class MeterCheck:
    """What a meter calls itself and reads; NaN where it gives no such reading."""

    identity: str
    power_w: float
    energy_wh: float


def check_meter(meter: Meter) -> MeterCheck:
    """Ask once, on a worker.

    Raises:
        BenchError: it does not answer, or not in numbers.
    """
    if not meter.is_simulated:
        return _look(open_instrument(meter))
    model = BenchModel(
        seed=0, station=station_model_for(1000, 1000, 0), load=LoadModel(watts=1, on_s=_IDLE_S)
    )
    clock = VirtualClock()
    clock.set_speed(10)
    instrument = open_simulated(SimulatedBench(model, clock))
    try:
        return _look(instrument)
    finally:
        instrument.shut_down()


def _look(driver: Instrument) -> MeterCheck:
    try:
        identity = driver.open(prepare=True)
        for _ in range(_TRIES):
            block = driver.read_new()
            if block.time_s.size:
                break
            time.sleep(_PAUSE_S)
        return MeterCheck(
            identity=identity,
            power_w=_last(block.columns.get(Quantity.POWER)),
            energy_wh=_last(block.columns.get(Quantity.ENERGY)),
        )
    finally:
        driver.close()


def _last(values: np.ndarray | None) -> float:
    return float(values[-1]) if values is not None and values.size else math.nan
