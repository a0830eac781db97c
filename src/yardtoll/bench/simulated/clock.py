"""The bench's virtual clock."""

import threading
import time
from collections.abc import Callable

SLOWEST, FASTEST = 1.0, 3600.0


class VirtualClock:
    """Seconds of bench time, running at ×1 to ×3600 of real time; speed can change any time.

    Args:
        start_s: bench time at which the clock begins.
        speed: bench seconds a real second.
        now_s: the real clock.
    """

    def __init__(
        self,
        start_s: float = 0.0,
        speed: float = 1.0,
        now_s: Callable[[], float] = time.monotonic,
    ) -> None:
        self._now_s = now_s
        self._lock = threading.Lock()
        self._base_s = start_s
        self._since_s = now_s()
        self._speed = speed

    @property
    def speed(self) -> float:
        """Bench seconds a real second."""
        return self._speed

    def set_speed(self, speed: float) -> None:
        """Change the pace from now on; held to ×1 … ×3600."""
        with self._lock:
            self._base_s, self._since_s = self._at_now(), self._now_s()
            self._speed = min(max(speed, SLOWEST), FASTEST)

    def bench_s(self) -> float:
        """Bench time now."""
        with self._lock:
            return self._at_now()

    def _at_now(self) -> float:
        return self._base_s + (self._now_s() - self._since_s) * self._speed
