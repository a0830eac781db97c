"""Port panel, checks, curve and the like, drawn and driven by mouse and keys."""

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from yardtoll.bench.drivers.scpi import ScpiMeter
from yardtoll.bench.errors import BenchError
from yardtoll.bench.samples import SampleBlock
from yardtoll.core.claims.ports import PanelPort, PortGroup
from yardtoll.core.ledger.loss_fit import RunAtLoad
from yardtoll.core.ledger.losses import fit_losses
from yardtoll.core.methods import Outlet
from yardtoll.core.planning.checks import Check, CheckState
from yardtoll.desktop.app import make_app
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.views.plan.checks_panel import ChecksPanel
from yardtoll.desktop.widgets.basics import ElidingButton
from yardtoll.desktop.widgets.load_curve import LoadCurve
from yardtoll.desktop.widgets.port_panel import PortPanel
from yardtoll.report.charts.load_curve import LoadPoint
from yardtoll.review.station.outlet_runs import OutletRuns
from yardtoll.running.meter_check import check_meter
from yardtoll.store.records import SIMULATED, Meter


@pytest.fixture
def shown(qtbot):
    make_app()
    theme.apply("day")

    def show(widget, width, height):
        qtbot.addWidget(widget)
        widget.resize(width, height)
        widget.show()
        return widget

    return show


def colours(widget):
    image = widget.grab().toImage()
    return {
        image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height())
    }


def group(title, shape="ac", count=2, tested=False, shared=""):
    port = PanelPort(shape=shape, label=title, count=count, rating="12 V · 10 A", tested=tested)
    return PortGroup(title=title, ports=(port,), shared=shared)


class TestPortPanel:
    SHAPES = ("ac", "usb_c", "usb_a", "car_out", "dc", "wall", "sun", "car")

    def test_every_shape_is_drawn_and_tested_ones_stand_out(self, shown):
        panel = shown(PortPanel(), 900, 200)
        panel.show_groups([group(s, s) for s in self.SHAPES])
        untested = colours(panel)
        assert theme.tokens.ink.lower() in untested
        assert theme.tokens.good.lower() not in untested
        panel.show_groups([group(s, s, tested=True, shared="160 W together") for s in self.SHAPES])
        assert theme.tokens.good.lower() in colours(panel)
        assert "tested" in panel.accessibleDescription()
        assert "160 W together" in panel.accessibleDescription()

    def test_a_narrow_panel_grows_rows(self, shown):
        panel = shown(PortPanel(), 1200, 200)
        panel.show_groups([group(str(i)) for i in range(6)])
        wide = panel.height()
        panel.resize(400, wide)
        assert panel.height() > wide
        panel.show_groups([])
        assert panel.accessibleDescription() == ""


class TestGates:
    GATES = (
        Check(key="charged", text="Full and settled?", state=CheckState.PENDING, by_hand=True),
        Check(key="rating", text="It would trip.", state=CheckState.FAILED),
        Check(key="zeroed", text="Meter zeroed?", state=CheckState.PENDING, by_hand=True),
    )

    def test_words_and_box_are_one(self, shown):
        panel, told = shown(ChecksPanel(), 500, 200), []
        panel.ticked.connect(lambda *what: told.append(what))
        panel.show_checks(self.GATES)
        assert set(panel.boxes) == {"charged", "zeroed"}
        assert panel.boxes["charged"].accessibleName() == "Full and settled?"
        QTest.mouseClick(panel.texts[0], Qt.MouseButton.LeftButton)
        QTest.keyClick(panel.boxes["zeroed"], Qt.Key.Key_Space)
        assert told == [("charged", True), ("zeroed", True)]
        QTest.mouseClick(panel.texts[1], Qt.MouseButton.LeftButton)
        assert len(told) == 2  # a check without a box has nothing to tick

    def test_ticks_outlive_a_change_of_rows_and_are_cleared_silently(self, shown):
        panel, told = shown(ChecksPanel(), 500, 200), []
        panel.show_checks(self.GATES)
        panel.boxes["charged"].click()
        panel.ticked.connect(lambda *what: told.append(what))
        panel.show_checks(self.GATES[:2])
        assert panel.boxes["charged"].isChecked()
        panel.clear_ticks()
        assert not panel.boxes["charged"].isChecked() and told == []

    def test_a_meter_that_was_asked_needs_no_box(self, shown):
        panel = shown(ChecksPanel(), 500, 200)
        panel.show_checks(self.GATES)
        read = Check(key="zeroed", text="The meter reads 0.00 Wh.", state=CheckState.PASSED)
        panel.show_checks((*self.GATES[:2], read))
        assert set(panel.boxes) == {"charged"}


