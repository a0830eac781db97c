"""What a yard holds, one frozen record a row. Numbers are in SI-based units, times ISO 8601 UTC."""

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.scorecard import ScorePoint
from yardtoll.core.ledger.loss_fit import REPEATABILITY
from yardtoll.core.planning.loads import LoadSetting, LoadSpec
from yardtoll.core.planning.wiring import Circuit, Cord, cord
from yardtoll.core.uncertainty.accuracy import COMMON_SHARE, MeterAccuracy

SENSOR_SHARE = 0.05
"""Limit of an irradiance sensor whose class is not known (common practice, no source)."""
SIMULATED = "simulated"
"""A meter with this address lives on the simulated bench."""
TYPED = "typed"
"""Origin of a run whose meter is read by eye."""
ENDS = ("Cut-off", "Charged")
"""Marks that say when a run ended."""


class RunState(StrEnum):
    """A run's life. A void run is kept, with the reason."""

    PLANNED = "planned"
    RUNNING = "running"
    FINISHED = "finished"
    VOID = "void"
    DROPPED = "dropped"
    """A plan that was taken back; kept for undo, shown nowhere."""


class ReadingKind(StrEnum):
    """What a typed reading is of."""

    SOC = "soc"
    DISPLAY_W = "display_w"
    TIME_LEFT = "time_left_s"
    INPUT_W = "input_w"
    METER_WH = "meter_wh"
    """A meter's counter read by eye."""
    IRRADIANCE = "irradiance_w_m2"
    """Of a hand-held sensor held in the panels' plane."""

    @property
    def label(self) -> str:
        """As shown."""
        return {
            "soc": "SOC",
            "display_w": "display W",
            "time_left_s": "time left",
            "input_w": "input W",
            "meter_wh": "meter Wh",
            "irradiance_w_m2": "irradiance",
        }[self.value]


@dataclass(frozen=True, kw_only=True)
class YardInfo:
    """The yard itself.

    ``repeatability`` is the relative standard deviation from run to run where no repeats tell it.
    """

    id: int = 1
    name: str
    created_at: str
    rule: str = "guarded"
    repeatability: float = REPEATABILITY
    yardstick_id: int | None = None


@dataclass(frozen=True, kw_only=True)
class Station:
    """A station under test, with the two rated figures every discharge needs."""

    id: int | None = None
    name: str
    rated_wh: float
    rated_w: float
    chemistry: str = ""
    source: str = ""
    note: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class StoredClaim:
    """One rated figure of a station from one source; see ``core/claims/kinds.py``."""

    id: int | None = None
    station_id: int
    kind: str
    value: float | None
    words: str = ""
    condition: str = ""
    source: str = ""
    note: str = ""
    text: str = ""
    wording: str = ""
    judged_as: str = ""
    removed: bool = False

    @property
    def claim(self) -> Claim:
        """As the core reasons about it."""
        return Claim(
            id=self.id,
            kind=self.kind,
            value=self.value,
            words=self.words,
            condition=self.condition,
            source=self.source,
            note=self.note,
            text=self.text,
            wording=self.wording,
            judged_as=self.judged_as,
        )


@dataclass(frozen=True, kw_only=True)
class Receiving:
    """A station as it came: one record a station.

    Attributes:
        received_on: ISO date; "" where not noted.
        accessories: [{"name": …, "present": …}] as listed by the maker.
        lift: one word of the site's scale.
    """

    id: int | None = None
    station_id: int
    received_on: str = ""
    price: float | None = None
    list_price: float | None = None
    currency: str = ""
    firmware: str = ""
    soc_percent: float | None = None
    weight_kg: float | None = None
    lift: str = ""
    conditioned: bool = False
    accessories: list[dict[str, Any]] = field(default_factory=list)
    note: str = ""
    removed: bool = False

    @property
    def missing(self) -> tuple[str, ...]:
        """Accessories that are listed and not there."""
        return tuple(str(a["name"]) for a in self.accessories if not a.get("present"))


