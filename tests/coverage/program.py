"""What the program says of invented logs: the same path as from a yard file, without the file."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any

import numpy as np
from tests.coverage.stations import (
    FLOOR_LIMIT_W,
    GAIN_LIMIT,
    HERTZ_LIMIT,
    VOLTS_FLOOR,
    VOLTS_LIMIT,
    Log,
    Logging,
    Meter,
    Random,
    Station,
    a_discharge,
    a_recharge,
    an_idle_night,
)

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.ledger.loss_fit import IdleDraw, RunAtLoad
from yardtoll.core.ledger.losses import fit_losses
from yardtoll.core.methods import METHODS
from yardtoll.core.output.entries import CAPTURE
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.run_budgets import run_mean_power_budget, run_time_budget
from yardtoll.review.analysis import analyse_run
from yardtoll.review.station.cycle import cycle_of, station_round_trip
from yardtoll.review.station.fitted import Fitted, delivered_at, fitted_terms
from yardtoll.review.station.repeats import station_energy
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.store import records

USUAL = Logging()
IDLE_SHARE = 0.03
REPEATABILITY = 0.005
"""What a yard assumes until its reviewer says otherwise, whatever the station's truth is."""


@dataclass(frozen=True, kw_only=True)
class Stated:
    """A figure as stated, and the truth.

    Attributes:
        bound: the figure is an "at most": the truth may lie anywhere below it.
    """

    value: float
    expanded: float
    truth: float
    bound: bool = False

    @property
    def holds(self) -> bool:
        """Whether the truth is within it."""
        off = self.truth - self.value
        return off <= self.expanded if self.bound else abs(off) <= self.expanded


@dataclass
class Yard:
    """Answers what an analysis asks of a yard file."""

    station: Station
    meter: Meter
    repeatability: float = REPEATABILITY
    runs: list[records.Run] = field(default_factory=list)
    logs: dict[int, tuple[Log, Logging]] = field(default_factory=dict)
    panels: list[records.SolarArray] = field(default_factory=list)
    lines: dict[int, list[records.Entry]] = field(default_factory=dict)
    curves: dict[int, list[Trace]] = field(default_factory=dict)
    claimed: tuple[Claim, ...] = ()

    def add_lines(
        self, method: str, lines: Sequence[dict[str, Any]], curves: Sequence[Trace] = ()
    ) -> records.Run:
        """Keep a run that is a table; a curve for each of its first lines."""
        number = len(self.runs) + 1
        run = records.Run(
            id=number, station_id=1, number=number, method=method, state="finished",
            origin="table", started_at=f"2026-05-{number:02d}T07:00:00+00:00", meter_id=1,
        )  # fmt: skip
        self.runs.append(run)
        made = [dict(line) for line in lines]
        for i in range(len(curves)):
            made[i][CAPTURE] = float(1000 * number + i)
        self.lines[number] = [
            records.Entry(id=i, run_id=number, position=i, fields=fields)
            for i, fields in enumerate(made)
        ]
        self.curves[number] = list(curves)
        return run

    def add(
        self, method: str, log: Log, how: Logging = USUAL, *, day: int = 0, **conditions: Any
    ) -> records.Run:
        """Keep a log as a run; runs follow one another by a day unless one is named."""
        number = len(self.runs) + 1
        charge = method.startswith("recharge")
        run = records.Run(
            id=number, station_id=1, number=number, method=method, state="finished",
            origin="import", started_at=f"2026-05-{day or number:02d}T07:00:00+00:00", meter_id=1,
            conditions=records.Conditions(**conditions),
            soc_from=0.0 if charge else 100.0, soc_to=100.0 if charge else 0.0,
        )  # fmt: skip
        self.runs.append(run)
        self.logs[number] = (log, how)
        return run

    def get(self, kind: type, _: int) -> Any:
        """The station or the meter."""
        if kind is records.Station:
            made = self.station
            return records.Station(id=1, name="S", rated_wh=made.rated_wh, rated_w=made.rated_w)
        return records.Meter(
            id=1, name="M", profile="p", address="", reading_share=GAIN_LIMIT,
            floor_w=FLOOR_LIMIT_W, phase_deg=self.meter.phase_deg, volts_share=VOLTS_LIMIT,
            volts_floor_v=VOLTS_FLOOR, hertz_floor_hz=HERTZ_LIMIT,
        )  # fmt: skip

    def recordings(self, run_id: int) -> list[records.Recording]:
        """The one meter's."""
        method = METHODS[self.runs[run_id - 1].method]
        if method.is_table:
            return [
                records.Recording(id=1000 * run_id + i, run_id=run_id, role=Role.WAVEFORM.value)
                for i in range(len(self.curves[run_id]))
            ]
        role = method.role.value
        return [records.Recording(id=run_id, run_id=run_id, role=role)]

    def samples(self, recording: records.Recording) -> Trace:
        """The log as the program reads it."""
        if recording.run_id in self.curves:
            return self.curves[recording.run_id][(recording.id or 0) % 1000]
        log, how = self.logs[recording.run_id]
        columns = {}
        if log.power_w is not None:
            columns[Quantity.POWER] = log.power_w
        if log.energy_wh is not None:
            columns[Quantity.ENERGY] = log.energy_wh
        if log.volts is not None:
            columns[Quantity.VOLTS] = log.volts
        if log.irradiance is not None:
            columns[Quantity.IRRADIANCE] = log.irradiance
        if log.hertz is not None:
            columns[Quantity.HERTZ] = log.hertz
        if how.power_factor < 1:
            columns[Quantity.POWER_FACTOR] = np.full(log.time_s.size, how.power_factor)
        return Trace(name="log", time_s=log.time_s, columns=columns)

    def readings(self, run_id: int) -> list[records.Reading]:
        """What the display said."""
        shown = self.logs[run_id][0].shown if run_id in self.logs else ()
        return [records.Reading(run_id=run_id, time_s=s, kind="soc", value=soc) for s, soc in shown]

    def entries(self, run_id: int) -> list[records.Entry]:
        """The lines of a run that is a table."""
        return self.lines.get(run_id, [])

    def marks(self, _: int) -> list[records.Mark]:
        """None were made."""
        return []

    def arrays(self) -> list[records.SolarArray]:
        """The panels there are."""
        return self.panels

    def claims(self, _: int) -> list[records.StoredClaim]:
        """Those that a test at the outlets looks at; others are judged beside it."""
        return [
            records.StoredClaim(station_id=1, kind=claim.kind, value=claim.value)
            for claim in self.claimed
        ]

    def site(self) -> records.Site:
        """Somewhere the sun shines on these days."""
        return records.Site(latitude=41.0, longitude=2.0, temperature_c=20)

    def info(self) -> SimpleNamespace:
        """What the yard assumes."""
        return SimpleNamespace(repeatability=self.repeatability)

    def found(self) -> StationRuns:
        """All runs, analysed and put together."""
        return station_runs([analyse_run(self, run) for run in self.runs])  # type: ignore[arg-type]


