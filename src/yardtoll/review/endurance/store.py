"""What an outage begins with: store and losses, as the station's runs show them or as typed."""

from dataclasses import dataclass, field

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.review.station.fitted import fitted_covariance
from yardtoll.review.station.outlet_runs import OutletRuns
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import StoredOutage

_TERMS = 4
_USUAL_CHARGE = 0.9
"""Share of an input that comes into the store where no whole charge shows it (common practice, no
source)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class StoreFigures:
    """Store and losses at the battery, and how sure they are.

    Attributes:
        covariance: (4, 4) of store (Wh), overhead (W), conversion, ohmic (1/W); zeros where
            nothing is known of them.
        basis: where they come from, in a clause.
        has_u: whether their uncertainty is known.
    """

    store_wh: float
    overhead_w: float
    conversion: float = 0.0
    ohmic_per_w: float = 0.0
    covariance: FloatArray = field(default_factory=lambda: np.zeros((_TERMS, _TERMS)))
    basis: str
    has_u: bool

    @property
    def store_expanded(self) -> float:
        """U of the store, k = 2."""
        return 2 * float(np.sqrt(self.covariance[0, 0]))

    @property
    def overhead_expanded(self) -> float:
        """U of the overhead, k = 2."""
        return 2 * float(np.sqrt(self.covariance[1, 1]))


@dataclass(frozen=True, kw_only=True)
class ChargeShare:
    """Share of an input that comes into the store, and where it was seen."""

    share: float
    basis: str


def store_figures(outage: StoredOutage, runs: StationRuns) -> StoreFigures | str:
    """As typed where both are, else as measured; or why there are none, in a clause."""
    if outage.store_wh is not None and outage.overhead_w is not None:
        return StoreFigures(
            store_wh=outage.store_wh,
            overhead_w=outage.overhead_w,
            conversion=outage.conversion or 0.0,
            basis="as typed, not measured",
            has_u=False,
        )
    return measured_store(runs.ac)


def measured_store(runs: OutletRuns) -> StoreFigures | str:
    """As fitted from runs through the AC outlet; or why they do not tell, in a clause."""
    split = runs.split
    if split is None or split.e0_wh.value is None or runs.inputs is None:
        if runs.points:
            return "all discharges were at one load: overhead and store cannot be told apart"
        return "no whole discharge through the AC outlet yet"
    covariance = fitted_covariance(runs)
    if covariance is not None:
        # One outage is one run: its store differs from the mean as runs do from each other.
        again = runs.inputs.runs[0].repeatability * split.e0_wh.value
        covariance[0, 0] += again**2
    numbers = [a.run.number for a in runs.inputs.runs]
    words = ", ".join(str(n) for n in numbers)
    idle = " and the idle test" if runs.inputs.idle is not None else ""
    return StoreFigures(
        store_wh=float(split.e0_wh.value),
        overhead_w=float(split.p0_w.value or 0.0),
        conversion=float(split.p1.value or 0.0),
        ohmic_per_w=float(split.p2_per_w.value or 0.0),
        covariance=covariance if covariance is not None else np.zeros((_TERMS, _TERMS)),
        basis=f"from runs {words}{idle}",
        has_u=covariance is not None,
    )


def charge_share(runs: StationRuns, store_wh: float, *, by_sun: bool) -> ChargeShare:
    """Of the latest whole charge by sun, or by the wall; a usual figure where there is none."""
    for analysis in reversed(runs.analyses):
        took = analysis.energy_in
        if took is None or not analysis.is_finished or took.by_sun is not by_sun:
            continue
        low, high = took.result.soc
        if low <= 1 and high >= 99 and took.drawn_wh > store_wh:
            share = float(store_wh / took.drawn_wh)
            return ChargeShare(share=share, basis=f"as in run {analysis.run.number}")
    return ChargeShare(
        share=_USUAL_CHARGE, basis="common practice: no whole charge of that kind was measured"
    )
