"""How the terms of a loss split were worked out, with its own numbers put in."""

from collections.abc import Sequence

from yardtoll.core.formatting import counted
from yardtoll.core.ledger.losses import LossSplit
from yardtoll.core.uncertainty.budget import Worked

_HELD = " (held, not fitted)"


def fitted(split: LossSplit) -> Worked:
    """The equations of all the runs, solved together."""
    held = {term for term, _ in split.fixed}
    said = [
        f"{name} = {value}{_HELD if key in held else ''}"
        for key, name, value in (
            ("e0", "E₀", _value(split.e0_wh.value, 1.0, ".0f", " Wh")),
            ("p0", "p₀", _value(split.p0_w.value, 1.0, ".2f", " W")),
            ("p1", "p₁", _value(split.p1.value, 100.0, ".2f", " %")),
            ("p2", "p₂", _value(split.p2_per_w.value, 1.0, ".3g", " per W")),
        )
        if value
    ]
    runs = counted(len(split.residuals_wh), "run")
    if split.idle_w is not None:
        runs += f" and an idle draw of {split.idle_w:.2f} W"
    return Worked(
        formula="E₀ = E · (1 + p₁) + p₀ · t + p₂ · ∫P²dt, for every run",
        put_in=f"from {runs}: {', '.join(said)}",
        source="weighed least squares; battery power taken as P + p₀ + p₁·P + p₂·P² (common "
        "practice, no source)",
    )


def _value(value: float | None, times: float, pattern: str, unit: str) -> str:
    return "" if value is None else f"{times * value:{pattern}}{unit}"


def weighted(split: LossSplit, name: str, weights: Sequence[tuple[int, float]]) -> Worked | None:
    """An efficiency at several shares of the rated watts, weighed; None without those watts.

    Args:
        weights: (percent of rated, weight) of each.
    """
    if split.rated_w is None:
        return None
    parts = " + ".join(f"{weight:g}·η({percent} %)" for percent, weight in weights)
    return Worked(
        formula=f"{parts}, where η = P ÷ (P + p₀ + p₁·P + p₂·P²)",
        put_in=f"with the fitted terms, at {split.rated_w:g} W rated",
        source=f"{name} weights of EN 50530, from memory",
    )
