"""An outage as the core goes through it, from what is asked and what the yard knows."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.endurance.outage import Feed, Outage, OutageLoad, SunSteps
from yardtoll.core.endurance.spread import Unsure
from yardtoll.core.endurance.weather import WEATHER, Weather
from yardtoll.core.planning.inputs import claimed
from yardtoll.review.endurance.sky import STEP_H, Sky
from yardtoll.review.endurance.store import (
    ChargeShare,
    StoreFigures,
    charge_share,
    store_figures,
)
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import OutageUse, Station, StoredOutage, SunFrom
from yardtoll.store.site_time import local

_SOLAR_W = "solar_w"


@dataclass(frozen=True, kw_only=True)
class Cap:
    """What a station takes of the sun at most, and who says so; no W where nobody does."""

    watts: float | None
    basis: str


@dataclass(frozen=True, kw_only=True, eq=False)
class Inputs:
    """All that an outage's answer rests on.

    Attributes:
        sky: what the panels give; None for no sun.
        by_sun, by_wall: how much of an input comes into the store.
    """

    outage: StoredOutage
    station: Station
    store: StoreFigures
    cap: Cap
    by_sun: ChargeShare
    by_wall: ChargeShare
    sky: Sky | None = None

    @property
    def begins(self) -> datetime:
        """When it begins, where the site is."""
        return local(self.outage.begins_at)

    @property
    def weather(self) -> Weather:
        """What of the sky comes through; all of a measured day."""
        if self.outage.sun == SunFrom.RUN:
            return Weather(title="As measured", low=1.0, high=1.0)
        return WEATHER[self.outage.weather]

    @property
    def pack_wh(self) -> float:
        """Rated Wh of a further pack: one as it has, else as large as the station."""
        packs = self.outage.packs_wh or self.station.packs_wh
        return packs[-1] if packs else self.station.rated_wh


def inputs_of(
    outage: StoredOutage,
    station: Station,
    runs: StationRuns,
    claims: Sequence[Claim],
    sky: Sky | None,
) -> Inputs | str:
    """Put together; or why nothing can be said, in a clause."""
    store = store_figures(outage, runs)
    if isinstance(store, str):
        return store
    return Inputs(
        outage=outage,
        station=station,
        store=store,
        cap=_cap(outage, runs, claims),
        by_sun=charge_share(runs, store.store_wh, by_sun=True),
        by_wall=charge_share(runs, store.store_wh, by_sun=False),
        sky=sky,
    )


def _cap(outage: StoredOutage, runs: StationRuns, claims: Sequence[Claim]) -> Cap:
    """As typed, else as measured where a run met it, else as claimed."""
    if outage.cap_w is not None:
        return Cap(watts=outage.cap_w, basis="as typed")
    for analysis in reversed(runs.analyses):
        figure = analysis.figures.get("cap_w")
        if figure is not None and analysis.is_finished:
            return Cap(watts=figure.value, basis=f"as met in run {analysis.run.number}")
    watts = claimed(claims, _SOLAR_W)
    return Cap(watts=watts, basis="as claimed" if watts is not None else "no cap is known")


def outage_of(
    inputs: Inputs, *, more_panels: int = 0, more_packs: int = 0, without: str = ""
) -> tuple[Outage, Unsure]:
    """As asked for, with so many panels and packs more, and without one of the appliances."""
    outage, store = inputs.outage, inputs.store
    uses = [use for use in outage.uses if use.name != without]
    scale = _scale(inputs, more_packs)
    grows = np.diag([scale, float(outage.units), 1.0, 1.0 / outage.units])
    begins = inputs.begins
    made = Outage(
        store_wh=store.store_wh * scale,
        overhead_w=store.overhead_w * outage.units,
        conversion=store.conversion,
        # Each of several units carries its share of the load, and the square goes with it.
        ohmic_per_w=store.ohmic_per_w / outage.units,
        loads=tuple(_load(use) for use in uses),
        begins_h=begins.hour + begins.minute / 60 + begins.second / 3600,
        hours=outage.hours,
        sun=_sun(inputs, more_panels),
        feeds=tuple(
            Feed(
                name=feed.name, watts=feed.watts, from_h=feed.from_h, to_h=feed.to_h,
                efficiency=inputs.by_wall.share,
            )
            for feed in outage.feeds
        ),
    )  # fmt: skip
    weather = inputs.weather
    unsure = Unsure(
        covariance=np.asarray(grows @ store.covariance @ grows),
        loads=tuple((use.low_share, use.high_share) for use in uses),
        sun=(weather.low, weather.high) if inputs.sky is not None else None,
    )
    return made, unsure


def _scale(inputs: Inputs, more_packs: int) -> float:
    """How many times its own store there is: packs give of their rating what the station does."""
    outage, rated_wh = inputs.outage, inputs.station.rated_wh
    packs_wh = sum(outage.packs_wh) + more_packs * inputs.pack_wh
    return outage.units + packs_wh / rated_wh


def _load(use: OutageUse) -> OutageLoad:
    return OutageLoad(
        name=use.name, watts=use.watts, duty=use.duty, from_h=use.from_h, to_h=use.to_h,
        inrush_w=use.inrush_w,
    )  # fmt: skip


def _sun(inputs: Inputs, more_panels: int) -> SunSteps | None:
    if inputs.sky is None:
        return None
    return SunSteps(
        step_h=STEP_H,
        watts=inputs.sky.watts(inputs.outage.more_panels + more_panels),
        cap_w=inputs.cap.watts * inputs.outage.units if inputs.cap.watts is not None else None,
        share=inputs.weather.middle,
        efficiency=inputs.by_sun.share,
    )
