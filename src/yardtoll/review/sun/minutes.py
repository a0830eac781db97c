"""Local days as times: the core knows no calendar."""

from datetime import UTC, date, datetime, timedelta, tzinfo


def minutes_of(day: date, zone: tzinfo | None) -> list[datetime]:
    """Every minute of a local day, 23 or 25 hours of them where the clock is changed.

    Args:
        zone: None for this computer's.
    """
    following = day + timedelta(days=1)
    start, end = (
        datetime(each.year, each.month, each.day, tzinfo=zone).astimezone(UTC)
        for each in (day, following)
    )
    count = round((end - start) / timedelta(minutes=1))
    return [(start + timedelta(minutes=i)).astimezone(zone) for i in range(count)]
