"""The plan of a run, as given to the bench and kept with the run."""

from dataclasses import dataclass, field, replace
from typing import Any

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods import CAPACITY, METHODS, Method, Size
from yardtoll.core.planning.loads import MixPart
from yardtoll.store.records import (
    TYPED,
    Conditions,
    Load,
    Meter,
    Recording,
    Run,
    RunState,
    Station,
)
from yardtoll.store.yard_file import YardFile, utc_now

RECORDED = (
    Quantity.POWER,
    Quantity.VOLTS,
    Quantity.AMPS,
    Quantity.ENERGY,
    Quantity.HERTZ,
    Quantity.POWER_FACTOR,
)
"""What a power meter is asked for."""


@dataclass(frozen=True, kw_only=True)
class RunPlan:
    """A run that is planned and not started.

    Attributes:
        parts: the loads, empty where a charger or nothing is connected.
        target_w: W aimed at; None where the charger decides.
        conditions: settings noted, checks overridden and why, wiring, temperature.
        also: further meters that record the run, with what each measures.
    """

    station: Station
    meter: Meter
    method: str
    size: str
    parts: tuple[MixPart, ...] = ()
    target_w: float | None = None
    soc: tuple[float, float] = (100.0, 0.0)
    cold_share: float = 0.1
    warm_up_s: float = 60.0
    conditions: Conditions = field(default_factory=Conditions)
    also: tuple[tuple[Meter, Role], ...] = ()

    @property
    def about(self) -> Method:
        """Its method."""
        return METHODS[self.method]

    @property
    def chosen_size(self) -> Size:
        """Its load level or duration."""
        return self.about.size(self.size)

    @property
    def load_w(self) -> float:
        """W of all loads together."""
        return sum(part.count * part.watts for part in self.parts)

    def as_run(self, yard: YardFile, state: RunState, started_at: str) -> Run:
        """A run of this plan, not yet kept."""
        assert self.station.id is not None
        return Run(
            station_id=self.station.id,
            number=yard.next_number(self.station.id),
            method=self.method,
            state=state.value,
            origin=TYPED if self.meter.is_read_by_eye else "live",
            started_at=started_at,
            meter_id=self.meter.id,
            load_id=_only_load(yard, self.parts),
            target_w=self.load_w or self.target_w,
            own_draw_w=self.meter.own_draw_w,
            soc_from=self.soc[0],
            soc_to=self.soc[1],
            conditions=replace(
                self.conditions,
                load=" + ".join(part.words for part in self.parts),
                loads=self.parts,
                size=self.size,
            ),
        )

    def begin(
        self,
        yard: YardFile,
        *,
        simulated_bench: dict[str, Any] | None = None,
        logged: tuple[Quantity, ...] = (),
    ) -> Run:
        """Keep a run that starts now, with a recording for each instrument that will be read.

        Args:
            simulated_bench: what the simulated bench is made of, where the meter is on it.
            logged: quantities that a logger adds to the meter's.
        """
        run = self.as_run(yard, RunState.RUNNING, utc_now())
        if simulated_bench is not None:
            conditions = replace(run.conditions, simulated_bench=simulated_bench)
            run = replace(run, conditions=conditions)
        run = yard.put(run)
        assert run.id is not None
        if run.origin != TYPED:
            for meter, role in ((self.meter, self.about.role), *self.also):
                own = meter is self.meter
                quantities = (*RECORDED, *(logged if own else ()))
                yard.put(
                    Recording(
                        run_id=run.id,
                        role=role.value,
                        instrument=meter.name,
                        meter_id=None if own else meter.id,
                        quantities=tuple(q.value for q in quantities),
                    )
                )
        return run


def plan_for_load(
    station: Station, meter: Meter, load: Load, setting: int = 0, count: int = 1, **facts: Any
) -> RunPlan:
    """A plain capacity run on so many of one load at one setting."""
    chosen = load.settings[setting]
    part = MixPart(name=load.name, setting=chosen.name, count=count, watts=chosen.watts)
    return RunPlan(
        station=station,
        meter=meter,
        method=CAPACITY.key,
        size=next(size.key for size in CAPACITY.sizes if size.asks_w),
        parts=(part,),
        target_w=count * part.watts,
        cold_share=load.cold_share,
        warm_up_s=load.warm_up_s,
        **facts,
    )


def _only_load(yard: YardFile, parts: tuple[MixPart, ...]) -> int | None:
    if len(parts) != 1:
        return None
    return next((load.id for load in yard.loads() if load.name == parts[0].name), None)
