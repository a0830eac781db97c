"""Outages to be gone through, and the appliances that are known for them."""

from dataclasses import dataclass, field
from enum import StrEnum


class SunFrom(StrEnum):
    """Where an outage's sun comes from."""

    NONE = "none"
    SKY = "sky"
    """A clear sky over the site, through the weather that is chosen."""
    RUN = "run"
    """A day as a solar run measured it, again each day."""


@dataclass(frozen=True, kw_only=True)
class Appliance:
    """One of the reviewer's own appliances.

    Attributes:
        watts: while it draws.
        duty: share of the time that it draws.
        inrush_w: what its start takes for a moment; None where it is not known.
        low_share, high_share: its W lie between these shares of ``watts``.
        run_id: the run that it was measured in; None for one that was typed.
    """

    id: int | None = None
    name: str
    watts: float
    duty: float = 1.0
    inrush_w: float | None = None
    low_share: float = 1.0
    high_share: float = 1.0
    run_id: int | None = None
    note: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class OutageUse:
    """An appliance in one outage, between two clock hours; None for all day."""

    name: str
    watts: float
    duty: float = 1.0
    from_h: float | None = None
    to_h: float | None = None
    inrush_w: float | None = None
    low_share: float = 1.0
    high_share: float = 1.0


@dataclass(frozen=True, kw_only=True)
class OutageFeed:
    """Wall or generator power between two clock hours of each day."""

    name: str
    watts: float
    from_h: float
    to_h: float


@dataclass(frozen=True, kw_only=True)
class StoredOutage:
    """One outage of a station, as it is asked for.

    Attributes:
        begins_at: ISO 8601 UTC.
        sun: a value of :class:`SunFrom`.
        sun_run_id: the run whose day it is, for a measured one.
        weather: a key of ``core/endurance/weather.py``.
        array_ids: the panels; empty for none.
        more_panels: modules of the first array's kind beside those that it has.
        cap_w: what the station takes of them; None for what its claims and runs say.
        packs_wh: rated Wh of packs that are put on.
        units: stations put together.
        store_wh, overhead_w, conversion: as typed; None for as measured.
        run_id: the run in which it really was; None where it was not tried.
    """

    id: int | None = None
    station_id: int
    name: str
    begins_at: str
    hours: float = 24.0
    uses: tuple[OutageUse, ...] = ()
    feeds: tuple[OutageFeed, ...] = ()
    sun: str = SunFrom.NONE.value
    sun_run_id: int | None = None
    weather: str = "clear"
    array_ids: tuple[int, ...] = field(default_factory=tuple)
    more_panels: int = 0
    cap_w: float | None = None
    packs_wh: tuple[float, ...] = ()
    units: int = 1
    store_wh: float | None = None
    overhead_w: float | None = None
    conversion: float | None = None
    run_id: int | None = None
    note: str = ""
    removed: bool = False
