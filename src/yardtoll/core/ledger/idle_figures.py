"""The figures of one idle test, whether from a yard or at the command line."""

from yardtoll.core.ledger.idle import IdleResult
from yardtoll.core.uncertainty.budget import Worked
from yardtoll.core.uncertainty.figure import Figure


def idle_figures(idle: IdleResult) -> tuple[Figure, ...]:
    """The draw in W, as self-discharge, and as days from full to empty."""
    worked = Worked(
        formula="fall of the state of charge × store ÷ hours",
        put_in=f"{idle.points:g} % × {idle.store.energy_wh:.0f} Wh ÷ {idle.hours:.2f} h = "
        f"{idle.idle_w:.2f} W",
        source="definition; the store is the fitted one where runs give it, else the rating",
    )
    draw = Figure(
        key="idle_w",
        title="Idle draw",
        value=idle.idle_w,
        unit="W",
        budget=idle.budget,
        worked=worked,
    )
    found = [
        draw,
        Figure(
            key="percent_per_hour",
            title="Self-discharge",
            value=idle.percent_per_hour,
            unit="%/h",
            budget=idle.budget.scaled(100 / idle.store.energy_wh, "%/h"),
        ),
    ]
    if idle.hours_to_empty is not None:
        days = idle.hours_to_empty / 24
        # Days are inverse to the draw: the same share either way.
        found.append(
            Figure(
                key="days_to_empty",
                title="Full to empty",
                value=days,
                unit="days",
                budget=idle.budget.scaled(days / idle.idle_w, "days"),
            )
        )
    return tuple(found)
