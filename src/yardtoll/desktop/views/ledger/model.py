"""What the Ledger view says of one run."""

from collections.abc import Sequence

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.figures import decimals_for, format_clock, format_with_uncertainty
from yardtoll.core.ledger import discharge_ledger
from yardtoll.core.methods import METHODS
from yardtoll.core.repeats import RepeatFigures
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import usable_ratio, usable_ratio_window
from yardtoll.desktop.views.ledger.other_pages import idle_page, recharge_page
from yardtoll.desktop.views.ledger.page import LedgerPage, mean_power_budget, power_shown
from yardtoll.desktop.views.ledger.words import discharge_words
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.findings.budgets import gain_budget, watts_budget
from yardtoll.review.port_runs import is_whole
from yardtoll.review.together import Together, ledger_of, repeats_of, together
from yardtoll.review.when import local_date
from yardtoll.store.records import RunState


def run_caption(analysis: RunAnalysis) -> str:
    """A run in a list: number, load, what it came to."""
    run, result = analysis.run, analysis.result
    came_to = "nothing to tell"
    if result is not None:
        came_to = f"{result.delivered_wh:.0f} Wh"
        if result.mean_w is not None:
            came_to += f" at {result.mean_w:.0f} W"
    elif analysis.recharge is not None:
        came_to = f"{analysis.recharge.drawn_wh:.0f} Wh drawn"
    elif analysis.idle is not None:
        came_to = f"{analysis.idle.idle_w:.1f} W idle"
    void = " (void)" if run.state == RunState.VOID.value else ""
    return f"Run {run.number} · {came_to}{void}"


def ledger_page(
    analysis: RunAnalysis, found: Together | None = None, claims: Sequence[Claim] = ()
) -> LedgerPage:
    """The page for one analysed run, with what the station's other runs and claims say of it."""
    found = found or together([analysis])
    if analysis.result is not None:
        return _discharge_page(analysis, found)
    if analysis.recharge is not None:
        return recharge_page(analysis, found, _subtitle(analysis), budget_rows(analysis), claims)
    if analysis.idle is not None:
        return idle_page(analysis, _subtitle(analysis))
    return LedgerPage(
        headline="Nothing can be told from this run",
        subtitle=_subtitle(analysis),
        ledger=None,
        expanded_wh=None,
        figures=(),
        budget=(),
        notices=(analysis.problem,),
    )


def _subtitle(analysis: RunAnalysis) -> str:
    run = analysis.run
    window = f"{run.soc_from:g} → {run.soc_to:g} %"
    meter = (
        f"{analysis.meter.name} {analysis.meter.accuracy}" if analysis.meter else "no meter stated"
    )
    source = run.conditions.get("file") or run.conditions.get("load") or ""
    title = f"Run {run.number}, {METHODS[run.method].title}"
    parts = [title, local_date(run.started_at), str(source), window, meter]
    subtitle = " · ".join(part for part in parts if part)
    if overridden := run.conditions.get("overridden"):
        subtitle += f" · started all the same: {overridden['reason']}"
    if run.state == RunState.VOID.value:
        subtitle += f" · void: {run.void_reason}"
    return subtitle


def _discharge_page(analysis: RunAnalysis, found: Together) -> LedgerPage:
    result = analysis.result
    assert result is not None
    ledger = ledger_of(analysis, found) or discharge_ledger(result)
    rated = ledger.start_title == "Rated"
    share = 100 * result.usable_ratio if rated else 100 * result.delivered_wh / ledger.start_wh
    source = "rated Wh" if rated else f"Wh {ledger.start_title.lower()}"
    repeats = repeats_of(analysis, found)
    notices = [notice.message for notice in result.notices]
    runs = found.through(analysis)
    if runs.split is not None and is_whole(analysis) and len(runs.points) > 1:
        notices += [notice.message for notice in runs.split.notices]
    if repeats is not None and repeats.off:
        numbers = ", ".join(str(number) for number in repeats.off)
        notices.append(f"Run {numbers} lies further from its repeats than its uncertainty allows.")
    return LedgerPage(
        headline=f"Of every 100 {source}, {share:.0f} reach the load",
        subtitle=_subtitle(analysis),
        ledger=ledger,
        expanded_wh=analysis.budget.expanded if analysis.budget else None,
        figures=(*_figures(analysis), *_repeat_rows(repeats)),
        budget=budget_rows(analysis),
        notices=tuple(notices),
        words=tuple(discharge_words(analysis, found)),
        budgets=_budgets(analysis),
    )


