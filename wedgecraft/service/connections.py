"""Connections: a request that does not arrive whole in time is given up, however slowly its bytes
drip in.
"""

from __future__ import annotations

import time
from typing import Any

from waitress.channel import HTTPChannel

#: From the first byte of a request to its last.
SECONDS = 60
#: Callers taken in a turn of the server's loop. One a turn, as the library has it, lets the last of
#: 200 wait for 200 turns.
_AT_ONCE = 100


def take_all_callers(server: Any) -> None:
    """Let a server take at one turn all who wait."""
    take_one = server.handle_accept

    def take() -> None:
        for _ in range(_AT_ONCE):
            there = len(server._map)
            take_one()
            if len(server._map) == there:
                return

    server.handle_accept = take


class Channel(HTTPChannel):
    """The server's idea of an idle connection is one without bytes; one that drips a byte a minute
    is as much of a burden.
    """

    _began: float | None = None

    def received(self, data: bytes) -> bool:
        """Take in what came. False: nothing did."""
        taken: Any = super().received(data)
        if self.request is None:
            self._began = None  # it has all arrived
        elif self._began is None:
            self._began = time.monotonic()
        return bool(taken)

    def readable(self) -> bool:
        """Whether more is to be read; a connection that takes too long is closed here, as the
        server looks round.
        """
        if self._began is not None and time.monotonic() - self._began > SECONDS:
            self.will_close = True
        return bool(super().readable())
