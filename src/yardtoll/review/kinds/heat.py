"""Heat and fans as a kind of run: the highest and where, fans, cut-backs, refusals to charge."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import format_span
from yardtoll.core.output.heat import FIELDS, HOW, HeatResult, analyse_heat
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.outputs import heat_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds.tables import TableKind, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Mark, ReadingKind

_MINUTE_S = 60.0
_FAN_WORDS = ("fan on", "fan off")
_MOST_FANS, _NEAR_S = 4, 180.0


@dataclass(frozen=True, kw_only=True)
class HeatOutcome(Outcome):
    """What the heat did."""

    heat: HeatResult


class Heat(TableKind):
    """Temperatures and what was seen with them."""

    order = 62
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> HeatOutcome:
        """Readings by time."""
        found = analyse_heat(lines_of(run, "no temperature"))
        if not found.points:
            raise UnusableDataError("no line has a time")
        figures = []
        if found.highest is not None:
            figures.append(
                Figure(
                    key="highest_c", title="Highest", value=found.highest.temperature_c or 0.0,
                    unit="°C", note=f" at the {found.highest.where}" if found.highest.where else "",
                )
            )  # fmt: skip
        figures.append(Figure(key="readings", title="Lines", value=float(len(found.points))))
        return HeatOutcome(heat=found, figures=tuple(figures))

    def headline(self, run: RunAnalysis) -> str:
        """Like "58 °C at the exhaust, the highest; fans after 12 min"."""
        found = _found(run)
        parts = []
        if found.highest is not None:
            where = f" at the {found.highest.where}" if found.highest.where else ""
            parts.append(f"{found.highest.temperature_c:.0f} °C{where}, the highest")
        if found.fans:
            parts.append(f"fans after {_minutes(found.fans[0][0])}")
        if found.refused:
            parts.append("it refused to charge")
        return "; ".join(parts) or "Nothing hot was seen"

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """The highest and its rise, fans, cut-backs, and how long it refused to charge."""
        found = _found(run)
        if found.highest is not None:
            point = found.highest
            how = dict(HOW).get(point.how, point.how)
            where = f" at the {point.where}" if point.where else ""
            load = f" at {point.load_w:.0f} W" if point.load_w else ""
            by = f", by {how}" if how else ""
            rise = f", up by {found.rise_k:.0f} °C" if found.rise_k is not None else ""
            yield (
                f"The highest was {point.temperature_c:.1f} °C{where} after "
                f"{_minutes(point.minute)}{load}{rise}{by}."
            )
        for on, off, load_w, at_c in found.fans:
            until = f" until {_minutes(off)}" if off is not None else ""
            load = f" at {load_w:.0f} W" if load_w else ""
            heat = f", {at_c:.0f} °C" if at_c is not None else ""
            yield f"Fans ran from {_minutes(on)}{until}{load}{heat}."
        if found.cut_back is not None:
            minute, at_c = found.cut_back
            heat = f" at {at_c:.0f} °C" if at_c is not None else ""
            yield f"Power was cut back after {_minutes(minute)}{heat}."
        if found.refused:
            heat = f" at {found.refused_at_c:.0f} °C" if found.refused_at_c is not None else ""
            rest = (
                f"; it charged again after {_minutes(found.rested_min)}"
                if found.rested_min is not None
                else "; nobody noted when it charged again"
            )
            yield f"It refused to charge{heat}{rest}."

    def beside_words(self, station: StationRuns) -> Iterator[str]:
        """When fans were noted in other runs, at what load and temperature."""
        for other in station.analyses:
            if other.is_void or other.method.is_table:
                continue
            fans = [m for m in other.records.marks if m.word.lower() in _FAN_WORDS]
            parts = [_fan_words(mark, other) for mark in fans[:_MOST_FANS]]
            if parts:
                yield f"Run {other.run.number}: {', '.join(parts)}."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Temperatures over time with the fans below."""
        return [heat_scene(_found(run), *size, palette)]


def _found(run: RunAnalysis) -> HeatResult:
    assert isinstance(run.outcome, HeatOutcome)
    return run.outcome.heat


def _fan_words(mark: Mark, run: RunAnalysis) -> str:
    watts = ""
    if run.trace is not None and Quantity.POWER in run.trace.columns:
        time_s, power = run.trace.valid(Quantity.POWER)
        if time_s.size:
            at_w = float(np.interp(mark.time_s, time_s, power))
            watts = f" at {at_w:.0f} W"
    read = run.records.readings_of(ReadingKind.TEMPERATURE)
    near = [r for r in read if abs(r.time_s - mark.time_s) <= _NEAR_S]
    heat = f", {near[0].value:.0f} °C" if near else ""
    return f"{mark.word.lower()} after {format_span(mark.time_s)}{watts}{heat}"


def _minutes(minutes: float) -> str:
    return format_span(minutes * _MINUTE_S)


KIND = Heat()
