"""The kinds of claims a maker can make, in one table, and a claim itself.

Adding a kind is one entry in :data:`CLAIM_KINDS`; how text is read into it is in
``reading/phrases.py``.
"""

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import quoted


class GoodSide(StrEnum):
    """Which side of a claimed figure is the good one."""

    AT_LEAST = "at_least"
    AT_MOST = "at_most"
    NOMINAL = "nominal"
    YES_NO = "yes_no"
    STATED = "stated"
    """Said by the maker; nothing at this bench judges it."""

    @property
    def words(self) -> str:
        """As shown in front of a figure."""
        return {
            "at_least": "at least",
            "at_most": "at most",
            "nominal": "nominally",
            "yes_no": "",
            "stated": "stated",
        }[self.value]


class Group(StrEnum):
    """How claims are put together on the screen."""

    ENERGY = "Energy and cells"
    OUTPUT = "AC output"
    PORTS = "Ports"
    INPUT = "Charging"
    SUN = "Solar input"
    BODY = "The box"


@dataclass(frozen=True)
class ClaimKind:
    """One row of the table.

    Attributes:
        key: the quantity's name in files and on the command line.
        unit: the one unit its values are kept in; "" for counts, yes/no and words.
        good_side: which side is the good one.
        tolerance: of a nominal figure, as a share of it; 0 where exact or not nominal.
        limits_connection: the figure bounds what may be connected: between sources that
            disagree the safer one, ``safer``, holds.
        safer: min or max of disagreeing values is the safe one.
        highest: the largest value that is plausible, in ``unit``.
        needs: what a run must do to test it, in a sentence, where that is not plain.
    """

    key: str
    title: str
    unit: str
    good_side: GoodSide
    group: Group
    tolerance: float = 0.0
    limits_connection: bool = False
    safer: str = "min"
    highest: float = 1e7
    in_words: bool = False
    needs: str = ""

    @property
    def is_number(self) -> bool:
        """Whether its value is a figure rather than yes/no or words."""
        return self.good_side is not GoodSide.YES_NO and not self.in_words


PORTS = {"usb_a": "USB-A", "usb_c": "USB-C", "car_out": "12 V socket", "dc": "DC"}
"""Output ports other than AC outlets; each has a count, W, V, A and a limit shared by all."""


LEAST, MOST, NOMINAL = GoodSide.AT_LEAST, GoodSide.AT_MOST, GoodSide.NOMINAL
YES_NO, STATED = GoodSide.YES_NO, GoodSide.STATED


def _energy() -> Iterable[ClaimKind]:
    yield ClaimKind("rated_wh", "Rated energy", "Wh", LEAST, Group.ENERGY)
    yield ClaimKind("usable_wh", "Usable energy", "Wh", LEAST, Group.ENERGY)
    yield ClaimKind("pack_ah", "Pack charge", "Ah", LEAST, Group.ENERGY, highest=1e5)
    yield ClaimKind("pack_v", "Pack volts", "V", NOMINAL, Group.ENERGY, highest=2000)
    yield ClaimKind("cell_v", "Cell volts", "V", NOMINAL, Group.ENERGY, highest=10)
    yield ClaimKind("cells_series", "Cells in series", "", NOMINAL, Group.ENERGY, highest=1000)
    yield ClaimKind("cell_count", "Cells", "", STATED, Group.ENERGY, highest=1e5)
    yield ClaimKind("window_percent", "Usable window", "%", STATED, Group.ENERGY, highest=100)
    yield ClaimKind("chemistry", "Chemistry", "", STATED, Group.ENERGY, in_words=True)
    yield ClaimKind("cycle_life", "Cycle life", "cycles", STATED, Group.ENERGY, highest=1e5)


def _output() -> Iterable[ClaimKind]:
    yield ClaimKind("continuous_w", "Continuous power", "W", LEAST, Group.OUTPUT, highest=1e5)
    yield ClaimKind("surge_w", "Surge power", "W", LEAST, Group.OUTPUT, highest=2e5)
    yield ClaimKind("surge_s", "Surge duration", "s", LEAST, Group.OUTPUT, highest=3600)
    yield ClaimKind(
        "lifted_w",
        "Power in voltage-lowering mode",
        "W",
        LEAST,
        Group.OUTPUT,
        highest=1e5,
        needs="It needs a run on heaters of that many watts, voltage-lowering mode noted as on.",
    )
    yield ClaimKind(
        "inverter_percent", "Inverter efficiency", "%", STATED, Group.OUTPUT, highest=100
    )
    yield ClaimKind("ac_outlets", "AC outlets", "", NOMINAL, Group.OUTPUT, highest=50)
    yield ClaimKind("ac_v", "AC volts", "V", NOMINAL, Group.OUTPUT, tolerance=0.05, highest=500)
    # Inverters hold within ±0.5 Hz (common practice, no source).
    yield ClaimKind(
        "ac_hz", "AC frequency", "Hz", NOMINAL, Group.OUTPUT, tolerance=0.01, highest=100
    )
    yield ClaimKind(
        "ac_a",
        "AC current",
        "A",
        LEAST,
        Group.OUTPUT,
        highest=500,
        needs="It needs a logged run whose load draws that many amps.",
    )
    yield ClaimKind("pure_sine", "Pure sine", "", YES_NO, Group.OUTPUT)
    yield ClaimKind("transfer_ms", "Transfer time", "ms", MOST, Group.OUTPUT, highest=10_000)
    yield ClaimKind("ups", "UPS function", "", YES_NO, Group.OUTPUT)
    yield ClaimKind("pass_through", "Pass-through", "", YES_NO, Group.OUTPUT)


