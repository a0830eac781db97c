"""The simulated rig over its wire: what the scope and its meters see is the truth it was given."""

import socketserver
import threading

import numpy as np
import pytest

from yardtoll.bench.drivers.scpi_scope import ChannelProfile, ScopeProfile, ScpiScope
from yardtoll.bench.errors import AnswerError, ProfileError, UnreachableError
from yardtoll.bench.instruments import (
    SCOPE_PROFILE,
    open_rig_scope,
    open_scope,
    power_meters,
    takes_curves,
)
from yardtoll.bench.simulated.models import (
    BenchModel,
    LoadModel,
    MeterModel,
    Simulation,
    StationModel,
)
from yardtoll.bench.simulated.outlets import MODIFIED, OutletModel
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.bench.simulated.rig import SimulatedRig
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.output.hold import StepEnd, analyse_hold
from yardtoll.core.waveform.analysis import analyse_wave
from yardtoll.core.waveform.shape import Shape
from yardtoll.core.waveform.transfer import analyse_transfer
from yardtoll.store.records import Meter


@pytest.fixture
def rig():
    model = OutletModel(
        rated_w=2000, ports={"A": 100.0, "B": 60.0, "C": 12.0}, shared_w=120.0, bypass_w=1400,
        charge_w=600,
    )  # fmt: skip
    with SimulatedRig(model) as made, open_rig_scope(made) as scope:
        made.scope = scope
        yield made


class TestScope:
    @pytest.mark.parametrize("load_w", [0, 700, 2000])
    def test_volts_distortion_and_power_by_a_capture(self, rig, load_w):
        rig.scope.tell(f"LOAD:POW {load_w}")
        found = analyse_wave(rig.scope.capture(), 120, 60)
        model = rig.state.model
        assert found.vrms == pytest.approx(model.rms_v(load_w), rel=1e-3)
        assert found.distortion.thd == pytest.approx(model.thd(load_w), abs=2e-3)
        assert found.hertz == pytest.approx(60, abs=0.01) and found.shape is Shape.SINE
        assert found.watts == pytest.approx(load_w, abs=3)

    def test_a_modified_sine_is_told(self):
        model = OutletModel(rated_w=300, shape=MODIFIED, duty=0.7)
        with SimulatedRig(model) as rig, open_rig_scope(rig) as scope:
            found = analyse_wave(scope.capture(), 120, 60)
        assert found.shape is Shape.MODIFIED_SINE
        assert found.distortion.thd == pytest.approx(model.thd(0), abs=2e-3)
        # Peak is r.m.s. over the root of the duty: all of it is in the two levels.
        assert found.vrms == pytest.approx(120, rel=2e-3)

    def test_gaps_both_ways(self, rig):
        for way in ("ON", "OFF", "ON", "OFF"):
            rig.scope.tell(f"INP {way}")
            found = analyse_transfer(rig.scope.capture(across_switch=True), 120, 60)
            assert len(found.events) == 1
            assert found.worst_gap_ms == pytest.approx(rig.gaps_ms[-1], abs=1.0)

    def test_it_gives_no_watts_and_says_so(self, rig):
        with pytest.raises(AnswerError, match="no watts"):
            rig.scope.read_new()
        rig.scope.close()
        rig.scope.close()
        with pytest.raises(UnreachableError, match="not connected|no commands"):
            rig.scope.capture()

    def test_nobody_at_the_address(self):
        profile = ScopeProfile(interval_query="SWE:TINT?", volts=ChannelProfile(query="TRAC?"))
        scope = ScpiScope("TCPIP::127.0.0.1::1::SOCKET", profile)
        with pytest.raises(UnreachableError, match="no scope answers"):
            scope.open()


class Hostile(socketserver.StreamRequestHandler):
    """Answers a curve that is none, in the way its server was told to."""

    def handle(self):
        for line in self.rfile:
            query = line.strip()
            if query.endswith(b"?"):
                self.wfile.write(self.server.answers.get(query, b"0") + b"\n")


