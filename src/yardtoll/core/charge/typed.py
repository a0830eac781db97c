"""A recharge whose meter was read by eye."""

from collections.abc import Sequence
from dataclasses import replace

from yardtoll.core.charge.analysis import ChargeWindow, RechargeResult, recharge_from_energy
from yardtoll.core.charge.soc_times import SocReading
from yardtoll.core.electrical.typed_readings import (
    STAMP_S,
    TypedReading,
    end_limit_s,
    first_last_before,
    reading_limits,
)


def typed_recharge(
    readings: Sequence[TypedReading],
    window: ChargeWindow,
    shown: Sequence[SocReading] = (),
    *,
    off_s: float | None = None,
) -> RechargeResult:
    """A recharge from typed counter readings; its phases are not known.

    Raises:
        UnusableDataError: fewer than two readings, or a counter that falls.
    """
    first, last, before_last = first_last_before(readings)
    end_s = off_s if off_s is not None and off_s > first.s else last.s
    result = recharge_from_energy(
        last.energy_wh - first.energy_wh, window, duration_s=end_s - first.s, readings=shown
    )
    return replace(
        result,
        start_s=first.s,
        edges_s=(STAMP_S, end_limit_s(before_last, last, off_s)),
        limits=reading_limits(readings),
    )
