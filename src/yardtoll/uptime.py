"""How long the computer has been on: a clock that nobody sets and that counts while it sleeps."""

import functools
import time
from pathlib import Path


def boot_s() -> float:
    """S since the computer was started, suspended time included."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


@functools.cache
def boot_id() -> str:
    """Names this start of the computer; "" where the system does not say."""
    try:
        return Path("/proc/sys/kernel/random/boot_id").read_text("ascii").strip()
    except OSError:
        return ""
