"""What a run is to be: the plan as it is handed to the bench, and kept with the run."""

from dataclasses import asdict, dataclass, field
from typing import Any

from yardtoll.core.methods import METHODS, Method, Size
from yardtoll.core.planning.loads import MixPart
from yardtoll.store.records import Load, Meter, Run, RunState, Station
from yardtoll.store.yard_file import YardFile


@dataclass(frozen=True, kw_only=True)
class RunPlan:
    """A run worked out and not begun.

    Attributes:
        parts: the loads, empty where a charger or nothing is connected.
        target_w: W aimed at; None where the charger decides.
        conditions: settings noted, gates overridden and why, wiring, temperature.
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
    conditions: dict[str, Any] = field(default_factory=dict)

    @property
    def about(self) -> Method:
        """Its method."""
        return METHODS[self.method]

    @property
    def chosen_size(self) -> Size:
        """Its school of power or time."""
        return self.about.size(self.size)

    @property
    def load_w(self) -> float:
        """W of all loads together."""
        return sum(part.count * part.watts for part in self.parts)

    def as_run(self, yard: YardFile, state: RunState, started_at: str) -> Run:
        """A run of this plan, not yet kept."""
        assert self.station.id is not None
        words = " + ".join(part.words for part in self.parts)
        return Run(
            station_id=self.station.id,
            number=yard.next_number(self.station.id),
            method=self.method,
            state=state.value,
            origin="live" if self.meter.address else "typed",
            started_at=started_at,
            meter_id=self.meter.id,
            load_id=_only_load(yard, self.parts),
            target_w=self.load_w or self.target_w,
            own_draw_w=self.meter.own_draw_w,
            soc_from=self.soc[0],
            soc_to=self.soc[1],
            conditions={
                "load": words,
                "loads": [asdict(part) for part in self.parts],
                "size": self.size,
                **self.conditions,
            },
        )


def plan_for_load(
    station: Station, meter: Meter, load: Load, setting: int = 0, count: int = 1, **facts: Any
) -> RunPlan:
    """A plain capacity run on so many of one load at one setting."""
    chosen = load.settings[setting]
    part = MixPart(
        name=load.name, setting=chosen["name"], count=count, watts=float(chosen["watts"])
    )
    return RunPlan(
        station=station,
        meter=meter,
        method="capacity_ac",
        size="fixed",
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
