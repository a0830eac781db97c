"""A power meter that speaks SCPI, over whatever wire VISA reaches (TCP, serial, USB)."""

from collections.abc import Callable
from typing import Annotated, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from yardtoll.bench.drivers.wire import Wire, connect
from yardtoll.bench.errors import AnswerError, UnreachableError
from yardtoll.bench.instrument import Driver
from yardtoll.bench.samples import SampleBlock
from yardtoll.core.electrical.quantities import LOGGED, Quantity
from yardtoll.uptime import boot_s

TIME_COLUMN = "time"
_LONGEST_IDENTITY = 200


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class BufferProfile(_Strict):
    """A recording the meter keeps.

    Attributes:
        query: asks for what was recorded since the last time.
        columns: what the numbers of one record are, in order; one is "time" in s.
        record_separator: between records; numbers within one are parted by commas.
    """

    query: str
    columns: tuple[str, ...]
    record_separator: Annotated[str, Field(min_length=1)] = ";"

    @model_validator(mode="after")
    def _known_columns(self) -> "BufferProfile":
        allowed = {TIME_COLUMN, *(q.value for q in LOGGED)}
        unknown = [c for c in self.columns if c not in allowed]
        if unknown or TIME_COLUMN not in self.columns:
            raise ValueError(f'columns must hold "time" and else only {sorted(allowed)}')
        return self


class DirectProfile(_Strict):
    """One quantity asked for by itself; the answer times ``scale`` is in the fixed unit."""

    query: str
    scale: float = 1.0


class ScpiProfile(_Strict):
    """The commands of one kind of meter.

    With a ``buffer`` the meter records by itself and hands over what it has recorded since the
    last question, times included. Without one it is asked for each quantity in turn, and the time
    of asking counts. Either is asked every ``interval_s``.
    """

    identify: str = "*IDN?"
    setup: tuple[str, ...] = ()
    zero: str | None = None
    timeout_ms: Annotated[int, Field(gt=0)] = 2000
    interval_s: Annotated[float, Field(ge=0.02, le=60)] = 0.5
    termination: str = "\n"
    buffer: BufferProfile | None = None
    direct: dict[Quantity, DirectProfile] = {}

    @model_validator(mode="after")
    def _can_be_read(self) -> "ScpiProfile":
        if self.buffer is None and not self.direct:
            raise ValueError("a profile needs a buffer or at least one direct quantity")
        return self


class ScpiMeter:
    """A driver that reads one meter by its profile.

    Args:
        resource: a VISA address, such as ``TCPIP::192.0.2.7::5025::SOCKET``.
        profile: the meter's commands.
        now_s: clock for meters that do not time their samples themselves.
    """

    def __init__(
        self, resource: str, profile: ScpiProfile, now_s: Callable[[], float] = boot_s
    ) -> None:
        self._resource = resource
        self._profile = profile
        self._now_s = now_s
        self._opened_s: float | None = None
        self._wire: Wire | None = None

    @property
    def keeps_time(self) -> bool:
        """Whether the meter times its samples itself."""
        return self._profile.buffer is not None

    @property
    def interval_s(self) -> float:
        """How often it is asked, by its profile."""
        return self._profile.interval_s

    def open(self, *, prepare: bool = True) -> str:
        """Connect, prepare the meter and return what it calls itself.

        Args:
            prepare: send the profile's setup commands; not when joining a recording again.

        Raises:
            UnreachableError: nothing answers at the address.
        """
        self._wire = connect(
            self._resource,
            timeout_s=self._profile.timeout_ms / 1000,
            termination=self._profile.termination,
        )
        if self._opened_s is None:  # a wire found again goes on in the same time
            self._opened_s = self._now_s()
        try:
            if prepare:
                for command in self._profile.setup:
                    self._connected.send(command)
            # Asked last: its answer shows that the commands before it have been carried out.
            return self._connected.ask(self._profile.identify).strip()[:_LONGEST_IDENTITY]
        except UnreachableError:
            self.close()
            raise

    def zero(self) -> None:
        """Set the meter's energy counter to zero, where it can be told to.

        Raises:
            UnreachableError: the wire broke.
        """
        if self._profile.zero:
            self._connected.send(self._profile.zero)
            self._ask(self._profile.identify)

    def read_new(self) -> SampleBlock:
        """What was measured since the last call; for a polled meter one sample of now.

        Raises:
            UnreachableError: the wire broke or the meter does not answer.
            AnswerError: the answer is not what the profile promises.
        """
        buffer = self._profile.buffer
        if buffer is not None:
            return self._parse_buffer(self._ask(buffer.query), buffer)
        at_s = self._now_s() - (self._opened_s or 0.0)
        columns = {
            quantity: np.array([direct.scale * self._number(direct.query)])
            for quantity, direct in self._profile.direct.items()
        }
        return SampleBlock(time_s=np.array([at_s]), columns=columns)

    def break_off(self) -> None:
        """End whatever another thread waits for."""
        wire = self._wire
        if wire is not None:
            wire.break_off()

    def close(self) -> None:
        """Let go of the wire; safe to call twice."""
        wire, self._wire = self._wire, None
        if wire is not None:
            wire.close()

    def __enter__(self) -> Self:
        self.open()
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _parse_buffer(self, answer: str, buffer: BufferProfile) -> SampleBlock:
        width = len(buffer.columns)
        flat = answer.strip().replace(buffer.record_separator, ",")
        try:
            numbers = np.array(flat.split(","), dtype=np.float64) if flat else np.empty(0)
        except ValueError:
            raise AnswerError(f"the meter answered {flat[:40]!r} where numbers belong") from None
        if numbers.size % width:
            raise AnswerError(f"the meter sent {numbers.size} numbers, no multiple of {width}")
        table = dict(zip(buffer.columns, numbers.reshape(-1, width).T, strict=True))
        time_s = table.pop(TIME_COLUMN)
        return SampleBlock(time_s=time_s, columns={Quantity(k): v for k, v in table.items()})

    def _number(self, query: str) -> float:
        answer = self._ask(query)
        try:
            return float(answer)
        except ValueError:
            raise AnswerError(f"the meter answered {answer[:40]!r} to {query}") from None

    def _ask(self, query: str) -> str:
        return self._connected.ask(query)

    @property
    def _connected(self) -> Wire:
        if self._wire is None:
            raise UnreachableError("the meter is not connected")
        return self._wire


def visa_address_problem(address: str) -> str:
    """What is wrong with a VISA address, in a sentence; "" where nothing is."""
    return "" if "::" in address else "A VISA address looks like TCPIP::192.0.2.7::5025::SOCKET."


DRIVER = Driver(
    protocol="scpi",
    title="SCPI over a wire",
    commands=ScpiProfile,
    connect=ScpiMeter,
    address_example="TCPIP::192.0.2.7::5025::SOCKET",
    address_problem=visa_address_problem,
)
