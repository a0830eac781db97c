"""The simulated bench over its real wire, read by the driver that reads real meters."""

import time

import numpy as np
import pytest

from yardtoll.bench.drivers.scpi import ScpiMeter, ScpiProfile
from yardtoll.bench.errors import AnswerError, ProfileError, UnreachableError
from yardtoll.bench.profiles.files import load_profile, shipped_profiles
from yardtoll.bench.recorder import Recorder, RecorderEvents
from yardtoll.bench.simulated.clock import VirtualClock
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    StationModel,
    station_model_for,
)
from yardtoll.bench.simulated.scpi_server import IDENTITY, SimulatedBench
from yardtoll.core.discharge.analysis import Rating, analyse_discharge
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.uncertainty.accuracy import MeterAccuracy
from yardtoll.core.uncertainty.energy_budget import discharge_budget

PROFILES = {key: profile.commands for key, profile in shipped_profiles().items()}
STATION = StationModel(
    store_wh=50, overhead_w=6, proportional=0.05, ohmic_per_w=0, rated_w=300, nominal_v=120
)


class HandClock(VirtualClock):
    """A clock that stands until it is moved by hand."""

    def __init__(self):
        self.real_s = 0.0
        super().__init__(now_s=lambda: self.real_s)


@pytest.fixture
def clock():
    return HandClock()


@pytest.fixture
def bench(clock):
    model = BenchModel(seed=1, station=STATION, load=LoadModel(watts=100))
    with SimulatedBench(model, clock) as bench:
        yield bench


def read_to_the_end(bench, clock, hours=20.0, chunk_s=3600.0) -> Trace:
    blocks = []
    with ScpiMeter(bench.resource, PROFILES["buffered_meter"]) as meter:
        while clock.real_s < hours * 3600:
            clock.real_s += chunk_s
            blocks.append(meter.read_new())
            if blocks[-1].columns[Quantity.VOLTS][-60:].max() == 0:
                break
    time_s = np.concatenate([b.time_s for b in blocks])
    columns = {q: np.concatenate([b.columns[q] for b in blocks]) for q in blocks[0].columns}
    return Trace(name="live", time_s=time_s - time_s[0], columns=columns)


def test_a_buffered_meter_hands_over_each_sample_once(bench, clock):
    with ScpiMeter(bench.resource, PROFILES["buffered_meter"]) as meter:
        clock.real_s = 30
        first = meter.read_new()
        clock.real_s = 45
        second = meter.read_new()
        assert meter.read_new().time_s.size == 0
    np.testing.assert_allclose(first.time_s, np.arange(1, 31))
    np.testing.assert_allclose(second.time_s, np.arange(31, 46))
    assert second.columns[Quantity.POWER][-1] == pytest.approx(105, abs=4)
    assert second.columns[Quantity.VOLTS][-1] == pytest.approx(119.4, abs=0.5)


def test_a_polled_meter_is_asked_for_each_quantity(bench, clock):
    clock.real_s = 600
    meter = ScpiMeter(bench.resource, PROFILES["polled_meter"], now_s=lambda: clock.real_s)
    assert meter.open() == IDENTITY
    meter.zero()
    clock.real_s = 660
    block = meter.read_new()
    meter.close()
    assert block.time_s.tolist() == [60]
    assert block.columns[Quantity.POWER][0] == pytest.approx(99, abs=2)
    assert block.columns[Quantity.ENERGY][0] == pytest.approx(99 / 60, abs=0.1)


def test_a_polled_meter_found_again_goes_on_in_its_own_time(bench, clock):
    meter = ScpiMeter(bench.resource, PROFILES["polled_meter"], now_s=lambda: clock.real_s)
    meter.open()
    clock.real_s = 100
    meter.close()
    with pytest.raises(UnreachableError, match="not connected"):
        meter.read_new()
    meter.open(prepare=False)
    assert meter.read_new().time_s.tolist() == [100]
    meter.close()


def test_unknown_commands_go_to_the_error_queue(bench):
    assert bench.answer("NO:SUCH") is None
    assert bench.answer("SYST:ERR?") == '-113,"Undefined header"'
    assert bench.answer("SYST:ERR?") == '0,"No error"'


def test_nothing_at_the_address_is_one_sentence():
    meter = ScpiMeter("TCPIP::127.0.0.1::1::SOCKET", PROFILES["buffered_meter"])
    with pytest.raises(UnreachableError, match="no meter answers at TCPIP::127.0.0.1::1::SOCKET"):
        meter.open()
    with pytest.raises(UnreachableError):
        ScpiMeter("not an address", PROFILES["buffered_meter"]).open()


def test_answers_that_are_none_are_refused(bench, clock):
    odd = ScpiProfile.model_validate({"direct": {"power": {"query": "*IDN?"}}})
    with ScpiMeter(bench.resource, odd) as meter, pytest.raises(AnswerError, match="answered"):
        meter.read_new()
    clock.real_s = 1
    narrow = ScpiProfile.model_validate(
        {"buffer": {"query": "TRAC:DATA?", "columns": ["time", "power"]}}
    )
    with ScpiMeter(bench.resource, narrow) as meter, pytest.raises(AnswerError, match="multiple"):
        meter.read_new()


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("name = ", "is not TOML"),
        ('name = "x"\nprotocol = "telepathy"', "protocol must be one of scpi"),
        ("timeout_ms = 5", "needs the name of its instrument"),
        ('name = "x"', "needs a buffer or at least one direct"),
        ('name = "x"\n[direct.colour]\nquery = "Q?"', "direct.colour"),
        ('name = "x"\n[buffer]\nquery = "Q?"\ncolumns = ["power"]', "buffer"),
    ],
)
def test_a_bad_profile_is_refused(tmp_path, text, message):
    path = tmp_path / "mine.toml"
    path.write_text(text)
    with pytest.raises(ProfileError, match=message):
        load_profile(path)
    with pytest.raises(ProfileError, match="cannot be read"):
        load_profile(tmp_path / "none.toml")


