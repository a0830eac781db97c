"""Arrays of numbers as a short text, for a run's conditions: read with every list of runs, a few
thousand figures must not be parsed one by one each time.
"""

import base64
import binascii
import zlib

import numpy as np

from yardtoll.core.electrical.trace import FloatArray

_FLOAT = np.dtype("<f8")
_LARGEST_BYTES = 8 * 1024 * 1024


def pack(values: FloatArray) -> str:
    """(n,) figures as little-endian float64, compressed, in base64."""
    return base64.b64encode(zlib.compress(values.astype(_FLOAT).tobytes(), 9)).decode("ascii")


def unpack(text: str) -> FloatArray:
    """The figures again.

    Raises:
        ValueError: it is no such text, or of more figures than any log has.
    """
    try:
        inflate = zlib.decompressobj()
        data = inflate.decompress(base64.b64decode(text, validate=True), _LARGEST_BYTES)
    except (binascii.Error, zlib.error) as error:
        raise ValueError(str(error)) from None
    if not inflate.eof:
        raise ValueError("too long")
    return np.frombuffer(data, _FLOAT).astype(np.float64)
