"""Tries of motors and appliances as a kind of run: ran, only turned, or tripped the station."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted, shortened
from yardtoll.core.output.appliances import (
    FIELDS,
    MODES,
    RESETS,
    ApplianceResult,
    Started,
    analyse_tries,
    heating_share,
)
from yardtoll.core.output.entries import Fields, number_in, word_in
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.outputs import tries_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds.tables import TableKind, claimed_value, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis

_MOST_NAMED, _LONGEST_NAME = 4, 40


@dataclass(frozen=True, kw_only=True)
class AppliancesOutcome(Outcome):
    """Every appliance that was tried."""

    appliances: tuple[ApplianceResult, ...]


class Appliances(TableKind):
    """A log of tries."""

    order = 54
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> AppliancesOutcome:
        """Tries put together by appliance."""
        found = analyse_tries(lines_of(run, "no appliance tried"), _seen_surge_w(run))
        if not found:
            raise UnusableDataError("no line says which appliance was tried and what came of it")
        ran = sum(a.ran for a in found)
        figure = Figure(key="ran", title="Ran", value=float(ran), note=f" of {len(found)}")
        return AppliancesOutcome(appliances=found, figures=(figure,))

    def headline(self, run: RunAnalysis) -> str:
        """Like "Ran 3 of 5: fridge, kettle, drill; not the compressor and the saw"."""
        found = _found(run)
        names = [a.appliance for a in found]
        shown = [a.name if names.count(a.appliance) > 1 else a.appliance for a in found]
        ran = [name for a, name in zip(found, shown, strict=True) if a.ran]
        not_ran = [name for a, name in zip(found, shown, strict=True) if not a.ran]
        said = f"Ran {len(ran)} of {len(found)}"
        if ran:
            said += f": {_named(ran)}"
        if not_ran:
            said += f"; not {_named(not_ran)}"
        return said

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """A sentence an appliance, and how the station came back from trips."""
        resets = dict(RESETS)
        for found in _found(run):
            yield _appliance_words(found)
        yield from filter(None, (_heating_words(e.fields) for e in run.records.entries))
        back = [
            f"{word_in(e.fields, 'appliance')}: {resets[reset]}"
            + (f", code {code}" if (code := word_in(e.fields, "error_code")) else "")
            for e in run.records.entries
            if (reset := word_in(e.fields, "reset")) in resets
            and word_in(e.fields, "started") == Started.TRIPPED.value
        ]
        if back:
            yield f"After a trip it came back: {'; '.join(back)}."
        if any(a.mode == "lowering" for a in _found(run)):
            yield "Voltage-lowering mode is for heaters only: what it starts is another test."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Peaks seen and needs known, with the rating and the surge claimed."""
        surge_w = claimed_value(run, "surge_w")
        return [tries_scene(_found(run), surge_w, run.station.rated_w, *size, palette)]


def _heating_words(fields: Fields) -> str:
    """Like "Kettle: 1 L from 15 to 100 °C took 112 Wh, 88 % of it into the water."; "" for none."""
    share = heating_share(fields)
    if share is None:
        return ""
    litres, low, high, took_wh = (
        number_in(fields, key) for key in ("water_l", "water_from_c", "water_to_c", "heating_wh")
    )
    return (
        f"{word_in(fields, 'appliance')}: {litres:g} L from {low:g} to {high:g} °C took "
        f"{took_wh:.0f} Wh, {100 * share:.0f} % of it into the water."
    )


def _found(run: RunAnalysis) -> tuple[ApplianceResult, ...]:
    assert isinstance(run.outcome, AppliancesOutcome)
    return run.outcome.appliances


def _named(names: Sequence[str]) -> str:
    """The first few in full; every one has a sentence of its own below."""
    first = ", ".join(shortened(name, _LONGEST_NAME) for name in names[:_MOST_NAMED])
    more = len(names) - _MOST_NAMED
    return f"{first} and {more} more" if more > 0 else first


def _seen_surge_w(run: RunAnalysis) -> float | None:
    """The most W that anything started with: the station gave it, if only for a moment."""
    peaks = [
        value
        for entry in run.records.entries
        if word_in(entry.fields, "started") == Started.STARTED.value
        and isinstance(value := entry.fields.get("peak_w"), int | float)
    ]
    return max(peaks, default=None)


def _appliance_words(found: ApplianceResult) -> str:
    last = found.tries[-1]
    rating = f" of {last.nameplate_w:.0f} W" if last.nameplate_w else ""
    mode = f" in {dict(MODES)[found.mode]} mode" if found.mode in ("lowering", "eco") else ""
    outlet = f" on {found.outlet}" if found.outlet else ""
    said = f"{found.appliance}{rating}{outlet}{mode}: {last.started.words}"
    if len(found.tries) > 1:
        said += f" ({found.starts} of {counted(len(found.tries), 'try', 'tries')})"
    peaks = [t for t in found.tries if t.peak_w]
    if peaks:
        highest = max(peaks, key=lambda t: t.peak_w or 0.0)
        least = "at least " if highest.peak_at_least else ""
        said += f", peak {least}{highest.peak_w:.0f} W"
    if last.soc_percent is not None and last.started is not Started.STARTED:
        said += f", at {last.soc_percent:.0f} % charge"
    if found.missing_w is not None:
        most = "at most " if found.missing_at_most else ""
        said += f"; {most}about {found.missing_w:.0f} W of surge were missing, as far as is known"
    if found.ran_elsewhere:
        said += "; elsewhere it ran, so the cord, outlet or mode was the reason"
    return f"{said}."


KIND = Appliances()
