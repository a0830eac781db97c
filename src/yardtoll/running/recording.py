"""Recording a meter over its wire, or the simulated bench at its own pace."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from yardtoll.bench.drivers.scpi import ScpiMeter
from yardtoll.bench.profiles.files import profile_named
from yardtoll.bench.recorder import Recorder
from yardtoll.bench.samples import SampleBlock
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.scpi_server import SimulatedBench
from yardtoll.running.simulated_bench import model_from_conditions
from yardtoll.store.records import SIMULATED, Meter, Run
from yardtoll.store.yard_file import YardFile


class WireRecording(QObject):
    """Brings a meter's samples into the yard, then to whoever shows them.

    Signals:
        kept(block): samples that are on disk already.
        lost(reason), found(identity): the meter stopped answering, or answers.
        failed(reason): the recording cannot go on.
    """

    kept = Signal(object)
    lost = Signal(str)
    found = Signal(str)
    failed = Signal(str)

    def __init__(
        self, yard: YardFile, run: Run, meter: Meter, speed: float, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        assert run.id is not None
        self._yard = yard
        self._run = run
        self._run_id = run.id
        self._meter = meter
        self._profile = profile_named(meter.profile)
        self._bench: SimulatedBench | None = None
        # The bench keeps real pace until the meter answers: what happens while the wire is being
        # set up would not be recorded.
        self._clock = VirtualClock()
        self._speed = speed
        self._shift_s = 0.0
        self._recorder: Recorder | None = None
        self.answering = False
        self.found.connect(self._on_found)
        self.lost.connect(self._on_lost)
        self.failed.connect(self._on_failed)

    @property
    def simulated(self) -> bool:
        """Whether the bench is the simulated one."""
        return self._meter.address == SIMULATED

    @property
    def speed(self) -> float:
        """Bench seconds a real second."""
        return self._speed if self.simulated else 1.0

    def set_speed(self, speed: float) -> None:
        """Change the simulated bench's pace."""
        self._speed = speed
        if self.answering:
            self._clock.set_speed(speed)

    def start(self) -> None:
        """Connect and record; returns at once."""
        self._record(resumed=False, start_s=0.0)

    def resume(self, from_s: float) -> None:
        """Go on so many s after the first sample that was ever recorded."""
        # The load ran on while nobody recorded, so the simulated bench does too, at real pace.
        self._clock = VirtualClock(start_s=from_s)
        # A meter without a buffer of its own counts its times from this connection.
        if not self.simulated and not self._profile.buffer:
            self._shift_s = from_s
        self._record(resumed=True, start_s=from_s)

    def stop_soon(self, then: Callable[[], None]) -> None:
        """End the recording; ``then`` is called on its thread after the last samples."""
        if self._recorder is not None:
            self._recorder.stop_soon(then)

    def stop(self) -> None:
        """End the recording now, and wait for it."""
        if self._recorder is not None:
            self._recorder.stop()
        self.close_bench()

    def close_bench(self) -> None:
        """Take the simulated bench down; nothing to do for a real one."""
        bench, self._bench = self._bench, None
        if bench is not None:
            bench.close()

    def simulated_display(self, watts: float) -> tuple[int, float, float] | None:
        """SOC %, W and s left as the simulated display shows them; None on a real bench."""
        if self._bench is None:
            return None
        left_wh = self._bench.truth().left_wh
        station = model_from_conditions(self._run.conditions["bench"]).station
        left_s = 3600 * left_wh / watts if watts > 1 else 0.0
        return station.display_soc(left_wh), round(watts), round(left_s / 360) * 360.0

    def _record(self, *, resumed: bool, start_s: float) -> None:
        resource = self._meter.address
        if self.simulated:
            model = model_from_conditions(self._run.conditions["bench"])
            self._bench = SimulatedBench(model, self._clock, start_s)
            resource = self._bench.resource
        self._recorder = Recorder(
            ScpiMeter(resource, self._profile),
            self._keep,
            on_lost=self.lost.emit,
            on_found=self.found.emit,
            on_failed=lambda error: self.failed.emit(str(error)),
            resumed=resumed,
        )
        self._recorder.start()

    def _keep(self, block: SampleBlock) -> None:
        """On the recorder's thread: on disk first, then shown."""
        if self._shift_s:
            block = replace(block, time_s=block.time_s + self._shift_s)
        self._yard.append_samples(self._run_id, block.time_s, block.columns)
        self.kept.emit(block)

    def _on_found(self, _identity: str) -> None:
        self.answering = True
        self._clock.set_speed(self._speed)

    def _on_lost(self, _reason: str) -> None:
        self.answering = False

    def _on_failed(self, _reason: str) -> None:
        self.answering = False
        self.close_bench()
