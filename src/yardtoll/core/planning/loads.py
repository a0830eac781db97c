"""Loads, what bounds them together, and the mixes made of them."""

import math
from dataclasses import dataclass, field

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.formatting import quoted
from yardtoll.core.planning.wiring import Circuit, Cord

KINDS = ("resistive", "inductive", "electronic")
REACH_SHARE = 0.05
"""A mix further off its target than this does not give it."""


@dataclass(frozen=True, kw_only=True)
class LoadSetting:
    """One position of a load's switch; ``measured`` where a run measured its watts."""

    name: str
    watts: float
    measured: bool = False


@dataclass(frozen=True, kw_only=True)
class LoadSpec:
    """A sort of load and how many of it there are.

    Attributes:
        range_w: (lowest, highest, step) W of one that can be dialled.
        inrush: multiple of the running W at switching on, ≥ 1.
        power_factor: W ÷ VA, 0–1.

    Raises:
        UnusableDataError, ValueOutOfRangeError: a figure is not plausible.
    """

    name: str
    kind: str = "resistive"
    count: int = 1
    settings: tuple[LoadSetting, ...] = ()
    range_w: tuple[float, float, float] | None = None
    inrush: float = 1.0
    power_factor: float = 1.0

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise UnusableDataError(
                f"{self.name}: the kind {quoted(self.kind)} is not one of {', '.join(KINDS)}"
            )
        if self.count < 0 or self.count > 1000:
            raise ValueOutOfRangeError(f"{self.name}: count", self.count, "0 to 1000")
        for setting in self.settings:
            if not (math.isfinite(setting.watts) and 0 < setting.watts <= 1e6):
                raise ValueOutOfRangeError(
                    f"{self.name}, {setting.name}: W", setting.watts, "above 0"
                )
        if self.range_w is not None:
            low, high, step = self.range_w
            if not (0 < low <= high <= 1e6 and step > 0):
                raise UnusableDataError(
                    f"{self.name}: the range {low:g}–{high:g} W in steps of {step:g} W is invalid"
                )
        if not self.settings and self.range_w is None:
            raise UnusableDataError(f"{self.name} has neither settings nor a range of W")
        if not 1 <= self.inrush <= 100:
            raise ValueOutOfRangeError(f"{self.name}: inrush", self.inrush, "1 to 100")
        if not 0 < self.power_factor <= 1:
            raise ValueOutOfRangeError(f"{self.name}: power factor", self.power_factor, "0 to 1")


@dataclass(frozen=True, kw_only=True)
class Limit:
    """A bound on the whole mix, in W or VA; ``why`` names where it comes from."""

    why: str
    most: float
    of_va: bool = False


@dataclass(frozen=True, kw_only=True)
class MixLimits:
    """What the outlet, the wiring and the meter allow; None where unknown.

    Attributes:
        inverter_w: continuous W of the station's outlet.
        surge_w: W it bears for a moment, against the inrush of all loads at once.
        hours: how long the mix is to run.
        outlets: how many devices can be plugged in.
    """

    inverter_w: float | None = None
    surge_w: float | None = None
    circuit: Circuit | None = None
    cord: Cord | None = None
    volts: float = 120.0
    meter_w: float | None = None
    meter_a: float | None = None
    outlets: int | None = None
    hours: float = 0.0
    steady: bool = True

    def __post_init__(self) -> None:
        for name, value in (
            ("inverter_w", self.inverter_w),
            ("the surge W", self.surge_w),
            ("the volts", self.volts),
            ("the meter's W", self.meter_w),
            ("the meter's A", self.meter_a),
        ):
            if value is not None and not (math.isfinite(value) and value > 0):
                raise ValueOutOfRangeError(name, value, "above 0")
        if not (math.isfinite(self.hours) and self.hours >= 0):
            raise ValueOutOfRangeError("hours", self.hours, "0 or more")

    def bounds(self) -> list[Limit]:
        """The bounds on the running mix."""
        found = []
        if self.inverter_w is not None:
            found.append(Limit(why=f"inverter: {self.inverter_w:g} W", most=self.inverter_w))
        if self.circuit is not None:
            found.append(
                Limit(
                    why=self.circuit.limit_words(self.hours),
                    most=self.circuit.limit_w(self.hours),
                    of_va=True,
                )
            )
        if self.meter_w is not None:
            found.append(Limit(why=f"meter: {self.meter_w:g} W", most=self.meter_w))
        if self.meter_a is not None:
            most = self.meter_a * self.volts
            why = f"meter: {self.meter_a:g} A at {self.volts:g} V, {most:g} VA"
            found.append(Limit(why=why, most=most, of_va=True))
        amps = self.cord.continuous_a if self.cord is not None else None
        if amps is not None:
            most = amps * self.volts
            why = f"cord: {amps:g} A at {self.volts:g} V, {most:g} VA"
            found.append(Limit(why=why, most=most, of_va=True))
        return found


@dataclass(frozen=True, kw_only=True)
class MixPart:
    """Devices of one sort at one setting; ``watts`` of each."""

    name: str
    setting: str
    count: int
    watts: float

    @property
    def words(self) -> str:
        """Like "2 × Oil heater, low"; a single setting named "on" needs no name."""
        count = f"{self.count} × " if self.count > 1 else ""
        return f"{count}{self.name}" + (
            f", {self.setting}" if self.setting not in ("", "on") else ""
        )


@dataclass(frozen=True, kw_only=True)
class Mix:
    """A combination; ``off_w`` is its total less the target."""

    parts: tuple[MixPart, ...]
    total_w: float
    off_w: float

    @property
    def devices(self) -> int:
        """How many are plugged in."""
        return sum(part.count for part in self.parts)

    @property
    def words(self) -> str:
        """Like "2 × Heater, low + Lamp"."""
        return " + ".join(
            (f"{part.count} × " if part.count > 1 else "")
            + (f"{part.name}, {part.setting}" if part.setting not in ("", "on") else part.name)
            for part in self.parts
        )


@dataclass(frozen=True, kw_only=True)
class RuledOut:
    """A nearer combination that a limit forbids."""

    reason: str
    limit: str


@dataclass(frozen=True, kw_only=True)
class MixResult:
    """The mixes found, best first; ``optimal`` says that none better than the first exists."""

    target_w: float
    best: tuple[Mix, ...]
    optimal: bool
    ruled_out: tuple[RuledOut, ...] = field(default=())

    @property
    def out_of_reach(self) -> str:
        """What is missing where even the best mix is more than 5 % off; else ""."""
        if not self.best:
            return f"no load fits the limits for {self.target_w:g} W"
        off_w = self.best[0].off_w
        if abs(off_w) <= REACH_SHARE * self.target_w:
            return ""
        nearest = f"the nearest to {self.target_w:g} W is {self.best[0].total_w:g} W"
        if off_w < 0:
            return f"{nearest}: {-off_w:g} W are missing"
        return f"{nearest}: {off_w:g} W too much, a smaller load is missing"
