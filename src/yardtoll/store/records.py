"""What a yard holds, one frozen record a row. Numbers are in SI-based units, times ISO 8601 UTC."""

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from yardtoll.core.uncertainty import MeterAccuracy

SIMULATED = "simulated"
"""A meter with this address lives on the simulated bench."""


class RunState(StrEnum):
    """A run's life. A void run is kept, with the reason."""

    RUNNING = "running"
    FINISHED = "finished"
    VOID = "void"


class ReadingKind(StrEnum):
    """What a typed reading is of."""

    SOC = "soc"
    DISPLAY_W = "display_w"
    TIME_LEFT = "time_left_s"

    @property
    def label(self) -> str:
        """As shown."""
        return {"soc": "SOC", "display_w": "display W", "time_left_s": "time left"}[self.value]


@dataclass(frozen=True, kw_only=True)
class YardInfo:
    """The yard itself."""

    id: int = 1
    name: str
    created_at: str
    rule: str = "guarded"
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
class Meter:
    """A meter of the bench. ``address`` is a VISA address or :data:`SIMULATED`."""

    id: int | None = None
    name: str
    profile: str
    address: str
    reading_share: float
    floor_w: float
    own_draw_w: float = 0.0
    max_w: float | None = None
    removed: bool = False

    @property
    def accuracy(self) -> MeterAccuracy:
        """Its stated limits of error."""
        return MeterAccuracy(reading_share=self.reading_share, floor_w=self.floor_w)


@dataclass(frozen=True, kw_only=True)
class Load:
    """A load of the bench at one setting."""

    id: int | None = None
    name: str
    watts: float
    removed: bool = False


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
    "import" or "demo".
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
    conditions: dict[str, Any] = field(default_factory=dict)


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


Record = YardInfo | Station | Meter | Load | StoredYardstick | Run | Mark | Reading
