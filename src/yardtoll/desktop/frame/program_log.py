"""Structured logging: one JSON object a line, in the user's state folder, rotated."""

import logging
import logging.handlers
import sys
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

import platformdirs
from pythonjsonlogger.json import JsonFormatter

from yardtoll.core.formatting import capitalised
from yardtoll.store.errors import StoreError

FIELDS = "{asctime}{levelname}{name}{threadName}{message}"
KEPT_BYTES = 1_000_000
KEPT_FILES = 3


def start_logging(folder: Path | None = None) -> Path:
    """Log to yardtoll.log and return its path; without a writable folder, to standard error."""
    folder = folder or Path(platformdirs.user_state_dir("yardtoll"))
    path = folder / "yardtoll.log"
    handler: logging.Handler
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        # Names of stations and files are nobody else's to read.
        path.touch(mode=0o600)
        path.chmod(0o600)
        handler = logging.handlers.RotatingFileHandler(
            path, maxBytes=KEPT_BYTES, backupCount=KEPT_FILES, encoding="utf-8"
        )
    except OSError:
        handler = logging.StreamHandler()
    handler.setFormatter(JsonFormatter(FIELDS, style="{"))
    root = logging.getLogger()
    root.addHandler(handler)
    root.setLevel(logging.INFO)
    # The VISA library tells of every byte; only what goes wrong is of use.
    logging.getLogger("pyvisa").setLevel(logging.WARNING)
    return path


def report_uncaught(report: Callable[[str], object]) -> None:
    """An error nobody caught is logged, printed and shown to the user; the program continues."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        logging.getLogger("yardtoll").critical("uncaught", exc_info=(kind, error, trace))
        sys.__excepthook__(kind, error, trace)
        if isinstance(error, StoreError):
            # A sentence for the user: a file that cannot be written for now.
            report(f"{capitalised(str(error))}. The change was not kept.")
        elif isinstance(error, Exception):
            report(
                f"Something went wrong that should not have: {error}. What is recorded is kept; "
                "the details are in the log."
            )

    sys.excepthook = hook
