"""A long log a part at a time: what is worked out on the way then stays in the processor's cache.

A day at 10 Hz is nearly a million samples. Each array made of all of them is fetched from memory
again for the next step, which takes longer than the sums.
"""

from collections.abc import Iterator

from yardtoll.core.electrical.trace import FloatArray

_STEPS = 32_768


def step_parts(samples: int, around: int = 0) -> Iterator[tuple[slice, slice]]:
    """Parts of a log, so that each step between two samples is in one of them.

    Args:
        around: so many steps of the neighbouring parts are looked at beside a part's own.

    Yields:
        The samples to look at, and which of the steps between them are the part's own.
    """
    for begin in range(0, samples - 1, _STEPS):
        end = min(begin + _STEPS, samples - 1)
        low, high = max(begin - around, 0), min(end + around, samples - 1)
        yield slice(low, high + 1), slice(begin - low, end - low)


def differences(part: FloatArray) -> FloatArray:
    """(n − 1,) from each value to the next; NumPy's own takes as long again for its checks."""
    return part[1:] - part[:-1]