def _budgets(analysis: RunAnalysis) -> dict[str, Budget]:
    """What stands behind each figure of a discharge."""
    result, budget = analysis.result, analysis.budget
    if result is None or budget is None:
        return {}
    powers = {
        "Mean power": mean_power_budget(analysis),
        "Highest": watts_budget(result.max_w, analysis) if result.max_w is not None else None,
        "Volts, loaded": gain_budget(result.volts_mean, "V", analysis)
        if result.volts_mean is not None
        else None,
    }
    return {
        "Delivered": budget,
        "Of rated": usable_ratio(result, budget).budget,
        "Of the window": usable_ratio_window(result, budget).budget,
        **{name: found for name, found in powers.items() if found is not None},
    }


def _repeat_rows(repeats: RepeatFigures | None) -> tuple[tuple[str, str], ...]:
    if repeats is None:
        return ()
    return (
        (
            f"{repeats.count} runs at this load",
            f"mean {repeats.mean_wh:.1f} Wh, s {repeats.stdev_wh:.1f}, "
            f"spread {repeats.spread_wh:.1f}",
        ),
    )


def _figures(analysis: RunAnalysis) -> tuple[tuple[str, str], ...]:
    result = analysis.result
    assert result is not None
    expanded = analysis.budget.expanded if analysis.budget else 0.0
    share_u = 100 * expanded / result.rating.rated_wh
    rows = [
        ("Delivered", f"{format_with_uncertainty(result.delivered_wh, expanded)} Wh"),
        ("Of rated", f"{format_with_uncertainty(100 * result.usable_ratio, share_u)} %"),
    ]
    if result.rating.window < 1:
        whole = usable_ratio_window(result, analysis.budget) if analysis.budget else None
        window_u = 100 * whole.expanded if whole else 0.0
        ratio = format_with_uncertainty(100 * result.usable_ratio_window, window_u)
        rows.append(("Of the window", f"{ratio} %"))
    if result.duration_s is not None:
        rows.append(("Duration", format_clock(result.duration_s)))
    if result.mean_w is not None and result.c_rate is not None:
        mean = power_shown(result.mean_w, mean_power_budget(analysis))
        rows.append(("Mean power", f"{mean} · {result.c_rate:.2f} C"))
    if result.max_w is not None:
        rows.append(("Highest", power_shown(result.max_w, watts_budget(result.max_w, analysis))))
    if result.volts_mean is not None:
        volts = gain_budget(result.volts_mean, "V", analysis)
        mean_v = format_with_uncertainty(result.volts_mean, volts.expanded if volts else 0.0)
        rows.append(("Volts, loaded", f"{mean_v} V, lowest {result.volts_min or 0:.1f} V"))
    if result.sag_ratio is not None:
        rows.append(("Sag", f"{100 * result.sag_ratio:.1f} %"))
    if result.own_draw_wh:
        rows.append(("Meter's own draw", f"{result.own_draw_wh:.1f} Wh, added"))
    return tuple(rows)


def budget_rows(analysis: RunAnalysis) -> tuple[tuple[str, str], ...]:
    """Where the ± comes from, largest first; U = 2u."""
    budget = analysis.budget
    if budget is None:
        return (("Unknown", "state the meter: Edit the run"),)
    decimals = decimals_for(budget.expanded) + 1
    return tuple(
        (f"{line.name}, {line.why}", f"{2 * abs(line.u):.{decimals}f} Wh") for line in budget.lines
    )
