"""Finding the frame of a time-lapse at which something went dark, in few looks."""

from dataclasses import dataclass, replace

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_LEAST_RANGE = 12.0
"""Grey levels, of 255, that a display must lose to count as dark (common practice, no source)."""


@dataclass(frozen=True, kw_only=True)
class Bisection:
    """Between a frame that is lit and one that is dark; each look halves what is left.

    Attributes:
        lit: index of the last frame known to be lit.
        dark: index of the first frame known to be dark.
        looks: how many frames were looked at.
    """

    lit: int
    dark: int
    looks: int = 0

    @property
    def is_found(self) -> bool:
        """Whether the first dark frame is known."""
        return self.dark - self.lit <= 1

    @property
    def next(self) -> int:
        """The frame to look at."""
        return (self.lit + self.dark) // 2

    def with_look(self, *, is_lit: bool) -> "Bisection":
        """After looking at :attr:`next`."""
        at = self.next
        looked = replace(self, looks=self.looks + 1)
        return replace(looked, lit=at) if is_lit else replace(looked, dark=at)


def dark_below(first: float, last: float) -> float | None:
    """The mean grey level below which a display is dark; None where first and last are alike.

    Args:
        first, last: of the first frame, in which it is lit, and of the last, in which it is dark.
    """
    return (first + last) / 2 if first - last > _LEAST_RANGE else None


def grey_level(pixels: FloatArray) -> float:
    """Mean of (rows, columns) grey levels, 0 to 255, the brightest tenth counting alone.

    A display is a small bright part of what is drawn around it.
    """
    if pixels.size == 0:
        return 0.0
    brightest = np.sort(pixels, axis=None)[-max(pixels.size // 10, 1) :]
    return float(np.mean(brightest))
