"""The law of propagation for correlated inputs (JCGM 100:2008, eq. 13)."""

import numpy as np

from yardtoll.core.electrical.trace import FloatArray


def propagate(gradient: FloatArray, covariance: FloatArray) -> FloatArray:
    """Covariance of m outputs from that of n inputs: G·C·Gᵀ.

    Args:
        gradient: (m, n) or (n,) partial derivatives of the outputs by the inputs.
        covariance: (n, n) of the inputs.

    Returns:
        (m, m); (1, 1) for one output.
    """
    rows = np.atleast_2d(gradient)
    return np.asarray(rows @ covariance @ rows.T)
