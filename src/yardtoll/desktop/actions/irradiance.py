"""Attaching an irradiance logger's own file to a solar run."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QFileDialog

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import ClockBasis, Trace
from yardtoll.desktop.actions.files import LOG_FILTER
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.errors import LogError
from yardtoll.store.records import Recording, Run
from yardtoll.store.shown_region import clock
from yardtoll.store.site_time import local

if TYPE_CHECKING:
    from yardtoll.store.logs.irradiance import IrradianceLog


def ask_irradiance(host: Host, run: Run) -> None:
    """Ask for the file, and attach it to the run; undo takes it away again."""
    from yardtoll.store.logs.irradiance import read_irradiance

    start = str(host.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(host.widget, "An irradiance log", start, LOG_FILTER)
    if not chosen:
        return
    path = Path(chosen)
    host.settings.last_folder = path.parent
    host.jobs.start(
        f"Reading {path.name}",
        lambda handle: as_trace(run, read_irradiance(path, progress=handle.progress)),
        lambda kept: _keep(host, run, kept),
        lambda error: host.say(f"{error}."),
    )


def as_trace(run: Run, log: IrradianceLog) -> tuple[float, Trace]:
    """A logger's first sample in s from a run's start, and its readings from there.

    Local times without a zone, and times of day, are taken by this computer's clock.

    Raises:
        LogError: the log and the run do not overlap.
    """
    began = datetime.fromisoformat(run.started_at)
    if log.basis is None:
        time_s = log.seconds - log.seconds[0]
    elif log.basis is ClockBasis.UTC:
        time_s = log.seconds - began.timestamp()
    else:
        here = local(run.started_at)
        midnight = here.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
        since = (here.replace(tzinfo=None) - midnight).total_seconds()
        day_s = 0.0
        if log.basis is ClockBasis.LOCAL:
            day_s = (midnight - datetime(1970, 1, 1)).total_seconds()
        time_s = log.seconds - day_s - since
    ended = datetime.fromisoformat(run.ended_at) if run.ended_at else began
    length_s = max((ended - began).total_seconds(), 1.0)
    if not np.any((time_s >= 0) & (time_s <= length_s)):
        raise LogError(
            f"{log.name} and run {run.number} do not overlap: the run began "
            f"{local(run.started_at):%-d %b %Y} {clock(local(run.started_at))}"
        )
    time_s = np.round(time_s, 1)
    first_s = float(time_s[0])
    rising = np.concatenate([[True], np.diff(time_s) > 0])
    columns = {Quantity.IRRADIANCE: np.round(log.w_m2, 1)[rising]}
    return first_s, Trace(name=log.name, time_s=time_s[rising] - first_s, columns=columns)


def _keep(host: Host, run: Run, kept: tuple[float, Trace]) -> None:
    if host.bench is None:
        return
    keep_irradiance(host.bench.session, run, *kept)
    host.say(f"{kept[1].name} is attached to run {run.number}.")


def keep_irradiance(session: Session, run: Run, offset_s: float, trace: Trace) -> None:
    """Attach a logger's readings to a run, in the place of those attached before.

    Args:
        offset_s: from the run's start to the first reading.
    """
    text = f"Attach {trace.name} to run {run.number}"
    run_id, yard, role = run.id or 0, session.yard, Role.IRRADIANCE.value
    earlier = [recording for recording in yard.recordings(run_id) if recording.role == role]
    made = Recording(run_id=run_id, role=role, offset_s=offset_s)
    with session.together(text):
        for recording in earlier:
            session.edit(replace(recording, withdrawn=True), text)
        session.note_added(yard.keep_recording(made, trace), text)
