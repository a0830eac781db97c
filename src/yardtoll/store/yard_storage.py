"""A yard's file: opened once in a process, safe when it is moved, made all or nothing."""

import contextlib
import dataclasses
import os
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any, Self, TypeVar, cast

import sqlalchemy as sa

from yardtoll.store import records
from yardtoll.store.codecs import from_row, to_row
from yardtoll.store.database import Database, FileLock
from yardtoll.store.errors import DamagedYardError, ReadOnlyYardError, YardError
from yardtoll.store.memory import RecordMemory
from yardtoll.store.opening import lay_out, migrate, refuse_damaged, refuse_foreign
from yardtoll.store.records import Record
from yardtoll.store.row_checks import problems
from yardtoll.store.sample_memory import SampleMemory
from yardtoll.store.schema import SCHEMA_VERSION, TABLE_OF

R = TypeVar("R", bound=Record)

_OPEN: "dict[tuple[int, int], YardStorage]" = {}
"""Yards open in this process, by device and inode."""
_OPENING = threading.RLock()
_ASKED_FOR_FIRST: tuple[type[Record], ...] = (
    records.YardInfo, records.Station, records.Run, records.Site, records.Meter, records.Load,
    records.StoredCircuit, records.StoredCord, records.SolarArray, records.StoredYardstick,
    records.Recording, records.Reading, records.Mark, records.Entry, records.StoredClaim,
)  # fmt: skip
"""What whoever shows a yard asks for at once."""
_EMPTY: dict[int, bytes] = {}
"""A new yard as the migrations make it, by its version: they need not run for the next one."""