def _ports() -> Iterable[ClaimKind]:
    for port, title in PORTS.items():
        yield ClaimKind(f"{port}_ports", f"{title} ports", "", NOMINAL, Group.PORTS, highest=50)
        yield ClaimKind(
            f"{port}_w",
            f"{title} power",
            "W",
            LEAST,
            Group.PORTS,
            highest=5000,
            needs=f"It needs a logged run at the {title} port at that many watts.",
        )
        # Regulated means within ±5 % from full to empty (common practice, no source).
        yield ClaimKind(
            f"{port}_v",
            f"{title} volts",
            "V",
            NOMINAL,
            Group.PORTS,
            tolerance=0.05,
            highest=100,
        )
        yield ClaimKind(
            f"{port}_a",
            f"{title} current",
            "A",
            LEAST,
            Group.PORTS,
            highest=200,
            needs=f"It needs a logged run at the {title} port at that many amps.",
        )
        yield _shared(port, title)

    yield _shared("usb", "USB")


def _shared(port: str, title: str) -> ClaimKind:
    """What several ports give at once."""
    is_usb = port.startswith("usb")
    return ClaimKind(
        f"{port}_shared_w",
        f"{title} power, shared",
        "W",
        LEAST if is_usb else STATED,
        Group.PORTS,
        highest=5000,
        needs="It needs these ports loaded at once with more than that." if is_usb else "",
    )


def _input() -> Iterable[ClaimKind]:
    yield ClaimKind(
        "recharge_w",
        "Wall charging power",
        "W",
        LEAST,
        Group.INPUT,
        highest=20_000,
    )
    yield ClaimKind("recharge_min", "Wall charging time", "min", MOST, Group.INPUT, highest=1e5)
    yield ClaimKind(
        "wall_a",
        "Wall input current",
        "A",
        MOST,
        Group.INPUT,
        limits_connection=True,
        highest=200,
    )
    yield ClaimKind("car_in_w", "Car charging power", "W", LEAST, Group.INPUT, highest=5000)
    yield ClaimKind(
        "car_in_v",
        "Car input volts",
        "V",
        STATED,
        Group.INPUT,
        limits_connection=True,
        highest=100,
    )
    yield ClaimKind("car_in_a", "Car input current", "A", MOST, Group.INPUT, highest=200)
    yield ClaimKind("car_in_h", "Car charging time", "h", MOST, Group.INPUT, highest=500)


def _input_together() -> Iterable[ClaimKind]:
    yield ClaimKind("usb_in_w", "USB-C charging power", "W", LEAST, Group.INPUT, highest=500)
    yield ClaimKind(
        "combined_in_w",
        "Charging power together",
        "W",
        LEAST,
        Group.INPUT,
        highest=20_000,
    )
    yield ClaimKind(
        "combined_min",
        "Charging time together",
        "min",
        MOST,
        Group.INPUT,
        highest=1e5,
    )


def _sun() -> Iterable[ClaimKind]:
    yield ClaimKind("solar_w", "Solar input power", "W", LEAST, Group.SUN, highest=20_000)
    yield ClaimKind(
        "solar_v_min",
        "Solar input volts, lowest",
        "V",
        STATED,
        Group.SUN,
        limits_connection=True,
        safer="max",
        highest=1500,
    )
    yield ClaimKind(
        "solar_v_max",
        "Solar input volts, highest",
        "V",
        STATED,
        Group.SUN,
        limits_connection=True,
        highest=1500,
    )
    yield ClaimKind(
        "solar_a",
        "Solar input current",
        "A",
        MOST,
        Group.SUN,
        limits_connection=True,
        highest=500,
    )
    yield ClaimKind("solar_h", "Solar charging time", "h", MOST, Group.SUN, highest=500)


def _body() -> Iterable[ClaimKind]:
    yield ClaimKind("idle_w", "Idle draw, AC on", "W", MOST, Group.BODY, highest=1000)
    yield ClaimKind("weight_kg", "Weight", "kg", MOST, Group.BODY, highest=2000)
    yield ClaimKind("noise_db", "Noise", "dB(A)", MOST, Group.BODY, highest=150)
    yield ClaimKind("use_c_min", "Coldest use", "°C", STATED, Group.BODY, highest=100)
    yield ClaimKind("use_c_max", "Hottest use", "°C", STATED, Group.BODY, highest=150)
    yield ClaimKind("charge_c_min", "Coldest charging", "°C", STATED, Group.BODY, highest=100)
    yield ClaimKind("charge_c_max", "Hottest charging", "°C", STATED, Group.BODY, highest=150)
    yield ClaimKind("warranty_years", "Warranty", "years", STATED, Group.BODY, highest=100)


