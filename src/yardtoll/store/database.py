"""The SQLite file of an open yard: its connections, its one writer, and whether it is still there.

SQLite's own locks are POSIX locks: they belong to the process, and closing any handle of the file
drops them all. So a file is opened once in a process, by what it is and not by its path, and no
connection is made by path once it is open: a file that was renamed or deleted meanwhile would
become a new, empty one.

Journal mode WAL with ``synchronous = FULL``: a block of samples is on disk when it is said to be
kept, also through a power cut. The log is brought into the file every few seconds, so that a copy
of the file alone lacks seconds, not hours.
"""

import contextlib
import fcntl
import os
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from yardtoll.store.errors import (
    BusyYardError,
    DamagedYardError,
    FullDiskError,
    MovedYardError,
    ReadOnlyYardError,
    YardError,
)

_READERS = 7
"""Connections for reading: window, workers and recorders, each at most two at once."""
_WAIT_S = 1.5
"""So long another program's lock is waited for; a window must not stand still for it."""
_CHECKPOINT_S = 10.0


class FileLock:
    """Says that a yard is open for changes in this process; the system drops it with the process.

    ``flock`` and SQLite's own locks do not meet, so the lock can be on the yard file itself.
    """

    def __init__(self, path: Path) -> None:
        self._file: int | None = os.open(path, os.O_RDONLY)
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self.held = True
        except OSError:
            self.held = False

    @property
    def status(self) -> os.stat_result | None:
        """Of the file itself, wherever its path is now."""
        return os.fstat(self._file) if self._file is not None else None

    def release(self) -> None:
        """Let go. SQLite's connections must be closed before."""
        if self._file is not None:
            os.close(self._file)
            self._file = None
            self.held = False


class Database:
    """Connections to one file.

    Args:
        path: of an SQLite file that is there.
        read_only: nothing is written.
        immutable: the folder cannot be written either, so that SQLite cannot keep its log there.
    """

    def __init__(self, path: Path, *, read_only: bool, immutable: bool = False) -> None:
        self.path = path
        self.read_only = read_only
        self.engine = make_engine(path, read_only=read_only, immutable=immutable)
        self._writing = threading.RLock()
        self._writer: sa.Connection | None = None
        self._checkpointed_s = time.monotonic()
        self._stays_whole = False
        self._looking = threading.Lock()
        self._looker: sa.Connection | None = None
        with self.translated():
            ready = [self.engine.connect() for _ in range(_READERS + (not read_only))]
            for connection in ready:
                connection.exec_driver_sql("SELECT count(*) FROM sqlite_master").scalar()
                connection.rollback()
            if not read_only:
                self._writer = ready.pop()
            for connection in ready:
                connection.close()

    @contextlib.contextmanager
    def reading(self) -> Iterator[sa.Connection]:
        """A connection to read by.

        Raises:
            YardError: the file cannot be read.
        """
        with self.translated(), self.engine.connect() as connection:
            yield connection

    @contextlib.contextmanager
    def changing(self, changed: Callable[[], None] = lambda: None) -> Iterator[sa.Connection]:
        """The writer's connection, all or nothing; one thread at a time.

        Args:
            changed: called after the change was kept.

        Raises:
            YardError: one of its kinds; nothing was changed.
        """
        if self._writer is None:
            raise ReadOnlyYardError(f"{self.path.name} can only be read here")
        with self._writing, self.translated():
            with self._writer.begin():
                yield self._writer
            self._bring_in()
            changed()

    def version(self) -> int:
        """A number that is another one after a change by another program, or by another thread."""
        with self._looking, self.translated():
            if self._looker is None:
                self._looker = self.engine.connect()
            found = int(self._looker.exec_driver_sql("PRAGMA data_version").scalar_one())
            self._looker.rollback()
            return found

    def checkpoint(self, mode: str = "PASSIVE") -> None:
        """Bring the log into the file itself."""
        if self._writer is not None:
            with self._writing, self.translated():
                self._writer.exec_driver_sql(f"PRAGMA wal_checkpoint({mode})")
                self._writer.rollback()
            self._checkpointed_s = time.monotonic()

    def stay_whole(self) -> None:
        """From now on bring each change into the file at once: its log is somewhere else."""
        self._stays_whole = True
        self.checkpoint("TRUNCATE")

    def copy_to(self, path: Path) -> None:
        """A whole copy of the file as it is now, by SQLite's backup: beside, then renamed.

        Raises:
            YardError: it cannot be written.
        """
        try:
            with self.reading() as connection:
                copy_whole(connection, path, self._mode())
        except (OSError, sqlite3.Error) as error:
            raise YardError(f"{path} cannot be written: {error}") from None

    def _mode(self) -> int:
        """Rights of the file; of a deleted one those that its owner alone needs."""
        try:
            return self.path.stat().st_mode
        except OSError:
            return 0o600

    def close(self) -> None:
        """Close all connections; safe to call twice."""
        if self._looker is not None:
            self._looker.close()
            self._looker = None
        if self._writer is not None:
            self._writer.close()
            self._writer = None
        self.engine.dispose()

    @contextlib.contextmanager
    def translated(self) -> Iterator[None]:
        """SQLite's errors in plain words."""
        try:
            yield
        except sa.exc.DBAPIError as error:
            raise plain_error(error.orig, self.path.name) from error
        except sqlite3.Error as error:
            raise plain_error(error, self.path.name) from error
        except UnicodeDecodeError as error:  # a damaged name inside the file's own schema
            raise DamagedYardError(f"{self.path.name} is damaged") from error

    def _bring_in(self) -> None:
        """The change is kept already; a log that cannot be brought in now is later."""
        if self._stays_whole or time.monotonic() - self._checkpointed_s > _CHECKPOINT_S:
            with contextlib.suppress(YardError):
                self.checkpoint("TRUNCATE" if self._stays_whole else "PASSIVE")


