"""A small share of the study, with stations of its own: the whole is run by command."""

import pytest
from tests.coverage.limits import CLAIMS, accepted
from tests.coverage.study import FIT_SCENARIOS, LOSS_SCENARIOS, OF_RUNS, RUN_SCENARIOS, coverage

pytestmark = pytest.mark.study
FIRST_SEED = 10_000
HELD_AT_LEAST = 0.85
"""Of 40: one that holds 95 of 100 falls below once in seventy, and these seeds stand."""


@pytest.mark.parametrize("scenario", RUN_SCENARIOS, ids=lambda scenario: scenario.name)
def test_the_truth_lies_within_what_is_said_of_a_run_and_a_station(scenario):
    hits = coverage(scenario, 40, FIRST_SEED)
    assert set(OF_RUNS) <= set(hits)
    for name, held in hits.items():
        assert name not in OF_RUNS or len(held) >= 35, name
        of_this_run = name.endswith("this run") or name in ("Duration", "Mean power", "0 to 80 %")
        within_the_model = of_this_run or scenario.again == scenario.assumed
        least = HELD_AT_LEAST if within_the_model else 0.6
        assert sum(held) >= least * len(held), (name, sum(held), len(held))


@pytest.mark.parametrize(
    "scenario", [*FIT_SCENARIOS, *LOSS_SCENARIOS], ids=lambda scenario: scenario.name
)
def test_the_truth_lies_within_what_is_fitted(scenario):
    hits = coverage(scenario, 40, FIRST_SEED)
    assert {"Usable store", "Overhead", "Delivers at another load"} <= set(hits)
    assert ("Idle" in hits) == bool(scenario.idle_h)
    assert ("p0" in hits) == scenario.sharp_idle
    for name, held in hits.items():
        assert sum(held) >= HELD_AT_LEAST * len(held), (name, sum(held), len(held))


@pytest.mark.parametrize("name", CLAIMS)
def test_a_station_at_the_limit_is_not_said_to_meet(name):
    at_limit, easier = accepted(name, 25, FIRST_SEED)
    assert at_limit <= 2
    assert easier >= 20  # it is no silence that keeps it from being accepted
