"""Reads one video in a process of its own, with limits, for ``video.py``.

Run as ``python -m … PATH``. Each line on its input asks: "times", or "frame S". Each answer is a
line of JSON, for a frame followed by its pixels. Decoders are large and a file from elsewhere may
be made to mislead them: the process that is ended for it holds nothing else.
"""

import json
import resource
import sys
from typing import Any, BinaryIO

MEMORY_BYTES = 4 * 1024**3
CPU_S = 30
"""For one question."""
LARGEST_PX = 1600


def main(path: str) -> None:
    """Answer until the input ends."""
    for limit, most in (
        (resource.RLIMIT_AS, MEMORY_BYTES),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_CORE, 0),
    ):
        resource.setrlimit(limit, (most, most))
    out = sys.stdout.buffer
    for line in sys.stdin:
        used = resource.getrusage(resource.RUSAGE_SELF)
        spent_s = int(used.ru_utime + used.ru_stime)
        resource.setrlimit(resource.RLIMIT_CPU, (spent_s + CPU_S, resource.RLIM_INFINITY))
        word, _, argument = line.strip().partition(" ")
        try:
            if word == "times":
                _say(out, _times(path))
            else:
                pixels = _pixels(path, float(argument))
                _say(out, {"rows": pixels.shape[0], "columns": pixels.shape[1]})
                out.write(pixels.tobytes())
                out.flush()
        except BaseException as error:  # decoders raise whatever they like
            _say(out, {"problem": type(error).__name__})


def _say(out: BinaryIO, words: dict[str, Any]) -> None:
    out.write(json.dumps(words).encode() + b"\n")
    out.flush()


def _times(path: str) -> dict[str, Any]:
    """When each frame is shown, without decoding any."""
    import av  # noqa: PLC0415 - after the limits

    with av.open(path) as container:
        stream = container.streams.video[0]
        base = float(stream.time_base or 0)
        times = [float(p.pts) * base for p in container.demux(stream) if p.pts is not None]
        return {"times": sorted(times), "made": str(container.metadata.get("creation_time", ""))}


def _pixels(path: str, at_s: float) -> Any:
    """(rows, columns, 3) of the frame shown at a time: decoded from the key frame before it."""
    import av  # noqa: PLC0415 - after the limits

    with av.open(path) as container:
        stream = container.streams.video[0]
        base = float(stream.time_base or 1)
        container.seek(int(at_s / base), stream=stream, backward=True)
        for decoded in container.decode(stream):
            if decoded.pts is not None and float(decoded.pts) * base >= at_s - base / 2:
                share = min(1.0, LARGEST_PX / max(decoded.width, decoded.height, 1))
                return decoded.to_ndarray(
                    format="rgb24",
                    width=max(int(decoded.width * share), 1),
                    height=max(int(decoded.height * share), 1),
                )
    raise EOFError


if __name__ == "__main__":
    main(sys.argv[1])