def through(points, split):
    return OutletRuns(
        outlet=Outlet.AC,
        split=split,
        points=points,
        idle=None,
        full_w=2000,
    )


class TestLoadCurve:
    RUNS = tuple(
        RunAtLoad(energy_wh=p * h, duration_s=3600 * h)
        for p, h in ((100, 16.5), (400, 4.5), (1200, 1.5))
    )
    POINTS = tuple(
        LoadPoint(number=i, mean_w=r.mean_w, delivered_wh=r.energy_wh, expanded_wh=11.0)
        for i, r in enumerate(RUNS, start=1)
    )

    def test_points_fit_and_marker(self, shown):
        curve = shown(LoadCurve(), 480, 180)
        curve.show_runs(through(self.POINTS, fit_losses(self.RUNS, 2048)), 2048)
        assert {theme.tokens.trace.lower(), theme.tokens.accent.lower()} <= colours(curve)
        assert curve.answer.startswith("at 1000 W: ")
        for _ in range(200):
            QTest.keyClick(curve, Qt.Key.Key_Left)
        assert curve.answer.startswith("at 20 W")  # held at the first hundredth
        QTest.mouseClick(curve, Qt.MouseButton.LeftButton, pos=QPoint(56, 90))
        assert curve.answer.startswith("at 20 W")

    def test_without_a_fit_there_are_only_points(self, shown):
        curve = shown(LoadCurve(), 480, 180)
        curve.show_runs(through(self.POINTS[:1], fit_losses(self.RUNS[:1], 2048)), 2048)
        assert curve.answer == "" and theme.tokens.trace.lower() not in colours(curve)
        curve.show_runs(through((), None), 2048)
        assert curve.answer == ""


def test_long_words_are_cut_where_the_place_is_narrow(shown):
    made = shown(ElidingButton("2048 Wh (at 25 °C)  ·  listing", "claim", "Rated energy"), 400, 26)
    assert made.text() == "2048 Wh (at 25 °C)  ·  listing"
    made.resize(90, 26)
    assert made.text().endswith("…") and made.accessibleName() == "Rated energy"


class TestMeterLook:
    METER = Meter(
        name="M", profile="buffered_meter", address=SIMULATED, reading_share=0.01, floor_w=0.5
    )

    def test_a_meter_at_rest_reads_nothing(self):
        look = check_meter(self.METER)
        assert look.identity.startswith("Yard Toll,Simulated") and look.power_w == 0
        assert look.energy_wh == 0

    def test_one_that_gives_no_sample_has_not_read_zero(self, monkeypatch):
        nothing = SampleBlock(time_s=np.zeros(0), columns={})
        monkeypatch.setattr(ScpiMeter, "read_new", lambda _: nothing)
        look = check_meter(self.METER)
        assert math.isnan(look.power_w) and math.isnan(look.energy_wh)

    def test_one_that_does_not_answer_says_so(self):
        from dataclasses import replace

        gone = replace(self.METER, address="TCPIP::127.0.0.1::1::SOCKET")
        with pytest.raises(BenchError, match="no meter answers"):
            check_meter(gone)
