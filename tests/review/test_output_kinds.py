"""Tests at the outlets as kinds of run: what is said, judged, scored and published of them."""

import numpy as np
import pytest
from tests.records import METER, STATION
from tests.runs import analysed

from yardtoll.bench.simulated.outlets import MODIFIED, OutletModel
from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.judging import Standing
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods import METHODS
from yardtoll.core.output.entries import CALIBRATION_DB, CALIBRATION_RMS, CAPTURE, RELATIVE
from yardtoll.report.charts.palette import ON_PAPER
from yardtoll.report.charts.scene import Words
from yardtoll.report.charts.svg import to_svg
from yardtoll.review.conformance import judged_claims
from yardtoll.review.kinds import kind_of
from yardtoll.review.sheet.outputs import output_parts
from yardtoll.review.station.runs import station_runs
from yardtoll.store.records import Entry, Meter, Run

SCOPE = Meter(
    id=1, name="Scope", profile="scope", address="x", reading_share=0.03, floor_w=5,
    volts_share=0.01, volts_floor_v=0.2, hertz_floor_hz=0.01,
)  # fmt: skip
SIZE = (600.0, 300.0)


def table_run(method, lines, *claims, traces=(), meter=None, number=1):
    """A run kept as a table; ``traces`` are its recordings from number 2 on."""
    run = Run(
        id=number, station_id=1, number=number, method=method, state="finished", origin="table",
        started_at="2026-05-01T10:00:00+00:00",
    )  # fmt: skip
    entries = tuple(
        Entry(id=i, run_id=number, position=i, fields=fields) for i, fields in enumerate(lines, 1)
    )
    role = METHODS[method].captures or Role.WAVEFORM
    more = [(role, trace, None) for trace in traces]
    return analysed(run, STATION, None, meter, more=more, entries=entries, claims=tuple(claims))


def said(found):
    kind = kind_of(found.run.method)
    return kind.output_headline(found), " ".join(kind.output_words(found))


def judged(found, claim):
    return judged_claims(station_runs([found]), [claim])[0]


def wave(model, load_w, *, relative=False, seconds=0.2):
    time_s = np.arange(int(20_000 * seconds)) / 20_000
    volts = model.volts(time_s, load_w)
    scale = 1 / 400 if relative else 1.0
    return Trace(name="capture", time_s=time_s, columns={Quantity.VOLTS: scale * volts})


def words_in(found):
    """Every word that the pictures of a run show."""
    scenes = kind_of(found.run.method).scenes(found, SIZE, ON_PAPER)
    return [item.text for scene in scenes for item in scene.items if isinstance(item, Words)]


PURE, VOLTS = Claim(kind="pure_sine", value=1), Claim(kind="ac_v", value=120)
HERTZ = Claim(kind="ac_hz", value=60)


