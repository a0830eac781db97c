"""Opening a file as a yard: is it one, is it whole, is it ours to change, is it new enough."""

import sqlite3
import struct
from pathlib import Path

import sqlalchemy as sa

from yardtoll.store.database import copy_whole
from yardtoll.store.errors import DamagedYardError, NewerYardError, NotAYardError, YardError
from yardtoll.store.schema import APPLICATION_ID, SCHEMA_VERSION

FRESH = Path(__file__).parent / "fresh.sql"
"""What a new yard is made by."""
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
    if size < pages * (65536 if page == 1 else page) and not has_wal(path):
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
        mode = "mode=ro" if has_wal(path) else "mode=ro&immutable=1"
        uri = f"{path.resolve().as_uri()}?{mode}"
        connection = sqlite3.connect(uri, uri=True)
        try:
            for kind, name, sql in connection.execute("SELECT type, name, sql FROM sqlite_master"):
                # No yard has any; in a file from elsewhere they could change what is written.
                if kind in ("trigger", "view") or "VIRTUAL" in str(sql).upper()[:20]:
                    raise NotAYardError(
                        f"{path.name} holds a {kind} ({str(name)[:40]}), which no yard does; "
                        "nothing was changed"
                    )
            if path.stat().st_size <= _CHECKED_BELOW_BYTES:
                found = connection.execute("PRAGMA quick_check(1)").fetchone()[0]
                if found != "ok":
                    raise sqlite3.DatabaseError(found)
        finally:
            connection.close()
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        said = " ".join(str(error).split())[:80]
        raise DamagedYardError(f"{path.name} is damaged ({said}); nothing was changed") from None


def file_version(engine: sa.Engine) -> int:
    """The schema version in user_version."""
    with engine.connect() as connection:
        return int(connection.execute(sa.text("PRAGMA user_version")).scalar_one())


def lay_out(engine: sa.Engine) -> None:
    """Make the tables of a new yard in an empty file, as the migrations would.

    They are read from a script that `tools/make_fresh_schema.py` writes: loading Alembic and going
    through every version there was takes a hundred times as long.
    """
    connection = engine.raw_connection()
    try:
        connection.driver_connection.executescript(FRESH.read_text("utf-8"))  # type: ignore[union-attr]
    finally:
        connection.close()


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
    """A whole copy under a free name; what is cut short never has that name."""
    copy = path.with_name(f"{path.stem}.before-update-{version}.yard")
    number = 2
    while copy.exists():
        copy = path.with_name(f"{path.stem}.before-update-{version}-{number}.yard")
        number += 1
    try:
        with engine.connect() as connection:
            copy_whole(connection, copy, path.stat().st_mode)
    except (OSError, sqlite3.Error) as error:
        raise YardError(f"{copy} cannot be written, so {path.name} is not updated") from error
    return copy


def has_wal(path: Path) -> bool:
    """Whether changes of the file may still be in SQLite's log beside it."""
    wal = path.with_name(path.name + "-wal")
    return wal.exists() and wal.stat().st_size > 0
