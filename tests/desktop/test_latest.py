"""Questions answered on a worker: the latest counts, and what is shown is what was asked."""

import gc
from dataclasses import dataclass

import pytest

from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.latest import LatestAnswer


@dataclass
class Subject:
    """What a question is about; told apart by being another, not by what it holds."""

    value: int


@dataclass(frozen=True)
class Doubled:
    """A question whose key holds what it is about by its identity, as those of runs do."""

    about: Subject
    title: str = "Doubling"

    @property
    def key(self):
        return id(self.about)

    def answer(self):
        return 2 * self.about.value


@pytest.fixture
def latest(qtbot):
    said = []
    jobs = Jobs()
    made = LatestAnswer(jobs, lambda question, found: said.append((question.about.value, found)))
    made.said, made.jobs = said, jobs
    yield made
    jobs.wait()


def settle(qtbot, latest):
    qtbot.waitUntil(lambda: latest.is_settled and not latest.jobs.busy)


def test_the_same_question_is_answered_once(qtbot, latest):
    about = Subject(3)
    for _ in range(3):
        latest.ask(Doubled(about))
        settle(qtbot, latest)
    assert latest.said == [(3, 6)]


def test_of_many_the_first_and_the_latest_are_answered(qtbot, latest):
    for value in (1, 2, 3, 4):
        latest.ask(Doubled(Subject(value)))
    qtbot.waitUntil(lambda: len(latest.said) == 2)
    settle(qtbot, latest)
    assert latest.said == [(1, 2), (4, 8)]


def test_what_was_withdrawn_comes_again_when_it_is_asked_again(qtbot, latest):
    about = Subject(3)
    latest.ask(Doubled(about))
    settle(qtbot, latest)
    latest.withdraw()
    latest.ask(Doubled(about))
    latest.ask(Doubled(about))
    settle(qtbot, latest)
    assert latest.said == [(3, 6), (3, 6)]


def test_what_is_under_way_does_not_come_when_it_was_withdrawn(qtbot, latest):
    latest.ask(Doubled(Subject(1)))
    latest.ask(Doubled(Subject(2)))
    latest.withdraw()
    assert latest.is_settled
    settle(qtbot, latest)
    qtbot.wait(50)
    assert latest.said == []
    latest.ask(Doubled(Subject(5)))
    settle(qtbot, latest)
    assert latest.said == [(5, 10)]


def test_another_in_the_place_of_one_that_is_gone_is_not_taken_for_it(qtbot, latest):
    """Python gives the identity of what is gone to what is made next."""
    for value in range(40):
        latest.ask(Doubled(Subject(value)))
        settle(qtbot, latest)
        gc.collect()
    assert latest.said == [(value, 2 * value) for value in range(40)]