@pytest.mark.parametrize(
    ("interval", "block", "said"),
    [
        (b"nan", b"", "answered 'nan'"),
        (b"0", b"", "s between samples"),
        (b"1e-4", b"hello", "no block that can be read"),
        (b"1e-4", b"#18" + np.zeros(2, ">f4").tobytes(), "which are no curve"),
        (b"1e-4", b"#280" + np.full(20, 9.9e37, ">f4").tobytes(), "no volts"),
        (b"1e-4", b"#280" + np.full(20, np.nan, ">f4").tobytes(), "no volts"),
    ],
)
def test_an_answer_that_is_no_curve_is_one_sentence(interval, block, said):
    server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), Hostile)
    server.daemon_threads = True
    server.answers = {b"*IDN?": b"x", b"SWE:TINT?": interval, b"TRAC?": block}
    threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
    profile = ScopeProfile(
        interval_query="SWE:TINT?", volts=ChannelProfile(query="TRAC?"), timeout_ms=800
    )
    scope = ScpiScope(f"TCPIP::127.0.0.1::{server.server_address[1]}::SOCKET", profile)
    try:
        scope.open()
        with pytest.raises(AnswerError, match=said):
            scope.capture()
    finally:
        scope.close()
        server.shutdown()
        server.server_close()


class TestMeters:
    def test_ports_share_their_watts_the_largest_giving_way(self, rig):
        def port(name):
            return float(rig.scope.ask(f'MEAS:POW? "{name}"'))

        for name, watts in (("A", 140), ("B", 100), ("C", 15)):
            rig.scope.tell(f'LOAD:PORT "{name}",{watts}')
            if name == "A":
                assert port("A") == pytest.approx(100, rel=0.02)
        assert sum(map(port, "ABC")) == pytest.approx(120, rel=0.02)
        assert port("A") == pytest.approx(port("B"), rel=0.03) and port("C") == pytest.approx(
            12, rel=0.02
        )

    def test_the_wall_carries_up_to_its_limit(self, rig):
        rig.scope.tell("INP ON")
        rig.scope.tell("LOAD:POW 1000")
        assert float(rig.scope.ask("MEAS:INP:POW?")) == pytest.approx(1400, abs=20)
        rig.scope.tell("LOAD:POW 1900")
        out, drawn = (float(rig.scope.ask(q)) for q in ("MEAS:POW?", "MEAS:INP:POW?"))
        assert drawn == 1400
        assert float(rig.scope.ask("MEAS:BATT:POW?")) == pytest.approx(drawn - out)

    def test_it_heats_runs_its_fans_and_is_heard(self, rig):
        quiet = float(rig.scope.ask("MEAS:SOUN?"))
        rig.scope.tell("LOAD:POW 1900")
        rig.scope.tell("CLOC:ADV 3600")
        assert rig.scope.ask("MEAS:FAN?") == "1.000" and rig.state.temperature_c > 35
        assert float(rig.scope.ask("MEAS:SOUN?")) > quiet + 15
        rig.scope.tell("LOAD:POW 0")
        rig.scope.tell("CLOC:ADV 7200")
        assert rig.scope.ask("MEAS:FAN?") == "0.000"

    def test_an_overload_trips_and_comes_back_its_own_way(self, rig):
        rig.scope.tell("LOAD:POW 3000")
        rig.scope.tell("CLOC:ADV 60")
        assert rig.scope.ask("OUTP?") == "0.000" and rig.scope.ask("SYST:FAUL?") == "E03"
        assert np.max(np.abs(rig.scope.capture().volts)) < 3
        assert rig.scope.ask("OUTP:RES? plugged_in") == "0"
        assert rig.scope.ask("OUTP:RES? off_on") == "1" and rig.scope.ask("SYST:FAUL?") == ""

    def test_what_it_does_not_know_is_in_its_error_queue(self, rig):
        rig.scope.tell("MAKE:TEA 2")
        rig.scope.tell("LOAD:POW much")
        assert rig.scope.ask("SYST:ERR?") == '-113,"Undefined header"'
        assert rig.scope.ask("SYST:ERR?") == '-224,"Illegal parameter value"'
        assert rig.scope.ask("MEAS:LUCK?") == "9.91E37"


