"""Waveforms of the AC outlet as a kind of run: shape, distortion, volts and hertz against load."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.conformance.service_volts import SERVICE_RANGES
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted
from yardtoll.core.output import worked
from yardtoll.core.output.entries import Fields
from yardtoll.core.output.wave_lines import (
    FIELDS,
    SHAPE_WORDS,
    WaveLoads,
    WavePoint,
    against_load,
    wave_point,
)
from yardtoll.core.uncertainty.figure import Figure, Style
from yardtoll.core.waveform.analysis import SECONDS_PER_DAY, WaveResult, analyse_wave
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.report.charts.waves import GRID_LIMITS, curves_scene, harmonics_scene, volts_scene
from yardtoll.report.tables.outputs import clock_words
from yardtoll.review.budgets import EXACT, NO_HERTZ, NO_VOLTS, hertz_budget, volts_budget
from yardtoll.review.evidence import trusted
from yardtoll.review.kinds.tables import (
    USUAL_HZ,
    TableKind,
    captured_lines,
    claimed_value,
    nominal_v,
)
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns

_NOMINAL_SHARE = 0.05
_HEATER_PF = 0.98
"""A load above it takes watts and nothing else, which is not worth a sentence."""
_GRID_THD = 0.08
"""What a public grid may have (EN 50160, from memory)."""
_NOTHING = "no line has volts, hertz, THD or a capture"


@dataclass(frozen=True, kw_only=True)
class WaveOutcome(Outcome):
    """The loads of one outlet."""

    loads: WaveLoads


class Waveform(TableKind):
    """Captures and readings of the outlet at several loads."""

    order = 50
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> WaveOutcome:
        """Every line with what its capture shows."""
        found = captured_lines(run, "no capture or reading", analyse_wave)
        points: list[WavePoint] = []
        told: dict[int, Fields] = {}
        for entry, wave in found.lines:
            point = wave_point(entry.fields, wave)
            if point is not None:
                points.append(point)
                if wave is not None:
                    told[entry.id or 0] = _told(point)
        loads = against_load(points)
        figures = tuple(_figures(loads, run))
        if not figures:
            raise UnusableDataError(
                found.problems[0]
                if found.problems
                else "no line has volts, hertz, THD or a capture"
            )
        return WaveOutcome(loads=loads, figures=figures, notices=found.notices, told=told)

    def headline(self, run: RunAnalysis) -> str:
        """Like "Pure sine at every load; 119.8 V falls by 1.4 % at 1800 W"."""
        loads = _loads(run)
        parts = [_shape_words(loads)]
        if loads.sag is not None:
            moves = "falls" if loads.sag >= 0 else "rises"
            volts = next(p.volts for p in loads.points if p.volts)
            parts.append(
                f"{volts:.1f} V without load {moves} by {100 * abs(loads.sag):.1f} % "
                f"at {loads.sag_at_w:.0f} W"
            )
        elif loads.volts_range is not None:
            parts.append(f"{loads.volts_range[0]:.1f} V")
        said = "; ".join(part for part in parts if part)
        return said[:1].upper() + said[1:]

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """Distortion, volts, the clock, and the load's power factor."""
        loads = _loads(run)
        yield from _thd_words(loads)
        yield from _volts_words(loads, claimed_value(run, "ac_v"))
        yield from _hertz_words(loads, claimed_value(run, "ac_hz"))
        for point in loads.points:
            wave = point.wave
            if wave is not None and wave.power_factor is not None and _is_no_heater(wave):
                yield (
                    f"The load {point.name} took {wave.watts:.0f} W and {wave.va:.0f} VA, "
                    f"power factor {wave.power_factor:.2f}."
                )
            if point.wave is not None and point.wave.dc_v is not None and abs(point.wave.dc_v) > 1:
                yield f"There is {point.wave.dc_v:.1f} V of DC {point.name}."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Cycles laid over each other, harmonics of the worst load, volts against load."""
        loads = _loads(run)
        made = []
        captured = [p for p in loads.points if p.wave is not None and p.wave.cycle]
        if captured:
            made.append(curves_scene(captured, *size, palette))
            bent = [p for p in captured if p.wave is not None and p.wave.distortion is not None]
            if bent:
                worst = max(bent, key=lambda p: p.thd or 0.0)
                made.append(harmonics_scene(worst, *size, palette))
        if len([p for p in loads.points if p.volts]) > 1:
            made.append(volts_scene(loads.points, nominal_v(run), *size, palette))
        return made

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Pure sine as seen; volts and hertz where the instrument's accuracy is stated."""
        loads, number = _loads(run), run.run.number
        if loads.is_sine is not None:
            yield Finding(
                kind="pure_sine",
                value=float(loads.is_sine),
                budget=EXACT,
                agrees=loads.is_sine,
                runs=(number,),
                method=run.run.method,
                seen=f"in run {number}: {_shape_words(loads)}",
            )
        if loads.volts_range is not None and len(loads.points) > 1:
            low, high = loads.volts_range
            middle = (low + high) / 2
            yield Finding(
                kind="ac_v", value=middle, budget=volts_budget(middle, run), unknown=NO_VOLTS,
                ends=loads.volts_range, runs=(number,), method=run.run.method,
                seen=f"at {counted(len(loads.points), 'load')} by a scope",
            )  # fmt: skip
        if loads.hertz_range is not None:
            low, high = loads.hertz_range
            middle = (low + high) / 2
            yield Finding(
                kind="ac_hz", value=middle, budget=hertz_budget(middle, run), unknown=NO_HERTZ,
                ends=loads.hertz_range, runs=(number,), method=run.run.method,
                seen=f"at {counted(len(loads.points), 'load')} by a scope",
            )  # fmt: skip

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """Pure sine at nominal volts."""
        outcome = run.outcome
        if not isinstance(outcome, WaveOutcome) or outcome.loads.is_sine is None:
            return {}
        loads, nominal = outcome.loads, claimed_value(run, "ac_v")
        holds = loads.is_sine
        words = f"{_shape_words(loads)} in run {run.run.number}"
        if nominal and loads.volts_range is not None:
            low, high = loads.volts_range
            inside = all(abs(v / nominal - 1) <= _NOMINAL_SHARE for v in (low, high))
            holds = holds and inside
            words += f", {low:.1f} to {high:.1f} V"
        return {"pure_sine": trusted(float(bool(holds)), words, run)}


