"""How the figures that stations are compared by were worked out, with their numbers put in."""

from yardtoll.core.uncertainty.budget import Worked

_DEFINITION = "definition"


def of_rated(delivered_wh: float, rated_wh: float, run: int) -> Worked:
    """Delivered ÷ rated."""
    return Worked(
        formula="delivered ÷ rated energy",
        put_in=f"run {run}: {delivered_wh:.0f} Wh ÷ {rated_wh:g} Wh = "
        f"{100 * delivered_wh / rated_wh:.1f} %",
        source=_DEFINITION,
    )


def delivered(delivered_wh: float, repeats: int) -> Worked:
    """One run's, or the mean of those that repeat it."""
    if repeats < 2:
        formula = "energy of the run at that load, from load-on to cut-off"
    else:
        formula = "mean of the runs at that load, each from load-on to cut-off"
    return Worked(
        formula=formula,
        put_in=f"{max(repeats, 1)} run{'s' * (repeats > 1)}: {delivered_wh:.0f} Wh",
        source="its own working-out is at the run's ledger",
    )


def round_trip(delivered_wh: float, ratio: float, run: int) -> Worked:
    """Out of the outlet ÷ into the wall plug, of one cycle."""
    return Worked(
        formula="delivered ÷ drawn by the recharge that made it full again",
        put_in=f"run {run}: {delivered_wh:.0f} Wh ÷ {delivered_wh / ratio:.0f} Wh = "
        f"{100 * ratio:.1f} %",
        source=_DEFINITION,
    )


def per_wh(price: float, currency: str, wh: float, which: str) -> Worked:
    """Money for each Wh, of those that are rated or usable."""
    return Worked(
        formula=f"price ÷ {which} energy",
        put_in=f"{price:g} {currency} ÷ {wh:.0f} Wh = {price / wh:.3f} {currency}/Wh",
        source="definition; the price is taken as exact",
    )


def three_way(
    price: float, currency: str, rated: tuple[float, float, float], value: float
) -> Worked:
    """Money against energy, power and solar input at once.

    Args:
        rated: Wh, W and claimed solar W.
    """
    wh, watts, solar_w = rated
    return Worked(
        formula="mean of price ÷ rated Wh, price ÷ rated W and price ÷ claimed W of sun",
        put_in=f"{price:g} {currency} ÷ {wh:g}, ÷ {watts:g} and ÷ {solar_w:g}: {value:.3f}",
        source="common practice, no source; by what is rated and claimed, not what was measured",
    )


def weight_per_kwh(weight_kg: float, rated_wh: float) -> Worked:
    """Carried for each rated kWh."""
    return Worked(
        formula="weight ÷ rated energy",
        put_in=f"{weight_kg:.2f} kg ÷ {rated_wh / 1000:g} kWh = "
        f"{1000 * weight_kg / rated_wh:.2f} kg/kWh",
        source=_DEFINITION,
    )


def minutes_to_80(seconds: float, run: int) -> Worked:
    """From the start of the charge to the display's 80 %."""
    return Worked(
        formula="time from charge start until the display shows 80 %, the charge begun at 0 or 1 %",
        put_in=f"run {run}: {seconds:.0f} s = {seconds / 60:.1f} min",
        source=_DEFINITION,
    )


def by_points(got: float, possible: float) -> Worked:
    """Of the scorecard."""
    return Worked(
        formula="points got, summed",
        put_in=f"{got:g} of {possible:g}, each with its evidence on the sheet",
        source="the yard's scorecard",
    )
