"""The tables of a new yard as one script, from the migrations that lead to them.

Usage: make_fresh_schema.py
"""

import sqlite3
import tempfile
from pathlib import Path

from yardtoll.store.database import Database
from yardtoll.store.opening import FRESH, migrate


def script() -> str:
    """What the migrations make of an empty file."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "empty.yard"
        path.touch()
        database = Database(path, read_only=False)
        migrate(database.engine, path)
        database.checkpoint("TRUNCATE")
        database.close()
        connection = sqlite3.connect(path)
        numbers = [
            f"PRAGMA {name} = {connection.execute(f'PRAGMA {name}').fetchone()[0]};"
            for name in ("application_id", "user_version")
        ]
        dump = "\n".join([*connection.iterdump(), *numbers])
        connection.close()
        return f"{dump}\n"


if __name__ == "__main__":
    FRESH.write_text(script(), encoding="utf-8")
