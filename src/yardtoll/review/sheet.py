"""One station's sheet, put together from the yard."""

from collections.abc import Iterator, Sequence
from datetime import tzinfo

from yardtoll import __version__
from yardtoll.core.claims.meaning import demand_of
from yardtoll.core.conformance.judging import JudgedClaim, Standing, only_stated, stated_sentence
from yardtoll.core.conformance.scorecard import summed
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.electrical.doubts import DOUBTS, doubt_reason, doubts_of
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.formatting import format_clock, format_with_uncertainty
from yardtoll.core.ledger.ledger import Kind, Ledger
from yardtoll.core.methods import METHODS, Flow, cautions
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.report.sheet.contents import Claimed, Curve, Picture, RunLine, Scoring, Sheet
from yardtoll.review.analysis import RunAnalysis, analyse_run
from yardtoll.review.conformance import judged_claims
from yardtoll.review.cycle_figures import station_round_trip
from yardtoll.review.findings.budgets import run_time_budget
from yardtoll.review.fitted import fitted_terms, ledger_budgets
from yardtoll.review.port_runs import WHOLE_CHARGE, Port, is_whole, off_the_usual_load, port_of
from yardtoll.review.scoring import scored
from yardtoll.review.solar_figures import performance_budget
from yardtoll.review.sources import SOURCES
from yardtoll.review.together import (
    StationRuns,
    cycle_of,
    inputs_beside,
    ledger_of,
    station_energy,
    together,
)
from yardtoll.review.when import local_date, zone_name, zone_of
from yardtoll.store.records import RunState, Station
from yardtoll.store.yard_file import YardFile

Fact = tuple[str, str, Budget | None]
"""A name, its figure, and the budget of it."""
Result = tuple[str, str, str, Budget | None]
"""A name, its figure, how it was found, and the budget of it."""
_RULE_WORDS = {
    Rule.GUARDED: "guarded: a claim is met, or missed, only by more than the uncertainty",
    Rule.SIMPLE: "simple: the numbers alone, uncertainty left aside",
    Rule.LIKELY: "likely: the more probable side, at a probability of 50 %",
}
_ORDER = (
    Standing.FALLS_SHORT,
    Standing.TOO_CLOSE,
    Standing.MEETS,
    Standing.CANNOT_BE_JUDGED,
    Standing.NOT_TESTED,
)


def analyses_of(yard: YardFile, station: Station) -> list[RunAnalysis]:
    """Every ended run of a station, worked out."""
    assert station.id is not None
    return [analyse_run(yard, run) for run in yard.runs(station.id) if run.has_ended]


