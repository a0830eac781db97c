"""One station's sheet, put together from the yard."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import tzinfo

from yardtoll import __version__
from yardtoll.core.claims.meaning import demand_of
from yardtoll.core.conformance.judging import JudgedClaim, Standing, only_stated, stated_sentence
from yardtoll.core.conformance.scorecard import summed
from yardtoll.core.conformance.verdict import Rule
from yardtoll.core.electrical.doubts import DOUBTS, doubt_reason, doubts_of
from yardtoll.core.formatting import format_clock
from yardtoll.core.ledger.ledger import Ledger
from yardtoll.core.methods import cautions
from yardtoll.core.uncertainty.figure import Figure, Style, by_key
from yardtoll.report.charts.curve import Curve
from yardtoll.report.sheet.contents import Claimed, Picture, RunLine, Scoring, Sheet
from yardtoll.review.analysis import analyses_of
from yardtoll.review.conformance import judged_claims
from yardtoll.review.kinds import KINDS, kind_of
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.scoring import scored
from yardtoll.review.sheet.outputs import output_parts
from yardtoll.review.sheet.pictures import published
from yardtoll.review.station.cycle import ledger_of, round_trips
from yardtoll.review.station.fitted import Fitted, fitted_terms, ledger_budgets
from yardtoll.review.station.outlet_runs import OutletRuns, nearest_to_usual
from yardtoll.review.station.runs import StationRuns, station_runs
from yardtoll.store.records import Station
from yardtoll.store.shown_region import shown_region
from yardtoll.store.site_time import local_date, zone_name, zone_of
from yardtoll.store.yard_file import YardFile

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


def build_sheet(
    yard: YardFile, station: Station, analyses: Sequence[RunAnalysis] | None = None
) -> Sheet:
    """Everything a yard knows about one station.

    It does not depend on the time: the same yard gives the same sheet.

    Args:
        analyses: of its ended runs, where already made.
    """
    assert station.id is not None
    found = station_runs(analyses_of(yard, station) if analyses is None else analyses)
    receiving, review = yard.receiving(station.id), yard.review(station.id)
    rule = Rule(yard.info().rule)
    claims = [stored.claim for stored in yard.claims(station.id)]
    observations = yard.observations(station.id)
    judged = judged_claims(found, claims, receiving, observations, rule)
    zone = zone_of(yard.site())
    usual = nearest_to_usual(found.analyses)
    shown = [j for j in sorted(judged, key=_rank) if _has_evidence(j)]
    ledger = ledger_of(usual, found) if usual is not None else None
    tolls = _tolls(ledger, usual, found) if ledger is not None and usual is not None else ()
    points = scored(yard.score_points(), found, receiving, observations)
    got, of = summed(points)
    return Sheet(
        region=shown_region(),
        station=station.name,
        subtitle=_subtitle(station, found, receiving.price, receiving.currency, zone),
        finding=_finding(judged, found, usual),
        summary=review.summary,
        facts=tuple(_facts(found)),
        claims=tuple(_claimed(j) for j in shown),
        untested=_untested(judged),
        stated=stated_sentence(judged),
        results=tuple(_results(found)),
        runs=tuple(_line(a, zone) for a in found.analyses),
        ledger=ledger,
        ledger_title=f"Run {usual.run.number}, Wh" if usual is not None else "",
        tolls=tolls,
        curves=tuple(_curves(found)),
        outputs=tuple(output_parts(found)),
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
        pictures=tuple(_pictures(yard, station.id)),
        cautions=(cautions.NEVER_OPEN, cautions.UNATTENDED, cautions.CORDS, cautions.COOL_FIRST,
                  cautions.DC_VOLTS, cautions.LOCAL_FIRST),
    )  # fmt: skip


def _pictures(yard: YardFile, station_id: int) -> Iterator[Picture]:
    """The photos that can be read, without what their files say beside the pixels."""
    for photo in yard.photos(station_id):
        found = published(yard.photo_bytes(photo.id or 0))
        if found is not None:
            yield Picture(caption=photo.caption or photo.name, media_type=found[0], data=found[1])


def _tolls(ledger: Ledger, usual: RunAnalysis, found: StationRuns) -> tuple[Figure, ...]:
    """Each gate's toll with its evidence."""
    places, budgets = ledger.places, ledger_budgets(ledger.places, usual, found)
    return tuple(
        Figure(
            key="toll_wh",
            title=place.title,
            value=place.energy_wh,
            unit="Wh",
            budget=budget if budget is not None and budget.expanded else None,
            how=place.evidence,
        )
        for place, budget in list(zip(places, budgets, strict=True))[1::2]
    )


def _rank(judged: JudgedClaim) -> int:
    return _ORDER.index(judged.standing)


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())


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


def _finding(judged: Sequence[JudgedClaim], found: StationRuns, usual: RunAnalysis | None) -> str:
    counts = {s: sum(j.standing is s for j in judged) for s in Standing}
    said = ""
    if usual is not None and usual.energy_out is not None:
        share = by_key(kind_of(usual.run.method).station_facts(found))["usable_ratio"].figure
        mean_w = usual.energy_out.mean_w
        load = f"at {mean_w:.0f} W" if mean_w else "of this station"
        if usual.doubts:
            said = f"What reaches the outlet is in doubt: {doubt_reason(usual.doubts)}. "
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


def _facts(found: StationRuns) -> list[Figure]:
    """The few figures shown large."""
    facts = [fact for kind in KINDS for fact in kind.station_facts(found)]
    trips = round_trips(found)
    # The round trip stands behind the charge that it rests on.
    place = next((i for i, fact in enumerate(facts) if fact.key == "idle_w"), len(facts))
    return [*facts[:place], *trips[-1:], *facts[place:]]


