"""Files dropped on the window: a yard, photos, a time-lapse, or logs."""

from pathlib import Path

from PySide6.QtCore import QMimeData

from yardtoll.desktop.actions.photos import PICTURE_SUFFIXES, add_photos
from yardtoll.desktop.actions.time_lapse import VIDEOS, step_through
from yardtoll.desktop.host import Host


def files_in(dropped: QMimeData) -> list[Path]:
    """The files on this machine among what is dragged."""
    return [Path(url.toLocalFile()) for url in dropped.urls() if url.isLocalFile()]


def take_dropped(host: Host, paths: list[Path]) -> None:
    """Open a yard, else keep photos, step through a folder or video, else read logs."""
    yards = [path for path in paths if path.suffix == ".yard"]
    pictures = [path for path in paths if path.suffix.lower() in PICTURE_SUFFIXES]
    if yards:
        host.open_soon(yards[0])
    elif pictures:
        add_photos(host, pictures)
    elif paths and (paths[0].is_dir() or paths[0].suffix.lower() in VIDEOS):
        step_through(host, paths[0])
    else:
        # Its readers of logs are heavy, and few starts of the program need them.
        from yardtoll.desktop.actions.import_logs import import_logs

        import_logs(host, paths)
