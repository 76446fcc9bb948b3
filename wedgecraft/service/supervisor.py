"""Starts database, workers and web processes, starts again what dies, and stops what it started."""

from __future__ import annotations

import errno
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from wedgecraft.logs import RotatedFile
from wedgecraft.service.state import (
    InUse,
    claim,
    database_url,
    prepare_database,
    prepare_state,
    session_key,
)
from wedgecraft.service.web import listen
from wedgecraft.store.cluster import Cluster, ClusterError

_LOOK_SECONDS = 0.5
_IN_MEMORY = Path("/dev/shm")  # noqa: S108
#: A process that ends sooner than this after its start is not started again at once.
_TOO_SOON_SECONDS = 2.0
_DATABASE_SECONDS = 5.0
_COMING = "coming web"
_LEFT_BEHIND_SECONDS = 12.0
#: Web processes that have been there so long are left in peace no more.
_SERVES_SECONDS = 20.0


class Children:
    """The processes that serve: web processes on one socket, and workers.

    A web process is started light, so that it serves at once, and makes way later for one that
    holds all it needs before it serves: loading the engine keeps a process from answering for a
    second or more, and nobody is to feel it.
    """

    def __init__(
        self,
        listening: socket.socket,
        https: bool,
        log: RotatedFile,
        counted: str,
        plans_at_once: int,
    ) -> None:
        self._socket, self._log = listening, log
        # Where web processes count together; in memory, as a full disk would bring down who writes
        # there.
        self._environment = os.environ | {"PROMETHEUS_MULTIPROC_DIR": counted}
        self._web = [
            "serve",
            "--supervised",
            "--socket",
            str(listening.fileno()),
            *(["--https"] if https else []),
        ]
        plans, quick = (
            ["worker", "--supervised", "--lane", "plans"],
            ["worker", "--supervised", "--lane", "quick"],
        )
        self._commands = {"web": [*self._web, "--light"], "plans": plans, "quick": quick}
        if (os.cpu_count() or 1) > 1:  # a web process that is busy never is the only one
            self._commands["second web"] = [*self._web, "--light"]
        self._commands |= {f"plans {number}": plans for number in range(2, plans_at_once + 1)}
        self._running: dict[str, subprocess.Popen[bytes]] = {}
        self._started: dict[str, float] = {}
        self._light: set[str] = set()
        self._leaving: list[subprocess.Popen[bytes]] = []
        self._heard = -1

    def keep(self) -> None:
        """Start what does not run; what keeps ending is given a moment between two starts."""
        for name in self._commands:
            child = self._running.get(name)
            if child is None:
                self.start(name)
            elif child.poll() is not None and self._age(name) > _TOO_SOON_SECONDS:
                print(f"The {name} process ended; starting it again.", file=sys.stderr, flush=True)
                self.start(name)
        self._exchange()

    def start(self, name: str) -> None:
        """One that comes back beside a web process that holds all it needs takes its time; else it
        is started light.
        """
        command = self._commands[name]
        if "web" in name:
            others = [
                other
                for other in self._running
                if "web" in other and other not in (name, _COMING, *self._light)
            ]
            self._light.discard(name)
            if any(self._running[other].poll() is None for other in others):
                command = self._web
            else:
                self._light.add(name)
        self._launch(name, command)

    def _launch(self, name: str, command: list[str], *files: int) -> None:
        self._started[name] = time.monotonic()
        self._running[name] = subprocess.Popen(
            [sys.executable, "-m", "wedgecraft.cli", *command],
            env=self._environment,
            stdout=self._log.write,
            stderr=self._log.write,
            stdin=subprocess.DEVNULL,
            start_new_session=True,
            pass_fds=[self._socket.fileno(), *files] if "web" in name else [],
        )

    def _age(self, name: str) -> float:
        """Seconds a process has been there; 0 when it is not."""
        child = self._running.get(name)
        return time.monotonic() - self._started[name] if child is not None else 0.0

    def _exchange(self) -> None:
        """One light web process after another, when all have been there for a while."""
        coming = self._running.get(_COMING)
        if coming is not None and coming.poll() is not None:
            os.close(self._heard)
            del self._running[_COMING]
        elif coming is not None and self._light and self._coming_serves():
            os.close(self._heard)
            name = self._light.pop()
            old = self._running.pop(name)
            old.terminate()
            self._leaving.append(old)
            self._running[name], self._started[name] = (
                self._running.pop(_COMING),
                self._started.pop(_COMING),
            )
        elif (
            coming is None
            and self._light
            and all(self._age(name) > _SERVES_SECONDS for name in self._commands if "web" in name)
        ):
            self._heard, told = os.pipe()
            os.set_blocking(self._heard, False)
            self._launch(_COMING, [*self._web, "--tell", str(told)], told)
            os.close(told)

    def _coming_serves(self) -> bool:
        """Whether the process that is coming has said that it serves."""
        try:
            return os.read(self._heard, 1) == b"1"
        except BlockingIOError:
            return False

    def end(self) -> None:
        """Ask all to stop, and after a while make them."""
        children = [*self._running.values(), *self._leaving]
        for child in children:
            if child.poll() is None:
                child.terminate()
        until = time.monotonic() + 15
        for child in children:
            try:
                child.wait(timeout=max(0.1, until - time.monotonic()))
            except subprocess.TimeoutExpired:
                child.kill()
                child.wait()
        self._running.clear()
        self._leaving.clear()
        self._light.clear()


