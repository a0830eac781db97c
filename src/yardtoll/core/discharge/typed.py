"""A discharge whose meter was read by eye."""

from collections.abc import Sequence
from dataclasses import replace

from yardtoll.core.discharge.analysis import DischargeResult, Rating, discharge_from_energies
from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.electrical.typed_readings import (
    STAMP_S,
    TypedReading,
    end_limit_s,
    first_last_before,
    reading_limits,
)


def typed_discharge(
    readings: Sequence[TypedReading],
    rating: Rating,
    *,
    off_s: float | None = None,
    own_draw_w: Sequence[float] = (),
) -> DischargeResult:
    """A discharge from typed counter readings.

    Args:
        off_s: when the station was seen to shut off; without it the last reading is the end, and
            the stretch before it the doubt about when.

    Raises:
        UnusableDataError: fewer than two readings, or a counter that falls.
    """
    first, last, before_last = first_last_before(readings)
    end_s = off_s if off_s is not None and off_s > first.s else last.s
    result = discharge_from_energies(
        [last.energy_wh - first.energy_wh],
        rating,
        duration_s=end_s - first.s,
        own_draw_w=own_draw_w,
    )
    notices = result.notices
    if off_s is None:
        message = (
            "the moment of switching off was not noted: the end is somewhere in the last "
            f"{(last.s - before_last.s) / 60:.0f} min before the last reading"
        )
        notices = (*notices, Notice(code=Code.NO_CUTOFF, message=message))
    return replace(
        result,
        start_s=first.s,
        cutoff_s=end_s,
        notices=notices,
        edges_s=(STAMP_S, end_limit_s(before_last, last, off_s)),
        limits=(reading_limits(readings),),
    )
