"""Figures of a solar run that need no model of the sun: harvest, volts, what another took."""

from datetime import datetime

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.sun import worked
from yardtoll.core.sun.limits import Limit
from yardtoll.core.uncertainty.budget import Budget, Contribution, rectangular
from yardtoll.core.uncertainty.energy_budget import DC, harvest_budget, power_budget
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.review.budgets import watts_budget
from yardtoll.review.kinds.solar.sunlight import Sunlight
from yardtoll.review.run_analysis import RunAnalysis, once_a_run
from yardtoll.review.station.beside import Beside

_TAKING_SHARE = 0.1
NAMED_SHARE = 0.005
"""A limit that held for less than this share of the time is not named."""
CLEAR_SKY_LIMIT = 0.10
"""A clear-sky model may be off by this share (common practice, no source)."""
TYPED_LIMIT = 0.10
"""So may irradiance read by hand now and then."""
AIM_LIMIT = 0.02
"""What a few degrees of tilt or azimuth do to a day's sum (common practice, no source)."""
CELL_LIMIT_K = 5.0
"""How far a modelled cell temperature may be off (common practice, no source)."""
WIRING_LIMIT = 0.01


def harvest_of(run: RunAnalysis, light: Sunlight) -> Budget | None:
    """The budget of a solar run's harvest; None without a meter."""
    if run.meter is None:
        return None
    solar = light.run
    return harvest_budget(
        solar.harvest_wh,
        solar.duration_s,
        solar.sample_limits,
        solar.gaps,
        run.meter.accuracy,
        str(run.meter.id),
    )


def performance_budget(run: RunAnalysis, light: Sunlight) -> Budget | None:
    """Of harvest ÷ what the sun allowed, a share: the meter's lines, and the sky's and panels'."""
    harvest = harvest_of(run, light)
    if harvest is None or light.run.performance is None:
        return None
    expected_wh = light.run.expected_wh or 0.0
    lines = harvest.scaled(1 / expected_wh, "").lines
    return Budget.of("", [*lines, *_model_lines(light, light.run.performance)])


def nameplate_budget(run: RunAnalysis, light: Sunlight) -> Budget | None:
    """Of the share of the nameplate at 1000 W/m², the same way."""
    meter, share = run.meter, light.run.nameplate_share
    if meter is None or share is None:
        return None
    peak_w = light.run.peak_w
    power = power_budget(peak_w, meter.accuracy, str(meter.id), range_=DC, level="in")
    lines = power.scaled(share / peak_w, "").lines
    return Budget.of("", [*lines, *_model_lines(light, share)])


def solar_figures(run: RunAnalysis, light: Sunlight) -> list[Figure]:
    """Harvest, power, and the shares of what was expected and of the nameplate."""
    solar = light.run
    found = [
        Figure(
            key="harvest_wh",
            title="Harvested",
            value=solar.harvest_wh,
            unit="Wh",
            budget=harvest_of(run, light),
            worked=worked.harvested(solar),
        ),
        Figure(
            key="peak_w",
            title="Peak power",
            value=solar.peak_w,
            unit="W",
            budget=watts_budget(solar.peak_w, run),
            worked=worked.peak(solar),
        ),
    ]
    if solar.sustained_w is not None:
        found.append(
            Figure(
                key="sustained_w",
                title="Best 5 minutes",
                value=solar.sustained_w,
                unit="W",
                budget=watts_budget(solar.sustained_w, run),
                worked=worked.sustained(solar),
            )
        )
    if solar.expected_wh is not None:
        found.append(
            Figure(key="expected_wh", title="Expected", value=solar.expected_wh, unit="Wh")
        )
    found += [figure for figure in (performance_figure(run, light),) if figure is not None]
    if solar.nameplate_share is not None:
        found.append(
            Figure(
                key="nameplate_share",
                title="Of the nameplate, at 1000 W/m²",
                value=solar.nameplate_share,
                budget=nameplate_budget(run, light),
                style=Style.PERCENT,
                worked=worked.of_nameplate(solar),
            )
        )
    if solar.cap_w is not None and (solar.limited_by or {}).get(Limit.CAP, 0.0) > NAMED_SHARE:
        found.append(
            Figure(
                key="cap_w",
                title="Station's cap",
                value=solar.cap_w,
                unit="W",
                budget=watts_budget(solar.cap_w, run),
            )
        )
    return found


