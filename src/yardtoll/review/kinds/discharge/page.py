"""A discharge's page: its ledger, its figures, what its station's other runs say of it."""

from yardtoll.core.discharge.repeats import RepeatFigures
from yardtoll.core.electrical.trace import Code
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.review.kinds.discharge.analysis import DischargeOutcome
from yardtoll.review.kinds.discharge.words import discharge_words
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.cycle import ledger_of
from yardtoll.review.station.fitted import ledger_budgets
from yardtoll.review.station.outlet_runs import is_whole
from yardtoll.review.station.repeats import repeats_of
from yardtoll.review.station.runs import StationRuns


def discharge_page(run: RunAnalysis, outcome: DischargeOutcome, station: StationRuns) -> RunPage:
    """One discharge beside the station's other runs."""
    result = outcome.result
    ledger = ledger_of(run, station) or discharge_ledger(result)
    of_rated = ledger.starts_rated
    share = 100 * (result.usable_ratio if of_rated else result.delivered_wh / ledger.start_wh)
    source = "rated Wh" if of_rated else f"Wh {ledger.start_title.lower()}"
    repeats = repeats_of(run, station)
    notices = [notice.message for notice in result.notices]
    runs = station.through(run)
    if runs.split is not None and is_whole(run) and len(runs.points) > 1:
        # That conversion is a bound stands at its gate and in the words below.
        shown = [n for n in runs.split.notices if n.code is not Code.CONVERSION_UNKNOWN]
        notices += [notice.message for notice in shown]
    if repeats is not None and repeats.off:
        numbers = ", ".join(str(number) for number in repeats.off)
        notices.append(f"Run {numbers} differs from its repeats by more than its uncertainty.")
    return RunPage(
        headline=f"Of every 100 {source}, {share:.0f} reach the load",
        ledger=ledger,
        figures=(*outcome.figures, *([_of_repeats(repeats)] if repeats is not None else ())),
        notices=tuple(notices),
        words=tuple(discharge_words(run, outcome, station)),
        places=ledger_budgets(ledger.places, run, station),
    )


def _of_repeats(repeats: RepeatFigures) -> Figure:
    """The mean of the runs at one load, with their scatter."""
    return Figure(
        key="mean_of_repeats_wh",
        title=f"{repeats.count} runs at this load",
        value=repeats.mean_wh,
        unit="Wh",
        budget=repeats.mean.budget if repeats.mean is not None else None,
        note=f" mean, s {repeats.stdev_wh:.1f}, spread {repeats.spread_wh:.1f}",
    )
