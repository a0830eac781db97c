"""False accepts: stations that are exactly at the limit of a claim, and how often it is "met".

The claimed figure is made from the truth by the table of how claims are meant (docs/metrology.md),
so that the truth is just what the claim still allows; under the guarded rule "meets" may then be
said of one station in forty at most (JCGM 106:2012, 8.3.2).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from tests.coverage.program import USUAL, Yard
from tests.coverage.stations import (
    HERTZ_LIMIT,
    VOLTS_FLOOR,
    VOLTS_LIMIT,
    Floats,
    Log,
    Meter,
    Random,
    Station,
    a_discharge,
    a_recharge,
    a_station,
    an_idle_night,
)

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import Standing
from yardtoll.core.conformance.verdict import Outcome, Rule
from yardtoll.core.conformance.yardsticks import Basis, Yardstick
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.review.conformance import judged_claims, yardstick_rows
from yardtoll.review.station.runs import StationRuns
from yardtoll.store import records

LESS, MORE = 0.94, 1.07


@dataclass(frozen=True, kw_only=True)
class AtTheLimit:
    """A yard whose station is at the limit of what is claimed.

    Attributes:
        easier: factor of the claim that makes it one the station meets with ease.
    """

    yard: Yard
    easier: float
    claims: tuple[Claim, ...] = ()
    yardstick: Yardstick | None = None
    receiving: records.Receiving | None = None

    @property
    def eased(self) -> "AtTheLimit":
        """The same station against that claim."""
        claims = self.claims
        if claims:
            first = replace(claims[0], value=(claims[0].value or 0.0) * self.easier)
            claims = (first, *claims[1:])
        yardstick = self.yardstick and replace(
            self.yardstick, limit=self.yardstick.limit * self.easier
        )
        return replace(self, claims=claims, yardstick=yardstick)

    def is_met(self, found: StationRuns) -> bool:
        """Whether the first claim, or any row of the yardstick, is said to be met."""
        if self.yardstick is not None:
            rows = yardstick_rows(found, self.yardstick, Rule.GUARDED, self.receiving)
            return any(r.verdict and r.verdict.outcome is Outcome.MEETS for r in rows)
        judged = judged_claims(found, self.claims, self.receiving)
        return judged[0].standing is Standing.MEETS


def _one(random: Random) -> tuple[Station, Meter, Yard]:
    station = a_station(random, 0.005)
    meter = Meter(random)
    return station, meter, Yard(station, meter)


def _claim(kind: str, value: float, **words: str) -> Claim:
    return Claim(kind=kind, value=value, **words)


def _usable(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    load_w = 0.2 * station.rated_wh
    log = a_discharge(random, station, meter, load_w, "a", USUAL)
    yard.add("capacity_ac", log)
    truth = log.wh * station.store_wh / log.emptied_wh
    return AtTheLimit(yard=yard, easier=LESS, claims=(_claim("usable_wh", truth),))


def _yardstick(random: Random) -> AtTheLimit:
    made = _usable(random)
    limit = (made.claims[0].value or 0.0) / made.yard.station.rated_wh
    return replace(made, claims=(), yardstick=Yardstick(name="at the limit", limit=limit))


def _round_trip(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    log = a_discharge(random, station, meter, 0.2 * station.rated_wh, "a", USUAL)
    yard.add("capacity_ac", log)
    yard.add("recharge_wall", a_recharge(random, station, meter, log.emptied_wh, USUAL))
    limit = log.wh * station.store_wh / log.emptied_wh / station.drawn_wh
    yardstick = Yardstick(name="at the limit", limit=limit, basis=Basis.ROUND_TRIP)
    return AtTheLimit(yard=yard, easier=LESS, yardstick=yardstick)


def _charged(random: Random, method: str = "recharge_wall") -> tuple[Station, Yard, Log]:
    station, meter, yard = _one(random)
    if method == "recharge_usb_c":  # no such port gives kilowatts
        watts = random.uniform(40, 200)
        station = replace(station, rated_wh=210.0, store_wh=200.0, charge_w=watts)
        yard.station = station
    log = a_recharge(random, station, meter, station.store_wh, USUAL)
    log = replace(log, volts=_volts(random, np.full(log.time_s.size, 120.0)))
    yard.add(method, log)
    return station, yard, log


def _charging_watts(
    random: Random, share: float, kind: str = "recharge_w", method: str = "recharge_wall"
) -> AtTheLimit:
    station, yard, _ = _charged(random, method)
    claim = _claim(kind, station.charge_w / share)
    return AtTheLimit(yard=yard, easier=LESS if share < 1 else MORE, claims=(claim,))


def _charging_amps(
    random: Random, kind: str = "wall_a", method: str = "recharge_wall"
) -> AtTheLimit:
    station, yard, _ = _charged(random, method)
    claim = _claim(kind, station.charge_w / 120 / 1.10)
    return AtTheLimit(yard=yard, easier=MORE, claims=(claim,))


def _two_inputs(random: Random) -> AtTheLimit:
    """The wall and the car at once, the sum at the low end of what is claimed."""
    station, meter, yard = _one(random)
    for method in ("recharge_wall", "recharge_car"):
        log = a_recharge(random, station, meter, station.store_wh, USUAL)
        yard.add(method, log, day=3)
    claim = _claim("combined_in_w", 2 * station.charge_w / 0.95)
    return AtTheLimit(yard=yard, easier=LESS, claims=(claim,))


def _sun(random: Random, kind: str) -> AtTheLimit:
    """A day on more panels than the input takes, beside a sensor."""
    _, meter, yard = _one(random)
    cap_w = random.uniform(100, 600)
    time_s = np.arange(0, 36_000, 20.0)
    light = 1000 * np.sin(np.pi * time_s / time_s[-1])
    true_w = np.minimum(2 * cap_w * light / 1000, cap_w)
    log = Log(
        time_s=time_s, power_w=meter.reads(true_w, "in"), energy_wh=None, irradiance=light,
        wh=float(true_w.sum()) * 20 / 3600, seconds=36_000,
        volts=_volts(random, np.full(time_s.size, 33.0)), shown=((0.0, 10.0), (35_000.0, 60.0)),
    )  # fmt: skip
    module_w = 2.2 * cap_w
    yard.panels.append(
        records.SolarArray(
            id=7, name="A", module_w=module_w, voc_v=40, vmp_v=33, isc_a=1.1 * module_w / 33,
            imp_a=module_w / 33, azimuth_deg=180,
        )
    )  # fmt: skip
    yard.add("recharge_sun", log, arrays=(7,), sensor_plane="poa")
    if kind == "solar_a":
        claim = _claim(kind, cap_w / 33 / 1.10)
        return AtTheLimit(yard=yard, easier=MORE, claims=(claim,))
    return AtTheLimit(yard=yard, easier=LESS, claims=(_claim(kind, cap_w / 0.95),))


def _charging_minutes(random: Random, condition: str) -> AtTheLimit:
    station, yard, log = _charged(random)
    # The mean store's time, of the same course: times go with what is put back.
    again = station.store_wh / (log.wh * station.charger_share)
    seconds = log.at_80_s if condition else log.seconds
    assert seconds is not None
    claim = _claim("recharge_min", again * seconds / 60, condition=condition)
    return AtTheLimit(yard=yard, easier=MORE, claims=(claim,))


def _idle(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    log = a_discharge(random, station, meter, 0.2 * station.rated_wh, "a", USUAL)
    yard.add("capacity_ac", log)
    yard.add("idle_ac", an_idle_night(station, random.uniform(8, 60), 100.0))
    return AtTheLimit(yard=yard, easier=1.4, claims=(_claim("idle_w", station.waste_w),))


def _held(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    load_w = 0.6 * station.rated_w
    log = a_discharge(random, replace(station, again=0.0), meter, load_w, "a", USUAL)
    yard.add("hold", log)
    claim = _claim("continuous_w", log.watts / 0.98)
    return AtTheLimit(yard=yard, easier=0.965, claims=(claim,))


def _surge(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    time_s = np.arange(0, 60, 0.1)
    begins, lasts = random.uniform(10, 20), random.uniform(3, 8)
    surge_w = station.rated_w * random.uniform(1.3, 2.0)
    inside = (time_s >= begins) & (time_s < begins + lasts)
    going = (time_s > 2) & (time_s < begins + lasts)
    true_w = np.where(inside, surge_w, np.where(going, 0.4 * station.rated_w, 0.0))
    log = Log(
        time_s=time_s, power_w=meter.reads(true_w, "a"), energy_wh=None,
        wh=float(true_w.sum()) * 0.1 / 3600, seconds=begins + lasts - 2,
    )  # fmt: skip
    yard.add("overload", log)
    claims = (_claim("surge_w", surge_w / 0.98), _claim("surge_s", max(round(lasts - 1), 1)))
    return AtTheLimit(yard=yard, easier=LESS, claims=claims)


def _volts(random: Random, true_v: Floats) -> Floats:
    gain = 1 + random.uniform(-1, 1) * VOLTS_LIMIT
    return np.round(true_v * gain + random.uniform(-1, 1) * VOLTS_FLOOR, 1)


def _falling_volts(random: Random, method: str, kind: str, volts: float) -> AtTheLimit:
    """From a little above to the lowest that the claim allows, when empty."""
    station, meter, yard = _one(random)
    load_w = 0.2 * station.rated_wh
    log = a_discharge(random, station, meter, load_w, "a", USUAL)
    lowest = 0.95 * volts
    falling = np.linspace(volts * random.uniform(0.97, 1.0), lowest, log.time_s.size)
    # The last loaded sample is where the lowest is reached.
    assert log.power_w is not None
    last = int(np.flatnonzero(log.power_w)[-1])
    falling += lowest - falling[last]
    yard.add(method, replace(log, volts=_volts(random, falling)))
    claim = _claim(kind, volts, wording="regulated")
    return AtTheLimit(yard=yard, easier=0.98, claims=(claim,))


def _hertz(random: Random) -> AtTheLimit:
    station, meter, yard = _one(random)
    log = a_discharge(random, station, meter, 0.2 * station.rated_wh, "a", USUAL)
    off = random.uniform(-1, 1) * HERTZ_LIMIT
    hertz = np.round(np.full(log.time_s.size, 59.4) + off, 2)
    yard.add("capacity_ac", replace(log, hertz=hertz))
    return AtTheLimit(yard=yard, easier=0.995, claims=(_claim("ac_hz", 60.0),))


def _steadily(
    random: Random, method: str, load_w: float, volts: float, yard: Yard, **conditions: object
) -> None:
    """A run whose load does not wander at all."""
    log = a_discharge(random, yard.station, yard.meter, load_w, "a", USUAL)
    assert log.power_w is not None
    power = yard.meter.reads(np.where(log.power_w > 0, load_w, 0.0), "a")
    volts_read = _volts(random, np.full(log.time_s.size, volts))
    yard.add(method, replace(log, power_w=power, volts=volts_read), **conditions)


def _port(random: Random, port: str, what: str) -> AtTheLimit:
    """A DC port that gives just what is claimed, and was asked for no more."""
    station, _, yard = _one(random)
    load_w, volts = 0.1 * station.rated_wh, 13.2
    _steadily(random, "capacity_dc", load_w, volts, yard)
    value = load_w if what == "w" else load_w / volts
    claims = (_claim(f"{port}_{what}", value), _claim(f"{port}_v", volts))
    return AtTheLimit(yard=yard, easier=LESS, claims=claims)


def _outlet_amps(random: Random) -> AtTheLimit:
    station, _, yard = _one(random)
    load_w = 0.5 * station.rated_w
    _steadily(random, "capacity_ac", load_w, 120.0, yard)
    return AtTheLimit(yard=yard, easier=LESS, claims=(_claim("ac_a", load_w / 120),))


def _lowered(random: Random) -> AtTheLimit:
    station, _, yard = _one(random)
    load_w = 0.9 * station.rated_w
    _steadily(random, "overload", load_w, 120.0, yard, settings={"voltage_lowering": "on"})
    return AtTheLimit(yard=yard, easier=LESS, claims=(_claim("lifted_w", load_w / 0.98),))


def _port_by_hand(random: Random, kind: str) -> AtTheLimit:
    """Watts of a port, or of two at once, typed off a meter; the load could have taken more."""
    _, meter, yard = _one(random)
    watts = float(random.uniform(20, 140))
    parts = (watts,) if kind == "usb_c_w" else (0.7 * watts, 0.3 * watts)
    # Both claims are about this port, and its name says so.
    name = f"USB-C {watts:g} W, {watts * LESS:g} W"
    lines = [
        {"port": f"{name}, {i}", "watts_w": float(meter.reads(np.array([part]), "port")[0]),
         "sink_w": 200.0, "together": float(len(parts) - 1)}
        for i, part in enumerate(parts)
    ]  # fmt: skip
    claim = _claim(kind, watts)
    yard.claimed = (claim, _claim(kind, watts * LESS))
    yard.add_lines("port_power", lines)
    return AtTheLimit(yard=yard, easier=LESS, claims=(claim,))


def _gap_by_scope(random: Random) -> AtTheLimit:
    """A gap at any phase, seen by a scope: the curve is made here, by nothing of the program's."""
    _, _, yard = _one(random)
    gap_ms, rate = float(random.uniform(6, 30)), 20_000.0
    time_s = np.arange(int(0.3 * rate)) / rate
    begin_s = 0.12 + float(random.uniform(0, 1 / 60))
    phase = float(random.uniform(0, 2 * np.pi))
    volts = 170 * np.sin(2 * np.pi * 60 * time_s + phase)
    volts[(time_s >= begin_s) & (time_s < begin_s + gap_ms / 1000)] = 0.0
    volts += random.normal(0, 0.3, volts.size)
    trace = Trace(name="gap", time_s=time_s, columns={Quantity.VOLTS: volts})
    claim = _claim("transfer_ms", gap_ms)
    yard.claimed = (claim,)
    yard.add_lines("transfer_time", [{"way": "to_battery", "by": "scope"}], [trace])
    return AtTheLimit(yard=yard, easier=1.6, claims=(claim,))


