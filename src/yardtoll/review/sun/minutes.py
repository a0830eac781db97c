"""Local days as times: the core knows no calendar."""

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import pandas as pd


def minutes_of(day: date, zone: ZoneInfo) -> pd.DatetimeIndex:
    """Every minute of a local day, 23 or 25 hours of them where the clock is changed."""
    start = datetime(day.year, day.month, day.day, tzinfo=zone)
    following = day + timedelta(days=1)
    end = datetime(following.year, following.month, following.day, tzinfo=zone)
    return pd.date_range(start, end, freq="1min", inclusive="left")
