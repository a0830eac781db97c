"""A logger's own file of irradiance: read, refused, and laid beside a run in the window."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from conftest_helpers import TANSY, worked_out
from PySide6.QtWidgets import QFileDialog

from yardtoll.desktop.actions.irradiance import beside
from yardtoll.desktop.views.sun.view import RUNS
from yardtoll.review.analysis import analyse_run
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
        kept = beside(self.RUN, log)
        assert kept["name"] == "pyranometer.csv" and isinstance(kept["time_s"], str)

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
            beside(self.RUN, late)

    def test_laid_beside_a_run_in_the_window(self, qtbot, demo, sun, tmp_path, monkeypatch):
        sun.choose_page(RUNS)
        run = demo.bench.session.yard.get(Run, sun._run_id)
        start = datetime.fromisoformat(run.started_at)
        rows = [f"{(start + timedelta(minutes=i)).isoformat()},300" for i in range(300)]
        path = self.write(tmp_path, "time,irradiance", rows)
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
        before = sun.solar.page.figures
        sun._irradiance.click()
        qtbot.waitUntil(lambda: not demo.jobs.busy, timeout=20_000)
        worked_out(qtbot, demo)
        assert sun.solar.page.figures != before
        assert "lies beside run 4" in demo.notice.text
        demo.bench.session.undo_stack.undo()
        worked_out(qtbot, demo)
        assert sun.solar.page.figures == before

    def test_a_damaged_one_is_left_aside(self, demo, sun):
        yard = demo.bench.session.yard
        run = next(r for r in yard.runs(TANSY) if r.method == "recharge_sun")
        for kept in ("no such thing", {"time_s": "??", "w_m2": "??"}, {"time_s": 3}):
            spoilt = replace(run, conditions={**run.conditions, "irradiance": kept})
            assert analyse_run(yard, spoilt).solar.light == "sensor"