def _claimed(judged: JudgedClaim) -> Claimed:
    return Claimed(
        title=judged.claim.about.title,
        claimed=demand_of(judged.claim),
        source=judged.claim.source,
        measured=judged.figure,
        standing=judged.standing.value,
        word=judged.standing.words,
        sentence=f"{judged.sentence} {judged.advice}".strip(),
        budget=judged.finding.budget if judged.finding else None,
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


def _results(found: StationRuns) -> list[Figure]:
    """Figures that come of several runs, and what kinds of run add."""
    rows = [figure for runs in (found.ac, found.dc) for figure in _fitted(runs)]
    rows += round_trips(found)
    return rows + [figure for kind in KINDS for figure in kind.station_results(found)]


def _fitted(runs: OutletRuns) -> list[Figure]:
    """What was fitted from the discharges through one kind of outlet."""
    if not runs.has_split or runs.split is None:
        return []
    how = f"fitted from {len(runs.points)} {runs.outlet} runs at different loads"
    terms = fitted_terms(runs)
    if not runs.split.degrees_of_freedom and terms[Fitted.STORE].budget is not None:
        how += ", as many as terms: the ± is the meters' and the assumed repeatability"
    if runs.split.conversion_held:
        how += "; as seen at the outlet, because no idle test sets the scale"
    return [
        replace(
            figure,
            title=f"Conversion, {figure.title}"
            if figure.style is Style.PERCENT
            else f"{runs.outlet} {figure.title.lower()}",
            how=how,
        )
        for figure in terms.values()
    ]


def _line(analysis: RunAnalysis, zone: tzinfo) -> RunLine:
    run, figure = analysis.run, analysis.main_figure
    result_text = "no result"
    if figure is not None:
        unknown = ", ± unknown" if figure.budget is None else ""
        words = f" {figure.title.lower()}" if figure.unit == "Wh" else ""
        result_text = f"{figure.brief}{unknown}{words}"
    if analysis.method.is_table and analysis.has_outcome:
        result_text = kind_of(run.method).output_headline(analysis)
    duration = analysis.figures.get("duration_s")
    return RunLine(
        number=run.number,
        date=local_date(run.started_at, zone),
        method=analysis.method.title,
        load=run.conditions.load or run.conditions.file or "–",
        result_text=result_text,
        duration=format_clock(duration.value) if duration is not None else "–",
        meter=f"{analysis.meter.name} {analysis.meter.accuracy}"
        if analysis.meter
        else "not stated",
        void=(run.void_reason or "no reason given") if analysis.is_void else "",
    )


def _curves(found: StationRuns) -> list[Curve]:
    """Power of every finished run that has a curve."""
    curves = (kind_of(a.run.method).curve(a) for a in found.analyses)
    return [curve for curve in curves if curve is not None]


def _uncertainty_words(yard: YardFile) -> str:
    share = 100 * yard.info().repeatability
    return (
        "expanded, k = 2 or Student's t (JCGM 100). Figures of a run are the meter's; headline, "
        f"facts and verdicts speak of the station, with {share:g} % from run to run where no "
        "repeats give more"
    )


def _doubt_words(analysis: RunAnalysis) -> Iterator[str]:
    """What a run was doubted for, and how the reviewer explains it."""
    for code in doubts_of(analysis.notices):
        words = analysis.run.explained.get(code.value)
        how = f"explained: {words}" if words else "not explained, so nothing is met by it"
        yield f"Run {analysis.run.number}: {DOUBTS[code]} ({how})."


def _remarks(analysis: RunAnalysis) -> Iterator[str]:
    """What its kind of run says beside the figures, and is not said of the sockets already."""
    kind = kind_of(analysis.run.method)
    told = set(kind.output_words(analysis))
    said = [words for words in kind.remarks(analysis) if words not in told]
    if said:
        yield f"Run {analysis.run.number}: {' '.join(said)}"


def _method(yard: YardFile, found: StationRuns, rule: Rule) -> list[tuple[str, str]]:
    """What a later reader asks: at what load, with which meter, what was the floor set to?"""
    done = [a for a in found.analyses if a.is_finished]
    outs = [a.energy_out for a in done if a.energy_out is not None]
    loads = [f"{out.mean_w:.0f} W" for out in outs if out.mean_w]
    with_power = [a for a in done if not a.method.is_table]
    windows = dict.fromkeys(f"{a.run.soc_from:g} → {a.run.soc_to:g} %" for a in with_power)
    meters = dict.fromkeys(
        f"{a.meter.name} {a.meter.accuracy}" if a.meter else "not stated" for a in done
    )
    floors = dict.fromkeys(f"{a.run.conditions.floor} %" for a in done if a.run.conditions.floor)
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
        ("Methods", ", ".join(dict.fromkeys(a.method.title for a in done)) or "–"),
        ("Worked out by", f"Yard Toll {__version__}"),
    ]
    if doubts := [words for a in done for words in _doubt_words(a)]:
        rows.append(("What was doubted", " ".join(doubts)))
    if remarks := [words for a in done for words in _remarks(a)]:
        rows.append(("Seen on the way", " ".join(remarks)))
    if site.temperature_c is not None:
        height = f", {site.altitude_m:g} m above the sea" if site.altitude_m else ""
        rows.insert(5, ("Bench", f"about {site.temperature_c:g} °C{height}"))
    return rows
