"""Stations of a large yard: what is kept of them at once, the rest worked out on a worker."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from yardtoll.desktop.workbench.jobs import JobHandle, Jobs
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.review.archive.kept import ready_entrants, work_out
from yardtoll.review.lineup.entrants import Asked, Entrant, entrants_of
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.store.looking import looking_into
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile

MOST_LIVE_RUNS = 300
"""A yard of more runs is shown from what is kept of it."""


def entrants_in(path: Path) -> list[Entrant]:
    """The stations of a yard that is only looked into.

    Raises:
        YardError: it cannot be read.
    """
    with looking_into(path) as yard:
        return [replace(entrant, station_id=None) for entrant in entrants_of(yard, str(path))]


Ready = tuple[list[Entrant], list[Station]]


@dataclass(frozen=True, kw_only=True, eq=False)
class ArchiveQuestion:
    """What is kept of a yard's stations, as it was after so many changes."""

    yard: YardFile
    bench: str
    asked: Asked
    turn: int
    changes: int
    title: str = "Reading what is kept"

    @property
    def key(self) -> object:
        """Questions of one key have one answer."""
        return (id(self.yard), self.changes, self.asked, self.turn)

    def answer(self) -> Ready:
        """Those that are ready, and the others."""
        return ready_entrants(self.yard, self.bench, self.asked)


@dataclass(frozen=True, kw_only=True, eq=False)
class LiveQuestion:
    """The stations of a yard whose runs are all worked out."""

    yard: YardFile
    bench: str
    analyses: tuple[RunAnalysis, ...]
    version: int
    changes: int
    title: str = "Putting the runs together"

    @property
    def key(self) -> object:
        """Questions of one key have one answer."""
        return (id(self.yard), self.changes, self.version, len(self.analyses))

    def answer(self) -> list[Entrant]:
        """Every station."""
        return entrants_of(self.yard, self.bench, self.analyses)


class Archive:
    """Reads what is kept, and works out what is missing, a station at a time.

    Args:
        arrived: called with the stations that are ready, and how many are still missing.
        failed: called with what went wrong, in a sentence.
    """

    def __init__(
        self,
        yard: YardFile,
        bench: Path,
        jobs: Jobs,
        arrived: Callable[[list[Entrant], int], None],
        failed: Callable[[str], None],
    ) -> None:
        self._yard, self._bench, self._jobs = yard, str(bench), jobs
        self._arrived, self._failed = arrived, failed
        self._turn, self._working = 0, 0
        self.reading = LatestAnswer[ArchiveQuestion](jobs, self._read)
        self.living = LatestAnswer[LiveQuestion](jobs, self._lived)

    def ask(self, asked: Asked) -> None:
        """Read what is kept for what is asked."""
        self.reading.ask(
            ArchiveQuestion(
                yard=self._yard,
                bench=self._bench,
                asked=asked,
                turn=self._turn,
                changes=self._yard.changes,
            )
        )

    def ask_live(self, analyses: Sequence[RunAnalysis], version: int) -> None:
        """Put the stations together from results that are there.

        Args:
            version: of the results.
        """
        self.living.ask(
            LiveQuestion(
                yard=self._yard,
                bench=self._bench,
                analyses=tuple(analyses),
                version=version,
                changes=self._yard.changes,
            )
        )

    def _lived(self, _: LiveQuestion, found: list[Entrant] | str) -> None:
        if isinstance(found, str):
            self._failed(found)
        else:
            self._arrived(found, 0)

    @property
    def is_settled(self) -> bool:
        """Whether nothing is under way."""
        settled = self.reading.is_settled and self.living.is_settled
        return settled and not self._jobs.is_waiting(self._working)

    def _read(self, question: ArchiveQuestion, found: Ready | str) -> None:
        if isinstance(found, str):
            self._failed(found)
            return
        ready, missing = found
        self._arrived(ready, len(missing))
        if missing and not self._jobs.is_waiting(self._working):
            self._working = self._jobs.start(
                f"Working out {len(missing)} stations",
                lambda handle: self._work(handle, missing, question.asked),
                lambda _: self._worked(question.asked),
                lambda error: self._failed(str(error)),
            )

    def _work(self, handle: JobHandle, missing: list[Station], asked: Asked) -> None:
        for number, station in enumerate(missing):
            handle.progress(station.name, number / len(missing))
            work_out(self._yard, station, self._bench, asked)

    def _worked(self, asked: Asked) -> None:
        self._turn += 1
        self.ask(asked)
