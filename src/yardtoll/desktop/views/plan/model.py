"""The planned test and its open checks, from the choices and the yard."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_span
from yardtoll.core.methods import Method, Outlet, Size
from yardtoll.core.planning.checks import Check, Situation, start_checks
from yardtoll.core.planning.expected import (
    FULL_HOURS_OF_SUN,
    TYPICAL_CHARGE_C,
    EarlierRun,
    ExpectedRun,
    expected_discharge,
    expected_idle,
    expected_recharge,
    money_for,
)
from yardtoll.core.planning.inputs import claimed, source_w
from yardtoll.core.planning.loads import LoadSpec, Mix, MixLimits
from yardtoll.core.sun.array_check import Connect
from yardtoll.review.sun.wiring import wiring_page
from yardtoll.running.plan import RunPlan
from yardtoll.store.records import (
    SIMULATED,
    Conditions,
    Load,
    Meter,
    Override,
    Receiving,
    Site,
    SolarArray,
    Station,
    StoredCircuit,
    StoredCord,
)
from yardtoll.store.shown_region import clock, shown_region

_USUAL_DC_V = 12.0
_SETTLE_S = 1800.0

_UNTIL_WORKED_OUT = "typical losses until the earlier runs are worked out"


@dataclass(frozen=True, kw_only=True)
class Choices:
    """What the reviewer has chosen so far.

    Attributes:
        asked_w: W given by hand, for sizes that ask for them.
        mix: the loads; None while there are none.
        starts_at: aware; None for now.
        confirmed: checks that are ticked.
        reason: why checks that stop are overridden; "" where they are not.
    """

    station: Station | None
    method: Method
    size: Size
    asked_w: float = 0.0
    mix: Mix | None = None
    meter: Meter | None = None
    cord: StoredCord | None = None
    circuit: StoredCircuit | None = None
    array: SolarArray | None = None
    soc: tuple[float, float] = (100.0, 0.0)
    temperature_c: float | None = None
    starts_at: datetime | None = None
    settings: Mapping[str, str] = field(default_factory=dict)
    confirmed: frozenset[str] = frozenset()
    meter_reads: tuple[float, float] | None = None
    reason: str = ""


@dataclass(frozen=True, kw_only=True)
class Surroundings:
    """What the yard knows that bears on a plan.

    Attributes:
        earlier: whole discharges of the station; none while it ``awaits_runs``.
        awaits_runs: whether its runs are still being worked out.
    """

    claims: tuple[Claim, ...] = ()
    loads: tuple[Load, ...] = ()
    arrays: tuple[SolarArray, ...] = ()
    earlier: tuple[EarlierRun, ...] = ()
    awaits_runs: bool = False
    receiving: Receiving | None = None
    site: Site = field(default_factory=Site)
    rested_s: float | None = None
    busy_meters: frozenset[int] = frozenset()
    read_only: bool = False


@dataclass(frozen=True, kw_only=True)
class PlanPage:
    """What the view shows."""

    headline: str
    basis: str
    expected: ExpectedRun | None
    facts: tuple[str, ...]
    checks: tuple[Check, ...]
    reason: str = ""

    @property
    def stopped(self) -> bool:
        """Whether some check stops the start."""
        return any(check.stops for check in self.checks)

    @property
    def can_override(self) -> bool:
        """Whether a reason would be enough to start anyway."""
        return self.stopped and not any(check.stops and check.hard for check in self.checks)

    @property
    def can_start(self) -> bool:
        """Whether the run may start."""
        if self.expected is None:
            return False
        return not self.stopped or (self.can_override and bool(self.reason.strip()))


def target_w(choices: Choices) -> float | None:
    """W to find loads for; None where the method takes none or nothing is chosen."""
    station = choices.station
    if station is None or not choices.method.delivers:
        return None
    if choices.size.asks_w:
        return choices.asked_w or None
    return choices.size.target_w(station.rated_wh, station.rated_w)


def input_w(choices: Choices, around: Surroundings) -> float | None:
    """W a recharge draws at full power: as asked, as claimed, or as is usual."""
    station = choices.station
    if station is None:
        return None
    if choices.size.asks_w:
        return choices.asked_w or None
    if choices.method.source is None:
        return None
    array_w = _array_w(choices, around)
    return source_w(choices.method.source, around.claims, station.rated_wh, array_w=array_w)


def volts_of(choices: Choices, claims: Sequence[Claim]) -> float:
    """Volts at the outlet or port in question."""
    if choices.method.outlet is Outlet.DC and choices.method.delivers:
        return claimed(claims, "car_out_v") or claimed(claims, "dc_v") or _USUAL_DC_V
    if choices.circuit is not None:
        return choices.circuit.volts
    return claimed(claims, "ac_v") or shown_region().mains_v


def limits_for(choices: Choices, claims: Sequence[Claim]) -> MixLimits:
    """What the outlet, wiring and meter allow the loads; an overload test may pass the rating."""
    station, meter = choices.station, choices.meter
    above = choices.method.may_exceed_rating
    outlets = claimed(claims, "ac_outlets")
    return MixLimits(
        inverter_w=station.rated_w if station is not None and not above else None,
        surge_w=None if above else claimed(claims, "surge_w"),
        circuit=choices.circuit.circuit if choices.circuit else None,
        cord=choices.cord.cord if choices.cord else None,
        volts=volts_of(choices, claims),
        meter_w=meter.max_w if meter else None,
        meter_a=meter.max_a if meter else None,
        outlets=int(outlets) if outlets and choices.method.outlet is not Outlet.DC else None,
        hours=_hours(choices),
        steady=choices.method.steady,
    )


def specs_of(loads: Sequence[Load]) -> list[LoadSpec]:
    """The loads that can be mixed; an implausible one is left out."""
    found = []
    for load in loads:
        try:
            found.append(load.spec)
        except UnusableDataError:
            continue
    return found


def plan_page(choices: Choices, around: Surroundings, now: datetime) -> PlanPage:
    """Everything the Plan view says."""
    expected = _expected(choices, around)
    found = tuple(start_checks(_situation(choices, around, expected)))
    begins = choices.starts_at or now
    return PlanPage(
        headline=_headline(choices, expected, now),
        basis=_basis(choices, expected, around),
        expected=expected,
        facts=tuple(_facts(choices, around, expected, begins)),
        checks=found,
        reason=choices.reason,
    )


def run_plan(choices: Choices, around: Surroundings, page: PlanPage) -> RunPlan:
    """The plan as the run will keep it: settings, wiring, what was overridden and why."""
    assert choices.station is not None
    assert choices.meter is not None
    assert page.expected is not None
    override = None
    if page.stopped:
        open_checks = tuple(check.text for check in page.checks if check.stops)
        override = Override(reason=choices.reason.strip(), checks=open_checks)
    conditions = Conditions(
        settings=dict(choices.settings),
        confirmed=tuple(sorted(choices.confirmed)),
        expected_s=page.expected.duration_s,
        cord=choices.cord.name if choices.cord else "",
        circuit=choices.circuit.name if choices.circuit else "",
        arrays=(choices.array.id,) if choices.array and choices.array.id is not None else (),
        temperature_c=choices.temperature_c,
        override=override,
    )
    warmth = _warmth(choices.mix, around.loads)
    return RunPlan(
        station=choices.station,
        meter=choices.meter,
        method=choices.method.key,
        size=choices.size.key,
        parts=choices.mix.parts if choices.mix else (),
        target_w=page.expected.power_w if not choices.method.rests else None,
        soc=choices.soc,
        cold_share=warmth[0],
        warm_up_s=warmth[1],
        conditions=conditions,
    )


def _expected(choices: Choices, around: Surroundings) -> ExpectedRun | None:
    station = choices.station
    if station is None or choices.soc[0] == choices.soc[1]:
        return None
    window = abs(choices.soc[0] - choices.soc[1]) / 100
    if choices.method.rests:
        return expected_idle(station.rated_wh, choices.size.hold_s or 3600.0)
    if choices.method.charges:
        power = input_w(choices, around)
        if not power:
            return None
        return expected_recharge(station.rated_wh, window, power, tapers=choices.soc[1] >= 100)
    if choices.mix is None:
        return None
    cold, warm_up = _warmth(choices.mix, around.loads)
    dc = choices.method.outlet is Outlet.DC
    return expected_discharge(
        station.rated_wh,
        window,
        choices.mix.total_w,
        () if dc else around.earlier,
        hold_s=choices.size.hold_s,
        cold_share=cold,
        warm_up_s=max(warm_up, 1.0),
    )


def _situation(choices: Choices, around: Surroundings, expected: ExpectedRun | None) -> Situation:
    station, meter = choices.station, choices.meter
    power = choices.mix.total_w if choices.mix else None
    if choices.method.charges:
        power = input_w(choices, around)
    if choices.method.rests:
        power = 0.0
    return Situation(
        method=choices.method,
        rated_w=station.rated_w if station else 1.0,
        soc=choices.soc,
        power_w=power,
        volt_amps=_volt_amps(choices.mix, around.loads) if choices.mix else power,
        volts=volts_of(choices, around.claims),
        hours=expected.duration_s / 3600 if expected else None,
        meter_name=meter.name if meter else "",
        meter_w=meter.max_w if meter else None,
        meter_a=meter.max_a if meter else None,
        meter_minutes=meter.max_minutes if meter else None,
        meter_reads=choices.meter_reads,
        cord=choices.cord.cord if choices.cord else None,
        circuit=choices.circuit.circuit if choices.circuit else None,
        temperature_c=choices.temperature_c,
        rested_s=around.rested_s,
        confirmed=choices.confirmed,
        settings=choices.settings,
        missing=around.receiving.missing if around.receiving else (),
        panels=_panels(choices, around),
        simulated=meter is not None and meter.address == SIMULATED,
        read_by_eye=meter is not None and not meter.address,
        troubles=tuple(_troubles(choices, around)),
    )


def _troubles(choices: Choices, around: Surroundings) -> list[str]:
    """What no reason can override."""
    found = []
    if choices.station is None:
        found.append("Add the station that is to be tested.")
    if choices.meter is None:
        found.append("Add a meter: it sits between the outlet and the load.")
    if choices.method.delivers and not around.loads and not choices.size.is_appliance:
        found.append("Add a load: a heater's settings, a lamp, anything with known W.")
    if choices.meter is not None and choices.meter.id in around.busy_meters:
        found.append(f"{choices.meter.name} is recording another run: choose another meter.")
    if around.read_only:
        found.append("This yard is open in another window and only shown here.")
    return found


def _headline(choices: Choices, expected: ExpectedRun | None, now: datetime) -> str:
    if expected is None:
        return "What would you like to test?"
    span = format_span(expected.duration_s)
    begins = choices.starts_at or now
    back = begins + timedelta(seconds=expected.earliest_s)
    day = "" if back.date() == begins.date() else f"{back:%a} "
    until = choices.method.until(span, choices.soc[1])
    if choices.method.may_exceed_rating:
        return "Seconds to a trip, or to empty – stay with it"
    if choices.starts_at is not None:
        until += f" from {begins:%a %-d %b} {clock(begins)}"
    return f"{until} – be back at {day}{clock(back)}"


def _basis(choices: Choices, expected: ExpectedRun | None, around: Surroundings) -> str:
    if expected is None:
        return "Choose a station, a method, loads and a meter."
    what = "to be drawn" if choices.method.charges else "expected"
    # A band, not a ±: nothing is measured yet.
    low, high = (expected.energy_wh + k * expected.half_width_wh for k in (-1, 1))
    rests_on = _UNTIL_WORKED_OUT if around.awaits_runs else expected.basis
    return (
        f"{expected.c_rate:.2f} C · {low:.0f}–{high:.0f} Wh {what}, based on {rests_on} · "
        f"ends when {choices.method.ends_when}"
    )


def _facts(
    choices: Choices, around: Surroundings, expected: ExpectedRun | None, begins: datetime
) -> list[str]:
    """The recharge after it, and money."""
    station = choices.station
    if station is None or expected is None:
        return []
    site, found = around.site, []
    drawn = expected.energy_wh if choices.method.charges else 0.0
    if choices.method.delivers:
        wall = claimed(around.claims, "recharge_w")
        used = min(expected.energy_wh / station.rated_wh * 1.1, 1.0)
        again = expected_recharge(
            station.rated_wh, used, wall or TYPICAL_CHARGE_C * station.rated_wh
        )
        drawn = again.energy_wh
        ready = begins + timedelta(seconds=expected.latest_s + again.latest_s + _SETTLE_S)
        day = "" if ready.date() == begins.date() else f"{ready:%a} "
        how = f"at the claimed {wall:g} W" if wall else "at a usual rate"
        found.append(
            f"Recharge after it: about {format_span(again.duration_s)} {how}; "
            f"full and settled by {day}{clock(ready)}"
        )
    if drawn and site.price_per_kwh is not None and not choices.method.uses_panels:
        money = money_for(drawn, site.price_per_kwh)
        found.append(f"{drawn / 1000:.2f} kWh from the wall, {money:.2f} {site.currency}".rstrip())
    return found


def _array_w(choices: Choices, around: Surroundings) -> float | None:
    """What the chosen panels, or the first ones, are good for."""
    array = choices.array or next(iter(around.arrays), None)
    return array.power_stc_w * FULL_HOURS_OF_SUN if array is not None else None


def _panels(choices: Choices, around: Surroundings) -> tuple[bool, str] | None:
    """Whether the chosen panels may be connected; None where that is not known."""
    if choices.array is None:
        return None
    page = wiring_page([choices.array], around.claims, around.site)
    if page.verdict is None or not page.checks:
        return None
    may = page.verdict not in (Connect.NEVER, Connect.TOO_LOW)
    return may, f"{choices.array.name}: {page.headline[:1].lower()}{page.headline[1:]}."


def _hours(choices: Choices) -> float:
    """Hours it will run, roughly: the energy over the target."""
    if choices.size.hold_s is not None:
        return choices.size.hold_s / 3600
    target = target_w(choices)
    if choices.station is None or not target:
        return 0.0
    return choices.station.rated_wh * (choices.soc[0] - choices.soc[1]) / 100 / target


def _volt_amps(mix: Mix, loads: Sequence[Load]) -> float:
    factors = {load.name: load.power_factor for load in loads}
    return sum(p.count * p.watts / factors.get(p.name, 1.0) for p in mix.parts)


def _warmth(mix: Mix | None, loads: Sequence[Load]) -> tuple[float, float]:
    """Share drawn more while cold, and its time constant, of a whole mix."""
    if mix is None or not mix.total_w:
        return 0.0, 60.0
    known = {load.name: load for load in loads}
    extra, weighted = 0.0, 0.0
    for part in mix.parts:
        load = known.get(part.name)
        if load is not None:
            more = part.count * part.watts * load.cold_share
            extra += more
            weighted += more * load.warm_up_s
    return extra / mix.total_w, weighted / extra if extra else 60.0
