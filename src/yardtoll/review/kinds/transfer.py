"""Switch-overs as a kind of run: how long the outlet is dark when the wall goes and comes."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.conformance.scorecard import Evidence
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted
from yardtoll.core.output import worked
from yardtoll.core.output.entries import Fields
from yardtoll.core.output.switch_lines import (
    FIELDS,
    By,
    Stayed,
    Switch,
    Switches,
    Way,
    all_switches,
    switch_of,
)
from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.core.waveform.transfer import analyse_transfer
from yardtoll.report.charts.outputs import gaps_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.budgets import EXACT
from yardtoll.review.evidence import trusted
from yardtoll.review.kinds.tables import (
    TableKind,
    captured_lines,
    claimed_value,
)
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns

_SEEN_JUMP_DEG = 5.0
"""Smaller ones are in the noise of a capture (common practice, no source)."""
_NOTHING = "no line has a gap, dark frames, or what stayed on"


@dataclass(frozen=True, kw_only=True)
class TransferOutcome(Outcome):
    """Every try."""

    switches: Switches


class Transfer(TableKind):
    """Gaps both ways, without and under load, by scope, video or what stayed on."""

    order = 52
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> TransferOutcome:
        """Every try with what its capture shows."""
        found = captured_lines(run, "no switch-over", analyse_transfer)
        tries: list[Switch] = []
        told: dict[int, Fields] = {}
        for entry, capture in found.lines:
            switch = switch_of(entry.fields, capture)
            if switch is not None:
                tries.append(switch)
                if capture is not None and switch.gap_ms is not None:
                    told[entry.id or 0] = {"gap_ms": switch.gap_ms}
        if not tries:
            raise UnusableDataError(found.problems[0] if found.problems else _NOTHING)
        switches = all_switches(tries)
        return TransferOutcome(
            switches=switches,
            figures=tuple(_figures(switches)),
            notices=found.notices,
            told=told,
        )

    def headline(self, run: RunAnalysis) -> str:
        """Like "Worst gap 14.2 ± 0.6 ms in 4 tries; claimed 20 ms"."""
        switches = _switches(run)
        claimed = claimed_value(run, "transfer_ms")
        beside = f"; claimed {claimed:g} ms" if claimed else ""
        worst = switches.worst
        if worst is None:
            return f"{_stayed_words(switches)}: that proves no milliseconds"
        return f"Worst gap {_gap_words(worst)} in {_tries_words(switches)}{beside}"

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """The worst gap, its spread, depth and phase, ITIC, and what stayed on."""
        switches = _switches(run)
        worst = switches.worst
        if worst is not None:
            spread = (
                f"; that way the gaps lie within {switches.spread_ms:.1f} ms of each other"
                if switches.spread_ms is not None
                else ""
            )
            yield f"The longest gap is {_gap_words(worst)} ({_case_words(worst)}){spread}."
            if worst.inside_itic is not None:
                inside = "inside" if worst.inside_itic else "outside"
                yield f"That is {inside} the ITIC curve, which lets volts be away for 20 ms."
            if worst.lowest_ratio is not None:
                jump = (
                    f", and the phase jumped by {abs(worst.phase_jump_deg or 0.0):.0f}°"
                    if abs(worst.phase_jump_deg or 0.0) >= _SEEN_JUMP_DEG
                    else ""
                )
                yield f"The r.m.s. of a cycle fell to {100 * worst.lowest_ratio:.0f} %{jump}."
        if switches.stayed_on:
            yield (
                f"{_stayed_words(switches)}. What stays on bridges 16 ms and more by a supply of "
                "its own, and what flickers proves a gap: neither tells its milliseconds."
            )
        missing = [
            words
            for words, there in (
                ("the way back to the wall", switches.both_ways),
                ("a switch under load", switches.under_load),
            )
            if not there
        ]
        if missing:
            yield f"Not tried: {', '.join(missing)}."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Every try on a scale of milliseconds."""
        claim_ms = claimed_value(run, "transfer_ms")
        return [gaps_scene(_switches(run), claim_ms, *size, palette)]

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """The worst gap to battery; whether it took over at all."""
        switches, number = _switches(run), run.run.number
        worst = switches.worst
        if worst is not None and worst.gap_ms is not None and _settles(run, worst):
            yield Finding(
                kind="transfer_ms",
                value=_middle_ms(worst),
                budget=_budget(worst),
                runs=(number,),
                method=run.run.method,
                seen=f"the longest of {_tries_words(switches)}, {_case_words(worst)}",
            )
        took_over = _took_over(switches)
        if took_over is not None:
            yield Finding(
                kind="ups", value=float(took_over), budget=EXACT, agrees=took_over,
                runs=(number,), method=run.run.method,
                seen=f"in run {number}: {_ups_words(switches)}",
            )  # fmt: skip

    def evidence(self, run: RunAnalysis, station: StationRuns) -> dict[str, Evidence]:
        """Whether it takes over when the wall is pulled."""
        outcome = run.outcome
        if not isinstance(outcome, TransferOutcome):
            return {}
        took_over = _took_over(outcome.switches)
        if took_over is None:
            return {}
        words = f"{_ups_words(outcome.switches)} in run {run.run.number}"
        return {"ups": trusted(float(took_over), words, run)}


