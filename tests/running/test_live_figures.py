"""Figures of a run in progress as text."""

import pytest

from yardtoll.core.uncertainty.budget import Budget, Contribution
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.running.live_figures import value_text, within_text


def live(value: float, expanded: float | None) -> Figure:
    line = Contribution(name="Meter", why="", u=(expanded or 0) / 2)
    budget = Budget.of("W", [line]) if expanded is not None else None
    return Figure(key="power_w", title="Power", value=value, unit="W", budget=budget)


@pytest.mark.parametrize(
    ("value", "expanded", "shown", "within"),
    [
        (60.31, 0.42, "60.3", "± 0.5"),
        (398.26, 2.41, "398.3", "± 2.4"),
        (1999.4, 24.0, "1999", "± 24"),
        (0.02, 0.004, "0.0", "± 0.1"),
        (60.31, None, "60.3", ""),
    ],
)
def test_value_and_its_uncertainty_have_the_same_decimals(value, expanded, shown, within):
    figure = live(value, expanded)
    assert (value_text(figure), within_text(figure)) == (shown, within)
    assert value_text(None) == "–" and within_text(None) == ""