def build_sheet(
    yard: YardFile, station: Station, analyses: Sequence[RunAnalysis] | None = None
) -> Sheet:
    """Everything a yard has to say of one station.

    Nothing of the moment goes into it: the same yard gives the same sheet.

    Args:
        analyses: of its ended runs where they are there already.
    """
    assert station.id is not None
    found = together(analyses_of(yard, station) if analyses is None else analyses)
    receiving, review = yard.receiving(station.id), yard.review(station.id)
    rule = Rule(yard.info().rule)
    claims = [stored.claim for stored in yard.claims(station.id)]
    observations = yard.observations(station.id)
    judged = judged_claims(found, claims, receiving, observations, rule)
    zone = zone_of(yard.site())
    told = _told(found)
    facts, results = _facts(found, told), _results(found)
    shown = [j for j in sorted(judged, key=_rank) if _has_evidence(j)]
    ledger = ledger_of(told, found) if told is not None else None
    tolls = _tolls(ledger, told, found) if ledger is not None and told is not None else []
    points = scored(yard.score_points(), found, receiving, observations)
    got, of = summed(points)
    return Sheet(
        station=station.name,
        subtitle=_subtitle(station, found, receiving.price, receiving.currency, zone),
        finding=_finding(judged, found, told),
        summary=review.summary,
        facts=tuple((name, figure) for name, figure, _ in facts),
        claims=tuple(_claimed(j) for j in shown),
        untested=_untested(judged),
        stated=stated_sentence(judged),
        results=tuple((name, figure, how) for name, figure, how, _ in results),
        runs=tuple(_line(a, zone) for a in found.analyses),
        ledger=ledger,
        ledger_title=f"Run {told.run.number}, Wh" if told is not None else "",
        tolls=tuple((name, figure, evidence) for name, figure, evidence, _ in tolls),
        curves=tuple(_curves(found)),
        scoring=tuple(
            Scoring(
                title=p.point.title,
                got=f"{p.points:g}" if p.points is not None else "",
                evidence=p.evidence,
            )
            for p in points
        ),
        score_words=f"{got:g} of {of:g} points with evidence" if of else "nothing scored yet",
        pros=_lines(review.pros),
        cons=_lines(review.cons),
        method=tuple(_method(yard, found, rule)),
        pictures=tuple(
            Picture(
                caption=photo.caption or photo.name,
                media_type=photo.media_type,
                data=yard.photo_bytes(photo.id or 0),
            )
            for photo in yard.photos(station.id)
        ),
        cautions=(cautions.NEVER_OPEN, cautions.UNATTENDED, cautions.CORDS, cautions.COOL_FIRST,
                  cautions.DC_VOLTS, cautions.LOCAL_FIRST),
        budgets=_budgets(facts, shown, results, tolls),
    )  # fmt: skip


def _tolls(ledger: Ledger, told: RunAnalysis, found: StationRuns) -> list[Result]:
    """Each gate's toll with its evidence."""
    places, budgets = ledger.places, ledger_budgets(ledger.places, told, found)
    rows: list[Result] = []
    for place, budget in list(zip(places, budgets, strict=True))[1::2]:
        expanded = budget.expanded if budget else 0.0
        shown = (
            format_with_uncertainty(place.energy_wh, expanded)
            if expanded
            else f"{round(place.energy_wh) + 0:d}"
        )
        rows.append((place.title, f"{shown} Wh", place.evidence, budget))
    return rows


def _budgets(
    facts: Sequence[Fact],
    claims: Sequence[JudgedClaim],
    results: Sequence[Result],
    tolls: Sequence[Result],
) -> dict[str, Budget]:
    """What stands behind the figures, by their place on the sheet."""
    made = {f"fact:{i}": budget for i, (_, _, budget) in enumerate(facts)}
    made |= {
        f"claim:{i}": judged.finding.budget if judged.finding else None
        for i, judged in enumerate(claims)
    }
    made |= {f"result:{i}": budget for i, (_, _, _, budget) in enumerate(results)}
    made |= {f"toll:{i}": budget for i, (_, _, _, budget) in enumerate(tolls)}
    return {key: budget for key, budget in made.items() if budget is not None and budget.lines}


def _rank(judged: JudgedClaim) -> int:
    return _ORDER.index(judged.standing)


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())


def _told(found: StationRuns) -> RunAnalysis | None:
    """The discharge that the sheet tells of: whole, through AC, nearest to 0.2 C."""
    whole = [a for a in found.analyses if is_whole(a) and port_of(a) is Port.AC]
    if not whole:
        whole = [a for a in found.analyses if a.counts and a.result is not None]
    return min(whole, key=off_the_usual_load) if whole else None


def _subtitle(
    station: Station, found: StationRuns, price: float | None, currency: str, zone: tzinfo
) -> str:
    parts = [f"{station.rated_wh:g} Wh", f"{station.rated_w:g} W"]
    if station.chemistry:
        parts.append(station.chemistry)
    if price:
        parts.append(f"bought at {price:g} {currency}".rstrip())
    days = sorted(local_date(a.run.started_at, zone) for a in found.analyses)
    if days:
        parts.append(f"tested {days[0]}" + (f" to {days[-1]}" if days[-1] != days[0] else ""))
    return " · ".join(parts)


