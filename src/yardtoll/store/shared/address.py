"""Where a shared archive is, and the password for it: never from the address alone."""

import os

import sqlalchemy as sa

from yardtoll.store.errors import StoreError

FROM_ENVIRONMENT = "YARDTOLL_ARCHIVE_PASSWORD"
"""The variable of the environment that a password may be in."""
SERVICE = "yardtoll-archive"
"""Under which it is in the keyring, for the user's name at the server."""


class ArchiveError(StoreError):
    """The archive cannot be used; what is in the yard is safe."""


def archive_url(text: str) -> sa.URL:
    """An address like postgresql://user@host/name, with the password that belongs to it.

    Raises:
        ArchiveError: it is no such address, or the password stands in it for all to see.
    """
    try:
        url = sa.make_url(text)
    except (sa.exc.ArgumentError, ValueError):
        raise ArchiveError(
            "the archive's address should look like postgresql://user@host/name"
        ) from None
    if url.get_backend_name() != "postgresql" or not url.database:
        raise ArchiveError("the archive's address should look like postgresql://user@host/name")
    if url.password:
        raise ArchiveError(
            f"the archive's address must not hold the password: put it into the keyring, or into "
            f"{FROM_ENVIRONMENT}"
        )
    url = url.set(drivername="postgresql+psycopg")
    return url.set(password=password) if (password := _password(url)) else url


def shown(url: sa.URL) -> str:
    """Without a password."""
    return f"{url.host or 'this computer'}/{url.database}"


def _password(url: sa.URL) -> str:
    found = os.environ.get(FROM_ENVIRONMENT, "")
    if found or not url.username:
        return found
    try:
        import keyring
        import keyring.errors
    except ImportError:
        return ""
    try:
        return keyring.get_password(SERVICE, f"{url.username}@{shown(url)}") or ""
    except keyring.errors.KeyringError:
        return ""
