"""How a simulated station carries too much load: heat that builds up, and how it comes back.

Heat grows with the square of the load beyond what is carried for ever and fades below it; at its
limit, or at once from a certain load on, the outlet trips.
"""

import math
from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_USUAL_SHARE = 1.5


@dataclass(frozen=True, kw_only=True)
class OverloadModel:
    """A station's truth.

    Attributes:
        for_ever: share of the rating that is carried without end.
        seconds_at_half_more: at 150 % of the rating, from cold.
        at_once: share of the rating that trips within a sample.
        fade_s: time constant with which heat fades at rest.
        reset: "itself", "off_on", "cooled" or "plugged_in".
        code: what the display shows after a trip.
    """

    for_ever: float = 1.05
    seconds_at_half_more: float = 10.0
    at_once: float = 2.0
    fade_s: float = 300.0
    reset: str = "off_on"
    code: str = "E03"

    def seconds_at(self, share: float) -> float:
        """From cold, at a steady share of the rating; infinite where it does not trip."""
        if share >= self.at_once:
            return 0.0
        if share <= self.for_ever:
            return math.inf
        return self.seconds_at_half_more * self._rate(_USUAL_SHARE) / self._rate(share)

    def trips_at(
        self, shares: FloatArray, interval_s: float, heat: float
    ) -> tuple[int | None, float]:
        """(index of the sample it trips at, heat then), through samples of the share of rated.

        Args:
            heat: at the start, 0 to 1.
        """
        whole = self.seconds_at_half_more * self._rate(_USUAL_SHARE)
        fade = math.exp(-interval_s / self.fade_s)
        if heat == 0.0 and float(np.max(shares, initial=0.0)) <= self.for_ever:
            return None, 0.0
        for i, share in enumerate(shares.tolist()):
            if share >= self.at_once:
                return i, 1.0
            if share > self.for_ever:
                heat += self._rate(share) * interval_s / whole
            else:
                heat *= fade
            if heat >= 1.0 - 1e-9:
                return i, 1.0
        return None, heat

    def _rate(self, share: float) -> float:
        return share**2 - self.for_ever**2