CLAIM_KINDS: dict[str, ClaimKind] = {
    kind.key: kind
    for rows in (_energy(), _output(), _ports(), _input(), _input_together(), _sun(), _body())
    for kind in rows
}

_SOC_WINDOW = re.compile(r"(\d{1,3})\s*(?:%\s*)?(?:–|-|→|to)\s*(\d{1,3})\s*%")
_PORTS_MEANT = re.compile(r"^(\d+) ports?$")


@dataclass(frozen=True, kw_only=True)
class Claim:
    """One rated figure from one source.

    Attributes:
        kind: key into :data:`CLAIM_KINDS`.
        value: in the kind's unit; 1 or 0 for yes or no; None where it is in words.
        words: the value of a kind in words, such as "LFP".
        condition: like "at 25 °C", "UPS mode", "0–80 %", "2 ports".
        source: like "label", "manual", "listing".
        text: where it came from, to the letter.
        wording: the words beside the figure, such as "up to", "about", "±5 %".
        judged_as: how the reviewer reads it; "" for the usual way; see ``meaning.py``.

    Raises:
        UnusableDataError: the kind is not known, or the value is not plausible.
    """

    kind: str
    value: float | None
    words: str = ""
    condition: str = ""
    source: str = ""
    note: str = ""
    text: str = ""
    wording: str = ""
    judged_as: str = ""
    id: int | None = None

    def __post_init__(self) -> None:
        wrong = value_is_wrong(self.kind, self.value, self.words)
        if wrong:
            raise UnusableDataError(wrong)

    @property
    def about(self) -> ClaimKind:
        """Its row of the table."""
        return CLAIM_KINDS[self.kind]

    @property
    def soc_window(self) -> tuple[float, float] | None:
        """(from, to) in % where the condition names one, such as "0–80 %"."""
        found = _SOC_WINDOW.search(self.condition)
        return (float(found[1]), float(found[2])) if found else None

    @property
    def ports_meant(self) -> int | None:
        """How many ports share the figure, where the condition says "2 ports"."""
        found = _PORTS_MEANT.match(self.condition)
        return int(found[1]) if found else None

    @property
    def shown(self) -> str:
        """The value with its unit, like "2048 Wh", "yes", "LFP"."""
        if self.about.in_words:
            return self.words
        if self.about.good_side is GoodSide.YES_NO:
            return "yes" if self.value else "no"
        return f"{self.value:g} {self.about.unit}".strip() if self.value is not None else "–"


def value_is_wrong(kind: str, value: float | None, words: str = "") -> str:
    """Why a value is not plausible, in one sentence; "" when it is."""
    about = CLAIM_KINDS.get(kind)
    if about is None:
        return f"{quoted(kind)} is not a known kind of claim"
    if about.in_words:
        return "" if words.strip() else f"{about.title} needs its words"
    if value is None or not math.isfinite(value):
        return f"{about.title} needs a figure"
    return _figure_is_wrong(about, value)


def _figure_is_wrong(about: ClaimKind, value: float) -> str:
    shown = f"{about.title} is {value:g} {about.unit}".rstrip()
    if about.good_side is GoodSide.YES_NO:
        return "" if value in (0, 1) else f"{about.title} is yes or no"
    if about.unit == "°C":
        return "" if -100 <= value <= about.highest else f"{shown}; that is not plausible"
    if value <= 0:
        return f"{shown}; it must be above 0"
    if value > about.highest:
        return f"{shown}; more than {about.highest:g} is not plausible"
    return ""


IMPOSSIBLE_PAIRS: tuple[tuple[str, str, str], ...] = (
    ("continuous_w", "surge_w", "the surge power is below the continuous power"),
    ("solar_v_min", "solar_v_max", "the solar volts run the wrong way round"),
    ("use_c_min", "use_c_max", "the temperatures of use run the wrong way round"),
    ("charge_c_min", "charge_c_max", "the temperatures of charging run the wrong way round"),
)
"""(lower kind, higher kind, what is wrong when the lower one is not below)."""


def impossible_together(claims: Iterable[Claim]) -> list[str]:
    """Sentences on figures of one source that cannot both be so.

    Equal figures of surge and continuous power are possible; an empty list when all fit.
    """
    found = []
    by_source: dict[str, dict[str, list[float]]] = {}
    for claim in claims:
        if claim.value is not None:
            kinds = by_source.setdefault(claim.source.strip().casefold(), {})
            kinds.setdefault(claim.kind, []).append(claim.value)
    for source, kinds in by_source.items():
        for low, high, words in IMPOSSIBLE_PAIRS:
            if low in kinds and high in kinds and min(kinds[low]) > max(kinds[high]):
                unit = CLAIM_KINDS[low].unit
                of = f" ({source})" if source else ""
                found.append(
                    f"{words[0].upper()}{words[1:]}{of}: "
                    f"{min(kinds[low]):g} {unit} against {max(kinds[high]):g} {unit}"
                )
    return found