def bench(
    random: Random,
    station: Station,
    meter: Meter,
    loads: Sequence[float],
    how: Logging = USUAL,
    *,
    repeats: int = 1,
    idle_h: float = 0.0,
    assumed: float = REPEATABILITY,
) -> Yard:
    """Discharges at these shares of the rated W, each so often; a recharge; a night of idling."""
    yard = Yard(station, meter, assumed)
    for share in loads:
        for _ in range(repeats):
            load_w = share * station.rated_w
            log = a_discharge(random, station, meter, load_w, f"{share}", how)
            yard.add("capacity_ac", log, how)
    yard.add("recharge_wall", a_recharge(random, station, meter, log.emptied_wh, USUAL))
    if idle_h:
        yard.add("idle_ac", an_idle_night(station, idle_h, 100.0))
    return yard


def of_runs(yard: Yard, found: StationRuns) -> Iterator[tuple[str, Stated]]:
    """What is said of the first discharge, of its recharge, and of the station at that load."""
    first, log = found.analyses[0], yard.logs[1][0]
    out = first.energy_out
    if out is None or out.budget is None or not out.result.duration_s:
        return
    result = out.result
    truth = Stated(value=result.delivered_wh, expanded=out.budget.expanded, truth=log.wh)
    yield "Delivered, this run", truth
    took = run_time_budget(result)
    if took is not None:
        yield "Duration", Stated(value=result.duration_s, expanded=took.expanded, truth=log.seconds)
    mean = run_mean_power_budget(result, out.budget)
    if mean is not None and result.mean_w is not None:
        yield "Mean power", Stated(value=result.mean_w, expanded=mean.expanded, truth=log.watts)
    of_station = station_energy(first, found)
    if of_station is not None:
        yield (
            "Delivered, this station",
            Stated(
                value=of_station.value,
                expanded=of_station.expanded,
                truth=_usually_wh(yard, log),
            ),
        )
    yield from _of_recharge(yard, found)


