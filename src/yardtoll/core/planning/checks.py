"""Go or no-go: every line that must be settled before a run starts, each with its reason.

A gate is open, shut, or waits for a word of the reviewer. Shut or waiting gates stop the start;
all but the hard ones can be overridden with a reason that the run keeps.
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


class State(StrEnum):
    """How a gate stands."""

    OPEN = "open"
    NOTE = "note"
    """Open, with something to keep in mind."""
    ASKS = "asks"
    """Waits for the reviewer's tick or answer."""
    SHUT = "shut"


@dataclass(frozen=True, kw_only=True)
class Gate:
    """One line before the start.

    Attributes:
        hard: cannot be overridden: without it there is no run.
        by_hand: a tick of the reviewer's opens it.
    """

    key: str
    text: str
    state: State
    hard: bool = False
    by_hand: bool = False

    @property
    def stops(self) -> bool:
        """Whether the run may not start like this."""
        return self.state in (State.SHUT, State.ASKS)


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
    """Everything the gates look at; None where it is not known.

    Attributes:
        power_w, volt_amps: of the chosen loads, or of the charger.
        hours: how long it will run.
        meter_w, meter_a, meter_minutes: what the meter may carry, and for how long.
        meter_reads: (W, Wh) with nothing switched on, where the meter could be asked; NaN for
            what it does not tell.
        rested_s: since this station's last run ended.
        confirmed: keys of gates the reviewer has ticked.
        settings: as noted, by the keys of :data:`SETTINGS`.
        missing: accessories listed but not there.
        panels: of a solar run: whether its array may be connected, and why, in a sentence; None
            where that is not known.
        troubles: hard reasons against a start, such as another run that is going.
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


def gates(situation: Situation) -> list[Gate]:
    """Every gate of a start, in the order a careful person would go through them."""
    found = [
        Gate(key=f"trouble {number}", text=text, state=State.SHUT, hard=True)
        for number, text in enumerate(situation.troubles)
    ]
    for part in (_charge, _settings, _power, _meter, _wiring, _panels, _surroundings, _care):
        found += part(situation)
    return found


def _asked(s: Situation, key: str, text: str, done: str) -> Gate:
    """A gate that a tick opens."""
    ticked = key in s.confirmed
    state = State.OPEN if ticked else State.ASKS
    return Gate(key=key, text=done if ticked else text, state=state, by_hand=True)


def _charge(s: Situation) -> Iterator[Gate]:
    if s.soc[0] == s.soc[1] or (s.soc[0] > s.soc[1]) is s.method.charges:
        way = "rise" if s.method.charges else "fall"
        yield Gate(
            key="window", text=f"The state of charge must {way}.", state=State.SHUT, hard=True
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


def _settings(s: Situation) -> Iterator[Gate]:
    noted = [words for key, words in SETTINGS if not s.settings.get(key, "").strip()]
    if noted:
        names = ", ".join(words.split(",")[0].lower() for words in noted)
        yield Gate(key="settings", text=f"Not noted yet: {names}.", state=State.ASKS)
        return
    floor = _number(s.settings["floor"])
    if floor is None:
        yield Gate(
            key="settings", text="The discharge floor must be a figure in %.", state=State.ASKS
        )
    elif s.method.delivers and floor > min(s.soc):
        yield Gate(
            key="settings",
            text=f"The floor is {floor:g} %, so the station ends there: plan to {floor:g} %, or "
            "set the floor lower.",
            state=State.SHUT,
        )
    else:
        yield Gate(key="settings", text="The station's settings are noted.", state=State.OPEN)


def _power(s: Situation) -> Iterator[Gate]:
    if s.power_w is None:
        yield Gate(
            key="load",
            text="No power to plan with: choose loads, or give the watts.",
            state=State.SHUT,
            hard=True,
        )
        return
    if not s.method.delivers:
        return
    share = s.power_w / s.rated_w
    meant = s.method.may_exceed_rating
    if share > 1.02 and not meant:
        yield Gate(
            key="rating",
            text=f"{s.power_w:.0f} W is above the station's rated {s.rated_w:g} W: it would trip, "
            "and this is no capacity test.",
            state=State.SHUT,
        )
    else:
        yield Gate(
            key="rating",
            text=f"{s.power_w:.0f} W is {share:.0%} of the station's rated {s.rated_w:g} W.",
            state=State.NOTE if meant else State.OPEN,
        )


def _meter(s: Situation) -> Iterator[Gate]:
    yield from _zero(s)
    if s.power_w is None or not s.meter_name:
        return
    amps = (s.volt_amps or s.power_w) / s.volts
    limits = ((s.power_w, s.meter_w, "W"), (amps, s.meter_a, "A"))
    shares = [(drawn / most, drawn, most, unit) for drawn, most, unit in limits if most]
    if not shares:
        text = f"What {s.meter_name} may carry is not noted; read its plate."
        yield Gate(key="meter", text=text, state=State.NOTE)
        return
    share, drawn, most, unit = max(shares)
    minutes = (s.hours or 0.0) * 60
    if share > 1:
        yield Gate(
            key="meter",
            text=f"{drawn:.4g} {unit} is above what {s.meter_name} may carry ({most:g} {unit}): "
            "meters have burnt this way.",
            state=State.SHUT,
        )
    elif s.meter_minutes and minutes > s.meter_minutes and share > HOT_METER_SHARE:
        yield Gate(
            key="meter",
            text=f"{s.meter_name} may carry so much for {s.meter_minutes:g} min, not for "
            f"{format_span(minutes * 60)}.",
            state=State.SHUT,
        )
    else:
        hot = share > HOT_METER_SHARE
        text = f"{drawn:.4g} {unit} is {share:.0%} of what {s.meter_name} may carry"
        text += ": feel whether it gets hot." if hot else "."
        yield Gate(key="meter", text=text, state=State.NOTE if hot else State.OPEN)


def _zero(s: Situation) -> Iterator[Gate]:
    if s.meter_reads is None:
        yield _asked(s, "zeroed", "Meter zeroed?", "The meter is zeroed.")
        return
    power_w, energy_wh = s.meter_reads
    if abs(power_w) > _ZERO_W:
        text = f"The meter reads {power_w:.1f} W with nothing to run yet: something is on."
        yield Gate(key="zeroed", text=text, state=State.SHUT)
    elif abs(energy_wh) > _ZERO_WH:
        text = f"The meter's counter stands at {energy_wh:.2f} Wh: zero it."
        yield Gate(key="zeroed", text=text, state=State.SHUT)
    elif math.isnan(energy_wh):
        text = "The meter answers, but has no counter to be read: zeroed?"
        yield _asked(s, "zeroed", text, "The meter is zeroed.")
    elif math.isnan(power_w):
        text = f"The meter answers and reads {energy_wh:.2f} Wh."
        yield Gate(key="zeroed", text=text, state=State.OPEN)
    else:
        text = f"The meter answers and reads {energy_wh:.2f} Wh, {power_w:.1f} W."
        yield Gate(key="zeroed", text=text, state=State.OPEN)


def _wiring(s: Situation) -> Iterator[Gate]:
    drawn = s.volt_amps or s.power_w
    if drawn is None:
        return
    hours = s.hours or 0.0
    if s.circuit is not None:
        limit = s.circuit.limit_w(hours)
        text = f"{drawn:.0f} VA on the {s.circuit.limit_words(hours)}."
        state = State.SHUT if drawn > limit else State.OPEN
        yield Gate(key="circuit", text=text, state=state)
    if s.cord is not None:
        amps = drawn / s.volts
        most = s.cord.continuous_a
        drop = s.cord.drop_v(amps)
        if most is not None and amps > most:
            text = f"{amps:.1f} A is above what the cord may carry for hours ({most:g} A)."
            yield Gate(key="cord", text=text, state=State.SHUT)
        else:
            high = drop > MOST_DROP_SHARE * s.volts
            text = f"The cord loses {drop:.1f} V at {amps:.1f} A"
            text += ": more than 5 %, take a shorter or thicker one." if high else "."
            yield Gate(key="cord", text=text, state=State.NOTE if high else State.OPEN)


def _panels(s: Situation) -> Iterator[Gate]:
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
        state = State.OPEN if may else State.SHUT
        yield Gate(key="panels", text=text, state=state, hard=not may)
    yield _asked(
        s,
        "open circuit",
        "Open-circuit volts and polarity measured, panels covered while connecting?",
        "Open-circuit volts and polarity are right, the panels were covered.",
    )


def _surroundings(s: Situation) -> Iterator[Gate]:
    if s.temperature_c is not None:
        inside = COLDEST_C <= s.temperature_c <= HOTTEST_C
        text = f"{s.temperature_c:g} °C " + (
            "is within 0–40 °C." if inside else "is outside 0–40 °C: no result would be fair."
        )
        yield Gate(key="temperature", text=text, state=State.OPEN if inside else State.SHUT)
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
        yield Gate(key="accessories", text=text, state=State.SHUT)


def _care(s: Situation) -> Iterator[Gate]:
    yield _asked(s, "cautions", "Cautions read?", "The cautions are read.")
    if s.read_by_eye:
        text = "The meter is read by eye: type its Wh now and then (Space), and note the cut-off."
        yield Gate(key="by eye", text=text, state=State.NOTE)
    if s.simulated:
        text = "Simulated bench: nothing real is switched."
        yield Gate(key="simulated", text=text, state=State.NOTE)


def _number(text: str) -> float | None:
    try:
        return float(text.strip().rstrip("% ").replace(",", "."))
    except ValueError:
        return None
