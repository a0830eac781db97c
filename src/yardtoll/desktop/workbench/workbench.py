"""What every view stands on: the open yard, the results, and the run that is going."""

from dataclasses import replace
from datetime import UTC, datetime

from PySide6.QtCore import QObject, Signal

from yardtoll.bench.errors import ProfileError
from yardtoll.bench.profiles.files import profile_named
from yardtoll.core.electrical.trace import Code
from yardtoll.core.planning.expected import EarlierRun
from yardtoll.desktop.workbench.analyses import Analyses
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.session import Session
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.review.when import show_in, zone_of
from yardtoll.running.plan import RunPlan
from yardtoll.running.session import LiveRun, new_run
from yardtoll.store.records import TYPED, Meter, Run, RunState, Station
from yardtoll.store.yard_file import utc_now

WHOLE_DISCHARGES = ("capacity_ac", "conditioning")
LEAST_WINDOW = 0.8
"""A discharge over less of the charge says too little of the whole store."""


class Workbench(QObject):
    """One open yard at work.

    Signals:
        changed: records, results or the chosen station changed.
        live_changed: a run began, or the one that was going ended.
        live_updated: the run that is going has new samples or notes.
        run_ended(run_id, reason): a run has just been finished and kept.
        trouble(text): something to be said to the user.
    """

    changed = Signal()
    live_changed = Signal()
    live_updated = Signal()
    run_ended = Signal(int, str)
    trouble = Signal(str)

    def __init__(
        self, session: Session, jobs: Jobs, settings: UserSettings, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.session = session
        self.jobs = jobs
        self.settings = settings
        self.analyses = Analyses(session.yard, jobs, self)
        self.live: LiveRun | None = None
        self._use_the_sites_zone()
        session.changed.connect(self._use_the_sites_zone)
        session.changed.connect(self.changed)
        session.station_changed.connect(self.changed)
        self.analyses.ready.connect(self.changed)

    def _use_the_sites_zone(self) -> None:
        show_in(zone_of(self.session.yard.site()))

    def start_run(self, plan: RunPlan, planned: Run | None = None) -> None:
        """Begin a run now; a planned run that it carries out goes from the timetable."""
        if self._can_be_read(plan.meter):
            run = new_run(self.session.yard, plan)
            self._go_live(run).start()
            if planned is not None:
                self.session.put_unrecorded(replace(planned, state=RunState.DROPPED.value))
            self.session.changed.emit()

    def keep_plan(self, plan: RunPlan, at: datetime) -> Run:
        """Put a plan on the timetable, for an aware moment."""
        begins = at.astimezone(UTC).isoformat(timespec="milliseconds")
        run = plan.as_run(self.session.yard, RunState.PLANNED, begins)
        return self.session.add(run, f"Plan {plan.about.title} of {plan.station.name}")

    def resume(self, run: Run) -> None:
        """Go on with a run that was left."""
        if self._can_be_read(self.session.yard.get(Meter, run.meter_id or 0)):
            self._go_live(run).resume()

    def close_as_it_is(self, run: Run) -> None:
        """Finish a run that was left, with what it has; its samples are joined on a worker."""
        run_id = run.id
        assert run_id is not None
        self.jobs.start(
            f"Closing run {run.number}",
            lambda _: None if run.origin == TYPED else self.session.yard.merge_samples(run_id),
            lambda _: self._closed_as_it_was(run),
            lambda error: self.trouble.emit(f"Run {run.number} could not be closed: {error}."),
        )

    def _closed_as_it_was(self, run: Run) -> None:
        conditions = {**run.conditions, "ended": "the program was away; closed as it was"}
        kept_at = utc_now()
        self.session.put_unrecorded(
            replace(run, state=RunState.FINISHED.value, ended_at=kept_at, conditions=conditions)
        )
        self.live_changed.emit()

    def interrupted(self) -> list[Run]:
        """Runs an earlier program left going; none while the yard is only shown."""
        if self.session.yard.read_only:
            return []
        live = self.live.run_id if self.live else None
        return [run for run in self.session.yard.unfinished_runs() if run.id != live]

    def earlier_runs(self, station: Station) -> tuple[EarlierRun, ...]:
        """A station's whole discharges through the AC outlet so far."""
        found = self.analyses.all_of(self.session.yard.runs(station.id))
        return tuple(
            EarlierRun(
                delivered_wh=a.result.delivered_wh,
                duration_s=a.result.duration_s,
                window=a.result.rating.window,
            )
            for a in found
            if a.counts
            and a.result
            and a.result.duration_s
            and a.run.method in WHOLE_DISCHARGES
            and not a.result.has(Code.NO_CUTOFF)
            and a.result.rating.window >= LEAST_WINDOW
        )

    def tested_methods(self, station: Station) -> set[str]:
        """Keys of the methods with a finished run of a station."""
        runs = self.session.yard.runs(station.id)
        return {run.method for run in runs if run.state == RunState.FINISHED.value}

    def last_ended_at(self, station: Station) -> str | None:
        """When a station's latest run ended, ISO 8601; None where it has none."""
        runs = self.session.yard.runs(station.id)
        return max((run.ended_at for run in runs if run.ended_at), default=None)

    def leave(self) -> None:
        """Let go of a run that is going, to be resumed later, and of the yard."""
        if self.live is not None:
            self.live.leave()
            self.live = None
        self.jobs.wait()
        self.session.close()

    def _can_be_read(self, meter: Meter) -> bool:
        """Whether the meter's profile is there; else the user is told and nothing begins.

        A meter without an address is read by eye and needs none.
        """
        if not meter.address:
            return True
        try:
            profile_named(meter.profile)
        except ProfileError as error:
            self.trouble.emit(f"{meter.name} cannot be read: {error}.")
            return False
        return True

    def _go_live(self, run: Run) -> LiveRun:
        station = self.session.yard.get(Station, run.station_id)
        live = LiveRun(
            self.session.yard,
            run,
            speed=self.settings.simulated_speed,
            earlier=self.earlier_runs(station),
            parent=self,
        )
        live.samples_added.connect(self.live_updated)
        live.notes_changed.connect(self.live_updated)
        live.lost.connect(self._on_lost)
        live.found.connect(self.live_updated)
        live.ended.connect(self._on_ended)
        live.failed.connect(self._on_failed)
        self.live = live
        self.session.choose_station(station.id)
        self.live_changed.emit()
        return live

    def _on_lost(self, reason: str) -> None:
        self.trouble.emit(
            f"{reason[:1].upper()}{reason[1:]}. What was recorded is safe; the meter is tried "
            "again every second."
        )
        self.live_updated.emit()

    def _on_ended(self, run_id: int, reason: str) -> None:
        self._drop_live()
        self.run_ended.emit(run_id, reason)

    def _on_failed(self, reason: str) -> None:
        self._drop_live()
        self.trouble.emit(
            f"The recording stopped: {reason}. What came before is kept; the run can be resumed "
            "or closed as it is under Run."
        )

    def _drop_live(self) -> None:
        live, self.live = self.live, None
        if live is not None:
            live.deleteLater()
        self.session.changed.emit()
        self.live_changed.emit()
