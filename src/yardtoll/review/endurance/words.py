"""An outage's answer in sentences."""

from collections.abc import Iterator
from datetime import datetime, timedelta

from yardtoll.core.formatting import counted, format_with_uncertainty
from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.review.endurance.answer import Answer, Cause
from yardtoll.review.endurance.build import Inputs
from yardtoll.store.records import SunFrom
from yardtoll.store.shown_region import clock

_LOPSIDED = 2.0
"""Where one side of an interval is so many times the other, both ends are said instead of a ±."""
_KWH = 1000.0
_CAUSES = {
    Cause.STORE: ("Store and overhead", "as fitted from the station's runs, taken together"),
    Cause.LOADS: ("Appliances", "between the least and the most that each draws"),
    Cause.WEATHER: ("Weather", "between the least and the most sun of such a day"),
}
CAUTIONS = (
    "A medical device needs a second source: ask its supplier how long it may be without.",
    "Never feed a house through an outlet: a transfer switch is a licensed electrician's work.",
)
GENERATOR_CAUTION = "A generator runs out of doors only, away from windows."


def headline(answer: Answer) -> str:
    """The finding in one sentence."""
    result, inputs = answer.result, answer.inputs
    if result.hours is not None:
        parts = [f"Lasts until {_until(answer)}"]
        parts.append(f"{_energy(result.short_wh)} short of the {_span(inputs.outage.hours)}")
        closing = _closing(answer)
        if closing:
            parts.append(closing)
        return "; ".join(parts)
    left = _left_at_end(answer)
    until = _moment(answer, inputs.outage.hours)
    if not answer.is_unsure:
        return f"Lasts the whole {_span(inputs.outage.hours)}: {left} left at {until}"
    share = 100 * answer.spread.lasts_share
    earliest = _moment(answer, answer.low_h or 0.0)
    said = f"May just last to {until}, in {share:.0f} of 100 cases; empty at {earliest} at worst"
    closing = _closing(answer)
    return f"{said}; {closing}" if closing else said


def _until(answer: Answer) -> str:
    """Like "06:40 ± 0:50 on Friday"."""
    hours, low, high = answer.result.hours, answer.spread.low_h, answer.spread.high_h
    assert hours is not None
    at = _at(answer, hours)
    on = _day(answer, at)
    if not answer.inputs.store.has_u:
        return f"{clock(at)}{on}"
    if low is None:
        return f"{clock(at)}{on}, or longer"
    if high is None:
        return f"{clock(at)}{on}, {clock(_at(answer, low))} at the earliest"
    before, after = max(hours - low, 1e-9), max(high - hours, 1e-9)
    if max(before, after) > _LOPSIDED * min(before, after) and max(before, after) > 0.5:
        ends = f"{clock(_at(answer, low))} and {clock(_at(answer, high))}"
        return f"{clock(at)}{on}, between {ends}"
    minutes = max(round(60 * (high - low) / 2), 1)
    return f"{clock(at)} ± {minutes // 60}:{minutes % 60:02d}{on}"


def _left_at_end(answer: Answer) -> str:
    last = answer.spread.band[-1]
    expanded = (last.high_wh - last.low_wh) / 2
    if not answer.inputs.store.has_u or not expanded:
        return f"{answer.result.left_wh:.0f} Wh"
    return f"{format_with_uncertainty(answer.result.left_wh, expanded)} Wh"


def _closing(answer: Answer) -> str:
    found = answer.remedies
    ways = []
    if found.packs is not None:
        of = f" of {answer.inputs.pack_wh:.0f} Wh"
        ways.append(f"one pack{of}" if found.packs == 1 else f"{found.packs} packs{of}")
    if found.panels is not None:
        more = "one more panel" if found.panels == 1 else f"{found.panels} more panels"
        ways.append(f"{more} of {answer.inputs.sky.module_w:.0f} W" if answer.inputs.sky else more)
    if not ways and found.without:
        return f"it lasts without {found.without}"
    one_thing = len(ways) == 1 and 1 in (found.packs, found.panels)
    closes = "closes" if one_thing else "close"
    return f"{' or '.join(ways)} {closes} it" if ways else ""


def rests_on(answer: Answer) -> list[str]:
    """What the answer rests on, a sentence each."""
    inputs = answer.inputs
    return [
        *_store_words(inputs),
        *_sun_words(answer),
        *_off_words(answer),
        *_took_words(answer),
    ]


def _store_words(inputs: Inputs) -> Iterator[str]:
    store, outage = inputs.store, inputs.outage
    if store.has_u:
        said = format_with_uncertainty(store.store_wh, store.store_expanded)
        over = format_with_uncertainty(store.overhead_w, store.overhead_expanded)
    else:
        said, over = f"{store.store_wh:.0f}", f"{store.overhead_w:.1f}"
    yield f"Store {said} Wh and overhead {over} W, {store.basis}."
    if not store.has_u:
        yield "Its ± is not known, so that none is said of the store."
    if outage.units > 1:
        yield f"{outage.units} stations together: so many times the store, and the overhead too."
    if outage.packs_wh:
        total = sum(outage.packs_wh)
        yield (
            f"{counted(len(outage.packs_wh), 'pack')} with {total:.0f} Wh by the rating, taken to "
            f"give the same share of it as the station: not tested."
        )


