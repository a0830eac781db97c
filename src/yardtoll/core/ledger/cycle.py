"""Where every watt-hour of a cycle went: wall in → stored → overhead → conversion → delivered.

Without a recharge it starts from the rating, without a loss split the losses inside the station
are not separated. It always adds up: what is not explained is shown as unaccounted.
"""

from dataclasses import dataclass

from yardtoll.core.discharge.analysis import DischargeResult
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.ledger.ledger import Ledger, Sensitivities, Toll, discharge_ledger
from yardtoll.core.ledger.losses import LossSplit


@dataclass(frozen=True, kw_only=True)
class Cycle:
    """A discharge with what belongs to it.

    Attributes:
        drawn_wh: what went in over the same window; None where no recharge was measured.
        source: where that came from, in words such as "the wall" or "wall and sun".
        source_kind: its colour.
        converter: the converter between store and outlet.
        split: fitted from this station's runs; None, or one that says nothing, where there is
            none.
        mean_sq_w2: mean of P² over the discharge; None for the square of its mean.
    """

    discharge: DischargeResult
    drawn_wh: float | None = None
    source: str = "the wall"
    source_kind: EnergyKind = EnergyKind.WALL
    converter: str = "inverter"
    split: LossSplit | None = None
    mean_sq_w2: float | None = None


def cycle_ledger(cycle: Cycle) -> Ledger:
    """The fullest ledger that the measurements allow."""
    split = cycle.split if cycle.split and cycle.split.e0_wh.value is not None else None
    if split is None and cycle.drawn_wh is None:
        return discharge_ledger(cycle.discharge)
    rating, delivered = cycle.discharge.rating, cycle.discharge.delivered_wh
    recharged = cycle.drawn_wh is not None
    start = cycle.drawn_wh if cycle.drawn_wh is not None else rating.rated_wh * rating.window
    if split is None:
        tolls = [_unseparated(start - delivered, cycle.source)]
    else:
        store = (split.e0_wh.value or 0.0) * rating.window
        held = split.conversion_held
        first = _charger if recharged else _reserve
        tolls = [first(cycle, start, store, conversion_held=held)]
        tolls += _inside(cycle, split, store)
    return Ledger(
        rated_wh=rating.rated_wh,
        start_wh=start,
        start_title=f"From {cycle.source}" if recharged else "Rated",
        start_kind=cycle.source_kind if recharged else EnergyKind.STORED,
        tolls=tuple(tolls),
        delivered_wh=delivered,
        own_draw_wh=cycle.discharge.own_draw_wh,
        start_sensitivities=Sensitivities(drawn=1.0) if recharged else Sensitivities(),
    )


def _unseparated(lost_wh: float, source: str) -> Toll:
    return Toll(
        title="Lost on the way" if lost_wh >= 0 else "More out than in",
        kind=EnergyKind.UNACCOUNTED,
        energy_wh=lost_wh,
        evidence=f"{lost_wh:.0f} Wh between {source} and the load: charger, store, overhead and "
        "conversion together. Discharges at two or more loads separate them.",
        sensitivities=Sensitivities(drawn=1.0, delivered=-1.0),
    )


NOT_DIVIDED = (
    "The proportional part of conversion cannot be separated from it. A longer idle test, or more "
    "runs at loads further apart, would do that."
)


def _charger(cycle: Cycle, drawn_wh: float, store_wh: float, *, conversion_held: bool) -> Toll:
    seen = ", as seen at the outlet" if conversion_held else ""
    words = (
        f"{drawn_wh:.0f} Wh came from {cycle.source}, and {store_wh:.0f} Wh is the usable store "
        f"fitted from the discharges{seen}: "
    )
    if drawn_wh < store_wh:
        words += "less went in than came out, so look for an input that was not measured."
    elif conversion_held:
        words += "the rest is the charger's, the cells' and the proportional part of conversion. "
        words += NOT_DIVIDED
    else:
        words += "the rest is the charger's, and what the cells keep."
    return Toll(
        title="Charger and conversion" if conversion_held else "Charger",
        kind=cycle.source_kind,
        energy_wh=drawn_wh - store_wh,
        evidence=words,
        leaves="Store at the outlet" if conversion_held else "Stored",
        sensitivities=Sensitivities(drawn=1.0, e0_wh=-cycle.discharge.rating.window),
    )