@dataclass(frozen=True, kw_only=True)
class Photo:
    """A picture of a station; its bytes are fetched apart."""

    id: int | None = None
    station_id: int
    name: str
    media_type: str
    caption: str = ""
    added_at: str = ""
    size_bytes: int = 0
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Observation:
    """What was seen of a station by eye, without a run: a yes/no claim, a point of the scorecard.

    Attributes:
        subject: a kind of claim, or a quantity of the scorecard.
        agrees: yes or no.
        observed_on: ISO date.
    """

    id: int | None = None
    station_id: int
    subject: str
    agrees: bool
    words: str = ""
    observed_on: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Review:
    """What the reviewer writes of a station; pros and cons are one a line."""

    id: int | None = None
    station_id: int
    summary: str = ""
    pros: str = ""
    cons: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class StoredScorePoint:
    """One point of this yard's scorecard; see ``core/scorecard.py``."""

    id: int | None = None
    title: str
    quantity: str
    sign: str
    limit: float = 1.0
    half_limit: float | None = None
    points: float = 1.0
    position: int = 0
    removed: bool = False

    @property
    def point(self) -> ScorePoint:
        """As the core scores by it."""
        return ScorePoint(
            title=self.title,
            quantity=self.quantity,
            sign=self.sign,
            limit=self.limit,
            half_limit=self.half_limit,
            points=self.points,
        )


@dataclass(frozen=True, kw_only=True)
class Meter:
    """A meter of the bench. ``address`` is a VISA address or :data:`SIMULATED`.

    Attributes:
        common_share: share of its gain's variance that all its readings have in common.
        step_wh: last digit of its energy counter, where that is known.
        phase_deg: limit of its phase error; 0 where none is stated.
        volts_share, volts_floor_v: limits of its volts, ±(share of the reading + floor); None
            where they are not stated.
        hertz_floor_hz: limit ± of its hertz; None where it is not stated.
        max_w, max_a: what it may carry, for ``max_minutes`` at a time where that is limited.
        place: where it sits, such as "AC outlet", "wall", "DC port".
    """

    id: int | None = None
    name: str
    profile: str
    address: str
    reading_share: float
    floor_w: float
    own_draw_w: float = 0.0
    common_share: float = COMMON_SHARE
    phase_deg: float = 0.0
    step_wh: float | None = None
    volts_share: float | None = None
    volts_floor_v: float | None = None
    hertz_floor_hz: float | None = None
    max_w: float | None = None
    max_a: float | None = None
    max_minutes: float | None = None
    place: str = "AC outlet"
    removed: bool = False

    @property
    def accuracy(self) -> MeterAccuracy:
        """Its stated limits of error."""
        return MeterAccuracy(
            reading_share=self.reading_share,
            floor_w=self.floor_w,
            common_share=self.common_share,
            step_wh=self.step_wh,
            phase_deg=self.phase_deg,
        )


@dataclass(frozen=True, kw_only=True)
class Load:
    """A sort of load of the bench, with its settings.

    Attributes:
        settings: [{"name": …, "watts": …, "measured": …}]; measured ones were learned from a run.
        range_low_w, range_high_w, range_step_w: of one that can be dialled; None else.
        warm_up_s, cold_share: how long it takes to warm, and how much more it draws before.
    """

    id: int | None = None
    name: str
    kind: str = "resistive"
    count: int = 1
    settings: list[dict[str, Any]] = field(default_factory=list)
    range_low_w: float | None = None
    range_high_w: float | None = None
    range_step_w: float | None = None
    inrush: float = 1.0
    power_factor: float = 1.0
    warm_up_s: float = 60.0
    cold_share: float = 0.0
    removed: bool = False

    @property
    def spec(self) -> LoadSpec:
        """As the mixer reasons about it."""
        dialled = self.range_low_w is not None and self.range_high_w is not None
        return LoadSpec(
            name=self.name,
            kind=self.kind,
            count=self.count,
            settings=tuple(
                LoadSetting(name=str(s["name"]), watts=float(s["watts"])) for s in self.settings
            ),
            range_w=(self.range_low_w or 0.0, self.range_high_w or 0.0, self.range_step_w or 1.0)
            if dialled
            else None,
            inrush=self.inrush,
            power_factor=self.power_factor,
        )


@dataclass(frozen=True, kw_only=True)
class StoredCircuit:
    """A house circuit of the bench."""

    id: int | None = None
    name: str
    breaker_a: float
    volts: float
    removed: bool = False

    @property
    def circuit(self) -> Circuit:
        """As the core reasons about it."""
        return Circuit(breaker_a=self.breaker_a, volts=self.volts)