class TestWaveform:
    def loads(self, model, *loads, meter=SCOPE, claims=(PURE, VOLTS, HERTZ)):
        lines = [{"load_w": float(w), CAPTURE: float(i)} for i, w in enumerate(loads, 2)]
        traces = [wave(model, w) for w in loads]
        return table_run("waveform_ac", lines, *claims, traces=traces, meter=meter)

    def test_a_sine_that_sags(self):
        found = self.loads(OutletModel(rated_w=800, sag_ratio=0.03, hertz=60.06), 0, 400, 800)
        headline, words = said(found)
        assert headline == ("Pure sine at every load; 120.0 V without load falls by 3.0 % at 800 W")
        assert "within ANSI C84.1 range A" in words and "gains 1 min 26 s a day" in words
        assert judged(found, PURE).standing is Standing.MEETS
        assert judged(found, VOLTS).standing is Standing.MEETS
        assert judged(found, HERTZ).standing is Standing.MEETS
        assert found.outcome.told[2]["volts_v"] == pytest.approx(118.2, abs=0.1)

    def test_a_modified_sine_is_no_pure_one(self):
        model = OutletModel(rated_w=300, shape=MODIFIED, duty=0.7, sag_ratio=0.0)
        found = self.loads(model, 0, 300)
        headline, words = said(found)
        assert headline.startswith("Modified sine at every load")
        assert "over the 8 %" in words and "order 5 at" in words
        assert judged(found, PURE).standing is Standing.FALLS_SHORT
        evidence = kind_of(found.run.method).evidence(found, station_runs([found]))
        assert evidence["pure_sine"].value == 0.0
        assert any("EN 50160" in text for text in words_in(found))

    def test_without_the_instruments_limits_no_volts_are_judged(self):
        found = self.loads(OutletModel(rated_w=800), 0, 800, meter=None)
        assert judged(found, VOLTS).standing is Standing.CANNOT_BE_JUDGED
        assert "accuracy for volts" in judged(found, VOLTS).sentence

    def test_a_capture_without_a_scale_tells_its_shape_alone(self):
        line = {"load_w": 400.0, CAPTURE: 2.0, RELATIVE: 1.0}
        trace = wave(OutletModel(rated_w=800), 400, relative=True)
        found = table_run("waveform_ac", [line], PURE, VOLTS, traces=[trace], meter=SCOPE)
        assert "volts_v" not in found.outcome.told[1] and "thd" in found.figures
        assert judged(found, VOLTS).standing is Standing.NOT_TESTED

    def test_50_hertz_and_no_claims(self):
        model = OutletModel(rated_w=800, nominal_v=230, hertz=50.01)
        found = self.loads(model, 0, 800, claims=())
        assert "within EN 50160" in said(found)[1] and "gains 17 s" in said(found)[1]

    def test_typed_figures_will_do(self):
        lines = [{"load_w": 0.0, "volts_v": 121.0, "shape": "sine"},
                 {"load_w": 800.0, "volts_v": 104.0, "thd_percent": 12.0}]  # fmt: skip
        found = table_run("waveform_ac", lines, PURE, VOLTS, meter=SCOPE)
        assert judged(found, PURE).standing is Standing.FALLS_SHORT
        assert judged(found, VOLTS).standing is Standing.FALLS_SHORT
        assert "outside ANSI C84.1 range B" in said(found)[1]

    def test_a_capture_that_is_none_is_named(self):
        flat = Trace(
            name="flat.csv", time_s=np.arange(300) / 20_000,
            columns={Quantity.VOLTS: np.zeros(300)},
        )  # fmt: skip
        found = table_run("waveform_ac", [{"load_w": 0.0, CAPTURE: 2.0}], traces=[flat])
        assert not found.has_outcome and "under one cycle" in found.problem
        assert table_run("waveform_ac", []).problem.startswith("no capture or reading yet")


TRANSFER, UPS = Claim(kind="transfer_ms", value=20), Claim(kind="ups", value=1)


class TestTransfer:
    def typed(self, gap_ms, **known):
        return {"way": "to_battery", "by": "scope", "load_w": 400.0, "gap_ms": gap_ms, **known}

    @pytest.mark.parametrize(
        ("lines", "transfer", "ups"),
        [
            ([(12.0, {})], Standing.MEETS, Standing.MEETS),
            ([(12.0, {}), (27.0, {})], Standing.FALLS_SHORT, Standing.FALLS_SHORT),
            ([(20.2, {})], Standing.TOO_CLOSE, Standing.NOT_TESTED),
            ([(14.0, {"way": "to_wall"})], Standing.MEETS, Standing.NOT_TESTED),
        ],
    )
    def test_the_worst_of_the_tries_is_judged(self, lines, transfer, ups):
        made = [self.typed(gap, **known) for gap, known in lines]
        found = table_run("transfer_time", made, TRANSFER, UPS)
        assert judged(found, TRANSFER).standing is transfer
        assert judged(found, UPS).standing is ups

    def test_an_eye_proves_no_milliseconds(self):
        lines = [{"way": "to_battery", "by": "stayed_on", "device": "computer", "stayed": "on"}]
        found = table_run("transfer_time", lines, TRANSFER, UPS)
        assert "proves no milliseconds" in said(found)[0]
        assert judged(found, TRANSFER).standing is Standing.NOT_TESTED
        assert judged(found, UPS).standing is Standing.MEETS
        assert any("no ms" in text for text in words_in(found))

    def test_frames_of_a_video_bound_it(self):
        def by_frames(dark):
            line = {"way": "to_battery", "by": "frames", "frames_dark": dark, "fps": 240.0}
            return judged(table_run("transfer_time", [line], TRANSFER), TRANSFER).standing

        # Between 4 and 6, 3 and 5, 6 and 8 frames of 4.17 ms.
        assert by_frames(3.0) is Standing.MEETS
        assert by_frames(4.0) is Standing.TOO_CLOSE
        assert by_frames(7.0) is Standing.FALLS_SHORT

    def test_volts_that_never_came_back(self):
        model = OutletModel(rated_w=800)
        trace = wave(model, 400, seconds=0.4)
        dark = np.where(trace.time_s < 0.2, trace.columns[Quantity.VOLTS], 0.0)
        lost = Trace(name="lost", time_s=trace.time_s, columns={Quantity.VOLTS: dark})
        line = {"way": "to_battery", "by": "scope", "load_w": 400.0, CAPTURE: 2.0}
        found = table_run("transfer_time", [line], TRANSFER, traces=[lost])
        assert "at least" in said(found)[0]
        assert judged(found, TRANSFER).standing is Standing.FALLS_SHORT
        generous = Claim(kind="transfer_ms", value=5000)
        found = table_run("transfer_time", [line], generous, traces=[lost])
        assert judged(found, generous).standing is Standing.NOT_TESTED


