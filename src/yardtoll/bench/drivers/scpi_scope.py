"""A scope that speaks SCPI: curves as binary blocks, over whatever wire VISA reaches."""

import contextlib
import math
from typing import Annotated, Any, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from yardtoll.bench.drivers.scpi import visa_address_problem
from yardtoll.bench.errors import AnswerError, UnreachableError
from yardtoll.bench.instrument import Driver
from yardtoll.bench.samples import SampleBlock
from yardtoll.core.waveform.capture import Capture

_LONGEST_IDENTITY = 200
_MOST_SAMPLES = 20_000_000
_LARGEST = 1e6


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ChannelProfile(_Strict):
    """One channel: volts or amps are (value × scale) + offset.

    Attributes:
        query: asks for its curve as a block.
        scale_query, offset_query: ask for scale and offset, where the scope says them.
    """

    query: str
    scale: float = 1.0
    offset: float = 0.0
    scale_query: str = ""
    offset_query: str = ""


class ScopeProfile(_Strict):
    """The commands of one kind of scope.

    Attributes:
        setup: sent once, when it is opened.
        start: sent before each capture; ``switch`` instead of it for a capture across a switch.
        interval_query: asks for the s between samples.
        data_type: of the block's values, as in Python's struct: b, B, h, H, i, f or d.
    """

    identify: str = "*IDN?"
    setup: tuple[str, ...] = ()
    start: tuple[str, ...] = ()
    switch: tuple[str, ...] = ()
    timeout_ms: Annotated[int, Field(gt=0)] = 10_000
    termination: str = "\n"
    interval_query: str
    data_type: Literal["b", "B", "h", "H", "i", "f", "d"] = "f"
    big_endian: bool = True
    volts: ChannelProfile
    amps: ChannelProfile | None = None


class ScpiScope:
    """A driver that takes curves from one scope by its profile."""

    keeps_time = False
    interval_s = 0.5

    def __init__(self, resource: str, profile: ScopeProfile) -> None:
        self._resource = resource
        self._profile = profile
        self._session: Any = None

    def open(self, *, prepare: bool = True) -> str:
        """Connect, prepare the scope and return what it calls itself.

        Raises:
            UnreachableError: nothing answers at the address.
        """
        import pyvisa  # noqa: PLC0415 - slow to import, needed only with a scope

        profile = self._profile
        try:
            self._session = pyvisa.ResourceManager("@py").open_resource(
                self._resource,
                timeout=profile.timeout_ms,
                read_termination=profile.termination,
                write_termination=profile.termination,
            )
            for command in profile.setup if prepare else ():
                self._session.write(command)
            return str(self._session.query(profile.identify)).strip()[:_LONGEST_IDENTITY]
        except Exception as error:  # VISA backends raise kinds of their own, ValueError among them
            self.close()
            raise UnreachableError(
                f"no scope answers at {self._resource[:80]}: is it switched on, and is the address "
                "right?"
            ) from error

    def tell(self, command: str) -> None:
        """Send one command, such as to a rig that the scope is a part of.

        Raises:
            UnreachableError: the wire broke.
        """
        try:
            self._connected.write(command)
        except Exception as error:  # one boundary for the VISA backend's many kinds
            raise UnreachableError("the scope takes no commands") from error

    def ask(self, query: str) -> str:
        """Send one line and return the answer.

        Raises:
            UnreachableError: the wire broke, or nothing came.
        """
        try:
            return str(self._connected.query(query)).strip()
        except Exception as error:  # one boundary for the VISA backend's many kinds
            raise UnreachableError("the scope stopped answering") from error

    def capture(self, *, across_switch: bool = False) -> Capture:
        """One capture of every channel of the profile.

        Args:
            across_switch: start it as the profile says for one across a switch of the wall.

        Raises:
            UnreachableError: the wire broke.
            AnswerError: what came is no curve.
        """
        profile = self._profile
        for command in profile.switch if across_switch else profile.start:
            self.tell(command)
        interval_s = self._number(profile.interval_query)
        if not 1e-12 < interval_s < 1.0:
            raise AnswerError(f"the scope says {interval_s:g} s between samples")
        volts = self._curve(profile.volts)
        amps = self._curve(profile.amps) if profile.amps is not None else None
        if amps is not None and amps.size != volts.size:
            raise AnswerError(f"the scope sent {volts.size} volts and {amps.size} amps")
        return Capture(name="scope", rate_hz=1 / interval_s, volts=volts, amps=amps)

    def read_new(self) -> SampleBlock:
        """A scope gives curves; watts over hours are a meter's.

        Raises:
            AnswerError: always.
        """
        raise AnswerError("a scope gives curves of volts, and no watts over hours")

    def break_off(self) -> None:
        """Nothing: the session's own timeout ends what waits."""

    def close(self) -> None:
        """Let go of the wire; safe to call twice."""
        session, self._session = self._session, None
        if session is not None:
            with contextlib.suppress(Exception):
                session.close()

    def __enter__(self) -> Self:
        self.open()
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _curve(self, channel: ChannelProfile) -> np.ndarray:
        profile = self._profile
        try:
            raw = self._connected.query_binary_values(
                channel.query,
                datatype=profile.data_type,
                is_big_endian=profile.big_endian,
                container=np.array,
            )
        except Exception as error:  # one boundary for the VISA backend's many kinds
            said = " ".join(str(error).split())[:80]
            raise AnswerError(f"the scope sent no block that can be read: {said}") from error
        scale = self._number(channel.scale_query) if channel.scale_query else channel.scale
        offset = self._number(channel.offset_query) if channel.offset_query else channel.offset
        values = np.asarray(raw, dtype=np.float64) * scale + offset
        if not 16 <= values.size <= _MOST_SAMPLES:
            raise AnswerError(f"the scope sent {values.size} samples, which are no curve")
        if not np.all(np.isfinite(values)) or float(np.max(np.abs(values))) > _LARGEST:
            raise AnswerError("the scope sent values that are no volts")
        return values

    def _number(self, query: str) -> float:
        answer = self.ask(query)
        try:
            value = float(answer)
        except ValueError:
            value = math.nan
        if not math.isfinite(value):
            raise AnswerError(f"the scope answered {answer[:40]!r} to {query}")
        return value

    @property
    def _connected(self) -> Any:
        if self._session is None:
            raise UnreachableError("the scope is not connected")
        return self._session


DRIVER = Driver(
    protocol="scpi_scope",
    title="A scope, SCPI over a wire",
    commands=ScopeProfile,
    connect=ScpiScope,
    address_example="TCPIP::192.0.2.7::5025::SOCKET",
    address_problem=visa_address_problem,
    takes_curves=True,
)
