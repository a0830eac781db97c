"""How the figures of a discharge were worked out, with its own numbers put in."""

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.formatting import format_clock
from yardtoll.core.uncertainty.budget import Worked

_DEFINED = "definition"


def delivered(result: DischargeResult) -> Worked:
    """The sum of the meters, each by its counter or by its watts."""
    by_counter = bool(result.limits) and all(limits.of_counter for limits in result.limits)
    parts = [f"{energy:.1f}" for _, energy in result.logs]
    if result.own_draw_wh:
        parts.append(f"{result.own_draw_wh:.1f} (the meter's own)")
    put_in = f"{' + '.join(parts)} Wh = {result.delivered_wh:.1f} Wh"
    if len(parts) == 1:
        put_in = f"{result.delivered_wh:.1f} Wh"
        if result.start_s is not None and result.cutoff_s is not None:
            begun, ended = format_clock(result.start_s), format_clock(result.cutoff_s)
            put_in = f"from {begun} to {ended} of the log: {put_in}"
    if result.start_s is None:
        return Worked(
            formula="E = what the meters showed, added", put_in=put_in, source="read off the meters"
        )
    if by_counter:
        return Worked(
            formula="E = counter at cut-off − counter at load-on",
            put_in=put_in,
            source="the meter's own counter",
        )
    return Worked(
        formula="E = Σ ½ (Pᵢ + Pᵢ₊₁) · (tᵢ₊₁ − tᵢ)", put_in=put_in, source="trapezoidal rule"
    )


def of_rated(result: DischargeResult) -> Worked:
    """Delivered ÷ rated."""
    return Worked(
        formula="E ÷ rated energy",
        put_in=f"{result.delivered_wh:.1f} Wh ÷ {result.rating.rated_wh:g} Wh = "
        f"{100 * result.usable_ratio:.2f} %",
        source=f"{_DEFINED}; it is not an efficiency",
    )


def of_window(result: DischargeResult) -> Worked:
    """Delivered ÷ the part of the rating between the two states of charge."""
    rating = result.rating
    share = 100 * result.usable_ratio_window
    return Worked(
        formula="E ÷ (rated energy × (SOC at the start − SOC at the end))",
        put_in=f"{result.delivered_wh:.1f} Wh ÷ ({rating.rated_wh:g} Wh × "
        f"({rating.soc_from:g} % − {rating.soc_to:g} %)) = {share:.2f} %",
        source=_DEFINED,
    )


def duration(result: DischargeResult) -> Worked | None:
    """From load-on to cut-off."""
    if result.start_s is None or result.cutoff_s is None or result.duration_s is None:
        return None
    return Worked(
        formula="cut-off − load-on",
        put_in=f"{format_clock(result.cutoff_s)} − {format_clock(result.start_s)} = "
        f"{format_clock(result.duration_s)}",
        source="load-on and cut-off: the first and last moment above the larger of 2 W and 5 % of "
        "the load (common practice, no source)",
    )


def mean_power(result: DischargeResult) -> Worked | None:
    """Delivered ÷ duration."""
    if result.duration_s is None or result.mean_w is None:
        return None
    hours = result.duration_s / SECONDS_PER_HOUR
    return Worked(
        formula="E ÷ t; its C-rate is that ÷ rated energy",
        put_in=f"{result.delivered_wh:.1f} Wh ÷ {hours:.4f} h = {result.mean_w:.1f} W",
        source=_DEFINED,
    )


def sag(result: DischargeResult) -> Worked | None:
    """How far the volts fall."""
    if result.sag_ratio is None or result.volts_mean is None or result.sag_ratio >= 1:
        return None
    unloaded = result.volts_mean / (1 - result.sag_ratio)
    return Worked(
        formula="(volts without load − mean volts under load) ÷ volts without load",
        put_in=f"({unloaded:.2f} V − {result.volts_mean:.2f} V) ÷ {unloaded:.2f} V = "
        f"{100 * result.sag_ratio:.3f} %",
        source=f"{_DEFINED}; without load: the median of the minute before load-on",
    )
