"""A meter on a loopback socket that behaves badly on demand, one way at a time."""

import socket
import threading
import time

IDENTITY = "Sorrel Test,Hostile meter,0,1"
POLLED = """
name = "Hostile"
timeout_ms = 300
termination = "\\n"
[direct.power]
query = "POW?"
[direct.hertz]
query = "FREQ?"
"""
BUFFERED = """
name = "Hostile"
timeout_ms = 300
[buffer]
query = "DATA?"
columns = ["time", "power", "energy"]
"""


class HostileMeter:
    """Answers as ``mode`` says.

    Attributes:
        mode: "good", "hang", "late", "cut", "garbage", "long line", "flood", "nan", "overload",
            "frozen", "empty", "stray line", "close", "binary", "other device".
        identity: what it calls itself.
        late_s: how late it answers then.
        lines: questions received.
    """

    def __init__(self, mode="good", power_w=100.0):
        self.mode = mode
        self.power_w = power_w
        self.identity = IDENTITY
        self.late_s = 0.6
        self.started = time.monotonic()
        self.lines = []
        self._server = socket.create_server(("127.0.0.1", 0))
        self._over = threading.Event()
        threading.Thread(target=self._accept, daemon=True).start()

    @property
    def address(self):
        return f"TCPIP::127.0.0.1::{self._server.getsockname()[1]}::SOCKET"

    def reboot(self):
        """The meter's own time begins at zero again."""
        self.started = time.monotonic()

    def close(self):
        self._over.set()
        self._server.close()

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.close()

    def _accept(self):
        while not self._over.is_set():
            try:
                wire, _ = self._server.accept()
            except OSError:
                return
            threading.Thread(target=self._serve, args=(wire,), daemon=True).start()

    def _serve(self, wire):
        with wire, wire.makefile("rb") as lines:
            try:
                for line in lines:
                    question = line.decode().strip()
                    self.lines.append(question)
                    if question.endswith("?") and not self._answer(wire, question):
                        return
            except OSError:
                return

    def _answer(self, wire, question):
        """Send what the mode says; False where the connection is to be closed."""
        said = self._said(question)
        mode = self.mode if question != "*IDN?" else "good"
        if mode == "hang":
            return True
        if mode == "close":
            return False
        if mode == "late":
            time.sleep(self.late_s)
        elif mode == "cut":
            wire.sendall(said[: len(said) // 2])
            return False
        elif mode == "flood":
            self._flood(wire)
            return False
        elif mode == "stray line":
            said += b"\n60.0"
        wire.sendall(said + b"\n")
        return True

    def _flood(self, wire):
        chunk = b"9" * 1_000_000
        while self.mode == "flood" and not self._over.is_set():
            wire.sendall(chunk)

    def _said(self, question):
        special = {
            "garbage": b"***?!",
            "binary": bytes(range(128, 255)),
            "long line": b"1," * 5_000_000,
            "nan": b"nan,nan,nan" if question == "DATA?" else b"nan",
            "overload": b"1,9.91E37,9.9E37" if question == "DATA?" else b"9.91E37",
            "empty": b"",
        }
        if question == "*IDN?":
            return self.identity.encode()
        if self.mode in special:
            return special[self.mode]
        elapsed = time.monotonic() - self.started
        if question == "DATA?":
            energy = self.power_w * elapsed / 3600
            return f"{elapsed:.4f},{self.power_w},{energy:.5f}".encode()
        return {"POW?": f"{self.power_w}", "FREQ?": "60.0"}[question].encode()
