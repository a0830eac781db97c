"""A time-lapse: its folder chosen, stepped through, kept as a run with its frames as evidence."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from yardtoll.desktop.actions.editing import add_noted_run
from yardtoll.desktop.host import Host
from yardtoll.desktop.workbench.jobs import JobHandle
from yardtoll.desktop.workbench.session import Session
from yardtoll.store.errors import StoreError
from yardtoll.store.records import Photo, Run
from yardtoll.store.shown_region import clock
from yardtoll.store.yard_file import utc_now

if TYPE_CHECKING:
    from yardtoll.store.frames import Frame

VIDEOS = (".mp4", ".mov", ".mkv", ".avi", ".webm", ".m4v")
_FILTER = f"Videos ({' '.join(f'*{suffix}' for suffix in VIDEOS)})"


def ask_video(host: Host) -> None:
    """Ask for a video and step through it."""
    _ask(host, video=True)


def ask_time_lapse(host: Host) -> None:
    """Ask for a folder of pictures and step through it."""
    _ask(host, video=False)


def _ask(host: Host, *, video: bool) -> None:
    if host.bench is None or host.bench.session.station is None:
        host.say("Add the station that the time-lapse shows first.")
        return
    folder = str(host.settings.last_folder)
    if video:
        chosen, _ = QFileDialog.getOpenFileName(host.widget, "A video", folder, _FILTER)
    else:
        title = "A folder of pictures, one a frame"
        chosen = QFileDialog.getExistingDirectory(host.widget, title, folder)
    if chosen:
        host.settings.last_folder = Path(chosen).parent if video else Path(chosen)
        step_through(host, Path(chosen))


def step_through(host: Host, folder: Path) -> None:
    """Read when each frame was taken, off the window's thread, then show them."""
    # Few starts of the program need its reader of pictures.
    from yardtoll.store.frames import read_frames

    def work(handle: JobHandle) -> "list[Frame]":
        handle.progress(f"Looking at the pictures in {folder.name}")
        return read_frames(folder)

    host.jobs.start(
        f"Reading {folder.name}",
        work,
        lambda frames: _show(host, folder, frames),
        lambda error: host.say(f"{error}."),
    )


def _show(host: Host, folder: Path, frames: "list[Frame]") -> None:
    from yardtoll.desktop.dialogs.time_lapse import TimeLapseDialog

    if host.bench is None:
        return
    dialog = TimeLapseDialog(frames, host.widget)
    if not dialog.exec():
        return
    session = host.bench.session
    with session.together("Add a run from a time-lapse"):
        run = add_noted_run(host.widget, session, dialog.text(), folder)
        if run is not None:
            _keep_evidence(host, session, run, [f for _, f in sorted(dialog.evidence.items())])


def _keep_evidence(host: Host, session: Session, run: Run, frames: "list[Frame]") -> None:
    """Small copies of the frames under which something was read, beside the station's photos."""
    from yardtoll.desktop.dialogs.time_lapse import moment
    from yardtoll.store.frames import evidence_of

    for frame in frames:
        try:
            data = evidence_of(frame)
        except StoreError as error:
            host.say(f"{error}; the reading is kept without its picture.")
            continue
        photo = Photo(
            station_id=run.station_id, name=frame.path.name, media_type="image/jpeg",
            caption=f"Run {run.number}, {clock(moment(frame), seconds=True)}", added_at=utc_now(),
            size_bytes=len(data),
        )  # fmt: skip
        kept = session.yard.keep_photo(photo, data)
        session.note_added(kept, f"Frame at {clock(moment(frame), seconds=True)}")