class TestPorts:
    USB = Claim(kind="usb_c_w", value=100)

    def test_who_gives_way_and_whose_limit_it_was(self):
        lines = [
            {"port": "USB-C", "watts_w": 99.0, "sink_w": 140.0},
            {"port": "USB-A", "watts_w": 18.0, "sink_w": 20.0},
            {"port": "USB-C", "watts_w": 60.0, "together": 1.0, "plug_c": 64.0},
            {"port": "USB-A", "watts_w": 18.0, "together": 1.0},
        ]
        found = table_run("port_power", lines, self.USB, meter=METER)
        headline, words = said(found)
        assert headline == "78 W from the ports together: USB-C gives way, 99 to 60 W"
        assert "too hot to hold" in words and "(61 %)" in words
        assert judged(found, self.USB).standing is Standing.TOO_CLOSE
        assert "99 → 60 W" in words_in(found)

    def test_a_tablet_judges_no_port(self):
        line = [{"port": "USB-C", "watts_w": 15.0, "sink_w": 15.0}]
        found = table_run("port_power", line, self.USB, meter=METER)
        verdict = judged(found, self.USB)
        assert verdict.standing is Standing.CANNOT_BE_JUDGED
        assert "the load was the limit" in verdict.sentence
        without = table_run("port_power", [{**line[0], "sink_w": 140.0}], self.USB)
        assert judged(without, self.USB).standing is Standing.CANNOT_BE_JUDGED
        strong = table_run("port_power", [{**line[0], "sink_w": 140.0}], self.USB, meter=METER)
        assert judged(strong, self.USB).standing is Standing.FALLS_SHORT


