"""A shared archive: which one, and yards of it to be looked into."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from yardtoll.core.formatting import capitalised
from yardtoll.desktop.host import Host

if TYPE_CHECKING:
    from yardtoll.store.shared.archive import ArchivedYard


def ask_archive(host: Host) -> None:
    """Ask for the archive's address; nothing for none."""
    from yardtoll.store.shared.address import FROM_ENVIRONMENT

    address, accepted = QInputDialog.getText(
        host.widget,
        "Shared archive",
        f"Address, such as postgresql://bench@server/yards.\nThe password is taken from the "
        f"keyring or from {FROM_ENVIRONMENT}.\nLeave it empty for no archive.",
        text=host.settings.archive,
    )
    if accepted:
        use_archive(host, address.strip())


def use_archive(host: Host, address: str) -> None:
    """Send to an archive from now on; what is no address is told and changes nothing."""
    from yardtoll.store.shared.address import ArchiveError, archive_url

    try:
        if address:
            archive_url(address)
    except ArchiveError as error:
        host.say(f"{capitalised(str(error))}.")
        return
    host.settings.archive = address
    if host.bench is not None:
        host.bench.use_archive(address)


def ask_archived_yard(host: Host, look: Callable[[Path], None]) -> None:
    """Ask which of the archive's yards is looked into."""
    from yardtoll.store.shared.archive import SharedArchive

    address = host.settings.archive

    def listed(_: object) -> list[ArchivedYard]:
        archive = SharedArchive(address)
        try:
            return archive.yards()
        finally:
            archive.close()

    host.jobs.start(
        "Asking the archive",
        listed,
        lambda yards: _choose(host, yards, look),
        lambda error: host.say(f"{capitalised(str(error))}."),
    )


def _choose(host: Host, yards: list[ArchivedYard], look: Callable[[Path], None]) -> None:
    own = host.bench.session.yard.info().uid if host.bench is not None else ""
    others = [yard for yard in yards if yard.uid != own]
    if not others:
        host.say("The archive holds no other yard yet.")
        return
    lines = [f"{yard.name}, sent {yard.sent_at[:10]}" for yard in others]
    chosen, accepted = QInputDialog.getItem(
        host.widget, "A yard of the archive", "Yard", lines, 0, False
    )
    if accepted:
        fetch(host, others[lines.index(chosen)], look)


def fetch(host: Host, wanted: ArchivedYard, look: Callable[[Path], None]) -> None:
    """Fetch a yard into a folder of its own, on a worker, and look into it."""
    from yardtoll.store.shared.archive import SharedArchive

    address = host.settings.archive
    name = "".join(c if c.isalnum() or c in " -_" else "_" for c in wanted.name)[:60] or "yard"
    path = Path(tempfile.mkdtemp(prefix="yardtoll-archive-")) / f"{name}.yard"

    def work(_: object) -> Path:
        archive = SharedArchive(address)
        try:
            archive.fetch(wanted.uid, path)
        finally:
            archive.close()
        return path

    host.jobs.start(
        f"Fetching {wanted.name}", work, look,
        lambda error: host.say(f"{capitalised(str(error))}."),
    )  # fmt: skip
