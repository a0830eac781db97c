"""How the fitted terms of a loss split move when one of the energies they rest on moves."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.ledger.loss_fit import TERMS, RunAtLoad, equations
from yardtoll.core.ledger.losses import LossSplit

_STEP = 1e-4
"""Relative step of the central differences; the fit is all but linear in so small a one."""


def loss_fit_sensitivities(
    runs: Sequence[RunAtLoad], split: LossSplit
) -> tuple[FloatArray, FloatArray]:
    """Sensitivities of E0, p0, p1, p2 to each run's Wh and to the idle W that set the scale.

    A meter that is off moves a run's power as it moves its energy, so ∫P²dt moves twice as much.
    Terms that a bound holds, or that were not fitted, do not move.

    Returns:
        (4, runs) in each term's unit per Wh, and (4,) per W of idle draw; zeros where the split
        says nothing.
    """
    by_run, by_idle = np.zeros((4, len(runs))), np.zeros(4)
    if split.e0_wh.value is None:
        return by_run, by_idle
    fixed, idle_w = {name for name, _ in split.fixed}, split.idle_w
    weights = np.array(split.weights)
    names = [name for name in TERMS if name not in fixed]
    at = [TERMS.index(name) for name in names]
    for i, run in enumerate(runs):
        ends = [
            _solved([*runs[:i], _scaled(run, 1 + step), *runs[i + 1 :]], names, idle_w, weights)
            for step in (_STEP, -_STEP)
        ]
        by_run[at, i] = (ends[0] - ends[1]) / (2 * _STEP * run.energy_wh)
    if idle_w is not None:
        step_w = _STEP * max(idle_w, 1.0)
        ends = [_solved(runs, names, idle_w + step, weights) for step in (step_w, -step_w)]
        by_idle[at] = (ends[0] - ends[1]) / (2 * step_w)
        by_idle[TERMS.index("p0")] = 1.0
    return by_run, by_idle


def _scaled(run: RunAtLoad, factor: float) -> RunAtLoad:
    square = None if run.mean_sq_w2 is None else run.mean_sq_w2 * factor**2
    return replace(run, energy_wh=run.energy_wh * factor, mean_sq_w2=square)


def _solved(
    runs: Sequence[RunAtLoad], names: Sequence[str], idle_w: float | None, weights: FloatArray
) -> FloatArray:
    matrix, known = equations(runs, names, idle_w)
    matrix, known = matrix * weights[:, None], known * weights
    scale = np.linalg.norm(matrix, axis=0)
    return np.asarray(np.linalg.lstsq(matrix / scale, known, rcond=None)[0] / scale)
