"""The checks before a run starts, each with its reason.

A check has passed, has failed, or is pending until the reviewer answers. Failed and pending checks
stop the start; all but the hard ones can be overridden with a reason that the run keeps.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from yardtoll.core.formatting import format_span
from yardtoll.core.methods.method import Method
from yardtoll.core.planning.wiring import MOST_DROP_SHARE, Circuit, Cord

COLDEST_C, HOTTEST_C = 0.0, 40.0
"""Where most makers allow use and charging alike (common practice, no source)."""
COOL_S = 3600.0
"""Rest between runs after which a station counts as cool (common practice, no source)."""
HOT_METER_SHARE = 0.8
_ZERO_WH, _ZERO_W = 0.05, 2.0


class CheckState(StrEnum):
    """The state of a check."""

    PASSED = "passed"
    NOTE = "note"
    """Passed, with something to keep in mind."""
    PENDING = "pending"
    """Waits for the reviewer's tick or answer."""
    FAILED = "failed"


@dataclass(frozen=True, kw_only=True)
class Check:
    """One line before the start.

    Attributes:
        hard: cannot be overridden: without it there is no run.
        by_hand: the reviewer's tick passes it.
    """

    key: str
    text: str
    state: CheckState
    hard: bool = False
    by_hand: bool = False

    @property
    def stops(self) -> bool:
        """Whether the run may not start like this."""
        return self.state in (CheckState.FAILED, CheckState.PENDING)


SETTINGS: tuple[tuple[str, str], ...] = (
    ("floor", "Discharge floor, %"),
    ("charge_mode", "Charge mode"),
    ("voltage_lowering", "Voltage-lowering mode"),
    ("auto_off", "Eco, auto-off"),
    ("ups", "UPS mode"),
)
"""What is noted of a station's settings, and carried into the run's conditions."""


@dataclass(frozen=True, kw_only=True)
class Situation:
    """Everything the checks look at; None where it is not known.

    Attributes:
        power_w, volt_amps: of the chosen loads, or of the charger.
        hours: how long it will run.
        meter_w, meter_a, meter_minutes: what the meter may carry, and for how long.
        meter_reads: (W, Wh) with nothing switched on, where the meter could be asked; NaN for
            what is not known.
        rested_s: since this station's last run ended.
        confirmed: keys of checks the reviewer has ticked.
        settings: as noted, by the keys of :data:`SETTINGS`.
        missing: accessories listed but not there.
        panels: of a solar run: whether its array may be connected, and why, in a sentence; None
            where that is not known.
        troubles: hard reasons against a start, such as another run in progress.
    """

    method: Method
    rated_w: float
    soc: tuple[float, float]
    power_w: float | None = None
    volt_amps: float | None = None
    volts: float = 120.0
    hours: float | None = None
    meter_name: str = ""
    meter_w: float | None = None
    meter_a: float | None = None
    meter_minutes: float | None = None
    meter_reads: tuple[float, float] | None = None
    cord: Cord | None = None
    circuit: Circuit | None = None
    temperature_c: float | None = None
    rested_s: float | None = None
    confirmed: frozenset[str] = frozenset()
    settings: Mapping[str, str] = field(default_factory=dict)
    missing: tuple[str, ...] = ()
    panels: tuple[bool, str] | None = None
    simulated: bool = False
    read_by_eye: bool = False
    troubles: tuple[str, ...] = ()


def start_checks(situation: Situation) -> list[Check]:
    """Every check of a start, in the order a careful person would go through them."""
    found = [
        Check(key=f"trouble {number}", text=text, state=CheckState.FAILED, hard=True)
        for number, text in enumerate(situation.troubles)
    ]
    for part in (_charge, _settings, _power, _meter, _wiring, _panels, _surroundings, _care):
        found += part(situation)
    return found


def _asked(s: Situation, key: str, text: str, done: str) -> Check:
    """A check that a tick passes."""
    ticked = key in s.confirmed
    state = CheckState.PASSED if ticked else CheckState.PENDING
    return Check(key=key, text=done if ticked else text, state=state, by_hand=True)


