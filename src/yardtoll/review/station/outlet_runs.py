"""The whole discharges through one kind of outlet and the loss split they give: AC and DC pay
tolls of their own.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from yardtoll.core.electrical.trace import Code, FloatArray
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.ledger.idle import BY_FIT, IdleResult, Store
from yardtoll.core.ledger.loss_fit import REPEATABILITY, IdleDraw, RunAtLoad
from yardtoll.core.ledger.losses import LossSplit, fit_losses
from yardtoll.core.ledger.sensitivities import loss_fit_sensitivities
from yardtoll.core.methods import Outlet
from yardtoll.report.charts.load_curve import LoadPoint
from yardtoll.review.outcome import EnergyOut
from yardtoll.review.run_analysis import RunAnalysis, in_time

WHOLE = 0.98
"""A discharge over this share of the charge is one to empty."""
WHOLE_CHARGE = 98.0
"""A recharge over so many points is one from empty to full."""
USUAL_C = 0.2
"""The load used where none is named, 0.2 C (common practice, no source)."""
SHARPEST_P1_U = 0.06
"""An idle test that leaves the proportional toll less certain than this is not used: store and
overhead are better given as seen at the outlet."""
UNSEPARATED_CONVERSION = 0.05
"""Where conversion is held at 0 the cells hold more than is seen at the outlet: by this share, give
or take as much (common practice, no source)."""
_ROOM_ABOVE = 1.5

REGULATED_SHARE = 0.05
"""A DC port within this share of its mean from full to empty is regulated (common practice)."""


@dataclass(frozen=True, kw_only=True, eq=False)
class FitInputs:
    """What a loss split was fitted from, and how it moves with each.

    Attributes:
        by_run: (4, runs) of E0, p0, p1, p2, each in its unit per Wh.
        by_idle: (4,) per W of idle draw; zeros where no idle test set the scale.
    """

    runs: tuple[RunAnalysis, ...]
    idle: IdleResult | None
    by_run: FloatArray
    by_idle: FloatArray


@dataclass(frozen=True, kw_only=True)
class OutletRuns:
    """What a station's runs say of one kind of outlet.

    Attributes:
        split: None where there is no whole discharge.
        points: the whole discharges that it rests on.
        idle: the latest idle test with that outlet on, in shares of the fitted store where there
            is one; None where there is no test.
        full_w: the highest load worth showing.
        inputs: what the split rests on; None where it says nothing.
    """

    outlet: Outlet
    split: LossSplit | None
    points: tuple[LoadPoint, ...]
    idle: IdleResult | None
    full_w: float
    inputs: FitInputs | None = None

    @property
    def idle_not_used(self) -> bool:
        """Whether there is an idle test that could not set the store's scale."""
        return self.split is not None and self.split.has(Code.IDLE_NOT_USED)

    @property
    def has_split(self) -> bool:
        """Whether the runs separate the tolls."""
        return self.split is not None and self.split.e0_wh.value is not None


def outlet_of(analysis: RunAnalysis) -> Outlet | None:
    """The outlet a discharge to empty went through; None for every other run."""
    out = analysis.energy_out
    return out.outlet if out is not None else None


def outlet_runs(analyses: Sequence[RunAnalysis], outlet: Outlet) -> OutletRuns:
    """Put the runs through one kind of outlet together; void ones and other windows are left out.

    The weighted efficiencies are the inverter's: a DC port has no rated W of the station's own.
    """
    whole = [a for a in analyses if outlet_of(a) is outlet and is_whole(a) and not a.doubts]
    idle = _latest_idle(analyses, outlet)
    rated_w = analyses[0].station.rated_w if analyses and outlet is Outlet.AC else None
    split = _split(whole, idle, rated_w) if whole else None
    points = tuple(_point(a) for a in whole)
    highest = max((point.mean_w for point in points), default=1.0)
    return OutletRuns(
        outlet=outlet,
        split=split,
        points=points,
        idle=idle_of_fitted_store(idle, split),
        full_w=rated_w or _ROOM_ABOVE * highest,
        inputs=_inputs(whole, split, idle),
    )


