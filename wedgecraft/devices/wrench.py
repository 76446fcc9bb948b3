"""A torque wrench that says every screw it tightened to whoever is connected."""

from __future__ import annotations

import json
import socketserver
import threading
from contextlib import suppress
from datetime import UTC, datetime


class Wrench:
    """On loopback, a line of JSON for each screw; ``close`` ends it."""

    def __init__(self, port: int = 0) -> None:
        wrench = self
        self._connected: list[socketserver.StreamRequestHandler] = []
        self._gone = threading.Event()

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                wrench._connected.append(self)
                wrench._gone.wait()

        self._server = socketserver.ThreadingTCPServer(("127.0.0.1", port), Handler)
        self._server.daemon_threads = True
        self.port: int = self._server.server_address[1]
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    @property
    def heard(self) -> int:
        """How many listen."""
        return len(self._connected)

    def say(self, station: int, torque_nm: float, at: datetime | None = None) -> None:
        """One screw was tightened."""
        said = {"at": (at or datetime.now(UTC)).isoformat(), "station": station}
        self.send(json.dumps(said | {"torque_nm": torque_nm}).encode() + b"\n")

    def send(self, data: bytes) -> None:
        """Whatever it says, right or wrong."""
        for one in list(self._connected):
            with suppress(OSError):
                one.wfile.write(data)
                one.wfile.flush()

    def close(self) -> None:
        """It is put away."""
        self._gone.set()
        self._server.shutdown()
        self._server.server_close()
