"""Yards of many runs, as a reviewer's of some years would be; invented."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.store.records import Meter, Recording, Run, Station
from yardtoll.store.yard_file import YardFile

RATED_WH = 1000.0


def _charge_and_discharge(number: int, count: int) -> tuple[bool, Trace, float]:
    """Every other run a charge; power, volts and amps as a plug-in meter writes them."""
    random = np.random.default_rng(number)
    charges = number % 2 == 1
    watts = 600.0 if charges else float(random.uniform(100, 900))
    seconds = (1150 if charges else 900) / watts * 3600
    time_s = np.arange(count) * 1.05 * seconds / count
    on = (time_s > 5) & (time_s < seconds)
    power = np.where(on, watts + random.normal(0, 0.2, count), 0.0)
    if charges:
        late = time_s > 0.8 * seconds
        power = np.where(late, power * np.exp(-(time_s - 0.8 * seconds) / 600), power)
    power = np.round(np.maximum(power, 0), 1)
    volts = np.round(120 + random.normal(0, 0.2, count), 1)
    columns = {
        Quantity.POWER: power, Quantity.VOLTS: volts, Quantity.AMPS: np.round(power / volts, 3)
    }  # fmt: skip
    return charges, Trace(name="", time_s=np.round(time_s, 3), columns=columns), seconds


def big_yard(path: Path, runs: int, samples: int, stations: int = 1) -> Path:
    """Make one."""
    began = datetime(2025, 1, 1, tzinfo=UTC)
    with YardFile.create(path, "Many") as yard:
        meter = yard.put(
            Meter(name="Meter", profile="", address="", reading_share=0.005, floor_w=0.2)
        )
        there = [
            yard.put(Station(name=f"Sorrel {n}", rated_wh=RATED_WH, rated_w=1000))
            for n in range(stations)
        ]
        for number in range(runs):
            charges, trace, seconds = _charge_and_discharge(number // stations, samples)
            at = began + timedelta(hours=8 * number)
            run = Run(
                station_id=there[number % stations].id or 0,
                number=number // stations + 1,
                method="recharge_wall" if charges else "capacity_ac",
                state="finished",
                origin="import",
                started_at=at.isoformat(timespec="milliseconds"),
                ended_at=(at + timedelta(seconds=seconds)).isoformat(timespec="milliseconds"),
                meter_id=meter.id,
            )
            role = "wall_input" if charges else "ac_output"
            yard.keep_run(run, [(Recording(run_id=0, role=role), trace)])
    return path