def _of_recharge(yard: Yard, found: StationRuns) -> Iterator[tuple[str, Stated]]:
    charged = next(a for a in found.analyses if a.energy_in is not None)
    log = yard.logs[charged.run.number][0]
    drawn = charged.energy_in
    assert drawn is not None
    if drawn.budget is not None:
        yield (
            "Drawn, this run",
            Stated(value=drawn.drawn_wh, expanded=drawn.budget.expanded, truth=log.wh),
        )
    for at in drawn.result.to_soc:
        if at.soc == 80 and log.at_80_s is not None:
            yield "0 to 80 %", Stated(value=at.s, expanded=at.plus_minus_s, truth=log.at_80_s)
    trip = station_round_trip(cycle_of(charged, found))
    last = yard.logs[charged.run.number - 1][0]
    if trip is not None:
        share = _usually_wh(yard, last) / yard.station.drawn_wh
        yield (
            "Round trip, this station",
            Stated(value=trip.value, expanded=trip.expanded, truth=share),
        )


def _usually_wh(yard: Yard, log: Log) -> float:
    """What that load gets on the mean of many runs: of the mean store, the same share."""
    station = yard.station
    return log.wh * station.store_at(log.watts) / log.emptied_wh


def of_fit(random: Random, yard: Yard, found: StationRuns) -> Iterator[tuple[str, Stated]]:
    """What is said from several loads: store, overhead, efficiency, another load, idle."""
    station = yard.station
    idle = found.ac.idle
    if idle is not None:
        yield (
            "Idle",
            Stated(value=idle.idle_w, expanded=idle.idle_w_expanded, truth=station.waste_w),
        )
    split = found.ac.split
    if split is None or split.e0_wh.value is None:
        return
    # Without an idle test that can set the scale all is told as seen at the outlet.
    scale = 1 + station.waste_share if split.conversion_held else 1.0
    terms = fitted_terms(found.ac)
    for key, truth in ((Fitted.STORE, station.store_wh), (Fitted.OVERHEAD, station.waste_w)):
        figure = terms[key]
        if figure.budget is not None:
            yield (
                figure.title,
                Stated(value=figure.value, expanded=figure.budget.expanded, truth=truth / scale),
            )
    weighted = terms.get(Fitted.EURO)
    if weighted is not None and weighted.budget is not None:
        yield (
            "Efficiency, Euro weights",
            Stated(
                value=weighted.value,
                expanded=weighted.budget.expanded,
                truth=_euro(station),
                bound=weighted.at_most,
            ),
        )
    load_w = random.uniform(0.1, 0.9) * station.rated_w
    elsewhere = delivered_at(found.ac, load_w)
    if elsewhere is not None and elsewhere.budget is not None:
        yield (
            "Delivers at another load",
            Stated(
                value=elsewhere.value,
                expanded=elsewhere.budget.expanded,
                truth=station.delivers_wh(load_w),
            ),
        )


def of_losses(random: Random, yard: Yard, found: StationRuns) -> Iterator[tuple[str, Stated]]:
    """What ``compute losses`` says of the same runs with idle watts that a meter told to 3 %."""
    station = yard.station
    runs = [
        RunAtLoad(
            energy_wh=out.delivered_wh,
            duration_s=out.result.duration_s,
            mean_sq_w2=out.mean_sq_w2 and max(out.mean_sq_w2, out.mean_w**2),
        )
        for out in (a.energy_out for a in found.analyses)
        if out is not None and out.result.duration_s
    ]
    sharp = IDLE_SHARE * station.waste_w
    idle = IdleDraw(watts=station.waste_w + random.normal(0, sharp), u_w=sharp)
    accuracy = MeterAccuracy(reading_share=GAIN_LIMIT, floor_w=FLOOR_LIMIT_W)
    split = fit_losses(
        runs, station.rated_wh, idle=idle, accuracy=accuracy, repeatability=yard.repeatability
    )
    scale = 1 + station.waste_share if split.conversion_held else 1.0
    truths = {
        "E0": (split.e0_wh, station.store_wh / scale),
        "p0": (split.p0_w, station.waste_w / scale),
        "p2": (split.p2_per_w, station.waste_per_w / scale),
    }
    if not split.conversion_held:
        truths["p1"] = (split.p1, station.waste_share)
    for name, (term, truth) in truths.items():
        if term.value is not None and term.u is not None:
            yield name, Stated(value=term.value, expanded=2 * term.u, truth=truth)
    load_w = random.uniform(0.1, 0.9) * station.rated_w
    value, u = split.delivered_wh(load_w), split.delivered_u(load_w)
    if value is not None and u is not None:
        yield (
            "at another load",
            Stated(value=value, expanded=2 * u, truth=station.delivers_wh(load_w)),
        )


def _euro(station: Station) -> float:
    """The European weights for 5, 10, 20, 30, 50 and 100 % of the rated power."""
    levels = ((0.05, 0.03), (0.10, 0.06), (0.20, 0.13), (0.30, 0.10), (0.50, 0.48), (1.00, 0.20))
    shares = (
        weight * level * station.rated_w / float(station.taken_w(level * station.rated_w))
        for level, weight in levels
    )
    return sum(shares)
