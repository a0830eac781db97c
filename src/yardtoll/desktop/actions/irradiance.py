"""Laying an irradiance logger's own file beside a solar run."""

from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QFileDialog

from yardtoll.core.electrical.trace import ClockBasis
from yardtoll.desktop.actions.files import LOG_FILTER
from yardtoll.review.when import local
from yardtoll.store.errors import LogError
from yardtoll.store.logs.irradiance import IrradianceLog, read_irradiance
from yardtoll.store.packed import pack
from yardtoll.store.records import Run

if TYPE_CHECKING:
    from yardtoll.desktop.frame.main_window import MainWindow


def ask_irradiance(window: "MainWindow", run: Run) -> None:
    """Ask for the file, and lay it beside the run; undo takes it away again."""
    start = str(window.settings.last_folder)
    chosen, _ = QFileDialog.getOpenFileName(window, "An irradiance log", start, LOG_FILTER)
    if not chosen:
        return
    path = Path(chosen)
    window.settings.last_folder = path.parent
    window.jobs.start(
        f"Reading {path.name}",
        lambda _: beside(run, read_irradiance(path)),
        lambda kept: _keep(window, run, kept),
        lambda error: window.say(f"{error}."),
    )


def beside(run: Run, log: IrradianceLog) -> dict[str, str]:
    """A logger's readings in s from a run's start, as its conditions keep them.

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
            f"{local(run.started_at):%-d %b %Y %H:%M}"
        )
    return {
        "name": log.name,
        "time_s": pack(np.round(time_s, 1)),
        "w_m2": pack(np.round(log.w_m2, 1)),
    }


def _keep(window: "MainWindow", run: Run, kept: dict[str, str]) -> None:
    if window.bench is None:
        return
    session = window.bench.session
    now = session.yard.get(Run, run.id or 0)
    fed = replace(now, conditions={**now.conditions, "irradiance": kept})
    session.edit(fed, f"Lay {kept['name']} beside run {run.number}")
    window.say(f"{kept['name']} lies beside run {run.number}.")
