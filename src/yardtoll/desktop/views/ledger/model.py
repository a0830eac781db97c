"""What the Ledger view says of one run."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.discharge.repeats import RepeatFigures
from yardtoll.core.electrical.doubts import DOUBTS, doubts_of
from yardtoll.core.electrical.energy import counter_step_wh
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import decimals_for, format_with_uncertainty
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.methods import METHODS
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import (
    own_draw_budget,
    sag_budget,
    usable_ratio,
    usable_ratio_window,
)
from yardtoll.desktop.views.ledger.other_pages import idle_page, recharge_page
from yardtoll.desktop.views.ledger.page import (
    LedgerPage,
    duration_row,
    power_shown,
)
from yardtoll.desktop.views.ledger.words import discharge_words, words_budgets
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.came_to import came_to_words
from yardtoll.review.findings.budgets import (
    run_mean_power_budget,
    run_time_budget,
    volts_budget,
    watts_budget,
)
from yardtoll.review.fitted import ledger_budgets
from yardtoll.review.port_runs import is_whole
from yardtoll.review.together import StationRuns, ledger_of, repeats_of, together
from yardtoll.review.when import local_date
from yardtoll.store.records import RunState

VOLTS = "Voltage under load"


def run_caption(analysis: RunAnalysis) -> str:
    """A run in a list: number, load, what it came to."""
    run, result = analysis.run, analysis.result
    came_to = came_to_words(analysis) or "nothing to tell"
    if result is not None and result.mean_w is not None:
        came_to += f" at {result.mean_w:.0f} W"
    void = " (void)" if run.state == RunState.VOID.value else ""
    return f"Run {run.number} · {came_to}{void}"


def ledger_page(
    analysis: RunAnalysis, found: StationRuns | None = None, claims: Sequence[Claim] = ()
) -> LedgerPage:
    """The page for one analysed run, with what the station's other runs and claims say of it."""
    page = _page(analysis, found or together([analysis]), claims)
    doubtful = tuple(n.message for n in analysis.notices if n.code in DOUBTS)
    return replace(
        page,
        notices=tuple(said for said in page.notices if said not in doubtful),
        doubts=doubts_of(analysis.notices),
        doubtful=doubtful,
        explained=tuple(explained_words(analysis)),
    )


def explained_words(analysis: RunAnalysis) -> Iterator[str]:
    """What the reviewer says of the doubts about a run."""
    for code in doubts_of(analysis.notices):
        if words := analysis.run.explained.get(code.value):
            yield f"Explained: {DOUBTS[code]}, because {words}."


def _page(analysis: RunAnalysis, found: StationRuns, claims: Sequence[Claim]) -> LedgerPage:
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


def _discharge_page(analysis: RunAnalysis, found: StationRuns) -> LedgerPage:
    result = analysis.result
    assert result is not None
    ledger = ledger_of(analysis, found) or discharge_ledger(result)
    rated = ledger.start_title == "Rated"
    share = 100 * result.usable_ratio if rated else 100 * result.delivered_wh / ledger.start_wh
    source = "rated Wh" if rated else f"Wh {ledger.start_title.lower()}"
    repeats = repeats_of(analysis, found)
    repeat_rows, repeat_budget = _repeats(repeats)
    notices = [notice.message for notice in result.notices]
    runs = found.through(analysis)
    if runs.split is not None and is_whole(analysis) and len(runs.points) > 1:
        # That conversion is a bound stands at its gate and in the words below.
        told = [n for n in runs.split.notices if n.code is not Code.CONVERSION_UNKNOWN]
        notices += [notice.message for notice in told]
    if repeats is not None and repeats.off:
        numbers = ", ".join(str(number) for number in repeats.off)
        notices.append(f"Run {numbers} lies further from its repeats than its uncertainty allows.")
    return LedgerPage(
        headline=f"Of every 100 {source}, {share:.0f} reach the load",
        subtitle=_subtitle(analysis),
        ledger=ledger,
        figures=(*_figures(analysis), *repeat_rows),
        budget=budget_rows(analysis),
        notices=tuple(notices),
        words=tuple(discharge_words(analysis, found)),
        places=ledger_budgets(ledger.places, analysis, found),
        budgets=_budgets(analysis) | repeat_budget,
        in_words=words_budgets(runs),
    )


def _budgets(analysis: RunAnalysis) -> dict[str, Budget]:
    """What stands behind each figure of a discharge."""
    result, budget = analysis.result, analysis.budget
    if result is None:
        return {}
    known: dict[str, Budget | None] = {
        "Duration": run_time_budget(analysis),
        "Sag": _sag_budget(analysis),
    }
    if result.own_draw_wh:
        known["Meter's own draw"] = own_draw_budget(result.own_draw_wh)
    if budget is not None:
        known |= {
            "Delivered": budget,
            "Of rated": usable_ratio(result, budget).budget,
            "Of the window": usable_ratio_window(result, budget).budget,
            "Mean power": run_mean_power_budget(analysis),
        }
    if result.max_w is not None:
        known["Peak power"] = watts_budget(result.max_w, analysis)
    if result.volts_mean is not None:
        known[VOLTS] = volts_budget(result.volts_mean, analysis)
    return {name: found for name, found in known.items() if found is not None}


def _sag_budget(analysis: RunAnalysis) -> Budget | None:
    """Of the sag; None where it, or the digits of the volts, cannot be told."""
    result = analysis.result
    if result is None or result.sag_ratio is None or not result.volts_mean:
        return None
    assert analysis.trace is not None
    step_v = counter_step_wh(analysis.trace.valid(Quantity.VOLTS)[1])
    return sag_budget(result.sag_ratio, result.volts_mean, step_v) if step_v else None


def _repeats(
    repeats: RepeatFigures | None,
) -> tuple[tuple[tuple[str, str], ...], dict[str, Budget]]:
    """The row of the runs at one load, and the budget of their mean."""
    if repeats is None:
        return (), {}
    title = f"{repeats.count} runs at this load"
    mean = repeats.mean
    shown = format_with_uncertainty(repeats.mean_wh, mean.expanded if mean else 0.0)
    scatter = f"s {repeats.stdev_wh:.1f}, spread {repeats.spread_wh:.1f}"
    return ((title, f"mean {shown} Wh, {scatter}"),), {title: mean.budget} if mean else {}


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
        rows.append(duration_row(result.duration_s, run_time_budget(analysis)))
    if result.mean_w is not None and result.c_rate is not None:
        mean = power_shown(result.mean_w, run_mean_power_budget(analysis))
        rows.append(("Mean power", f"{mean} · {result.c_rate:.2f} C"))
    if result.max_w is not None:
        rows.append(("Peak power", power_shown(result.max_w, watts_budget(result.max_w, analysis))))
    if result.volts_mean is not None:
        volts = volts_budget(result.volts_mean, analysis)
        mean_v = format_with_uncertainty(result.volts_mean, volts.expanded if volts else 0.0)
        rows.append((VOLTS, f"{mean_v} V, lowest {result.volts_min or 0:.1f} V"))
    if result.sag_ratio is not None:
        sag = _sag_budget(analysis)
        sag_u = 100 * sag.expanded if sag else 0.0
        rows.append(("Sag", f"{format_with_uncertainty(100 * result.sag_ratio, sag_u)} %"))
    if result.own_draw_wh:
        own_u = own_draw_budget(result.own_draw_wh).expanded
        own = format_with_uncertainty(result.own_draw_wh, own_u)
        rows.append(("Meter's own draw", f"{own} Wh, added"))
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
