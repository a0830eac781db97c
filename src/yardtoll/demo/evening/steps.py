"""The steps of the first evening: what is asked, and by what it is known to be done."""

from collections.abc import Callable
from dataclasses import dataclass

from yardtoll.bench.simulated.models import Simulation
from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.methods import METHODS
from yardtoll.demo.evening.scene import LOAD_W, RATED_W, RATED_WH, STATION_NAME
from yardtoll.running.simulated_bench import model_from_conditions
from yardtoll.store.records import Run, RunState
from yardtoll.store.yard_file import YardFile

_NEAR = 0.02
_LONGEST_H = 24


@dataclass(frozen=True, kw_only=True)
class Around:
    """What the learner has come to.

    Attributes:
        stop: key of the stop that is shown.
        is_recording: a run is in progress.
        has_found: every mistake on the bench was found.
    """

    yard: YardFile
    stop: str
    is_recording: bool
    has_found: bool


@dataclass(frozen=True, kw_only=True)
class Step:
    """One step.

    Attributes:
        stop: where it is done; "" for on the panel itself.
        is_done: by what is there now.
    """

    title: str
    words: str
    is_done: Callable[[Around], bool]
    stop: str = ""


def steps() -> tuple[Step, ...]:
    """In the order of the work."""
    return (*_before_the_run(), *_run_and_results())


def _before_the_run() -> tuple[Step, ...]:
    return (
        Step(
            title="Look at the bench",
            words="A friend has set this bench up for you. Tick whatever would spoil the result.",
            is_done=lambda around: around.has_found,
        ),
        Step(
            title="Add the station",
            words=f"Its label says: {STATION_NAME}, {RATED_WH:.0f} Wh, {RATED_W:.0f} W. In Yard, "
            "under Stations, press Add… and type it in.",
            stop="yard",
            is_done=lambda around: station_id(around.yard) is not None,
        ),
        Step(
            title="Write down what it claims",
            words="Copy the label below, then Station, Paste claims from a text… Tick what was "
            "read rightly. What is claimed is what you can judge later.",
            stop="claims",
            is_done=lambda around: _claims(around.yard) > 2,
        ),
        Step(
            title="Plan the run",
            words=f"Capacity, AC at 0.2 C asks for {LOAD_W:.0f} W: the small heater on low. Press "
            "All off, floor 0 %, tick what you have seen on the bench, and start.",
            stop="plan",
            is_done=lambda around: around.is_recording or bool(_ended(around.yard)),
        ),
    )


def _run_and_results() -> tuple[Step, ...]:
    return (
        Step(
            title="Note what the display says",
            words="Press Space, type the per cent that the display shows, and Enter. An hour of "
            "this bench takes six seconds.",
            stop="run",
            is_done=lambda around: bool(_ended(around.yard)) or _was_read(around.yard),
        ),
        Step(
            title="Wait for the end",
            words="The station shuts off by itself, and the program notices. Nothing is lost if "
            "you close the window meanwhile.",
            stop="run",
            is_done=lambda around: bool(_ended(around.yard)),
        ),
        Step(
            title="See where it went",
            words="Ledger: click a gate, then a dotted figure. Every ± opens down to what it is "
            "made of.",
            stop="ledger",
            is_done=lambda around: bool(_ended(around.yard)) and around.stop == "ledger",
        ),
        Step(
            title="Does it hold what the box says?",
            words="Verdicts: a claim is met, or missed, only where the figure clears the limit by "
            "its ±.",
            stop="verdicts",
            is_done=lambda around: bool(_ended(around.yard)) and around.stop == "verdicts",
        ),
        Step(
            title="Publish it",
            words="Sheet: your report. File, Save the sheet as PDF… keeps it.",
            stop="sheet",
            is_done=lambda around: bool(_ended(around.yard)) and around.stop == "sheet",
        ),
    )


def station_id(yard: YardFile) -> int | None:
    """The learner's station, known by its rating."""
    found = [s for s in yard.stations() if abs(s.rated_wh / RATED_WH - 1) < _NEAR]
    return found[0].id if found else None


def true_wh(run: Run) -> float | None:
    """What the simulated station really delivered; None where no simulated bench was kept."""
    stored = run.conditions.simulated_bench
    if not stored:
        return None
    played = Simulation(model_from_conditions(stored))
    for hour in range(1, _LONGEST_H + 1):
        played.advance(hour * SECONDS_PER_HOUR)
        if played.shut_off_s is not None:
            return played.delivered_wh
    return None


def last_run(yard: YardFile) -> Run | None:
    """The learner's latest run that has ended."""
    ended = _ended(yard)
    return ended[-1] if ended else None


def _ended(yard: YardFile) -> list[Run]:
    finished = [run for run in yard.runs() if run.state == RunState.FINISHED.value]
    return [run for run in finished if METHODS[run.method].counts_for_capacity]


def _was_read(yard: YardFile) -> bool:
    return any(yard.readings(run.id) for run in yard.runs() if run.id is not None)


def _claims(yard: YardFile) -> int:
    station = station_id(yard)
    return len(yard.claims(station)) if station is not None else 0
