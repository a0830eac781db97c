"""Samples that were read lately, within a bound: a yard's traces are more than a computer holds."""

import threading
from collections import OrderedDict
from collections.abc import Callable

from yardtoll.core.electrical.trace import Trace
from yardtoll.store.records import Recording

LARGEST_BYTES = 96_000_000
"""What is kept at most, but for the trace read last."""


class SampleMemory:
    """Traces by their recording; safe to use from several threads."""

    def __init__(self, largest_bytes: int = LARGEST_BYTES) -> None:
        self._largest_bytes = largest_bytes
        self._kept: OrderedDict[int, tuple[Recording, Trace]] = OrderedDict()
        self._turn = 0
        self._lock = threading.Lock()

    def get(self, recording: Recording, read: Callable[[], Trace | None]) -> Trace | None:
        """The trace of a recording, read where it is not known."""
        id_ = recording.id or 0
        with self._lock:
            known = self._kept.get(id_)
            if known is not None and known[0] == recording:
                self._kept.move_to_end(id_)
                return known[1]
            turn = self._turn
        found = read()
        if found is not None:
            with self._lock:
                if turn == self._turn:  # nothing was written meanwhile
                    self._kept[id_] = (recording, found)
                    self._kept.move_to_end(id_)
                    self._drop_oldest()
        return found

    def forget(self, recording_id: int | None = None) -> None:
        """A recording has other samples now; None for any."""
        with self._lock:
            self._turn += 1
            if recording_id is None:
                self._kept.clear()
            else:
                self._kept.pop(recording_id, None)

    def _drop_oldest(self) -> None:
        total = sum(_size(trace) for _, trace in self._kept.values())
        while total > self._largest_bytes and len(self._kept) > 1:
            _, (_, oldest) = self._kept.popitem(last=False)
            total -= _size(oldest)


def _size(trace: Trace) -> int:
    return trace.time_s.nbytes + sum(column.nbytes for column in trace.columns.values())