def plain_error(error: BaseException | None, name: str) -> YardError:
    """What SQLite says, as a sentence for the user."""
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    kind, words = _PLAIN.get(code, (YardError, f"could not be used: {str(error)[:80]}"))
    return kind(f"{name} {words}")


_PLAIN: dict[int, tuple[type[YardError], str]] = {
    sqlite3.SQLITE_BUSY: (BusyYardError, "is being changed by another program"),
    sqlite3.SQLITE_LOCKED: (BusyYardError, "is being changed by another program"),
    sqlite3.SQLITE_FULL: (FullDiskError, "cannot be written: the disk is full"),
    sqlite3.SQLITE_CORRUPT: (DamagedYardError, "is damaged"),
    sqlite3.SQLITE_NOTADB: (DamagedYardError, "is damaged"),
    sqlite3.SQLITE_READONLY: (ReadOnlyYardError, "may not be written"),
    sqlite3.SQLITE_CANTOPEN: (MovedYardError, "cannot be opened, or is no longer where it was"),
    sqlite3.SQLITE_IOERR: (YardError, "could not be read or written: the disk reports an error"),
}


def make_engine(path: Path, *, read_only: bool, immutable: bool = False) -> sa.Engine:
    """An engine with WAL and foreign keys on a file that is there."""
    mode = "ro" if read_only else "rw"
    uri = f"{path.resolve().as_uri()}?mode={mode}" + ("&immutable=1" if immutable else "")

    def connect() -> sqlite3.Connection:
        made = sqlite3.connect(uri, uri=True, check_same_thread=False, timeout=_WAIT_S)
        # A damaged byte must not make a whole table unreadable.
        made.text_factory = _text
        return made

    engine = sa.create_engine(
        "sqlite://",
        creator=connect,
        poolclass=sa.pool.QueuePool,
        pool_size=_READERS + 1,
        max_overflow=0,
    )

    @sa.event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        cursor = connection.cursor()
        # Nothing in a file may run: functions in its schema are not trusted.
        cursor.execute("PRAGMA trusted_schema = OFF")
        cursor.execute("PRAGMA cell_size_check = ON")
        if not read_only:
            cursor.execute("PRAGMA journal_mode = WAL")
            cursor.execute("PRAGMA synchronous = FULL")
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.close()

    return engine


def _text(stored: bytes) -> str:
    return stored.decode("utf-8", "replace")


def copy_whole(connection: sa.Connection, path: Path, mode: int) -> None:
    """A database copied by SQLite itself, beside and then renamed, with these rights.

    Closing a handle of ours on the file would drop the locks of SQLite's own.

    Raises:
        OSError, sqlite3.Error: it cannot be written; nothing is left of it.
    """
    part = path.with_name(f".{path.name}.part")
    source = connection.connection.dbapi_connection
    assert isinstance(source, sqlite3.Connection)
    try:
        with contextlib.closing(sqlite3.connect(part)) as target:
            source.backup(target)
            # A copy has no log of its own.
            target.execute("PRAGMA journal_mode = DELETE")
        part.chmod(mode & 0o777)
        with part.open("rb") as written:
            os.fsync(written.fileno())
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
