"""Files written whole or not at all."""

import os
import tempfile
from pathlib import Path


def write_whole(path: Path, data: bytes | str) -> None:
    """Write beside, then rename: what was there before stays until the new file is whole.

    Raises:
        OSError: it cannot be written; nothing has changed.
    """
    content = data.encode("utf-8") if isinstance(data, str) else data
    handle, name = tempfile.mkstemp(prefix=f".{path.name[:100]}.", suffix=".part", dir=path.parent)
    part = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        part.chmod(_mode(path))
        part.replace(path)
    except BaseException:
        part.unlink(missing_ok=True)
        raise


def _mode(path: Path) -> int:
    """Of the file that is replaced; else what any new file here has."""
    try:
        return path.stat().st_mode & 0o777
    except OSError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask
