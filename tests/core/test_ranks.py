"""Ranks only where they are sure; a common meter's gain cancels as far as it is common."""

import numpy as np
import pytest

from yardtoll.core.compare.ranks import Contender, difference_expanded, ranked
from yardtoll.core.uncertainty.budget import Budget, Contribution


def measured(name, value, *, common=0.0, own=0.0, level=0.0, bench="a"):
    lines = [
        Contribution(name="Gain", why="", u=common * value, shared="meter 1"),
        Contribution(name="Gain here", why="", u=level * value, shared="meter 1, here", level=True),
        Contribution(name="Floor", why="", u=own * value),
    ]
    return Contender(name=name, value=value, budget=Budget.of("", lines), bench=bench)


def test_2000_random_pairs():
    """Closer than the U of their difference none is ranked; farther than twice it all are."""
    random = np.random.default_rng(8)
    for _ in range(1000):
        common, own, level = random.uniform(0.001, 0.02, 3)
        near = measured("near", 0.85, common=common, own=own, level=level)
        # Of two nearly equal figures only what is not common is left of their difference.
        u = 0.85 * np.hypot(np.hypot(own, level), np.hypot(own, level))
        close = measured("close", 0.85 + 2 * u * random.uniform(-0.95, 0.95),
                         common=common, own=own, level=level)  # fmt: skip
        first, second = ranked([near, close])
        assert first.ties == ("close",) and second.ties == ("near",)
        assert first.rank == second.rank == 1
        way = random.choice([-1.0, 1.0])
        own_u = np.hypot(own, level)
        distance = 0.0
        for _ in range(20):  # what is far has a larger U itself
            u = np.hypot(common * distance, own_u * np.hypot(0.85, 0.85 + way * distance))
            distance = 2 * u * 2.2
        far = measured("far", 0.85 + way * distance * random.uniform(1, 2), common=common, own=own,
                       level=level)  # fmt: skip
        first, second = ranked([near, far])
        assert not first.ties and {first.rank, second.rank} == {1, 2}
        assert (second.rank == 1) == (way > 0)


def test_the_common_gain_cancels_within_a_bench_and_not_between_two():
    one, other = (measured(n, 0.85, common=0.01, own=0.001) for n in ("one", "other"))
    elsewhere = measured("elsewhere", 0.85, common=0.01, own=0.001, bench="b")
    assert difference_expanded(one, other) == pytest.approx(2 * 0.85 * 0.001 * np.sqrt(2))
    between = difference_expanded(one, elsewhere)
    assert between == pytest.approx(2 * 0.85 * np.sqrt(2) * np.hypot(0.01, 0.001))


def test_without_a_budget_there_is_no_rank():
    found = ranked(
        [Contender(name="bare", value=0.99, budget=None), measured("one", 0.5, own=0.01)]
    )
    # Nothing is said of a figure without U: it neither ties nor wins, nor is it beaten.
    assert found[0].rank is None and not found[0].ties and found[0].unsure == ("one",)
    assert found[1].rank == 1 and not found[1].ties and found[1].unsure == ("bare",)


def test_lower_is_better_where_it_is():
    found = ranked(
        [measured("thirsty", 20, own=0.01), measured("frugal", 10, own=0.01)],
        higher_is_better=False,
    )
    assert [r.rank for r in found] == [2, 1]