def _finding(judged: Sequence[JudgedClaim], found: StationRuns, told: RunAnalysis | None) -> str:
    counts = {s: sum(j.standing is s for j in judged) for s in Standing}
    said = ""
    if told is not None and told.result is not None:
        share = _share(told, found)
        load = f"at {told.result.mean_w:.0f} W" if told.result.mean_w else "of this station"
        if told.doubts:
            said = f"What reaches the outlet is in doubt: {doubt_reason(told.doubts)}. "
        else:
            said = f"{share} of the rated energy reaches the outlet {load}. "
    parts = [
        f"{counts[standing]} {words}"
        for standing, words in (
            (Standing.MEETS, "met"),
            (Standing.FALLS_SHORT, "not met"),
            (Standing.TOO_CLOSE, "too close to call"),
        )
        if counts[standing]
    ]
    if parts:
        said += f"Of the maker's claims that were tested: {', '.join(parts)}."
    return said.strip() or "Nothing has been tested yet."


def _share(analysis: RunAnalysis, found: StationRuns) -> str:
    """Delivered ÷ rated of the station, by this run and its repeats."""
    measured = station_energy(analysis, found)
    rated_wh = analysis.station.rated_wh
    if measured is None:
        delivered = analysis.result.delivered_wh if analysis.result else 0.0
        return f"{100 * delivered / rated_wh:.1f} %"
    share = measured.scaled(100 / rated_wh, "%")
    return f"{format_with_uncertainty(share.value, share.expanded)} %"


def _energy(analysis: RunAnalysis, energy_wh: float) -> str:
    if analysis.budget is None:
        return f"{energy_wh:.0f} Wh, ± unknown"
    return f"{format_with_uncertainty(energy_wh, analysis.budget.expanded)} Wh"


def _facts(found: StationRuns, told: RunAnalysis | None) -> list[Fact]:
    """The few figures shown large."""
    facts: list[Fact] = []
    if told is not None and told.result is not None:
        measured = station_energy(told, found)
        shown = f"{told.result.delivered_wh:.0f} Wh, ± unknown"
        if measured is not None:
            shown = f"{format_with_uncertainty(measured.value, measured.expanded)} Wh"
        budget = measured.budget if measured else None
        ratio = budget.scaled(1 / told.station.rated_wh, "") if budget else None
        facts.append(("Delivered", shown, budget))
        facts.append(("Of rated", _share(told, found), ratio))
    facts += _charged_in(found)
    trips = [station_round_trip(cycle_of(a, found)) for a in found.analyses if a.counts]
    known = [trip for trip in trips if trip is not None]
    if known:
        shown = format_with_uncertainty(100 * known[-1].value, 100 * known[-1].expanded)
        facts.append(("Round trip", f"{shown} %", known[-1].budget))
    if found.ac.idle is not None:
        idle = found.ac.idle
        figure = format_with_uncertainty(idle.idle_w, idle.idle_w_expanded)
        facts.append(("Idle, AC on", f"{figure} W", idle.budget))
    return facts


def _charged_in(found: StationRuns) -> list[Fact]:
    """The hours of the last recharge that one source did alone: the wall's, where there is one.

    A day of sun is no figure of the charger's, and of a charge that two inputs shared no hours
    belong to either.
    """
    charges = [a for a in found.analyses if _tells_charge(a) and not inputs_beside(a, found)]
    charges.sort(key=lambda a: a.solar is None)
    if not charges:
        return []
    last = charges[-1]
    recharge = last.recharge
    if recharge is None or not recharge.duration_s:
        return []
    source = SOURCES.get(last.run.method, ("", None))[0]
    title = f"Charged in, from the {source}" if source else "Charged in"
    low, high = recharge.soc
    if high - low < WHOLE_CHARGE:
        title += f", {low:g} → {high:g} %"
    took = f"{format_clock(recharge.duration_s)[:-3]} h"
    return [(title, took, run_time_budget(last))]