def test_the_recorder_survives_a_broken_wire(clock):
    model = BenchModel(seed=1, station=STATION, load=LoadModel(watts=100))
    got, lost, found = [], [], []

    class Flaky(ScpiMeter):
        broken = False

        def read_new(self):
            if self.broken:
                type(self).broken = False
                raise UnreachableError("the cable was pulled")
            return super().read_new()

    with SimulatedBench(model, clock) as bench:
        recorder = Recorder(
            Flaky(bench.resource, PROFILES["buffered_meter"]),
            got.append,
            RecorderEvents(lost=lost.append, found=found.append),
            poll_s=0.01,
        )
        recorder.start()
        wait_for(lambda: found)
        clock.real_s = 10
        wait_for(lambda: sum(b.time_s.size for b in got) == 10)
        Flaky.broken = True
        wait_for(lambda: lost)
        clock.real_s = 25
        wait_for(lambda: len(found) == 2)
        wait_for(lambda: sum(b.time_s.size for b in got) == 25)
        clock.real_s = 30
        recorder.stop()
    assert lost == ["the cable was pulled"]
    # What was measured when stop was called is still handed on.
    np.testing.assert_allclose(np.concatenate([b.time_s for b in got]), np.arange(1, 31))


def test_a_failing_sink_is_reported(bench, clock):
    failed = []

    def full(_):
        raise OSError(28, "disk full")

    recorder = Recorder(
        ScpiMeter(bench.resource, PROFILES["buffered_meter"]),
        full,
        RecorderEvents(failed=failed.append),
        poll_s=0.01,
    )
    recorder.start()
    wait_for(lambda: bench.answer("SYST:ERR?") is not None)
    time.sleep(0.2)
    clock.real_s = 10
    wait_for(lambda: failed)
    recorder.stop()
    assert failed[0].strerror == "disk full"


def test_the_clock_changes_pace_without_a_jump():
    real = [0.0]
    clock = VirtualClock(now_s=lambda: real[0])
    real[0] = 10
    clock.set_speed(60)
    real[0] = 20
    assert clock.bench_s() == 610
    clock.set_speed(99_999)
    assert clock.speed == 3600


def test_an_overload_trips_after_some_seconds():
    sim = Simulation(BenchModel(seed=1, station=STATION, load=LoadModel(watts=400, on_s=0)))
    sim.advance(60)
    assert sim.shut_off_s == 5


def test_starting_late_is_the_same_bench_with_a_gap(clock):
    model = BenchModel(seed=9, station=STATION, load=LoadModel(watts=100))
    whole = Simulation(model).advance(1000)
    late = Simulation(model)
    late.advance(400)
    np.testing.assert_array_equal(late.advance(1000)["power"], whole["power"][400:])


@pytest.mark.parametrize("seed", range(24))
def test_analysis_finds_what_the_model_delivered(seed):
    """Random stations, loads and meters: the truth is within the meter's stated accuracy."""
    random = np.random.default_rng(1000 + seed)
    rated_wh, share = random.uniform(200, 2500), random.uniform(0.15, 0.9)
    rated_w = rated_wh * random.uniform(0.8, 1.5)
    accuracy = MeterAccuracy(reading_share=0.01, floor_w=0.2)
    model = BenchModel(
        seed=seed,
        station=station_model_for(rated_wh, rated_w, seed),
        load=LoadModel(
            watts=share * rated_w,
            thermostat_period_s=900 if seed % 4 == 0 else 0,
            thermostat_duty=0.7,
        ),
        meter=MeterModel(
            gain_error=random.uniform(-0.01, 0.01), offset_w=random.uniform(-0.2, 0.2)
        ),
    )
    clock = HandClock()
    with SimulatedBench(model, clock) as bench:
        trace = read_to_the_end(bench, clock)
        truth = bench.truth()
    assert truth.shut_off_s is not None
    result = analyse_discharge([trace], Rating(rated_wh=rated_wh))
    assert not result.notices
    # Limits, not U: a rectangular error never leaves them.
    hours = result.duration_s / 3600
    limit = 0.01 * truth.delivered_wh + 0.2 * hours + result.mean_w * 2 / 3600
    assert abs(result.delivered_wh - truth.delivered_wh) <= limit
    # The trace begins with the first sample, one second into the bench's time.
    # The shut-off lies in the second after the last loaded one; the counter's last step says where.
    last_loaded = truth.shut_off_s - 2
    assert result.cutoff_s <= last_loaded + 1
    if not model.load.thermostat_period_s:
        assert result.cutoff_s == pytest.approx(last_loaded, abs=1)
    assert discharge_budget(result, [accuracy]).expanded > 0


def wait_for(condition, timeout_s=60.0):
    deadline = time.monotonic() + timeout_s
    while not condition():
        assert time.monotonic() < deadline, "waited too long"
        time.sleep(0.01)
