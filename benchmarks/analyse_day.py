"""24 h at 10 Hz analysed, and half of it: the time should halve too."""

import time
from collections.abc import Callable

import numpy as np

from yardtoll.core.charge.analysis import ChargeWindow, analyse_recharge
from yardtoll.core.discharge.analysis import Rating, analyse_discharge
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace


def _discharge(trace: Trace) -> None:
    analyse_discharge([trace], Rating(rated_wh=20_000))


def _recharge(trace: Trace) -> None:
    analyse_recharge(trace, ChargeWindow(rated_wh=20_000))


def _best_ms(hours: float, analyse: Callable[[Trace], None]) -> float:
    t = np.arange(0, hours * 3600, 0.1)
    power = 400 + np.random.default_rng(1).normal(0, 1, t.size)
    columns = {
        Quantity.POWER: power,
        Quantity.ENERGY: np.cumsum(power) / 36_000,
        Quantity.VOLTS: np.full(t.size, 120.0),
    }
    trace = Trace(name="day", time_s=t, columns=columns)
    took = []
    for _ in range(7):
        start = time.perf_counter()
        analyse(trace)
        took.append(time.perf_counter() - start)
    return 1000 * min(took)


def main() -> None:
    for name, analyse in (("discharge", _discharge), ("recharge", _recharge)):
        day, half = _best_ms(24, analyse), _best_ms(12, analyse)
        print(f"{name}, 24 h at 10 Hz: {day:.0f} ms; 12 h: {half:.0f} ms (bar 50 ms, linear)")


if __name__ == "__main__":
    main()
