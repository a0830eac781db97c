"""What the Ledger view says of one run."""

from dataclasses import dataclass

from yardtoll.core.figures import decimals_for, format_clock, format_with_uncertainty
from yardtoll.core.ledger import Ledger, discharge_ledger
from yardtoll.desktop.analyses import RunAnalysis
from yardtoll.desktop.when import local_date
from yardtoll.store.records import RunState


@dataclass(frozen=True, kw_only=True)
class LedgerPage:
    """One run's ledger in words and figures."""

    headline: str
    subtitle: str
    ledger: Ledger | None
    expanded_wh: float | None
    figures: tuple[tuple[str, str], ...]
    budget: tuple[tuple[str, str], ...]
    notices: tuple[str, ...]


def run_caption(analysis: RunAnalysis) -> str:
    """A run in a list: number, load, what it came to."""
    run, result = analysis.run, analysis.result
    came_to = "nothing to tell" if result is None else f"{result.delivered_wh:.0f} Wh"
    if result is not None and result.mean_w is not None:
        came_to += f" at {result.mean_w:.0f} W"
    void = " (void)" if run.state == RunState.VOID.value else ""
    return f"Run {run.number} · {came_to}{void}"


def ledger_page(analysis: RunAnalysis) -> LedgerPage:
    """The page for one analysed run."""
    run, result = analysis.run, analysis.result
    window = f"{run.soc_from:g} → {run.soc_to:g} %"
    meter = (
        f"{analysis.meter.name} {analysis.meter.accuracy}" if analysis.meter else "no meter stated"
    )
    source = run.conditions.get("file") or run.conditions.get("load") or ""
    parts = [f"Run {run.number}", local_date(run.started_at), str(source), window, meter]
    subtitle = " · ".join(part for part in parts if part)
    if run.state == RunState.VOID.value:
        subtitle += f" · void: {run.void_reason}"
    if result is None:
        return LedgerPage(
            headline="Nothing can be told from this run",
            subtitle=subtitle,
            ledger=None,
            expanded_wh=None,
            figures=(),
            budget=(),
            notices=(analysis.problem,),
        )
    per_hundred = 100 * result.usable_ratio
    expanded = analysis.budget.expanded_wh if analysis.budget else None
    return LedgerPage(
        headline=f"Of every 100 rated Wh, {per_hundred:.0f} reach the load",
        subtitle=subtitle,
        ledger=discharge_ledger(result),
        expanded_wh=expanded,
        figures=_figures(analysis),
        budget=_budget(analysis),
        notices=tuple(notice.message for notice in result.notices),
    )


def _figures(analysis: RunAnalysis) -> tuple[tuple[str, str], ...]:
    result = analysis.result
    assert result is not None
    expanded = analysis.budget.expanded_wh if analysis.budget else 0.0
    share_u = 100 * expanded / result.rating.rated_wh
    rows = [
        ("Delivered", f"{format_with_uncertainty(result.delivered_wh, expanded)} Wh"),
        ("Of rated", f"{format_with_uncertainty(100 * result.usable_ratio, share_u)} %"),
    ]
    if result.rating.window < 1:
        window_u = share_u / result.rating.window
        ratio = format_with_uncertainty(100 * result.usable_ratio_window, window_u)
        rows.append(("Of the window", f"{ratio} %"))
    if result.duration_s is not None:
        rows.append(("Duration", format_clock(result.duration_s)))
    if result.mean_w is not None and result.c_rate is not None:
        rows.append(("Mean power", f"{result.mean_w:.1f} W · {result.c_rate:.2f} C"))
    if result.max_w is not None:
        rows.append(("Highest", f"{result.max_w:.1f} W"))
    if result.volts_mean is not None:
        rows.append(
            ("Volts, loaded", f"{result.volts_mean:.1f} V, lowest {result.volts_min or 0:.1f} V")
        )
    if result.sag_ratio is not None:
        rows.append(("Sag", f"{100 * result.sag_ratio:.1f} %"))
    if result.own_draw_wh:
        rows.append(("Meter's own draw", f"{result.own_draw_wh:.1f} Wh, added"))
    return tuple(rows)


def _budget(analysis: RunAnalysis) -> tuple[tuple[str, str], ...]:
    """Where the ± comes from, largest first; U = 2u."""
    budget = analysis.budget
    if budget is None:
        return (("Unknown", "state the meter: Edit the run"),)
    decimals = decimals_for(budget.expanded_wh) + 1
    return tuple(
        (f"{line.name}, {line.why}", f"{2 * line.u_wh:.{decimals}f} Wh") for line in budget.lines
    )