def performance_figure(run: RunAnalysis, light: Sunlight) -> Figure | None:
    """Harvest ÷ what the sun allowed; None where the sun is not known."""
    solar = light.run
    if solar.performance is None or not solar.expected_wh:
        return None
    panels = " and ".join(array.name for array in light.arrays)
    how = f"{solar.harvest_wh:.0f} Wh in run {run.run.number}, {panels}; expected by the "
    how += "clear sky" if not solar.measured_sun else "irradiance measured beside it"
    return Figure(
        key="performance",
        title="Performance ratio",
        value=solar.performance,
        budget=performance_budget(run, light),
        style=Style.PERCENT,
        how=how,
        worked=worked.performance(solar),
    )


def _model_lines(light: Sunlight, share: float) -> list[Contribution]:
    """What the light and the panels' model leave open, as shares of the figure."""
    limit, what = {
        "sensor": (light.sensor_share, "Irradiance sensor's class"),
        "typed": (TYPED_LIMIT, "Irradiance read by hand"),
    }.get(light.light, (CLEAR_SKY_LIMIT, "Clear-sky model"))
    gamma = abs(light.arrays[0].gamma) if light.arrays else 0.0037
    parts = [
        (what, limit, f"±{limit:.0%}"),
        ("Cell temperature", gamma * CELL_LIMIT_K, f"±{CELL_LIMIT_K:g} K"),
        ("Wiring", WIRING_LIMIT, f"±{WIRING_LIMIT:.0%}"),
    ]
    # A sensor beside the panels is turned as they are.
    if light.light != "sensor":
        parts.append(("Panels' orientation", AIM_LIMIT, f"±{AIM_LIMIT:.0%}"))
    return [rectangular(name, most * share, why) for name, most, why in parts]


def lost_to_the_other(run: RunAnalysis, light: Sunlight, beside: Beside) -> float | None:
    """Wh that the sun offered and the station did not take while another input held the sum at
    its cap; None where no cap is seen or the sun is not known.
    """
    pair, solar = beside.pair, light.run
    if solar.free_w is None or pair.cap_w is None:
        return None
    began_s = datetime.fromisoformat(run.run.started_at).timestamp()
    usual = solar.usual_share if solar.usual_share is not None else 1.0
    offered = np.interp(pair.time_s - began_s, solar.time_s, usual * solar.free_w, left=0, right=0)
    if light.claimed_w is not None:
        offered = np.minimum(offered, light.claimed_w)
    mine, other = pair.powers_w
    held = (mine + other > 0.97 * pair.cap_w) & (mine > 0) & (other > 0)
    step_s = float(pair.time_s[1] - pair.time_s[0])
    return float(np.maximum(offered - mine, 0.0)[held].sum()) * step_s / SECONDS_PER_HOUR


@once_a_run
def volts_seen(analysis: RunAnalysis) -> tuple[float, float] | None:
    """Lowest and highest volts at which the input really took power; None where not logged."""
    if analysis.trace is None:
        return None
    volts = analysis.trace.columns.get(Quantity.VOLTS)
    power = analysis.trace.columns.get(Quantity.POWER)
    if volts is None or power is None:
        return None
    taking = np.isfinite(volts) & (power > _TAKING_SHARE * float(np.nanmax(power)))
    if not taking.any():
        return None
    return float(np.percentile(volts[taking], 1)), float(np.percentile(volts[taking], 99))
