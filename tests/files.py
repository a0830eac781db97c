"""Files of yards as tests need them: what is in one, and one that another program holds."""

import base64
import contextlib
import sqlite3
import subprocess
import sys

PNG = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAIAAACQd1PeAAAADElEQVR4nGP4z8AAAAMBAQDJ/pLvAAAAAElFTkSuQmCC"
)
"""One red pixel."""

HOLDER = """
import sys
from pathlib import Path
from yardtoll.store.yard_file import YardFile
with YardFile.open(Path(sys.argv[1])):
    print("open", flush=True)
    sys.stdin.readline()
"""


def content(path):
    """A database as statements, and its version."""
    with contextlib.closing(sqlite3.connect(f"file:{path}?immutable=1", uri=True)) as raw:
        return list(raw.iterdump()), raw.execute("PRAGMA user_version").fetchone()


@contextlib.contextmanager
def open_elsewhere(path):
    """Another process has the yard open."""
    holder = subprocess.Popen(
        [sys.executable, "-c", HOLDER, str(path)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert holder.stdout.readline() == "open\n"
        yield
    finally:
        holder.communicate("\n", timeout=60)
