"""Large modules are loaded on a thread: the window goes on answering until they are there."""

import ctypes
import importlib
import importlib.util
import os
import sys
import threading
from collections.abc import Iterator, Sequence
from contextlib import nullcontext, suppress

from yardtoll.desktop.workbench.standing_aside import standing_aside

RESULTS = ("scipy.linalg", "scipy.special", "scipy.sparse.linalg", "scipy.optimize")
"""What the figures of runs ask for, in parts: half a second that no click may wait for."""
SOLVER = "ortools.sat.python.cp_model_helper"
"""What finds mixes of loads."""
_LOOK_AGAIN_MS = 10
_OF_THE_WINDOW = ("PySide6", "pyqtgraph", f"{__name__.partition('.')[0]}.desktop")
"""They define classes of Qt's, or load others that do."""


def load(names: Sequence[str]) -> None:
    """Load modules; for a worker, where it may take its time.

    Raises:
        ImportError: there is no such module.
    """
    for name in names:
        of_window = name.startswith(_OF_THE_WINDOW)
        with standing_aside.waited_for() if of_window else nullcontext():
            importlib.import_module(name)


def map_compiled(name: str) -> None:
    """Have a compiled module's own code in memory before it is imported; for a worker.

    To import a large one holds up every thread that runs Python for as long as its code is mapped,
    a tenth of a second for the solver; called like this the loader holds up none. Where it does not
    work the import does.
    """
    with suppress(ImportError, OSError, AttributeError):
        found = importlib.util.find_spec(name)
        if found is not None and found.origin is not None:
            loader = ctypes.CDLL(None).dlopen
            loader.restype, loader.argtypes = ctypes.c_void_p, [ctypes.c_char_p, ctypes.c_int]
            loader(os.fsencode(found.origin), os.RTLD_NOW)


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