def _gap_by_frames(random: Random) -> AtTheLimit:
    """Dark frames of a video, their beginning anywhere in a frame."""
    _, _, yard = _one(random)
    gap_ms, fps = float(random.uniform(20, 60)), 240.0
    begin = float(random.uniform(0, 1))
    dark = float(np.floor(begin + gap_ms * fps / 1000))
    line = {"way": "to_battery", "by": "frames", "frames_dark": dark, "fps": fps}
    claim = _claim("transfer_ms", gap_ms)
    yard.add_lines("transfer_time", [line])
    return AtTheLimit(yard=yard, easier=1.6, claims=(claim,))


def _noise(random: Random) -> AtTheLimit:
    """A level read off an instrument anywhere within its limits, its background known."""
    _, _, yard = _one(random)
    level, background = float(random.uniform(40, 65)), 25.0
    shown = 10 * np.log10(10 ** (level / 10) + 10 ** (background / 10))
    line = {
        "level_db": float(np.round(shown + random.uniform(-1.5, 1.5), 1)), "distance_m": 1.0,
        "background_db": background, "within_db": 1.5, "doing": "load",
    }  # fmt: skip
    yard.add_lines("sound_level", [line])
    return AtTheLimit(yard=yard, easier=1.15, claims=(_claim("noise_db", level),))


