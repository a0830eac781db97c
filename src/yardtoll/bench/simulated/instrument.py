"""The simulated bench's meter as an instrument like any other."""

from yardtoll.bench.instrument import Instrument
from yardtoll.bench.samples import SampleBlock
from yardtoll.bench.simulated.models import Simulation
from yardtoll.bench.simulated.scpi_server import SimulatedBench

SIMULATED_PROFILE = "buffered_meter"
"""The shipped profile that the simulated meter speaks."""


class SimulatedInstrument:
    """Reads the simulated bench over its socket, and shuts the bench down at the end.

    Args:
        bench: running already.
        inner: the driver at the bench's socket.
    """

    def __init__(self, bench: SimulatedBench, inner: Instrument) -> None:
        self.bench = bench
        self._inner = inner

    @property
    def keeps_time(self) -> bool:
        """Whether the meter times its samples itself."""
        return self._inner.keeps_time

    @property
    def interval_s(self) -> float:
        """How often it is asked."""
        return self._inner.interval_s

    def open(self, *, prepare: bool = True) -> str:
        """Connect and return what the meter calls itself."""
        return self._inner.open(prepare=prepare)

    def read_new(self) -> SampleBlock:
        """Samples since the last call."""
        return self._inner.read_new()

    def break_off(self) -> None:
        """End whatever another thread waits for."""
        self._inner.break_off()

    def close(self) -> None:
        """Disconnect; the bench continues."""
        self._inner.close()

    def truth(self) -> Simulation:
        """The true state, for the simulated display and for tests."""
        return self.bench.truth()

    def shut_down(self) -> None:
        """End the bench too; safe to call twice."""
        self._inner.close()
        self.bench.close()
