"""What every view works with: the open yard, the results, and the run in progress."""

from __future__ import annotations

from collections.abc import Callable, Generator
from dataclasses import asdict, replace
from datetime import UTC, date, datetime
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from yardtoll.bench.errors import ProfileError
from yardtoll.core.formatting import capitalised
from yardtoll.core.methods import METHODS
from yardtoll.desktop.workbench.analyses import Analyses
from yardtoll.desktop.workbench.jobs import Jobs
from yardtoll.desktop.workbench.session import Session
from yardtoll.desktop.workbench.settings import UserSettings
from yardtoll.store.errors import YardError
from yardtoll.store.records import TYPED, Meter, Run, RunState, Station
from yardtoll.store.site_time import now, show_in, zone_of
from yardtoll.store.yard_file import utc_now

if TYPE_CHECKING:
    from yardtoll.core.planning.expected import EarlierRun
    from yardtoll.desktop.workbench.live_run import LiveRun
    from yardtoll.desktop.workbench.sender import Sender
    from yardtoll.running.plan import RunPlan
    from yardtoll.running.session import RunSession

_LOOK_EVERY_MS = 5000
_LIVE_EVERY_MS = 450


class Workbench(QObject):
    """One open yard at work.

    Signals:
        changed: records, results or the chosen station changed.
        live_changed: a run began, or the one that was going ended.
        live_updated: the run in progress has new samples or notes.
        run_ended(run_id, reason): a run has just been finished and kept.
        trouble(text): something to be said to the user.
        yard_moved: the yard's file is no longer at its path; said once.
    """

    changed = Signal()
    live_changed = Signal()
    live_updated = Signal()
    run_ended = Signal(int, str)
    trouble = Signal(str)
    yard_moved = Signal()

    def __init__(
        self, session: Session, jobs: Jobs, settings: UserSettings, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.session = session
        self.jobs = jobs
        self.settings = settings
        self.analyses = Analyses(session.yard, jobs, self)
        self._live_runs: list[LiveRun] = []
        self._shown_run: int | None = None
        self._is_moved = False
        self._looks = QTimer(self, interval=_LOOK_EVERY_MS)
        self._looks.timeout.connect(self.look_for_yard)
        self._looks.timeout.connect(self.keep_todays_copy)
        self._looks.timeout.connect(self._look_at_the_clock)
        self._looks.start()
        self._came = False
        self._pause = QTimer(self, singleShot=True, interval=_LIVE_EVERY_MS)
        self._pause.timeout.connect(self._pause_over)
        self._copied_on: date | None = None
        self.keep_todays_copy()
        self.archive_sender: Sender | None = None
        self.use_archive(settings.archive)
        self._use_the_sites_zone()
        session.changed.connect(self._use_the_sites_zone)
        session.changed.connect(self.changed)
        session.station_changed.connect(self.changed)
        self.analyses.ready.connect(self._predict_anew)
        self.analyses.ready.connect(self.changed)

    def use_archive(self, address: str) -> None:
        """Send the yard to a shared archive from now on; "" for none."""
        if self.archive_sender is not None:
            self.archive_sender.deleteLater()
            self.archive_sender = None
        if address and not self.session.yard.read_only:
            # What talks to the server is loaded only where there is one.
            from yardtoll.desktop.workbench.sender import Sender

            self.archive_sender = Sender(self.session.yard, self.jobs, address, self)
            self.archive_sender.said.connect(self.trouble)

    def _use_the_sites_zone(self) -> None:
        show_in(zone_of(self.session.yard.site()))

    def look_for_yard(self) -> None:
        """Notice a yard that was moved while it is open, and keep it whole where it is now."""
        yard = self.session.yard
        if self._is_moved or yard.read_only or not yard.is_moved:
            return
        self._is_moved = True
        yard.stay_whole()
        self.yard_moved.emit()

    def _look_at_the_clock(self) -> None:
        for session in self.sessions:
            session.look_at_the_clock()

    def keep_todays_copy(self) -> None:
        """A whole copy of the yard, once a day, on a worker."""
        from yardtoll.store.backups import keep_todays

        yard, at = self.session.yard, now()
        today = at.date()
        if self._copied_on == today or yard.read_only:
            return
        kept_days = self.settings.preferences.backup_days
        if not kept_days:
            return
        self._copied_on = today
        self.jobs.start(
            "Keeping a copy of the yard",
            lambda _: keep_todays(yard, at, kept_days),
            lambda _: None,
            lambda error: self.trouble.emit(f"{capitalised(str(error))}: no copy of today."),
        )

    def keep_yard_here(self) -> None:
        """Write a moved yard to its path again."""
        try:
            self.session.yard.keep_here()
        except YardError as error:
            self.trouble.emit(f"{capitalised(str(error))}.")
        else:
            self._is_moved = False
            self.trouble.emit(f"{self.session.path.name} is where it was again.")

    def start_run(self, plan: RunPlan, planned: Run | None = None) -> bool:
        """Begin a run now, and return whether it began.

        The planned run that it carries out leaves the timetable.
        """
        from yardtoll.running.session import RunSession
        from yardtoll.running.simulated_bench import bench_model_for

        meters = [plan.meter, *(meter for meter, _ in plan.also)]
        readable = all(self._can_be_read(meter) for meter in meters)
        if readable:
            bench = asdict(bench_model_for(plan)) if plan.meter.is_simulated else None
            run = plan.begin(self.session.yard, simulated_bench=bench)
            self._go_live(run, RunSession.start)
            if planned is not None:
                self.session.put_without_undo(replace(planned, state=RunState.DROPPED.value))
        return readable

    def keep_plan(self, plan: RunPlan, at: datetime) -> Run:
        """Put a plan on the timetable, for an aware moment."""
        begins = at.astimezone(UTC).isoformat(timespec="milliseconds")
        run = plan.as_run(self.session.yard, RunState.PLANNED, begins)
        return self.session.add(run, f"Plan {plan.about.title} of {plan.station.name}")

    def resume(self, run: Run) -> None:
        """Go on with a run that was left."""
        from yardtoll.running.session import RunSession

        if self._can_be_read(self.session.yard.get(Meter, run.meter_id or 0)):
            self._go_live(run, RunSession.resume)

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
        conditions = replace(run.conditions, end_reason="the program had stopped; closed as kept")
        kept_at = utc_now()
        self.session.put_without_undo(
            replace(run, state=RunState.FINISHED.value, ended_at=kept_at, conditions=conditions)
        )
        self.live_changed.emit()

    def interrupted(self) -> list[Run]:
        """Runs an earlier program left going; none while the yard is only shown."""
        if self.session.yard.read_only:
            return []
        going = {session.run_id for session in self.sessions}
        return [run for run in self.session.yard.unfinished_runs() if run.id not in going]

    def earlier_runs(self, station: Station) -> tuple[EarlierRun, ...] | None:
        """A station's whole discharges through the AC outlet; None while they are worked out."""
        from yardtoll.review.earlier_runs import earlier_runs

        found = self.analyses.complete_of(self.session.yard.runs(station.id))
        return earlier_runs(found) if found is not None else None

    def _predict_anew(self) -> None:
        """Runs may have begun before the results of earlier ones were there."""
        for session in self.sessions:
            self._predict(session)

    def _predict(self, session: RunSession) -> None:
        earlier = self.earlier_runs(session.station)
        if earlier is not None:
            session.outlook.expect_from(earlier)

    def tested_claims(self, station: Station) -> set[str]:
        """Kinds of claims that the finished runs of a station speak to."""
        runs = self.session.yard.runs(station.id)
        done = [run for run in runs if run.state == RunState.FINISHED.value]
        return {claim for run in done for claim in METHODS[run.method].claims}

    def last_ended_at(self, station: Station) -> str | None:
        """When a station's latest run ended, ISO 8601; None where it has none."""
        runs = self.session.yard.runs(station.id)
        return max((run.ended_at for run in runs if run.ended_at), default=None)

    def leave_runs(self) -> None:
        """Let go of the runs in progress, to be resumed later."""
        for live in self._live_runs:
            live.session.leave()
            live.deleteLater()
        self._live_runs.clear()

    def leave(self) -> None:
        """Let go of the runs in progress, to be resumed later, and of the yard."""
        self.leave_runs()
        self.analyses.leave()
        self.jobs.wait()
        self.session.close()

    def _can_be_read(self, meter: Meter) -> bool:
        """Whether the meter's profile is there; else the user is informed and nothing begins.

        A meter without an address is read by eye and needs none.
        """
        from yardtoll.bench.instruments import refuse_unreadable

        try:
            refuse_unreadable(meter)
        except ProfileError as error:
            self.trouble.emit(f"{meter.name} cannot be read: {error}.")
            return False
        return True

    @property
    def sessions(self) -> tuple[RunSession, ...]:
        """The runs in progress, in the order they began."""
        return tuple(live.session for live in self._live_runs)

    @property
    def live(self) -> RunSession | None:
        """The run in progress that is shown; None while there is none."""
        chosen = [s for s in self.sessions if s.run_id == self._shown_run]
        return next(iter(chosen or self.sessions[-1:]), None)

    def show_run(self, run_id: int) -> None:
        """Show another of the runs in progress."""
        self._shown_run = run_id
        if self.live is not None:
            self.session.choose_station(self.live.station.id)
        self.live_changed.emit()

    def busy_meters(self) -> frozenset[int]:
        """Meters that record a run now; one that is simulated, or read by eye, can do several."""
        meters = (session.meter for session in self.sessions)
        alone = (m for m in meters if not (m.is_simulated or m.is_read_by_eye))
        return frozenset(meter.id for meter in alone if meter.id is not None)

    def _go_live(self, run: Run, record: Callable[[RunSession], None]) -> None:
        from yardtoll.desktop.workbench.live_run import LiveRun

        speed = self.settings.simulated_speed
        live = LiveRun(self.session.yard, run, speed=speed, parent=self)
        live.samples_added.connect(self._samples_came)
        live.notes_changed.connect(self.live_updated)
        live.lost.connect(self._on_lost)
        live.found.connect(self.live_updated)
        live.noted.connect(self.trouble)
        live.ended.connect(self._on_ended)
        live.failed.connect(partial(self._on_failed, live))
        self._live_runs.append(live)
        self._shown_run = live.session.run_id
        live.turns.begin(self._beginning(live.session, record))

    def _beginning(
        self, begun: RunSession, record: Callable[[RunSession], None]
    ) -> Generator[None]:
        """Record and show a run in turns: the window would stand still for all of it at once."""
        if not begun.is_over:
            record(begun)
        yield
        self._predict(begun)
        yield
        if self.live is not None:
            self.session.choose_station(self.live.station.id)
            yield
        self.live_changed.emit()
        yield
        self.session.changed.emit()

    def _samples_came(self) -> None:
        """Figures and charts follow twice a second, however many meters are read how often."""
        if self._pause.isActive():
            self._came = True
        else:
            self._tell_live()

    def _tell_live(self) -> None:
        self._came = False
        self._pause.start()
        self.live_updated.emit()

    def _pause_over(self) -> None:
        if self._came:
            self._tell_live()

    def _on_lost(self, reason: str) -> None:
        self.trouble.emit(
            f"{reason[:1].upper()}{reason[1:]}. What was recorded is safe; the meter is tried "
            "again every second."
        )
        self.live_updated.emit()

    def _on_ended(self, run_id: int, reason: str) -> None:
        self._drop_live(next((r for r in self._live_runs if r.session.run_id == run_id), None))
        self.run_ended.emit(run_id, reason)

    def _on_failed(self, live: LiveRun, reason: str) -> None:
        self._drop_live(live)
        self.trouble.emit(
            f"The recording stopped: {reason}. What came before is kept; the run can be resumed "
            "or closed as it is under Run."
        )

    def _drop_live(self, live: LiveRun | None) -> None:
        if live is not None and live in self._live_runs:
            self._live_runs.remove(live)
            live.deleteLater()
        self.session.changed.emit()
        self.live_changed.emit()
