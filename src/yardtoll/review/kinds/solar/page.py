"""A solar run's page: harvest, what limited it, clouds, shade, other days."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.trace import Code
from yardtoll.core.formatting import counted, format_span, format_with_uncertainty
from yardtoll.core.planning.inputs import claimed
from yardtoll.core.sun.limits import Limit
from yardtoll.core.sun.passings import slow_tracker_wh, usual_lag
from yardtoll.core.sun.solar_run import SolarRun
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.review.kinds.solar.figures import (
    NAMED_SHARE,
    harvest_of,
    lost_to_the_other,
    solar_figures,
    volts_seen,
)
from yardtoll.review.kinds.solar.outcome import sunlight_in
from yardtoll.review.kinds.solar.sunlight import Sunlight
from yardtoll.review.run_analysis import RunAnalysis, in_time
from yardtoll.review.station.beside import inputs_beside
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import local

LIGHT_WORDS = {
    "sensor": "by the irradiance sensor",
    "typed": "by the irradiance readings",
    "clear sky": "under a clear sky",
}
_SHADES_TOLD = 4
_LEAST_LAG_S = 1.0


@dataclass(frozen=True, kw_only=True)
class SolarPage:
    """One solar run in words and figures.

    Attributes:
        shares: what limited it, with its share of the time.
        words: sentences.
        days: (run id, date, harvest, share of the expected, what a clear day would give).
        lag_s, step_w: of the tracker, for what it costs in a year; None where none was seen.
    """

    headline: str
    subtitle: str
    figures: tuple[Figure, ...]
    shares: tuple[tuple[Limit, float], ...] = ()
    words: tuple[str, ...] = ()
    days: tuple[tuple[int, str, str, str, str], ...] = ()
    lag_s: float | None = None
    step_w: float = 0.0


def solar_page(analysis: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> SolarPage:
    """The page of one solar run, beside the station's other ones."""
    light = sunlight_in(analysis)
    assert light is not None
    run = light.run
    lag = usual_lag(run.clouds, run.recoveries)
    if lag is not None and lag < _LEAST_LAG_S:
        lag = None
    steps = [r.drop_w for r in run.recoveries]
    wrong = [n.message for n in run.notices if n.code is Code.CLOCK_OR_AIM_WRONG]
    return SolarPage(
        headline=_headline(run),
        subtitle=_subtitle(analysis, light),
        figures=tuple(solar_figures(analysis, light)),
        shares=tuple(
            (limit, share)
            for limit, share in (run.limited_by or {}).items()
            if share >= NAMED_SHARE
        ),
        words=(*(f"{said}." for said in wrong), *_words(analysis, light, station, claims)),
        days=tuple(_days(station)),
        lag_s=lag,
        step_w=max(steps) if steps else 0.5 * run.peak_w,
    )


def tracker_words(lag_s: float, step_w: float, passings: int, days: int) -> str:
    """What a lag costs on a day of broken cloud, and over a year of such days."""
    a_day = slow_tracker_wh(lag_s, step_w, passings)
    return (
        f"{a_day:.1f} Wh on such a day, {a_day * days / 1000:.2f} kWh a year: back after "
        f"{lag_s:.0f} s, {step_w:.0f} W each time."
    )


def _headline(run: SolarRun) -> str:
    if run.performance is None or run.limited_by is None:
        return f"{run.harvest_wh:.0f} Wh harvested"
    said = f"{100 * run.performance:.0f} % of what the sun allowed"
    others = {k: v for k, v in run.limited_by.items() if k is not Limit.SUN}
    most = max(others, key=lambda k: others[k])
    if others[most] < 0.02:
        return f"{said}: nothing but the sun held it back"
    because = {
        Limit.ARRAY: "the panels gave less",
        Limit.CAP: "the station's cap held it",
        Limit.FULL: "the battery was nearly full",
        Limit.SHADE: "something shaded the panels",
    }[most]
    return f"{said}: {because} for {100 * others[most]:.0f} % of the time"


def _subtitle(analysis: RunAnalysis, light: Sunlight) -> str:
    began = local(analysis.run.started_at)
    parts = [f"Run {analysis.run.number}", f"{began:%a %-d %b %Y}, from {clock(began)}"]
    if light.arrays:
        names = " and ".join(array.name for array in light.arrays)
        parts.append(f"{names}, {light.array_w:g} W")
    if light.light:
        parts.append(f"expected {LIGHT_WORDS[light.light]}")
    if light.missing:
        parts.append(light.missing)
    return " · ".join(parts)


