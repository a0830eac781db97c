"""The bench: its gear and its site."""

from dataclasses import dataclass

from yardtoll.core.planning.loads import LoadSetting, LoadSpec
from yardtoll.core.planning.wiring import Circuit, Cord, cord
from yardtoll.core.uncertainty.accuracy import COMMON_SHARE, MeterAccuracy

SENSOR_SHARE = 0.05
"""Limit of an irradiance sensor whose class is not known (common practice, no source)."""
SIMULATED = "simulated"
"""A meter with this address lives on the simulated bench."""


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
    def is_simulated(self) -> bool:
        """Whether it is a meter of the simulated bench."""
        return self.address == SIMULATED

    @property
    def is_read_by_eye(self) -> bool:
        """Whether nothing reads it but a person."""
        return not self.address

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
        settings: positions of its switch; measured ones were learned from a run.
        range_low_w, range_high_w, range_step_w: of one that can be dialled; None else.
        warm_up_s, cold_share: how long it takes to warm, and how much more it draws before.
    """

    id: int | None = None
    name: str
    kind: str = "resistive"
    count: int = 1
    settings: tuple[LoadSetting, ...] = ()
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
            settings=self.settings,
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
    """The site of the bench; one record.

    Attributes:
        horizon_deg: height of the horizon, all round.
        obstacle_from_deg, obstacle_to_deg, obstacle_height_deg: one thing that iss higher,
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
