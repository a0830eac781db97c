"""A yard that is only looked into, such as another reviewer's: nothing of it changes."""

from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from yardtoll.store.database import Database
from yardtoll.store.opening import file_version, has_wal, refuse_damaged, refuse_foreign
from yardtoll.store.schema import SCHEMA_VERSION
from yardtoll.store.yard_file import YardFile


@contextmanager
def looking_into(path: Path) -> Iterator[YardFile]:
    """A yard to read from; one of an earlier version is brought up to date in a copy.

    Not for a yard that this program has open: that one is there to be read.

    Raises:
        YardError: one of its kinds, by what is wrong.
    """
    refuse_foreign(path)
    refuse_damaged(path)
    with ExitStack() as stack:
        shown = path
        with closing(Database(path, read_only=True, immutable=not has_wal(path))) as database:
            if file_version(database.engine) < SCHEMA_VERSION:
                folder = stack.enter_context(TemporaryDirectory(prefix="yardtoll-"))
                shown = Path(folder) / path.name
                database.copy_to(shown)
        yield stack.enter_context(YardFile.open(shown))