def _switches(run: RunAnalysis) -> Switches:
    assert isinstance(run.outcome, TransferOutcome)
    return run.outcome.switches


def _figures(switches: Switches) -> Iterator[Figure]:
    worst = switches.worst
    if worst is not None and worst.gap_ms is not None:
        yield Figure(
            key="gap_ms", title="Worst gap", value=_middle_ms(worst), unit="ms",
            budget=_budget(worst), note=f", {worst.way.words}", worked=worked.gap(worst),
        )  # fmt: skip
    yield Figure(key="tries", title="Tries", value=float(len(switches.tries)))


def _settles(run: RunAnalysis, worst: Switch) -> bool:
    """A gap whose end was not seen says something only where it is too long already."""
    claimed = claimed_value(run, "transfer_ms")
    return worst.came_back or (claimed is not None and (worst.low_ms or 0.0) > claimed)


def _middle_ms(switch: Switch) -> float:
    """The gap as timed, or the middle of what frames allow."""
    if switch.by is By.SCOPE or switch.low_ms is None or switch.high_ms is None:
        return switch.gap_ms or 0.0
    return (switch.low_ms + switch.high_ms) / 2


def _budget(switch: Switch) -> Budget:
    """The gap is certain to be within what frames allow, or what the edges of a curve hide."""
    middle = _middle_ms(switch)
    low, high = switch.low_ms or 0.0, switch.high_ms or middle
    # One that never ended is at least so long: its ± is that of its beginning.
    limit = max(high - middle, middle - low) if math.isfinite(high) else middle - low
    if switch.by is By.FRAMES:
        return Budget.of("ms", [rectangular("Frames", limit, "one frame less and one more")])
    if switch.capture is None:
        return Budget.of("ms", [rectangular("Reading", limit, f"read to ± {limit:g} ms")])
    # The curve's U is given as such; as limits of a rectangle they are narrower by √3 ÷ 2.
    edges = rectangular("Edges", limit * math.sqrt(3) / 2, "a sample, and what a crossing hides")
    return Budget.of("ms", [edges])


def _gap_words(switch: Switch) -> str:
    if switch.by is By.FRAMES:
        return f"{switch.low_ms:.0f} to {switch.high_ms:.0f} ms"
    if not switch.came_back:
        return f"at least {switch.gap_ms:.1f} ms"
    within = (switch.high_ms or 0.0) - (switch.gap_ms or 0.0)
    return f"{switch.gap_ms:.1f} ± {within:.1f} ms"


def _tries_words(switches: Switches) -> str:
    """Like "6 tries by scope": those of the evidence that the worst gap has."""
    worst = switches.worst
    assert worst is not None
    count = sum(t.by is worst.by for t in switches.tries)
    return f"{counted(count, 'try', 'tries')} by {worst.by.words}"


def _case_words(switch: Switch) -> str:
    load = f"under {switch.load_w:.0f} W" if switch.load_w else "without load"
    return f"{switch.way.words}, {load}"


def _stayed_words(switches: Switches) -> str:
    named: dict[tuple[str, Stayed], int] = {}
    for found in switches.stayed_on:
        if found.stayed is not None:
            key = (found.device or "a device", found.stayed)
            named[key] = named.get(key, 0) + 1
    parts = [
        f"{name} {stayed.words}" + (f" {count} times" if count > 1 else "")
        for (name, stayed), count in named.items()
    ]
    said = ", ".join(parts)
    return f"{said[:1].upper()}{said[1:]}"


def _took_over(switches: Switches) -> bool | None:
    """Of the wall being pulled: within 20 ms, or nothing on it went off; None where not known."""
    pulled = [t for t in switches.tries if t.way is Way.TO_BATTERY]
    if any(t.stayed is Stayed.OFF or t.inside_itic is False for t in pulled):
        return False
    if any(t.inside_itic or t.stayed is Stayed.ON for t in pulled):
        return True
    return None


def _ups_words(switches: Switches) -> str:
    if switches.worst is not None:
        return f"worst gap {_gap_words(switches.worst)}"
    words = _stayed_words(switches)
    return words[:1].lower() + words[1:]


KIND = Transfer()