def _loads(run: RunAnalysis) -> WaveLoads:
    assert isinstance(run.outcome, WaveOutcome)
    return run.outcome.loads


def _told(point: WavePoint) -> Fields:
    """A capture's figures in the columns of the table."""
    known = {
        "volts_v": point.volts,
        "hertz_hz": point.hertz,
        "thd_percent": 100 * point.thd if point.thd is not None else None,
    }
    told: dict[str, float | str] = {key: v for key, v in known.items() if v is not None}
    if point.shape is not None:
        told["shape"] = point.shape.value
    return told


def _figures(loads: WaveLoads, run: RunAnalysis) -> Iterator[Figure]:
    worst = loads.worst_thd
    if worst is not None and worst.thd is not None:
        yield Figure(
            key="thd", title="THD", value=worst.thd, style=Style.PERCENT, note=f" {worst.name}",
            worked=worked.thd(worst),
        )  # fmt: skip
    loaded = [p for p in loads.points if p.volts]
    if loaded:
        volts = loaded[-1].volts or 0.0
        yield Figure(
            key="volts_v", title="Volts", value=volts, unit="V", budget=volts_budget(volts, run),
            note=f" {loaded[-1].name}", worked=worked.volts(loaded[-1]),
        )  # fmt: skip
    timed = [p for p in loads.points if p.hertz]
    if timed:
        hertz = timed[-1].hertz or 0.0
        yield Figure(
            key="hertz", title="Frequency", value=hertz, unit="Hz",
            budget=hertz_budget(hertz, run), note=f" {timed[-1].name}",
            worked=worked.hertz(timed[-1]),
        )  # fmt: skip
    if loads.sag is not None:
        yield Figure(
            key="sag_ratio", title="Sag", value=loads.sag, style=Style.PERCENT,
            note=f" at {loads.sag_at_w:.0f} W", worked=worked.sag(loads),
        )  # fmt: skip


def _shape_words(loads: WaveLoads) -> str:
    shapes = list(dict.fromkeys(p.shape for p in loads.points if p.shape is not None))
    if not shapes:
        return ""
    if len(shapes) == 1:
        many = " at every load" if len(loads.points) > 1 else ""
        pure = "pure " if loads.is_sine else ""
        return f"{pure}{SHAPE_WORDS[shapes[0]]}{many}"
    named = [f"{SHAPE_WORDS[p.shape]} {p.name}" for p in loads.points if p.shape is not None]
    return ", ".join(named)


def _is_no_heater(wave: WaveResult) -> bool:
    return wave.power_factor is not None and wave.power_factor < _HEATER_PF


def _thd_words(loads: WaveLoads) -> Iterator[str]:
    bent = [p for p in loads.points if p.thd is not None]
    if not bent:
        return
    parts = [f"{100 * (p.thd or 0):.1f} % {p.name}" for p in bent]
    worst = loads.worst_thd
    beside = (
        f", over the {100 * _GRID_THD:.0f} % that a public grid may have (EN 50160)"
        if worst is not None and (worst.thd or 0.0) > _GRID_THD
        else f", within the {100 * _GRID_THD:.0f} % of a public grid (EN 50160)"
    )
    yield f"THD to the 40th harmonic: {', '.join(parts)}{beside}."
    over = _over_the_grid(worst) if worst is not None else []
    if over and worst is not None:
        yield f"Harmonics over a grid's limits {worst.name}: {', '.join(over)}."


def _over_the_grid(point: WavePoint) -> list[str]:
    found = point.wave.distortion if point.wave is not None else None
    return [
        f"order {h.order} at {100 * h.share:.1f} %"
        for h in (found.harmonics if found else ())
        if h.share is not None and h.order in GRID_LIMITS and 100 * h.share > GRID_LIMITS[h.order]
    ][:5]


def _volts_words(loads: WaveLoads, claimed_v: float | None) -> Iterator[str]:
    if loads.volts_range is None:
        return
    low, high = loads.volts_range
    span = f"{low:.1f} V" if high - low < 0.05 else f"{low:.1f} to {high:.1f} V"
    known = [r for r in SERVICE_RANGES if r[0] <= (claimed_v or high) <= r[1]]
    inside = [r for r in known if r[3] <= low and high <= r[4]]
    beside = ""
    if inside:
        beside = f", within {inside[0][2]} ({inside[0][3]:g}–{inside[0][4]:g} V)"
    elif known:
        beside = f", outside {known[-1][2]} ({known[-1][3]:g}–{known[-1][4]:g} V)"
    yield f"The volts are {span} r.m.s.{beside}."


def _hertz_words(loads: WaveLoads, claimed_hz: float | None) -> Iterator[str]:
    if loads.hertz_range is None:
        return
    low, high = loads.hertz_range
    middle = (low + high) / 2
    nominal = claimed_hz or min(USUAL_HZ, key=lambda hertz: abs(hertz - middle))
    gain = SECONDS_PER_DAY * (middle / nominal - 1)
    span = f"{middle:.2f} Hz" if high - low < 0.01 else f"{low:.2f} to {high:.2f} Hz"
    yield f"At {span} a mains clock {clock_words(gain)}."


KIND = Waveform()