def _sun_words(answer: Answer) -> Iterator[str]:
    inputs, result = answer.inputs, answer.result
    if inputs.sky is not None:
        weather = inputs.weather
        if inputs.outage.sun == SunFrom.RUN:
            said = "The sun of a measured day, again each day"
        else:
            said = (
                f"A clear sky over the site, {100 * weather.low:.0f} to {100 * weather.high:.0f} % "
                f"of it through the weather (common practice)"
            )
        cap = inputs.cap
        capped = f"up to {cap.watts:.0f} W {cap.basis}" if cap.watts is not None else cap.basis
        yield f"{said}; {capped}."
        yield (
            f"{100 * inputs.by_sun.share:.0f} % of the sun's input comes into the store "
            f"({inputs.by_sun.basis}): {_energy(result.sun_wh)} in all."
        )
        if result.over_cap_wh >= 1 or result.spilled_wh >= 1:
            yield (
                f"Spilled: {_energy(result.over_cap_wh)} over the cap, "
                f"{_energy(result.spilled_wh)} with the store full."
            )
    if inputs.outage.feeds:
        yield (
            f"From the wall or a generator {_energy(result.fed_wh)} come into the store, "
            f"{100 * inputs.by_wall.share:.0f} % of what is drawn ({inputs.by_wall.basis})."
        )


def _off_words(answer: Answer) -> Iterator[str]:
    if answer.result.hours is not None and (answer.inputs.sky or answer.inputs.outage.feeds):
        yield (
            "Once empty the outlet stays off, also when the sun is back, until a charger is "
            "plugged in or somebody switches it on."
        )


def _took_words(answer: Answer) -> Iterator[str]:
    result = answer.result
    if result.overhead_share is not None:
        yield (
            f"The station itself takes {_energy(result.overhead_wh)}, "
            f"{100 * result.overhead_share:.0f} % of all that leaves the store."
        )
    most = max(answer.spread_by.items(), key=lambda item: item[1], default=None)
    if most is not None and most[1] > 0 and answer.inputs.store.has_u:
        cause = _CAUSES[most[0]][0].lower()
        yield f"Most of what is unsure comes of the {cause}." + _advice(answer, most[0])


def _advice(answer: Answer, cause: Cause) -> str:
    if cause is not Cause.STORE:
        return ""
    store = answer.inputs.store
    if store.overhead_expanded > 0.3 * max(store.overhead_w, 1.0):
        return " A night's idle test with the outlet on would say more of the overhead."
    return ""


def warnings(answer: Answer, surge_w: float | None) -> list[str]:
    """What would go wrong before the store is empty."""
    said = []
    rated_w = answer.inputs.station.rated_w * answer.inputs.outage.units
    if answer.peak_w > rated_w:
        at = clock(_at(answer, answer.peak_h))
        said.append(
            f"At {at} the appliances may draw {answer.peak_w:.0f} W at once, over the "
            f"{rated_w:g} W it is rated for: it would shut off."
        )
    said += [
        f"{load.name} takes {load.inrush_w:.0f} W to start, over the {surge_w:g} W of surge."
        for load in answer.asked.loads
        if surge_w is not None and load.inrush_w is not None and load.inrush_w > surge_w
    ]
    return said


def cautions(answer: Answer | None) -> list[str]:
    """What to take care of in an outage."""
    by_generator = answer is not None and answer.inputs.outage.feeds
    return [*CAUTIONS, *([GENERATOR_CAUTION] if by_generator else [])]


def answer_budget(answer: Answer) -> Budget | None:
    """Of the hours it lasts, or of the Wh left: a line for each cause alone; None where the
    store's ± is not known.
    """
    if not answer.inputs.store.has_u:
        return None
    lines = [
        Contribution(name=_CAUSES[cause][0], why=_CAUSES[cause][1], u=width / 4)
        for cause, width in answer.spread_by.items()
    ]
    return Budget.of("Wh" if answer.result.lasts else "h", lines)


def answer_figure(answer: Answer) -> str:
    """What the budget is of, like "Lasts 12.6 h"."""
    hours = answer.result.hours
    return f"Lasts {hours:.1f} h" if hours is not None else f"{answer.result.left_wh:.0f} Wh left"


def _at(answer: Answer, hour: float) -> datetime:
    return answer.inputs.begins + timedelta(hours=hour)


def _moment(answer: Answer, hour: float) -> str:
    at = _at(answer, hour)
    return f"{clock(at)}{_day(answer, at)}"


def _day(answer: Answer, at: datetime) -> str:
    """Like " on Friday", where it is not the day it begins."""
    return f" on {at:%A}" if at.date() != answer.inputs.begins.date() else ""


def _energy(wh: float) -> str:
    return f"{wh / _KWH:.1f} kWh" if wh >= _KWH / 2 else f"{wh:.0f} Wh"


def _span(hours: float) -> str:
    return f"{hours:g} h"
