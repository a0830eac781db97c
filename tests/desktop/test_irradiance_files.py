"""A logger's own file of irradiance: read, refused, and attached to a run in the window."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from conftest_helpers import TANSY, worked_out
from PySide6.QtWidgets import QFileDialog

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.methods import METHODS
from yardtoll.desktop.actions.irradiance import as_trace, keep_irradiance
from yardtoll.desktop.views.sun.view import RUNS
from yardtoll.store.errors import LogError
from yardtoll.store.logs.irradiance import MOST_KEPT, read_irradiance
from yardtoll.store.records import Run


class TestIrradianceLog:
    RUN = Run(
        id=1, station_id=1, number=1, method="recharge_sun", state="finished", origin="import",
        started_at="2026-05-20T10:00:00+00:00", ended_at="2026-05-20T14:00:00+00:00",
        meter_id=None, soc_from=0, soc_to=100,
    )  # fmt: skip

    def write(self, tmp_path, head, rows):
        path = tmp_path / "pyranometer.csv"
        path.write_text("\n".join([head, *rows]))
        return path

    def test_a_logger_with_dates_and_kilowatts(self, tmp_path):
        start = datetime(2026, 5, 20, 9, 30, tzinfo=UTC)
        rows = [
            f"{start + timedelta(minutes=i):%Y-%m-%dT%H:%M:%SZ},{0.5 + i / 1000}" for i in range(60)
        ]
        log = read_irradiance(self.write(tmp_path, "time,G (kW/m2)", rows))
        assert log.kilo and log.w_m2[0] == pytest.approx(500)
        first_s, trace = as_trace(self.RUN, log)
        assert trace.name == "pyranometer.csv" and first_s == -1800 and trace.time_s.size == 60

    def test_headless_figures_and_elapsed_time(self, tmp_path):
        rows = [f"{i * 10},{400 + i % 7}" for i in range(50)]
        log = read_irradiance(self.write(tmp_path, "seconds,value", rows))
        assert log.basis is None and log.w_m2.size == 50

    def test_a_long_log_is_thinned(self, tmp_path):
        rows = [f"{i},{500 + (i % 10)}" for i in range(12_000)]
        log = read_irradiance(self.write(tmp_path, "t [s],irradiance", rows))
        assert log.w_m2.size == MOST_KEPT and log.w_m2.mean() == pytest.approx(504.5, abs=0.1)

    def test_what_does_not_fit_is_refused_in_a_sentence(self, tmp_path):
        with pytest.raises(LogError, match="none of the columns .* is one of irradiance"):
            read_irradiance(self.write(tmp_path, "t [s],power (W)", ["0,1", "1,2", "2,3"]))
        with pytest.raises(LogError, match="no sky gives more"):
            read_irradiance(self.write(tmp_path, "t [s],ghi", ["0,100", "1,50000", "2,3"]))
        with pytest.raises(LogError, match="fewer than two"):
            read_irradiance(self.write(tmp_path, "time,ghi", ["2026-05-20T09:30:00Z,100"]))
        rows = [f"2026-06-01T0{i}:00:00Z,{i}00" for i in range(1, 6)]
        late = read_irradiance(self.write(tmp_path, "time,ghi", rows))
        with pytest.raises(LogError, match="do not overlap: the run began"):
            as_trace(self.RUN, late)

    def test_attached_to_a_run_in_the_window(self, qtbot, demo, sun, tmp_path, monkeypatch):
        sun.choose_page(RUNS)
        run = demo.bench.session.yard.get(Run, sun.run_id)
        start = datetime.fromisoformat(run.started_at)
        rows = [f"{(start + timedelta(minutes=i)).isoformat()},300" for i in range(300)]
        path = self.write(tmp_path, "time,irradiance", rows)
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
        before = sun.solar.page.figures
        sun.irradiance_button.click()
        qtbot.waitUntil(lambda: not demo.jobs.busy, timeout=20_000)
        worked_out(qtbot, demo)
        assert sun.solar.page.figures != before
        assert "is attached to run 4" in demo.notice.text
        demo.bench.session.undo()
        worked_out(qtbot, demo)
        assert sun.solar.page.figures == before

    def test_a_second_one_takes_the_place_of_the_first(self, qtbot, demo, sun):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if METHODS[r.method].uses_panels)
        (first,) = [r for r in yard.recordings(run.id) if r.role == Role.IRRADIANCE.value]
        trace = Trace(
            name="again", time_s=np.array([0.0, 60.0]), columns={Quantity.IRRADIANCE: np.ones(2)}
        )
        keep_irradiance(demo.bench.session, run, 5.0, trace)
        (kept,) = [r for r in yard.recordings(run.id) if r.role == Role.IRRADIANCE.value]
        assert (kept.name, kept.offset_s) == ("again", 5.0)
        demo.bench.session.undo()
        assert [r for r in yard.recordings(run.id) if r.role == Role.IRRADIANCE.value] == [first]


def test_a_log_without_a_time_or_a_figure_is_one_sentence(tmp_path):
    path = tmp_path / "sun.csv"
    path.write_text("time,irradiance (W/m2)\n12:00,x\n12:01,\n12:02,-\n")
    with pytest.raises(LogError):
        read_irradiance(path)
