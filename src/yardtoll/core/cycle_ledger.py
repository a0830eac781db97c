"""Where every watt-hour of a cycle went: wall in → stored → overhead → conversion → delivered.

Without a recharge it starts from the rating, without a loss split nothing inside the station is
told apart. It always adds up: what is not explained is shown as unaccounted.
"""

from dataclasses import dataclass

from yardtoll.core.discharge import DischargeResult
from yardtoll.core.energy import SECONDS_PER_HOUR
from yardtoll.core.ledger import Answers, Kind, Ledger, Toll, discharge_ledger
from yardtoll.core.losses import LossSplit


@dataclass(frozen=True, kw_only=True)
class Cycle:
    """A discharge with what belongs to it.

    Attributes:
        drawn_wh: what went in over the same window; None where no recharge was measured.
        source: where that came from, in words such as "the wall" or "wall and sun".
        source_kind: its colour.
        converter: what stands between store and outlet.
        split: fitted from this station's runs; None, or one that tells nothing, where there is
            none.
        mean_sq_w2: mean of P² over the discharge; None for the square of its mean.
    """

    discharge: DischargeResult
    drawn_wh: float | None = None
    source: str = "the wall"
    source_kind: Kind = Kind.WALL
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
        tolls = [_untold(start - delivered, cycle.source)]
    else:
        store = (split.e0_wh.value or 0.0) * rating.window
        tolls = [_charger(cycle, start, store) if recharged else _reserve(cycle, start, store)]
        tolls += _inside(cycle, split, store)
    return Ledger(
        rated_wh=rating.rated_wh,
        start_wh=start,
        start_title=f"From {cycle.source}" if recharged else "Rated",
        start_kind=cycle.source_kind if recharged else Kind.STORED,
        tolls=tuple(tolls),
        delivered_wh=delivered,
        own_draw_wh=cycle.discharge.own_draw_wh,
        start_answers=Answers(drawn=1.0) if recharged else Answers(),
    )


def _untold(lost_wh: float, source: str) -> Toll:
    return Toll(
        title="Lost on the way" if lost_wh >= 0 else "More out than in",
        kind=Kind.UNACCOUNTED,
        energy_wh=lost_wh,
        evidence=f"{lost_wh:.0f} Wh between {source} and the load: charger, store, overhead and "
        "conversion together. Discharges at two or more loads tell them apart.",
        answers=Answers(drawn=1.0, delivered=-1.0),
    )


def _charger(cycle: Cycle, drawn_wh: float, store_wh: float) -> Toll:
    words = (
        f"{drawn_wh:.0f} Wh came from {cycle.source}, and {store_wh:.0f} Wh is the usable store "
        "fitted from the discharges: "
    )
    words += (
        "the rest is the charger's, and what the cells keep."
        if drawn_wh >= store_wh
        else "less went in than came out, so look for an input that was not measured."
    )
    return Toll(
        title="Charger",
        kind=cycle.source_kind,
        energy_wh=drawn_wh - store_wh,
        evidence=words,
        leaves="Stored",
        answers=Answers(drawn=1.0, e0_wh=-cycle.discharge.rating.window),
    )


def _reserve(cycle: Cycle, start_wh: float, store_wh: float) -> Toll:
    rating = cycle.discharge.rating
    missing = start_wh - store_wh
    words = (
        f"The usable store fitted from the discharges is {store_wh:.0f} Wh of "
        f"{rating.rated_wh:g} Wh rated: "
    )
    words += (
        "the rest is a reserve below cut-off, or was never there."
        if missing >= 0
        else "more than rated, so look for a bad run."
    )
    return Toll(
        title="Reserve",
        kind=Kind.FLOOR,
        energy_wh=missing,
        evidence=f"{words} Without an idle test the store is as seen at the outlet.",
        leaves="Usable store",
        answers=Answers(e0_wh=-rating.window),
    )


def _conversion_words(p1: float, p2: float) -> str:
    if not p1 and not p2:
        return (
            "Not told apart from the store: that needs discharges at three loads, or a sharp "
            "idle test."
        )
    said = f"{100 * p1:.1f} % of what is delivered, and {p2:.2g} W for each W squared."
    if not p1:
        said += " Without a sharp idle test the proportional part hides in the store."
    return said


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
    paid_over = Answers(p0_w=hours)
    # P² moves with twice the share that the delivered energy moves by.
    ohmic = 2 * p2 * mean_sq * hours / result.delivered_wh if result.delivered_wh else 0.0
    paid_in_it = Answers(delivered=p1 + ohmic, p1=result.delivered_wh, p2_per_w=mean_sq * hours)
    whole = Answers(e0_wh=result.rating.window)
    return [
        Toll(
            title="Overhead",
            kind=Kind.OVERHEAD,
            energy_wh=overhead,
            evidence=f"{p0:.1f} W, drawn for {hours:.2f} h while the outlet is on, whatever the "
            "load: a slow run pays it longer.",
            leaves=f"Into the {cycle.converter}",
            answers=paid_over,
        ),
        Toll(
            title="Conversion",
            kind=Kind.CONVERSION,
            energy_wh=conversion,
            evidence=_conversion_words(p1, p2),
            leaves="Out of it",
            answers=paid_in_it,
        ),
        Toll(
            title="Unaccounted",
            kind=Kind.UNACCOUNTED,
            energy_wh=left,
            evidence=f"{round(left, 1) + 0.0:.1f} Wh that the fit over all runs does not explain "
            "for this one.",
            answers=whole - paid_over - paid_in_it - Answers(delivered=1.0),
        ),
    ]
