"""The simulated bench that a run is played on: made from records, kept with the run."""

import dataclasses
import zlib
from collections.abc import Mapping
from typing import Any

import numpy as np

from yardtoll.bench.instruments import open_simulated
from yardtoll.bench.simulated.charging import ChargerModel, InputTable
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.instrument import SimulatedInstrument
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    StationModel,
    on_dc_port,
    station_model_for,
)
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.core.methods import Outlet
from yardtoll.core.planning.expected import TYPICAL_CHARGE_C
from yardtoll.running.plan import RunPlan
from yardtoll.store.records import Run

REGULATED_FROM_WH = 400.0
OFF_SHARE_PER_H = 0.0002
"""Of the rated energy an hour while switched off (common practice, no source)."""


def bench_model_for(plan: RunPlan) -> BenchModel:
    """A simulated bench for a yard's own records; the same records play the same bench."""
    station, meter = plan.station, plan.meter
    seed = zlib.crc32(f"{station.name}/{station.rated_wh:g}".encode())
    random = np.random.default_rng(seed)
    truth = station_model_for(station.rated_wh, station.rated_w, seed)
    if plan.about.outlet is Outlet.DC:
        # Small stations often leave their 12 V port to the cells (common practice, no source).
        plain = station.rated_wh < REGULATED_FROM_WH
        truth = on_dc_port(truth, station.chemistry if plain else "")
    if plan.about.rests and plan.about.outlet is None:
        truth = dataclasses.replace(
            truth, overhead_w=OFF_SHARE_PER_H * station.rated_wh, nominal_v=0
        )
    charger = None
    if plan.about.charges:
        charger = ChargerModel(
            full_w=plan.target_w or TYPICAL_CHARGE_C * station.rated_wh,
            efficiency=float(random.uniform(0.86, 0.93)),
        )
    return BenchModel(
        seed=seed,
        station=truth,
        charger=charger,
        start_share=plan.soc[0] / 100,
        load=LoadModel(
            watts=plan.load_w, cold_share=plan.cold_share, warm_up_s=max(plan.warm_up_s, 1.0)
        ),
        meter=MeterModel(
            gain_error=meter.reading_share * float(random.uniform(-0.6, 0.6)),
            offset_w=meter.floor_w * float(random.uniform(-0.6, 0.6)),
        ),
    )


def model_from_conditions(stored: Mapping[str, Any]) -> BenchModel:
    """The simulated bench a run was started with."""
    parts: dict[str, Any] = {
        "station": StationModel,
        "load": LoadModel,
        "meter": MeterModel,
        "charger": ChargerModel,
        "inflow": InputTable,
    }
    built = {name: kind(**stored[name]) for name, kind in parts.items() if stored.get(name)}
    station = built.get("station")
    if isinstance(station, StationModel) and isinstance(station.overload, dict):
        overload = OverloadModel(**station.overload)
        built["station"] = dataclasses.replace(station, overload=overload)
    # A run of an earlier version knows fewer fields; they have their defaults.
    plain = {
        f.name: stored[f.name]
        for f in dataclasses.fields(BenchModel)
        if f.name not in parts and f.name in stored
    }
    return BenchModel(**plain, **built)


class SimulatedMeter:
    """The simulated bench of one run: its meter, its pace, its station's display.

    It keeps real pace until the meter answers: what happens while the connection is made would not
    be recorded. A bench that is taken up again has run on meanwhile, at real pace.

    Args:
        run: holds what the bench is made of.
        start_s: bench time at which the recording begins.
    """

    def __init__(self, run: Run, start_s: float) -> None:
        stored = run.conditions.simulated_bench
        assert stored is not None, "a run on the simulated bench keeps what it was made of"
        self._model = model_from_conditions(stored)
        self._clock = VirtualClock(start_s=start_s)
        bench = SimulatedBench(self._model, self._clock, start_s)
        self.instrument: SimulatedInstrument = open_simulated(bench)

    def set_speed(self, speed: float) -> None:
        """Bench seconds a real second."""
        self._clock.set_speed(speed)

    def display(self, watts: float) -> tuple[int, float, float]:
        """SOC %, W and s left as the station's display shows them."""
        left_wh = self.instrument.truth().left_wh
        left_s = 3600 * left_wh / watts if watts > 1 else 0.0
        return self._model.station.display_soc(left_wh), round(watts), round(left_s / 360) * 360.0