def _weight(random: Random) -> AtTheLimit:
    _, _, yard = _one(random)
    weight_kg = random.uniform(3, 30)
    shown = records.Receiving(station_id=1, weight_kg=round(weight_kg, 1))
    claim = _claim("weight_kg", weight_kg / 1.05)
    return AtTheLimit(yard=yard, easier=MORE, claims=(claim,), receiving=shown)


CLAIMS: dict[str, Callable[[Random], AtTheLimit]] = {
    "usable Wh": _usable,
    "yardstick: of rated": _yardstick,
    "yardstick: round trip": _round_trip,
    "charging W, low end": lambda random: _charging_watts(random, 0.95),
    "charging W, high end": lambda random: _charging_watts(random, 1.10),
    "wall A": _charging_amps,
    "charging time, whole": lambda random: _charging_minutes(random, ""),
    "charging time, 0 to 80 %": lambda random: _charging_minutes(random, "0–80 %"),
    "idle W": _idle,
    "continuous W": _held,
    "surge W for s": _surge,
    "AC volts": lambda random: _falling_volts(random, "capacity_ac", "ac_v", 120.0),
    "12 V socket, regulated": lambda random: _falling_volts(
        random, "capacity_dc", "car_out_v", 12.6
    ),
    "AC hertz": _hertz,
    "12 V socket A": lambda random: _port(random, "car_out", "a"),
    "12 V socket W": lambda random: _port(random, "car_out", "w"),
    "USB-C A": lambda random: _port(random, "usb_c", "a"),
    "USB-C W": lambda random: _port(random, "usb_c", "w"),
    "AC outlet A": _outlet_amps,
    "voltage-lowering W": _lowered,
    "car input W": lambda random: _charging_watts(random, 0.95, "car_in_w", "recharge_car"),
    "car input A": lambda random: _charging_amps(random, "car_in_a", "recharge_car"),
    "USB-C input W": lambda random: _charging_watts(random, 0.95, "usb_in_w", "recharge_usb_c"),
    "two inputs W": _two_inputs,
    "solar W": lambda random: _sun(random, "solar_w"),
    "solar A": lambda random: _sun(random, "solar_a"),
    "weight": _weight,
    "USB-C W, port by port": lambda random: _port_by_hand(random, "usb_c_w"),
    "USB W, shared": lambda random: _port_by_hand(random, "usb_shared_w"),
    "gap by a scope": _gap_by_scope,
    "gap by frames": _gap_by_frames,
    "noise": _noise,
}


def accepted(name: str, stations: int, first_seed: int = 0) -> tuple[int, int]:
    """Of so many stations how many are said to meet: this claim at its limit, and an easier one."""
    made = [
        CLAIMS[name](np.random.default_rng([seed, 41]))
        for seed in range(first_seed, first_seed + stations)
    ]
    runs = [m.yard.found() for m in made]
    return (
        sum(m.is_met(found) for m, found in zip(made, runs, strict=True)),
        sum(m.eased.is_met(found) for m, found in zip(made, runs, strict=True)),
    )
