"""Outages as they are begun and changed; nothing is kept here."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from yardtoll.core.endurance.common_kinds import COMMON_KINDS
from yardtoll.review.endurance.library import of_kind
from yardtoll.store.records import OutageFeed, OutageUse, Station, StoredOutage, SunFrom

USUAL_HOURS = 24.0
_EVENING_H = 18
_USUAL = ("Fridge", "Router", "LED lamp")


def usual_outage(station: Station, now: datetime) -> StoredOutage:
    """A night and a day without the wall, from this evening on."""
    assert station.id is not None
    begins = now.replace(hour=_EVENING_H, minute=0, second=0, microsecond=0)
    if begins < now:
        begins += timedelta(days=1)
    uses = (of_kind(kind).use for kind in COMMON_KINDS if kind.name in _USUAL)
    return StoredOutage(
        station_id=station.id,
        name="A night and a day",
        begins_at=stored_time(begins),
        hours=USUAL_HOURS,
        uses=tuple(uses),
    )


def stored_time(at: datetime) -> str:
    """As the yard keeps it."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds")


def with_use(outage: StoredOutage, use: OutageUse) -> StoredOutage:
    """One more appliance; of a name that is there with a number behind it."""
    names = {other.name for other in outage.uses}
    name, number = use.name, 2
    while name in names:
        name, number = f"{use.name} {number}", number + 1
    return replace(outage, uses=(*outage.uses, replace(use, name=name)))


def with_changed_use(outage: StoredOutage, name: str, use: OutageUse) -> StoredOutage:
    """An appliance changed, at its place."""
    return replace(outage, uses=tuple(use if u.name == name else u for u in outage.uses))


def without_use(outage: StoredOutage, name: str) -> StoredOutage:
    """Without an appliance."""
    return replace(outage, uses=tuple(use for use in outage.uses if use.name != name))


def with_feed(outage: StoredOutage, name: str, feed: OutageFeed | None) -> StoredOutage:
    """A feed changed, added where it is not there, or taken out where None."""
    if feed is not None and all(other.name != name for other in outage.feeds):
        return replace(outage, feeds=(*outage.feeds, feed))
    kept = ((feed if other.name == name else other) for other in outage.feeds)
    return replace(outage, feeds=tuple(f for f in kept if f is not None))


def moved(outage: StoredOutage, hours: float) -> StoredOutage:
    """Beginning so much later, to the quarter of an hour."""
    at = datetime.fromisoformat(outage.begins_at) + timedelta(hours=hours)
    quarter = timedelta(minutes=15)
    midnight = at.replace(hour=0, minute=0, second=0, microsecond=0)
    snapped = midnight + round((at - midnight) / quarter) * quarter
    return replace(outage, begins_at=stored_time(snapped))


def with_packs(outage: StoredOutage, count: int, pack_wh: float) -> StoredOutage:
    """So many packs, further ones of a size."""
    kept = outage.packs_wh[:count]
    return replace(outage, packs_wh=(*kept, *([pack_wh] * (count - len(kept)))))


def sun_choices(solar_runs: Sequence[tuple[int, str]]) -> list[tuple[str, object]]:
    """Where the sun comes from: (words, key); the key of a measured day is its run's id."""
    return [
        ("no sun", SunFrom.NONE.value),
        ("a clear sky here", SunFrom.SKY.value),
        *((f"the day of {words}", str(id_)) for id_, words in solar_runs),
    ]


def sun_key(outage: StoredOutage) -> str:
    """The key of an outage's choice."""
    return str(outage.sun_run_id) if outage.sun == SunFrom.RUN else outage.sun


def with_sun(outage: StoredOutage, key: str) -> StoredOutage:
    """With the sun of a choice."""
    if key.isdigit():
        return replace(outage, sun=SunFrom.RUN.value, sun_run_id=int(key))
    return replace(outage, sun=key, sun_run_id=None)
