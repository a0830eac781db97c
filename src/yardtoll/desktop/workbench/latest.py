"""Questions answered on a worker: while one is under way, only the latest of the others waits."""

from collections.abc import Callable
from typing import Any, Generic, Protocol, TypeVar

from yardtoll.desktop.workbench.jobs import Jobs


class Question(Protocol):
    """Something to be worked out.

    Attributes:
        title: of the work, as progress names it.
        key: questions of one key have one answer.
    """

    @property
    def title(self) -> str: ...

    @property
    def key(self) -> object: ...

    def answer(self) -> Any:
        """Work it out, on a worker."""


Q = TypeVar("Q", bound=Question)


class LatestAnswer(Generic[Q]):
    """Asks one question at a time, and the latest one next.

    Args:
        arrived: called with a question and its answer, or with the error's words.
    """

    def __init__(self, jobs: Jobs, arrived: Callable[[Q, Any], None]) -> None:
        self._jobs, self._arrived = jobs, arrived
        self._asked: Q | None = None
        self._number = 0
        self._next: Q | None = None
        # The question itself: what its key tells apart by identity must not be let go.
        self._answered: Q | None = None
        self._found: Any = None
        self._is_shown = False

    def ask(self, question: Q) -> None:
        """Answer it, at once or after the one that is under way."""
        if self._asked is not None and not self.is_settled:
            self._next = question if question.key != self._asked.key else None
        elif self._answered is None or question.key != self._answered.key:
            self._asked = question
            self._number = self._jobs.start(
                question.title,
                lambda _: question.answer(),
                lambda found: self._done(question, found),
                lambda error: self._done(question, str(error)),
            )
        elif not self._is_shown:
            self._is_shown = True
            self._arrived(question, self._found)

    def withdraw(self) -> None:
        """Something else is shown: what is under way is dropped, the same may be asked again."""
        if self._asked is not None:
            self._jobs.cancel(self._number)
        self._asked = self._next = None
        self._is_shown = False

    @property
    def is_settled(self) -> bool:
        """Whether nothing is under way; a job that was cancelled brings nothing any more."""
        return self._asked is None or not self._jobs.is_waiting(self._number)

    def _done(self, question: Q, found: Any) -> None:
        if question is not self._asked:
            return
        self._asked, self._answered, self._found = None, question, found
        self._is_shown = True
        following, self._next = self._next, None
        self._arrived(question, found)
        if following is not None:
            self.ask(following)
