"""Runs that are kept as a table of what was seen: what all their kinds have in common."""

from abc import abstractmethod
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

import numpy as np

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Notice, Trace
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import Method
from yardtoll.core.output.entries import (
    CAPTURE,
    DIVIDER,
    FULL_SCALE,
    RELATIVE,
    EntryField,
    Fields,
    number_in,
)
from yardtoll.core.sound.levels import Recording as SoundRecording
from yardtoll.core.waveform.capture import Capture
from yardtoll.report.charts.curve import Curve
from yardtoll.review.kinds.kind import RunKind
from yardtoll.review.page import RunPage
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns
from yardtoll.store.records import Entry

_USUAL_V = (100.0, 115.0, 120.0, 230.0, 240.0)
USUAL_HZ = (50.0, 60.0)
_FEW_RISES, _A_CYCLE_S = 3, 0.02


class TableKind(RunKind):
    """A kind of run whose lines are entered under Outputs."""

    fields: tuple[EntryField, ...] = ()

    def serves(self, method: Method) -> bool:
        """The method that is entered in these columns."""
        return method.is_table and method.entry_fields is self.fields

    @abstractmethod
    def headline(self, run: RunAnalysis) -> str:
        """What was found, in one sentence without its full stop."""

    def caption(self, run: RunAnalysis) -> str:
        """The headline."""
        return self.headline(run) if run.has_outcome else ""

    def output_headline(self, run: RunAnalysis) -> str:
        """The headline."""
        return self.headline(run)

    @abstractmethod
    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """Everything else, in sentences."""

    def page(self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]) -> RunPage:
        """Headline, figures and sentences."""
        return RunPage(
            headline=self.headline(run),
            figures=run.outcome.figures,
            words=tuple((said,) for said in self.output_words(run)),
            notices=tuple(notice.message for notice in run.notices),
        )

    def latest_words(self, run: RunAnalysis) -> str:
        """The headline."""
        return self.headline(run) if run.has_outcome else ""

    def curve(self, run: RunAnalysis) -> Curve | None:
        """No power over time."""
        return None


def entries_of(run: RunAnalysis, what: str) -> tuple[Entry, ...]:
    """The lines of a run as they are kept.

    Raises:
        UnusableDataError: there is none.
    """
    if not run.records.entries:
        raise UnusableDataError(f"{what} yet: add the first under Outputs")
    return run.records.entries


class _Noticed(Protocol):
    @property
    def notices(self) -> tuple[Notice, ...]: ...


T = TypeVar("T", bound=_Noticed)


@dataclass(frozen=True, kw_only=True)
class Captured(Generic[T]):
    """The lines of a run, each with what its capture shows.

    Attributes:
        lines: None beside a line that was typed, or whose capture shows nothing.
        notices: of all captures.
        problems: why captures show nothing, in clauses.
    """

    lines: tuple[tuple[Entry, T | None], ...]
    notices: tuple[Notice, ...]
    problems: tuple[str, ...]


def captured_lines(
    run: RunAnalysis, what: str, analyse: Callable[[Capture, float, float], T]
) -> Captured[T]:
    """Every line with its capture worked out.

    Args:
        analyse: (capture, nominal V, nominal Hz) → what it shows; may raise UnusableDataError.

    Raises:
        UnusableDataError: there is no line.
    """
    lines: list[tuple[Entry, T | None]] = []
    problems: list[str] = []
    for entry in entries_of(run, what):
        capture, found = capture_behind(run, entry.fields), None
        if capture is not None:
            try:
                found = analyse(capture, nominal_v(run, capture), nominal_hz(run, capture))
            except UnusableDataError as error:
                problems.append(str(error))
        lines.append((entry, found))
    return Captured(
        lines=tuple(lines),
        notices=tuple(n for _, found in lines if found is not None for n in found.notices),
        problems=tuple(problems),
    )


def lines_of(run: RunAnalysis, what: str) -> list[Fields]:
    """The fields of its lines.

    Raises:
        UnusableDataError: there is none.
    """
    return [entry.fields for entry in entries_of(run, what)]


def trace_behind(run: RunAnalysis, line: Fields) -> Trace | None:
    """The samples that a line was taken from; None for what was typed."""
    wanted = number_in(line, CAPTURE)
    if wanted is None:
        return None
    return next((r.trace for r in run.recorded if r.record.id == int(wanted)), None)


def capture_behind(run: RunAnalysis, line: Fields) -> Capture | None:
    """The curve of volts that a line was taken from; None for what was typed."""
    trace = trace_behind(run, line)
    volts = trace.columns.get(Quantity.VOLTS) if trace is not None else None
    if trace is None or volts is None or volts.size < 2:
        return None
    is_relative, scale = bool(number_in(line, RELATIVE)), number_in(line, FULL_SCALE)
    factor = (scale or 1.0) if is_relative else (number_in(line, DIVIDER) or 1.0)
    return Capture(
        name=trace.name,
        rate_hz=_rate_hz(trace),
        volts=volts * factor if factor != 1.0 else volts,
        amps=trace.columns.get(Quantity.AMPS),
        relative=is_relative and not scale,
        full_scale=factor if is_relative else None,
    )


def sound_behind(run: RunAnalysis, line: Fields) -> SoundRecording | None:
    """The recording of sound that a line was taken from; None for what was read."""
    trace = trace_behind(run, line)
    samples = trace.columns.get(Quantity.PRESSURE) if trace is not None else None
    if trace is None or samples is None or samples.size < 2:
        return None
    return SoundRecording(name=trace.name, rate_hz=_rate_hz(trace), samples=samples)


def claimed_value(run: RunAnalysis, kind: str) -> float | None:
    """The first claimed figure of a kind."""
    return next((c.value for c in run.records.claims if c.kind == kind and c.value), None)


def nominal_hz(run: RunAnalysis, capture: Capture | None = None) -> float:
    """As claimed; else 50 or 60 Hz, whichever a capture is nearer to."""
    claimed = claimed_value(run, "ac_hz")
    if claimed or capture is None:
        return claimed or USUAL_HZ[1]
    # Enough to tell 50 from 60: from one rising passage through the mean to the next.
    step = max(int(capture.rate_hz / 2000), 1)
    volts = capture.volts[::step] - np.mean(capture.volts)
    smooth = np.convolve(volts, np.ones(5) / 5, "same")
    rises = np.flatnonzero((smooth[:-1] < 0) & (smooth[1:] >= 0))
    if rises.size < _FEW_RISES:
        return USUAL_HZ[1]
    hertz = capture.rate_hz / step / float(np.median(np.diff(rises)))
    return min(USUAL_HZ, key=lambda usual: abs(usual - hertz))


def nominal_v(run: RunAnalysis, capture: Capture | None = None) -> float:
    """As claimed; else the usual one that a capture is nearest to."""
    claimed = claimed_value(run, "ac_v")
    if claimed or capture is None:
        return claimed or _USUAL_V[2]
    # By the parts that have volts: a switch-over is dark for a while.
    size = max(int(capture.rate_hz * _A_CYCLE_S), 1)
    whole = capture.volts[: capture.volts.size // size * size].reshape(-1, size)
    parts = np.sqrt(np.mean((whole if whole.size else capture.volts[None, :]) ** 2, axis=1))
    rms = float(np.median(parts[parts >= parts.max() / 2]))
    return min(_USUAL_V, key=lambda volts: abs(volts - rms))


def _rate_hz(trace: Trace) -> float:
    return (trace.time_s.size - 1) / float(trace.time_s[-1] - trace.time_s[0])
