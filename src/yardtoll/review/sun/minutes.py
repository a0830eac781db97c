"""Local days as seconds: the core knows no calendar."""

from datetime import date, datetime, timedelta, tzinfo

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


def minutes_of(day: date, zone: tzinfo | None) -> FloatArray:
    """Every minute of a local day, s since 1970: 23 or 25 hours of them when the clock is changed.

    Args:
        zone: None for this computer's.
    """
    following = day + timedelta(days=1)
    start, end = (
        datetime(each.year, each.month, each.day, tzinfo=zone).timestamp()
        for each in (day, following)
    )
    return np.arange(start, end, 60.0)
