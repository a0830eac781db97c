"""What a discharge's readings, and the station's other runs, say beside its figures."""

from collections.abc import Iterator

from yardtoll.core.methods import Outlet
from yardtoll.core.uncertainty.figure import Sentence
from yardtoll.review.display_words import audit_words
from yardtoll.review.kinds.discharge.analysis import DischargeOutcome
from yardtoll.review.kinds.discharge.held import held_words, lowered_words
from yardtoll.review.outcome import EnergyOut
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.fitted import EXACT_FIT, Fitted, fitted_terms
from yardtoll.review.station.outlet_runs import OutletRuns, outlet_of
from yardtoll.review.station.runs import StationRuns

_AC_DC_APART = 0.02


def discharge_words(
    run: RunAnalysis, outcome: DischargeOutcome, station: StationRuns
) -> Iterator[Sentence]:
    """The loss split of the outlet, DC against AC, the display against the meter."""
    if outlet_of(run) is Outlet.DC and run.energy_out is not None:
        yield from _dc_against_ac(run.energy_out, station)
    if outlet_of(run) is not None:
        yield from _outlet_words(station.through(run))
    if outcome.held is not None:
        yield from ((said,) for said in held_words(outcome.held))
    yield from ((said,) for said in lowered_words(run, outcome.result))
    if outcome.audit is not None:
        yield from ((said,) for said in audit_words(outcome.audit))


def _outlet_words(runs: OutletRuns) -> Iterator[Sentence]:
    if not runs.has_split or runs.split is None:
        return
    yield split_words(runs)
    if runs.split.conversion_held:
        why = "no idle test sharp enough" if runs.idle_not_used else "no idle test"
        yield (f"Store and overhead are as seen at the outlet: {why}.",)


def split_words(runs: OutletRuns) -> Sentence:
    """The fitted terms, each with its ±."""
    terms = fitted_terms(runs)
    said: list[object] = [
        f"From {len(runs.points)} {runs.outlet} runs: usable store ",
        terms[Fitted.STORE],
        ", overhead ",
        terms[Fitted.OVERHEAD],
    ]
    if Fitted.EURO in terms:
        said += ["; conversion over load ", terms[Fitted.EURO], " (Euro weights), "]
        said += [terms[Fitted.CEC], " (CEC weights)"]
    exact = runs.split is not None and not runs.split.degrees_of_freedom
    if terms[Fitted.STORE].budget is None:
        said.append(". No meter is stated for all of them, so their ± is not known.")
    else:
        said.append(f". {EXACT_FIT}" if exact else ".")
    return tuple(said)  # type: ignore[arg-type]


def _dc_against_ac(dc: EnergyOut, station: StationRuns) -> Iterator[Sentence]:
    """DC delivering more, or less, than AC, and why that can be."""
    if not station.ac.points:
        return
    nearest = min(station.ac.points, key=lambda p: abs(p.mean_w - dc.mean_w))
    apart = dc.delivered_wh / nearest.delivered_wh - 1
    if abs(apart) <= _AC_DC_APART:
        yield (f"DC delivers as much as AC in run {nearest.number}.",)
        return
    why = (
        "the DC port has a converter of its own and spares the inverter's overhead"
        if apart > 0
        else "its converter, or its cut-off, costs more than the inverter does"
    )
    side = "more" if apart > 0 else "less"
    yield (
        f"DC delivers {abs(apart):.0%} {side} than AC in run {nearest.number} "
        f"({nearest.delivered_wh:.0f} Wh at {nearest.mean_w:.0f} W): {why}.",
    )
    inverter, converter = (
        fitted_terms(runs).get(Fitted.OVERHEAD) for runs in (station.ac, station.dc)
    )
    if inverter is not None and converter is not None:
        yield (
            "The DC port's overhead is ",
            converter,
            ", the inverter's ",
            inverter,
            ", each as seen at its outlet.",
        )