def _tells_charge(analysis: RunAnalysis) -> bool:
    return analysis.recharge is not None and analysis.run.state == RunState.FINISHED.value


def _claimed(judged: JudgedClaim) -> Claimed:
    return Claimed(
        title=judged.claim.about.title,
        claimed=demand_of(judged.claim),
        source=judged.claim.source,
        measured=judged.figure,
        standing=judged.standing.value,
        word=judged.standing.words,
        sentence=f"{judged.sentence} {judged.advice}".strip(),
    )


def _has_evidence(judged: JudgedClaim) -> bool:
    return judged.standing is not Standing.NOT_TESTED


def _untested(judged: Sequence[JudgedClaim]) -> str:
    words = dict.fromkeys(
        f"{j.claim.about.title} {demand_of(j.claim)}"
        for j in judged
        if not _has_evidence(j) and not only_stated(j.claim)
    )
    return f"Not tested: {'; '.join(words)}." if words else ""


def _results(found: StationRuns) -> list[Result]:
    """Figures that come of several runs."""
    rows: list[Result] = []
    for runs in (found.ac, found.dc):
        if not runs.has_split or runs.split is None:
            continue
        how = f"fitted from {len(runs.points)} {runs.port} runs at different loads"
        terms = fitted_terms(runs)
        if not runs.split.freedom and terms["Usable store"].budget is not None:
            how += ", as many as terms: the ± is the meters' and the assumed repeatability"
        if runs.split.conversion_held:
            how += "; as seen at the outlet, for no idle test sets the scale"
        for name, fitted in terms.items():
            title = f"Conversion, {name}" if fitted.unit == "%" else f"{runs.port} {name.lower()}"
            rows.append((title, fitted.shown, how, fitted.budget))
    for analysis in found.analyses:
        trip = station_round_trip(cycle_of(analysis, found)) if analysis.counts else None
        if trip is not None:
            figure = format_with_uncertainty(100 * trip.value, 100 * trip.expanded)
            how = f"delivered in run {analysis.run.number} ÷ drawn afterwards"
            rows.append(("Round trip", f"{figure} %", how, trip.budget))
    return rows + [row for a in found.analyses if (row := _solar(a)) is not None]


def _solar(analysis: RunAnalysis) -> Result | None:
    """What a solar run took of what the sun allowed; None where there is nothing to say."""
    if analysis.solar is None or analysis.run.state != RunState.FINISHED.value:
        return None
    review, run = analysis.solar, analysis.solar.run
    if run.performance is None or not run.expected_wh:
        return None
    budget = performance_budget(analysis)
    share = format_with_uncertainty(
        100 * run.performance, 100 * budget.expanded if budget is not None else 0.0
    )
    panels = " and ".join(array.name for array in review.arrays)
    how = f"{run.harvest_wh:.0f} Wh in run {analysis.run.number}, {panels}; expected by the "
    how += "clear sky" if not run.measured_sun else "irradiance measured beside it"
    return ("Performance ratio", f"{share} %", how, budget)


def _line(analysis: RunAnalysis, zone: tzinfo) -> RunLine:
    run = analysis.run
    came_to, duration = "nothing to tell", None
    if analysis.result is not None:
        came_to = f"{_energy(analysis, analysis.result.delivered_wh)} delivered"
        duration = analysis.result.duration_s
    elif analysis.recharge is not None:
        came_to = f"{_energy(analysis, analysis.recharge.drawn_wh)} drawn"
        duration = analysis.recharge.duration_s
    elif analysis.idle is not None:
        idle = format_with_uncertainty(analysis.idle.idle_w, analysis.idle.idle_w_expanded)
        came_to = f"{idle} W"
    void = run.state == RunState.VOID.value
    return RunLine(
        number=run.number,
        date=local_date(run.started_at, zone),
        method=METHODS[run.method].title,
        load=str(run.conditions.get("load") or run.conditions.get("file") or "–"),
        came_to=came_to,
        duration=format_clock(duration) if duration else "–",
        meter=f"{analysis.meter.name} {analysis.meter.accuracy}"
        if analysis.meter
        else "not stated",
        void=(run.void_reason or "no reason given") if void else "",
    )