def _reserve(cycle: Cycle, start_wh: float, store_wh: float, *, conversion_held: bool) -> Toll:
    rating = cycle.discharge.rating
    missing = start_wh - store_wh
    seen = ", as seen at the outlet," if conversion_held else ""
    words = (
        f"The usable store fitted from the discharges{seen} is {store_wh:.0f} Wh of "
        f"{rating.rated_wh:g} Wh rated: "
    )
    if missing < 0:
        words += "more than rated, so look for a bad run."
    elif conversion_held:
        words += "the rest is a reserve below cut-off, the proportional part of conversion, or was "
        words += f"never there. {NOT_DIVIDED}"
    else:
        words += "the rest is a reserve below cut-off, or was never there."
    return Toll(
        title="Reserve and conversion" if conversion_held else "Reserve",
        kind=EnergyKind.FLOOR,
        energy_wh=missing,
        evidence=words,
        leaves="Store at the outlet" if conversion_held else "Usable store",
        sensitivities=Sensitivities(e0_wh=-rating.window),
    )


def _conversion_words(p1: float, p2: float, *, held: bool) -> str:
    if held:
        return f"The part that grows with the square of the load: {p2:.2g} W for each W squared."
    if not p1 and not p2:
        return "The runs do not say anything about it."
    return f"{100 * p1:.1f} % of what is delivered, and {p2:.2g} W for each W squared."


def _inside(cycle: Cycle, split: LossSplit, store_wh: float) -> list[Toll]:
    """Overhead, conversion, and what the fit leaves over."""
    result = cycle.discharge
    hours = (result.duration_s or 0.0) / SECONDS_PER_HOUR
    mean = result.mean_w or 0.0
    mean_sq = cycle.mean_sq_w2 if cycle.mean_sq_w2 is not None else mean**2
    p0, p1, p2 = (t.value or 0.0 for t in (split.p0_w, split.p1, split.p2_per_w))
    overhead = p0 * hours
    conversion = p1 * result.delivered_wh + p2 * mean_sq * hours
    left = store_wh - overhead - conversion - result.delivered_wh
    paid_over = Sensitivities(p0_w=hours)
    # P² moves with twice the share that the delivered energy moves by.
    ohmic = 2 * p2 * mean_sq * hours / result.delivered_wh if result.delivered_wh else 0.0
    paid_in_it = Sensitivities(
        delivered=p1 + ohmic, p1=result.delivered_wh, p2_per_w=mean_sq * hours
    )
    whole = Sensitivities(e0_wh=result.rating.window)
    held = split.conversion_held
    seen = " as seen at the outlet" if held else ""
    gate = Toll(
        title="Conversion, ohmic part" if held else "Conversion",
        kind=EnergyKind.CONVERSION,
        energy_wh=conversion,
        evidence=_conversion_words(p1, p2, held=held),
        leaves="Out of the inverter",
        sensitivities=paid_in_it,
    )
    # Two loads tell nothing of the ohmic part: a gate without a toll would say that it is nothing.
    gates = [] if held and split.ohmic_held and not conversion else [gate]
    return [
        Toll(
            title="Overhead",
            kind=EnergyKind.OVERHEAD,
            energy_wh=overhead,
            evidence=f"{p0:.1f} W{seen}, drawn for {hours:.2f} h while the outlet is on, whatever "
            "the load: a slow run pays it longer.",
            leaves=f"Into the {cycle.converter}",
            sensitivities=paid_over,
        ),
        *gates,
        Toll(
            title="Unaccounted",
            kind=EnergyKind.UNACCOUNTED,
            energy_wh=left,
            evidence=f"{round(left, 1) + 0.0:.1f} Wh that the fit over all runs does not explain "
            "for this one.",
            sensitivities=whole - paid_over - paid_in_it - Sensitivities(delivered=1.0),
        ),
    ]
