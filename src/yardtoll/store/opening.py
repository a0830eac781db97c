"""Opening a file as a yard: is it one, is it whole, is it ours to change, is it new enough."""

import fcntl
import os
import shutil
import sqlite3
import struct
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from yardtoll.store.errors import DamagedYardError, NewerYardError, NotAYardError, YardError
from yardtoll.store.schema import APPLICATION_ID, SCHEMA_VERSION

_SQLITE_MAGIC = b"SQLite format 3\x00"
_CHECKED_BELOW_BYTES = 16 * 1024 * 1024
"""Larger yards would keep the window waiting; their damage shows when it is met."""


def refuse_foreign(path: Path) -> None:
    """Look at a file's first bytes, changing nothing.

    Raises:
        NotAYardError: it is no yard.
        DamagedYardError: it is too short to be whole.
        NewerYardError: a newer version made it.
        YardError: it cannot be read.
    """
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except FileNotFoundError:
        raise YardError(f"{path} does not exist") from None
    except OSError as error:
        raise YardError(f"{path} cannot be read: {error.strerror}") from None
    if len(head) < 100 or not head.startswith(_SQLITE_MAGIC):
        raise NotAYardError(f"{path.name} is not a yard file; nothing was changed")
    user_version, _, application_id = struct.unpack(">III", head[60:72])
    if application_id != APPLICATION_ID:
        raise NotAYardError(f"{path.name} is a database of another program; nothing was changed")
    if user_version > SCHEMA_VERSION:
        raise NewerYardError(
            f"{path.name} was made by a newer version of Yard Toll (file version {user_version}, "
            f"this program knows {SCHEMA_VERSION}); nothing was changed"
        )
    size, page = path.stat().st_size, struct.unpack(">H", head[16:18])[0]
    pages = struct.unpack(">I", head[28:32])[0]
    if size < pages * (65536 if page == 1 else page) and not _has_wal(path):
        raise DamagedYardError(
            f"{path.name} is damaged: it is shorter than it says it is; nothing was changed"
        )


def refuse_damaged(path: Path) -> None:
    """Let SQLite check a yard that is small enough to be checked at once.

    Raises:
        DamagedYardError: the check found errors.
    """
    try:
        # Without a log beside it the file is all there is, and a look must leave nothing behind.
        mode = "mode=ro" if _has_wal(path) else "mode=ro&immutable=1"
        uri = f"{path.resolve().as_uri()}?{mode}"
        connection = sqlite3.connect(uri, uri=True)
        try:
            connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
            if path.stat().st_size <= _CHECKED_BELOW_BYTES:
                found = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
                if found != "ok":
                    raise sqlite3.DatabaseError(found)
        finally:
            connection.close()
    except sqlite3.DatabaseError as error:
        raise DamagedYardError(f"{path.name} is damaged ({error}); nothing was changed") from None


class FileLock:
    """Says that a yard is open for changes in this process; the system drops it with the process.

    ``flock`` and SQLite's own locks do not meet, so the lock can lie on the yard file itself.
    """

    def __init__(self, path: Path) -> None:
        self._file: int | None = os.open(path, os.O_RDONLY)
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self.held = True
        except OSError:
            self.held = False

    def release(self) -> None:
        """Let go. SQLite's connections must be closed before."""
        if self._file is not None:
            os.close(self._file)
            self._file = None
            self.held = False


def make_engine(path: Path, *, read_only: bool) -> sa.Engine:
    """An engine with WAL, foreign keys and a patient busy timeout."""
    mode = "ro" if read_only else "rwc"
    uri = f"{path.resolve().as_uri()}?mode={mode}"

    def connect() -> sqlite3.Connection:
        return sqlite3.connect(uri, uri=True, check_same_thread=False, timeout=10.0)

    engine = sa.create_engine("sqlite://", creator=connect, poolclass=sa.pool.QueuePool)

    @sa.event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        cursor = connection.cursor()
        if not read_only:
            cursor.execute("PRAGMA journal_mode = WAL")
            cursor.execute("PRAGMA synchronous = FULL")
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.close()

    return engine


def file_version(engine: sa.Engine) -> int:
    """The schema version in user_version."""
    with engine.connect() as connection:
        return int(connection.execute(sa.text("PRAGMA user_version")).scalar_one())


def migrate(engine: sa.Engine, path: Path) -> None:
    """Bring the schema to :data:`SCHEMA_VERSION`; an older file is first copied beside itself.

    Raises:
        DamagedYardError: a migration failed; the copy is kept and named.
    """
    version = file_version(engine)
    if version == SCHEMA_VERSION:
        return
    with engine.connect() as connection:
        empty = connection.execute(sa.text("SELECT count(*) FROM sqlite_master")).scalar_one() == 0
    copy = None if empty else _copy_beside(engine, path, version)
    # Alembic is slow to import and needed only here.
    from alembic import command  # noqa: PLC0415
    from alembic.config import Config  # noqa: PLC0415

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    try:
        with engine.connect() as connection:
            # Tables are replaced by changed ones of the same name, which rows elsewhere point at.
            connection.exec_driver_sql("PRAGMA foreign_keys = OFF")
            # Python's driver begins nothing by itself before a change of tables.
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            if connection.exec_driver_sql("PRAGMA foreign_key_check").first() is not None:
                raise DamagedYardError(f"{path.name} holds records that belong to none")
            connection.commit()
            connection.exec_driver_sql("PRAGMA foreign_keys = ON")
        with engine.connect() as connection:
            connection.execute(sa.text(f"PRAGMA application_id = {APPLICATION_ID}"))
            connection.execute(sa.text(f"PRAGMA user_version = {SCHEMA_VERSION}"))
            connection.commit()
            # The opener looks at the file's first bytes, not into the log.
            connection.execute(sa.text("PRAGMA wal_checkpoint(TRUNCATE)"))
    except sa.exc.SQLAlchemyError as error:
        kept = f"; the file as it was is {copy.name}" if copy else ""
        raise DamagedYardError(f"{path.name} could not be brought up to date{kept}") from error


def _copy_beside(engine: sa.Engine, path: Path, version: int) -> Path:
    with engine.connect() as connection:
        connection.execute(sa.text("PRAGMA wal_checkpoint(TRUNCATE)"))
    copy = path.with_name(f"{path.stem}.before-update-{version}.yard")
    number = 2
    while copy.exists():
        copy = path.with_name(f"{path.stem}.before-update-{version}-{number}.yard")
        number += 1
    shutil.copy2(path, copy)
    return copy


def _has_wal(path: Path) -> bool:
    wal = path.with_name(path.name + "-wal")
    return wal.exists() and wal.stat().st_size > 0