def _charge(s: Situation) -> Iterator[Check]:
    if s.soc[0] == s.soc[1] or (s.soc[0] > s.soc[1]) is s.method.charges:
        way = "rise" if s.method.charges else "fall"
        yield Check(
            key="window",
            text=f"The state of charge must {way}.",
            state=CheckState.FAILED,
            hard=True,
        )
    if s.method.charges:
        at = "Empty" if s.soc[0] == 0 else f"At {s.soc[0]:g} %"
        yield _asked(s, "charged", f"{at}, and cool enough to charge?", f"{at} and cool.")
        yield _asked(s, "unplugged", "Every output off?", "Every output is off.")
        return
    at = "Full" if s.soc[0] == 100 else f"At {s.soc[0]:g} %"
    yield _asked(s, "charged", f"{at} and settled, fans quiet?", f"{at} and settled.")
    yield _asked(
        s,
        "unplugged",
        "Every input unplugged: wall, car, sun? Else the wall runs the load.",
        "Every input is unplugged.",
    )


def _settings(s: Situation) -> Iterator[Check]:
    noted = [words for key, words in SETTINGS if not s.settings.get(key, "").strip()]
    if noted:
        names = ", ".join(words.split(",")[0].lower() for words in noted)
        yield Check(key="settings", text=f"Not noted yet: {names}.", state=CheckState.PENDING)
        return
    floor = _number(s.settings["floor"])
    if floor is None:
        yield Check(
            key="settings",
            text="The discharge floor must be a figure in %.",
            state=CheckState.PENDING,
        )
    elif s.method.delivers and floor > min(s.soc):
        yield Check(
            key="settings",
            text=f"The floor is {floor:g} %, so the station ends there: plan to {floor:g} %, or "
            "set the floor lower.",
            state=CheckState.FAILED,
        )
    else:
        yield Check(
            key="settings", text="The station's settings are noted.", state=CheckState.PASSED
        )


def _power(s: Situation) -> Iterator[Check]:
    if s.power_w is None:
        yield Check(
            key="load",
            text="No power to plan with: choose loads, or give the watts.",
            state=CheckState.FAILED,
            hard=True,
        )
        return
    if not s.method.delivers:
        return
    share = s.power_w / s.rated_w
    meant = s.method.may_exceed_rating
    if share > 1.02 and not meant:
        yield Check(
            key="rating",
            text=f"{s.power_w:.0f} W is above the station's rated {s.rated_w:g} W: it would trip, "
            "and this is not a capacity test.",
            state=CheckState.FAILED,
        )
    else:
        yield Check(
            key="rating",
            text=f"{s.power_w:.0f} W is {share:.0%} of the station's rated {s.rated_w:g} W.",
            state=CheckState.NOTE if meant else CheckState.PASSED,
        )


def _meter(s: Situation) -> Iterator[Check]:
    yield from _zero(s)
    if s.power_w is None or not s.meter_name:
        return
    amps = (s.volt_amps or s.power_w) / s.volts
    limits = ((s.power_w, s.meter_w, "W"), (amps, s.meter_a, "A"))
    shares = [(drawn / most, drawn, most, unit) for drawn, most, unit in limits if most]
    if not shares:
        text = f"What {s.meter_name} may carry is not noted; read its plate."
        yield Check(key="meter", text=text, state=CheckState.NOTE)
        return
    share, drawn, most, unit = max(shares)
    minutes = (s.hours or 0.0) * 60
    if share > 1:
        yield Check(
            key="meter",
            text=f"{_digits(drawn, unit)} {unit} is above what {s.meter_name} may carry "
            f"({most:g} {unit}): meters have burnt this way.",
            state=CheckState.FAILED,
        )
    elif s.meter_minutes and minutes > s.meter_minutes and share > HOT_METER_SHARE:
        yield Check(
            key="meter",
            text=f"{s.meter_name} may carry so much for {s.meter_minutes:g} min, not for "
            f"{format_span(minutes * 60)}.",
            state=CheckState.FAILED,
        )
    else:
        hot = share > HOT_METER_SHARE
        text = f"{_digits(drawn, unit)} {unit} is {share:.0%} of what {s.meter_name} may carry"
        text += ": feel whether it gets hot." if hot else "."
        yield Check(key="meter", text=text, state=CheckState.NOTE if hot else CheckState.PASSED)


def _digits(drawn: float, unit: str) -> str:
    """Whole watts, tenths of an ampere: a plan knows no more."""
    return f"{drawn:.0f}" if unit == "W" else f"{drawn:.1f}"


