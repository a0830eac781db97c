"""The median of samples, without what NumPy's own loads for arrays with masks."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


def median(values: FloatArray) -> float:
    """The middle one of (n,) finite values, or the mean of the middle two; n ≥ 1."""
    upper = values.size // 2
    if values.size % 2:
        return float(np.partition(values, upper)[upper])
    parted = np.partition(values, (upper - 1, upper))
    return float(parted[upper - 1] + parted[upper]) / 2
