"""A web process: reads requests whole before any of its threads takes one up, so that slow clients
hold nobody.
"""

from __future__ import annotations

import importlib
import os
import signal
import socket
import sys
import time
from typing import Any

from waitress.task import ThreadedTaskDispatcher

from wedgecraft.service.connections import Channel, take_all_callers
from wedgecraft.service.state import database_url, pages_folder, prepare_state, session_key

#: Requests worked on at once; how many of them costly ones may take up is up to the lanes of the
#: service, always fewer.
THREADS = 16
_CONNECTIONS = 2000
_BACKLOG = 1024
_FINISH_SECONDS = 8.0
#: A thread that is ready to run waits this long for each other that runs; Python's own 5 ms add up
#: to a second with many at work.
_SWITCH_SECONDS = 0.0005


def listen(host: str, port: int) -> socket.socket:
    """The socket that web processes share: the one that starts again after another died finds
    callers waiting, not turned away.
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    made = socket.socket(family, socket.SOCK_STREAM)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    made.bind((host, port))
    made.listen(_BACKLOG)
    made.set_inheritable(True)
    return made


def serve(
    listening: socket.socket, https: bool, light: bool = False, tell: int | None = None
) -> None:
    """Serve until told to stop; what was begun is finished first.

    The engine's libraries are loaded before the first request is taken: loading holds a process for
    a second or more. ``light``: not before they are needed, so that a page is served at once.
    ``tell``: a file number at whose other end someone waits to hear that it serves.
    """
    import waitress

    from wedgecraft.api.app import create_app
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.database import Database

    sys.setswitchinterval(_SWITCH_SECONDS)
    leaving = _Leaving()
    database = Database(database_url())
    folder = prepare_state()
    app = create_app(database, Queue(database), session_key(folder), pages_folder(), https, folder)
    if not light:
        for name in (
            "wedgecraft.core.plan.bench",
            "wedgecraft.core.locate.report",
            "wedgecraft.core.hold.in_vise",
        ):
            importlib.import_module(name)
    # A proxy that speaks TLS says whose request it hands on; from anyone else such a word is worth
    # nothing.
    proxy = {
        "trusted_proxy": "127.0.0.1",
        "trusted_proxy_count": 1,
        "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
    }
    server = waitress.create_server(
        app,
        sockets=[listening],
        threads=THREADS,
        connection_limit=_CONNECTIONS,
        backlog=_BACKLOG,
        channel_timeout=60,
        cleanup_interval=5,
        asyncore_use_poll=True,
        ident="wedgecraft",
        max_request_header_size=32_768,
        max_request_body_size=45_000_000,
        inbuf_overflow=1_000_000,
        outbuf_overflow=4_000_000,
        clear_untrusted_proxy_headers=True,
        **(proxy if https else {}),
    )
    server.channel_class = Channel
    take_all_callers(server)
    if tell is not None:
        os.write(tell, b"1")
        os.close(tell)
    server.add_task = _Threads(server.task_dispatcher).add_task
    leaving.watch(server)
    server.run()


class _Threads:
    """The threads for requests, and one more for health alone: also while all others wait for a
    database that hangs, it is answered.
    """

    def __init__(self, threads: ThreadedTaskDispatcher) -> None:
        self._threads, self._own = threads, ThreadedTaskDispatcher()
        self._own.set_thread_count(1)

    def add_task(self, channel: Channel) -> None:
        asks_health = channel.requests and channel.requests[0].path == "/api/health"
        (self._own if asks_health else self._threads).add_task(channel)


class _Leaving:
    """Told to stop, a process takes no more callers, finishes what was begun, and then ends; or
    after a while in any case.
    """

    def __init__(self) -> None:
        self._server: Any = None
        self._until = 0.0
        signal.signal(signal.SIGTERM, self._told)

    def watch(self, server: Any) -> None:
        """From now on the server is asked to finish; before, there is nothing to."""
        self._server, self._readable = server, server.readable
        server.readable = self._looked_at

    def _told(self, *_: Any) -> None:
        if self._server is None:
            raise SystemExit(0)
        self._server.accepting = False
        self._until = time.monotonic() + _FINISH_SECONDS

    def _looked_at(self) -> bool:
        """The server's loop looks here at every turn, at least once a second."""
        if self._until:
            channels = list(self._server.active_channels.values())
            busy = any(
                channel.requests or channel.request is not None or channel.total_outbufs_len
                for channel in channels
            )
            if not busy or time.monotonic() > self._until:
                raise SystemExit(0)
        return bool(self._readable())


def inherited(number: int) -> socket.socket:
    """The supervisor's socket, by the number it was passed with."""
    return socket.socket(fileno=os.dup(number))
