"""A video's frames, read by a child process that can be ended."""

import contextlib
import importlib.util
import json
import selectors
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yardtoll.store.errors import StoreError
from yardtoll.store.video_child import LARGEST_PX

PATIENCE_S = 60.0
_LONGEST_LINE = 64 * 1024**2
_PIPE_BYTES = 1 << 20


class VideoError(StoreError):
    """A file is no video that can be read; one sentence."""


class VideoReader:
    """One video, open in a process of its own; safe to use from several threads."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._lock = threading.Lock()
        self._child: subprocess.Popen[bytes] | None = None
        self._kept = b""

    def times(self) -> tuple[list[float], str]:
        """S of every frame from the beginning, in order, and when the video says it was made.

        Raises:
            VideoError: it is no video, or takes too long.
        """
        with self._lock:
            said = self._ask("times")
            times, made = said.get("times"), said.get("made")
            if not isinstance(times, list) or not all(isinstance(t, float) for t in times):
                raise self._no_video()
            return times, str(made)

    def pixels(self, at_s: float) -> NDArray[np.uint8]:
        """(rows, columns, 3) of the frame shown at a time.

        Raises:
            VideoError: there is none, or it cannot be decoded.
        """
        with self._lock:
            said = self._ask(f"frame {at_s!r}")
            rows, columns = self._size(said.get("rows")), self._size(said.get("columns"))
            data = self._take(rows * columns * 3)
            return np.frombuffer(data, dtype=np.uint8).reshape(rows, columns, 3)

    def close(self) -> None:
        """End the child; it is started again when it is needed."""
        child, self._child = self._child, None
        self._kept = b""
        if child is not None:
            child.kill()
            child.communicate()

    def _ask(self, words: str) -> dict[str, Any]:
        if importlib.util.find_spec("av") is None:
            raise VideoError("videos need PyAV: install yardtoll[video]")
        if self._child is None or self._child.poll() is not None:
            self.close()
            self._child = subprocess.Popen(
                [sys.executable, "-m", f"{__name__}_child", str(self.path.resolve())],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            )  # fmt: skip
        assert self._child.stdin is not None
        with contextlib.suppress(OSError):  # a child that died is seen when it is read
            self._child.stdin.write(words.encode() + b"\n")
            self._child.stdin.flush()
        try:
            said = json.loads(self._line())
        except ValueError:
            raise self._no_video() from None
        if not isinstance(said, dict) or "problem" in said:
            raise self._no_video()
        return said

    def _size(self, said: object) -> int:
        if not isinstance(said, int) or not 0 < said <= LARGEST_PX:
            raise self._no_video()
        return said

    def _line(self) -> bytes:
        while b"\n" not in self._kept:
            if len(self._kept) > _LONGEST_LINE:
                raise self._no_video()
            self._kept += self._more()
        line, _, self._kept = self._kept.partition(b"\n")
        return line

    def _take(self, count: int) -> bytes:
        parts = [self._kept]
        got = len(self._kept)
        while got < count:
            parts.append(self._more())
            got += len(parts[-1])
        whole = b"".join(parts)
        self._kept = whole[count:]
        return whole[:count]

    def _more(self) -> bytes:
        """What comes next; a child that says nothing for long, or has ended, reads no video."""
        child = self._child
        assert child is not None
        assert child.stdout is not None
        until_s = time.monotonic() + PATIENCE_S
        with selectors.DefaultSelector() as waiting:
            waiting.register(child.stdout, selectors.EVENT_READ)
            if waiting.select(max(until_s - time.monotonic(), 0)):
                more = child.stdout.read1(_PIPE_BYTES)  # type: ignore[attr-defined]
                if more:
                    return bytes(more)
        raise self._no_video()

    def _no_video(self) -> VideoError:
        self.close()
        return VideoError(f"{self.path.name} is no video that can be read")

    def __del__(self) -> None:
        self.close()
