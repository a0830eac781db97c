"""What the store raises; every message is one sentence for the user.

StoreError            something about a file
├── LogError          a log cannot be read
│   └── UnsureColumnsError  nothing says which of its columns is power
├── MappingError      a chosen column mapping does not fit the log
├── PackageError      a data package cannot be written, or does not fit
└── YardError         a yard file cannot be opened or written
    ├── NotAYardError     it is some other file
    ├── DamagedYardError  it is a yard, but broken
    ├── NewerYardError    a newer version of the program made it
    ├── ReadOnlyYardError it is open elsewhere, or may not be written
    ├── BusyYardError     another program is changing it; later it can be written again
    ├── FullDiskError     its disk is full; later it can be written again
    └── MovedYardError    the file is no longer where it was
"""


class StoreError(Exception):
    """Something about a file could not be done; ``str()`` is one clear sentence."""


class LogError(StoreError):
    """A log cannot be read."""


class UnsureColumnsError(LogError):
    """Nothing says which of a log's columns is power."""


class MappingError(StoreError):
    """A chosen column mapping does not fit the log."""


class PackageError(StoreError):
    """A data package cannot be written, or one read does not fit."""


class YardError(StoreError):
    """A yard file cannot be opened or written."""


class NotAYardError(YardError):
    """The file is something else."""


class DamagedYardError(YardError):
    """The file is a yard, but broken."""


class NewerYardError(YardError):
    """A newer version of the program made the file."""


class ReadOnlyYardError(YardError):
    """The yard is open elsewhere, or may not be written."""


class BusyYardError(YardError):
    """Another program is changing the yard; it can be tried again."""


class FullDiskError(YardError):
    """The disk is full; it can be tried again."""


class MovedYardError(YardError):
    """The file is no longer where it was."""
