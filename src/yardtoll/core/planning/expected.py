"""What to expect of a test before it starts: hours with a band, watt-hours, recharge, money.

Without earlier runs it uses typical tolls (common practice, no source); a station's own whole
discharges replace them, also at another load: overhead makes a slow run deliver less.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR

# Typical tolls (common practice, no source).
TYPICAL_STORE_SHARE = 0.97
TYPICAL_OVERHEAD_PER_H = 0.010
"""p0 ÷ rated Wh; 1–2 % of capacity an hour with the inverter on is usual, less while it is new."""
TYPICAL_PROPORTIONAL = 0.055
TYPICAL_SPREAD = 0.06
EARLIER_SPREAD = 0.02
TYPICAL_CHARGE_EFFICIENCY = 0.88
TAPER_FROM = 0.8
TAPER_MEAN_SHARE = 0.5
"""From about 80 % on the charging power falls; on the mean to half."""
TRICKLE_C, FAST_C = 0.1, 0.3
"""Up to TRICKLE_C nearly full cells take all that comes; from FAST_C on they hold it back."""
CHARGE_SPREAD = 0.12
TYPICAL_CHARGE_C = 0.5
IDLE_SHARE_PER_H = (0.005, 0.02)
FULL_HOURS_OF_SUN = 0.75
"""Panels give about three quarters of their nameplate in good sun."""
_CURVE_POINTS = 60


@dataclass(frozen=True, kw_only=True)
class EarlierRun:
    """A whole discharge of this station.

    Attributes:
        window: share of the charge it covered, 0–1.
    """

    delivered_wh: float
    duration_s: float
    window: float = 1.0


@dataclass(frozen=True, kw_only=True)
class ExpectedRun:
    """The expected run.

    Attributes:
        duration_s, earliest_s, latest_s: best guess and the band it should be in.
        energy_wh, half_width_wh: delivered, or drawn while charging.
        curve: (s, W) from load-on to the best guess of the end.
        basis: what it rests on.
    """

    duration_s: float
    earliest_s: float
    latest_s: float
    energy_wh: float
    half_width_wh: float
    power_w: float
    c_rate: float
    curve: tuple[tuple[float, float], ...]
    basis: str


def expected_delivery_wh(
    rated_wh: float, window: float, load_w: float, earlier: Sequence[EarlierRun]
) -> tuple[float, float, str]:
    """Wh a discharge will deliver, half the width of its band, and what it rests on.

    Args:
        rated_wh: rated energy, > 0.
        window: share of it to be discharged, 0–1.
        load_w: mean W at the outlet, > 0.
        earlier: whole discharges of this station, at any load.
    """
    overhead_w = TYPICAL_OVERHEAD_PER_H * rated_wh
    if earlier:
        stores = [
            (
                run.delivered_wh * (1 + TYPICAL_PROPORTIONAL)
                + overhead_w * run.duration_s / SECONDS_PER_HOUR
            )
            / run.window
            for run in earlier
        ]
        store = sum(stores) / len(stores)
        spread = max((max(stores) - min(stores)) / 2 / store, EARLIER_SPREAD)
        basis = f"{len(earlier)} earlier run{'s' if len(earlier) > 1 else ''} of this station"
    else:
        store, spread = TYPICAL_STORE_SHARE * rated_wh, TYPICAL_SPREAD
        basis = "typical losses; this station has no whole discharge yet"
    hours = store * window / (load_w * (1 + TYPICAL_PROPORTIONAL) + overhead_w)
    delivered = load_w * hours
    return delivered, spread * delivered, basis


def expected_discharge(
    rated_wh: float,
    window: float,
    load_w: float,
    earlier: Sequence[EarlierRun] = (),
    *,
    hold_s: float | None = None,
    cold_share: float = 0.0,
    warm_up_s: float = 60.0,
) -> ExpectedRun:
    """A discharge, to the end or for a set time.

    Args:
        hold_s: ends after so long, unless the store is empty before.
        cold_share, warm_up_s: how much more the load draws at first, and its time constant.
    """
    delivered, half, basis = expected_delivery_wh(rated_wh, window, load_w, earlier)
    to_empty_s = delivered / load_w * SECONDS_PER_HOUR
    share = half / delivered
    bounds = (to_empty_s * (1 - share), to_empty_s * (1 + share))
    duration_s = to_empty_s
    if hold_s is not None and hold_s < to_empty_s:
        duration_s = hold_s
        bounds = (min(bounds[0], hold_s), hold_s)
        delivered = load_w * hold_s / SECONDS_PER_HOUR
        half *= duration_s / to_empty_s
        basis = f"held for {hold_s / 60:g} min"
    return ExpectedRun(
        duration_s=duration_s,
        earliest_s=bounds[0],
        latest_s=bounds[1],
        energy_wh=delivered,
        half_width_wh=half,
        power_w=load_w,
        c_rate=load_w / rated_wh,
        curve=tuple(
            (at, load_w * (1 + cold_share * math.exp(-at / warm_up_s)))
            for at in (duration_s * i / _CURVE_POINTS for i in range(_CURVE_POINTS + 1))
        ),
        basis=basis,
    )


def expected_recharge(
    rated_wh: float, window: float, source_w: float, *, tapers: bool = True
) -> ExpectedRun:
    """A recharge at so many W: full power, then the taper, the less of it the weaker the source.

    Args:
        window: share of the charge to be put in, 0–1, ending at full where it tapers.
        source_w: W drawn at full power, > 0.
    """
    drawn = rated_wh * window / TYPICAL_CHARGE_EFFICIENCY
    mean_share = _taper_mean_share(source_w / rated_wh) if tapers else 1.0
    tapered = min(1 - TAPER_FROM, window) / window if mean_share < 1 else 0.0
    full_s = drawn * (1 - tapered) / source_w * SECONDS_PER_HOUR
    taper_s = drawn * tapered / (source_w * mean_share) * SECONDS_PER_HOUR
    duration_s = full_s + taper_s
    floor_w = source_w * (2 * mean_share - 1)
    curve = [(0.0, source_w), (full_s, source_w)]
    if taper_s:
        curve.append((duration_s, max(floor_w, 0.0)))
    return ExpectedRun(
        duration_s=duration_s,
        earliest_s=duration_s * (1 - CHARGE_SPREAD),
        latest_s=duration_s * (1 + CHARGE_SPREAD),
        energy_wh=drawn,
        half_width_wh=CHARGE_SPREAD * drawn,
        power_w=source_w,
        c_rate=source_w / rated_wh,
        curve=tuple(curve),
        basis=f"{TYPICAL_CHARGE_EFFICIENCY:.0%} of what is drawn is stored, typically"
        + (f"; less power from {TAPER_FROM:.0%} on" if tapered else ""),
    )


def _taper_mean_share(source_c: float) -> float:
    """The mean power of the taper, as a share of full power, for a source of so many C."""
    held_back = min(max((source_c - TRICKLE_C) / (FAST_C - TRICKLE_C), 0.0), 1.0)
    return 1 - (1 - TAPER_MEAN_SHARE) * held_back


def expected_idle(rated_wh: float, hold_s: float) -> ExpectedRun:
    """An idle test: the energy used by the station itself, 0.5–2 % of the rated energy an hour."""
    low, high = (share * rated_wh for share in IDLE_SHARE_PER_H)
    mean = (low + high) / 2
    hours = hold_s / SECONDS_PER_HOUR
    return ExpectedRun(
        duration_s=hold_s,
        earliest_s=hold_s,
        latest_s=hold_s,
        energy_wh=mean * hours,
        half_width_wh=(high - low) / 2 * hours,
        power_w=mean,
        c_rate=mean / rated_wh,
        curve=((0.0, mean), (hold_s, mean)),
        basis="0.5–2 % of the rated energy an hour, typically",
    )


def constant_power_hours(energy_wh: float, power_w: float) -> float:
    """Energy ÷ power: the hours without losses and taper, as makers calculate them."""
    return energy_wh / power_w


def money_for(drawn_wh: float, price_per_kwh: float) -> float:
    """What so much from the wall costs."""
    return drawn_wh / 1000 * price_per_kwh