def _words(
    analysis: RunAnalysis, light: Sunlight, station: StationRuns, claims: Sequence[Claim]
) -> list[str]:
    run, began = light.run, local(analysis.run.started_at)
    said = [_shade_words(run, began)] if run.recoveries else []
    if run.clouds:
        lost = sum(cloud.lost_wh for cloud in run.clouds)
        lags = sorted(cloud.lag_s for cloud in run.clouds if cloud.lag_s is not None)
        each = max(cloud.lost_wh for cloud in run.clouds)
        words = f"{counted(len(run.clouds), 'cloud')} passed and cost {lost:.0f} Wh"
        words += f", up to {each:.1f} Wh each" if len(run.clouds) > 1 else ""
        if lags and lags[len(lags) // 2] >= _LEAST_LAG_S:
            middle = lags[len(lags) // 2]
            words += (
                f"; the input was back {middle:.0f} s after the light: the tracker's doing, not "
                "the cloud's"
            )
        said.append(f"{words}.")
    if (volts := volts_seen(analysis)) is not None:
        said.append(_volts_words(volts, claims))
    for beside in inputs_beside(analysis, station):
        lost_wh = lost_to_the_other(analysis, light, beside)
        other = beside.pair.names[1]
        words = f"Together with {other} for {format_span(beside.pair.together_s)}"
        if beside.pair.cap_w is not None:
            words += f", the sum capped at {beside.pair.cap_w:.0f} W"
        if beside.pair.yields:
            words += f"; {beside.pair.yields} yields"
        if lost_wh is not None:
            words += (
                f"; the sun lost {lost_wh:.0f} Wh to it"
                if lost_wh >= 1
                else "; the sun lost nothing"
            )
        said.append(f"{words}.")
    if not run.measured_sun and run.expected_wh is not None:
        said.append(
            "Without an irradiance log the clear sky is assumed: clouds and a weak array "
            "are separated by whether the input varies."
        )
    return said


def _shade_words(run: SolarRun, began: datetime) -> str:
    parts = []
    for shade in run.recoveries[:_SHADES_TOLD]:
        at = began + timedelta(seconds=shade.start_s)
        back = "not back" if shade.recover_s is None else f"95 % back in {shade.recover_s:.0f} s"
        parts.append(f"{clock(at)} −{shade.drop_w:.0f} W, {back}, {shade.lost_wh:.0f} Wh lost")
    more = len(run.recoveries) - _SHADES_TOLD
    return f"Shade: {'; '.join(parts)}{f'; and {more} more' if more > 0 else ''}."


def _volts_words(volts: tuple[float, float], claims: Sequence[Claim]) -> str:
    low, high = volts
    said = f"The input took power from {low:.1f} to {high:.1f} V"
    lowest, highest = claimed(claims, "solar_v_min"), claimed(claims, "solar_v_max")
    if lowest is None and highest is None:
        return f"{said}."
    window = f"{lowest or 0:g}–{highest:g} V" if highest is not None else f"from {lowest:g} V"
    inside = (lowest is None or low >= lowest) and (highest is None or high <= highest)
    return f"{said}: {'inside' if inside else 'outside'} the claimed {window}."


def _days(station: StationRuns) -> list[tuple[int, str, str, str, str]]:
    """Every solar run of the station, put to one sky."""
    rows = []
    for analysis in in_time(station.analyses):
        light = sunlight_in(analysis)
        if light is None:
            continue
        run, budget = light.run, harvest_of(analysis, light)
        harvest = format_with_uncertainty(run.harvest_wh, budget.expanded if budget else 0.0)
        share = f"{100 * run.performance:.0f} %" if run.performance is not None else "–"
        clear = "–"
        if run.clear_wh is not None and run.performance is not None:
            clear = f"{run.performance * run.clear_wh:.0f} Wh"
        date = f"{local(analysis.run.started_at):%-d %b}, run {analysis.run.number}"
        rows.append((analysis.run.id or 0, date, f"{harvest} Wh", share, clear))
    return rows
