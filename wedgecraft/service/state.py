"""The folder in which an installation keeps its database, key and log, and who runs on it."""

from __future__ import annotations

import fcntl
import os
import re
import secrets
from pathlib import Path
from typing import IO, TYPE_CHECKING

from wedgecraft.store.cluster import Cluster
from wedgecraft.store.files import write_whole

if TYPE_CHECKING:
    from wedgecraft.store.database import Database

_KEY = re.compile(r"[0-9a-f]{64}")
#: As if so many of the same person went before it: in the queue behind whatever a person asks.
_AFTER_ALL = 1000


def state_folder() -> Path:
    """``WEDGECRAFT_STATE``, or a folder of the person who runs it."""
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
    """The key that signs cookies. Made once; made again where it was lost or spoilt, which signs
    everybody out and loses nothing else.
    """
    file = folder / "session-key"
    known = file.read_text(errors="replace").strip() if file.exists() else ""
    if not _KEY.fullmatch(known):
        known = secrets.token_hex(32)
        write_whole(file, known)
    return known


def database_url() -> str:
    """``WEDGECRAFT_DATABASE``, or our own cluster's."""
    return os.environ.get("WEDGECRAFT_DATABASE") or Cluster(state_folder() / "postgres").url


def pages_folder() -> Path | None:
    built = Path(__file__).resolve().parents[2] / "web" / "dist"
    return built if (built / "index.html").exists() else None


class InUse(RuntimeError):
    """Another supervisor runs on this folder; the message names its process."""


def claim(folder: Path) -> IO[str]:
    """Take a folder for one supervisor; given back when the file is closed or the process ends,
    however it ends. Raises InUse.
    """
    held = (folder / "supervisor").open("a+")
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        held.seek(0)
        raise InUse(
            f"{folder} is in use by process {held.read().strip() or 'unknown'}; stop that one"
            " first."
        ) from None
    held.truncate(0)
    held.write(str(os.getpid()))
    held.flush()
    return held


def prepare_database(database: Database, demo: bool) -> None:
    """Tables to the newest version, the queue's own, the shop's first entries, the demo once if
    wanted.
    """
    from wedgecraft.jobs.queue import Queue
    from wedgecraft.store import shop as shop_store

    database.upgrade()
    queue = Queue(database)
    queue.ensure_schema()
    with database.session() as session:
        shop_store.stock_up(session)
    runs: list[str] = []
    if demo:
        from wedgecraft.demo import shop

        with database.session() as session:
            runs += shop.load(session)
    for run_id in runs:
        queue.add(run_id, _AFTER_ALL)  # nobody waits for the demo's
    queue.close()
