"""Forecast of a discharge's end: from the energy left, at the present load."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR

SOC_STEP_HALF = 0.5
"""A display that steps by one point is right to half a point."""


@dataclass(frozen=True, kw_only=True)
class Forecast:
    """Remaining time in s: best guess and the band it should be in, and what it rests on."""

    remaining_s: float
    earliest_s: float
    latest_s: float
    basis: str


def forecast_end(
    *,
    expected_wh: float,
    half_width_wh: float,
    delivered_wh: float,
    mean_w: float,
    basis: str,
    display_soc: tuple[float, float, float] | None = None,
) -> Forecast | None:
    """Remaining time of a discharge; None while there is no load to judge by.

    Args:
        expected_wh, half_width_wh: as from ``planning.expected.expected_delivery_wh``.
        delivered_wh: so far.
        mean_w: present load, mean of the last minutes.
        display_soc: (first SOC %, latest SOC %, Wh delivered between) from typed readings; it
            takes over when it is the surer of the two.
    """
    if mean_w <= 0:
        return None
    left, half = expected_wh - delivered_wh, half_width_wh
    if display_soc is not None:
        by_display = _left_by_display(*display_soc)
        if by_display is not None and by_display[1] < half:
            (left, half), basis = by_display, "the display's SOC over this run"
    hours_per_wh = SECONDS_PER_HOUR / mean_w
    return Forecast(
        remaining_s=max(left, 0.0) * hours_per_wh,
        earliest_s=max(left - half, 0.0) * hours_per_wh,
        latest_s=max(left + half, 0.0) * hours_per_wh,
        basis=basis,
    )


def _left_by_display(
    first_soc: float, latest_soc: float, between_wh: float
) -> tuple[float, float] | None:
    """Wh left and half-width from the energy a fall of the display's SOC has cost so far."""
    fallen = first_soc - latest_soc
    if fallen <= 2 * SOC_STEP_HALF or between_wh <= 0:
        return None
    per_point = between_wh / fallen
    relative = np.hypot(2 * SOC_STEP_HALF / fallen, SOC_STEP_HALF / max(latest_soc, 1.0))
    left = per_point * latest_soc
    return left, float(left * relative)
