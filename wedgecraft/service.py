"""Running it all: the state folder, the web process, the worker, and the supervisor that starts and stops them together."""

from __future__ import annotations

import importlib
import logging
import os
import secrets
import signal
import subprocess
import sys
import threading
import time
import urllib.request
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wedgecraft.store.cluster import Cluster

if TYPE_CHECKING:
    from wedgecraft.store.database import Database

log = logging.getLogger(__name__)
_LOG_FORMAT = "%(asctime)s %(levelname)s %(name)s %(message)s"


def state_folder() -> Path:
    """Where this installation keeps its database, key and log: ``WEDGECRAFT_STATE``, or a folder of the person who runs it."""
    named = os.environ.get("WEDGECRAFT_STATE")
    if named:
        return Path(named)
    if os.geteuid() == 0:
        return Path("/var/lib/wedgecraft")
    return Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local/state") / "wedgecraft"


def prepare_state() -> Path:
    folder = state_folder()
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def session_key(folder: Path) -> str:
    """The key that signs sessions, made once."""
    file = folder / "session-key"
    if not file.exists():
        file.touch(mode=0o600)
        file.write_text(secrets.token_hex(32))
    return file.read_text()


def database_url() -> str:
    """``WEDGECRAFT_DATABASE``, or our own cluster's."""
    return os.environ.get("WEDGECRAFT_DATABASE") or Cluster(state_folder() / "postgres").url


def pages_folder() -> Path | None:
    built = Path(__file__).resolve().parent.parent / "web" / "dist"
    return built if (built / "index.html").exists() else None


def log_to_stderr(level: int = logging.INFO) -> None:
    logging.basicConfig(level=level, format=_LOG_FORMAT, stream=sys.stderr)
    logging.getLogger("alembic").setLevel(logging.WARNING)


def prepare_database(database: Database, demo: bool) -> None:
    """Tables to the newest version, the queue's own, and the demo shop once if wanted."""
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store import shop as shop_store

    database.upgrade()
    queue = Queue(database)
    queue.ensure_schema()
    with database.session() as session:
        shop_store.stock_up(session)
    if demo:
        from wedgecraft.demo import shop

        with database.session() as session:
            loaded = shop.load(session)
        for run_id in loaded:
            queue.add(run_id)
    queue.close()


def end_with_parent() -> None:
    """Stop when the supervisor is gone, even if it was killed: nothing keeps running behind anyone's back."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os.kill(os.getpid(), signal.SIGTERM)

    threading.Thread(target=watch, daemon=True).start()


def serve(host: str, port: int, https: bool) -> None:
    """Serve until told to stop."""
    from gunicorn.app.base import BaseApplication

    from wedgecraft.api.app import create_app
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.database import Database

    class Server(BaseApplication):
        def load_config(self) -> None:
            for key, value in {
                "bind": f"{host}:{port}",
                "workers": 1,
                "threads": 12,
                "worker_class": "gthread",
                "graceful_timeout": 10,
                "timeout": 60,
                "keepalive": 30,
                "accesslog": None,
                "loglevel": "warning",
                "control_socket_disable": True,
            }.items():
                if key in self.cfg.settings:
                    self.cfg.set(key, value)

        def load(self) -> Any:
            early = threading.Timer(3, importlib.import_module, ["wedgecraft.formats.dxf"])
            early.daemon = True  # once served, so that the first drawing does not wait for its reader's libraries
            early.start()
            database = Database(database_url())
            return create_app(database, Queue(database), session_key(prepare_state()), pages_folder(), https)

    Server().run()


def work() -> None:
    """Serve tasks; when the database goes away, wait for it and go on."""
    from procrastinate.exceptions import ProcrastinateException
    from psycopg import Error
    from sqlalchemy.exc import SQLAlchemyError

    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store.database import Database

    while True:
        database = Database(database_url())
        try:
            Queue(database).work()
            return
        except (ProcrastinateException, Error, SQLAlchemyError, OSError) as error:
            log.warning("worker: %s; trying again in 2 s", str(error).splitlines()[0] if str(error) else type(error).__name__)
            time.sleep(2)
        finally:
            database.close()


class Supervisor:
    """Starts database, worker and web process, restarts what dies, and stops what it started."""

    def __init__(self, host: str, port: int, demo: bool, https: bool) -> None:
        self._address = f"http://{host}:{port}"
        web = ["serve", "--supervised", "--host", host, "--port", str(port), *(["--https"] if https else [])]
        self._commands = {"web": web, "worker": ["worker", "--supervised"]}
        if (os.cpu_count() or 1) > 1:  # two plans at a time; more would leave nothing for who looks at them
            self._commands["second worker"] = ["worker", "--supervised"]
        self._demo = demo
        self._stopping = False
        self._cluster: Cluster | None = None
        self._children: dict[str, subprocess.Popen[bytes]] = {}

    def run(self) -> int:
        """Run until SIGINT or SIGTERM; the exit code."""
        folder = prepare_state()
        if self._answers():
            print(f"Something already serves {self._address}; stop it, or start with --port another.", file=sys.stderr)
            return 1
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._stop)
        log_file = (folder / "wedgecraft.log").open("ab")
        started = False
        try:
            session_key(folder)
            if not os.environ.get("WEDGECRAFT_DATABASE"):
                self._cluster = Cluster(folder / "postgres")
                self._cluster.settle()
            # The web process loads its libraries while server and tables are looked after; until then it says it is not ready.
            self._launch("web", log_file)
            expected = database_url()
            started = self._cluster is not None and self._cluster.start()
            if database_url() != expected:  # the server had to move: the web process knows the old place
                self._end_children()
            from wedgecraft.store.database import Database

            database = Database(database_url())
            prepare_database(database, self._demo)
            database.close()
            self._watch(log_file, folder)
        finally:
            self._end_children()
            if self._cluster is not None and started:
                self._cluster.stop()
        print("Stopped; everything is saved.")
        return 0

    def _watch(self, log_file: Any, folder: Path) -> None:
        announced = False
        while not self._stopping:
            for name in self._commands:
                child = self._children.get(name)
                if child is None or child.poll() is not None:
                    if child is not None:
                        print(f"The {name} process ended; starting it again.", file=sys.stderr)
                        time.sleep(1)
                    self._launch(name, log_file)
            if not announced and self._answers("/api/ready"):
                announced = True
                print(
                    f"\n  Wedgecraft is ready:  {self._address}\n  Log: {folder / 'wedgecraft.log'}    Stop: Ctrl-C\n", flush=True
                )
            time.sleep(0.5 if announced else 0.1)

    def _launch(self, name: str, log_file: Any) -> None:
        self._children[name] = subprocess.Popen(
            [sys.executable, "-m", "wedgecraft.cli", *self._commands[name]],
            stdout=log_file,
            stderr=log_file,
            stdin=subprocess.DEVNULL,
            start_new_session=True,
        )

    def _answers(self, path: str = "/api/health") -> bool:
        with suppress(OSError), urllib.request.urlopen(self._address + path, timeout=1):  # noqa: S310
            return True
        return False

    def _stop(self, *_: object) -> None:
        self._stopping = True

    def _end_children(self) -> None:
        for child in self._children.values():
            if child.poll() is None:
                child.terminate()
        for child in self._children.values():
            try:
                child.wait(timeout=15)
            except subprocess.TimeoutExpired:
                child.kill()