def _zero(s: Situation) -> Iterator[Check]:
    if s.meter_reads is None:
        yield _asked(s, "zeroed", "Meter zeroed?", "The meter is zeroed.")
        return
    power_w, energy_wh = s.meter_reads
    if abs(power_w) > _ZERO_W:
        text = f"The meter reads {power_w:.1f} W with nothing to run yet: something is on."
        yield Check(key="zeroed", text=text, state=CheckState.FAILED)
    elif abs(energy_wh) > _ZERO_WH:
        text = f"The meter's counter shows {energy_wh:.2f} Wh: zero it."
        yield Check(key="zeroed", text=text, state=CheckState.FAILED)
    elif math.isnan(energy_wh):
        text = "The meter answers, but has no counter to be read: zeroed?"
        yield _asked(s, "zeroed", text, "The meter is zeroed.")
    elif math.isnan(power_w):
        text = f"The meter answers and reads {energy_wh:.2f} Wh."
        yield Check(key="zeroed", text=text, state=CheckState.PASSED)
    else:
        text = f"The meter answers and reads {energy_wh:.2f} Wh, {power_w:.1f} W."
        yield Check(key="zeroed", text=text, state=CheckState.PASSED)


def _wiring(s: Situation) -> Iterator[Check]:
    drawn = s.volt_amps or s.power_w
    if drawn is None:
        return
    hours = s.hours or 0.0
    if s.circuit is not None:
        limit = s.circuit.limit_w(hours)
        text = f"{drawn:.0f} VA on the {s.circuit.limit_words(hours)}."
        state = CheckState.FAILED if drawn > limit else CheckState.PASSED
        yield Check(key="circuit", text=text, state=state)
    if s.cord is not None:
        amps = drawn / s.volts
        most = s.cord.continuous_a
        drop = s.cord.drop_v(amps)
        if most is not None and amps > most:
            text = f"{amps:.1f} A is above what the cord may carry for hours ({most:g} A)."
            yield Check(key="cord", text=text, state=CheckState.FAILED)
        else:
            high = drop > MOST_DROP_SHARE * s.volts
            text = f"The cord loses {drop:.1f} V at {amps:.1f} A"
            text += ": more than 5 %, take a shorter or thicker one." if high else "."
            yield Check(key="cord", text=text, state=CheckState.NOTE if high else CheckState.PASSED)


def _panels(s: Situation) -> Iterator[Check]:
    """Over the volts is never connected; the rest is a look at the meter."""
    if "sun" not in s.method.key:
        return
    if s.panels is None:
        yield _asked(
            s,
            "panels",
            "The panels' volts on the coldest morning under the input's limit?",
            "The panels' cold volts are under the input's limit.",
        )
    else:
        may, text = s.panels
        state = CheckState.PASSED if may else CheckState.FAILED
        yield Check(key="panels", text=text, state=state, hard=not may)
    yield _asked(
        s,
        "open circuit",
        "Open-circuit volts and polarity measured, panels covered while connecting?",
        "Open-circuit volts and polarity are right, the panels were covered.",
    )


def _surroundings(s: Situation) -> Iterator[Check]:
    if s.temperature_c is not None:
        inside = COLDEST_C <= s.temperature_c <= HOTTEST_C
        text = f"{s.temperature_c:g} °C " + (
            "is within 0–40 °C." if inside else "is outside 0–40 °C: no result would be fair."
        )
        yield Check(
            key="temperature", text=text, state=CheckState.PASSED if inside else CheckState.FAILED
        )
    if s.rested_s is not None and s.rested_s < COOL_S:
        ago = format_span(s.rested_s)
        yield _asked(
            s,
            "cooled",
            f"The last run ended {ago} ago. Cool again?",
            f"Cool again, {ago} after the last run.",
        )
    needed = [name for name in s.missing if name in s.method.needs]
    if needed:
        text = f"Not received, and needed for this: {', '.join(needed)}."
        yield Check(key="accessories", text=text, state=CheckState.FAILED)


def _care(s: Situation) -> Iterator[Check]:
    yield _asked(s, "cautions", "Cautions read?", "The cautions are read.")
    if s.read_by_eye:
        text = "The meter is read by eye: type its Wh now and then (Space), and note the cut-off."
        yield Check(key="by eye", text=text, state=CheckState.NOTE)
    if s.simulated:
        text = "Simulated bench: nothing real is switched."
        yield Check(key="simulated", text=text, state=CheckState.NOTE)


def _number(text: str) -> float | None:
    try:
        return float(text.strip().rstrip("% ").replace(",", "."))
    except ValueError:
        return None
