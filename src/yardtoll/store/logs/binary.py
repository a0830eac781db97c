"""Spreadsheets and Parquet files as tables, read by a child process that can be ended."""

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import polars as pl

from yardtoll.store.errors import LogError

TIME_S = 150.0
"""So long a file may take; the child's own limit of processor time is lower."""
LARGEST_BYTES = 1024**3
_LOOK_EVERY_S = 0.05


def read_binary(path: Path, kind: str, progress: Callable[[str], None]) -> pl.DataFrame:
    """The columns of a file.

    Args:
        kind: "spreadsheet" or "parquet".
        progress: called while the child works; what it raises ends the child.

    Raises:
        LogError: the file cannot be read, or asks for more memory or time than a log may.
    """
    if path.stat().st_size > LARGEST_BYTES:
        raise LogError(f"{path.name} is larger than a gigabyte; save it as CSV")
    with tempfile.TemporaryDirectory(prefix="yardtoll-") as folder:
        target = Path(folder) / "table.arrow"
        given = [kind, str(path.resolve()), str(target)]
        command = [sys.executable, "-m", f"{__name__}_child", *given]
        with subprocess.Popen(
            command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        ) as child:
            try:
                said = _wait(child, path, progress)
            finally:
                child.kill()
        if not target.exists():
            raise LogError(_why_not(path, kind, said))
        return pl.read_ipc(target)


def _wait(child: "subprocess.Popen[bytes]", path: Path, progress: Callable[[str], None]) -> bytes:
    until_s = time.monotonic() + TIME_S
    while True:
        try:
            return child.communicate(timeout=_LOOK_EVERY_S)[0]
        except subprocess.TimeoutExpired:
            progress("Reading the file")
            if time.monotonic() > until_s:
                raise LogError(f"{path.name} takes too long to read; save it as CSV") from None


def _why_not(path: Path, kind: str, said: bytes) -> str:
    name = "a spreadsheet" if kind == "spreadsheet" else "a Parquet file"
    try:
        problem = json.loads(said.decode("utf-8", "replace"))["problem"]
    except (ValueError, KeyError, TypeError):
        # Ended by its limits: nothing was said.
        return f"{path.name} needs more memory or time than a log should; save it as CSV"
    return f"{path.name} is not {name} that can be read" + (f": {problem}" if problem else "")
