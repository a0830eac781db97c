"""What a discharge's readings and its sisters say, in sentences."""

from collections.abc import Iterator

from yardtoll.core.discharge.display_audit import DisplayAudit
from yardtoll.core.formatting import format_span
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.review.analysis import RunAnalysis
from yardtoll.review.fitted import EXACT_FIT, fitted_terms
from yardtoll.review.port_runs import Port, PortRuns, port_of
from yardtoll.review.together import StationRuns

_SOC_APART = 2.0
_AC_DC_APART = 0.02


def discharge_words(analysis: RunAnalysis, found: StationRuns) -> Iterator[str]:
    """The loss split of the outlet, DC beside AC, the display held against the meter."""
    if port_of(analysis) is Port.DC:
        yield from _dc_beside_ac(analysis, found)
    if port_of(analysis) is not None:
        yield from _port_words(found.through(analysis))
    if analysis.audit is not None:
        yield from audit_words(analysis.audit)


def _port_words(runs: PortRuns) -> Iterator[str]:
    if not runs.has_split or runs.split is None:
        return
    yield split_words(runs)
    if runs.split.conversion_held:
        why = "no idle test sharp enough" if runs.idle_not_used else "no idle test"
        yield f"Store and overhead are as seen at the outlet: {why}."


def split_words(runs: PortRuns) -> str:
    """The fitted terms, each with its ±."""
    terms = fitted_terms(runs)
    shown = {name: figure.shown for name, figure in terms.items()}
    said = f"From {len(runs.points)} {runs.port} runs: usable store {shown['Usable store']}"
    said += f", overhead {shown['Overhead']}"
    if "Euro weights" in shown:
        euro, cec = shown["Euro weights"], shown["CEC weights"]
        said += f"; conversion over load {euro} (Euro weights), {cec} (CEC weights)"
    if terms["Usable store"].budget is None:
        return f"{said}. No meter is stated for all of them, so their ± is not known."
    exact = runs.split is not None and not runs.split.freedom
    return f"{said}. {EXACT_FIT}" if exact else f"{said}."


def words_budgets(runs: PortRuns) -> dict[str, Budget]:
    """The fitted figures as they stand in the words, with what is behind them."""
    found = fitted_terms(runs).values()
    return {figure.shown: figure.budget for figure in found if figure.budget is not None}


def audit_words(audit: DisplayAudit) -> Iterator[str]:
    """Where the display was off."""
    if audit.gain is not None and audit.offset_w is not None:
        gain = 100 * (audit.gain - 1)
        yield f"The display's W: gain {gain:+.1f} %, offset {audit.offset_w:+.1f} W to the meter."
    elif audit.offset_w is not None:
        yield f"The display's W: {audit.offset_w:+.1f} W to the meter on the mean."
    if audit.soc:
        worst = max(audit.soc, key=lambda r: abs(r.shown - r.left))
        off = worst.shown - worst.left
        if abs(off) > _SOC_APART:
            yield (
                f"At {worst.shown:g} % shown, {worst.left:.0f} % of the energy was left: the "
                f"display is up to {abs(off):.0f} points {'high' if off > 0 else 'low'}."
            )
        else:
            yield "The display's % stays within 2 points of the energy left."
    if audit.time_left:
        worst_time = max(audit.time_left, key=lambda r: abs(r.share))
        yield (
            f"Its time left was off by up to {100 * worst_time.share:+.1f} % "
            f"({format_span(worst_time.shown_s)} shown, {format_span(worst_time.true_s)} true)."
        )
    if audit.reserve_wh is not None and audit.reserve_s is not None:
        yield (
            f"After it first said 0 %, {audit.reserve_wh:.0f} Wh more came in "
            f"{format_span(audit.reserve_s)}: a hidden reserve."
        )


def _dc_beside_ac(analysis: RunAnalysis, found: StationRuns) -> Iterator[str]:
    """DC delivering more, or less, than AC, and why that can be."""
    if analysis.result is None or not found.ac.points:
        return
    dc = analysis.result
    nearest = min(found.ac.points, key=lambda p: abs(p.mean_w - (dc.mean_w or 0.0)))
    apart = dc.delivered_wh / nearest.delivered_wh - 1
    if abs(apart) <= _AC_DC_APART:
        yield f"DC delivers as much as AC in run {nearest.number}."
        return
    why = (
        "the DC port has a converter of its own and spares the inverter's overhead"
        if apart > 0
        else "its converter, or its cut-off, costs more than the inverter does"
    )
    side = "more" if apart > 0 else "less"
    yield (
        f"DC delivers {abs(apart):.0%} {side} than AC in run {nearest.number} "
        f"({nearest.delivered_wh:.0f} Wh at {nearest.mean_w:.0f} W): {why}."
    )
    inverter, converter = (fitted_terms(port).get("Overhead") for port in (found.ac, found.dc))
    if inverter is not None and converter is not None:
        yield (
            f"The DC port's overhead is {converter.shown}, the inverter's {inverter.shown}, each "
            "as seen at its outlet."
        )