class YardStorage:
    """An open yard's file, its connections and its place.

    Attributes:
        why_read_only: what keeps it from being changed, after its name; "" where nothing does.
    """

    def __init__(self, path: Path, database: Database, lock: FileLock, why: str = "") -> None:
        self.path = path
        self._changes = 0
        self.why_read_only = why
        self._database = database
        self._lock = lock
        self._times_open = 1
        self._known = RecordMemory(self._fetch)
        self._samples = SampleMemory()
        self._version = 0
        self._put_now: list[Record] = []

    @classmethod
    def _fresh(cls, path: Path, fill: Callable[[Self], None]) -> Self:
        """A new yard, made and filled beside and then renamed: a yard cut short is none."""
        part = path.with_name(f".{path.name}.part")
        try:
            if path.exists():
                raise YardError(f"{path.name} is already there; choose another name")
            part.unlink(missing_ok=True)
            with part.open("xb") as file:
                file.write(_EMPTY.get(SCHEMA_VERSION, b""))
            # Nobody may read it who may not look into its folder.
            part.chmod(part.stat().st_mode & path.parent.stat().st_mode & 0o666)
            made = cls(part, Database(part, read_only=False), FileLock(part))
            try:
                if not _EMPTY:
                    lay_out(made._database.engine)
                    made._database.checkpoint("TRUNCATE")
                    _EMPTY[SCHEMA_VERSION] = part.read_bytes()
                fill(made)
                made._database.checkpoint("TRUNCATE")
            finally:
                made._database.close()
                made._lock.release()
            _name(part, path)
        except FileExistsError:
            raise YardError(f"{path.name} is already there; choose another name") from None
        except OSError as error:
            raise YardError(f"{path} cannot be written: {error.strerror}") from None
        finally:
            for left in (part, Path(f"{part}-wal"), Path(f"{part}-shm")):
                with contextlib.suppress(OSError):
                    left.unlink(missing_ok=True)
        return cls._opened(path)

    @classmethod
    def open(cls, path: Path) -> Self:
        """Open a yard; read-only when another window has it, or the file may not be written.

        A file that this program has open already, by whatever path, is that open yard: it is
        closed when each who opened it has closed it.

        Raises:
            YardError: one of its kinds, by what is wrong; nothing is changed then.
        """
        with _OPENING:
            already = _OPEN.get(_identity(path))
            if already is not None:
                already._times_open += 1
                return cast(Self, already)
            refuse_foreign(path)
            opened = cls._opened(path)
            try:
                opened._refuse_odd_rows()
            except BaseException:
                opened.close()
                raise
            return opened

    @classmethod
    def _opened(cls, path: Path) -> Self:
        lock = FileLock(path)
        try:
            refuse_damaged(path)
            why = _why_read_only(path, lock)
            folder_too = not os.access(path.parent, os.W_OK)
            database = Database(path, read_only=bool(why), immutable=bool(why) and folder_too)
            if not why:
                migrate(database.engine, path)
            made = cls(path, database, lock, why)
        except BaseException:
            lock.release()
            raise
        _OPEN[_identity(path)] = made
        return made

    def _refuse_odd_rows(self) -> None:
        with self.reading() as connection:
            for table, row_id, wrong in problems(connection):
                which = table if row_id is None else f"{table} {str(row_id)[:20]}"
                raise DamagedYardError(
                    f"{self.path.name} holds what this program does not write: {which}: "
                    f'{wrong[:120]}. "yardtoll check" can make a sound copy'
                )

    @property
    def changes(self) -> int:
        """Counts up with every change of a record; not with samples."""
        self._look_again()
        return self._changes

    @property
    def read_only(self) -> bool:
        """Whether this window may only look."""
        return bool(self.why_read_only)

    @property
    def is_moved(self) -> bool:
        """Whether the file was renamed, moved or deleted since it was opened."""
        here, ours = _identity(self.path), self._lock.status
        return ours is not None and here != (ours.st_dev, ours.st_ino)

    def stay_whole(self) -> None:
        """After the file was moved: keep every change in the file itself, not in its log."""
        self._database.stay_whole()

    def copy_to(self, path: Path) -> None:
        """A whole copy of the yard as it is now.

        Raises:
            YardError: it cannot be written.
        """
        self._database.copy_to(path)

    def keep_here(self) -> None:
        """After the file was moved: write it to its path again, and go on with that one.

        Raises:
            YardError: another file has taken the place, or it cannot be written.
        """
        if self.path.exists():
            raise YardError(f"another file is at {self.path} now; save the yard elsewhere")
        self._write_again()
        old, old_lock = self._database, self._lock
        for key in [key for key, yard in _OPEN.items() if yard is self]:
            del _OPEN[key]
        self._lock = FileLock(self.path)
        self._database = Database(self.path, read_only=False)
        _OPEN[_identity(self.path)] = self
        old.close()
        old_lock.release()

    def _write_again(self) -> None:
        """To its path, whose folder may be gone too."""
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise YardError(f"{self.path} cannot be written: {error.strerror}") from None
        self._database.copy_to(self.path)

    def close(self) -> None:
        """Close all connections, then let go of the lock; safe to call twice.

        A file that was deleted meanwhile is written to its path again: what was recorded since
        would be gone.
        """
        with _OPENING:
            self._times_open -= 1
            if self._times_open > 0:
                return
            status = self._lock.status
            if status is not None and status.st_nlink == 0 and not self.path.exists():
                with contextlib.suppress(YardError):
                    self._write_again()
            for key in [key for key, yard in _OPEN.items() if yard is self]:
                del _OPEN[key]
            self._database.close()
            self._lock.release()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # whole tables, for what carries a yard elsewhere

    def reading(self) -> AbstractContextManager[sa.Connection]:
        """A connection to read any table by; for ``with``."""
        return self._database.reading()

    def changing(self) -> AbstractContextManager[sa.Connection]:
        """A connection to change any table by, all or nothing; for ``with``.

        Raises:
            ReadOnlyYardError: the yard is open elsewhere.
        """
        return self._changing(self._count_all)

    def read_ahead(self) -> None:
        """Read the records that are asked for first; a worker may, so that the window need not."""
        for kind in _ASKED_FOR_FIRST:
            self._records.all(kind)

    # inner

    @property
    def _records(self) -> RecordMemory:
        """What was read of the file, while nothing changed it since.

        Only a yard that is shown may be changed by another program: who may write it has its lock.
        """
        self._look_again()
        return self._known

    def _look_again(self) -> None:
        if self.read_only and (version := self._database.version()) != self._version:
            self._version = version
            self._count_all()

    def _fetch(self, kind: type[Any], ids: Sequence[int] | None = None) -> list[Any]:
        """Records as the file holds them."""
        table = TABLE_OF[kind]
        query = sa.select(table)
        if ids is not None:
            query = query.where(table.c.id.in_(ids))
        with self._database.reading() as connection:
            return [from_row(kind, row) for row in connection.execute(query).mappings()]

    def _changing(
        self, changed: Callable[[], None] | None = None
    ) -> AbstractContextManager[sa.Connection]:
        """A connection to change the yard by, all or nothing.

        Args:
            changed: called after it is kept; by default the records that were put are known.
        """
        if self.read_only:
            raise ReadOnlyYardError(f"{self.path.name} {self.why_read_only}")
        return self._with_puts(changed or self._count)

    @contextlib.contextmanager
    def _with_puts(self, changed: Callable[[], None]) -> Iterator[sa.Connection]:
        with self._database.changing(changed) as connection:
            self._put_now = []
            yield connection

    def _put(self, connection: sa.Connection, record: R) -> R:
        """Insert or replace one record."""
        table = TABLE_OF[type(record)]
        values = to_row(record)
        if record.id is None:
            del values["id"]
            key = connection.execute(sa.insert(table).values(values)).inserted_primary_key
            assert key is not None
            record = dataclasses.replace(record, id=key[0])
        else:
            query = sa.update(table).where(table.c.id == record.id).values(values)
            if not connection.execute(query).rowcount:
                connection.execute(sa.insert(table).values(values))
        self._put_now.append(record)
        return record

    def _count(self) -> None:
        self._known.changed(self._put_now)
        self._changes += 1

    def _count_all(self) -> None:
        self._known.forget()
        self._samples.forget()
        self._changes += 1


def nothing() -> None:
    """New samples change nothing that was worked out before."""


def _name(part: Path, path: Path) -> None:
    """Give a finished file its name, where nothing has it yet."""
    try:
        os.link(part, path)  # unlike a rename it never replaces
    except FileExistsError:
        raise
    except OSError:  # a file system without links, such as an SD card's
        if path.exists():
            raise FileExistsError from None
        part.rename(path)


def _identity(path: Path) -> tuple[int, int]:
    """What a file is, whatever its path; (0, 0) of none."""
    try:
        found = path.stat()
    except OSError:
        return (0, 0)
    return (found.st_dev, found.st_ino)


def _why_read_only(path: Path, lock: FileLock) -> str:
    """What keeps a yard from being changed, after its name; "" where nothing does."""
    if not lock.held:
        return "is open in another window and only shown here"
    if not os.access(path, os.W_OK):
        return "may not be written and is only shown"
    if not os.access(path.parent, os.W_OK):
        return "is in a folder that may not be written and is only shown"
    return ""
