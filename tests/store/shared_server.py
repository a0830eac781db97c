"""A PostgreSQL server of our own for tests: made, started on loopback, killed and started again."""

import os
import pwd
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path

import psycopg

USER = "yard"
_FOLDERS = sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True)


def program(name: str) -> str | None:
    """A program of the server's package; None where it is not installed."""
    found = next((str(f / name) for f in _FOLDERS if (f / name).exists()), None)
    return found or shutil.which(name)


class Server:
    """One server with its data in a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        # The server refuses to run as root; its package brings a user of its own.
        self._as: dict[str, object] = {}
        if os.geteuid() == 0:
            own = pwd.getpwnam("postgres")
            folder.mkdir(parents=True, exist_ok=True)
            os.chown(folder, own.pw_uid, own.pw_gid)
            for parent in folder.parents:
                if parent.owner() == "root" and parent != Path("/"):
                    parent.chmod(parent.stat().st_mode | 0o011)
            self._as = {"user": own.pw_uid, "group": own.pw_gid, "extra_groups": []}
        self._started: subprocess.Popen[bytes] | None = None

    def make(self) -> None:
        subprocess.run(
            [program("initdb"), "-D", self.folder / "data", "-U", USER, "-A", "trust", "-N"],
            check=True, capture_output=True, cwd="/", **self._as,
        )  # fmt: skip

    def start(self) -> None:
        self._started = subprocess.Popen(
            [program("postgres"), "-D", self.folder / "data", "-p", str(self.port),
             "-c", "listen_addresses=127.0.0.1", "-c", "unix_socket_directories="],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, cwd="/", **self._as,
        )  # fmt: skip
        deadline = time.monotonic() + 60
        while True:
            try:
                with self.connect("postgres"):
                    return
            except psycopg.OperationalError:
                if time.monotonic() > deadline or self._started.poll() is not None:
                    raise
                time.sleep(0.05)

    def kill(self) -> None:
        """At once, with whatever it was writing."""
        assert self._started is not None
        self._started.send_signal(signal.SIGQUIT)
        self._started.wait(60)

    def connect(self, database: str) -> psycopg.Connection:
        return psycopg.connect(
            host="127.0.0.1", port=self.port, user=USER, dbname=database, autocommit=True
        )

    def fresh(self, database: str) -> str:
        """A new database; its address."""
        with self.connect("postgres") as made:
            made.execute(f'CREATE DATABASE "{database}"')
        return f"postgresql://{USER}@127.0.0.1:{self.port}/{database}"
