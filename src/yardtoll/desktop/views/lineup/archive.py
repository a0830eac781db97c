"""Stations of a large yard: what is kept of them at once, the rest worked out on a worker."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yardtoll.desktop.workbench.jobs import JobHandle, Jobs
from yardtoll.desktop.workbench.latest import LatestAnswer
from yardtoll.review.archive.kept import ready_entrants, work_out
from yardtoll.review.lineup.entrants import Asked, Entrant
from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile

MOST_LIVE_RUNS = 300
"""A yard of more runs is shown from what is kept of it."""

Ready = tuple[list[Entrant], list[Station]]


@dataclass(frozen=True, kw_only=True, eq=False)
class ArchiveQuestion:
    """What is kept of a yard's stations."""

    yard: YardFile
    bench: str
    asked: Asked
    turn: int
    title: str = "Reading what is kept"

    @property
    def key(self) -> object:
        """Questions of one key have one answer."""
        return (id(self.yard), self.yard.changes, self.asked, self.turn)

    def answer(self) -> Ready:
        """Those that are ready, and the others."""
        return ready_entrants(self.yard, self.bench, self.asked)


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
        self._turn, self._is_working = 0, False
        self.reading = LatestAnswer[ArchiveQuestion](jobs, self._read)

    def ask(self, asked: Asked) -> None:
        """Read what is kept for what is asked."""
        self.reading.ask(
            ArchiveQuestion(yard=self._yard, bench=self._bench, asked=asked, turn=self._turn)
        )

    @property
    def is_settled(self) -> bool:
        """Whether nothing is under way."""
        return self.reading.is_settled and not self._is_working

    def _read(self, question: ArchiveQuestion, found: Ready | str) -> None:
        if isinstance(found, str):
            self._failed(found)
            return
        ready, missing = found
        self._arrived(ready, len(missing))
        if missing and not self._is_working:
            self._is_working = True
            self._jobs.start(
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
        self._is_working = False
        self._turn += 1
        self.ask(asked)
