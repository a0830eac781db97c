"""Lines to and from an instrument: over a TCP socket by ourselves, over anything else by VISA.

The socket is read here because a recording lasts for hours beside instruments that hang, send
without end, or close: each exchange has a deadline that no clock change moves, a limit to what is
read, and can be broken off from another thread.
"""

import contextlib
import re
import socket
import struct
import time
from typing import Any, Protocol

from yardtoll.bench.errors import UnreachableError

LONGEST_ANSWER_BYTES = 64 * 1024 * 1024
"""A day at 10 Hz, handed over at once, is about half of it."""
_CHUNK = 1024 * 1024
_FIRST_CHUNK = 4096
"""Most answers are a few bytes, and room for more is made anew for each of them."""
_DEADLINES = 10
"""An answer that keeps coming may take so many times as long as one may be waited for."""
_TCP = re.compile(r"TCPIP\d*::(?P<host>[^:]+|\[[^\]]+\])::(?P<port>\d{1,5})::SOCKET", re.I)


class Wire(Protocol):
    """One line out, one line back."""

    def send(self, line: str) -> None:
        """Send one line.

        Raises:
            UnreachableError: the wire broke.
        """
        ...

    def ask(self, line: str) -> str:
        """Send one line and return the answer without its end.

        Raises:
            UnreachableError: the wire broke, the answer did not come in time, has no end, or came
                unasked.
        """
        ...

    def break_off(self) -> None:
        """End whatever another thread waits for here."""
        ...

    def close(self) -> None:
        """Let go; safe to call twice."""
        ...


def connect(address: str, *, timeout_s: float, termination: str) -> Wire:
    """A wire to an address.

    Raises:
        UnreachableError: nothing answers there.
    """
    found = _TCP.fullmatch(address.strip())
    try:
        if found:
            where = found["host"].strip("[]"), int(found["port"])
            return SocketWire(where, timeout_s, termination)
        return VisaWire(address, timeout_s, termination)
    except Exception as error:  # VISA backends raise kinds of their own, ValueError among them
        raise UnreachableError(
            f"no meter answers at {address[:80]}: is it switched on, and is the address right?"
        ) from error


class SocketWire:
    """A line-by-line TCP connection."""

    def __init__(self, where: tuple[str, int], timeout_s: float, termination: str) -> None:
        self._where = f"{where[0]}:{where[1]}"
        self._timeout_s = timeout_s
        self._end = termination.encode("ascii")
        self._socket = socket.create_connection(where, timeout_s)
        # The kernel keeps the deadline: a poll before each call would wake this thread once more.
        self._socket.setblocking(True)
        whole_s, us = divmod(max(round(1e6 * timeout_s), 1), 1_000_000)  # 0 would wait for ever
        limit = struct.pack("@ll", whole_s, us)
        self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, limit)
        self._socket.setsockopt(socket.SOL_SOCKET, socket.SO_SNDTIMEO, limit)

    def send(self, line: str) -> None:
        """Send one line."""
        try:
            self._socket.sendall(line.encode("ascii", "replace") + self._end)
        except (OSError, ValueError) as error:
            raise UnreachableError(f"the meter at {self._where} takes no commands") from error

    def ask(self, line: str) -> str:
        """Send one line and return the answer."""
        try:
            self._expect_nothing()
            self.send(line)
            return self._line()
        except (OSError, ValueError) as error:
            raise UnreachableError(f"the meter at {self._where} stopped answering") from error

    def break_off(self) -> None:
        """Shut the connection down: a read that waits ends at once."""
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)

    def close(self) -> None:
        """Let go."""
        self._socket.close()

    def _expect_nothing(self) -> None:
        """Whatever is there, each later answer would be taken for that of the question before."""
        try:
            unasked = self._socket.recv(_FIRST_CHUNK, socket.MSG_DONTWAIT)
        except BlockingIOError:
            return
        if not unasked:
            raise ConnectionResetError
        if unasked.strip():
            raise UnreachableError(f"the meter at {self._where} sent what nobody asked for")

    def _line(self) -> str:
        begun = time.monotonic()
        parts: list[bytes] = []
        size, tail = 0, b""
        while True:
            if time.monotonic() - begun > _DEADLINES * self._timeout_s:
                raise TimeoutError
            got = self._socket.recv(_CHUNK if parts else _FIRST_CHUNK)
            if not got:
                raise ConnectionResetError
            parts.append(got)
            size += len(got)
            tail = (tail + got)[-len(got) - len(self._end) + 1 :]
            if self._end in tail:
                break
            if size > LONGEST_ANSWER_BYTES:
                raise UnreachableError(f"the meter at {self._where} sends without an end")
        answer, _, beyond = b"".join(parts).partition(self._end)
        if beyond.strip():
            raise UnreachableError(f"the meter at {self._where} sent what nobody asked for")
        return answer.decode("ascii", "replace")


class VisaWire:
    """A session of PyVISA: serial, USB, GPIB, VXI-11."""

    def __init__(self, address: str, timeout_s: float, termination: str) -> None:
        import pyvisa  # noqa: PLC0415 - slow to import, needed only with such a meter

        self._address = address
        self._session: Any = pyvisa.ResourceManager("@py").open_resource(
            address,
            timeout=round(1000 * timeout_s),
            read_termination=termination,
            write_termination=termination,
            # pyvisa-py reads in blocks of this size: large answers stay quick.
            chunk_size=_CHUNK,
        )

    def send(self, line: str) -> None:
        """Send one line."""
        try:
            self._session.write(line)
        except Exception as error:  # one boundary for the VISA backend's many kinds
            raise UnreachableError(f"the meter at {self._address} takes no commands") from error

    def ask(self, line: str) -> str:
        """Send one line and return the answer."""
        if self._is_unasked():
            raise UnreachableError(f"the meter at {self._address} sent what nobody asked for")
        try:
            return str(self._session.query(line))
        except Exception as error:  # one boundary for the VISA backend's many kinds
            raise UnreachableError(f"the meter at {self._address} stopped answering") from error

    def _is_unasked(self) -> bool:
        """Whether bytes wait before the question; only serial ports can say."""
        try:
            return bool(getattr(self._session, "bytes_in_buffer", 0))
        except Exception:  # the question itself will say what is wrong with the wire
            return False

    def break_off(self) -> None:
        """Nothing: the session's own timeout ends what waits."""

    def close(self) -> None:
        """Let go."""
        with contextlib.suppress(Exception):
            self._session.close()