def idle_of_fitted_store(idle: IdleResult | None, split: LossSplit | None) -> IdleResult | None:
    """An idle test in shares of the fitted store; by the rating where none was fitted."""
    if idle is None or split is None or split.e0_wh.value is None or split.e0_wh.u is None:
        return idle
    store_wh, u_wh = split.e0_wh.value, split.e0_wh.u
    if not split.conversion_held:
        return idle.of_store(Store(energy_wh=store_wh, u_wh=u_wh, basis=BY_FIT))
    unseparated_wh = UNSEPARATED_CONVERSION * store_wh
    return idle.of_store(
        Store(
            energy_wh=store_wh + unseparated_wh,
            u_wh=math.hypot(u_wh, unseparated_wh / math.sqrt(3)),
            basis=f"{BY_FIT} and {100 * UNSEPARATED_CONVERSION:g} % for conversion",
        )
    )


def is_whole(analysis: RunAnalysis) -> bool:
    """Whether a run is a finished discharge from full to empty, seen from start to end."""
    out = analysis.energy_out
    return bool(
        analysis.is_valid_discharge
        and out is not None
        and out.outlet is not None
        and out.result.duration_s
        and out.result.rating.window >= WHOLE
        and out.is_whole
    )


def off_the_usual_load(analysis: RunAnalysis) -> float:
    """How far a discharge's load is from 0.2 C, as a ratio's logarithm: 0 at 0.2 C."""
    out = analysis.energy_out
    if out is None or not out.mean_w:
        return math.inf
    return abs(math.log(out.mean_w / (USUAL_C * analysis.station.rated_wh)))


def nearest_to_usual(found: Sequence[RunAnalysis]) -> RunAnalysis | None:
    """The discharge that speaks for a station: whole, through AC, nearest to 0.2 C."""
    whole = [a for a in found if is_whole(a) and outlet_of(a) is Outlet.AC]
    whole = whole or [a for a in found if a.is_valid_discharge]
    return min(whole, key=off_the_usual_load) if whole else None


def _latest_idle(analyses: Sequence[RunAnalysis], outlet: Outlet) -> IdleResult | None:
    """The latest finished idle test with one kind of outlet on."""
    found = [
        a.own_use.idle
        for a in in_time(analyses)
        if a.own_use is not None and a.own_use.outlet is outlet and a.is_finished
    ]
    return found[-1] if found else None


def _split(
    whole: Sequence[RunAnalysis], idle: IdleResult | None, rated_w: float | None
) -> LossSplit | None:
    """The loss split; the idle watts rest on the rating as store, for the fit."""
    draw = None
    if idle is not None:
        draw = IdleDraw(watts=idle.idle_w, u_w=idle.budget.u)
    try:
        return fit_losses(
            [_run_at_load(a) for a in whole],
            whole[0].station.rated_wh,
            idle=draw,
            rated_w=rated_w,
            repeatability=whole[0].repeatability or REPEATABILITY,
            widest_p1_u=SHARPEST_P1_U,
        )
    except UnusableDataError:
        return None


def _inputs(
    whole: Sequence[RunAnalysis], split: LossSplit | None, idle: IdleResult | None
) -> FitInputs | None:
    if split is None or split.e0_wh.value is None:
        return None
    by_run, by_idle = loss_fit_sensitivities([_run_at_load(a) for a in whole], split)
    used = idle if split.idle_w is not None else None
    return FitInputs(runs=tuple(whole), idle=used, by_run=by_run, by_idle=by_idle)


def _run_at_load(analysis: RunAnalysis) -> RunAtLoad:
    out = _out(analysis)
    assert out.result.duration_s is not None
    bare = RunAtLoad(
        energy_wh=out.delivered_wh,
        duration_s=out.result.duration_s,
        temperature_c=analysis.run.conditions.temperature_c,
    )
    if out.mean_sq_w2 is None:
        return bare
    # Counter and power column differ a little; no mean square is below the square of a mean.
    return replace(bare, mean_sq_w2=max(out.mean_sq_w2, bare.mean_w**2))


def _point(analysis: RunAnalysis) -> LoadPoint:
    out = _out(analysis)
    return LoadPoint(
        number=analysis.run.number,
        mean_w=out.mean_w,
        delivered_wh=out.delivered_wh,
        expanded_wh=out.budget.expanded if out.budget else None,
    )


def _out(analysis: RunAnalysis) -> EnergyOut:
    assert analysis.energy_out is not None, "only whole discharges are combined"
    return analysis.energy_out