def _curves(found: StationRuns) -> list[Curve]:
    """Power of every finished run with samples: discharges and recharges."""
    made = []
    for analysis in found.analyses:
        flow = METHODS[analysis.run.method].flow
        finished = analysis.run.state == RunState.FINISHED.value
        if analysis.trace is None or flow is Flow.IDLE or not finished:
            continue
        time_s, power = analysis.trace.valid(Quantity.POWER)
        if time_s.size < 2:
            continue
        number = analysis.run.number
        title = f"Run {number}, {METHODS[analysis.run.method].title}"
        kind = SOURCES.get(analysis.run.method, ("", Kind.DELIVERED))[1]
        made.append(
            Curve(
                key=f"run-{number}",
                title=title,
                kind=kind,
                time_s=time_s,
                power_w=power,
                solar=analysis.solar.run if analysis.solar else None,
            )
        )
    return made


def _uncertainty_words(yard: YardFile) -> str:
    share = 100 * yard.info().repeatability
    return (
        "expanded, k = 2 or Student's t (JCGM 100). Figures of a run are the meter's; headline, "
        f"facts and verdicts speak of the station, with {share:g} % from run to run where no "
        "repeats tell more"
    )


def _doubt_words(analysis: RunAnalysis) -> Iterator[str]:
    """What a run was doubted for, and how the reviewer explains it."""
    for code in doubts_of(analysis.notices):
        words = analysis.run.explained.get(code.value)
        how = f"explained: {words}" if words else "not explained, so nothing is met by it"
        yield f"Run {analysis.run.number}: {DOUBTS[code]} ({how})."


def _method(yard: YardFile, found: StationRuns, rule: Rule) -> list[tuple[str, str]]:
    """What a later reader asks: at what load, with which meter, what was the floor set to?"""
    done = [a for a in found.analyses if a.run.state == RunState.FINISHED.value]
    loads = [f"{a.result.mean_w:.0f} W" for a in done if a.result and a.result.mean_w]
    windows = dict.fromkeys(f"{a.run.soc_from:g} → {a.run.soc_to:g} %" for a in done)
    meters = dict.fromkeys(
        f"{a.meter.name} {a.meter.accuracy}" if a.meter else "not stated" for a in done
    )
    floors = dict.fromkeys(
        str(a.run.conditions["settings"]["floor"]) + " %"
        for a in done
        if a.run.conditions.get("settings", {}).get("floor") not in (None, "")
    )
    draws = dict.fromkeys(f"{a.run.own_draw_w:g} W, added back" for a in done if a.run.own_draw_w)
    site = yard.site()
    days = sorted({local_date(a.run.started_at, zone_of(site)) for a in done})
    rows = [
        ("Days", ", ".join(days) or "–"),
        ("Loads", ", ".join(dict.fromkeys(loads)) or "none yet"),
        ("State of charge", ", ".join(windows) or "–"),
        ("Meters", ", ".join(meters) or "–"),
        ("Discharge floor", ", ".join(floors) or "not noted"),
        ("Meters' own draw", ", ".join(draws) or "none fed by the station"),
        ("Times", f"of the site, {zone_name(site)}"),
        ("Uncertainty", _uncertainty_words(yard)),
        ("Rule", _RULE_WORDS[rule]),
        ("Methods", ", ".join(dict.fromkeys(METHODS[a.run.method].title for a in done)) or "–"),
        ("Worked out by", f"Yard Toll {__version__}"),
    ]
    if doubts := [words for a in done for words in _doubt_words(a)]:
        rows.append(("What was doubted", " ".join(doubts)))
    if site.temperature_c is not None:
        height = f", {site.altitude_m:g} m above the sea" if site.altitude_m else ""
        rows.insert(5, ("Bench", f"about {site.temperature_c:g} °C{height}"))
    return rows
