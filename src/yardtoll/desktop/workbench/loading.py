"""Large modules are loaded on a thread: the window goes on answering until they are there."""

import importlib
import sys
import threading
from collections.abc import Iterator, Sequence
from contextlib import suppress

RESULTS = ("scipy.linalg", "scipy.special", "scipy.sparse.linalg", "scipy.optimize")
"""What the figures of runs ask for, in parts: half a second that no click may wait for."""
_LOOK_AGAIN_MS = 10


def load(names: Sequence[str]) -> None:
    """Load modules; for a worker, where it may take its time.

    Raises:
        ImportError: there is no such module.
    """
    for name in names:
        importlib.import_module(name)


def loaded(names: Sequence[str]) -> Iterator[int]:
    """Load modules on a thread, and yield ms to wait until it is to be asked again.

    What cannot be loaded is left to those who need it: they say so.
    """
    if all(_is_whole(name) for name in names):
        return
    thread = threading.Thread(target=_load_what_can_be, args=(names,), name="loading", daemon=True)
    thread.start()
    while thread.is_alive():
        yield _LOOK_AGAIN_MS


def _load_what_can_be(names: Sequence[str]) -> None:
    with suppress(Exception):
        load(names)


def _is_whole(name: str) -> bool:
    """Whether a module is there, and not just being loaded by another thread."""
    spec = getattr(sys.modules.get(name), "__spec__", None)
    return spec is not None and not getattr(spec, "_initializing", False)
