"""What every instrument can do, whatever its protocol, and what a protocol's driver declares."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from pydantic import BaseModel

from yardtoll.bench.samples import SampleBlock


class Instrument(Protocol):
    """An instrument that can be read for hours.

    Attributes:
        keeps_time: it times its samples itself, also while nobody is connected; else their times
            are s since it was first opened.
        interval_s: how often it is asked, in s.
    """

    @property
    def keeps_time(self) -> bool: ...  # noqa: D102 - see above

    @property
    def interval_s(self) -> float: ...  # noqa: D102 - see above

    def open(self, *, prepare: bool = True) -> str:
        """Connect and return what it calls itself.

        Args:
            prepare: set it up; not when joining a recording again.

        Raises:
            UnreachableError: nothing answers.
        """
        ...

    def read_new(self) -> SampleBlock:
        """Samples since the last call.

        Raises:
            UnreachableError: the connection broke.
            AnswerError: the answer cannot be used.
        """
        ...

    def break_off(self) -> None:
        """End whatever another thread waits for in a call; what was waited for is lost."""
        ...

    def close(self) -> None:
        """Disconnect; it can be opened again. Safe to call twice."""
        ...


class Connection(Protocol):
    """How an instrument is reached: any record with these."""

    @property
    def profile(self) -> str: ...  # noqa: D102

    @property
    def address(self) -> str: ...  # noqa: D102

    @property
    def is_simulated(self) -> bool: ...  # noqa: D102


@dataclass(frozen=True, kw_only=True)
class Driver:
    """One protocol.

    Attributes:
        protocol: its name in profiles.
        title: as shown where a meter is added.
        commands: what a profile of this protocol holds beside its name.
        connect: (address, commands) → an instrument that is not open yet.
        address_example: as a hint.
        address_problem: what is wrong with an address, in a sentence; "" where nothing is.
        takes_curves: its instruments are scopes, which give curves and no watts over hours.
    """

    protocol: str
    title: str
    commands: type[BaseModel]
    connect: Callable[[str, Any], Instrument]
    address_example: str
    address_problem: Callable[[str], str]
    takes_curves: bool = False
