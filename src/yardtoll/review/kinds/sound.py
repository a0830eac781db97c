"""Sound levels as a kind of run: at one metre, without background, and the hum of the mains."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.electrical.trace import Notice
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.output import worked
from yardtoll.core.output.entries import CALIBRATION_DB, CALIBRATION_RMS, Fields, number_in
from yardtoll.core.sound.levels import Recording, SoundResult, analyse_recording
from yardtoll.core.sound.lines import FIELDS, LevelLine, Levels, all_levels, level_line
from yardtoll.core.uncertainty.budget import Budget, rectangular
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.outputs import levels_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.kinds.tables import (
    USUAL_HZ,
    TableKind,
    claimed_value,
    entries_of,
    sound_behind,
)
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.runs import StationRuns

NO_ACCURACY = "The instrument's limits are not stated: open the line and enter them."
WITH_BACKGROUND = "The background is in it: the station alone is at most so loud."
_LOUDEST_HUMS = 3


@dataclass(frozen=True, kw_only=True)
class SoundOutcome(Outcome):
    """All levels, and recordings without one."""

    levels: Levels
    hums: tuple[SoundResult, ...]


class Sound(TableKind):
    """Levels as read, and recordings."""

    order = 60
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> SoundOutcome:
        """Every line at one metre."""
        levels: list[LevelLine] = []
        recordings: list[SoundResult] = []
        notices: list[Notice] = []
        told: dict[int, Fields] = {}
        for entry in entries_of(run, "no level"):
            line = entry.fields
            recorded: SoundResult | None = None
            recording = sound_behind(run, line)
            if recording is not None:
                known = number_in(line, CALIBRATION_DB), number_in(line, CALIBRATION_RMS)
                recorded = _heard(
                    recording,
                    claimed_value(run, "ac_hz"),
                    known if None not in known else None,  # type: ignore[arg-type]
                )
                recordings.append(recorded)
                notices += recorded.notices
            found = level_line(line, recorded)
            if found is not None:
                levels.append(found)
            if found is not None and recorded is not None:
                told[entry.id or 0] = {"level_db": found.level_db}
        if not levels and not recordings:
            raise UnusableDataError("no line has a level or a recording")
        result = all_levels(levels)
        return SoundOutcome(
            levels=result,
            hums=tuple(recordings),
            figures=tuple(_figures(result, recordings)),
            notices=tuple(notices),
            told=told,
        )

    def headline(self, run: RunAnalysis) -> str:
        """Like "52.4 dB(A) at 1 m under load at 1800 W, the loudest"."""
        levels = _outcome(run).levels
        if levels.loudest is None:
            return "A recording without calibration: hum alone can be told"
        loud = levels.loudest
        most = "at most " if loud.at_most else ""
        which = ", the loudest" if len(levels.lines) > 1 else ""
        said = f"{most}{loud.at_1m_db:.0f} dB(A) at 1 m {loud.words}{which}"
        return said[:1].upper() + said[1:]

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """Every level, what is not known of it, and the hum."""
        outcome = _outcome(run)
        for line in outcome.levels.lines:
            yield _level_words(line)
        hums = sorted((h for r in outcome.hums for h in r.hum), key=lambda h: -h.above_floor_db)
        if hums:
            parts = [f"{h.hertz:.0f} Hz by {h.above_floor_db:.0f} dB" for h in hums[:_LOUDEST_HUMS]]
            yield f"Hum stands above the noise beside it at {', '.join(parts)}."
        elif outcome.hums:
            yield "No hum stands above the noise."

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Levels on a scale from quiet to loud."""
        levels = _outcome(run).levels
        if not levels.lines:
            return []
        return [levels_scene(levels, claimed_value(run, "noise_db"), *size, palette)]

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """The loudest at one metre; a level with its background in it is at most so loud."""
        loud = _outcome(run).levels.loudest
        if loud is None:
            return
        with_background = loud.at_most or loud.no_background
        yield Finding(
            kind="noise_db", value=loud.at_1m_db, budget=_budget(loud), unknown=NO_ACCURACY,
            runs=(run.run.number,), method=run.run.method, seen=f"at 1 m {loud.words}",
            # What has its background in it can meet a limit; that it misses one says nothing.
            lower_bound=with_background,
            why_bound=WITH_BACKGROUND if with_background else "",
        )  # fmt: skip


def _heard(
    recording: Recording, hertz: float | None, calibration: tuple[float, float] | None
) -> SoundResult:
    """A recording worked out; where nobody says 50 or 60 Hz, whichever hum is there."""
    found = [
        analyse_recording(recording, calibration=calibration, mains_hz=mains_hz)
        for mains_hz in ((hertz,) if hertz else USUAL_HZ)
    ]
    return max(found, key=lambda r: sum(h.above_floor_db for h in r.hum))


def _outcome(run: RunAnalysis) -> SoundOutcome:
    assert isinstance(run.outcome, SoundOutcome)
    return run.outcome


def _figures(levels: Levels, recordings: Sequence[SoundResult]) -> Iterator[Figure]:
    for key, title, line in (
        ("loudest_db", "Loudest", levels.loudest),
        ("quietest_db", "Quietest", levels.quietest),
    ):
        if line is not None and not (key == "quietest_db" and len(levels.lines) < 2):
            yield Figure(
                key=key, title=title, value=line.at_1m_db, unit="dB(A)", budget=_budget(line),
                note=f" at 1 m, {line.words}", at_most=line.at_most, worked=worked.level(line),
            )  # fmt: skip
    if recordings:
        yield Figure(key="recordings", title="Recordings", value=float(len(recordings)))


def _budget(line: LevelLine) -> Budget | None:
    if line.within_db is None:
        return None
    why = f"limits of ± {line.within_db:g} dB"
    return Budget.of("dB(A)", [rectangular("Instrument", line.within_db, why)])


def _level_words(line: LevelLine) -> str:
    most = "at most " if line.at_most else ""
    words = f"{line.words[:1].upper()}{line.words[1:]}"
    read = f"read {line.level_db:.1f} at {line.distance_m:g} m"
    if line.at_most:
        how = f"{read}, the background too close to be taken off"
    elif line.no_background:
        how = f"{read}, the background not taken off"
    else:
        how = f"{read}, background taken off"
    fans = f", fans {line.fans}" if line.fans else ""
    return f"{words}: {most}{line.at_1m_db:.1f} dB(A) at 1 m ({how}{fans})."


KIND = Sound()
