"""Records of an open yard, read once a kind and kept up to date with every change of them.

A view asks for the same records many times, and for those of one run among thousands. Each kind is
read in one query when it is first asked for; what this program changes is put here too.
"""

import threading
from collections.abc import Callable, Iterable, Sequence
from typing import Any, Generic, TypeVar

from yardtoll.store.records import Record

R = TypeVar("R", bound=Record)
Read = Callable[[type[Any], Sequence[int] | None], list[Any]]
"""Records of a kind as the file holds them: all, or those with these ids."""


class _Kind(Generic[R]):
    """Records of one kind, and the same by the values of a field."""

    def __init__(self, records: Iterable[R]) -> None:
        self.by_id: dict[int, R] = {record.id or 0: record for record in records}
        self._groups: dict[str, dict[object, dict[int, R]]] = {}

    def put(self, record: R) -> None:
        """A record that is new or changed."""
        id_ = record.id or 0
        before = self.by_id.get(id_)
        self.by_id[id_] = record
        for field, groups in self._groups.items():
            if before is not None:
                groups[getattr(before, field)].pop(id_, None)
            groups.setdefault(getattr(record, field), {})[id_] = record

    def of(self, field: str, value: object) -> list[R]:
        """Those with a value in a field, by their id."""
        if field not in self._groups:
            made: dict[object, dict[int, R]] = {}
            for id_, record in self.by_id.items():
                made.setdefault(getattr(record, field), {})[id_] = record
            self._groups[field] = made
        found = self._groups[field].get(value, {})
        return [found[id_] for id_ in sorted(found)]


class RecordMemory:
    """What was read of a yard; safe to use from several threads.

    Args:
        read: reads a kind from the file.
    """

    def __init__(self, read: Read) -> None:
        self._read = read
        self._kinds: dict[type[Any], _Kind[Any]] = {}
        self._changed: dict[type[Any], set[int]] = {}
        # Held while a kind is read: what is written meanwhile is put after it.
        self._lock = threading.RLock()

    def get(self, kind: type[R], id_: int) -> R | None:
        """The record with an id; None where there is none."""
        with self._lock:
            return self._kind(kind).by_id.get(id_)

    def all(self, kind: type[R]) -> list[R]:
        """All of a kind, by their id."""
        with self._lock:
            by_id = self._kind(kind).by_id
            return [by_id[id_] for id_ in sorted(by_id)]

    def of(self, kind: type[R], field: str, value: object) -> list[R]:
        """Those of a kind with a value in a field, by their id."""
        with self._lock:
            return self._kind(kind).of(field, value)

    def changed(self, records: Iterable[Record]) -> None:
        """These are kept in the file now; they are read again when their kind is asked for."""
        with self._lock:
            for record in records:
                if type(record) in self._kinds and record.id is not None:
                    self._changed.setdefault(type(record), set()).add(record.id)

    def forget(self) -> None:
        """Read everything again when it is asked for."""
        with self._lock:
            self._kinds.clear()
            self._changed.clear()

    def _kind(self, kind: type[R]) -> _Kind[R]:
        if kind not in self._kinds:
            self._kinds[kind] = _Kind(self._read(kind, None))
        elif kind in self._changed:
            for record in self._read(kind, sorted(self._changed[kind])):
                self._kinds[kind].put(record)
            del self._changed[kind]
        return self._kinds[kind]
