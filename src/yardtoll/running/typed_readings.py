"""Counter readings typed by hand, as the samples of a run whose meter is read by eye."""

import numpy as np

from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.typed_readings import TypedReading, stretches
from yardtoll.running.live_samples import LiveSamples
from yardtoll.store.records import Reading
from yardtoll.uptime import boot_s


class TypedReadings:
    """Time since the start of such a run, and its readings as samples.

    Attributes:
        mean_w_u: standard uncertainty of the mean power up to the latest reading, in W; None
            before there are two.
    """

    def __init__(self, samples: LiveSamples) -> None:
        self._samples = samples
        self._readings: list[Reading] = []
        self._began_s = boot_s()
        self.mean_w_u: float | None = None

    def begin(self, gone_s: float) -> None:
        """Count from so long ago."""
        self._began_s = boot_s() - gone_s

    def now_s(self) -> float:
        """S since the start."""
        return boot_s() - self._began_s

    def take(self, readings: list[Reading]) -> bool:
        """Show counter readings as they stand, with the mean power up to each.

        Returns:
            Whether the samples are others now.
        """
        if readings == self._readings:
            return False
        self._readings = readings
        self._samples.clear()
        found = stretches([TypedReading(s=r.time_s, energy_wh=r.value) for r in readings])
        self.mean_w_u = found[-1].mean_w_u if found else None
        watts = {stretch.end_s: max(stretch.mean_w, 0.0) for stretch in found}
        self._samples.add(
            SampleBlock(
                time_s=np.array([r.time_s for r in readings]),
                columns={
                    Quantity.ENERGY: np.array([r.value for r in readings]),
                    Quantity.POWER: np.array([watts.get(r.time_s, 0.0) for r in readings]),
                },
            )
        )
        return True
