"""A SCPI instrument's side of a loopback TCP port: a line in, a line or a block out."""

import socketserver
import threading
from collections.abc import Callable

Answer = Callable[[str], str | bytes | None]
"""Says something to a line, as text or as a binary block; None for commands."""


class LineServer:
    """Answers lines on a loopback port of its own, in a thread of its own."""

    def __init__(self, answer: Answer, name: str) -> None:
        self._server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), _handler(answer))
        self._server.daemon_threads = True
        threading.Thread(
            target=self._server.serve_forever, args=(0.05,), name=name, daemon=True
        ).start()

    @property
    def resource(self) -> str:
        """VISA address of the instrument."""
        return f"TCPIP::127.0.0.1::{self._server.server_address[1]}::SOCKET"

    def close(self) -> None:
        """Stop listening; safe to call twice."""
        self._server.shutdown()
        self._server.server_close()


def _handler(answer: Answer) -> type[socketserver.StreamRequestHandler]:
    class Handler(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            try:
                for line in self.rfile:
                    said = answer(line.decode("ascii", "replace"))
                    if said is not None:
                        block = said if isinstance(said, bytes) else said.encode("ascii")
                        self.wfile.write(block + b"\n")
            except ConnectionError:
                pass  # the reader went away; it may come back on a new connection

    return Handler