class Supervisor:
    """One for each state folder."""

    def __init__(
        self, host: str, port: int, demo: bool, https: bool, plans_at_once: int | None = None
    ) -> None:
        self._host, self._port, self._demo, self._https = host, port, demo, https
        self._plans_at_once = plans_at_once or min(2, os.cpu_count() or 1)
        self._address = f"http://{f'[{host}]' if ':' in host else host}:{port}"
        self._stopping = False
        self._cluster: Cluster | None = None
        self._tried = 0.0

    def run(self) -> int:
        """Run until SIGINT or SIGTERM; the exit code."""
        folder = prepare_state()
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._stop)
        if self._answers():
            print(
                f"Something already serves {self._address}; stop it, or start with --port another.",
                file=sys.stderr,
            )
            return 1
        try:
            held = claim(folder)
            listening = self._listening()
        except InUse as error:
            print(error, file=sys.stderr)
            return 1
        except OSError as error:
            print(f"{self._address} cannot be listened on: {error.strerror}.", file=sys.stderr)
            return 1
        written = RotatedFile(folder / "wedgecraft.log")
        counted = tempfile.TemporaryDirectory(
            prefix="wedgecraft-counted-", dir=_IN_MEMORY if _IN_MEMORY.is_dir() else None
        )
        children = Children(listening, self._https, written, counted.name, self._plans_at_once)
        code = 0
        try:
            self._run(folder, children)
        except ClusterError as error:
            print(error, file=sys.stderr)
            code = 1
        finally:
            listening.close()
            children.end()
            # Whoever started the server: a supervisor that was killed before us left it running.
            stopped = self._cluster is None or self._cluster.stop()
            written.close()
            counted.cleanup()
            held.close()
        if not stopped:
            print(
                "Stopped, but the database server would not stop; its log says why.",
                file=sys.stderr,
            )
            return 1
        if code == 0:
            print("Stopped; everything is saved.", flush=True)
        return code

    def _listening(self) -> socket.socket:
        """Our address; what a supervisor that was killed left behind takes a few seconds to go.
        Raises OSError.
        """
        until = time.monotonic() + _LEFT_BEHIND_SECONDS
        while True:
            try:
                return listen(self._host, self._port)
            except OSError as error:
                if error.errno != errno.EADDRINUSE or time.monotonic() > until:
                    raise
            time.sleep(0.2)

    def _run(self, folder: Path, children: Children) -> None:
        session_key(folder)
        if not os.environ.get("WEDGECRAFT_DATABASE"):
            self._cluster = Cluster(folder / "postgres")
            self._cluster.settle()
        # The web process loads its libraries while server and tables are looked after; until then
        # it says it is not ready.
        children.start("web")
        expected = database_url()
        if self._cluster is not None:
            self._cluster.start()
        # the server had to move: the web process knows the old place
        if database_url() != expected:
            children.end()
        from wedgecraft.store.database import Database

        database = Database(database_url())
        prepare_database(database, self._demo)
        database.close()
        announced = False
        while not self._stopping:
            self._keep_database(children)
            children.keep()
            if not announced and self._answers("/api/ready"):
                announced = True
                print(
                    f"\n  Wedgecraft is ready:  {self._address}\n  Log: {folder / 'wedgecraft.log'}"
                    "    Stop: Ctrl-C\n",
                    flush=True,
                )
            time.sleep(_LOOK_SECONDS if announced else 0.1)

    def _keep_database(self, children: Children) -> None:
        """A server of ours that died is started again; while that fails (a full disk) it is tried
        again and again.
        """
        if (
            self._cluster is None
            or self._cluster.alive
            or time.monotonic() - self._tried < _DATABASE_SECONDS
        ):
            return
        self._tried = time.monotonic()
        print("The database server ended; starting it again.", file=sys.stderr, flush=True)
        expected = database_url()
        try:
            self._cluster.start()
        except ClusterError as error:
            print(error, file=sys.stderr, flush=True)
            return
        if database_url() != expected:
            children.end()

    def _answers(self, path: str = "/api/health") -> bool:
        with suppress(OSError), urllib.request.urlopen(self._address + path, timeout=1):  # noqa: S310
            return True
        return False

    def _stop(self, *_: object) -> None:
        self._stopping = True