class TestTheRest:
    def test_appliances_become_ran_or_did_not_run(self):
        lines = [
            {"appliance": "Kettle", "started": "started", "peak_w": 1500.0, "nameplate_w": 1450.0},
            {"appliance": "Saw", "started": "tripped", "peak_w": 2900.0, "inrush_w": 5400.0,
             "reset": "off_on", "error_code": "E9", "soc_percent": 80.0},
        ]  # fmt: skip
        found = table_run("appliances", lines, Claim(kind="surge_w", value=1600))
        headline, words = said(found)
        assert headline == "Ran 1 of 2: Kettle; not Saw"
        assert "peak at least 2900 W" in words and "at most about 2500 W of surge" in words
        assert "switched off and on, code E9" in words
        assert {"◆ ran", "✕ the station tripped", "surge 1600 W"} <= set(words_in(found))

    @pytest.mark.parametrize(
        ("lines", "standing"),
        [
            ([{"output_w": 400.0, "input_w": 900.0}], Standing.MEETS),
            ([{"output_w": 400.0, "input_w": 0.0}], Standing.FALLS_SHORT),
            ([{"output_w": 0.0, "input_w": 900.0}], Standing.NOT_TESTED),
        ],
    )
    def test_pass_through_needs_a_load(self, lines, standing):
        claim = Claim(kind="pass_through", value=1)
        found = table_run("pass_through_steps", lines, claim)
        assert judged(found, claim).standing is standing
        evidence = kind_of(found.run.method).evidence(found, station_runs([found]))
        assert bool(evidence) is (standing is not Standing.NOT_TESTED)
        assert words_in(found)

    @pytest.mark.parametrize(
        ("line", "standing"),
        [
            ({"level_db": 45.0, "background_db": 30.0, "within_db": 1.5}, Standing.MEETS),
            ({"level_db": 55.0, "background_db": 30.0, "within_db": 1.5}, Standing.FALLS_SHORT),
            # The background is in it, or too close: it can meet, and not miss.
            ({"level_db": 55.0, "within_db": 1.5}, Standing.CANNOT_BE_JUDGED),
            ({"level_db": 45.0, "within_db": 1.5}, Standing.MEETS),
            ({"level_db": 60.0, "background_db": 59.0, "within_db": 1.5},
             Standing.CANNOT_BE_JUDGED),
            ({"level_db": 45.0, "background_db": 30.0}, Standing.CANNOT_BE_JUDGED),
        ],
    )  # fmt: skip
    def test_sound_against_its_claim(self, line, standing):
        claim = Claim(kind="noise_db", value=50)
        found = table_run("sound_level", [{"doing": "load", "distance_m": 1.0, **line}], claim)
        assert judged(found, claim).standing is standing
        assert any("claimed 50" in text for text in words_in(found))

    def test_a_recording_with_and_without_calibration(self):
        rate = 16_000
        time_s = np.arange(2 * rate) / rate
        noise = np.random.default_rng(1).normal(0, 0.01, time_s.size)
        # 1 kHz is not weighted: 0.1 r.m.s. at 94 dB makes a sine of 0.01 r.m.s. 74 dB.
        tone = 0.01 * np.sqrt(2) * np.sin(2 * np.pi * 1000 * time_s)
        hum = 0.05 * np.sin(2 * np.pi * 100 * time_s)
        trace = Trace(name="w", time_s=time_s, columns={Quantity.PRESSURE: tone + hum + noise / 50})
        line = {"doing": "load", CAPTURE: 2.0}
        bare = table_run("sound_level", [line], traces=[trace])
        assert said(bare)[0] == "A recording without calibration: hum alone can be told"
        assert "100 Hz" in said(bare)[1]
        known = {**line, CALIBRATION_DB: 94.0, CALIBRATION_RMS: 0.1}
        found = table_run("sound_level", [known], traces=[trace])
        # The hum at 100 Hz is weighted by −19.1 dB: 0.0354 r.m.s. adds 65.8 dB to 74 dB.
        assert found.outcome.levels.loudest.level_db == pytest.approx(74.6, abs=0.3)
        assert found.outcome.told[1]["level_db"] == found.outcome.levels.loudest.level_db

    def test_heat_and_a_refusal_to_charge(self):
        lines = [
            {"minute_min": 0.0, "temperature_c": 21.0, "where": "exhaust", "seen": "reading"},
            {"minute_min": 30.0, "temperature_c": 58.0, "where": "exhaust", "load_w": 800.0,
             "how": "gun"},
            {"minute_min": 31.0, "seen": "refused", "temperature_c": 57.0},
            {"minute_min": 75.0, "seen": "charged_again"},
        ]  # fmt: skip
        found = table_run("heat_fans", lines)
        headline, words = said(found)
        assert headline == "58 °C at the exhaust, the highest; it refused to charge"
        assert "up by 37 °C, by infrared gun" in words
        assert "refused to charge at 57 °C; it charged again after 44 min" in words


def test_every_kind_has_a_picture_and_a_part_of_the_sheet():
    runs = [
        table_run(
            "waveform_ac", [{"load_w": 0.0, "volts_v": 120.0}, {"load_w": 9.0, "volts_v": 119.0}]
        ),
        table_run("transfer_time", [{"way": "to_wall", "by": "scope", "gap_ms": 4.0}], number=2),
        table_run("appliances", [{"appliance": "A <b>", "started": "started"}], number=3),
        table_run("port_power", [{"port": "DC", "watts_w": 9.0}], number=4),
        table_run(
            "pass_through_steps", [{"output_w": 9.0, "input_w": 20.0, "sun_w": 3.0}], number=5
        ),
        table_run(
            "sound_level", [{"doing": "idle", "level_db": 30.0, "distance_m": 1.0}], number=6
        ),
        table_run("heat_fans", [{"minute_min": 1.0, "temperature_c": 30.0}], number=7),
    ]
    parts = list(output_parts(station_runs(runs)))
    assert len(parts) == 7 and all(part.finding and part.scenes for part in parts)
    drawn = [to_svg(scene) for part in parts for _, scene in part.scenes]
    assert all(svg.startswith("<svg") and "nan" not in svg for svg in drawn)
    assert "A &lt;b&gt;" in "".join(drawn)


def test_ports_and_heat_hear_what_other_runs_say():
    from tests.review.test_held_loads import carried

    other = carried("capacity_dc", (10, 0), (3600, 0.3), (10, 0))
    volts = np.where(other.trace.time_s < 1800, 13.2, 12.1)
    trace = Trace(
        name="dc", time_s=other.trace.time_s,
        columns={**other.trace.columns, Quantity.VOLTS: volts},
    )  # fmt: skip
    other = analysed(other.run, STATION, trace)
    (words,) = kind_of("port_power").beside_words(station_runs([other]))
    assert "lowest 12.10 V" in words and "held within" in words
