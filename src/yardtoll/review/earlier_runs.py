"""A station's own runs, to predict the next one from."""

from collections.abc import Sequence

from yardtoll.core.electrical.trace import Code
from yardtoll.core.methods import Outlet
from yardtoll.core.planning.expected import EarlierRun
from yardtoll.review.run_analysis import RunAnalysis

LEAST_WINDOW = 0.8
"""A discharge over less of the charge says too little of the whole store."""


def earlier_runs(analyses: Sequence[RunAnalysis]) -> tuple[EarlierRun, ...]:
    """The whole discharges through the AC outlet so far."""
    outs = (a.energy_out for a in analyses if a.is_valid_discharge)
    return tuple(
        EarlierRun(
            delivered_wh=out.delivered_wh,
            duration_s=out.result.duration_s,
            window=out.result.rating.window,
        )
        for out in outs
        if out is not None
        and out.result.duration_s
        and out.outlet is Outlet.AC
        and not out.result.has(Code.NO_CUTOFF)
        and out.result.rating.window >= LEAST_WINDOW
    )