def test_scopes_are_no_meters_of_power():
    meter = Meter(
        name="M", profile="buffered_meter", address="TCPIP::x", reading_share=0.0, floor_w=0.0
    )
    scope = Meter(
        name="S", profile=SCOPE_PROFILE, address="TCPIP::x", reading_share=0.0, floor_w=0.0
    )
    by_eye = Meter(name="E", profile="", address="", reading_share=0.0, floor_w=0.0)
    lost = Meter(name="L", profile="gone", address="TCPIP::x", reading_share=0.0, floor_w=0.0)
    assert takes_curves(scope) and not any(map(takes_curves, (meter, by_eye, lost)))
    assert power_meters([scope, meter, by_eye, lost]) == [meter, by_eye, lost]
    with pytest.raises(ProfileError, match="not of a scope"):
        open_scope(meter)


@pytest.mark.study
def test_the_ladder_against_the_truth_of_300_stations():
    """Steps, seconds and trips of random stations; an empty battery or a hand is never a trip."""
    random = np.random.default_rng(20)
    for _ in range(300):
        rated = float(random.uniform(200, 3000))
        overload = OverloadModel(
            for_ever=float(random.uniform(1.01, 1.06)),
            seconds_at_half_more=float(random.uniform(2, 40)),
            at_once=float(random.uniform(1.6, 2.5)),
        )
        ends_empty = random.uniform() < 0.2
        shares = [1.0, 1.1, 1.2, 1.5] if not ends_empty else [0.9, 1.0]
        # Each step is left to the truth's own time, or to the next switch after a minute.
        steps = tuple((90.0 * i, share * rated) for i, share in enumerate(shares) if i)
        store = rated * 90 * len(shares) * 0.4 / 3600 if ends_empty else rated * 3.0
        station = StationModel(
            store_wh=store, overhead_w=5, proportional=0.04, ohmic_per_w=0.0, rated_w=rated,
            sag_ratio=0.0, overload=overload,
        )  # fmt: skip
        load = LoadModel(watts=shares[0] * rated, cold_share=0.0, on_s=10.0, steps=steps)
        bench = BenchModel(
            seed=int(random.integers(1e6)), station=station, load=load,
            meter=MeterModel(noise_w=0.001 * rated),
        )  # fmt: skip
        simulation = Simulation(bench)
        seen = simulation.advance(10 + 90 * len(shares) + 30)
        trace = Trace(name="t", time_s=seen["time"], columns={Quantity.POWER: seen["power"]})
        found = analyse_hold(trace, rated, rated_wh=store)
        if ends_empty:
            assert found.trip is None, "an empty battery is no trip"
            continue
        # The truth, without the program's arithmetic: heat gathers by the square of the load.
        heat, tripped_s = 0.0, None
        limit = overload.seconds_at_half_more * (1.5**2 - overload.for_ever**2)
        for second in range(1, 90 * len(shares) + 1):
            share = shares[min((second - 1) // 90, len(shares) - 1)]
            heat += max(share**2 - overload.for_ever**2, 0.0)
            if share >= overload.at_once or heat >= limit:
                tripped_s = second
                break
        assert (found.trip is not None) == (tripped_s is not None)
        if tripped_s is None:
            continue
        assert found.trip.at_s == pytest.approx(10 + tripped_s, abs=2.0)
        # A step that trips within its first sample was never seen by the meter.
        allowed = {shares[min((s - 1) // 90, len(shares) - 1)] for s in (tripped_s, tripped_s - 1)}
        assert any(found.trip.share_of_rated == pytest.approx(s, rel=0.03) for s in allowed)
        whole = [s for s in found.steps if s.ended_by is StepEnd.NEXT_STEP]
        for step in whole:
            assert step.seconds == pytest.approx(90, abs=2.5)
