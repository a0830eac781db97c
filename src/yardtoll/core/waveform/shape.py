"""The shape of a curve in a word."""

from enum import StrEnum

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

SINE_THD = 0.05
"""Up to this a curve is called a sine (common practice, no source)."""
_FLATTENED_THD, _FLATTENED_CREST = 0.25, 1.40
_BINS = 256
_LOW, _HIGH = 0.25, 0.75
"""Shares of the plateau between which a curve with steps hardly ever is."""
_MOST_BETWEEN, _LEAST_REST = 0.12, 0.06


class Shape(StrEnum):
    """What a curve looks like."""

    SINE = "sine"
    FLATTENED_SINE = "flattened_sine"
    MODIFIED_SINE = "modified_sine"
    SQUARE = "square"
    OTHER = "other"


def folded(values: FloatArray, rate_hz: float, hertz: float) -> FloatArray:
    """(256,) one mean cycle; empty parts of it, where samples are few, are bridged."""
    phase = (np.arange(values.size) * hertz / rate_hz) % 1.0
    places = (phase * _BINS).astype(int)
    counts = np.bincount(places, minlength=_BINS)
    sums = np.bincount(places, weights=values, minlength=_BINS)
    there = counts > 0
    means = sums[there] / counts[there]
    return np.interp(np.arange(_BINS), np.flatnonzero(there), means, period=_BINS)


def shape_of(cycle: FloatArray, thd: float, crest: float) -> Shape:
    """The shape of one cycle.

    Args:
        cycle: (n,) evenly over one period, its mean taken off.
    """
    size = np.abs(cycle)
    plateau = float(np.median(size[size >= np.quantile(size, 0.6)]))
    if plateau > 0:
        between = float(np.mean((size > _LOW * plateau) & (size < _HIGH * plateau)))
        rest = float(np.mean(size <= _LOW * plateau))
        level = float(np.std(size[size >= _HIGH * plateau])) / plateau
        if between <= _MOST_BETWEEN and level < 0.12 and thd > SINE_THD:
            return Shape.MODIFIED_SINE if rest >= _LEAST_REST else Shape.SQUARE
    if thd <= SINE_THD:
        return Shape.SINE
    if thd <= _FLATTENED_THD and crest < _FLATTENED_CREST:
        return Shape.FLATTENED_SINE
    return Shape.OTHER