@dataclass(frozen=True, kw_only=True)
class StoredCord:
    """A cord of the bench; ``gauge`` is like "14 AWG" or "1.5 mm²"."""

    id: int | None = None
    name: str
    length_m: float
    gauge: str
    rated_a: float | None = None
    removed: bool = False

    @property
    def cord(self) -> Cord:
        """As the core reasons about it."""
        return cord(self.length_m, self.gauge, self.rated_a)


@dataclass(frozen=True, kw_only=True)
class SolarArray:
    """Panels of the bench; the figures are of one module, from its label.

    Attributes:
        beta_voc, gamma: change of Voc, and of the power, with temperature, 1/K.
        tilt_deg, azimuth_deg: as they stand; clockwise from north.
        on_ground: folded out on the ground, with no air behind them.
    """

    id: int | None = None
    name: str
    series: int = 1
    parallel: int = 1
    module_w: float
    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    beta_voc: float = -0.0029
    gamma: float = -0.0037
    tilt_deg: float = 30.0
    azimuth_deg: float = 180.0
    wiring_loss: float = 0.02
    on_ground: bool = False
    removed: bool = False

    @property
    def power_stc_w(self) -> float:
        """Nameplate of the whole array."""
        return self.series * self.parallel * self.module_w


@dataclass(frozen=True, kw_only=True)
class Site:
    """Where the bench stands; one record.

    Attributes:
        horizon_deg: height of what stands around, all round.
        obstacle_from_deg, obstacle_to_deg, obstacle_height_deg: one thing that stands higher,
            between two azimuths; no height for none.
        coldest_c, hottest_c: the air's records here.
        lift_scale: words for who can lift a station, parted by ";".
        time_zone: name of the zone in which everything is shown; "" for the computer's.
        sensor_share: limit ± of the irradiance sensor's class, as a share.
    """

    id: int | None = 1
    latitude: float | None = None
    longitude: float | None = None
    altitude_m: float = 0.0
    horizon_deg: float = 0.0
    obstacle_from_deg: float = 0.0
    obstacle_to_deg: float = 0.0
    obstacle_height_deg: float = 0.0
    coldest_c: float | None = None
    hottest_c: float | None = None
    price_per_kwh: float | None = None
    currency: str = ""
    temperature_c: float | None = None
    lift_scale: str = "one hand; two hands; two people; a trolley"
    time_zone: str = ""
    sensor_share: float = SENSOR_SHARE


@dataclass(frozen=True, kw_only=True)
class StoredYardstick:
    """A named limit of this yard."""

    id: int | None = None
    name: str
    limit_ratio: float
    basis: str
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Run:
    """One execution of a method. ``conditions`` holds what else was set or noted.

    ``own_draw_w`` is the meter's own draw where it was fed by the station; ``origin`` is "live",
    "import", "typed" or "demo". ``ended_by`` is one of ``core/ended_by.py``;
    ``explained`` has the doubts that the reviewer has explained, by code, with his words.
    """

    id: int | None = None
    station_id: int
    number: int
    method: str
    state: str
    origin: str
    started_at: str
    ended_at: str | None = None
    meter_id: int | None = None
    load_id: int | None = None
    target_w: float | None = None
    own_draw_w: float = 0.0
    soc_from: float = 100.0
    soc_to: float = 0.0
    void_reason: str = ""
    ended_by: str = ""
    explained: dict[str, str] = field(default_factory=dict)
    conditions: dict[str, Any] = field(default_factory=dict)

    @property
    def has_ended(self) -> bool:
        """Whether it is finished or void."""
        return self.state in (RunState.FINISHED.value, RunState.VOID.value)


@dataclass(frozen=True, kw_only=True)
class Mark:
    """An instant of a run with a word, s from its first sample."""

    id: int | None = None
    run_id: int
    time_s: float
    word: str
    withdrawn: bool = False


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One typed value of a run, s from its first sample."""

    id: int | None = None
    run_id: int
    time_s: float
    kind: str
    value: float
    withdrawn: bool = False


Gear = Meter | Load | StoredCircuit | StoredCord | SolarArray
"""What the bench owns."""
Removable = (
    Station
    | StoredClaim
    | Receiving
    | Photo
    | Observation
    | Review
    | StoredYardstick
    | StoredScorePoint
    | Gear
)
"""What can be taken out of sight."""
Record = YardInfo | Site | Run | Mark | Reading | Removable
